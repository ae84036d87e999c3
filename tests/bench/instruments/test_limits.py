"""What a bench can stand is held while a run is on; what instruments do in the middle of one ends it safe."""

import contextlib
import socket
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from rulvek.bench.conductor import Finished, RunEvent, conduct
from rulvek.bench.instruments.assembly import Assembly, Limits
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.limits import LimitsKept
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.core.electrical.loads import Connection, LoadBox
from rulvek.core.errors import BenchFault
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.requests import Outcome
from rulvek.core.signals.capture import SupplyTrace
from tests.bench.instruments.conftest import Run, Running, assembled
from tests.bench.instruments.test_runs import FOUR, setup_of

Otherwise = Callable[..., tuple[InstrumentBench, Running, SimulatedBench]]
BOXES = (LoadBox(4.0, 600.0, 6), LoadBox(2.0, 900.0, 6))


@pytest.fixture
def otherwise(on_bench: Run) -> Iterator[Otherwise]:
    """A bench of the same instruments that is put together otherwise."""
    with contextlib.ExitStack() as stack:

        def made(**changes: Any) -> tuple[InstrumentBench, Running, SimulatedBench]:
            first, running, behind = on_bench("four-d")
            first.close()
            assembly: Assembly = replace(assembled(running), **changes)
            bench = InstrumentBench("Bench 1", assembly)
            bench.open()
            stack.callback(bench.close)
            return bench, running, behind

        yield made


def conducted(bench: InstrumentBench, behind: SimulatedBench) -> tuple[Outcome, str]:
    """How a run ended, and what went wrong."""
    faults: list[str] = []

    def hear(event: RunEvent) -> None:
        if isinstance(event, Finished):
            faults.append(event.fault)

    outcome = conduct(bench, setup_of(Mode.CERTIFIED, FOUR), hear).outcome
    assert not behind.amplifier.powered and behind.is_muted
    return outcome, faults[0]


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"volts_per_unit": 20.0}, "its load stands"),  # a divider of which nobody told the wires
        ({"limits": Limits(3.0, BOXES)}, "this bench stands 3 A"),
        ({"limits": Limits(250.0, BOXES, supply_volts=13.0)}, "at most 13 V"),
        ({"limits": Limits(250.0, BOXES, run_seconds=1.0)}, "on for more than 1 s"),
        ({"limits": Limits(250.0, (LoadBox(4.0, 20.0, 6),))}, "its load stands 20 W"),
        ({"limits": Limits(250.0, BOXES, load_c=23.5)}, "this bench stands 23.5 °C"),
    ],
)
def test_whatever_is_over_a_limit_ends_the_run_safe_in_one_sentence(
    otherwise: Otherwise, changes: dict[str, Any], words: str
) -> None:
    bench, _, behind = otherwise(**changes)
    outcome, fault = conducted(bench, behind)
    assert outcome.end is End.LINK_LOST and words in fault and fault.endswith(".")


def test_within_its_limits_a_run_is_what_it_was(otherwise: Otherwise) -> None:
    bench, _, behind = otherwise(limits=Limits(250.0, BOXES, supply_volts=15.0, run_seconds=3_600.0))
    assert conducted(bench, behind)[0].end is End.LIMIT


def test_limits_are_those_of_the_boxes_and_a_burst_heats_no_load() -> None:
    kept = LimitsKept(Limits(50.0, BOXES))
    trace, one = SupplyTrace(np.array([14.4]), np.array([20.0]), 1.0), (Connection((1,), 4.0),)
    loud = np.full((1, 100), 60.0)  # 900 W into 4 Ω, of which a box stands 600
    with pytest.raises(BenchFault, match="Channel 1 gives 900 W into 4 Ω"):
        kept.refuse_record(loud, one, trace, True, 0.0)
    kept.refuse_record(loud, one, trace, False, 0.0)
    kept.refuse_record(loud, (Connection((1,), 7.3),), trace, True, 0.0)  # no box makes it: it is somebody's own
    kept.switched_on(100.0)
    with pytest.raises(BenchFault, match="7200 s"):
        kept.refuse_record(0 * loud, one, trace, True, 7_400.0)
    kept.switched_off()
    kept.refuse_record(0 * loud, one, trace, True, 7_400.0)


