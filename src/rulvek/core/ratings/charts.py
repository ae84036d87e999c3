"""Charts of individuals and moving ranges: whether production still is as it was."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from math import fsum

import numpy as np

D2 = 1.128
"""Mean range of two normal values, in standard deviations (Montgomery, Introduction to Statistical Quality Control)."""
D4 = 3.267
"""Upper limit of a moving range of two, in mean ranges (same)."""
FEWEST = 8
"""Fewer values tell no limits (ours)."""


class Signal(StrEnum):
    """What speaks for a change: the four rules of the Western Electric handbook of 1956, from memory."""

    BEYOND = "one value beyond three sigma"
    TWO_OF_THREE = "two of three beyond two sigma on one side"
    FOUR_OF_FIVE = "four of five beyond one sigma on one side"
    EIGHT = "eight in a row on one side"


_RULES: Sequence[tuple[Signal, int, int, float]] = (
    (Signal.BEYOND, 1, 1, 3.0),
    (Signal.TWO_OF_THREE, 2, 3, 2.0),
    (Signal.FOUR_OF_FIVE, 4, 5, 1.0),
    (Signal.EIGHT, 8, 8, 0.0),
)
"""How many out of how many lie further than so many sigma on one side."""


@dataclass(frozen=True, slots=True)
class Limits:
    """Limits of a chart of individuals: ``centre`` ± 3 ``sigma``, which is 2.66 mean moving ranges."""

    centre: float
    sigma: float

    @property
    def low(self) -> float:
        """Below which a value is a signal by itself."""
        return self.centre - 3 * self.sigma

    @property
    def high(self) -> float:
        """Above which it is."""
        return self.centre + 3 * self.sigma

    @property
    def mean_range(self) -> float:
        """The mean moving range."""
        return D2 * self.sigma

    @property
    def highest_range(self) -> float:
        """Above which a moving range is a signal."""
        return D4 * D2 * self.sigma


@dataclass(frozen=True, slots=True)
class Signalled:
    """A value, by its place in the row, that speaks for a change; ``down`` says on which side."""

    at: int
    signal: Signal
    down: bool


def limits_of(values: Sequence[float]) -> Limits | None:
    """Limits by the values of a time when nothing changed, in their order; None where they are too few to tell.

    >>> limits = limits_of([10.0, 12.0, 10.0, 12.0, 10.0, 12.0, 10.0, 12.0])
    >>> limits.centre, round(limits.high - limits.centre, 2)
    (11.0, 5.32)
    """
    if len(values) < FEWEST:
        return None
    ranges = moving_ranges(values)
    return Limits(fsum(values) / len(values), fsum(ranges) / len(ranges) / D2)


def moving_ranges(values: Sequence[float]) -> list[float]:
    """How far each value is from the one before."""
    return [abs(after - before) for before, after in pairwise(values)]


def signals(values: Sequence[float], limits: Limits, runs: bool = True) -> list[Signalled]:
    """Which values, in their order, speak for a change; each by the first rule that it meets.

    Without the rules for ``runs`` only a value beyond three sigma does.

    >>> [one.at for one in signals([11.0, 11.5, 5.0, 11.0], Limits(11.0, 1.0))]
    [2]
    """
    found: dict[int, Signalled] = {}
    off = np.asarray(values, dtype=float) - limits.centre
    for down in (True, False):
        for signal, wanted, of, sigmas in _RULES if runs else _RULES[:1]:
            beyond = (-off if down else off) > sigmas * limits.sigma
            many = np.convolve(np.append(beyond, False), np.ones(of))[: len(off)]
            # The latest is one of them: a value that is back where it belongs signals nothing.
            for at in np.flatnonzero(beyond & (many >= wanted)).tolist():
                found.setdefault(at, Signalled(at, signal, down))
    return [found[at] for at in sorted(found)]
