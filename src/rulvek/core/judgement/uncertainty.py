"""The uncertainty of a reading: a budget after the GUM (JCGM 100:2008), with its table.

Every contribution is a standard uncertainty times its sensitivity, in watts. They are combined as independent (5.1.2);
the effective degrees of freedom follow Welch and Satterthwaite (G.4.1), and k is Student's t at 95 % (G.3).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache, partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rulvek.core.electrical.loads import ROOM_C
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.instruments import InstrumentRole, Instruments, Specification

FloatArray = NDArray[np.float64]
Distribution = Literal["normal", "rectangular", "triangular", "student"]
DIVISORS: dict[Distribution, float] = {
    "normal": 1.0,
    "rectangular": math.sqrt(3),
    "triangular": math.sqrt(6),
    "student": 1.0,
}
"""What a half-width is divided by to give a standard uncertainty (4.3.7, 4.3.9); of a normal one it is that already."""
COVERAGE = 0.95


@dataclass(frozen=True, slots=True)
class Component:
    """One line of a budget.

    Attributes:
        name: What is uncertain.
        value, unit: Its estimate.
        half_width: Half of the distribution's width; of "normal" and "student" the standard uncertainty itself.
        sensitivity: Watts per unit.
        freedom: Degrees of freedom; infinite for limits that are taken as given (Type B).
        shared: Whether all units that are read with the same gear have it in common, so that no number of them averages
            it out: calibrations of meters and loads, the recorder, the cables. What is not is each reading's own.
    """

    name: str
    value: float
    unit: str
    distribution: Distribution
    half_width: float
    sensitivity: float
    freedom: float = math.inf
    shared: bool = False

    @property
    def divisor(self) -> float:
        """What the half-width is divided by."""
        return DIVISORS[self.distribution]

    @property
    def standard(self) -> float:
        """Standard uncertainty, in the component's unit."""
        return self.half_width / self.divisor

    @property
    def watts(self) -> float:
        """Contribution to the result."""
        return abs(self.sensitivity) * self.standard


@dataclass(frozen=True, slots=True)
class Budget:
    """A combined uncertainty with the table it comes from, the largest contribution first."""

    estimate: float
    components: tuple[Component, ...]
    standard: float
    freedom: float
    coverage_factor: float

    @property
    def expanded(self) -> float:
        """U = k · u, in watts."""
        return self.coverage_factor * self.standard

    @property
    def shared(self) -> float:
        """The standard uncertainty, in watts, that readings with the same gear have in common."""
        return math.sqrt(sum(component.watts**2 for component in self.components if component.shared))

    @property
    def individual(self) -> float:
        """The standard uncertainty, in watts, that is each reading's own."""
        return math.sqrt(sum(component.watts**2 for component in self.components if not component.shared))


CLOSER = {
    "output volts": "read it with a closer meter",
    "load": "measure the load more closely",
    "load meter": "measure the load with a closer meter",
    "level bracket": "close in on the limit in finer steps",
    "resolution": "read it with more digits",
    "supply": "read the supply with a closer meter",
    "brought to the claim's volts": "repeat the run nearer to them",
    "brought to the claim's ohms": "repeat the run into a load that is nearer to them",
    "repeatability": "repeat the run",
}
"""What makes a part of a budget smaller, by its name."""


def how_to_get_closer(budget: Budget) -> str:
    """What would make U smaller: the largest part is named, with what can be done about it.

    >>> bracket = Component("level bracket", 0.5, "dB", "rectangular", 3.0, 1.0)
    >>> how_to_get_closer(combine(78.0, [bracket, Component("load", 4.0, "Ω", "rectangular", 0.04, 19.0)]))
    'A smaller U, most of which is “level bracket”: close in on the limit in finer steps.'
    """
    largest = budget.components[0].name
    todo = CLOSER.get(largest.split(",")[0])
    return f"A smaller U, most of which is “{largest}”{f': {todo}' if todo else ''}."


def combine(estimate: float, components: Sequence[Component]) -> Budget:
    """Combine independent components; see the module's docstring for the clauses.

    Raises:
        ValueError: a width or a number of degrees of freedom that is not above 0 (a width may be 0).
    """
    for component in components:
        if not (component.half_width >= 0 and component.freedom > 0):
            raise ValueError(f"{component.name}: a width from 0 and degrees of freedom above 0 are needed")
    standard = math.sqrt(sum(component.watts**2 for component in components))
    spent = sum(component.watts**4 / component.freedom for component in components)
    freedom = math.inf if spent == 0 else standard**4 / spent
    ordered = tuple(sorted(components, key=lambda component: -component.watts))
    return Budget(estimate, ordered, standard, freedom, coverage_factor(freedom))


