"""Charts of individuals, against a printed example and the rules' own words."""

import numpy as np
import pytest
from scipy import integrate, stats

from rulvek.core.ratings.charts import D2, D4, Limits, Signal, limits_of, moving_ranges, signals

# NIST/SEMATECH e-Handbook 6.3.2.2, individuals control charts: the flow rate of ten batches of liquid, with its mean
# of 50.81, mean moving range of 1.8778 and limits of 50.81 ± 3 × 1.8778 / 1.128 (from memory of the page).
FLOW = (49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1)


def test_the_handbooks_flow_rates() -> None:
    limits = limits_of(FLOW)
    assert limits is not None
    assert limits.centre == pytest.approx(50.81)
    assert sum(moving_ranges(FLOW)) / 9 == pytest.approx(1.8778, abs=5e-5)
    assert (limits.high, limits.low) == pytest.approx((55.8041, 45.8159), abs=2e-3)
    assert signals(FLOW, limits) == []


def test_the_constants_are_those_of_two_normal_values() -> None:
    """d₂ is the mean of their range, 2/√π; D₄ is 1 + 3·d₃/d₂ with d₃² = 2 − 4/π; both worked out here by integral."""
    mean, _ = integrate.quad(lambda r: r * 2 * stats.norm.pdf(r, scale=2**0.5), 0, 20)
    square, _ = integrate.quad(lambda r: r**2 * 2 * stats.norm.pdf(r, scale=2**0.5), 0, 20)
    assert pytest.approx(mean, abs=5e-4) == D2
    assert pytest.approx(1 + 3 * (square - mean**2) ** 0.5 / mean, abs=1e-3) == D4
    assert pytest.approx(2.66, abs=5e-4) == 3 / D2


@pytest.mark.parametrize(
    ("values", "signal", "at"),
    [
        ([0, 0, -3.1], Signal.BEYOND, 2),
        ([0, -2.1, 0, -2.1], Signal.TWO_OF_THREE, 3),
        ([-1.1, -1.2, 0.5, -1.1, -1.3], Signal.FOUR_OF_FIVE, 4),
        ([-0.1] * 8, Signal.EIGHT, 7),
    ],
)
def test_each_rule_speaks_at_the_value_that_completes_it_and_on_either_side(
    values: list[float], signal: Signal, at: int
) -> None:
    for sign in (1, -1):
        found = signals([sign * one for one in values], Limits(0.0, 1.0))
        assert [(one.at, one.signal, one.down) for one in found] == [(at, signal, sign > 0)]


def test_runs_are_an_option_and_a_value_far_out_always_speaks() -> None:
    assert signals([-0.1] * 8 + [0, -2.1, 0, -2.1], Limits(0.0, 1.0), runs=False) == []
    assert [one.at for one in signals([-0.1, -3.1], Limits(0.0, 1.0), runs=False)] == [1]


def test_moving_ranges_have_the_handbooks_limit() -> None:
    """NIST/SEMATECH e-Handbook 6.3.2.2: mean moving range 1.8778; its upper limit is 3.267 of them (from memory)."""
    limits = limits_of(FLOW)
    assert limits is not None
    assert limits.mean_range == pytest.approx(1.8778, abs=5e-5)
    assert limits.highest_range == pytest.approx(3.267 * 1.8778, abs=2e-4)


@pytest.mark.parametrize(
    "values", [[2.9, -2.9, 0], [2.1, -2.1, 2.1 - 0.2], [1.1, 1.1, 1.1, 0.9, 0.9], [0.1] * 7 + [-0.1]]
)
def test_a_value_short_of_a_rule_says_nothing(values: list[float]) -> None:
    assert signals(values, Limits(0.0, 1.0)) == []


def test_false_alarms_come_as_seldom_as_the_rules_are_known_for() -> None:
    """Beyond three sigma: 0.27 % of values of a normal production (Shewhart); all four: about every 92 values
    (Champ and Woodall, Technometrics 1987, average run length 91.75)."""
    values = np.random.default_rng(6).normal(size=40_000)
    found = signals(values.tolist(), Limits(0.0, 1.0))
    beyond = sum(one.signal is Signal.BEYOND for one in found) / len(values)
    assert beyond == pytest.approx(0.0027, abs=0.0008)
    lengths = []
    for start in range(0, len(values), 400):
        part = values[start : start + 400].tolist()
        first = next((one.at for one in signals(part, Limits(0.0, 1.0))), 400)
        lengths.append(first + 1)
    assert np.mean(lengths) == pytest.approx(91.75, rel=0.25)


def test_few_values_tell_no_limits() -> None:
    assert limits_of(FLOW[:7]) is None
