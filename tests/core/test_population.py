"""What a sample bears: the way that is chosen, what is said with it, and what must hold whatever the figures are."""

import itertools
import json
import math
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from rulvek.cli import app
from rulvek.core.errors import BadInput
from rulvek.core.ratings.population import Bound, Method, Promise, SampledUnit, bound_of, rounded_down
from rulvek.core.ratings.tolerance import normal_factor, weakest_factor
from tests.examples import examples

WATTS = (104.1, 106.3, 103.0, 105.2, 107.4, 104.8, 105.9, 103.7, 106.6, 105.0)


def sample(
    watts: tuple[float, ...] | list[float], lots: str = "", censored: frozenset[int] = frozenset()
) -> list[SampledUnit]:
    """Units in order; ``lots`` has a letter a unit, over and over."""
    names = itertools.cycle(lots or [""])
    return [
        SampledUnit(f"U{at}", one, lot, at in censored) for at, (one, lot) in enumerate(zip(watts, names, strict=False))
    ]


def drawn(n: int, lots: int = 1, between: float = 0.0, seed: int = 1) -> list[SampledUnit]:
    draw = np.random.default_rng(seed)
    means = draw.normal(105, between, lots) if between else np.full(lots, 105.0)
    return [SampledUnit(f"U{at}", float(draw.normal(means[at % lots], 1.4)), f"L{at % lots}") for at in range(n)]


def test_a_normal_sample_by_hand() -> None:
    """Mean and spread by the formulas of any textbook, k = 2.911 of the printed tables for ten units."""
    found = bound_of(sample(WATTS), Promise(step_watts=5.0, systematic_watts=0.4))
    mean = sum(WATTS) / 10
    spread = math.sqrt(sum((one - mean) ** 2 for one in WATTS) / 9)
    assert (found.mean, found.spread) == pytest.approx((mean, spread))
    assert found.k == pytest.approx(2.911, abs=6e-4)
    assert found.bound_watts == pytest.approx(mean - 2.911 * spread, abs=1e-3)
    assert found.proposal_watts == 100.0  # 101.20 - 1.645 · 0.4 = 100.54, down to a multiple of 5
    assert bound_of(sample(WATTS), Promise(step_watts=5.0, systematic_watts=0.8)).proposal_watts == 95.0


def test_one_lot_speaks_of_itself_and_three_of_production() -> None:
    one = bound_of(sample(WATTS, "A"))
    assert one.method is Method.NORMAL and "One lot: this is a statement about that lot." in one.notes
    two = bound_of(sample(WATTS, "AB"))
    assert two.method is Method.NORMAL and "cannot be told" in two.notes[0] and two.between is not None
    apart = [
        SampledUnit(f"{lot}{at}", 105 + off + 0.3 * at, lot)
        for lot, off in (("A", 0), ("B", 4), ("C", -3))
        for at in range(4)
    ]
    three = bound_of(apart)
    assert three.method is Method.LOTS and three.between is not None and three.within is not None
    assert three.between > 5 * three.within
    plain = bound_of([replace(one, lot="") for one in apart])
    assert three.bound_watts is not None and plain.bound_watts is not None
    assert three.bound_watts < plain.bound_watts - 5  # twelve units of three lots are not twelve of production


def test_lots_that_do_not_differ_cost_next_to_nothing() -> None:
    found = bound_of(drawn(40, lots=8, seed=12))
    plain = bound_of([replace(one, lot="") for one in drawn(40, lots=8, seed=12)])
    assert found.bound_watts == pytest.approx(plain.bound_watts, abs=0.6)


def test_two_humps_fall_back_to_the_units_themselves() -> None:
    draw = np.random.default_rng(3)
    humps = [*draw.normal(95, 0.5, 10), *draw.normal(110, 0.5, 14)]
    few = bound_of(sample(humps), Promise(wanted_watts=90.0))
    assert few.method is Method.DISTRIBUTION_FREE and few.bound_watts is None and few.proposal_watts is None
    assert few.normality is not None and few.normality.p < 0.05
    assert any("takes 59 units for a bound, of which 35 are missing" in note for note in few.notes)
    assert few.more_units == 35


