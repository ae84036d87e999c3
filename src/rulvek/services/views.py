"""What the use cases answer with. Watts are per channel (per pair where bridged); THD figures are percent here."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import ClassVar, Literal, TypeVar, dataclass_transform

from pydantic import ConfigDict

from rulvek.core.judgement.checks import Severity
from rulvek.core.judgement.claims import ClaimKind
from rulvek.core.judgement.verdict import VerdictKind
from rulvek.core.measure.steps import End, Mode
from rulvek.core.planning.equipment import SupplyPolicy

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
class InstrumentView(View):
    """An entry of the gear register; ``days_left`` until its calibration is due, null where it never is."""

    id: int
    role: str
    name: str
    serial: str
    accuracy: str
    calibrated_on: date | None
    due_on: date | None
    state: Literal["in use", "overdue", "replaced"]
    days_left: int | None
    entered_by: str
    entered_at: datetime


@view
class BoxView(View):
    """Dummy loads of one value."""

    ohms: float
    watts: float
    count: int


@view
class GearView(View):
    """The bench: what it has to offer, and what it reads with."""

    bench: str
    inputs: int
    supply_limit_amps: float
    bank_volts: float
    bank_milliohms: float
    cable: str
    boxes: list[BoxView]
    instruments: list[InstrumentView]


@view
class TypedChannelView(View):
    """One channel of a typed reading: its watts and how they come about; null where nothing was typed yet."""

    channel: int
    watts: float | None
    how: str


@view
class RunSpecView(View):
    """What people decide of a planned run."""

    mode: Mode
    group: str
    load_ohms: float
    bridged: bool
    tone_hz: float
    supply_volts: float
    burst: str


@view
class VerdictView(View):
    """A verdict on a claim, of one unit or (``unit_id`` null) of all units together."""

    claim_id: int
    unit_id: int | None
    kind: VerdictKind
    reason: str
    settle: str
    settling_run: RunSpecView | None
    settling_limit: float | None
    attempt_id: int | None
    watts: float | None
    expanded_watts: float | None
    estimate_low_watts: float | None
    estimate_high_watts: float | None
    doubts: list[str]


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
class ConnectionView(View):
    """A dummy load at one channel, or across a bridged pair."""

    channels: list[int]
    ohms: float


@view
class NotchView(View):
    """A claim on a reach bar."""

    claim_id: int
    watts: float
    document: str
    kind: ClaimKind
    verdict: VerdictKind
    doubted: bool


@view
class ReachView(View):
    """A reach bar: what a group gives at a load, and what is claimed there."""

    group: str
    load_ohms: float
    bridged: bool
    certified_watts: float | None
    expanded_watts: float | None
    at_limit: bool
    uncertified_watts: float | None
    uncertified_expanded_watts: float | None
    burst_watts: float | None
    burst_expanded_watts: float | None
    burst_largest_watts: float | None
    headroom_db: float | None
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
    policy: SupplyPolicy
    modes: list[Mode]
    created_by: str
    created_at: datetime
    minutes_left: float | None
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
class VoltagePointView(View):
    """A run's weakest watts at its loaded volts."""

    volts: float
    watts: float
    expanded_watts: float
    attempt_id: int


@view
class VoltageEstimateView(View):
    """Watts to be expected at a voltage, with the bounds of the fit; an estimate, never evidence."""

    volts: float
    watts: float
    low: float
    high: float


@view
class VoltageFitView(View):
    """How a unit's certified power at one load follows its supply; ``exponent`` null where that cannot be told."""

    group: str
    load_ohms: float
    bridged: bool
    exponent: float | None
    exponent_low: float
    exponent_high: float
    points: list[VoltagePointView]
    curve: list[VoltageEstimateView]
    at_claims: list[VoltageEstimateView]


@view
class UnitView(View):
    """A unit with its model's claims as it backs them."""

    unit: UnitRow
    model: ModelView
    voltage: list[VoltageFitView]
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
class EarlierColumnView(View):
    """A column of a table of earlier results, and what it is most likely to be; empty where that cannot be told."""

    name: str
    example: str
    field: str


