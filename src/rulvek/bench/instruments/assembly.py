"""What a bench of instruments is made of, as data: who fills each role, the wires, and what it can stand."""

import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar

from pydantic import TypeAdapter, ValidationError

from rulvek.bench.instruments.description import BenchRole, Description
from rulvek.bench.sound.devices import SOUND
from rulvek.bench.sound.levels import Levels
from rulvek.core.electrical.cables import Cable
from rulvek.core.electrical.loads import LoadBox, off_nominal
from rulvek.core.electrical.networks import LoadNetwork, networks
from rulvek.core.errors import BadInput
from rulvek.core.planning.equipment import Equipment
from rulvek.core.quantities import ENTERED

ANOTHER_LOAD = 0.1
"""A load that is further off its nominal value, cold, is another one (ours)."""
WARM_FROM_C = 50.0
"""Of a load that is cooler, the drift is within what an ohmmeter reads wrong (ours)."""
NEEDED = (BenchRole.SOURCE, BenchRole.RECORDER, BenchRole.SUPPLY, BenchRole.LOADS, BenchRole.TEMPERATURES)


@dataclass(frozen=True, slots=True)
class Station:
    """An instrument on a bench: what it is and where it answers."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    description: Description
    address: str


@dataclass(frozen=True, slots=True)
class Limits:
    """What a bench can stand and offers: amps of its supply, its cable and its dummy loads, for the planner as well.

    The supply is never set to more than ``supply_volts``, the amplifier never on for longer than ``run_seconds``, and
    no load hotter than ``load_c``.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    supply_amps: float
    boxes: tuple[LoadBox, ...]
    cable: Cable = field(default_factory=lambda: Cable("0", 1.0))
    supply_volts: float = 16.0
    run_seconds: float = 7_200.0
    load_c: float = 150.0

    def network(self, ohms: float) -> LoadNetwork | None:
        """What a load is made of: the fewest boxes, the strongest of these; None where they do not make it."""
        return next(iter(networks(self.boxes, ohms)), None)