def test_the_rank_is_taken_of_the_sorted_units() -> None:
    draw = np.random.default_rng(8)
    watts = [*draw.normal(95, 0.5, 30), *draw.normal(110, 0.5, 70)]
    found = bound_of(sample(watts))
    assert found.method is Method.DISTRIBUTION_FREE and found.bound_watts == sorted(watts)[1]
    assert "The bound is the 2. smallest of 100 units." in found.notes
    wanted = bound_of(sample(watts[:60]), Promise(wanted_watts=100.0))
    assert wanted.more_units is None and any("below the wanted figure already" in note for note in wanted.notes)


def test_units_that_never_reached_their_limit_count_as_at_least() -> None:
    hidden = frozenset({1, 4, 8})
    found = bound_of(sample(WATTS, censored=hidden))
    assert found.method is Method.CENSORED and found.mean is not None and found.mean > sum(WATTS) / 10
    assert "Of 3 of 10 units it is only known" in " ".join(found.notes)
    none = bound_of(sample(WATTS[:4], censored=frozenset({0, 1})))
    assert (
        none.bound_watts is None and none.proposal_watts is None and "3 units that reached it" in " ".join(none.notes)
    )


def test_what_is_missing_is_what_would_do() -> None:
    found = bound_of(sample(WATTS), Promise(wanted_watts=102.0))
    assert found.more_units is not None and found.mean is not None and found.spread is not None
    n = 10 + found.more_units
    margin = (found.mean - 102.0) / found.spread
    assert normal_factor(n + 1, 0.95, 0.95) < margin  # k falls below the margin about there
    assert normal_factor(max(2, n - 3), 0.95, 0.95) > margin
    chances = [one.chance for one in found.chances]
    assert chances == sorted(chances) and chances[0] < 0.5 < chances[-1]
    assert bound_of(sample(WATTS), Promise(wanted_watts=100.0)).more_units == 0
    beyond = bound_of(sample(WATTS), Promise(wanted_watts=104.0))
    assert beyond.more_units is None and any("No number of units bears 104 W" in note for note in beyond.notes)


def test_more_lots_are_asked_for_where_lots_differ() -> None:
    within = np.random.default_rng(6).normal(0, 1.0, (4, 3))
    apart = [
        SampledUnit(f"{lot}{at}", 105 + off + float(within[row, at]), lot)
        for row, (lot, off) in enumerate(zip("ABCD", (0, 3, -2, 1), strict=True))
        for at in range(3)
    ]
    found = bound_of(apart, Promise(wanted_watts=97.0))
    assert found.method is Method.LOTS and found.more_units
    assert found.more_units % 3 == 0 and any(
        "more lots of 3" in note or "more lot of 3" in note for note in found.notes
    )


def test_a_lower_tail_that_looks_long_is_said() -> None:
    scores = np.array([-2.6, -1.3, -0.6, -0.2, 0.0, 0.2, 0.35, 0.5, 0.6, 0.7])
    down, up = bound_of(sample(list(105 + scores))), bound_of(sample(list(105 - scores)))
    said = [any("lower tail looks longer" in note for note in one.notes) for one in (down, up)]
    assert said == [True, False] and down.method is up.method is Method.NORMAL


def test_units_that_all_read_the_same_are_doubted() -> None:
    found = bound_of(sample([100.0] * 9))
    assert found.bound_watts == 100.0 and any("which units never do" in note for note in found.notes)


@pytest.mark.parametrize(("least", "bears"), [(100.0, 100.0), (98.0, 98.0)])
def test_units_that_all_read_the_same_beside_some_that_never_reached_their_limit(least: float, bears: float) -> None:
    """Nothing is divided by their spread of nothing: what any of them gave is all that is borne, and doubted."""
    sample = [SampledUnit(f"U{at}", 100.0 if at else least, censored=not at) for at in range(12)]
    found = bound_of(sample, Promise())
    assert (found.method, found.spread, found.bound_watts) == (Method.CENSORED, 0.0, bears)
    assert any("look at how they were read" in note for note in found.notes)
    nearly = bound_of([replace(one, watts=one.watts + at * 1e-7) for at, one in enumerate(sample)], Promise())
    assert nearly.bound_watts is not None and nearly.bound_watts == pytest.approx(100.0, abs=3.0)


