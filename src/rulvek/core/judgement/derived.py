"""The uncertainty of what is worked out from readings: averages, efficiency, sag, headroom (GUM 5.1.2 and 5.2.2).

What two figures share (a meter's gain, the loads) moves them together: it counts in full in a sum, and not at all in a
ratio or a difference of the two.
"""

import math
from collections.abc import Sequence

from rulvek.core.judgement.uncertainty import Budget, coverage_factor
from rulvek.core.records.instruments import Specification

OWN = ("level bracket", "repeatability")
"""Lines of a budget that are each reading's own; meters and loads are off alike in all of a unit's."""
DB_PER_RATIO = 10 / math.log(10)


def own_share(budget: Budget) -> float:
    """Relative standard uncertainty of what is a reading's own."""
    return math.sqrt(math.fsum(c.watts**2 for c in budget.components if c.name in OWN)) / budget.estimate


def average_expanded(budgets: Sequence[Budget]) -> float | None:
    """U of the mean of channels: what is each one's own averages out, what they share does not."""
    if not budgets:
        return None
    shared = [math.sqrt(max(0.0, b.standard**2 - (own_share(b) * b.estimate) ** 2)) for b in budgets]
    own = math.sqrt(math.fsum((own_share(b) * b.estimate) ** 2 for b in budgets)) / len(budgets)
    standard = math.hypot(math.fsum(shared) / len(shared), own)
    return coverage_factor(min(b.freedom for b in budgets)) * standard


def efficiency_expanded(
    efficiency: float, output: Budget, volts: float, amps: float, supply: Specification, clamp: Specification
) -> float:
    """U of output over volts times amps, a ratio.

    Args:
        output: Of the weakest channel; the others are read with the same meter, so that all have its relative doubt.
        supply, clamp: What read the supply's volts and amps.
    """
    parts = [
        output.standard / output.estimate,
        supply.half_width(volts) / math.sqrt(3) / volts,
        clamp.half_width(amps) / math.sqrt(3) / amps,
    ]
    return coverage_factor(output.freedom) * efficiency * math.hypot(*parts)


def sag_expanded(sag_volts: float, supply: Specification) -> float:
    """U of the difference of two readings of one meter, in V: its gain moves both, each is rounded by itself."""
    gain = abs(sag_volts) * supply.percent_of_reading / 100
    digit = supply.resolution * max(0.5, supply.digits)
    return coverage_factor(math.inf) * math.hypot(gain, math.sqrt(2) * digit) / math.sqrt(3)


def headroom_expanded(burst: Budget, certified: Budget) -> float:
    """U of burst over certified in dB: the same meter and the same loads cancel."""
    freedom = min(burst.freedom, certified.freedom)
    return coverage_factor(freedom) * DB_PER_RATIO * math.hypot(own_share(burst), own_share(certified))
