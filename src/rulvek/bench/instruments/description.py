"""What an instrument understands, as data: the messages of each act, what they may hold, and how it is made safe.

Messages are typed templates. Nothing in a description is ever evaluated, and a value is held to its range before it is
sent: what lies outside is refused, never clipped.
"""

import math
import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from enum import StrEnum
from pathlib import Path
from typing import Any, ClassVar

from pydantic import TypeAdapter, ValidationError

from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED

SHIPPED = Path(__file__).parent / "shipped"
LONGEST_MESSAGE = 200


class BenchRole(StrEnum):
    """What an instrument does on a bench."""

    SOURCE = "source"
    RECORDER = "recorder"
    SUPPLY = "supply"
    CURRENT = "current"
    LOADS = "loads"
    TEMPERATURES = "temperatures"
    TIME = "time"
    OFF = "off"


class Gives(StrEnum):
    """What an act answers with; ``BLOCK`` is a definite-length block of IEEE 488.2, of 32-bit floats."""

    NOTHING = ""
    NUMBER = "number"
    BLOCK = "block"


@dataclass(frozen=True, slots=True)
class ActShape:
    """What an act is given by name, what it answers with, and whether the role can do without it."""

    given: tuple[str, ...] = ()
    gives: Gives = Gives.NOTHING
    needed: bool = True


ROLES: Mapping[BenchRole, Mapping[str, ActShape]] = {
    BenchRole.SOURCE: {
        "set_tone": ActShape(("channel", "hz")),
        "set_level": ActShape(("channel", "volts")),
        "mute": ActShape(),
        "set_burst": ActShape(("channel", "cycles", "period_seconds", "rest_db", "shaped"), needed=False),
        "end_burst": ActShape(("channel",), needed=False),
    },
    BenchRole.RECORDER: {
        "set_rate": ActShape(("hz",)),
        "record": ActShape(("samples", "inputs"), Gives.BLOCK),
        "record_burst": ActShape(("samples", "lead_seconds", "inputs"), Gives.BLOCK, needed=False),
        "fetch_supply": ActShape((), Gives.BLOCK, needed=False),
        "fetch_supply_rate": ActShape((), Gives.NUMBER, needed=False),
    },
    BenchRole.SUPPLY: {
        "set_volts": ActShape(("volts",)),
        "limit_amps": ActShape(("amps",), needed=False),
        "switch_on": ActShape(),
        "switch_off": ActShape(),
        "read_volts": ActShape((), Gives.NUMBER),
        "arm_watchdog": ActShape(("seconds",), needed=False),
        "feed_watchdog": ActShape(needed=False),
        "disarm_watchdog": ActShape(needed=False),
    },
    BenchRole.CURRENT: {"read_amps": ActShape((), Gives.NUMBER)},
    BenchRole.LOADS: {
        "open_all": ActShape(),
        "connect": ActShape(("channel", "other", "ohms")),
        "read_ohms": ActShape(("channel",), Gives.NUMBER),
    },
    BenchRole.TEMPERATURES: {
        "read_sink_c": ActShape((), Gives.NUMBER),
        "read_load_c": ActShape((), Gives.NUMBER),
    },
    BenchRole.OFF: {"allow": ActShape()},
    BenchRole.TIME: {
        "pass_time": ActShape(("seconds",)),
        "turn_gain": ActShape(("channel", "by_db"), needed=False),
        "loop": ActShape(("on",), needed=False),
    },
}
"""What each role takes.

``volts`` of a source are rms; ``other`` is the second channel of a bridged pair, 0 where there is none; ``samples`` are
of each input, and ``inputs`` how many there are to be, from the first on, where a recorder can be told: else it gives
all that it has. An armed watchdog switches the supply off where nobody feeds it for so many seconds. What is ``off`` is
a contactor or a relay in the supply's lead, which ``allow`` closes. Only simulated instruments have a time of their
own, and a hand that turns gains and loops the source back to the recorder.
"""
WATCHDOG_ACTS = ("arm_watchdog", "feed_watchdog", "disarm_watchdog")
"""What a supply that has one can do; one without the others is of no use."""
POWERING = frozenset({BenchRole.SOURCE, BenchRole.SUPPLY, BenchRole.OFF})
"""What Off speaks to: each says how it is made safe."""
HAND_ROLES = frozenset({BenchRole.LOADS, BenchRole.SUPPLY, BenchRole.TEMPERATURES})
"""What a person may do: Off must find a source that it can mute, and a reading is read from a waveform."""

SOUND_ROLES = frozenset({BenchRole.SOURCE, BenchRole.RECORDER})
SOUND_ACTS = frozenset(ROLES[BenchRole.SOURCE]) | {"set_rate", "record", "record_burst"}
"""What an audio interface does; it hears no DC, so it has nothing to say of the supply."""