def test_units_that_scatter_less_than_their_readings_are_said_to_be_lucky() -> None:
    close = sample([100.0, 100.1, 100.05])
    assert any("that is luck" in note for note in bound_of(close, Promise(individual_watts=0.6)).notes)
    assert not any("that is luck" in note for note in bound_of(close, Promise(individual_watts=0.01)).notes)


def test_one_unit_promises_nothing() -> None:
    found = bound_of(sample([104.0]), Promise(wanted_watts=100.0))
    assert (found.bound_watts, found.proposal_watts, found.more_units) == (None, None, None)


@pytest.mark.parametrize(
    ("units", "promise", "field"),
    [
        ([], Promise(), "sample"),
        ([SampledUnit("A", 100.0), SampledUnit("a", 101.0)], Promise(), "sample.1.unit"),
        ([SampledUnit(" ", 100.0)], Promise(), "sample.0.unit"),
        ([SampledUnit("A", 0.0)], Promise(), "sample.0.watts"),
        ([SampledUnit("A", math.nan)], Promise(), "sample.0.watts"),
        (sample(WATTS), Promise(share=0.2), "share"),
        (sample(WATTS), Promise(confidence=1.0), "confidence"),
        (sample(WATTS), Promise(step_watts=0.0), "step_watts"),
        (sample(WATTS), Promise(systematic_watts=-1.0), "systematic_watts"),
    ],
)
def test_what_is_no_sample_is_refused_by_field(units: list[SampledUnit], promise: Promise, field: str) -> None:
    with pytest.raises(BadInput) as refused:
        bound_of(units, promise)
    assert refused.value.field == field


def bounds(found: list[Bound]) -> list[float]:
    return [one.bound_watts for one in found if one.bound_watts is not None]


FIGURES = st.lists(st.floats(50, 150), min_size=2, max_size=20, unique=True)


@examples(25)
@given(watts=FIGURES, factor=st.sampled_from([0.1, 2.0, 7.5]), lots=st.sampled_from(["", "A", "ABC", "ABCDE"]))
def test_another_unit_of_power_changes_nothing_but_the_unit(watts: list[float], factor: float, lots: str) -> None:
    plain, scaled = bound_of(sample(watts, lots)), bound_of(sample([factor * one for one in watts], lots))
    assert plain.method is scaled.method
    for name in ("mean", "spread", "between", "within", "bound_watts"):
        one, other = getattr(plain, name), getattr(scaled, name)
        assert (one is None) == (other is None)
        assert one is None or other == pytest.approx(factor * one, rel=1e-6, abs=1e-6)


@examples(25)
@given(watts=FIGURES, lots=st.sampled_from(["", "AAB", "ABCD"]), data=st.data())
def test_the_order_of_the_units_says_nothing(watts: list[float], lots: str, data: st.DataObject) -> None:
    units = sample(watts, lots)
    mixed = data.draw(st.permutations(units))
    one, other = bound_of(units), bound_of(mixed)
    assert one.method is other.method and bounds([one]) == pytest.approx(bounds([other]), rel=1e-9)


@examples(20)
@given(watts=FIGURES, lots=st.sampled_from(["", "ABCD"]))
def test_to_promise_more_is_to_promise_less(watts: list[float], lots: str) -> None:
    """A larger share or more confidence never raises the bound, and the proposal never lies above it."""
    units = sample(watts, lots)
    for promises in (
        [Promise(share=share) for share in (0.8, 0.9, 0.95, 0.99)],
        [Promise(confidence=sure) for sure in (0.8, 0.9, 0.95, 0.99)],
        [Promise(channels=channels) for channels in (1, 2, 4, 8)],
    ):
        found = bounds([bound_of(units, one) for one in promises])
        assert all(later <= before + 1e-9 for before, later in itertools.pairwise(found))
    one = bound_of(units, Promise(step_watts=2.5, systematic_watts=0.7))
    if one.proposal_watts is not None and one.bound_watts is not None:
        assert one.proposal_watts <= one.bound_watts - 1.645 * 0.7 + 1e-9
        assert one.proposal_watts / 2.5 == pytest.approx(round(one.proposal_watts / 2.5))


