"""Claims and readings as somebody states them, without records: what the verdicts on them are."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime
from math import inf
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Len

from rulvek.core.errors import BadInput
from rulvek.core.judgement.checks import NOT_ALL_DRIVEN, Severity, check
from rulvek.core.judgement.claims import conflicts
from rulvek.core.judgement.evidence import Doubt, Evidence, fitted, held_between
from rulvek.core.judgement.figures import Figures
from rulvek.core.judgement.uncertainty import Meters
from rulvek.core.judgement.verdict import Verdict, VerdictKind, VerdictOutcome, gravest, judge
from rulvek.core.method.profile import MethodProfile
from rulvek.core.quantities import ENTERED, Hertz, Name, Ohms, Percent, SupplyVolts, Watts
from rulvek.core.records.claims import Claim, ClaimTerms
from rulvek.core.records.instruments import Specification
from rulvek.core.records.product import ChannelGroup, Product
from rulvek.core.runs.modes import End, Mode, limit_end, refuse_end


@dataclass(frozen=True, slots=True)
class StatedGroup:
    """A channel group: its name, and its channels' numbers, counted from 1 over the whole amplifier."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    channels: Annotated[tuple[int, ...], Len(1, 64)]


@dataclass(frozen=True, slots=True)
class StatedProduct:
    """What was tested."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    groups: Annotated[tuple[StatedGroup, ...], Len(1, 16)]
    topology: Literal["AB", "D"] = "D"
    regulated: bool = False

    def as_product(self) -> Product:
        """As the rest of the core knows it."""
        groups = tuple(ChannelGroup(one.name, one.channels, ()) for one in self.groups)
        return Product(groups, self.topology, self.regulated)


@dataclass(frozen=True, slots=True)
class StatedClaim(ClaimTerms):
    """A claim, by a number of its own."""

    id: int = field(default=0, kw_only=True)


@dataclass(frozen=True, slots=True)
class StatedReading:
    """One reading of a unit.

    ``supply_volts`` are loaded, at the reading; None where nobody read them and the supply was held at the reference.
    ``watts`` are of each channel (pair where bridged) that was read, ``thd_n_percent`` of the worst or of each, None
    where it was not read; ``volts_percent`` is the output meter's limit. Without an ``end`` it reached its mode's own.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    group: Name
    load_ohms: Ohms
    watts: Annotated[tuple[Watts, ...], Len(1, 64)]
    supply_volts: SupplyVolts | None = None
    mode: Mode = Mode.CERTIFIED
    measured_ohms: Ohms | None = None
    bridged: bool = False
    tone_hz: Hertz = 1000.0
    thd_n_percent: Percent | tuple[Percent, ...] | None = None
    end: End | None = None
    read_channels: tuple[int, ...] | None = None
    all_driven: bool = True
    bracket_db: float | None = None
    volts_percent: Percent | None = None
    largest_watts: Watts | None = None
    at: datetime | None = None

    @property
    def ended(self) -> End:
        """How it ended."""
        return self.end or limit_end(self.mode)

    @property
    def thd_n(self) -> float:
        """The worst THD+N, a ratio; infinite where it was not read."""
        if self.thd_n_percent is None:
            return inf
        if isinstance(self.thd_n_percent, tuple):
            return max(self.thd_n_percent, default=inf) / 100
        return self.thd_n_percent / 100


@dataclass(frozen=True, slots=True)
class StatedUnit:
    """One unit and what was read of it, the oldest first."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    serial: Name
    readings: tuple[StatedReading, ...] = ()


@dataclass(frozen=True, slots=True)
class Statement:
    """All of it. ``method`` overrides fields of the standard method profile."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    product: StatedProduct
    claims: Annotated[tuple[StatedClaim, ...], Len(1, 1000)]
    units: tuple[StatedUnit, ...] = ()
    method: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class StatedVerdict:
    """A verdict on a claim, by one unit, or by all together (``unit`` None).

    ``reading`` counts the unit's readings from 1; None where the verdict rests on none.
    """

    claim: int
    unit: str | None
    kind: VerdictKind
    outcome: VerdictOutcome
    watts: float | None
    expanded_watts: float | None
    interval: tuple[float, float] | None
    reason: str
    settle: str
    doubts: tuple[str, ...]
    reading: int | None


