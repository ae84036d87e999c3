"""How long fuses carry more than their rating. A fuse rating is no measure of power: see ``opens_between``."""

import math
from collections.abc import Sequence
from itertools import pairwise

BANDS: Sequence[tuple[float, float, float]] = (
    (1.10, 360_000.0, math.inf),
    (1.35, 0.75, 600.0),
    (1.60, 0.25, 50.0),
    (2.00, 0.15, 5.0),
    (3.50, 0.04, 0.5),
    (6.00, 0.02, 0.1),
)
"""Multiple of the rating, shortest and longest seconds to open: blade fuses, ISO 8820-3 limits, from memory."""


def opens_between(ratio: float) -> tuple[float, float]:
    """Shortest and longest time to open, seconds, at ``ratio`` times the rating; infinite where it never does.

    Between the tabled multiples both limits run straight on logarithmic scales; beyond the last they stay as there.

    >>> tuple(round(seconds, 2) for seconds in opens_between(2.0))
    (0.15, 5.0)
    """
    if ratio < BANDS[0][0]:
        return math.inf, math.inf
    for (low, *low_times), (high, *high_times) in pairwise(BANDS):
        if ratio <= high:
            share = math.log(ratio / low) / math.log(high / low)
            earliest, latest = (_between(a, b, share) for a, b in zip(low_times, high_times, strict=True))
            return earliest, latest
    return BANDS[-1][1], BANDS[-1][2]


def stress(amps: float, seconds: float, rating_amps: float) -> float:
    """Share of the shortest time to open that is used up; from 1 on a fuse within its limits may open.

    Args:
        amps: Through all fuses together.
        seconds: How long.
        rating_amps: Sum of the ratings of fuses in parallel, > 0.
    """
    if rating_amps <= 0:
        raise ValueError(f"a fuse rating must be above 0 A, got {rating_amps}")
    earliest, _ = opens_between(amps / rating_amps)
    return 0.0 if math.isinf(earliest) else seconds / earliest


def _between(low: float, high: float, share: float) -> float:
    if math.isinf(low):
        return high if share >= 1 else math.inf
    return math.exp(math.log(low) + share * (math.log(high) - math.log(low)))
