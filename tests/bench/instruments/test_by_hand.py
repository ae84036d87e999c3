"""Roles by hand: loads that a person plugs, a supply that a person turns, a thermometer that a person reads."""

import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack

import pytest

from rulvek.bench.conductor import Finished, Prepared, RunEvent, conduct
from rulvek.bench.instruments import by_hand
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.by_hand import Asking
from rulvek.bench.instruments.description import BenchRole, read_description, shipped
from rulvek.bench.instruments.selftest import self_test
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.switch import Switch
from rulvek.core.errors import BadInput, BenchFault, Conflict
from rulvek.core.runs.modes import End, Mode
from tests.bench.instruments.conftest import Run, assembled
from tests.bench.instruments.hands import Person, somebody_at, with_hands
from tests.bench.instruments.test_runs import FOUR, setup_of

Handed = tuple[InstrumentBench, SimulatedBench, Asking]


@pytest.fixture
def handed(on_bench: Run) -> Iterator[Handed]:
    """A bench with three roles by hand, and nobody at it yet."""
    first, running, behind = on_bench("four-d")
    first.close()
    asking = Asking()
    bench = InstrumentBench("Bench 1", with_hands(assembled(running)), asking=asking)
    with ExitStack() as stack:
        stack.callback(bench.close)
        bench.open()
        yield bench, behind, asking


