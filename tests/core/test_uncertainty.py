"""The budget against two published worked examples, a Monte Carlo run of the same model, and by hand."""

import math
import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.judgement.repeatability import pooled, repeats_of
from rulvek.core.judgement.uncertainty import (
    Allowances,
    Brought,
    Component,
    Meters,
    allowances_of,
    combine,
    coverage_factor,
    reading_budget,
    repeatability,
)
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.instruments import Specification

METERS = Meters(
    volts=Specification("meter", percent_of_reading=0.3, percent_of_range=0.05, full_range=60.0, resolution=0.01),
    supply=Specification("supply meter", percent_of_reading=0.1, digits=2, resolution=0.01),
)


def test_end_gauge_of_the_gum() -> None:
    """JCGM 100:2008, H.1: contributions in nm with their degrees of freedom; u = 32 nm, ν_eff = 16.7, U99 = 93 nm
    (from memory)."""
    lines = [(25.0, 18), (9.7, 25.6), (2.9, 50), (16.6, 2)]
    budget = combine(50_000_838.0, [Component("", 0.0, "nm", "student", u, 1.0, v) for u, v in lines])
    assert budget.standard == pytest.approx(31.7, abs=0.1)
    assert budget.freedom == pytest.approx(16.7, abs=0.7)
    assert coverage_factor(budget.freedom, 0.99) == pytest.approx(2.92, abs=0.01)
    assert 32 * coverage_factor(budget.freedom, 0.99) == pytest.approx(93, abs=1)


def test_ten_kilohm_resistor_of_ea_4_02() -> None:
    """EA-4/02, S3: a 10 kΩ resistor by substitution; u = 8.33 mΩ, U = 17 mΩ with k = 2 (from memory)."""
    budget = combine(
        10_000.178,
        [
            Component("standard", 10_000.053, "mΩ", "normal", 2.5, 1.0),
            Component("drift", 0.020, "mΩ", "rectangular", 10.0, 1.0),
            Component("temperature of the standard", 0.0, "mΩ", "rectangular", 2.75, 1.0),
            Component("temperature of the resistor", 0.0, "mΩ", "rectangular", 5.5, 1.0),
            Component("parasitic effects", 1.0, "1e-6", "triangular", 1.0, 10.0),
            Component("ratio", 1.0, "1e-6", "student", 0.0707, 10.0, 4),
        ],
    )
    assert budget.standard == pytest.approx(8.33, abs=0.005)
    assert budget.coverage_factor == pytest.approx(1.96, abs=0.001) and 2 * budget.standard == pytest.approx(
        17, abs=0.4
    )
    assert [c.name for c in budget.components][:2] == ["drift", "parasitic effects"]


def test_monte_carlo_of_the_same_model() -> None:
    """JCGM 101: a million draws of V, R and the bracket through P = V²/R, against the linear budget."""
    watts, ohms = 100.0, 3.98
    budget = reading_budget(watts, ohms, 0.01, METERS, bracket_db=0.05)
    rng = np.random.default_rng(7)
    draws = 1_000_000
    volts = math.sqrt(watts * ohms)
    meter = METERS.volts.half_width(volts)
    v = volts + rng.uniform(-meter, meter, draws) + rng.uniform(-0.005, 0.005, draws)
    r = ohms * (1 + rng.uniform(-0.01, 0.01, draws))
    width = watts * (10**0.005 - 1)
    power = v**2 / r + rng.uniform(-width / 2, width / 2, draws)
    assert power.std() == pytest.approx(budget.standard, rel=0.01)
    low, high = np.quantile(power, [0.025, 0.975])
    # Few rectangles are narrower than a normal distribution: the GUM's interval is the safer one, by little.
    assert (high - low) / 2 <= budget.expanded * 1.005
    assert (high - low) / 2 == pytest.approx(budget.expanded, rel=0.06)


def test_by_hand() -> None:
    """100 W into 4 Ω are 20 V: the meter gives ± (0.06 + 0.03) V, so u = 0.09/√3 · 2·100/20 = 0.5196 W; the load
    ± 1 % gives 1/√3 = 0.5774 W; half a digit 0.005/√3 · 10 = 0.0289 W."""
    budget = reading_budget(100.0, 4.0, 0.01, METERS)
    assert {c.name: round(c.watts, 4) for c in budget.components} == {
        "load": 0.5774,
        "output volts": 0.5196,
        "resolution": 0.0289,
    }
    assert budget.expanded == pytest.approx(1.95996 * math.sqrt(0.5774**2 + 0.5196**2 + 0.0289**2), rel=1e-3)