@lru_cache(maxsize=512)
def coverage_factor(freedom: float, coverage: float = COVERAGE) -> float:
    """Two-sided quantile of Student's t; for broken degrees of freedom the next lower whole number (G.4.1, note 1)."""
    if math.isinf(freedom) or freedom > 10_000:
        return _NORMAL if coverage == COVERAGE else _student(coverage, math.inf)
    return _student(coverage, max(1, math.floor(freedom)))


_NORMAL = 1.959964  # of the normal distribution at 95 %


def _student(coverage: float, freedom: float) -> float:
    from scipy.stats import norm, t

    share = (1 + coverage) / 2
    return float(norm.ppf(share)) if math.isinf(freedom) else float(t.ppf(share, freedom))


def repeatability(watts: Sequence[float] | FloatArray) -> Component | None:
    """Type A: the standard deviation of repeated readings (4.2); None with fewer than two."""
    if len(watts) < 2:
        return None
    values = np.asarray(watts, dtype=float)
    return Component(
        "repeatability", float(values.mean()), "W", "student", float(values.std(ddof=1)), 1.0, len(watts) - 1
    )


@dataclass(frozen=True, slots=True)
class Meters:
    """What a reading was taken with; without a specification a meter adds nothing to the budget."""

    volts: Specification = field(default_factory=partial(Specification, "output"))
    supply: Specification = field(default_factory=partial(Specification, "supply"))
    loads: Specification = field(default_factory=partial(Specification, "loads"))


def meters_of(instruments: Instruments, method: MethodProfile) -> Meters:
    """The meters of an attempt; where nobody knows one, the method's stated default, never a bench's own."""
    volts = instruments.get(InstrumentRole.OUTPUT)
    supply = instruments.get(InstrumentRole.SUPPLY)
    loads = instruments.get(InstrumentRole.LOADS)
    return Meters(
        volts=volts or Specification(UNKNOWN, percent_of_reading=method.unknown_volts_percent),
        supply=supply or Specification(UNKNOWN, percent_of_reading=method.unknown_supply_percent),
        loads=loads or Specification(UNKNOWN),  # what is doubtful in a load comes with the load
    )


UNKNOWN = "instrument unknown"
MOST_WEIGHT = 30.0
"""How much the method's repeatability weighs at the most against a unit's own repeats, in degrees of freedom (ours)."""


@dataclass(frozen=True, slots=True)
class Brought:
    """From the conditions of a reading to others: between which two factors the power lies there."""

    name: str
    low: float
    high: float

    @property
    def middle(self) -> float:
        """The factor that is taken."""
        return (self.low + self.high) / 2


@dataclass(frozen=True, slots=True)
class Allowances:
    """What a method allows for besides the instruments' limits, each a relative half-width, a ratio.

    Attributes:
        response: The recorder's frequency response, in volts.
        cable: What lies between the load and where its volts are sensed, in ohms of the load.
        inductance: The load's reactance at the tone, in power.
        heat: What the load drifts by as it warms up, in ohms.
        thd_n: The limit by a THD+N that is read wrong, in power.
        repeatability: Standard deviation of a single attempt, in power, as the method goes by it.
        repeatability_freedom: How many degrees of freedom that has.
    """

    response: float = 0.0
    cable: float = 0.0
    inductance: float = 0.0
    heat: float = 0.0
    thd_n: float = 0.0
    repeatability: float = 0.0
    repeatability_freedom: float = MOST_WEIGHT


def allowances_of(
    method: MethodProfile,
    load_ohms: float,
    tone_hz: float,
    load_c: float | None = None,
    limit_slope: float | None = None,
    inductance_uh: float | None = None,
    ppm_per_kelvin: float | None = None,
) -> Allowances:
    """A method's allowances at a load and a tone: ``(ωL/R)²`` for the inductance.

    Args:
        load_c: Of the hottest load at the reading; it was measured at no less than :data:`ROOM_C`.
        limit_slope: d ln P / d ln THD+N of a reading at the limit; None of one that was not taken there.
        inductance_uh: Of the load, where the bench knows it; else the method's.
        ppm_per_kelvin: By which the load drifts, up or down, where the bench knows it; else the method's.
    """
    drift = method.load_ppm_per_kelvin if ppm_per_kelvin is None else abs(ppm_per_kelvin)
    microhenries = method.load_inductance_uh if inductance_uh is None else inductance_uh
    reactance = 2 * math.pi * tone_hz * microhenries * 1e-6
    return Allowances(
        response=method.recorder_response_percent / 100,
        cable=method.sense_cable_milliohms / 1000 / load_ohms,
        inductance=(reactance / load_ohms) ** 2 / 2,
        heat=0.0 if load_c is None else drift * 1e-6 * max(0.0, load_c - ROOM_C),
        thd_n=(limit_slope or 0.0) * method.thd_n_reading_percent / 100,
        repeatability=method.repeatability_percent / 100,
        repeatability_freedom=method.repeatability_freedom,
    )


