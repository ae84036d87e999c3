"""What a procedure yields and is sent: the vocabulary between those that decide and those that act.

A procedure decides and never acts: it yields what it wants done and is sent what came back, so that the same
procedure runs against the simulated bench, real instruments or a recording. Cleaning up (muting the source) is left
to whoever conducts it, because a generator that was closed cannot yield.
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

from rulvek.core.measure.capture import Capture
from rulvek.core.measure.reading import Point


class Mode(StrEnum):
    """How a unit is driven in a run."""

    CERTIFIED = "certified"
    UNCERTIFIED = "uncertified"
    BURST = "burst"


class End(StrEnum):
    """How a run ended. Only ``LIMIT`` makes a certified reading *at* the limit."""

    LIMIT = "limit"
    CLIP = "clip"
    NO_MORE_OUTPUT = "no_more_output"
    PROTECTED = "protected"
    RECOVERING = "recovering"
    INPUT_EXHAUSTED = "input_exhausted"
    SUPPLY_LOW = "supply_low"
    TOO_HOT = "too_hot"
    OPERATOR = "operator"
    LINK_LOST = "link_lost"


def reached(mode: Mode, end: End) -> bool:
    """Whether a run ended as its mode is meant to end; after any other end it stopped short."""
    if mode is Mode.UNCERTIFIED:
        return end in (End.CLIP, End.NO_MORE_OUTPUT)
    return end is End.LIMIT


@dataclass(frozen=True, slots=True)
class SetLevel:
    """Drive the channels under test with this rms level, in dB re 1 V at the amplifier's input."""

    level_dbv: float


@dataclass(frozen=True, slots=True)
class Settle:
    """Let the bench run for so many seconds without measuring."""

    seconds: float


@dataclass(frozen=True, slots=True)
class TakeCapture:
    """Record for so many seconds, from now on or from shortly before the next burst; answered with a capture."""

    seconds: float
    at_burst: bool = False


Phase = Literal["rising", "closing_in", "dwell", "pushing_on"]


@dataclass(frozen=True, slots=True)
class Measured:
    """Tells watchers what was read; answered with None."""

    point: Point
    phase: Phase
    over_limit: bool


Step = SetLevel | Settle | TakeCapture | Measured


@dataclass(frozen=True, slots=True)
class Interrupted:
    """Sent in place of a capture when the run cannot go on."""

    end: Literal[End.OPERATOR, End.LINK_LOST]


Answer = Capture | Interrupted | None


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a run yields.

    Attributes:
        end: Why it ended.
        reading: The measured point with the highest level at or under the limit; None if there was none.
        bracket_db: From that level to the lowest one found over the limit; None when no such level was found.
        tripped_watts: Weakest channel's watts when protection tripped first; None if it never did.
        points: Every point measured, in order.
        largest: The point with the most power of all, where the procedure goes on to look for it (burst).
    """

    end: End
    reading: Point | None
    bracket_db: float | None
    tripped_watts: float | None
    points: tuple[Point, ...]
    largest: Point | None = None
