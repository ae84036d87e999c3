"""A first uncertainty of a certified reading: the level bracket and the load's tolerance.

The full budget (instruments, repeatability, supply) is not in it yet, and the figure says so wherever it is shown.
"""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Uncertainty:
    """Standard uncertainties in watts and the expanded one, ``k`` times their root sum of squares."""

    bracket_watts: float
    load_watts: float
    coverage_factor: float

    @property
    def expanded_watts(self) -> float:
        """U = k · u, in watts."""
        return self.coverage_factor * math.hypot(self.bracket_watts, self.load_watts)


def first_uncertainty(
    watts: float, bracket_db: float | None, load_tolerance: float, coverage_factor: float = 2.0
) -> Uncertainty:
    """Combine bracket and load tolerance after the GUM (JCGM 100:2008, 4.3.7 and 5.1.2).

    Args:
        watts: The reading, ≥ 0.
        bracket_db: Width of the level bracket; None counts as no contribution. The limit lies somewhere within it
            with equal probability: a rectangle of full width ``P · (10^(b/10) − 1)``, hence u = width / √12.
        load_tolerance: Relative half-width of the load's true value around the measured one: u = P · t / √3.
        coverage_factor: k.
    """
    width = watts * (10 ** ((bracket_db or 0.0) / 10) - 1)
    return Uncertainty(width / math.sqrt(12), watts * load_tolerance / math.sqrt(3), coverage_factor)
