"""Answers about evidence: pages and lists of attempts, captures, spectra, budgets."""

import math
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from rulvek.core.judgement.judged import JudgedAttempt
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.readings.burst_point import counted_cycles
from rulvek.core.records.campaigns import Campaign
from rulvek.core.records.outside import Origin
from rulvek.core.records.standing import standing_attempt
from rulvek.core.runs.modes import End, Mode
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.distortion import Band, analyse_tone, recorded_band
from rulvek.core.signals.spectrum import level_columns
from rulvek.services.views.attempt import AttemptView, FindingView, PointView, SecondView, finding_views, percent
from rulvek.services.views.base import HistoryView, Page, View, view
from rulvek.services.views.campaign import RunView

HARMONICS_SHOWN = 12


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
    method: dict[str, str | float | int | bool | list[float]]
    method_origins: dict[str, str]
    points: list[PointView]
    captures: list[CaptureView]
    rule: DecisionRule
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
    stands: bool
    origin: Origin
    simulated: bool
    findings: list[FindingView]
    weakest_watts: float | None
    expanded_watts: float | None
    supply_volts: float | None


@view
class AttemptList(Page):
    """A page of attempts, the newest first; those that cannot be read name themselves."""

    items: list[AttemptRow]
    unreadable: list[str]


def attempt_row(judged: JudgedAttempt, campaign: Campaign, model_name: str) -> AttemptRow:
    """An attempt in the list of evidence."""
    attempt, spec, ending = judged.attempt, judged.run.spec, judged.attempt.ending
    standing = standing_attempt(judged.run)
    return AttemptRow(
        id=attempt.id,
        campaign_id=campaign.id,
        unit_serial=campaign.unit.serial,
        model_name=model_name,
        mode=spec.mode,
        group=spec.group,
        load_ohms=spec.load_ohms,
        bridged=spec.bridged,
        tone_hz=spec.tone_hz,
        number=attempt.number,
        started_by=attempt.started_by,
        started_at=attempt.started_at,
        end=ending.end if ending else None,
        at_limit=judged.at_limit,
        stands=standing is not None and standing.id == attempt.id,
        origin=attempt.origin,
        simulated=attempt.simulated,
        findings=finding_views(judged.question),
        weakest_watts=attempt.weakest_watts,
        expanded_watts=judged.weakest_expanded,
        supply_volts=ending.supply_volts if ending else None,
    )


def budget_view(judged: JudgedAttempt) -> BudgetView | None:
    """The budget of the weakest channel, as a table; None where nothing was read."""
    weakest = judged.attempt.weakest
    budget = judged.budget(weakest) if weakest else None
    if weakest is None or budget is None:
        return None
    return BudgetView(
        channel=weakest.channel,
        watts=budget.estimate,
        standard_watts=budget.standard,
        freedom=_finite(budget.freedom),
        coverage_factor=budget.coverage_factor,
        expanded_watts=budget.expanded,
        components=[
            ComponentView(
                name=c.name,
                value=c.value,
                unit=c.unit,
                distribution=c.distribution,
                half_width=c.half_width,
                divisor=c.divisor,
                sensitivity=c.sensitivity,
                watts=c.watts,
                freedom=_finite(c.freedom),
            )
            for c in budget.components
        ],
    )


def _finite(freedom: float) -> float | None:
    return None if math.isinf(freedom) else freedom


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


def wave_view(channel: int, volts: NDArray[np.float64], rate: float, tone_hz: float, cycles: float = 3.0) -> WaveView:
    """A few cycles from the middle of a record."""
    count = max(2, min(volts.size, round(cycles * rate / tone_hz)))
    start = (volts.size - count) // 2
    stride = max(1, count // 1200)
    part = volts[start : start + count : stride]
    milliseconds = np.arange(part.size) * stride / rate * 1000
    return WaveView(channel=channel, milliseconds=_rounded(milliseconds, 5), volts=_rounded(part, 4))


def spectrum_view(
    channel: int, volts: NDArray[np.float64], rate: float, tone_hz: float, band: Band, burst: BurstProfile | None
) -> SpectrumView:
    """Levels up to the band's limit, or to where the record ends, with the harmonics marked.

    The silence around a burst is no part of its spectrum.
    """
    band = recorded_band(band, tone_hz, rate)
    if burst is not None:
        counted = counted_cycles(volts, rate, burst)
        volts = volts if counted is None else counted
    tone = analyse_tone(volts, rate, band=band, tone_hz=tone_hz, coherent=True)
    hz, db = level_columns(volts, rate, band.low_hz, band.high_hz, tone.fundamental_volts)
    return SpectrumView(
        channel=channel,
        hz=_rounded(hz, 2),
        db=_rounded(db, 2),
        fundamental_hz=tone.fundamental_hz,
        fundamental_volts=tone.fundamental_volts,
        thd_percent=100 * tone.thd,
        thd_n_percent=percent(tone.thd_n) or 0.0,
        harmonics=[
            HarmonicView(order=order, hz=order * tone.fundamental_hz, db=level)
            for order, level in enumerate(tone.harmonics_db[:HARMONICS_SHOWN], 2)
        ],
    )


def _rounded(values: NDArray[np.float64], digits: int) -> list[float]:
    return np.round(values, digits).tolist()  # type: ignore[no-any-return]
