"""What was heard and read in a vehicle: sound pressure, power into a loudspeaker, impressions.

These are records, never evidence for a rating: a cabin and a loudspeaker are no load that a rating is published for.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Le, Len

from rulvek.core.electrical.moving_load import MovingLoad, moving_load
from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED, Amps, Hertz, Identity, Name, Text, Title, Volts
from rulvek.core.records.documents import Digest

SoundDecibels = Annotated[float, Ge(20), Le(200)]
Hours = Annotated[float, Ge(0), Le(20_000)]
EAR_PROTECTION_FROM_DB = 85.0
"""Directive 2003/10/EC asks for protectors from 85 dB(A) over a working day (from memory)."""


class Engine(StrEnum):
    """What feeds the vehicle's supply."""

    OFF = "engine off"
    RUNNING = "engine running"


class Better(StrEnum):
    """How a unit compares with another one, to the ear."""

    BETTER = "better"
    ALIKE = "alike"
    WORSE = "worse"


@dataclass(frozen=True, slots=True)
class MeterReadings:
    """What a sound level meter read, dB to two decimals, each repeat by itself."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    meter: Name
    decibels: Annotated[tuple[SoundDecibels, ...], Len(0, 40)]


@dataclass(frozen=True, slots=True)
class SoundPressure:
    """Sound pressure in a vehicle. ``tone_hz`` is None where music played."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    meters: Annotated[tuple[MeterReadings, ...], Len(0, 4)]
    sensor: Title
    doors_open: bool = False
    tone_hz: Hertz | None = None


@dataclass(frozen=True, slots=True)
class SpeakerWire:
    """Volts and amps (rms) at a loudspeaker's wire; ``recording`` is the file that they were worked out from.

    Without a recording the phase, and so the real power, is not known.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    volts: Volts
    amps: Amps
    tone_hz: Hertz | None = None
    phase_degrees: Annotated[float, Ge(-180), Le(180)] | None = None
    watts: Annotated[float, Ge(0), Le(100_000)] | None = None
    recording: Digest | None = None


@dataclass(frozen=True, slots=True)
class Comparison:
    """Better or worse than which unit."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    than_unit: Identity
    verdict: Better
    remark: Title = ""


@dataclass(frozen=True, slots=True)
class ListeningEntry:
    """A unit in a vehicle or a room: what played, for how long, and what was read and heard."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    on: date
    source: Title = ""
    engine: Engine = Engine.OFF
    supply_volts: Annotated[float, Ge(1), Le(30)] | None = None
    hours: Hours | None = None
    sound: SoundPressure | None = None
    wire: SpeakerWire | None = None
    comparisons: Annotated[tuple[Comparison, ...], Len(0, 12)] = ()
    remarks: Text = ""


def refuse_silent(entry: ListeningEntry) -> None:
    """Hold a listening record to it that it says something.

    Raises:
        BadInput: nothing was read, heard or remarked; or a meter without readings; or a wire without current.
    """
    if not (entry.sound or entry.wire or entry.comparisons or entry.remarks.strip() or entry.hours):
        raise BadInput("Say what was read or heard.", field="remarks")
    for at, meter in enumerate(entry.sound.meters if entry.sound else ()):
        if not meter.decibels:
            raise BadInput(f"Say what “{meter.meter}” read.", field=f"sound.meters.{at}.decibels")
    if entry.sound and not entry.sound.meters:
        raise BadInput("Say what the meter read.", field="sound.meters")
    if entry.wire and not entry.wire.amps:
        raise BadInput("Without current there is no load to speak of.", field="wire.amps")


def best(readings: Sequence[float]) -> float:
    """The best of repeats, dB to two decimals.

    >>> best([128.41, 128.97, 128.6])
    128.97
    """
    return round(max(readings), 2)


def load_of(wire: SpeakerWire) -> MovingLoad:
    """What the loudspeaker was to the amplifier just then."""
    return moving_load(wire.volts, wire.amps, wire.phase_degrees, wire.watts)


def asks_for_ear_protection(entry: ListeningEntry) -> bool:
    """Whether somebody in there needs ear protection."""
    meters = entry.sound.meters if entry.sound else ()
    return any(best(meter.decibels) >= EAR_PROTECTION_FROM_DB for meter in meters if meter.decibels)
