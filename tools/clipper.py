"""A hard clipper in closed form: its harmonics by Fourier's series, its power at a limit of THD+N."""

import math
from functools import cache

from scipy.optimize import brentq


def harmonics(drive: float, last: int) -> list[float]:
    """Peak of harmonics 1, 3, 5 … of a sine of this peak that is clipped at ±1."""
    a = math.asin(min(1.0, 1 / drive))
    found = [2 / math.pi * (drive * (a - math.sin(2 * a) / 2) + 2 * math.cos(a))]
    for n in range(3, last + 1, 2):
        both = drive * (math.sin((n - 1) * a) / (n - 1) - math.sin((n + 1) * a) / (n + 1))
        found.append(2 / math.pi * (both + 2 * math.cos(n * a) / n))
    return found


@cache
def closed_form(limit: float, last: int) -> float:
    """Power at the limit over that of a full sine."""

    def over(drive: float) -> float:
        first, *others = harmonics(drive, last)
        rest = sum(one**2 for one in others)
        return math.sqrt(rest / (first**2 + rest)) - limit

    return sum(one**2 for one in harmonics(float(brentq(over, 1.0001, 3.0)), last))