def until(true: object, seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not true():  # type: ignore[operator]
        assert time.monotonic() < end
        time.sleep(0.002)


def test_a_run_with_hands_reads_what_it_reads_without(handed: Handed) -> None:
    """Within 0.3 %, as the bench in the process reads it with the same seed."""
    bench, behind, asking = handed
    events: list[RunEvent] = []
    with somebody_at(asking, behind) as person:
        found = conduct(bench, setup_of(Mode.CERTIFIED, FOUR), events.append).outcome
        until(lambda: not behind.amplifier.powered)
    alone = conduct(SimulatedBench(DESIGNS["four-d"], "S-0001"), setup_of(Mode.CERTIFIED, FOUR), lambda _: None).outcome
    assert found.end is alone.end is End.LIMIT
    assert found.reading is not None and alone.reading is not None
    for one, other in zip(found.reading.channels, alone.reading.channels, strict=True):
        assert one.watts == pytest.approx(other.watts, rel=0.003)
    assert found.reading.supply_amps is not None  # the recorder has the supply alongside
    assert found.reading.temperature_c == pytest.approx(23.0, abs=3)  # as it was read before the run
    assert sum("wire" in words for words in person.heard) == 1
    assert sum("Switch the supply on" in words for words in person.heard) == 1
    assert person.heard[-1] == "Switch the supply off now"
    assert not any(isinstance(one, Finished) and one.fault for one in events)
    (prepared,) = (one for one in events if isinstance(one, Prepared))
    assert {prepared.bench[role] for role in ("loads", "supply", "temperatures")} == {"by hand"}


def test_the_same_wiring_is_not_asked_twice_and_another_one_is(handed: Handed) -> None:
    bench, behind, asking = handed
    with somebody_at(asking, behind) as person:
        bench.connect(FOUR)
        bench.connect(FOUR)
        first = bench.measured()
        bench.connect(FOUR[:2])
        second = bench.measured()
    assert sum("wire" in words for words in person.heard) == 2
    assert (set(first), set(second)) == ({1, 2, 3, 4}, {1, 2})


def test_off_waits_for_nobody_and_leaves_what_is_to_be_done(handed: Handed) -> None:
    """In the moment where somebody is asked to switch on: whoever asks then holds the switch."""
    bench, behind, asking = handed
    switch, events, ended = Switch(), list[RunEvent](), threading.Event()

    def run() -> None:
        conduct(bench, setup_of(Mode.CERTIFIED, FOUR), events.append, switch)
        ended.set()

    person = Person(asking, behind)
    threading.Thread(target=run, daemon=True).start()
    while True:
        until(lambda: asking.question is not None or ended.is_set())
        asked = asking.question
        assert asked is not None
        if "Switch the supply on" in asked.words:
            break
        asking.answer(asked.id, person.done(asked))
        until(lambda asked=asked: asking.question is None or asking.question.id != asked.id)
    began = time.monotonic()
    switch.throw()
    assert time.monotonic() - began < 0.15  # Off, as everywhere
    assert ended.wait(10)
    assert behind.is_muted
    (last,) = (one for one in events if isinstance(one, Finished))
    assert last.outcome.end is End.OPERATOR
    notice = asking.question  # somebody may have switched it on in that moment
    assert notice is not None
    assert (notice.words, notice.urgent) == ("Switch the supply off now", True)
    asking.answer(notice.id, None)
    assert asking.question is None


def test_what_was_switched_off_by_hand_comes_before_the_next_question() -> None:
    asking = Asking()
    asking.notice("Switch the supply off now")
    answers: list[float] = []
    asks = threading.Thread(target=lambda: answers.append(asking.ask("Read the volts", "V", 0, 60)), daemon=True)
    asks.start()
    notice = asking.question
    assert notice is not None and notice.urgent
    asking.answer(notice.id, None)
    until(lambda: asking.question is not None)
    asked = asking.question
    assert asked is not None
    asking.answer(asked.id, 14.4)
    asks.join(10)
    assert answers == [14.4]


def test_an_answer_that_cannot_be_leaves_the_question_standing() -> None:
    asking = Asking()
    answers: list[float] = []
    asks = threading.Thread(target=lambda: answers.append(asking.ask("Read the volts", "V", 0, 60)), daemon=True)
    asks.start()
    until(lambda: asking.question is not None)
    asked = asking.question
    assert asked is not None
    with pytest.raises(BadInput, match="Type a number: Read the volts"):
        asking.answer(asked.id, None)
    with pytest.raises(BadInput, match="144 V is outside of 0 to 60 V"):
        asking.answer(asked.id, 144.0)  # a decimal that was left out
    assert asking.question == asked
    asking.answer(asked.id, 14.4)
    with pytest.raises(Conflict, match="not asked any more"):
        asking.answer(asked.id, 14.4)  # a second browser
    asks.join(10)
    assert answers == [14.4]


def test_nobody_answers_for_ever(handed: Handed, monkeypatch: pytest.MonkeyPatch) -> None:
    bench, behind, asking = handed
    monkeypatch.setattr(by_hand, "ANSWER_SECONDS", 0.05)
    with pytest.raises(BenchFault, match="Nobody answered: Amplifier off: wire"):
        bench.connect(FOUR)
    assert asking.question is None
    assert not behind.amplifier.powered


def test_a_look_at_it_asks_for_each_load(handed: Handed) -> None:
    bench, behind, asking = handed
    with somebody_at(asking, behind) as person:
        looked = list(self_test(bench, 2, powered=True))
    assert all(one.passed for one in looked), looked
    assert sum("measure the load" in words for words in person.heard) == 2
    assert any("by hand" in one.found for one in looked)


@pytest.mark.parametrize("role", [BenchRole.SOURCE, BenchRole.RECORDER, BenchRole.CURRENT])
def test_what_off_or_a_reading_needs_is_never_by_hand(role: BenchRole) -> None:
    text = (
        f'name = "Hands"\nidentifies = "by hand"\nroles = ["{role}"]\nby_hand = true\n'
        'rates_hz = [1.0]\nsafe = ["Off"]\n[acts]\n'
        + {
            BenchRole.SOURCE: 'set_tone.send = "a"\nset_level.send = "b"\nmute.send = "c"\n',
            BenchRole.RECORDER: 'set_rate.send = "a"\nrecord.ask = "b"\n[ranges]\nrecord = { low = 0, high = 1 }\n',
            BenchRole.CURRENT: 'read_amps.ask = "a"\n[ranges]\nread_amps = { low = 0, high = 1 }\n',
        }[role]
    )
    with pytest.raises(BadInput, match="can be by hand, nothing else"):
        read_description(text)


def test_what_is_read_by_hand_has_its_range() -> None:
    told = read_description
    text = 'name = "T"\nidentifies = "by hand"\nroles = ["temperatures"]\nby_hand = true\n[acts]\n'
    with pytest.raises(BadInput, match="does not say within what read_sink_c is read"):
        told(text + 'read_sink_c.ask = "Sink"\nread_load_c.ask = "Load"\n')
    assert {name for name, one in shipped().items() if one.by_hand} == {
        "by-hand-loads",
        "by-hand-supply",
        "by-hand-thermometer",
    }
