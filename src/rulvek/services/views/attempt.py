"""Answers about one attempt: its readings, findings, points and steps."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal

from rulvek.core.electrical.loads import off_nominal, watts_at_nominal
from rulvek.core.judgement.checks import Severity, disagree, error_number
from rulvek.core.judgement.findings import Question, second_pairs
from rulvek.core.judgement.judged import JudgedAttempt
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.point import Point
from rulvek.core.records.attempts import Attempt, Reading, ReadingWithdrawal, Remark
from rulvek.core.records.outside import Origin
from rulvek.core.records.points import point_from
from rulvek.core.runs.modes import End
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
    expanded_watts: float | None


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
    disagrees: bool
    by: str
    at: datetime


@view
class AttemptView(View):
    """An attempt with its figures; null where there was no reading or the supply was not measured."""

    id: int
    number: int
    origin: Origin
    read_again: str
    simulated: bool
    instrument: str
    file: str
    cause: str | None
    reason: str
    circumstances: list[str]
    remarks: list[Remark]
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
    average_expanded_watts: float | None
    expanded_watts: float | None
    bracket_db: float | None
    level_dbv: float | None
    start_volts: float | None
    supply_volts: float | None
    supply_lowest: float | None
    sag_volts: float | None
    sag_expanded_volts: float | None
    supply_amps: float | None
    efficiency_percent: float | None
    efficiency_expanded_percent: float | None
    temperature_c: float | None
    load_c: float | None
    tripped_watts: float | None
    largest_watts: float | None
    companions_full: bool | None
    equivalent: str | None
    withdrawn: ReadingWithdrawal | None


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
    peak_volts: float


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


def attempt_view(judged: JudgedAttempt) -> AttemptView:
    """An attempt, as people see it."""
    attempt, ending = judged.attempt, judged.attempt.ending
    share = judged.efficiency
    return AttemptView(
        id=attempt.id,
        simulated=attempt.simulated,
        number=attempt.number,
        origin=attempt.origin,
        read_again=attempt.read_again,
        file=attempt.outside.file if attempt.outside else "",
        instrument=attempt.instruments.output_name,
        cause=attempt.cause,
        reason=attempt.reason,
        circumstances=attempt.circumstances,
        findings=finding_views(judged.question),
        withdrawn=attempt.withdrawn,
        remarks=list(attempt.remarks),
        started_by=attempt.started_by,
        started_at=attempt.started_at,
        end=ending.end if ending else None,
        at_limit=judged.at_limit,
        fault=ending.fault if ending else "",
        seconds=ending.seconds if ending else None,
        readings=[_reading_view(reading, judged.expanded[reading.channel]) for reading in attempt.readings],
        weakest_watts=attempt.weakest_watts,
        average_watts=judged.average_watts,
        average_expanded_watts=judged.average_expanded,
        expanded_watts=judged.weakest_expanded,
        bracket_db=ending.bracket_db if ending else None,
        level_dbv=ending.level_dbv if ending else None,
        start_volts=ending.start_volts if ending else None,
        supply_volts=ending.supply_volts if ending else None,
        supply_lowest=ending.supply_lowest if ending else None,
        sag_volts=judged.sag_volts,
        sag_expanded_volts=judged.sag_expanded,
        supply_amps=ending.supply_amps if ending else None,
        efficiency_percent=percent(share),
        efficiency_expanded_percent=percent(judged.efficiency_expanded),
        temperature_c=ending.temperature_c if ending else None,
        load_c=ending.load_c if ending else None,
        tripped_watts=ending.tripped_watts if ending else None,
        largest_watts=ending.largest_watts if ending else None,
        companions_full=ending.companions_full if ending else None,
        equivalent=equivalent_words(judged.equivalent),
    )


def finding_views(question: Question) -> list[FindingView]:
    """Findings as people see them, those set aside with who did so and why."""
    return [
        FindingView(
            code=finding.code,
            severity=finding.severity,
            message=finding.message,
            advice=finding.advice,
            overruled_by=aside.by if aside else None,
            overruled_because=aside.reason if aside else "",
        )
        for finding, aside in question.findings
    ]


def second_views(attempt: Attempt, method: MethodProfile) -> list[SecondView]:
    """Second readings as people see them, each with its E_n."""
    return [
        SecondView(
            channel=pair.channel,
            instrument=pair.instrument,
            watts=pair.other_watts,
            expanded_watts=pair.other_expanded,
            first_watts=pair.watts,
            first_expanded_watts=pair.expanded,
            normalised_error=error_number(pair),
            disagrees=disagree(pair),
            by=second.by,
            at=second.at,
        )
        for second, pair in second_pairs(attempt, method)
    ]


def equivalent_words(equivalent: tuple[int, float, float] | None) -> str | None:
    """“4 × 98.2 W at 2 Ω”."""
    if equivalent is None:
        return None
    channels, watts, ohms = equivalent
    return f"{channels} × {watts:.1f} W at {ohms:g} Ω"


def _reading_view(reading: Reading, expanded_watts: float | None) -> ReadingView:
    load = reading.load
    return ReadingView(
        channel=reading.channel,
        watts=reading.watts,
        volts_rms=reading.volts_rms,
        thd_n_percent=percent(reading.thd_n),
        thd_percent=percent(reading.thd),
        load_nominal=load.nominal_ohms,
        load_measured=load.measured_ohms,
        nominal_watts=watts_at_nominal(reading.watts, load.measured_ohms, load.nominal_ohms),
        load_off_percent=100 * off_nominal(load.nominal_ohms, load.measured_ohms),
        expanded_watts=expanded_watts,
    )


def percent(ratio: float | None) -> float | None:
    """A ratio in percent."""
    return None if ratio is None else 100 * ratio


def point_view(data: Mapping[str, Any]) -> PointView:
    """A stored point, as people see it."""
    return read_point_view(point_from(data), data["phase"], data["over_limit"])


def read_point_view(point: Point, phase: str, over_limit: bool) -> PointView:
    """A point, as people see it."""
    tones = [channel.thd_n for channel in point.channels]
    return PointView(
        level_dbv=point.level_dbv,
        phase=phase,
        over_limit=over_limit,
        channels=[
            ChannelPointView(
                channel=c.channel,
                watts=c.watts,
                volts_rms=c.volts_rms,
                thd_n_percent=percent(c.thd_n),
                clipped_share=c.clipped_share,
            )
            for c in point.channels
        ],
        weakest_watts=point.weakest_watts,
        average_watts=point.average_watts,
        worst_thd_n_percent=None if None in tones else 100 * point.worst_thd_n,
        supply_volts=point.supply_volts,
        supply_lowest=point.supply_lowest,
        supply_amps=point.supply_amps,
        efficiency_percent=percent(point.efficiency),
        temperature_c=point.temperature_c,
        load_c=point.load_c,
    )


def step_view(identity: int, attempt_id: int, kind: str, at_seconds: float, data: Mapping[str, Any]) -> StepView:
    """A stored step, as watchers see it."""
    return StepView(
        id=identity,
        attempt_id=attempt_id,
        kind=kind,  # type: ignore[arg-type]  # only the attempt log writes steps, of these kinds
        at_seconds=at_seconds,
        level_dbv=data.get("level_dbv"),
        waiting=data.get("waiting", ""),
        start_volts=data.get("start_volts"),
        clamp_zero_amps=data.get("clamp_zero_amps"),
        point=point_view(data) if kind == "point" else None,
        pulses=_pulses_view(data["pulses"]) if "pulses" in data else None,
        end=End(data["end"]) if kind == "finished" else None,
        fault=data.get("fault", ""),
    )


def _pulses_view(data: Mapping[str, Any]) -> PulsesView:
    return PulsesView(
        channel=data["channel"],
        milliseconds=1000 * data["seconds"],
        volts=data["volts"],
        peak_volts=max(map(abs, data["volts"]), default=0.0),
        windows_ms=[[1000 * start, 1000 * stop] for start, stop in data["windows"]],
    )
