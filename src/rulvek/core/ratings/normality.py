"""Whether units scatter as a normal distribution does, as far as that can be seen."""

import math
from dataclasses import dataclass

import numpy as np
import scipy

FEWEST = 8
"""Of fewer units no test tells anything."""
DOUBTED_BELOW = 0.05


@dataclass(frozen=True, slots=True)
class Normality:
    """Anderson–Darling's A², for a mean and a spread that are estimated; ``p`` is how likely a larger one would be."""

    statistic: float
    p: float

    @property
    def is_doubted(self) -> bool:
        """Whether normal units would hardly look like this."""
        return self.p < DOUBTED_BELOW


def normal_scores(n: int) -> tuple[float, ...]:
    """Where n normal units are expected in standard deviations, the least first; for a probability plot.

    Source: Blom's plotting positions (i - 3/8)/(n + 1/4) (1958).

    >>> [round(one, 3) for one in normal_scores(5)]
    [-1.18, -0.497, 0.0, 0.497, 1.18]
    """
    return tuple(float(one) for one in scipy.stats.norm.ppf((np.arange(1, n + 1) - 0.375) / (n + 0.25)))


def anderson_darling(values: np.ndarray) -> Normality | None:
    """How well a normal distribution fits.

    Args:
        values: One-dimensional; None is returned for fewer than :data:`FEWEST`, or where all are the same.

    Source: A²* = A²(1 + 0.75/n + 2.25/n²) and the curves for p, D'Agostino and Stephens, *Goodness-of-fit techniques*
    (1986), table 4.9 (from memory; the 5 % point is 0.752).
    """
    n = len(values)
    spread = float(np.std(values, ddof=1)) if n > 1 else 0.0
    if n < FEWEST or spread <= 1e-12 * float(np.max(np.abs(values))):
        return None
    y = (np.sort(values) - np.mean(values)) / spread
    at = np.arange(1, n + 1)
    plain = -n - float(np.sum((2 * at - 1) * (scipy.stats.norm.logcdf(y) + scipy.stats.norm.logsf(y)[::-1]))) / n
    a = plain * (1 + 0.75 / n + 2.25 / n**2)
    if a < 0.2:
        p = 1 - math.exp(-13.436 + 101.14 * a - 223.73 * a * a)
    elif a < 0.34:
        p = 1 - math.exp(-8.318 + 42.796 * a - 59.938 * a * a)
    elif a < 0.6:
        p = math.exp(0.9177 - 4.279 * a - 1.38 * a * a)
    else:
        p = math.exp(max(-700.0, 1.2937 - 5.709 * a + 0.0186 * a * a)) if a < 100 else 0.0
    return Normality(a, min(1.0, p))