@examples(200)
@given(watts=st.floats(0.01, 1e5), step=st.sampled_from([0.1, 0.25, 1.0, 5.0, 10.0, 25.0]))
def test_rounding_goes_down_and_never_a_step_too_far(watts: float, step: float) -> None:
    down = rounded_down(watts, step)
    assert down <= watts * (1 + 1e-9) + 1e-9 and watts - down < step * (1 + 1e-6)


CSV = "unit,lot,watts,censored\n" + "\n".join(f"U{at},L{at % 3},{one}," for at, one in enumerate(WATTS))


def test_the_command_prints_one_object(tmp_path: Path) -> None:
    file = tmp_path / "units.csv"
    file.write_text(CSV)
    told = CliRunner().invoke(
        app, ["bound", str(file), "--step", "5", "--wanted", "101", "--systematic", "0.2", "--json"]
    )
    assert told.exit_code == 0, told.output
    found = json.loads(told.output)
    assert set(found) == {
        *("n", "lots", "mean", "spread", "between", "within", "method", "k", "bound", "proposal"),
        *("normality", "more_units", "notes"),
    }
    expected = bound_of(
        [SampledUnit(f"U{at}", one, f"L{at % 3}") for at, one in enumerate(WATTS)],
        Promise(step_watts=5.0, wanted_watts=101.0, systematic_watts=0.2),
    )
    assert (found["bound"], found["proposal"], found["method"]) == (
        expected.bound_watts,
        expected.proposal_watts,
        expected.method.value,
    )


def test_the_command_bounds_the_weakest_of_several_channels() -> None:
    text = "unit,watts\n" + "\n".join(f"U{at},{one}" for at, one in enumerate(WATTS))
    told = CliRunner().invoke(app, ["bound", "-", "--channels", "4", "--json"], input=text)
    found = json.loads(told.stdout)
    k = weakest_factor(len(WATTS), 0.95, 0.95, 4)
    assert found["k"] == pytest.approx(k) and found["bound"] == pytest.approx(found["mean"] - k * found["spread"])
    refused = CliRunner().invoke(app, ["bound", "-", "--channels", "0"], input=text)
    assert refused.exit_code == 2 and "channels" in refused.stderr
    assert "weakest of 4" in CliRunner().invoke(app, ["bound", "-", "--channels", "4"], input=text).stdout


def test_the_command_takes_semicolons_and_commas_and_speaks_to_people() -> None:
    text = "Unit;Watts\n" + "\n".join(f"U{at};{str(one).replace('.', ',')}" for at, one in enumerate(WATTS))
    told = CliRunner().invoke(app, ["bound", "-"], input=text)
    assert told.exit_code == 0 and "bound 101.2 W (k = 2.911): 95 % of all units reach it, at 95 %" in told.output


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "it needs the columns unit and watts"),
        ("unit,power\nA,1\n", "there is no column “power”"),
        ("unit,watts\n", "headings, but no unit below them"),
        ("unit,watts\nA,100\nB,-3\n", "Line 3: watts must be above 0, got -3"),
        ("unit,watts\nA,x\n", "Line 2: “x” is no number of watts"),
        ("unit,watts\nA,inf\n", "Line 2: “inf” is no number of watts"),
        ("unit,watts,censored\nA,100,perhaps\n", "Line 2: censored is yes or no"),
        ("unit,watts\nA,100,3,4\n", "Line 2 has another number of cells"),
        ("unit,watts\nA\n", "Line 2 has another number of cells"),
        ("unit,watts\nA,100\nA,101\n", "The unit A is there twice"),
    ],
)
def test_a_file_that_is_no_sample_ends_in_one_sentence(text: str, words: str) -> None:
    told = CliRunner().invoke(app, ["bound", "-"], input=text)
    assert told.exit_code == 2 and words in told.output and "Traceback" not in told.output