@view
class TableView(View):
    """A table of earlier results as it came; ``needed`` are the fields that some column must be."""

    file: str
    columns: list[EarlierColumnView]
    rows: int
    needed: list[str]
    fields: list[str]


@view
class RowProblemView(View):
    """Why a row cannot be taken; rows count from 1, the heading's."""

    row: int
    what: str


@view
class EarlierReadingView(View):
    """A reading of a table, as it stands on record (or would: then without an attempt)."""

    row: int
    serial: str
    mode: Mode
    load_ohms: float
    bridged: bool
    weakest_watts: float
    expanded_watts: float | None
    findings: list[FindingView]
    attempt_id: int | None


@view
class EarlierView(View):
    """What a table gives; with any problem nothing of it can be kept."""

    readings: list[EarlierReadingView]
    problems: list[RowProblemView]
    more_problems: int


@view
class ColumnView(View):
    """A column of a recording; ``factor`` makes volts, amps or seconds of its numbers."""

    name: str
    unit: str
    factor: float


@view
class LayoutView(View):
    """How a recording's numbers are laid out, as far as its first lines tell; columns count from 0."""

    kind: Literal["wav", "csv"]
    columns: list[ColumnView]
    sample_rate: float | None
    separator: str
    decimal: str
    header_lines: int
    time_column: int | None
    preview: list[list[str]]


@view
class EnvelopeView(View):
    """A channel's extremes in even columns over the whole recording, in V."""

    channel: int
    lows: list[float]
    highs: list[float]


@view
class SectionView(View):
    """A stretch of one level, or one burst, in seconds; ``window`` is what was read of it."""

    start: float
    stop: float
    window: list[float]
    weakest_watts: float
    worst_thd_n_percent: float | None
    chosen: bool


@view
class FoundView(View):
    """What was found in a recording by itself."""

    kind: Literal["steady", "sweep", "bursts"]
    tone_hz: float
    seconds: float
    burst: str
    envelopes: list[EnvelopeView]
    sections: list[SectionView]


@view
class RecordingView(View):
    """A recorded file that waits to be read or kept; ``attempt`` is what would be put on record."""

    id: str
    name: str
    bytes: int
    state: Literal["laid out", "reading", "read", "failed", "stopped"]
    doing: str
    done: float
    problem: str
    layout: LayoutView
    found: FoundView | None
    attempt: AttemptView | None


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
class RunView(View):
    """A planned run with its attempts; ``chosen`` is the attempt that the sheet shows."""

    id: int
    position: int
    mode: Mode
    group: str
    channels: list[int]
    load_ohms: float
    bridged: bool
    tone_hz: float
    burst: str
    supply_volts: float
    companions: list[ConnectionView]
    exploratory: bool
    wiring: int
    predicted_watts: float | None
    predicted_amps: float | None
    predicted_minutes: float | None
    reason: str
    state: Literal["waiting", "running", "done"]
    attempts: list[AttemptView]
    chosen: AttemptView | None
    choice: ChoiceView | None
    differences: list[DifferenceView]
    headroom_db: float | None
    verdicts: list[VerdictView]


@view
class PreparationView(View):
    """An item of the list before power; ``deviations`` are the channels' gains in dB from their mean."""

    item: str
    state: Literal["open", "done", "skipped"]
    found: str
    deviations: list[float]
    by: str | None
    at: datetime | None


@view
class WiringView(View):
    """Which loads hang where at the same time; ``boxes`` says what each is made of, where the bench has it."""

    number: int
    connections: list[ConnectionView]
    boxes: list[str]
    exploratory: bool
    preparations: list[PreparationView]


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
    policy: SupplyPolicy
    modes: list[Mode]
    rewirings: int
    wirings: list[WiringView]
    thd_n_limit_percent: float
    uncertified_limit_percent: float
    gain_match_db: float
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
class ComponentView(View):
    """One line of an uncertainty budget; ``freedom`` null for limits that are taken as given."""

    name: str
    value: float
    unit: str
    distribution: str
    half_width: float
    divisor: float
    sensitivity: float
    watts: float
    freedom: float | None


