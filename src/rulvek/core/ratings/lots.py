"""Units of several lots: how much lots scatter among each other, and what that leaves of a bound.

Ten units of one lot are not ten of production: what lots differ by is seen only between lots.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

DRAWS = 100_000
SEED = 19_630_219
"""The same units give the same bound, wherever it is worked out."""
FEWEST = 3
"""Of fewer lots their scatter says nothing."""


@dataclass(frozen=True, slots=True)
class Components:
    """Standard deviations between lots and within them, by analysis of variance; none between comes out as 0.

    Attributes:
        mean: Of the lots' means: production is made of lots.
        between_squares: Sum of squares of the lots' means about it.
        within_squares, within_freedom: Sum of squares of the units about their lots' means, and its degrees of freedom.
        usual_size: Harmonic mean of the lots' units.
    """

    lots: int
    units: int
    mean: float
    between: float
    within: float
    between_squares: float
    within_squares: float
    within_freedom: int
    usual_size: float

    @property
    def spread(self) -> float:
        """Of units of production: both together."""
        return math.hypot(self.between, self.within)


def components(lots: Sequence[np.ndarray]) -> Components:
    """Split the scatter of units into that between lots and that within (one-way, random effects; lots of any size).

    Args:
        lots: The units' watts, lot by lot; at least two lots, and one with two units.
    """
    sizes = np.array([len(one) for one in lots], dtype=float)
    means = np.array([float(np.mean(one)) for one in lots])
    units, count = int(sizes.sum()), len(lots)
    within_squares = float(sum(np.sum((one - np.mean(one)) ** 2) for one in lots))
    freedom = units - count
    within = within_squares / freedom
    grand = float(np.sum(sizes * means) / units)
    between_mean_square = float(np.sum(sizes * (means - grand) ** 2)) / (count - 1)
    weight = (units - float(np.sum(sizes**2)) / units) / (count - 1)
    mean = float(np.mean(means))
    return Components(
        lots=count,
        units=units,
        mean=mean,
        between=math.sqrt(max(0.0, (between_mean_square - within) / weight)),
        within=math.sqrt(within),
        between_squares=float(np.sum((means - mean) ** 2)),
        within_squares=within_squares,
        within_freedom=freedom,
        usual_size=float(count / np.sum(1 / sizes)),
    )


def lots_bound(of: Components, share: float, confidence: float, draws: int = DRAWS) -> float:
    """The lower bound for units of production, from lots of any sizes.

    Source: the generalised pivotal quantity of Krishnamoorthy and Mathew (Technometrics 2004; *Statistical tolerance
    regions*, 2009, chapter 5; from memory), by seeded draws. With R₁ = SS(lot means)/χ²(a - 1) for σ²τ + σ²e/ñ,
    Rₑ = SS(within)/χ²(N - a) for σ²e and a standard normal Z, the bound is the (1 - confidence) quantile of
    ȳ - Z·√(R₁/a) - z·√(R₁ + (1 - 1/ñ)·Rₑ).
    """
    draw = np.random.default_rng(SEED)
    z = float(scipy.stats.norm.ppf(share))
    first = of.between_squares / draw.chisquare(of.lots - 1, draws)
    inner = of.within_squares / draw.chisquare(of.within_freedom, draws)
    middle = draw.standard_normal(draws) * np.sqrt(first / of.lots)
    quantity = of.mean - middle - z * np.sqrt(first + (1 - 1 / of.usual_size) * inner)
    return float(np.quantile(quantity, 1 - confidence))


def lots_factor(lots: int, size: float, ratio: float, share: float, confidence: float) -> float:
    """The factor k of mean - k·spread for lots of one size, were the ratio of variances between and within known.

    Source: Mee and Owen (1983), Satterthwaite's degrees of freedom (from memory). It plans how many lots a figure
    takes; bounds are drawn by :func:`lots_bound`, for which the ratio is not known.
    """
    freedom = (ratio + 1) ** 2 / ((ratio + 1 / size) ** 2 / (lots - 1) + (size - 1) / (size**2 * lots))
    effective = lots * size * (ratio + 1) / (size * ratio + 1)
    shift = float(scipy.stats.norm.ppf(share)) * math.sqrt(effective)
    return float(scipy.stats.nct.ppf(confidence, freedom, shift)) / math.sqrt(effective)
