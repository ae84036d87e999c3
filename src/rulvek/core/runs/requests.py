"""What a procedure yields and is sent: the vocabulary between those that decide and those that act.

A procedure decides and never acts: it yields what it wants done and is sent what came back, so that the same
procedure runs against the simulated bench, real instruments or a recording. Cleaning up (muting the source) is left
to whoever conducts it, because a generator that was closed cannot yield.
"""

import math
from dataclasses import dataclass
from typing import Literal

from rulvek.core.readings.point import Point
from rulvek.core.runs.modes import End
from rulvek.core.signals.capture import Capture


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


@dataclass(frozen=True, slots=True)
class Restart:
    """Switch the amplifier off and on again, as protection holds; the level is harmless."""


Phase = Literal["rising", "closing_in", "dwell", "pushing_on"]


@dataclass(frozen=True, slots=True)
class Measured:
    """Tells watchers what was read; answered with None."""

    point: Point
    phase: Phase
    over_limit: bool


Request = SetLevel | Settle | TakeCapture | Restart | Measured


@dataclass(frozen=True, slots=True)
class Interrupted:
    """Sent in place of a capture when the run cannot go on."""

    end: End


Answer = Capture | Interrupted | None


_TELLING_DB, _TELLING_RATIO = 0.03, 1.1
"""Points that are closer, or hardly more distorted, tell noise."""


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a run yields.

    Attributes:
        end: Why it ended.
        reading: The measured point with the highest level at or under the limit; None if there was none.
        bracket_db: From that level to the lowest one found over the limit, or at which protection acted; None when no
            such level was found.
        tripped_watts: Weakest channel's watts at the lowest level at which protection acted; None if it never did.
        points: Every point measured, in order.
        largest: The point with the most power of all, where the procedure goes on to look for it (burst).
        largest_bracket_db: How much more came out with the last step past it, in dB; None where the source ended it.
        beyond: The highest level within the limit, where levels between it and the reading are not.
        held: Whether the reading was held for the dwell.
    """

    end: End
    reading: Point | None
    bracket_db: float | None
    tripped_watts: float | None
    points: tuple[Point, ...]
    largest: Point | None = None
    largest_bracket_db: float | None = None
    beyond: Point | None = None
    held: bool = True

    @property
    def why_none(self) -> str:
        """That no level was within the limit, in a sentence; empty where one was, or where not all were tried."""
        told = [point for point in self.points if math.isfinite(point.worst_thd_n)]
        if self.reading is not None or not told or self.end not in (End.LIMIT, End.CLIP):
            return ""
        cleanest = min(told, key=lambda point: point.worst_thd_n)
        return (
            f"No level was within the limit: THD+N was least at {cleanest.weakest_watts:.3g} W, "
            f"with {100 * cleanest.worst_thd_n:.3g} %."
        )

    @property
    def limit_slope(self) -> float | None:
        """How much more power a larger THD+N comes with, d ln P / d ln THD+N, measured from the reading upwards.

        From the nearest point that is at least a step of the bracket louder and more distorted; None without one.
        """
        if self.reading is None or not 0 < self.reading.worst_thd_n < math.inf:
            return None
        above = [
            point
            for point in self.points
            if point.level_dbv >= self.reading.level_dbv + _TELLING_DB
            and self.reading.worst_thd_n * _TELLING_RATIO < point.worst_thd_n < math.inf
            and point.weakest_watts > 0
        ]
        nearest = min(above, key=lambda point: point.level_dbv, default=None)
        if nearest is None or self.reading.weakest_watts <= 0:
            return None
        more = math.log(nearest.weakest_watts / self.reading.weakest_watts)
        return max(0.0, more / math.log(nearest.worst_thd_n / self.reading.worst_thd_n))
