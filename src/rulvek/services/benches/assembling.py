"""Putting benches together from instruments: who is there, who fills which role, and how a bench was found."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Gt, Le, Len, Predicate

from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.bench.instruments.assembly import Assembly, Limits, Station
from rulvek.bench.instruments.description import BenchRole, Description, read_description, shipped
from rulvek.bench.instruments.finding import described_by, found_at
from rulvek.bench.sound.devices import devices
from rulvek.bench.sound.levels import Levels
from rulvek.core.electrical.cables import Cable
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.errors import BadInput, BenchFault, Conflict
from rulvek.core.quantities import ENTERED, Amps, Name, Ohms, Title, Watts, is_one_line, refuse_out_of_bounds
from rulvek.core.records.actor import Actor
from rulvek.services.benches.made import answering_view, description_view, interface_view, made_view
from rulvek.services.benches.rooms import Benches
from rulvek.services.views.benches import AnsweringView, DescriptionView, InterfaceView, MadeView
from rulvek.store.engine import Database
from rulvek.store.queries import records as queries

LONGEST_DESCRIPTION = 100_000
Input = Annotated[int, Ge(1), Le(64)]
Gauge = Annotated[str, Len(1, 8), Predicate(is_one_line)]


@dataclass(frozen=True, slots=True)
class StationEntry:
    """Who fills a role: a description by its name, and where it answers."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    role: BenchRole
    description: Name
    address: Title


@dataclass(frozen=True, slots=True)
class BoxEntry:
    """Dummy loads of one value; pieces that differ have an entry each.

    Attributes:
        cold_ohms: As they measured cold, by which the bench is looked at.
        warm_ohms: As they measured at ``warm_c``, °C, by which it is known how they drift.
        inductance_uh: Of each with its leads.
        duty_percent: Of the time for which they may take their watts.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    ohms: Ohms
    watts: Watts
    count: Annotated[int, Ge(1), Le(200)] = 1
    cold_ohms: Ohms | None = None
    warm_ohms: Ohms | None = None
    warm_c: Annotated[float, Ge(-50), Le(400)] | None = None
    inductance_uh: Annotated[float, Ge(0), Le(10_000)] | None = None
    duty_percent: Annotated[float, Ge(1), Le(100)] = 100.0

    @classmethod
    def of(cls, box: LoadBox) -> "BoxEntry":
        """Boxes as they were entered."""
        return cls(
            box.ohms,
            box.watts,
            box.count,
            box.cold_ohms,
            box.warm_ohms,
            box.warm_c,
            box.inductance_uh,
            100 * box.duty,
        )

    def box(self) -> LoadBox:
        """The boxes that are entered."""
        return LoadBox(
            self.ohms,
            self.watts,
            self.count,
            cold_ohms=self.cold_ohms,
            warm_ohms=self.warm_ohms,
            warm_c=self.warm_c,
            inductance_uh=self.inductance_uh,
            duty=self.duty_percent / 100,
        )


@dataclass(frozen=True, slots=True)
class WireEntry:
    """Which recorder input an amplifier's channel is wired to."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    channel: Input
    input: Input


