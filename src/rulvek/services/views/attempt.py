"""Answers about one attempt: its readings, findings, points and steps."""

from datetime import datetime
from typing import Literal

from rulvek.core.judgement.checks import Severity
from rulvek.core.measure.steps import End
from rulvek.services.views.base import View, view


@view
class ReadingView(View):
    """One channel's reading."""

    channel: int
    watts: float
    volts_rms: float
    thd_n_percent: float | None
    thd_percent: float | None
    load_nominal: float
    load_measured: float
    nominal_watts: float
    load_off_percent: float
    expanded_watts: float


@view
class RemarkView(View):
    """What somebody noted about an attempt."""

    text: str
    by: str
    at: datetime


@view
class FindingView(View):
    """What a check found in a reading, and who set it aside, if anybody did."""

    code: str
    severity: Severity
    message: str
    advice: str
    overruled_by: str | None
    overruled_because: str


@view
class SecondView(View):
    """What another instrument read of a channel, beside the reading that counts; U is of the instruments alone.

    ``normalised_error`` is E_n, null where neither instrument has an uncertainty; beyond ±1 the two disagree.
    """

    channel: int
    instrument: str
    watts: float
    expanded_watts: float
    first_watts: float
    first_expanded_watts: float
    normalised_error: float | None
    by: str
    at: datetime


@view
class AttemptView(View):
    """An attempt with its figures; null where there was no reading or the supply was not measured."""

    id: int
    number: int
    origin: Literal["bench", "typed", "recorded", "table"]
    instrument: str
    file: str
    cause: str | None
    reason: str
    skipped: list[str]
    remarks: list[RemarkView]
    findings: list[FindingView]
    started_by: str
    started_at: datetime
    end: End | None
    at_limit: bool
    fault: str
    seconds: float | None
    readings: list[ReadingView]
    weakest_watts: float | None
    average_watts: float | None
    expanded_watts: float | None
    bracket_db: float | None
    level_dbv: float | None
    start_volts: float | None
    supply_volts: float | None
    supply_lowest: float | None
    sag_volts: float | None
    supply_amps: float | None
    efficiency_percent: float | None
    temperature_c: float | None
    load_c: float | None
    tripped_watts: float | None
    largest_watts: float | None
    equivalent: str | None


@view
class ChoiceView(View):
    """Who chose the attempt that stands for a run, and why."""

    attempt_id: int
    reason: str
    by: str
    at: datetime


@view
class DifferenceView(View):
    """How another attempt's weakest channel differs from the chosen one's."""

    attempt_id: int
    db: float
    percent: float


@view
class ChannelPointView(View):
    """One channel at one point of a run."""

    channel: int
    watts: float
    volts_rms: float
    thd_n_percent: float | None
    clipped_share: float


@view
class PointView(View):
    """One point of a run."""

    level_dbv: float
    phase: str
    over_limit: bool
    channels: list[ChannelPointView]
    weakest_watts: float
    average_watts: float
    worst_thd_n_percent: float | None
    supply_volts: float | None
    supply_lowest: float | None
    supply_amps: float | None
    efficiency_percent: float | None
    temperature_c: float | None
    load_c: float | None


@view
class PulsesView(View):
    """A record of bursts in few, evenly spaced points, and the windows that are read."""

    channel: int
    milliseconds: float
    volts: list[float]
    windows_ms: list[list[float]]


@view
class StepView(View):
    """What happened in an attempt. Which of the optional parts is there depends on the kind."""

    id: int
    attempt_id: int
    kind: Literal["waiting", "prepared", "level", "point", "finished"]
    at_seconds: float
    waiting: str
    level_dbv: float | None
    start_volts: float | None
    clamp_zero_amps: float | None
    point: PointView | None
    pulses: PulsesView | None
    end: End | None
    fault: str
