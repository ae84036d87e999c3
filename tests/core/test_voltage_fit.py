"""The voltage exponent against a reference library and the trade's own figures."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from rulvek.core.electrical.supply import fit_voltage

UNREGULATED = [(12.32, 317.0), (13.5, 391.0), (14.14, 429.0)]


def test_an_unregulated_unit_of_the_trade() -> None:
    """One class AB unit at 4 Ω bridged gave 317, 391 and 429 W: n is about 2.2 (common practice, no source)."""
    fit = fit_voltage(UNREGULATED)
    assert fit.exponent == pytest.approx(2.2, abs=0.05)
    assert fit.low < 2.2 < fit.high


def test_against_scipy() -> None:
    """``scipy.stats.linregress`` on the logarithms gives the same slope and standard error."""
    runs = [(12.5, 301.0), (13.1, 330.0), (13.8, 352.0), (14.4, 380.0)]
    fit = fit_voltage(runs)
    reference = stats.linregress(np.log([v for v, _ in runs]), np.log([p for _, p in runs]))
    half = stats.t.ppf(0.975, 2) * reference.stderr
    assert fit.exponent == pytest.approx(reference.slope)
    assert (fit.low, fit.high) == pytest.approx((reference.slope - half, reference.slope + half))
    estimate, low, high = fit.estimate(14.4)
    assert estimate == pytest.approx(math.exp(reference.intercept + reference.slope * math.log(14.4)))
    assert low < estimate < high


@given(n=st.floats(0.0, 2.3), watts=st.floats(10.0, 3000.0))
def test_an_exact_law_is_found_and_followed(n: float, watts: float) -> None:
    fit = fit_voltage([(v, watts * (v / 14.4) ** n) for v in (12.5, 13.8, 14.4)])
    assert fit.exponent == pytest.approx(n, abs=1e-9)
    assert fit.estimate(13.0)[0] == pytest.approx(watts * (13.0 / 14.4) ** n)


def test_the_band_is_narrowest_in_the_middle_of_the_runs() -> None:
    fit = fit_voltage(UNREGULATED)
    width = [high / low for _, low, high in (fit.estimate(v) for v in (13.3, 14.4, 16.0))]
    assert width[0] < width[1] < width[2]


def test_runs_that_happen_to_lie_on_a_line_say_no_more_than_their_own_doubt_allows() -> None:
    """The slope of a line through points of standard deviation s: s/√Σ(x − x̄)², normal at 95 % (textbook)."""
    runs = [(v, 400 * (v / 14.4) ** 1.1) for v in (12.5, 13.8, 14.4)]
    x = np.log([v for v, _ in runs])
    half = 1.959964 * 0.004 / math.sqrt(float(np.sum((x - x.mean()) ** 2)))
    fit = fit_voltage(runs, 0.004)
    assert (fit.low, fit.high) == pytest.approx((1.1 - half, 1.1 + half))
    wide = [fit.estimate(v) for v in (13.5, 15.5, 16.0)]
    assert wide[0][2] / wide[0][1] < wide[1][2] / wide[1][1] < wide[2][2] / wide[2][1]
    # Runs that scatter more say it themselves.
    assert fit_voltage(UNREGULATED, 1e-6) == fit_voltage(UNREGULATED)


@given(n=st.floats(-2.0, 5.0))
def test_the_exponent_is_bounded_to_what_there_is(n: float) -> None:
    fit = fit_voltage([(v, 100 * (v / 14.4) ** n) for v in (12.5, 13.8, 14.4)], 0.003)
    assert fit.exponent is not None and 0.0 <= fit.low <= fit.exponent <= fit.high <= 2.3


@pytest.mark.parametrize(
    "runs", [[(14.4, 100.0)], [(12.5, 75.0), (14.4, 100.0)], [(14.0, 98.0), (14.2, 99.0), (14.4, 100.0)]]
)
def test_too_few_voltages_leave_the_exponent_open(runs: list[tuple[float, float]]) -> None:
    fit = fit_voltage(runs)
    assert fit.exponent is None and (fit.low, fit.high) == (0.0, 2.3)
    estimate, low, high = fit.estimate(12.0)
    nearest = min(runs, key=lambda run: abs(run[0] - 12.0))
    assert high == pytest.approx(nearest[1]) and low == pytest.approx(nearest[1] * (12.0 / nearest[0]) ** 2.3)
    assert low < estimate < high


def test_refuses_what_is_no_run() -> None:
    for runs in ([], [(0.0, 10.0)], [(14.4, -1.0)], [(14.4, math.nan)]):
        with pytest.raises(ValueError, match="above 0"):
            fit_voltage(runs)
    with pytest.raises(ValueError, match="above 0"):
        fit_voltage(UNREGULATED).estimate(0.0)