@view
class BudgetView(View):
    """The uncertainty budget of the weakest channel, the largest contribution first."""

    channel: int
    watts: float
    standard_watts: float
    freedom: float | None
    coverage_factor: float
    expanded_watts: float
    components: list[ComponentView]


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
    budget: BudgetView | None
    seconds: list[SecondView]
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
    mode: Mode
    group: str
    load_ohms: float
    bridged: bool
    tone_hz: float
    number: int
    started_by: str
    started_at: datetime
    end: End | None
    at_limit: bool
    origin: Literal["bench", "typed", "recorded", "table"]
    findings: list[FindingView]
    weakest_watts: float | None
    expanded_watts: float | None
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
    state: Literal["idle", "preparing", "running"]
    supply_volts: float | None
    campaign_id: int | None
    attempt_id: int | None
    unit_serial: str | None
    model_name: str | None
    person: str | None
    holder: str | None
    asked_by: str | None
    asked_seconds_left: float | None


@view
class LoadHeatView(View):
    """A dummy load in a planned run: what it is made of, its watts and its temperature afterwards."""

    connection: ConnectionView
    boxes: str
    watts: float
    celsius: float | None


@view
class ObstacleView(View):
    """Why the bench cannot stand a run, and what would make it possible."""

    code: str
    what: str
    remedy: str


@view
class PlannedRunView(View):
    """A planned run with what it is expected to ask of the bench."""

    spec: RunSpecView
    under_test: list[ConnectionView]
    wiring: int
    exploratory: bool
    serves: list[int]
    reason: str
    watts: float
    basis: str
    amps: float
    volts_before: float
    volts_loaded: float
    cable_volts: float
    cable_watts: float
    fuse_percent: float | None
    fuse_stress_percent: float | None
    heat: list[LoadHeatView]
    minutes: float
    cooling_minutes: float
    obstacles: list[ObstacleView]


@view
class UnservedView(View):
    """A claim that a plan leaves without evidence."""

    claim_id: int
    group: str
    watts: float
    load_ohms: float
    bridged: bool
    kind: ClaimKind
    document: str


@view
class PlanView(View):
    """A plan that is not conducted yet."""

    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    series_name: str
    supply_low_volts: float
    supply_high_volts: float
    groups: list[GroupView]
    test_controls: list[str]
    bench: str
    runs: list[PlannedRunView]
    wirings: list[WiringView]
    rewirings: int
    fewest_rewirings: int
    wiring_minutes: float
    running_minutes: float
    cooling_minutes: float
    minutes: float
    unserved: list[UnservedView]


@view
class TypedView(View):
    """A typed reading worked out; ``complete`` when it can be kept."""

    channels: list[TypedChannelView]
    weakest_watts: float | None
    expanded_watts: float | None
    average_watts: float | None
    efficiency_percent: float | None
    sag_volts: float | None
    equivalent: str | None
    complete: bool
    findings: list[FindingView]


@view
class TypedKept(View):
    """Where a typed reading was kept."""

    attempt_id: int


@view
class FieldView(View):
    """A number that a calculator asks for."""

    name: str
    words: str
    example: float


@view
class NetworkView(View):
    """A network of dummy loads as a tree: one resistor, or parts in series or in parallel.

    ``watts`` is what it takes of the wanted power, ``most_watts`` what it stands.
    """

    kind: Literal["one", "series", "parallel"]
    how: str
    ohms: float
    most_watts: float
    watts: float
    parts: list["NetworkView"]


@view
class ComposedView(View):
    """The best networks for a wanted load; ``too_weak`` more have the value but not the power."""

    networks: list[NetworkView]
    too_weak: int


@view
class CalculatorView(View):
    """A calculator of the desk."""

    name: str
    title: str
    formula: str
    source: str
    caution: str
    fields: list[FieldView]


@view
class ResultView(View):
    """One line that a calculator answers with."""

    words: str
    value: str
