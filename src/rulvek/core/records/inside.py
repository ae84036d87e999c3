"""What is inside of a unit, as it was found when it was opened; and photographs of it, with markers."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Le, Len

from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED, Amps, Channel, Name, Text, Title
from rulvek.core.records.documents import Digest

PartVolts = Annotated[float, Ge(1), Le(1_000)]
PartCelsius = Annotated[float, Ge(40), Le(250)]
PartCount = Annotated[int, Ge(1), Le(1_000)]
Share = Annotated[float, Ge(0), Le(1)]


class PartPlace(StrEnum):
    """What a part is there for."""

    INPUT_CAPACITOR = "capacitor at the supply's input"
    RAIL_CAPACITOR = "capacitor of the rails"
    TRANSFORMER = "transformer"
    RECTIFIER = "rectifier bridge"
    OUTPUT_DEVICE = "output device"
    OUTPUT_FILTER = "output filter"
    WIRE = "internal wire"
    FAN = "fan"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Part:
    """Parts that are alike: how many, what value, rating, and the maker's mark as it was read.

    ``channels`` says of an output device whose it is.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    place: PartPlace
    count: PartCount = 1
    value: Name = ""
    volts: PartVolts | None = None
    celsius: PartCelsius | None = None
    mark: Name = ""
    channels: Annotated[tuple[Channel, ...], Len(0, 16)] = ()


@dataclass(frozen=True, slots=True)
class FuseFound:
    """A fuse on the unit, and whether current really flows through it."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    amps: Amps
    in_circuit: bool
    remark: Title = ""


@dataclass(frozen=True, slots=True)
class InsideEntry:
    """A unit as it was found inside. ``made_safe`` says that it was disconnected, and its capacitors empty."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    made_safe: bool
    opened_on: date | None = None
    board_revision: Name = ""
    parts: Annotated[tuple[Part, ...], Len(0, 60)] = ()
    fuses: Annotated[tuple[FuseFound, ...], Len(0, 12)] = ()
    fan_ran: bool | None = None
    remarks: Text = ""


def refuse_unsafe(entry: InsideEntry) -> None:
    """Hold a unit's opening to its tick.

    Raises:
        BadInput: nobody said that it was safe to reach in.
    """
    if not entry.made_safe:
        what = "Tick that it was disconnected and its capacitors discharged and checked before it was opened."
        raise BadInput(what, field="made_safe")


def fuses_doubted(found: Sequence[FuseFound], stated: Sequence[float]) -> str:
    """What is odd about the fuses that carry current; empty where they are as the model has them.

    >>> fuses_doubted([FuseFound(40.0, True), FuseFound(40.0, True), FuseFound(40.0, False)], [40.0, 40.0, 40.0])
    '2 of 3 fuses are in circuit: 80 A, not 120 A, protect the leads and carry the current.'
    >>> fuses_doubted([FuseFound(30.0, True)], [30.0])
    ''
    """
    if not found:
        return ""
    carrying = [fuse.amps for fuse in found if fuse.in_circuit]
    in_all = sum(stated) or sum(fuse.amps for fuse in found)
    if len(carrying) == len(found) and (not stated or sum(carrying) == in_all):
        return ""
    if not carrying:
        return "No fuse is in circuit: nothing on the unit protects its leads."
    are = "is" if len(carrying) == 1 else "are"
    return (
        f"{len(carrying)} of {len(found)} fuses {are} in circuit: {sum(carrying):g} A, not {in_all:g} A, protect the"
        " leads and carry the current."
    )


@dataclass(frozen=True, slots=True)
class Marker:
    """A numbered place on a photograph, as shares of its width and height from the left upper corner."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    x: Share
    y: Share
    part: Title


@dataclass(frozen=True, slots=True)
class PhotographEntry:
    """A photograph of a unit; ``place`` says which side of it, markers carry parts in the order of their numbers."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    file: Digest
    caption: Title = ""
    place: Name = ""
    markers: Annotated[tuple[Marker, ...], Len(0, 40)] = ()
