"""What a unit's evidence comes to, and a model's: kept as it is concluded, worked out afresh when anything changed."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from rulvek.core.electrical.supply import VoltageFit
from rulvek.core.judgement.claims import conflicts
from rulvek.core.judgement.comparisons import Comparison, comparisons
from rulvek.core.judgement.evidence import Evidence, UnitEvidence
from rulvek.core.judgement.reach import Reach, unit_reaches, weakest_reaches
from rulvek.core.judgement.verdict import DecisionRule, Verdict, VerdictKind, gravest, judge
from rulvek.core.judgement.voltage import fit_key
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.product import Model
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import Place, same_place

CURVE_STEPS = 30
SHOWN_FROM_VOLTS = 0.5  # a chart against volts says something from about half a volt on


@dataclass(frozen=True, slots=True)
class VoltagePoint:
    """A run's weakest watts at its loaded volts."""

    volts: float
    watts: float
    expanded_watts: float
    attempt_id: int


@dataclass(frozen=True, slots=True)
class VoltageEstimate:
    """Watts to be expected at a voltage, with the bounds of the fit; an estimate, never evidence."""

    volts: float
    watts: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class VoltageCurve:
    """How a unit's certified power at one load follows its supply; ``exponent`` None where that cannot be told."""

    group: str
    load_ohms: float
    bridged: bool
    exponent: float | None
    exponent_low: float
    exponent_high: float
    character: Literal["regulated", "unregulated", ""]
    points: tuple[VoltagePoint, ...]
    curve: tuple[VoltageEstimate, ...]
    at_claims: tuple[VoltageEstimate, ...]


@dataclass(frozen=True, slots=True)
class UnitConclusion:
    """What one unit comes to. Nothing of it depends on the day or on other units."""

    unit_id: int
    serial: str
    tested: bool
    verdicts: tuple[Verdict, ...]
    reaches: tuple[Reach, ...]
    comparisons: tuple[Comparison, ...] = ()


@dataclass(frozen=True, slots=True)
class ModelConclusion:
    """What a model's units come to together."""

    model_id: int
    units: int
    tested_units: int
    verdicts: tuple[Verdict, ...]
    reaches: tuple[Reach, ...]
    attention: tuple[str, ...]


def conclude_unit(
    unit: Unit, shown: UnitEvidence, model: Model, method: MethodProfile, rule: DecisionRule
) -> UnitConclusion:
    """Judge every standing claim by what a unit has shown, and draw what it gives; see :func:`judge` of ``method``."""
    against = conflicts(model.standing_claims)
    verdicts = tuple(
        judge(claim, shown.evidence, method, against.get(claim.id, ()), rule) for claim in model.standing_claims
    )
    return UnitConclusion(
        unit_id=unit.id,
        serial=unit.serial,
        tested=bool(shown.evidence),
        verdicts=verdicts,
        reaches=unit_reaches(model.places, shown.evidence, unit.serial),
        comparisons=comparisons(shown.evidence, method),
    )


def conclude_model(
    model: Model, units: Sequence[UnitConclusion], method: MethodProfile, rule: DecisionRule
) -> ModelConclusion:
    """Put a model's units together: the gravest verdict on each claim, the weakest unit at each load."""
    against = conflicts(model.standing_claims)
    verdicts = []
    for place, claim in enumerate(model.standing_claims):
        mine = [unit.verdicts[place] for unit in units]
        if not mine:
            mine = [judge(claim, (), method, against.get(claim.id, ()), rule)]
        kind = gravest(verdict.kind for verdict in mine)
        verdicts.append(next(verdict for verdict in mine if verdict.kind is kind))
    return ModelConclusion(
        model_id=model.id,
        units=len(units),
        tested_units=sum(unit.tested for unit in units),
        verdicts=tuple(verdicts),
        reaches=weakest_reaches(model.places, (unit.reaches for unit in units)),
        attention=_attention(model.standing_claims, verdicts, len(against), sum(not unit.tested for unit in units)),
    )


def _attention(
    claims: Iterable[Claim], verdicts: Iterable[Verdict], conflicting: int, untested: int
) -> tuple[str, ...]:
    """What someone should look at, in short sentences."""
    notes = []
    short = sum(verdict.kind is VerdictKind.SHORT for verdict in verdicts)
    if short:
        notes.append(f"{short} claim{'s' if short > 1 else ''} short")
    if conflicting:
        notes.append(f"{conflicting} claims conflict")
    vague = sum(c.supply_volts is None and c.kind is ClaimKind.CONTINUOUS for c in claims)
    if vague:
        notes.append(f"{vague} without a voltage")
    if untested:
        notes.append(f"{untested} unit{'s' if untested > 1 else ''} untested")
    return tuple(notes)


def voltage_curves(model: Model, shown: UnitEvidence) -> tuple[VoltageCurve, ...]:
    """Certified power against supply volts, at every load that the unit was run at more than one voltage."""
    found = []
    for place in model.places:
        fit = shown.fits.get(fit_key(place, Mode.CERTIFIED))
        if fit is not None and max(fit.volts) - min(fit.volts) > SHOWN_FROM_VOLTS:
            mine = [e for e in shown.evidence if e.mode is Mode.CERTIFIED and same_place(e.place, place)]
            claimed = {c.supply_volts for c in model.standing_claims if same_place(c.place, place)}
            found.append(_curve(place, fit, mine, sorted(v for v in claimed if v), model.product.supply_range))
    return tuple(found)


def _curve(
    place: Place, fit: VoltageFit, mine: Sequence[Evidence], claimed: Sequence[float], span: tuple[float, float]
) -> VoltageCurve:
    def estimate(volts: float) -> VoltageEstimate:
        return VoltageEstimate(volts, *fit.estimate(volts))

    low, high = span
    in_fit = set(zip(fit.volts, fit.watts, strict=True))
    return VoltageCurve(
        *place,
        exponent=fit.exponent,
        exponent_low=fit.low,
        exponent_high=fit.high,
        character=fit.character,
        points=tuple(
            VoltagePoint(e.supply_volts, e.weakest, e.budget.expanded, e.attempt_id)
            for e in sorted(mine, key=lambda e: e.supply_volts)
            if (e.supply_volts, e.weakest) in in_fit
        ),
        curve=tuple(estimate(low + (high - low) * step / CURVE_STEPS) for step in range(CURVE_STEPS + 1)),
        at_claims=tuple(estimate(volts) for volts in claimed),
    )
