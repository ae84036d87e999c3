"""Answers about plans, campaigns and the bench."""

from datetime import datetime
from typing import Literal

from rulvek.core.judgement.claims import ClaimKind
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.equipment import SupplyPolicy
from rulvek.services.views.attempt import AttemptView, ChoiceView, DifferenceView
from rulvek.services.views.base import View, view
from rulvek.services.views.line import ClaimView, GroupView, ReachView, RunSpecView, VerdictView


@view
class ConnectionView(View):
    """A dummy load at one channel, or across a bridged pair."""

    channels: list[int]
    ohms: float


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
