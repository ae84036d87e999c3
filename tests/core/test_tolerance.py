"""Tolerance bounds against printed tables, and against integrals and draws that are worked out here another way."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate, stats

from rulvek.core.errors import BadInput
from rulvek.core.ratings import censored as limits
from rulvek.core.ratings.lots import components, lots_bound, lots_factor
from rulvek.core.ratings.normality import anderson_darling
from rulvek.core.ratings.tolerance import (
    bounding_rank,
    chance_of,
    normal_factor,
    smallest_suffices,
    units_for,
    weakest_factor,
)
from tests.examples import examples

# Factors k as handbooks print them to three places (Natrella 1963, table A-7; Odeh and Owen 1980; from memory).
PRINTED = {
    (0.95, 0.95): {
        2: 26.260,
        3: 7.656,
        4: 5.144,
        5: 4.203,
        6: 3.708,
        7: 3.399,
        8: 3.187,
        9: 3.031,
        10: 2.911,
        12: 2.736,
        15: 2.566,
        20: 2.396,
        25: 2.292,
        30: 2.220,
        40: 2.125,
        50: 2.065,
        100: 1.927,
    },
    (0.90, 0.95): {2: 20.581, 3: 6.155, 5: 3.407, 10: 2.355, 20: 1.926, 50: 1.646},
    (0.90, 0.90): {2: 10.253, 3: 4.258, 5: 2.742, 10: 2.066, 20: 1.765},
    (0.99, 0.95): {2: 37.094, 3: 10.553, 5: 5.741, 10: 3.981, 20: 3.295, 50: 2.862},
    (0.95, 0.90): {2: 13.090, 3: 5.311, 5: 3.400, 10: 2.568, 20: 2.208},
    (0.95, 0.99): {3: 17.370, 5: 6.578, 10: 3.738},
    (0.90, 0.99): {3: 13.995, 5: 5.362, 10: 3.048},
    (0.99, 0.99): {3: 23.896, 5: 8.939, 10: 5.074},
}


def test_the_handbooks_worked_example() -> None:
    """NIST/SEMATECH e-Handbook, 7.2.6.3: n = 43, 90 % of all, 99 % confidence: k = 1.8740 by the non-central t."""
    assert normal_factor(43, 0.90, 0.99) == pytest.approx(1.8740, abs=5e-5)


@pytest.mark.parametrize(
    ("terms", "n", "k"), [(terms, n, k) for terms, row in PRINTED.items() for n, k in row.items()], ids=str
)
def test_printed_factors(terms: tuple[float, float], n: int, k: float) -> None:
    assert normal_factor(n, *terms) == pytest.approx(k, abs=6e-4)


@pytest.mark.parametrize(
    ("n", "share", "confidence"),
    list(itertools.product((2, 3, 4, 5, 7, 10, 15, 25, 43, 60, 120), (0.90, 0.95, 0.99), (0.90, 0.95, 0.99))),
)
def test_factors_by_another_way(n: int, share: float, confidence: float) -> None:
    """99 of them to five digits: the confidence as an integral over the spread's own distribution.

    x̄ - k·s lies below the quantile where a standard normal is at most √n·(k·s - z), with (n - 1)·s² a χ².
    """
    k, z = normal_factor(n, share, confidence), float(stats.norm.ppf(share))

    def reached(factor: float) -> float:
        def at(s: float) -> float:
            below = float(stats.norm.cdf(math.sqrt(n) * (factor * s - z)))
            return below * float(stats.chi.pdf(s * math.sqrt(n - 1), n - 1)) * math.sqrt(n - 1)

        found, _ = integrate.quad(at, 0, 12, limit=400, points=(z / factor,), epsabs=1e-11)
        return float(found)

    slope = (reached(k * 1.001) - reached(k * 0.999)) / (0.002 * k)
    assert abs(reached(k) - confidence) / slope < 5e-6 * k


def test_ranks_of_any_distribution_are_the_printed_ones() -> None:
    """Units for the r-th smallest, 95/95 and 90/95 (Wilks; Conover's tables; from memory)."""
    for share, printed in ((0.95, (59, 93, 124, 153, 181)), (0.90, (29, 46, 61, 76, 89))):
        for rank, n in enumerate(printed, start=1):
            assert (bounding_rank(n - 1, share, 0.95), bounding_rank(n, share, 0.95)) == (rank - 1, rank)
    assert (smallest_suffices(0.95, 0.95), smallest_suffices(0.99, 0.99)) == (59, 459)


@examples(60)
@given(n=st.integers(2, 400), share=st.sampled_from([0.8, 0.9, 0.95, 0.99]), sure=st.sampled_from([0.9, 0.95, 0.99]))
def test_a_rank_is_the_largest_that_holds(n: int, share: float, sure: float) -> None:
    """By the sum of the binomial's own terms."""
    rank = bounding_rank(n, share, sure)

    def at_least(r: int) -> float:
        below = (math.comb(n, i) * (1 - share) ** i * share ** (n - i) for i in range(r))
        return 1 - math.fsum(below)

    assert (rank == 0 or at_least(rank) >= sure - 1e-9) and at_least(rank + 1) < sure + 1e-9


@pytest.mark.parametrize(("n", "channels"), [(2, 4), (5, 2), (8, 4), (20, 8), (60, 2), (60, 4)])
def test_the_weakest_of_channels_is_bounded_as_often_as_is_said(n: int, channels: int) -> None:
    """By other draws, against the true quantile; by the normal factor such bounds hold less often."""
    drawn = np.random.default_rng(23).normal(size=(20_000, n, channels)).min(axis=-1)
    truth = float(stats.norm.ppf(1 - 0.95 ** (1 / channels)))
    mean, spread = drawn.mean(axis=1), drawn.std(axis=1, ddof=1)
    held = float(np.mean(mean - weakest_factor(n, 0.95, 0.95, channels) * spread <= truth))
    assert held == pytest.approx(0.95, abs=0.006)
    assert float(np.mean(mean - normal_factor(n, 0.95, 0.95) * spread <= truth)) < held


def test_of_many_units_the_weakest_of_channels_is_bounded_by_its_quantile() -> None:
    """The moments of the smallest of four normal figures, by order statistics' table (Teichroew 1956; from memory)."""
    mean, spread = 1.0293753730, math.sqrt(0.4917152369)
    quantile = float(stats.norm.ppf(1 - 0.95**0.25))
    assert weakest_factor(5_000, 0.95, 0.95, 4) == pytest.approx((-mean - quantile) / spread, rel=0.04)


@pytest.mark.parametrize("n", [2, 5, 12, 60, 1_000])
def test_more_channels_are_never_bounded_more_narrowly(n: int) -> None:
    factors = [weakest_factor(n, 0.9, 0.95, channels) for channels in (1, 2, 4, 8)]
    assert factors == sorted(factors) and factors[0] == normal_factor(n, 0.9, 0.95)


def test_the_chance_is_what_draws_give() -> None:
    draw, n, margin = np.random.default_rng(7), 12, 2.6
    drawn = draw.normal(0, 1, (40_000, n))
    bounds = drawn.mean(axis=1) - normal_factor(n, 0.95, 0.95) * drawn.std(axis=1, ddof=1)
    assert chance_of(n, margin, 0.95, 0.95) == pytest.approx(float(np.mean(bounds >= -margin)), abs=0.01)


@examples(40)
@given(margin=st.floats(1.7, 8))
def test_the_fewest_units_are_the_fewest(margin: float) -> None:
    fewest = units_for(margin, 0.95, 0.95)
    assert fewest is not None and chance_of(fewest, margin, 0.95, 0.95) >= 0.5
    assert fewest == 2 or chance_of(fewest - 1, margin, 0.95, 0.95) < 0.5


@pytest.mark.parametrize(("share", "confidence", "field"), [(0.3, 0.95, "share"), (0.95, 1.0, "confidence")])
def test_what_cannot_be_promised_is_refused(share: float, confidence: float, field: str) -> None:
    for call in (lambda: normal_factor(5, share, confidence), lambda: smallest_suffices(share, confidence)):
        with pytest.raises(BadInput) as refused:
            call()
        assert refused.value.field == field


def test_anderson_darling_is_the_librarys_and_rejects_as_often_as_it_says() -> None:
    draw = np.random.default_rng(11)
    one = draw.normal(100, 3, 20)
    found = anderson_darling(one)
    plain = stats.anderson(one, "norm", method="interpolate").statistic  # without the correction for few values
    assert found is not None and found.statistic == pytest.approx(plain * (1 + 0.75 / 20 + 2.25 / 400), rel=1e-9)
    for n in (8, 20, 60):
        doubted = [bool(fit and fit.is_doubted) for fit in map(anderson_darling, draw.normal(0, 1, (2_000, n)) + 50)]
        assert np.mean(doubted) == pytest.approx(0.05, abs=0.017)
    humps = np.concatenate([draw.normal(90, 1, 12), draw.normal(110, 1, 12)])
    doubted_fit = anderson_darling(humps)
    assert doubted_fit is not None and doubted_fit.p < 1e-3
    assert anderson_darling(one[:7]) is None and anderson_darling(np.full(20, 80.0)) is None


@pytest.mark.parametrize(
    ("critical", "p"), [(0.561, 0.15), (0.631, 0.10), (0.752, 0.05), (0.873, 0.025), (1.035, 0.01)]
)
def test_the_curve_for_p_meets_the_printed_points(critical: float, p: float) -> None:
    """Stephens 1974: A²* at its printed significance points; normal scores are bent until they have that statistic."""
    base = stats.norm.ppf((np.arange(1, 41) - 0.5) / 40)
    low, high = 0.0, 3.0
    for _ in range(60):
        bend = (low + high) / 2
        fit = anderson_darling(np.exp(bend * base) if bend > 1e-9 else base)
        assert fit is not None
        low, high = (bend, high) if fit.statistic < critical else (low, bend)
    assert fit.p == pytest.approx(p, rel=0.03)


def mee_owen(lots: list[np.ndarray], share: float, eta: float = 0.85) -> float:
    """Mee and Owen's bound for lots of one size at 95 % (Technometrics 1983; η = 0.85 for that; from memory)."""
    count, size = len(lots), len(lots[0])
    means = np.array([one.mean() for one in lots])
    between = size * float(means.var(ddof=1))
    within = float(np.mean([one.var(ddof=1) for one in lots]))
    upper = float(stats.f.ppf(eta, count * (size - 1), count - 1))
    ratio = max(0.0, (between / within * upper - 1) / size)
    spread = math.sqrt((between + (size - 1) * within) / size)
    return float(means.mean()) - lots_factor(count, size, ratio, share, 0.95) * spread


@pytest.mark.parametrize(("count", "size", "ratio"), [(6, 4, 1.0), (10, 3, 0.5), (8, 8, 4.0), (20, 5, 0.2)])
def test_balanced_lots_against_mee_and_owen(count: int, size: int, ratio: float) -> None:
    draw = np.random.default_rng(5)
    apart = []
    for _ in range(40):
        lots = [draw.normal(draw.normal(100, math.sqrt(ratio)), 1.0, size) for _ in range(count)]
        split = components(lots)
        apart.append((lots_bound(split, 0.95, 0.95, 20_000) - mee_owen(lots, 0.95)) / math.sqrt(1 + ratio))
    # Both are approximations: the generalised one lies a little lower while lots hardly differ.
    assert abs(float(np.mean(apart))) < 0.2 and max(map(abs, apart)) < 0.6


def test_lots_of_units_that_are_all_alike_are_so_many_units() -> None:
    """Nothing within: the bound of the lots' means as if each were a unit, which is exact."""
    means = np.random.default_rng(2).normal(100, 3, 9)
    split = components([np.full(4, mean) + np.array([-1e-6, 1e-6, 0, 0]) for mean in means])
    exact = float(means.mean()) - normal_factor(9, 0.95, 0.95) * float(means.std(ddof=1))
    assert lots_bound(split, 0.95, 0.95) == pytest.approx(exact, abs=0.05)
    assert split.between == pytest.approx(float(means.std(ddof=1)), rel=1e-4)


def test_a_split_is_the_analysis_of_variance() -> None:
    """F by the library, from the same sums."""
    draw = np.random.default_rng(4)
    lots = [draw.normal(draw.normal(100, 2), 1.5, size) for size in (3, 5, 4, 6)]
    split = components(lots)
    table = stats.f_oneway(*lots)
    weight = (18 - sum(n * n for n in (3, 5, 4, 6)) / 18) / 3
    assert split.between**2 == pytest.approx((table.statistic - 1) * split.within**2 / weight, rel=1e-9)
    assert split.spread == pytest.approx(math.hypot(split.between, split.within))


def test_a_censored_fit_is_the_likeliest_one() -> None:
    """Against a minimiser that knows nothing of the way it was found."""
    from scipy import optimize

    drawn = np.random.default_rng(9).normal(100, 3, 25)
    hidden = drawn > 101
    watts = np.where(hidden, 101.0, drawn)

    def unlikely(at: np.ndarray) -> float:
        mean, spread = at[0], math.exp(at[1])
        exact = stats.norm.logpdf(watts[~hidden], mean, spread).sum()
        return -float(exact + stats.norm.logsf(watts[hidden], mean, spread).sum())

    best = optimize.minimize(unlikely, [100.0, 1.0], method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-12})
    found = limits.fit(watts, hidden)
    assert (found.mean, found.spread) == pytest.approx((best.x[0], math.exp(best.x[1])), rel=1e-5)
    assert found.mean > watts.mean() and found.spread > watts.std()


@pytest.mark.long
@pytest.mark.parametrize(("n", "seen"), [(6, 0.8), (10, 0.6), (20, 0.7)])
def test_censored_bounds_hold_as_often_as_they_say(n: int, seen: float) -> None:
    """And taking “at least so much” for the figure itself does not: it makes the spread smaller than it is."""
    draw, top = np.random.default_rng(21), 100 + 3 * float(stats.norm.ppf(seen))
    held, naive, tried = 0, 0, 0
    for _ in range(600):
        drawn = draw.normal(100, 3, n)
        hidden = drawn > top
        if not hidden.any() or (~hidden).sum() < limits.FEWEST_EXACT:
            continue
        watts = np.where(hidden, top, drawn)
        truth = 100 - 3 * float(stats.norm.ppf(0.95))
        tried += 1
        held += limits.censored_bound(watts, hidden, 0.95, 0.95, 500)[0] <= truth
        naive += watts.mean() - normal_factor(n, 0.95, 0.95) * watts.std(ddof=1) <= truth
    assert held / tried >= 0.925 and naive < held  # nominal 0.95; ± 0.02 by 600 draws