def test_bursts_that_go_on_for_long_come_to_more_than_a_load_stands() -> None:
    """A first-order path feels 70 % of a step after 1.2 time constants: 1 - exp(-1.2) = 0.699."""
    kept, one = LimitsKept(Limits(50.0, BOXES)), (Connection((1,), 4.0),)
    box = BOXES[0]
    assert (box.ohms, box.watts) == (4.0, 600.0)
    loud, soft = (np.full((1, 100), volts) for volts in (60.0, 40.0))  # 900 W and 400 W
    kept.switched_on(0.0)
    for now in range(2_000):
        kept.refuse_record(soft, one, None, False, float(now))
    kept.switched_off()
    cold = 2_000.0 + 20 * box.time_constant
    kept.switched_on(cold)
    with pytest.raises(BenchFault, match="for so long that its load is as warm as by"):
        for now in range(2_000):
            kept.refuse_record(loud, one, None, False, cold + now)
    assert now / box.time_constant == pytest.approx(1.2, abs=0.05)  # 1.05 times 600 W are 70 % of 900 W


def test_no_channel_is_read_at_the_input_of_another(otherwise: Otherwise) -> None:
    """Channel 1 goes to input 2, and nobody said where channel 2 goes: it is not read there as well."""
    bench, _, behind = otherwise(inputs={1: 2})
    outcome, fault = conducted(bench, behind)
    assert outcome.end is End.LINK_LOST and outcome.reading is None
    assert "Channel 2 is wired to no recorder input" in fault
    assert [bench.assembly.input_of(channel) for channel in (1, 2, 3, 99)] == [2, None, 3, None]


def test_an_instrument_that_restarts_in_a_run_ends_it(otherwise: Otherwise) -> None:
    """All its connections are gone at once, as at a power cut; after it, it knows nothing of what it was set to."""
    bench, running, behind = otherwise()
    recorder, heard, records = running["recorder"], running["recorder"].heard, [0]

    def cut(message: str) -> bytes:
        records[0] += message.startswith("READ?")
        if records[0] == 4:
            raise ConnectionResetError
        return heard(message)

    recorder.heard = cut  # type: ignore[method-assign]
    outcome, fault = conducted(bench, behind)
    assert outcome.end is End.LINK_LOST and "digitizer" in fault
    recorder.heard = heard  # type: ignore[method-assign]
    bench.open()
    assert conducted(bench, behind)[0].end is End.LIMIT


def test_a_record_with_a_sample_lost_in_its_middle_sets_no_limit(otherwise: Otherwise) -> None:
    """Once in a run, then watts and end are as without; of the length that was asked for it is all the same."""
    bench, _, behind = otherwise()
    usual, _ = conducted(bench, behind)
    bench, _, behind = otherwise()
    block, taken = bench._links[next(role for role in bench._links if role == "recorder")].block, [0]

    def slipped(*asked: Any, **given: Any) -> np.ndarray:
        found: np.ndarray = block(*asked, **given)
        taken[0] += 1
        if taken[0] == 12 and found.shape[1] > 100:
            middle = found.shape[1] // 2
            found = np.concatenate([found[:, :middle], found[:, middle + 1 :], found[:, -1:]], axis=1)
        return found

    bench._links[next(role for role in bench._links if role == "recorder")].block = slipped  # type: ignore[method-assign]
    found, _ = conducted(bench, behind)
    assert taken[0] > 12 and found.end is usual.end is End.LIMIT and found.reading and usual.reading
    watts = [[one.watts for one in outcome.reading.channels] for outcome in (found, usual) if outcome.reading]
    assert watts[0] == pytest.approx(watts[1], rel=0.01)


def test_nobody_on_the_network_while_off_is_pressed_is_told(otherwise: Otherwise) -> None:
    """The supply's own connection is gone as well: what may still be on is said, with what to do."""
    bench, running, _ = otherwise()
    for one in running.values():
        one.shutdown()
        one.server_close()
    for link in bench._safe.values():
        _hang_up(link)
    told = bench.make_all_safe()
    assert "Switch the supply off by hand" in told


def _hang_up(link: Any) -> None:
    """As when a cable is pulled: nothing of it is heard any more."""
    device = getattr(link, "_device", None)
    session = getattr(getattr(device, "visalib", None), "sessions", {}).get(getattr(device, "session", None))
    interface = getattr(session, "interface", None)
    if isinstance(interface, socket.socket):
        interface.close()
