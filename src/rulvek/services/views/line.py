"""Answers about the line: models, units, claims, verdicts, reach bars and voltage fits."""

from datetime import datetime

from rulvek.core.judgement.claims import ClaimKind
from rulvek.core.judgement.verdict import VerdictKind
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.equipment import SupplyPolicy
from rulvek.services.views.base import HistoryView, Page, View, view


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
    history: list[HistoryView]


@view
class CampaignList(Page):
    """A page of campaigns, the newest first."""

    items: list[CampaignRow]