@dataclass(frozen=True, slots=True)
class Assembly:
    """What a bench is made of.

    Attributes:
        stations: By role.
        inputs: Which recorder input each amplifier channel is wired to (of a bridged pair, its first channel).
        volts_per_unit: What a recorder's 1 is in volts at the amplifier, as behind a 20:1 divider.
        levels: Of an audio interface, what its full scale is in volts.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    stations: Mapping[BenchRole, Station]
    limits: Limits
    inputs: Mapping[int, int] = field(default_factory=dict)
    volts_per_unit: float = 1.0
    levels: Levels | None = None

    @property
    def simulated(self) -> bool:
        """Whether any of it is simulated: then all that it gives is marked."""
        return any(one.description.simulated for one in self.stations.values())

    def input_of(self, channel: int) -> int | None:
        """The recorder input of a channel: that of its own number unless told, None where another channel has it.

        So that no channel is ever read at an input that another one is wired to.
        """
        if channel in self.inputs:
            return self.inputs[channel]
        has = self.stations[BenchRole.RECORDER].description.channels
        return channel if channel <= has and channel not in self.inputs.values() else None

    def refuse_unfit(self) -> None:
        """Hold it to what a run needs.

        Raises:
            BadInput: a role that nobody fills, or whose instrument cannot; an input that the recorder does not have.
        """
        for role in NEEDED:
            if role not in self.stations:
                raise BadInput(f"The bench has nothing for the role {role}.", field=f"stations.{role}")
        for role, station in self.stations.items():
            if role not in station.description.roles:
                what = f"{station.description.name} cannot be a {role}."
                raise BadInput(what, field=f"stations.{role}")
        has = self.stations[BenchRole.RECORDER].description.channels
        if far := [one for one in self.inputs.values() if not 1 <= one <= has]:
            raise BadInput(f"The recorder has {has} inputs, none number {far[0]}.", field="inputs")
        if not self.limits.boxes:
            raise BadInput("The bench has no dummy loads.", field="limits.boxes")
        for at, box in enumerate(self.limits.boxes):
            _refuse_unfit_box(f"boxes.{at}", box)
        for role, station in self.stations.items():
            if station.description.sound:
                self._refuse_unfit_sound(role, station)

    def _refuse_unfit_sound(self, role: BenchRole, station: Station) -> None:
        if not station.address.startswith(SOUND):
            what = f"{station.description.name} answers at “{SOUND}” and its name, not at {station.address}."
            raise BadInput(what, field=f"stations.{role}")
        if self.levels is None:
            what = "Nobody said what the audio interface's full scale is in volts: rulvek sound levels finds it."
            raise BadInput(what, field="levels")
        told = self.levels.output_volts if role is BenchRole.SOURCE else self.levels.input_volts
        if len(told) < station.description.channels:
            what = f"The audio interface has {station.description.channels} channels, volts are told of {len(told)}."
            raise BadInput(what, field="levels")
        for name in ("output_response", "input_response"):
            hz = [one.hz for one in getattr(self.levels, name)]
            if hz != sorted(set(hz)):
                raise BadInput("A response goes up by frequency, each once.", field=f"levels.{name}")

    def equipment(self, name: str) -> Equipment:
        """What it has to offer, for the planner; a bank that floats is none of its supplies."""
        return Equipment(
            name=name,
            inputs=self.stations[BenchRole.RECORDER].description.channels,
            supply_limit_amps=self.limits.supply_amps,
            bank_volts=0.0,
            bank_ohms=0.0,
            bank_limit_amps=0.0,
            cable=self.limits.cable,
            boxes=self.limits.boxes,
        )

    def as_json(self) -> str:
        """All of it, descriptions included, as it is kept."""
        return _ADAPTER.dump_json(self).decode()


_ADAPTER = TypeAdapter(Assembly)


def kept_assembly(text: str) -> Assembly:
    """An assembly as it was kept.

    Raises:
        BadInput: it is none.
    """
    try:
        found = _ADAPTER.validate_json(text)
    except ValidationError as error:
        raise _told(error, "What is kept of the bench") from None
    found.refuse_unfit()
    return found


def read_assembly(text: str, described: Callable[[str], Description], what: str = "The bench") -> Assembly:
    """An assembly from its TOML, in which stations name their descriptions.

    Args:
        described: Gives a description by its name or file.

    Raises:
        BadInput: what is wrong with it, by field.
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise BadInput(f"{what} is no TOML: {error}.", field="bench") from None
    stations = data.get("stations")
    if not isinstance(stations, dict):
        raise BadInput(f"{what} names no stations.", field="stations")
    filled: dict[str, Any] = {}
    for role, station in stations.items():
        if not isinstance(station, dict) or not isinstance(station.get("description"), str):
            raise BadInput(f"{what}: the station {role} names no description.", field=f"stations.{role}")
        filled[role] = station | {"description": described(station["description"])}
    try:
        found = _ADAPTER.validate_python(data | {"stations": filled})
    except ValidationError as error:
        raise _told(error, what) from None
    found.refuse_unfit()
    return found


def _told(error: ValidationError, what: str) -> BadInput:
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"]) or "bench"
    return BadInput(f"{what}, {where}: {first['msg'].lower()}.", field=where)


def _refuse_unfit_box(field: str, box: LoadBox) -> None:
    """Hold what was measured of dummy loads, cold and warm, to what they are."""
    if box.cold_ohms is not None and abs(off_nominal(box.ohms, box.cold_ohms)) > ANOTHER_LOAD:
        raise BadInput(f"{box.cold_ohms:g} Ω cold is no load of {box.ohms:g} Ω.", field=f"{field}.cold_ohms")
    if box.warm_ohms is None and box.warm_c is None:
        return
    if box.cold_ohms is None:
        raise BadInput("Warm ohms tell of a drift only beside cold ones.", field=f"{field}.cold_ohms")
    if box.warm_ohms is None:
        raise BadInput("Of a load that was measured warm, the ohms are missing.", field=f"{field}.warm_ohms")
    if box.warm_c is None:
        raise BadInput("Of a load that was measured warm, nobody said at how many °C.", field=f"{field}.warm_c")
    if box.warm_c < WARM_FROM_C:
        what = f"At {box.warm_c:g} °C a load is not warm: its drift shows from {WARM_FROM_C:g} °C on."
        raise BadInput(what, field=f"{field}.warm_c")
    if abs(off_nominal(box.cold_ohms, box.warm_ohms)) > ANOTHER_LOAD:
        what = f"{box.warm_ohms:g} Ω warm is no load of {box.cold_ohms:g} Ω cold."
        raise BadInput(what, field=f"{field}.warm_ohms")
