"""Acceptance of a lot by variables: by mean and spread of a few units, in the manner of ISO 3951 (from memory)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from rulvek.core.errors import BadInput

FEWEST, MOST = 3, 2_000
GOOD_CHANCE = 0.95
"""How often a lot that is as good as promised is accepted (ours, as is common)."""


@dataclass(frozen=True, slots=True)
class Plan:
    """Take ``n`` units; accept the lot where its mean lies at least ``k`` of its spreads above the least watts."""

    n: int
    k: float


@dataclass(frozen=True, slots=True)
class Acceptance:
    """What became of a lot. ``quality`` is how many spreads its mean lies above the least watts."""

    n: int
    mean: float
    spread: float
    quality: float
    k: float

    @property
    def accepted(self) -> bool:
        """Whether it is as good as promised, as far as its units tell."""
        return self.quality >= self.k


def acceptance_factor(n: int, share: float, chance: float = GOOD_CHANCE) -> float:
    """The k by which a lot of which ``share`` reaches the least watts is accepted with that chance.

    >>> round(acceptance_factor(10, 0.95), 3)
    1.017

    Raises:
        ValueError: fewer than two units, or a share or chance that is none.
    """
    if n < 2 or not (0 < share < 1 and 0 < chance < 1):
        raise ValueError("two units at least, and a share and a chance between 0 and 1")
    root = math.sqrt(n)
    return float(scipy.stats.nct.ppf(1 - chance, n - 1, scipy.stats.norm.ppf(share) * root) / root)


def chance_accepted(plan: Plan, share: float) -> float:
    """How often a plan accepts a lot of which ``share`` reaches the least watts: its operating characteristic."""
    root = math.sqrt(plan.n)
    return float(scipy.stats.nct.sf(plan.k * root, plan.n - 1, scipy.stats.norm.ppf(share) * root))


def smallest_plan(good: float, bad: float, refused_good: float = 0.05, accepted_bad: float = 0.10) -> Plan:
    """The fewest units that tell a good lot from a bad one.

    Args:
        good, bad: Shares of units that reach the least watts, in a lot that is to be accepted and in one that is not.
        refused_good, accepted_bad: How often it may go wrong.

    >>> plan = smallest_plan(0.99, 0.94)
    >>> plan.n, round(plan.k, 1)
    (42, 1.9)

    Raises:
        BadInput: the good lot is no better, or it takes more units than anybody takes.
    """
    if not 0 < bad < good < 1:
        raise BadInput("The good lot must be better than the bad one.", field="good")
    for n in range(FEWEST, MOST + 1):
        plan = Plan(n, acceptance_factor(n, good, 1 - refused_good))
        if chance_accepted(plan, bad) <= accepted_bad:
            return plan
    raise BadInput(f"More than {MOST} units would tell these lots apart.", field="bad")


def accept(watts: Sequence[float], least: float, share: float, chance: float = GOOD_CHANCE) -> Acceptance | None:
    """Look at a lot's units against the watts that a share of them is to reach; None where they are too few, or alike.

    A lot that is as good as promised is accepted with that ``chance``.

    >>> accept([101.0, 102.0, 103.0, 102.5], 100.0, 0.95).accepted
    True
    """
    if len(watts) < FEWEST:
        return None
    mean, spread = float(np.mean(watts)), float(np.std(watts, ddof=1))
    if spread == 0:
        return None
    return Acceptance(len(watts), mean, spread, (mean - least) / spread, acceptance_factor(len(watts), share, chance))
