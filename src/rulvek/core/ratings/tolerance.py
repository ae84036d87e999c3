"""One-sided tolerance bounds: a figure that a share of all units reaches, with a stated confidence."""

import math
from functools import cache

import numpy as np
import scipy

from rulvek.core.errors import BadInput

MOST_UNITS = 100_000
SEED = 19_630_608
"""The same units give the same bound, wherever it is worked out."""
_DRAWS, _VALUES = 40_000, 1_200_000
_MANY_UNITS = 200
"""From here on the factor for the weakest of several hardly moves beside the normal one."""


@cache
def normal_factor(n: int, share: float, confidence: float) -> float:
    """The factor k of the lower bound x̄ - k·s, where units scatter as a normal distribution does.

    Args:
        n: Units; at least 2.
        share: Of all units, that is to reach the bound; between 0 and 1.
        confidence: That they do; between 0 and 1.

    Source: k = t'(confidence; n - 1, z·√n)/√n with the non-central t (Owen 1963; NIST/SEMATECH e-Handbook, 7.2.6.3).

    >>> round(normal_factor(43, 0.90, 0.99), 4)
    1.874
    """
    _refuse_odd(share, confidence)
    if n < 2:
        raise ValueError(f"a spread takes two units, got {n}")
    shift = float(scipy.stats.norm.ppf(share)) * math.sqrt(n)
    return float(scipy.stats.nct.ppf(confidence, n - 1, shift)) / math.sqrt(n)


@cache
def weakest_factor(n: int, share: float, confidence: float, channels: int) -> float:
    """The factor k of x̄ - k·s where each of n figures is the weakest of several channels; never under the normal one.

    Args:
        channels: That are read of each unit. They are taken to scatter normally and to have nothing in common, which
            leans furthest downwards: the more units' channels are alike, the more the bound is on the safe side.

    The weakest of c such channels has one shape, so that (x̄ - quantile)/s does not depend on their mean or spread: its
    quantile at the confidence is the factor. It comes from seeded draws, beside normal ones of the same luck.

    >>> [round(weakest_factor(12, 0.95, 0.95, channels), 2) for channels in (1, 2, 4, 8)]
    [2.74, 2.85, 2.95, 3.05]
    """
    k = normal_factor(n, share, confidence)
    return k * max(1.0, _lean(min(n, _MANY_UNITS), share, confidence, channels)) if channels > 1 else k


@cache
def _lean(n: int, share: float, confidence: float, channels: int) -> float:
    """How much larger the factor is for the weakest of several channels than for one."""
    luck = np.random.default_rng(SEED).random((min(_DRAWS, _VALUES // n), n))
    # Of c channels none is under what one is under with the c-th root of that chance.
    weakest = -scipy.special.ndtri(luck ** (1 / channels))
    low = float(scipy.special.ndtri(-math.expm1(math.log(share) / channels)))
    return _pivot(weakest, low, confidence) / _pivot(
        -scipy.special.ndtri(luck), float(scipy.special.ndtri(1 - share)), confidence
    )


def _pivot(drawn: np.ndarray, quantile: float, confidence: float) -> float:
    """How many spreads below its mean a sample's bound has to lie; ``drawn`` has one sample a row."""
    return float(np.quantile((drawn.mean(axis=1) - quantile) / drawn.std(axis=1, ddof=1), confidence))


def smallest_suffices(share: float, confidence: float) -> int:
    """How many units it takes until the smallest of them is a bound, whatever their distribution.

    n ≥ ln(1 - confidence)/ln(share) (Wilks 1941).

    >>> smallest_suffices(0.95, 0.95), smallest_suffices(0.90, 0.95), smallest_suffices(0.99, 0.95)
    (59, 29, 299)
    """
    _refuse_odd(share, confidence)
    return math.ceil(math.log(1 - confidence) / math.log(share) - 1e-12)


def bounding_rank(n: int, share: float, confidence: float) -> int:
    """Which of n units in rising order is a bound whatever their distribution: 1 for the smallest, 0 for none.

    The largest r for which at least r of n units fall below the share's quantile with that confidence.

    >>> bounding_rank(58, 0.95, 0.95), bounding_rank(59, 0.95, 0.95), bounding_rank(93, 0.95, 0.95)
    (0, 1, 2)
    """
    _refuse_odd(share, confidence)
    rank = int(scipy.stats.binom.ppf(1 - confidence, n, 1 - share))
    while rank > 0 and scipy.stats.binom.sf(rank - 1, n, 1 - share) < confidence:
        rank -= 1
    while scipy.stats.binom.sf(rank, n, 1 - share) >= confidence:
        rank += 1
    return rank


def chance_of(n: int, margin: float, share: float, confidence: float, channels: int = 1) -> float:
    """The chance that n units bear a figure, where production scatters as a normal distribution does.

    Args:
        margin: How far the figure lies below production's mean, in its standard deviations.
        channels: Of which each unit's figure is the weakest.

    x̄ - k·s reaches the figure where (x̄ - figure)·√n/s, a non-central t, is at least k·√n: at the margin of the share's
    own quantile that is 1 - confidence, by the definition of the bound.

    >>> round(chance_of(10, 1.6448536269514722, 0.95, 0.95), 6)
    0.05
    """
    k = weakest_factor(n, share, confidence, channels)
    return float(scipy.stats.nct.sf(k * math.sqrt(n), n - 1, margin * math.sqrt(n)))


def units_for(margin: float, share: float, confidence: float, chance: float = 0.5, channels: int = 1) -> int | None:
    """The fewest units that bear a figure with a chance; None where no number of them does.

    >>> units_for(2.5, 0.95, 0.95), units_for(1.6, 0.95, 0.95)
    (16, None)
    """
    if margin <= float(scipy.stats.norm.ppf(share)):
        return None
    high = 2
    while chance_of(high, margin, share, confidence, channels) < chance:
        high *= 2
        if high > MOST_UNITS:
            return None
    low = max(2, high // 2)
    while low < high:
        middle = (low + high) // 2
        if chance_of(middle, margin, share, confidence, channels) >= chance:
            high = middle
        else:
            low = middle + 1
    return low


def _refuse_odd(share: float, confidence: float) -> None:
    for name, value in (("share", share), ("confidence", confidence)):
        if not 0.5 <= value <= 0.9999:
            raise BadInput(f"The {name} lies between 0.5 and 0.9999, not at {value:g}.", field=name)