@dataclass(frozen=True, slots=True)
class Range:
    """What a value may be; of a ``resolution`` other than 0 it is sent in whole steps."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    low: float
    high: float
    unit: str = ""
    resolution: float = 0.0


@dataclass(frozen=True, slots=True)
class Act:
    """The messages that do something, or the one that asks for it."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    send: tuple[str, ...] = ()
    ask: str = ""


@dataclass(frozen=True, slots=True)
class Description:
    """An instrument's description.

    Attributes:
        name: What people call this sort of instrument.
        identifies: A pattern that its answer to ``*IDN?`` begins with.
        ranges: Of what its acts are given, by name; what has none is not limited.
        channels: Outputs of a source, or inputs of a recorder, counted from 1.
        rates_hz: That a recorder has, ascending.
        safe: How it is made safe, each a message of its own.
        settles_seconds: After an act until it holds.
        timeout_seconds: For an answer.
        errors: What asks for the next entry of its error queue; empty where it has none.
        meanings: What its errors mean, in words for whoever stands there, by their numbers.
        shares_clock: Of a recorder, whether source and recorder run on one clock.
        simulated: Whether there is no such instrument.
        by_hand: Whether a person does it: messages are sentences, and what is read has its range by the act's name.
        sound: Whether it is an audio interface: it is reached through PortAudio and takes no messages.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: str
    identifies: str
    roles: tuple[BenchRole, ...]
    acts: Mapping[str, Act] = field(default_factory=dict)
    ranges: Mapping[str, Range] = field(default_factory=dict)
    channels: int = 1
    rates_hz: tuple[float, ...] = ()
    safe: tuple[str, ...] = ()
    settles_seconds: float = 0.0
    timeout_seconds: float = 2.0
    errors: str = "SYSTem:ERRor?"
    meanings: Mapping[str, str] = field(default_factory=dict)
    shares_clock: bool = False
    simulated: bool = False
    by_hand: bool = False
    sound: bool = False

    def can(self, act: str) -> bool:
        """Whether it has an act."""
        return act in self.acts or (self.sound and act in SOUND_ACTS)

    def takes(self, act: str, given: str) -> bool:
        """Whether an act has a place for something that it is given."""
        said = self.acts.get(act, Act())
        return any(name == given for message in (*said.send, said.ask) for name, _ in _PLACE.findall(message))

    def messages(self, act: str, **given: float) -> tuple[str, ...]:
        """The messages of an act, filled in.

        Raises:
            BadInput: a value that is out of its range, or no finite number.
        """
        for name, value in given.items():
            within = self.ranges.get(name)
            if not math.isfinite(value):
                raise BadInput(f"{self.name}: {name} must be a finite number, got {value}.", field=name)
            if within is not None and not within.low <= value <= within.high:
                what = f"{self.name}: {name} is {value:g} {within.unit}, outside of {within.low:g} to {within.high:g}."
                raise BadInput(what.replace(" ,", ","), field=name)
        found, given = self.acts[act], {name: self._stepped(name, value) for name, value in given.items()}
        return tuple(_filled(template, given) for template in found.send or (found.ask,))

    def meaning_of(self, problem: str) -> str:
        """What an entry of its error queue means, in words; empty where its description does not say."""
        number = re.match(r"\s*([+-]?\d+)", problem)
        return self.meanings.get(str(int(number[1])), "") if number else ""

    def _stepped(self, name: str, value: float) -> float:
        within = self.ranges.get(name)
        if within is None or not (step := within.resolution):
            return value
        return step * min(max(round(value / step), math.ceil(within.low / step)), math.floor(within.high / step))


_ADAPTER = TypeAdapter(Description)
_PLACE = re.compile(r"\{([a-z_]+)(?::(\.\d{1,2}[feg]|d))?\}")
"""A value by its name, with its digits."""


def read_description(text: str, what: str = "The description") -> Description:
    """A description from its TOML.

    Raises:
        BadInput: what is wrong with it, by field.
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise BadInput(f"{what} is no TOML: {error}.", field="description") from None
    known = {item.name for item in fields(Description)}
    if strange := sorted(data.keys() - known):
        raise BadInput(f"{what} has no field “{strange[0]}”.", field=strange[0])
    try:
        found = _ADAPTER.validate_python(_without_lone_strings(data))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "description"
        raise BadInput(f"{what}, {where}: {first['msg'].lower()}.", field=where) from None
    _refuse_unfit(found, what)
    return found


def shipped() -> dict[str, Description]:
    """The descriptions that ship with it, by the names of their files."""
    return {
        path.stem: read_description(path.read_text(encoding="utf-8"), path.name)
        for path in sorted(SHIPPED.glob("*.toml"))
    }