def judge_statement(statement: Statement) -> list[StatedVerdict]:
    """Judge every claim by every unit, and by all of them together.

    Raises:
        BadInput: a group that there is not, a channel that is not in its group, a field that the method has not.
    """
    method = _method(statement.method)
    product = statement.product.as_product()
    claims = [
        Claim(**{name: getattr(one, name) for name in ClaimTerms.__slots__}, id=one.id or number)
        for number, one in enumerate(statement.claims, 1)
    ]
    numbers = [claim.id for claim in claims]
    if len(set(numbers)) < len(numbers):
        raise BadInput("Two claims have the same id.", field="claims")
    for claim in claims:
        product.group(claim.group)
    against = conflicts(claims)
    evidence = {unit.serial: _evidence(unit, product, method) for unit in statement.units}
    if len(evidence) < len(statement.units):
        raise BadInput("Two units have the same serial number.", field="units")
    found = []
    for claim in claims:
        others = against.get(claim.id, ())
        verdicts = {serial: judge(claim, shown, method, others) for serial, shown in evidence.items()}
        together = list(verdicts.values()) or [judge(claim, (), method, others)]
        gravest_kind = gravest(verdict.kind for verdict in together)
        found += [_stated(claim, serial, verdict) for serial, verdict in verdicts.items()]
        found.append(_stated(claim, None, next(one for one in together if one.kind is gravest_kind)))
    return found


def _method(overrides: dict[str, Any]) -> MethodProfile:
    standard = MethodProfile()
    known = standard.as_data()
    for name, value in overrides.items():
        if name not in known:
            raise BadInput(f"The method has no field “{name}”.", field=f"method.{name}")
        wanted = type(known[name])
        if not isinstance(value, int | float if wanted is float else wanted) or (wanted is float and value is True):
            raise BadInput(f"The method's {name} must be like {known[name]!r}, not {value!r}.", field=f"method.{name}")
    return MethodProfile.from_data(known | overrides)


def _evidence(unit: StatedUnit, product: Product, method: MethodProfile) -> tuple[Evidence, ...]:
    return fitted([_one(number, one, product, method) for number, one in enumerate(unit.readings, 1)]).evidence


def _one(number: int, r: StatedReading, product: Product, method: MethodProfile) -> Evidence:
    group = product.group(r.group)
    refuse_end(r.mode, r.ended)
    stray = sorted(set(r.read_channels or ()) - set(group.channels))
    if stray:
        raise BadInput(f"Channel {stray[0]} is none of “{r.group}”.", field="read_channels")
    unread = len(group.read(r.bridged)) - len(r.watts)
    whole = unread == 0 or r.read_channels is not None
    figures = Figures(
        mode=r.mode,
        topology=product.topology,
        end=r.ended,
        thd_n_percent=None if r.thd_n == inf else 100 * r.thd_n,
        load_nominal=r.load_ohms,
        load_measured=r.measured_ohms,
        watts=min(r.watts),
        channel_watts=r.watts,
        all_loaded=r.all_driven,
    )
    findings = check(figures, method)
    percent = method.unknown_volts_percent if r.volts_percent is None else r.volts_percent
    return Evidence(
        attempt_id=number,
        group=r.group,
        load_ohms=r.load_ohms,
        bridged=r.bridged,
        tone_hz=r.tone_hz,
        watts=r.watts,
        supply_volts=held_between(method)[0] if r.supply_volts is None else r.supply_volts,
        volts_between=held_between(method) if r.supply_volts is None else None,
        all_driven=r.all_driven and whole,
        channels_unread=max(0, unread),
        end=r.ended,
        thd_n=r.thd_n,
        channel_thd_n=_by_channel(r),
        bracket_db=r.bracket_db,
        load_tolerance=0.01 if r.measured_ohms is not None else 2 * method.load_tolerance_percent / 100,
        mode=r.mode,
        largest_watts=r.largest_watts,
        meters=Meters(
            Specification("output", percent_of_reading=percent),
            Specification("supply", percent_of_reading=method.unknown_supply_percent),
        ),
        measured_ohms=r.measured_ohms,
        method=method,
        doubts=tuple(Doubt(one.message, one.leans) for one in findings if one.severity is Severity.DOUBT),
        invalid=next((f.message for f in findings if f.severity is Severity.INVALID and f.code != NOT_ALL_DRIVEN), ""),
        at=r.at,
    )


def _by_channel(r: StatedReading) -> tuple[float, ...]:
    each = r.thd_n_percent if isinstance(r.thd_n_percent, tuple) else ()
    return tuple(percent / 100 for percent in each)


def _stated(claim: Claim, serial: str | None, verdict: Verdict) -> StatedVerdict:
    return StatedVerdict(
        claim=claim.id,
        unit=serial,
        kind=verdict.kind,
        outcome=verdict.outcome,
        watts=verdict.watts,
        expanded_watts=verdict.expanded_watts,
        interval=verdict.interval,
        reason=verdict.reason,
        settle=verdict.settle,
        doubts=verdict.doubts,
        reading=verdict.attempt_id,
    )


def described(verdicts: list[StatedVerdict]) -> Iterator[str]:
    """A line a verdict."""
    for one in verdicts:
        who = one.unit if one.unit is not None else "all together"
        kind = one.kind.replace("_", " ")
        yield f"claim {one.claim}, {who}: {kind} ({one.outcome}). {one.reason} {one.settle}".strip()
