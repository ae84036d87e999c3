"""Who holds the bench: one at a time, by asking, by silence, and never for ever."""

import pytest

from rulvek.core.errors import Conflict
from rulvek.services.benches.hold import ANSWER_SECONDS, LEFT_ALONE_SECONDS, BenchHold


class Clock:
    """A clock that is moved by hand."""

    def __init__(self) -> None:
        self.now = 1000.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def hold(clock: Clock) -> BenchHold:
    made = BenchHold(clock)
    made.require("Tamsin")
    return made


def test_the_first_holds_it_and_others_are_told_who(hold: BenchHold) -> None:
    hold.require("Tamsin")
    with pytest.raises(Conflict, match="Tamsin is working at the bench") as refused:
        hold.require("Joren")
    assert refused.value.code == "bench-held"


def test_the_holder_hands_over_or_keeps_it(hold: BenchHold) -> None:
    hold.ask("Joren", busy=False)
    assert hold.state(False).asked_by == "Joren"
    with pytest.raises(Conflict, match="Joren has asked already"):
        hold.ask("Mirel", busy=False)
    with pytest.raises(Conflict, match="Only Tamsin"):
        hold.answer("Joren", True)
    assert hold.answer("Tamsin", False) == "Joren"
    assert hold.state(False).holder == "Tamsin" and hold.state(False).asked_by is None
    hold.ask("Joren", busy=False)
    hold.answer("Tamsin", True)
    assert hold.state(False).holder == "Joren"
    with pytest.raises(Conflict, match="Nobody is asking"):
        hold.answer("Joren", True)


def test_silence_hands_it_over_but_not_in_the_middle_of_a_run(hold: BenchHold, clock: Clock) -> None:
    hold.ask("Joren", busy=True)
    clock.now += ANSWER_SECONDS - 1
    left = hold.state(True).seconds_left
    assert left == pytest.approx(1.0)
    clock.now += 30
    assert hold.state(True).holder == "Tamsin"
    assert hold.state(False).holder == "Joren"
    hold.require("Joren")


def test_a_bench_left_alone_becomes_free(hold: BenchHold, clock: Clock) -> None:
    clock.now += LEFT_ALONE_SECONDS - 1
    hold.require("Tamsin")
    clock.now += LEFT_ALONE_SECONDS - 1
    assert hold.state(False).holder == "Tamsin"
    clock.now += 2
    assert hold.state(False).holder is None
    hold.ask("Joren", busy=False)
    assert hold.state(False).holder == "Joren"


def test_leaving_frees_it_or_gives_it_to_the_one_who_asked(hold: BenchHold) -> None:
    hold.leave("Joren")
    assert hold.state(False).holder == "Tamsin"
    hold.ask("Joren", busy=False)
    hold.leave("Tamsin")
    assert hold.state(False).holder == "Joren"
    hold.leave("Joren")
    assert hold.state(False).holder is None