def test_every_half_width_is_in_the_unit_that_stands_beside_it() -> None:
    """A budget is checked line by line with a pocket calculator: value, half-width and sensitivity go together."""
    brought = [Brought("brought to the claim's volts", 1.00, 1.04)]
    allowances = Allowances(response=0.001, thd_n=0.002)
    told = reading_budget(100.0, 4.0, 0.01, METERS, bracket_db=0.5, allowances=allowances, brought=brought)
    lines = {one.name: one for one in told.components}
    bracket, volts, response, thd_n = (
        lines[name]
        for name in ("level bracket", "brought to the claim's volts", "recorder's response", "THD+N at the limit")
    )
    assert (bracket.unit, bracket.half_width) == ("dB", 0.25)
    assert bracket.sensitivity == pytest.approx(102.0 * math.log(10) / 10, rel=0.07)  # W per dB: dP/P = ln 10/10 dB
    assert (volts.value, volts.unit, volts.half_width) == (pytest.approx(2.0), "%", pytest.approx(2.0))
    assert volts.sensitivity == pytest.approx(1.0)  # of 100 W, read
    assert (response.unit, response.half_width, thd_n.half_width) == ("%", pytest.approx(0.2), pytest.approx(0.2))
    assert response.sensitivity == pytest.approx(1.02)


def test_repeats_are_type_a_and_cost_degrees_of_freedom() -> None:
    assert repeatability([80.0]) is None
    alone = repeatability([80.0, 82.0])
    assert alone is not None and alone.standard == pytest.approx(math.sqrt(2)) and alone.freedom == 1
    apart = reading_budget(81.0, 4.0, 0.01, METERS, attempts=[80.0, 82.0])
    close = reading_budget(81.0, 4.0, 0.01, METERS, attempts=[80.99, 81.01])
    assert apart.components[0].name == "repeatability" and apart.freedom < 4 and apart.coverage_factor > 2.7
    assert close.coverage_factor == pytest.approx(1.96, abs=0.01)


def test_the_supplys_doubt_counts_by_the_exponent() -> None:
    """∂P/∂V = n·P/V: at n = 2, 14.4 V ± (0.0144 + 0.02) V move 100 W by 0.276 W (one standard uncertainty)."""
    budget = reading_budget(100.0, 4.0, 0.0, METERS, supply_volts=14.4, exponent=2.0)
    supply = next(c for c in budget.components if c.name == "supply")
    assert supply.watts == pytest.approx(2 * 100 / 14.4 * 0.0344 / math.sqrt(3), rel=1e-6)
    regulated = reading_budget(100.0, 4.0, 0.0, METERS, supply_volts=14.4, exponent=0.0)
    assert next(c for c in regulated.components if c.name == "supply").watts == 0


@given(
    watts=st.floats(1.0, 3000.0),
    tolerance=st.floats(1e-4, 0.05),
    bracket=st.floats(0.001, 0.2),
    more=st.floats(0.001, 0.05),
)
def test_more_doubt_never_makes_less_of_it(watts: float, tolerance: float, bracket: float, more: float) -> None:
    base = reading_budget(watts, 4.0, tolerance, METERS, bracket).expanded
    assert reading_budget(watts, 4.0, tolerance + more, METERS, bracket).expanded > base
    assert reading_budget(watts, 4.0, tolerance, METERS, bracket + more).expanded > base
    assert base >= max(c.watts for c in reading_budget(watts, 4.0, tolerance, METERS, bracket).components)


def test_refuses_widths_that_are_none() -> None:
    with pytest.raises(ValueError, match="a width from 0"):
        combine(1.0, [Component("volts", 1.0, "V", "normal", -1.0, 1.0)])
    assert combine(1.0, []).expanded == 0
    assert coverage_factor(1.9) == coverage_factor(1.0) == pytest.approx(12.706, abs=0.001)  # table of Student's t


def test_the_load_meters_own_limits_are_a_line_of_the_budget() -> None:
    """± 0.3 % of 4 Ω moves P = V²/R by 0.3 %: 0.3 W of 100 W, a rectangle's 0.1732 W (GUM 4.3.7)."""
    meter = Meters(loads=Specification("milliohm meter", percent_of_reading=0.3))
    with_meter = reading_budget(100.0, 4.0, 0.01, meter)
    line = next(c for c in with_meter.components if c.name == "load meter")
    assert line.watts == pytest.approx(0.3 / math.sqrt(3))
    without = reading_budget(100.0, 4.0, 0.01, Meters())
    assert [c.name for c in without.components] == ["load", "output volts"]
    assert with_meter.standard == pytest.approx(math.hypot(without.standard, line.watts))


