"""Two groups held against each other: against SciPy, a printed example, and simulation."""

import numpy as np
import pytest
from scipy import stats

from rulvek.core.errors import BadInput
from rulvek.core.ratings.compare import Asked, difference
from rulvek.core.ratings.population import SampledUnit

# NIST/SEMATECH e-Handbook 7.3.1.1: two processes, with means 36.0909 and 32.2222, standard deviations 4.9082 and
# 2.5386; by Welch's formula t = 2.269 with 15.5 degrees of freedom (from memory of the page).
OLD = (32, 37, 35, 28, 41, 44, 35, 31, 34, 38, 42)
NEW = (36, 31, 30, 31, 34, 36, 29, 32, 31)


def group(values: tuple[float, ...] | list[float], name: str = "U", lots: str = "AB") -> list[SampledUnit]:
    return [SampledUnit(f"{name}{at}", float(one), lots[at % len(lots)]) for at, one in enumerate(values)]


def test_the_handbooks_processes() -> None:
    found = difference(group(NEW, "N"), group(OLD, "O"))
    assert not found.by_pairs and found.watts == pytest.approx(36.0909 - 32.2222, abs=1e-3)
    assert found.freedom == pytest.approx(15.5, abs=0.1)
    assert found.watts / ((found.high - found.low) / 2 / stats.t.ppf(0.975, found.freedom)) == pytest.approx(
        2.269, abs=2e-3
    )


@pytest.mark.parametrize("seed", range(5))
def test_welch_and_pairs_against_scipy(seed: int) -> None:
    rng = np.random.default_rng(seed)
    one, other = rng.normal(100, 2, 7), rng.normal(101, 0.7, 12)
    found = difference(group(one.tolist(), "A"), group(other.tolist(), "B"), Asked(0.9))
    theirs = stats.ttest_ind(other, one, equal_var=False)
    interval = theirs.confidence_interval(0.9)
    assert (found.low, found.high, found.p, found.freedom) == pytest.approx(
        (interval.low, interval.high, theirs.pvalue, theirs.df)
    )
    after = one + rng.normal(0.4, 0.3, 7)
    found = difference(group(one.tolist()), group(after.tolist()))
    theirs = stats.ttest_rel(after, one)
    interval = theirs.confidence_interval(0.95)
    assert found.by_pairs
    assert (found.low, found.high, found.p) == pytest.approx((interval.low, interval.high, theirs.pvalue))


def test_the_interval_holds_as_often_as_it_says() -> None:
    """4,000 pairs of small groups with unequal spreads: 95 % of their intervals hold the difference that there is."""
    rng = np.random.default_rng(11)
    held = 0
    for _ in range(4000):
        one, other = rng.normal(100, 2, 5).tolist(), rng.normal(103, 0.6, 8).tolist()
        found = difference(group(one, "A"), group(other, "B"))
        held += found.low <= 3.0 <= found.high
    assert held / 4000 == pytest.approx(0.95, abs=0.012)


@pytest.mark.parametrize(
    ("shift", "matters"), [(20.0, True), (-20.0, True), (0.0, False), (11.9, None)], ids=["up", "down", "none", "open"]
)
def test_what_matters_is_half_a_decibel_unless_it_is_told(shift: float, matters: bool | None) -> None:
    """0.5 dB of 100 W are 12.2 W (10 to the power of 0.05)."""
    one = [100.0, 101.0, 99.0, 100.5, 99.5]
    found = difference(group(one), group([watts + shift + 0.3 * (-1) ** at for at, watts in enumerate(one)]))
    assert found.matters_watts == pytest.approx(12.2, abs=0.01) and found.matters is matters
    assert difference(group(one), group([watts + 3 for watts in one]), Asked(matters_watts=1.0)).matters is True


def test_what_has_to_be_said_is_said() -> None:
    one = group([100.0, 101.0, 99.0])
    assert "one lot" in difference(one, group([98.0, 99.0], "V", "A")).notes[-1]
    both = difference(one, [*group([98.0, 99.0], "V"), SampledUnit("u0", 100.0, "B")])
    assert any("in both groups" in note for note in both.notes) and not both.by_pairs
    still = difference(group([5.0, 5.0]), group([6.0, 6.0]))
    assert still.p == 0.0 and any("do not scatter" in note for note in still.notes)


@pytest.mark.parametrize(
    ("second", "words"),
    [
        ([SampledUnit("A", 100.0)], "takes 2 units"),
        ([SampledUnit("A", 100.0), SampledUnit("a", 101.0)], "twice"),
        ([SampledUnit("A", 100.0), SampledUnit("B", 101.0, censored=True)], "only a lower limit"),
        ([SampledUnit("A", 100.0), SampledUnit("B", 0.0)], "at least"),
    ],
)
def test_groups_that_cannot_be_compared(second: list[SampledUnit], words: str) -> None:
    with pytest.raises(BadInput, match=words) as refused:
        difference(group([100.0, 101.0]), second)
    assert (refused.value.field or "").startswith("second")