def reading_budget(
    watts: float,
    load_ohms: float,
    load_tolerance: float,
    meters: Meters,
    bracket_db: float | None = None,
    supply_volts: float | None = None,
    exponent: float = 0.0,
    attempts: Sequence[float] | FloatArray = (),
    allowances: Allowances = Allowances(),
    brought: Sequence[Brought] = (),
    load_share: float = 1.0,
) -> Budget:
    """The budget of a power from volts across a load, P = V²/R.

    Its estimate is the middle of the level bracket, at the conditions that the reading is brought to.

    Args:
        watts: The reading, > 0.
        load_ohms: The measured load; ``load_tolerance`` is the relative half-width of what is doubtful in it beyond
            its meter: contacts, and the heat since.
        bracket_db: The limit lies anywhere within it, so P may be up to that much higher: a rectangle of full width
            P·(10^(b/10) − 1).
        supply_volts: At the reading; its meter's doubt moves P by n·P/V per volt, with ``exponent`` n.
        attempts: Watts of all comparable attempts, this one included.
        allowances: What the method allows for besides.
        brought: To which other conditions it is brought, and between which factors.
        load_share: How much of what is doubtful in the load counts: all of it in a power, hardly any in what a stage
            that is limited by voltage gives into a stated load, for there the volts alone decide.

    Raises:
        ValueError: watts that are not above 0.
    """
    if not watts > 0:
        raise ValueError(f"a budget needs watts above 0, got {watts}")
    read = watts
    for one in brought:
        watts *= one.middle
    half_bracket = watts * (10 ** (bracket_db / 10) - 1) / 2 if bracket_db else 0.0
    estimate = watts + half_bracket
    volts = math.sqrt(watts * load_ohms)
    components = [
        Component(
            _named("output volts", meters.volts),
            volts,
            "V",
            "rectangular",
            meters.volts.half_width(volts),
            2 * watts / volts,
            shared=True,
        ),
        Component(
            "load",
            load_ohms,
            "Ω",
            "rectangular",
            load_ohms * load_tolerance,
            -load_share * watts / load_ohms,
            shared=True,
        ),
    ]
    meter = meters.loads.half_width(load_ohms)
    if meter > 0:
        sensitivity = -load_share * watts / load_ohms
        components.append(Component("load meter", load_ohms, "Ω", "rectangular", meter, sensitivity, shared=True))
    if meters.volts.resolution > 0:
        half = meters.volts.resolution / 2
        components.append(Component("resolution", volts, "V", "rectangular", half, 2 * watts / volts))
    if bracket_db:
        per_db = 2 * half_bracket / bracket_db
        components.append(Component("level bracket", bracket_db, "dB", "rectangular", bracket_db / 2, per_db))
    if supply_volts:
        half = meters.supply.half_width(supply_volts)
        components.append(
            Component(
                _named("supply", meters.supply),
                supply_volts,
                "V",
                "rectangular",
                half,
                exponent * watts / supply_volts,
                shared=True,
            )
        )
    for one in brought:
        half, per_percent = 50 * (one.high - one.low), watts / (100 * one.middle)
        components.append(Component(one.name, 100 * (one.middle - 1), "%", "rectangular", half, per_percent))
    for name, share in (
        ("recorder's response", 2 * allowances.response),
        ("cable to the load", load_share * allowances.cable),
        ("load's inductance", allowances.inductance),
        ("load's heat", load_share * allowances.heat),
        ("THD+N at the limit", allowances.thd_n),
    ):
        if share > 0:
            percent = 100 * share
            components.append(Component(name, percent, "%", "rectangular", percent, watts / 100, shared=True))
    type_a = pooled_repeatability(
        np.asarray(attempts, dtype=float) * watts / read,
        allowances.repeatability * watts,
        allowances.repeatability_freedom,
    )
    if type_a is not None:
        components.append(type_a)
    return combine(estimate, components)


def pooled_repeatability(watts: Sequence[float] | FloatArray, expected: float, freedom: float) -> Component | None:
    """The standard deviation of a single attempt: its own repeats' pooled with what the method expects, in W.

    Repeating moves it towards what the repeats show, and raises it only where they scatter more. Without an expected
    one it is that of the repeats alone; None where there is neither.

    Args:
        watts: Of all comparable attempts, this one included.
        expected: What the method expects, in W, with so many degrees of ``freedom``.
    """
    own = repeatability(watts)
    if expected <= 0:
        return own
    if own is None:
        return Component("repeatability", expected, "W", "student", expected, 1.0, freedom)
    weight = min(freedom, MOST_WEIGHT)
    pooled = math.sqrt((weight * expected**2 + own.freedom * own.half_width**2) / (weight + own.freedom))
    return Component("repeatability", own.value, "W", "student", pooled, 1.0, freedom + own.freedom)


def _named(what: str, meter: Specification) -> str:
    return f"{what}, {UNKNOWN}" if meter.name == UNKNOWN else what
