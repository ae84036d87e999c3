"""What the use cases answer with. Watts are per channel (per pair where bridged); THD figures are percent here."""

from dataclasses import dataclass
from datetime import datetime
from typing import ClassVar, Literal, TypeVar, dataclass_transform

from pydantic import ConfigDict

from rulvek.core.judgement.claims import ClaimKind
from rulvek.core.judgement.verdict import VerdictKind
from rulvek.core.measure.steps import End

T = TypeVar("T")


class View:
    """Base of all answers. A number that is not finite is a fault, never an answer: null must not mean two things."""

    __pydantic_config__: ClassVar[ConfigDict] = ConfigDict(allow_inf_nan=False)


@dataclass_transform(kw_only_default=True, frozen_default=True)
def view(cls: type[T]) -> type[T]:
    """A frozen dataclass whose fields are given by name."""
    return dataclass(frozen=True, kw_only=True)(cls)


@view
class GroupView(View):
    """A channel group and what it is rated for, in Ω."""

    name: str
    channels: list[int]
    rated_loads: list[float]
    bridged_loads: list[float]
    bass: bool


@view
class WithdrawalView(View):
    """Why a claim is no longer made."""

    reason: str
    by: str
    at: datetime


@view
class VerdictView(View):
    """A verdict on a claim, of one unit or (``unit_id`` null) of all units together."""

    claim_id: int
    unit_id: int | None
    kind: VerdictKind
    reason: str
    settle: str
    attempt_id: int | None
    watts: float | None
    expanded_watts: float | None
    estimate_low_watts: float | None
    estimate_high_watts: float | None


@view
class ClaimView(View):
    """A published figure with its conditions, its contradictions and its verdicts."""

    id: int
    group: str
    document: str
    watts: float
    load_ohms: float
    bridged: bool
    kind: ClaimKind
    supply_volts: float | None
    thd_n_percent: float | None
    band_low_hz: float | None
    band_high_hz: float | None
    missing_conditions: list[str]
    added_by: str
    added_at: datetime
    withdrawn: WithdrawalView | None
    conflicts_with: list[int]
    verdict: VerdictView | None
    unit_verdicts: list[VerdictView]


@view
class NotchView(View):
    """A claim on a reach bar."""

    claim_id: int
    watts: float
    document: str
    kind: ClaimKind
    verdict: VerdictKind


@view
class ReachView(View):
    """A reach bar: what a group gives at a load, and what is claimed there."""

    group: str
    load_ohms: float
    bridged: bool
    certified_watts: float | None
    expanded_watts: float | None
    at_limit: bool
    supply_volts: float | None
    unit_serial: str | None
    attempt_id: int | None
    notches: list[NotchView]


@view
class ModelRow(View):
    """A model on the line board."""

    id: int
    name: str
    topology: str
    description: str
    regulated: bool
    channels: int
    units: int
    tested_units: int
    reaches: list[ReachView]
    attention: list[str]
    states: list[VerdictKind]


@view
class SeriesView(View):
    """A series with its models."""

    id: int
    name: str
    purpose: str
    models: list[ModelRow]


@view
class LineView(View):
    """The product line."""

    series: list[SeriesView]
    last_step_id: int


@view
class CampaignRow(View):
    """A campaign in a list."""

    id: int
    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    bench: str
    supply_volts: float
    created_by: str
    created_at: datetime
    runs: int
    runs_done: int
    running: bool


@view
class UnitRow(View):
    """A unit in a model's list."""

    id: int
    serial: str
    lot: str
    revision: str
    origin: str
    received_at: datetime
    campaigns: list[CampaignRow]
    reaches: list[ReachView]
    verdicts: list[VerdictView]


@view
class ModelView(View):
    """A model with claims, units and what they gave."""

    id: int
    name: str
    series_name: str
    topology: str
    description: str
    regulated: bool
    supply_low_volts: float
    supply_high_volts: float
    sensitivity_volts: float
    test_controls: list[str]
    groups: list[GroupView]
    claims: list[ClaimView]
    units: list[UnitRow]
    reaches: list[ReachView]


