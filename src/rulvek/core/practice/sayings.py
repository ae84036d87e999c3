"""What is often said of power, true or not; a measurement tells which."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class Saying(StrEnum):
    """A sentence that is heard at benches."""

    CERTIFIED_TO_CLIPPING = "certified-to-clipping"
    FUSES_TELL = "fuses-tell"
    BURST_EFFICIENCY = "burst-efficiency"
    HALF_LOAD_DOUBLE = "half-load-double"
    ONE_FOR_ALL = "one-for-all"
    WEAKEST_BACKS = "weakest-backs"
    THREE_DECIBELS = "three-decibels"


@dataclass(frozen=True, slots=True)
class Said:
    """The sentence, and whether it holds."""

    words: str
    holds: bool


SAYINGS: Mapping[Saying, Said] = {
    Saying.CERTIFIED_TO_CLIPPING: Said("Certified power is the power up to clipping.", False),
    Saying.FUSES_TELL: Said("The fuses tell how much power an amplifier gives.", False),
    Saying.BURST_EFFICIENCY: Said(
        "A burst's efficiency is its watts over the supply's mean watts, as in a steady run.", False
    ),
    Saying.HALF_LOAD_DOUBLE: Said("Half the ohms, twice the power.", False),
    Saying.ONE_FOR_ALL: Said("One channel driven alone shows what each gives when all are driven.", False),
    Saying.WEAKEST_BACKS: Said("It is the weakest channel that backs a claim of watts per channel.", True),
    Saying.THREE_DECIBELS: Said("Below the limit, 3 dB more level is twice the power.", True),
}


@dataclass(frozen=True, slots=True)
class Measured:
    """A figure that tells: what it is, how much, in which unit."""

    what: str
    value: float
    unit: str