def _without_lone_strings(data: Mapping[str, Any]) -> dict[str, Any]:
    """A message alone may stand without its brackets."""
    acts = {
        name: act | {"send": [act["send"]]} if isinstance(act, dict) and isinstance(act.get("send"), str) else act
        for name, act in dict(data.get("acts", {})).items()
    }
    return dict(data) | {"acts": acts}


def _refuse_unfit(found: Description, what: str) -> None:
    try:
        re.compile(found.identifies)
    except re.error as error:
        raise BadInput(f"{what}: “identifies” is no pattern: {error}.", field="identifies") from None
    if not found.roles:
        raise BadInput(f"{what} says no role.", field="roles")
    shapes = {act: shape for role in found.roles for act, shape in ROLES[role].items()}
    for act, shape in shapes.items():
        if shape.needed and not found.can(act):
            raise BadInput(f"{what} does not say how to {act.replace('_', ' ')}.", field=f"acts.{act}")
    for name, said in found.acts.items():
        if name not in shapes:
            roles = " and ".join(found.roles)
            raise BadInput(f"{what}: a {roles} has no act “{name}”.", field=f"acts.{name}")
        _refuse_unfit_act(name, said, shapes[name], what, found.by_hand)
        if found.by_hand and said.ask and name not in found.ranges:
            raise BadInput(f"{what} does not say within what {name} is read.", field=f"ranges.{name}")
    told = [act for act in WATCHDOG_ACTS if found.can(act)]
    if told and len(told) < len(WATCHDOG_ACTS):
        left = next(act for act in WATCHDOG_ACTS if act not in told)
        raise BadInput(f"{what} has a watchdog and does not say how to {left.replace('_', ' ')}.", field=f"acts.{left}")
    if found.sound and (found.acts or found.safe):
        raise BadInput(f"{what}: an audio interface takes no messages.", field="acts")
    if found.sound and not set(found.roles) <= SOUND_ROLES:
        raise BadInput(f"{what}: an audio interface is a source and a recorder, nothing else.", field="roles")
    if found.by_hand and not set(found.roles) <= HAND_ROLES:
        raise BadInput(f"{what}: {', '.join(sorted(HAND_ROLES))} can be by hand, nothing else.", field="roles")
    for message in (*found.safe, found.errors):
        _refuse_unfit_message(message, (), "safe", what, found.by_hand)
    if POWERING & set(found.roles) and not (found.safe or found.sound):
        raise BadInput(f"{what} does not say how it is made safe.", field="safe")
    if BenchRole.RECORDER in found.roles and not found.rates_hz:
        raise BadInput(f"{what} says no rate.", field="rates_hz")
    for name, within in found.ranges.items():
        if not within.low <= within.high:
            raise BadInput(f"{what}: the range of {name} ends before it begins.", field=f"ranges.{name}")
        if not 0 <= within.resolution <= within.high - within.low:
            raise BadInput(f"{what}: {name} has a resolution that is none within its range.", field=f"ranges.{name}")
    for number in found.meanings:
        if not re.fullmatch(r"-?\d{1,6}", number):
            raise BadInput(f"{what}: “{number}” is no number of an error.", field="meanings")


def _refuse_unfit_act(name: str, act: Act, shape: ActShape, what: str, by_hand: bool) -> None:
    where = f"acts.{name}"
    asks = shape.gives is not Gives.NOTHING
    if asks and (not act.ask or act.send):
        raise BadInput(f"{what}: {name} takes one “ask”, as it answers.", field=where)
    if not asks and (act.ask or not act.send):
        raise BadInput(f"{what}: {name} takes “send”, as nothing answers.", field=where)
    for message in act.send or (act.ask,):
        _refuse_unfit_message(message, shape.given, where, what, by_hand)


def _refuse_unfit_message(message: str, given: Sequence[str], where: str, what: str, by_hand: bool) -> None:
    if not (message.isascii() or by_hand) or not message.isprintable() or len(message) > LONGEST_MESSAGE:
        raise BadInput(f"{what}: a message is a line of ASCII, got {message[:40]!r}.", field=where)
    for name, _ in _PLACE.findall(message):
        if name not in given:
            raise BadInput(f"{what}: nothing is called “{name}” there.", field=where)
    if set(_PLACE.sub("", message)) & set("{}"):
        raise BadInput(f"{what}: “{message}” has a brace that is no value by its name.", field=where)


def _filled(template: str, given: Mapping[str, float]) -> str:
    def put(place: re.Match[str]) -> str:
        value, how = given[place[1]], place[2] or "g"
        return format(round(value) if how == "d" else float(value), how)

    return _PLACE.sub(put, template)
