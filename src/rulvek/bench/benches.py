"""What stands behind a bench's name: how it is made for a unit, and what it has to offer.

Nobody else knows which benches are simulated. A unit that lies on a bench keeps its heat between runs, so the bench of
the latest unit is kept standing.
"""

import math
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from rulvek.bench.instruments.assembly import Assembly, kept_assembly
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.by_hand import Asking
from rulvek.bench.instruments.selftest import self_test
from rulvek.bench.protocols import Bench
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS, equipment
from rulvek.bench.sim.design import AmplifierDesign, read_design
from rulvek.bench.sim.instruments.nearby import NEARBY, Nearby, taken
from rulvek.bench.sim.planted import PlantedBench
from rulvek.bench.sim.supply import BankDesign, RegulatedDesign
from rulvek.bench.switch import Switch
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput, BenchFault, NotFound
from rulvek.core.planning.equipment import Equipment
from rulvek.core.practice.scenarios import Scenario, scenario_of
from rulvek.core.records.benches import Looked
from rulvek.core.records.campaigns import SIMULATED

OF_INSTRUMENTS = "instruments"
"""A bench of instruments by description, in the records."""
PRACTICE = "practice"
"""A bench where something is wrong, in the records of a practice job alone."""


@dataclass(frozen=True, slots=True)
class UnitUnderTest:
    """A unit as it is put on a bench; ``gains_db`` is how far its gain controls were turned before.

    On a simulated bench ``described`` (TOML, as ``rulvek simulate`` takes it) stands in for it, else ``design``.
    """

    serial: str
    model_name: str
    design: str
    gains_db: Mapping[int, float] = field(default_factory=dict)
    described: str = ""


NOBODYS = UnitUnderTest("", "", "")
"""Whatever lies on a bench while it is looked at."""
LOOKED_AT_WITH = "four-d"
"""What lies there where it is simulated."""


@dataclass(frozen=True, slots=True)
class BenchKind:
    """A sort of bench: what it has to offer under a name, and how it is made for a unit and a supply.

    What is ``simulated`` has no amplifier on it: what it gives is marked, and never backs a published rating.
    ``assembly`` is what one of instruments is made of: only such a one is looked at.
    """

    equipment: Callable[[str], Equipment]
    make: Callable[[str, UnitUnderTest, SupplyPolicy, float, Asking], Bench]
    simulated: bool = False
    assembly: Assembly | None = None


def _simulated(name: str, unit: UnitUnderTest, policy: SupplyPolicy, speed: float, _: Asking) -> Bench:
    _refuse_without_stand_in(unit)
    design = read_design(unit.described) if unit.described else DESIGNS[unit.design]
    supply = BankDesign() if policy is SupplyPolicy.BANK else RegulatedDesign()
    bench = SimulatedBench(design, unit.serial, speed=speed, name=name, supply=supply)
    for channel, by_db in unit.gains_db.items():
        bench.turn_gain(channel, by_db)
    return bench


def _of_instruments(assembly: Assembly) -> BenchKind:
    is_nearby = any(one.address == NEARBY for one in assembly.stations.values())

    def make(name: str, unit: UnitUnderTest, policy: SupplyPolicy, speed: float, asking: Asking) -> Bench:
        assembly.equipment(name).refuse_lacking(policy)
        if is_nearby:
            nearby = taken()
            bench = InstrumentBench(
                name, _with_unit(assembly, nearby, unit, speed), kept=True, asking=asking, closed=nearby.give_back
            )
        else:
            bench = InstrumentBench(name, assembly, kept=True, asking=asking)
        try:
            bench.open()
        except BaseException:
            bench.close()
            raise
        return bench

    return BenchKind(assembly.equipment, make, assembly.simulated, assembly)


def _practice(scenario: Scenario) -> BenchKind:
    def make(name: str, _unit: UnitUnderTest, policy: SupplyPolicy, speed: float, _asking: Asking) -> Bench:
        bench = PlantedBench(scenario, policy, speed, name)
        bench.heat()
        return bench

    return BenchKind(equipment, make, simulated=True)


def _with_unit(assembly: Assembly, nearby: Nearby, unit: UnitUnderTest, speed: float) -> Assembly:
    """A bench of instruments that are simulated nearby, with a unit on it, and where they answer."""
    if unit is not NOBODYS:
        _refuse_without_stand_in(unit)
    design = LOOKED_AT_WITH if unit is NOBODYS else unit.design
    where = nearby.put(design, unit.described, unit.serial, unit.gains_db, speed)
    stations = {
        role: replace(one, address=where[role.value]) if one.address == NEARBY else one
        for role, one in assembly.stations.items()
    }
    return replace(assembly, stations=stations)


