"""Answers about evidence: pages and lists of attempts, captures, spectra, budgets."""

from datetime import datetime
from typing import Literal

from rulvek.core.measure.steps import End, Mode
from rulvek.services.views.attempt import AttemptView, FindingView, PointView, SecondView
from rulvek.services.views.base import HistoryView, Page, View, view
from rulvek.services.views.campaign import RunView


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
class AttemptList(Page):
    """A page of attempts, the newest first."""

    items: list[AttemptRow]


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