@view
class UnitView(View):
    """A unit with its model's claims as it backs them."""

    unit: UnitRow
    model: ModelView
    history: list["HistoryView"]


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
    load_off_percent: float
    expanded_watts: float


@view
class AttemptView(View):
    """An attempt with its figures; null where there was no reading or the supply was not measured."""

    id: int
    number: int
    reason: str
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
    tripped_watts: float | None


@view
class CompanionView(View):
    """A channel that is loaded and driven while others are read."""

    channel: int
    load_ohms: float


@view
class RunView(View):
    """A planned run with its attempts; ``chosen`` is the attempt that the sheet shows."""

    id: int
    position: int
    mode: str
    group: str
    channels: list[int]
    load_ohms: float
    bridged: bool
    tone_hz: float
    supply_volts: float
    companions: list[CompanionView]
    reason: str
    state: Literal["waiting", "running", "done"]
    attempts: list[AttemptView]
    chosen: AttemptView | None
    verdicts: list[VerdictView]


@view
class CampaignView(View):
    """A campaign with its runs, as the live bench and the sheet show it."""

    id: int
    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    series_name: str
    test_controls: list[str]
    bench: str
    supply_volts: float
    thd_n_limit_percent: float
    reference_volts: float
    method_name: str
    created_by: str
    created_at: datetime
    runs: list[RunView]
    claims: list[ClaimView]
    reaches: list[ReachView]
    last_step_id: int


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


@view
class StepView(View):
    """What happened in an attempt. Which of the optional parts is there depends on the kind."""

    id: int
    attempt_id: int
    kind: Literal["prepared", "level", "point", "finished"]
    at_seconds: float
    level_dbv: float | None
    start_volts: float | None
    clamp_zero_amps: float | None
    point: PointView | None
    end: End | None
    fault: str


@view
class HistoryView(View):
    """An entry of the audit chain."""

    at: datetime
    person: str
    action: str
    detail: str
    hash: str


@view
class CaptureView(View):
    """A kept capture file and whether it is still what was kept."""

    id: int
    path: str
    sha256: str
    bytes: int
    kept_at: datetime
    intact: bool


@view
class AttemptPage(View):
    """Everything on one attempt."""

    attempt: AttemptView
    run: RunView
    campaign_id: int
    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    bench: dict[str, str]
    clamp_zero_amps: float | None
    method: dict[str, str | float | bool]
    method_origins: dict[str, str]
    points: list[PointView]
    captures: list[CaptureView]
    history: list[HistoryView]


@view
class AttemptRow(View):
    """An attempt in the list of evidence."""

    id: int
    campaign_id: int
    unit_serial: str
    model_name: str
    mode: str
    group: str
    load_ohms: float
    bridged: bool
    tone_hz: float
    number: int
    started_by: str
    started_at: datetime
    end: End | None
    weakest_watts: float | None
    supply_volts: float | None


@view
class Page(View):
    """Position in a list: give ``next`` as ``before`` to read on; null at the end."""

    next: int | None


@view
class AttemptList(Page):
    """A page of attempts, the newest first."""

    items: list[AttemptRow]


@view
class CampaignList(Page):
    """A page of campaigns, the newest first."""

    items: list[CampaignRow]


@view
class WaveView(View):
    """A few cycles of a kept capture."""

    channel: int
    milliseconds: list[float]
    volts: list[float]


@view
class HarmonicView(View):
    """A harmonic by its order, in dB re the fundamental."""

    order: int
    hz: float
    db: float


@view
class SpectrumView(View):
    """Levels in dB re the fundamental; each column holds the highest bin in it."""

    channel: int
    hz: list[float]
    db: list[float]
    fundamental_hz: float
    fundamental_volts: float
    thd_percent: float
    thd_n_percent: float
    harmonics: list[HarmonicView]


@view
class BenchView(View):
    """What the bench is doing."""

    name: str
    state: Literal["idle", "running"]
    supply_volts: float | None
    campaign_id: int | None
    attempt_id: int | None
    unit_serial: str | None
    model_name: str | None
    person: str | None