def _refuse_without_stand_in(unit: UnitUnderTest) -> None:
    if not unit.described and unit.design not in DESIGNS:
        todo = "Choose or describe one on the model's page, or take readings by hand."
        raise NotFound(f"There is no simulated amplifier for {unit.model_name}.", todo=todo)


def kind_of(word: str, assembly: str = "") -> BenchKind:
    """A sort of bench by the word that the records have for it; of instruments, by what it is made of.

    Raises:
        NotFound: this program knows no such sort.
        BadInput: what it is made of is no bench.
    """
    if word == SIMULATED:
        return BenchKind(equipment, _simulated, simulated=True)
    if word == PRACTICE:
        return _practice(scenario_of(assembly))
    if word == OF_INSTRUMENTS:
        return _of_instruments(kept_assembly(assembly))
    raise NotFound(f"This program knows no bench of the sort “{word}”.")


@dataclass(frozen=True, slots=True)
class StandIn:
    """A simulated amplifier that a model may have in its place."""

    name: str
    channels: int
    topology: str


def stand_ins() -> tuple[StandIn, ...]:
    """The simulated amplifiers that ship with it."""
    return tuple(StandIn(name, *_counted(design)) for name, design in DESIGNS.items())


def refuse_unfit_stand_in(design: str, described: str, channels: int) -> None:
    """Hold a stand-in to its model.

    Raises:
        BadInput: no such design, a description that is none, or another number of channels.
    """
    if described:
        found = read_design(described)
    elif design not in DESIGNS:
        raise BadInput(f"There is no simulated amplifier “{design}”.", field="design")
    else:
        found = DESIGNS[design]
    its, _ = _counted(found)
    if its != channels:
        what = f"The stand-in has {its} channels, the model {channels}."
        raise BadInput(what, field="described" if described else "design")


def topology_of(design: str) -> str:
    """The class of a simulated amplifier's output stages."""
    return _counted(DESIGNS[design])[1]


def _counted(design: AmplifierDesign) -> tuple[int, str]:
    topologies = sorted({group.topology for group in design.groups})
    return sum(len(group.channels) for group in design.groups), " and ".join(topologies)


class StandingBench:
    """One bench, with the unit that was last put on it."""

    def __init__(self, name: str, kind: BenchKind, speed: float, told: Callable[[], None] = lambda: None) -> None:
        """``told`` hears that the bench asks something of whoever stands at it."""
        self._name, self._kind, self._speed = name, kind, speed
        self.asking = Asking(told)
        self._key: tuple[str, str, str, bool] | None = None
        self._bench: Bench | None = None
        self._left_at = 0.0

    @property
    def current(self) -> Bench | None:
        """The bench with what lies on it."""
        return self._bench

    def with_unit(self, unit: UnitUnderTest, policy: SupplyPolicy) -> Bench:
        """The bench with a unit and a supply on it, cooled down and recovered for as long as it lay idle.

        Raises:
            NotFound: nothing stands in for this unit.
        """
        self.asking.begin()
        key = (unit.serial, unit.design, unit.described, policy is SupplyPolicy.BANK)
        if self._bench is not None and self._key == key:
            idle = time.monotonic() - self._left_at
            self._bench.lie_idle(idle * self._speed if math.isfinite(self._speed) else idle)
            return self._bench
        if self._bench is not None:
            self._bench.close()
            self._bench = self._key = None
        self._bench, self._key = self._kind.make(self._name, unit, policy, self._speed, self.asking), key
        return self._bench

    def look(self, channels: int, powered: bool, switch: Switch, looped: bool = False) -> Iterator[Looked]:
        """Look at a bench of instruments before anybody trusts it, whatever lies on it; see ``self_test``."""
        self.asking.begin()
        if self._bench is not None:
            self._bench.close()
            self._bench = self._key = None
        try:
            bench = self._kind.make(self._name, NOBODYS, SupplyPolicy.HELD, self._speed, self.asking)
        except BenchFault as fault:
            yield Looked("instruments", fault.what, False)
            return
        assert isinstance(bench, InstrumentBench)  # others have nothing to be looked at
        self._bench = bench  # Off finds it from here on
        switch.attach(bench)
        yield from self_test(bench, channels, powered, switch, looped)

    def replace(self, kind: BenchKind) -> None:
        """Be of another sort from now on; what stood there is made safe and let go of."""
        if self._bench is not None:
            self._bench.close()
        self._bench = self._key = None
        self._kind = kind

    def leave(self) -> None:
        """Nobody works at it from now on."""
        self._left_at = time.monotonic()