@dataclass(frozen=True, slots=True)
class BenchEntry:
    """A bench as it is put together.

    Attributes:
        wires: Of channels that do not go to the input of their own number.
        volts_per_unit: What a recorder's 1 is in volts at the amplifier, as 20 behind a 20:1 divider.
        supply_amps: The most that the supply gives.
        supply_volts: What it is never set above.
        run_minutes: For how long the amplifier is on at most.
        load_c: How hot the hottest load may become.
        gauge, metres: Of the supply's leads, each.
        levels: Of an audio interface, what its full scale is in volts.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    stations: Annotated[tuple[StationEntry, ...], Len(0, 20)]
    boxes: Annotated[tuple[BoxEntry, ...], Len(0, 40)]
    supply_amps: Annotated[Amps, Gt(0)]
    supply_volts: Annotated[float, Gt(0), Le(60)] = 16.0
    run_minutes: Annotated[float, Gt(0), Le(1_440)] = 120.0
    load_c: Annotated[float, Ge(40), Le(400)] = 150.0
    gauge: Gauge = "0"
    metres: Annotated[float, Ge(0), Le(100)] = 1.0
    wires: Annotated[tuple[WireEntry, ...], Len(0, 64)] = ()
    volts_per_unit: Annotated[float, Gt(0), Le(10_000)] = 1.0
    levels: Levels | None = None


@dataclass
class Assembling:
    """Finds instruments, puts benches together and looks at them.

    ``folder`` has the lab's own descriptions, one TOML file each, beside those that ship with the program.
    """

    database: Database
    benches: Benches
    folder: Path
    _shipped: Mapping[str, Description] = field(default_factory=shipped)

    def known(self) -> dict[str, Description]:
        """All descriptions by their names; a lab's own goes before one of the same name that ships.

        Raises:
            BadInput: one of the lab's own is none.
        """
        own = {
            path.stem: read_description(path.read_text(encoding="utf-8"), path.name)
            for path in sorted(self.folder.glob("*.toml"))
            if path.stat().st_size <= LONGEST_DESCRIPTION
        }
        return {**self._shipped, **own}

    def descriptions(self) -> list[DescriptionView]:
        """What an instrument may be described as, real ones first."""
        own = {path.stem for path in self.folder.glob("*.toml")}
        return [description_view(name, one, name not in own) for name, one in described_by(self.known())]

    def find(self, host: str, first_port: int, last_port: int) -> list[AnsweringView]:
        """Who answers at the ports of a host; see ``found_at``."""
        return [answering_view(one) for one in found_at(host, first_port, last_port, self.known())]

    def interfaces(self) -> list[InterfaceView]:
        """Audio interfaces of the machine that serves; none where it has no PortAudio, which a bench of one tells."""
        try:
            return [interface_view(one) for one in devices()]
        except BenchFault:
            return []

    def add(self, entry: BenchEntry, actor: Actor) -> MadeView:
        """Put a bench on record; nothing is connected yet.

        Raises:
            BadInput: a field by its name.
            Conflict: there is a bench of that name.
        """
        room = self.benches.add(entry.name, OF_INSTRUMENTS, actor, self._assembly(entry).as_json())
        return self.made(room.id)

    def entry(self, bench_id: int) -> tuple[BenchEntry, int]:
        """A bench as it would be put together today, to be changed, and how often it was changed.

        A station whose description is not there any more names none.

        Raises:
            NotFound: no such bench.
            Conflict: it is no bench of instruments.
        """
        room = self.benches.room_by_id(bench_id)
        assembly = room.kind.assembly
        if assembly is None:
            raise Conflict(f"{room.name} is no bench of instruments: there is nothing to change.")
        known = self.known()
        names = {
            role: next((n for n, d in known.items() if d == one.description), "")
            for role, one in assembly.stations.items()
        }
        limits = assembly.limits
        entry = BenchEntry(
            name=room.name,
            stations=tuple(StationEntry(role, names[role], one.address) for role, one in assembly.stations.items()),
            boxes=tuple(BoxEntry.of(one) for one in limits.boxes),
            supply_amps=limits.supply_amps,
            supply_volts=limits.supply_volts,
            run_minutes=limits.run_seconds / 60,
            load_c=limits.load_c,
            gauge=limits.cable.gauge,
            metres=limits.cable.metres,
            wires=tuple(WireEntry(channel, to) for channel, to in sorted(assembly.inputs.items())),
            volts_per_unit=assembly.volts_per_unit,
            levels=assembly.levels,
        )
        return entry, room.version

    def change(self, bench_id: int, entry: BenchEntry, seen: int, actor: Actor) -> MadeView:
        """Put a bench together otherwise; its name stays, and nothing that was found of it before counts.

        Raises:
            NotFound: no such bench.
            BadInput: a field by its name.
            Conflict: it is busy or held by somebody else.
            Stale: somebody changed it meanwhile.
        """
        room = self.benches.room_by_id(bench_id)
        if entry.name.strip() != room.name:
            raise BadInput("A bench keeps its name: campaigns are planned for it.", field="name")
        self.benches.change(bench_id, self._assembly(entry).as_json(), seen, actor)
        return self.made(bench_id)

    def made(self, bench_id: int) -> MadeView:
        """What a bench is made of, and how it was found.

        Raises:
            NotFound: no such bench.
        """
        room = self.benches.room_by_id(bench_id)
        # Asked before the records: what is not being looked at any more is on record by then.
        looked = room.looked if room.state().state == "testing" else None
        with self.database.reading() as session:
            tests = queries.self_tests(session, room.id)
            changed_at = queries.bench_changed_at(session, room.id)
        kind = room.kind
        return made_view(
            room.id, self.benches.equipment(room.name), kind.assembly, kind.simulated, tests, looked, changed_at
        )

    def look(self, bench_id: int, channels: int, powered: bool, actor: Actor, looped: bool = False) -> MadeView:
        """Begin to look at a bench; see ``BenchRoom.look``."""
        self.benches.room_by_id(bench_id).look(channels, powered, actor, looped)
        return self.made(bench_id)

    def _assembly(self, entry: BenchEntry) -> Assembly:
        refuse_out_of_bounds(entry)
        known, stations = self.known(), {}
        for at, one in enumerate(entry.stations):
            if one.description not in known:
                raise BadInput(f"There is no description “{one.description}”.", field=f"stations.{at}.description")
            if not one.address.strip():
                raise BadInput("Say where the instrument answers.", field=f"stations.{at}.address")
            if one.role in stations:
                raise BadInput(f"The role {one.role} is filled twice.", field=f"stations.{at}.role")
            stations[one.role] = Station(known[one.description], one.address.strip())
        taken: set[int] = set()
        for at, wire in enumerate(entry.wires):
            if wire.input in taken:
                raise BadInput(f"Two channels are wired to input {wire.input}.", field=f"wires.{at}.input")
            taken.add(wire.input)
        assembly = Assembly(
            stations=stations,
            limits=Limits(
                entry.supply_amps,
                tuple(one.box() for one in entry.boxes),
                Cable(entry.gauge, entry.metres),
                entry.supply_volts,
                60 * entry.run_minutes,
                entry.load_c,
            ),
            inputs={wire.channel: wire.input for wire in entry.wires},
            volts_per_unit=entry.volts_per_unit,
            levels=entry.levels,
        )
        assembly.refuse_unfit()
        return assembly
