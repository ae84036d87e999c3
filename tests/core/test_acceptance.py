"""Acceptance by variables: a printed plan, SciPy's distributions, and lots that are drawn."""

import numpy as np
import pytest
from scipy import integrate, stats

from rulvek.core.errors import BadInput
from rulvek.core.ratings.acceptance import Plan, accept, acceptance_factor, chance_accepted, smallest_plan
from rulvek.core.ratings.tolerance import normal_factor


def test_the_textbooks_plan() -> None:
    """Montgomery, Introduction to Statistical Quality Control, acceptance by variables with a spread that is not known.

    1 % nonconforming accepted with 0.95, 6 % with 0.10: n = 40, k = 1.9, read off a nomograph (from memory).
    """
    plan = smallest_plan(0.99, 0.94)
    assert plan.n == pytest.approx(40, abs=2) and plan.k == pytest.approx(1.9, abs=0.05)
    assert chance_accepted(plan, 0.99) == pytest.approx(0.95) and chance_accepted(plan, 0.94) <= 0.10
    fewer = Plan(plan.n - 1, acceptance_factor(plan.n - 1, 0.99))
    assert chance_accepted(fewer, 0.94) > 0.10


@pytest.mark.parametrize(("n", "share"), [(3, 0.95), (8, 0.9), (15, 0.99), (60, 0.95)])
def test_the_factor_by_an_integral_of_another_kind(n: int, share: float) -> None:
    """Over all spreads s that n units may show: the chance that the mean is k·s above the least watts is 0.95."""
    k, z = acceptance_factor(n, share), stats.norm.ppf(share)

    def at(s: float) -> float:
        density = stats.chi2.pdf((n - 1) * s**2, n - 1) * 2 * (n - 1) * s
        return float(stats.norm.cdf(np.sqrt(n) * (z - k * s)) * density)

    chance, _ = integrate.quad(at, 0, 8, limit=400)
    assert chance == pytest.approx(0.95, abs=1e-6)
    assert k < z < normal_factor(n, share, 0.95)


@pytest.mark.parametrize("share", [0.90, 0.95, 0.99])
def test_lots_that_are_as_promised_are_accepted_as_often_as_is_said(share: float) -> None:
    """6,000 lots of eight units each, whose least watts are what that share of them reaches."""
    lots = np.random.default_rng(4).normal(100, 2, (6000, 8))
    least = 100 - 2 * stats.norm.ppf(share)
    found = [accept(lot.tolist(), least, share) for lot in lots]
    assert sum(one.accepted for one in found if one) / 6000 == pytest.approx(0.95, abs=0.01)
    worse = [accept((lot - 4).tolist(), least, share) for lot in lots]
    drawn = sum(one.accepted for one in worse if one) / 6000
    shifted = stats.norm.sf((least - 96) / 2)
    assert drawn == pytest.approx(chance_accepted(Plan(8, acceptance_factor(8, share)), shifted), abs=0.02)


def test_a_better_lot_is_accepted_more_often() -> None:
    plan = smallest_plan(0.95, 0.80)
    chances = [chance_accepted(plan, share) for share in (0.7, 0.8, 0.9, 0.95, 0.99)]
    assert chances == sorted(chances) and chances[0] < 0.02 and chances[-1] > 0.99


def test_few_units_or_units_that_are_alike_tell_nothing() -> None:
    assert accept([100.0, 101.0], 99.0, 0.95) is None and accept([100.0] * 5, 99.0, 0.95) is None
    for wrong in ((1, 0.95), (5, 1.0), (5, 0.0)):
        with pytest.raises(ValueError, match="two units at least"):
            acceptance_factor(*wrong)


@pytest.mark.parametrize(("good", "bad", "field"), [(0.9, 0.95, "good"), (0.9, 0.9, "good"), (0.95, 0.9499, "bad")])
def test_plans_that_there_are_not(good: float, bad: float, field: str) -> None:
    with pytest.raises(BadInput) as refused:
        smallest_plan(good, bad)
    assert refused.value.field == field