def test_repeats_are_pooled_as_the_gum_says() -> None:
    """JCGM 100:2008, H.3.6 note, from memory: s² = Σ νᵢ·sᵢ² / Σ νᵢ; of watts over the mean of their group."""
    groups = [[99.1, 100.4, 100.9], [250.0, 248.0], [61.0], [1200.0, 1207.0, 1195.0, 1202.0]]
    shares = [[one / statistics.fmean(group) for one in group] for group in groups if len(group) > 1]
    freedom = sum(len(group) - 1 for group in shares)
    variance = sum((len(group) - 1) * statistics.variance(group) for group in shares) / freedom
    found = repeats_of(groups)
    assert found.freedom == freedom == 6
    assert found.squares / found.freedom == pytest.approx(variance, rel=1e-12)
    stated = MethodProfile(repeatability_percent=0.3, repeatability_freedom=30.0)
    shown = pooled(stated, found)
    assert shown.repeatability_freedom == 36
    together = (30 * 0.003**2 + 6 * variance) / 36
    assert shown.repeatability_percent == pytest.approx(100 * math.sqrt(together), rel=1e-12)
    assert pooled(stated, repeats_of([[80.0], []])) is stated  # nothing was repeated


def test_many_repeats_alone_decide_what_one_attempt_scatters() -> None:
    draws = np.random.default_rng(7).normal(1.0, 0.008, (1500, 3)) * 75.0
    shown = pooled(MethodProfile(), repeats_of(draws.tolist()))
    assert shown.repeatability_percent == pytest.approx(0.8, rel=0.03)
    alone = reading_budget(75.0, 4.0, 0.0, METERS, allowances=allowances_of(shown, 4.0, 1000.0))
    stated = reading_budget(75.0, 4.0, 0.0, METERS, allowances=allowances_of(MethodProfile(), 4.0, 1000.0))
    assert alone.expanded > 1.4 * stated.expanded
    again = reading_budget(75.0, 4.0, 0.0, METERS, None, None, 0.0, (75.0, 75.01), allowances_of(shown, 4.0, 1000.0))
    assert again.expanded <= alone.expanded  # repeating raises nothing where the repeats agree


def test_a_load_that_was_measured_warm_is_allowed_for_by_its_own_drift() -> None:
    """A half-width of ppm/K times the kelvins over 23 °C, whichever way it drifts; the rectangle's u is it ÷ √3 (JCGM
    100:2008, 4.3.7, from memory)."""
    usual = allowances_of(MethodProfile(), 4.0, 1000.0, load_c=123.0)
    assert usual.heat == pytest.approx(MethodProfile().load_ppm_per_kelvin * 1e-4)
    rises, falls = (allowances_of(MethodProfile(), 4.0, 1000.0, 123.0, ppm_per_kelvin=ppm) for ppm in (400.0, -400.0))
    assert rises == falls and rises.heat == pytest.approx(0.04)
    assert allowances_of(MethodProfile(), 4.0, 1000.0, None, ppm_per_kelvin=400.0).heat == 0.0  # nobody knows how warm
    (line,) = [one for one in reading_budget(75.0, 4.0, 0.0, METERS, allowances=rises).components if "heat" in one.name]
    assert line.watts == pytest.approx(75.0 * 0.04 / math.sqrt(3))


def test_a_load_whose_inductance_is_known_is_allowed_for_by_it() -> None:
    """At 20 kHz 20 µH are 2.51 Ω: of the volts across 4 Ω with it, (ωL/R)² = 0.395 of the power heats nothing (circuit
    theory)."""
    known = allowances_of(MethodProfile(), 4.0, 20_000.0, inductance_uh=20.0)
    assert known.inductance == pytest.approx((2 * math.pi * 20e3 * 20e-6 / 4.0) ** 2 / 2)
    usual = allowances_of(MethodProfile(), 4.0, 20_000.0)
    assert usual == allowances_of(MethodProfile(), 4.0, 20_000.0, inductance_uh=MethodProfile().load_inductance_uh)
    none = allowances_of(MethodProfile(), 4.0, 20_000.0, inductance_uh=0.0)
    assert none.inductance == 0.0
    budgets = [reading_budget(75.0, 4.0, 0.0, METERS, allowances=one).expanded for one in (none, usual, known)]
    assert budgets == sorted(budgets) and budgets[2] > 2 * budgets[1]
