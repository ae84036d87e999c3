"""Changes made by hand survive another wish where they still apply, and are named where they don't.

The expectations are worked out by hand from what a person means by each change (no source).
"""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput
from rulvek.core.planning.edits import carry_over
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from tests.examples import examples


def run(ohms: float, mode: Mode = Mode.CERTIFIED, volts: float = 14.4, tone: float = 1000.0) -> RunSpec:
    return RunSpec(mode, "main", ohms, tone, volts, burst="1 kHz" if mode is Mode.BURST else "")


def anything(_spec: RunSpec) -> None:
    """Every run can be had."""


OLD = [run(4), run(2), run(4, Mode.BURST)]
LOWER = [replace(spec, supply_volts=13.8) for spec in OLD]


def test_a_dropped_run_stays_away_at_another_voltage() -> None:
    carried = carry_over(LOWER, OLD, [run(4), run(4, Mode.BURST)], anything)
    assert carried.runs == (LOWER[0], LOWER[2]) and carried.lost == ()


def test_a_changed_run_keeps_its_change_and_takes_the_wish() -> None:
    carried = carry_over(LOWER, OLD, [run(4, tone=100.0), *OLD[1:]], anything)
    assert carried.runs[0] == run(4, volts=13.8, tone=100.0) and len(carried.runs) == 3


def test_an_added_run_stays_as_it_was_written() -> None:
    carried = carry_over(LOWER, OLD, [*OLD, run(8)], anything)
    assert carried.runs == (*LOWER, run(8)) and carried.lost == ()


def test_a_change_of_what_is_no_longer_proposed_is_named() -> None:
    certified = [spec for spec in OLD if spec.mode is Mode.CERTIFIED]
    carried = carry_over(certified, OLD, [*OLD[:2], replace(OLD[2], burst="20 cycles")], anything)
    assert carried.runs == tuple(certified)
    assert carried.lost == ("the change of burst main, 4 Ω at 14.4 V: it is no longer proposed",)


def test_an_added_run_that_cannot_be_had_is_named_with_the_reason() -> None:
    def refuse(spec: RunSpec) -> None:
        if spec.load_ohms < 2:
            raise BadInput("1 Ω is below the lowest rated load of 2 Ω: burst runs only.", field="load_ohms")

    carried = carry_over(LOWER, OLD, [*OLD, run(1)], refuse)
    assert carried.runs == tuple(LOWER)
    (lost,) = carried.lost
    assert lost == "certified main, 1 Ω at 14.4 V: 1 Ω is below the lowest rated load of 2 Ω: burst runs only"


def test_an_order_made_by_hand_holds_for_the_same_runs_only() -> None:
    turned = [OLD[1], OLD[0], OLD[2]]
    assert carry_over(OLD, OLD, turned, anything).runs == tuple(turned)
    assert carry_over([*OLD, run(8)], OLD, turned, anything).lost == ("the order made by hand",)


RUNS = st.lists(
    st.builds(run, st.sampled_from([8.0, 4.0, 2.0]), st.sampled_from(Mode), st.sampled_from([12.5, 14.4])),
    unique=True,
    max_size=8,
)


@examples(200)
@given(RUNS, RUNS, RUNS)
def test_it_never_fails_and_never_doubles(fresh: list[RunSpec], proposed: list[RunSpec], edited: list[RunSpec]) -> None:
    carried = carry_over(fresh, proposed, edited, anything)
    assert len(set(carried.runs)) == len(carried.runs)
    assert carry_over(fresh, proposed, proposed, anything).runs == tuple(fresh)  # nothing was changed
