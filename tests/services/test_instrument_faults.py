"""What goes wrong with instruments in a run, through everything: it ends safe, and nothing of the fault is read."""

import contextlib
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
import pytest

from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.server import SocketInstrument, on_sockets
from rulvek.composition import Services
from rulvek.core.errors import BenchFault
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End, Mode
from rulvek.services.views.attempt import AttemptView
from tests.bench.instruments.conftest import Running, assembled
from tests.bench.instruments.test_link import answering
from tests.conftest import TAMSIN

Heard = Callable[[str], bytes]
WISHES = Wishes(modes=(Mode.CERTIFIED,))
TIMEOUT_SECONDS = 1.0
IN_THE_MIDDLE = 6
"""At which record it happens: by then points were read."""


@dataclass(frozen=True)
class Lab:
    """A bench that was looked at, with a run that is ready to begin, and the amplifier behind its sockets."""

    services: Services
    running: Running
    behind: SimulatedBench
    run_id: int

    def ended(self, cause: Cause | None = None) -> AttemptView:
        """How a try at the run ends."""
        room = self.services.benches.room("Bench 7")
        room.start(self.run_id, TAMSIN, cause, "Once more" if cause else "")
        room.wait(120)
        (run,) = [one for one in self.services.campaigns.get(1).runs if one.id == self.run_id]
        return run.attempts[-1]


@pytest.fixture
def lab(services: Services, unit_id: int, request: pytest.FixtureRequest) -> Iterator[Lab]:
    """A test's parameter, where it has one, is what its bench is made otherwise."""
    behind = SimulatedBench(DESIGNS["two-ab"], "T2-0001")
    with on_sockets(SimulatedInstruments(behind).trees) as running:
        assembly = replace(assembled(running), **getattr(request, "param", {}))
        stations = {
            role: replace(one, description=replace(one.description, timeout_seconds=TIMEOUT_SECONDS))
            for role, one in assembly.stations.items()
        }
        room = services.benches.add("Bench 7", OF_INSTRUMENTS, TAMSIN, replace(assembly, stations=stations).as_json())
        room.look(1, False, TAMSIN)
        room.wait(60)
        campaign = services.campaigns.create(unit_id, TAMSIN, WISHES, None, bench="Bench 7")
        services.preparations.see_to_all(campaign.id, 1, TAMSIN)
        yield Lab(services, running, behind, campaign.runs[0].id)


def from_the_middle_on(instrument: SocketInstrument, asked: str, otherwise: Callable[[Heard, str], bytes]) -> None:
    """From one of its answers on it answers a kind of message otherwise."""
    count = [0]

    def now(message: str, heard: Heard) -> bytes:
        if asked not in message:
            return heard(message)
        count[0] += 1
        return otherwise(heard, message) if count[0] >= IN_THE_MIDDLE else heard(message)

    answering(instrument, now)


def drops(lab: Lab) -> str:
    def gone(heard: Heard, message: str) -> bytes:
        raise ConnectionResetError

    from_the_middle_on(lab.running["recorder"], "READ?", gone)
    return "digitizer"


def late(lab: Lab) -> str:
    def slowly(heard: Heard, message: str) -> bytes:
        answer = heard(message)
        time.sleep(1.5 * TIMEOUT_SECONDS)
        return answer

    from_the_middle_on(lab.running["recorder"], "READ?", slowly)
    return "digitizer"


def garbage(lab: Lab) -> str:
    from_the_middle_on(lab.running["recorder"], "READ?", lambda heard, message: b"\xff\x00 no block\n")
    return "digitizer"


def no_number(lab: Lab) -> str:
    from_the_middle_on(lab.running["temperatures"], "?", lambda heard, message: b'nan;1;0,"No error"\n')
    return "thermometer"


def refuses(lab: Lab) -> str:
    from_the_middle_on(
        lab.running["source"], ":VOLTage ", lambda heard, message: b'1;-221,"Settings conflict;output in overload"\n'
    )
    return "generator"


def restarts(lab: Lab) -> str:
    def cut(heard: Heard, message: str) -> bytes:
        for one in lab.running.values():
            one.tree.answer("*RST")
        raise ConnectionResetError

    from_the_middle_on(lab.running["recorder"], "READ?", cut)
    return "digitizer"


def another_one(lab: Lab) -> str:
    """Its connection drops, and who answers at the address then is another instrument."""

    def gone(heard: Heard, message: str) -> bytes:
        answering(
            lab.running["recorder"],
            lambda asked, usual: b"Somebody,else,0,1\n" if "*IDN?" in asked else usual(asked),
        )
        raise ConnectionResetError

    from_the_middle_on(lab.running["recorder"], "READ?", gone)
    return "digitizer"


@pytest.mark.parametrize("fault", [drops, late, garbage, no_number, refuses, restarts, another_one])
def test_a_run_ends_safe_and_says_why_in_a_sentence(lab: Lab, fault: Callable[[Lab], str]) -> None:
    who = fault(lab)
    attempt = lab.ended()
    assert attempt.end is End.LINK_LOST
    assert not lab.behind.amplifier.powered and lab.behind.is_muted
    assert who in attempt.fault.casefold() and attempt.fault.endswith(".")
    assert "Traceback" not in attempt.fault and len(attempt.fault) < 250
    # What it has is the best that was read before, short of the limit; nothing was read in the fault.
    points = lab.services.evidence.attempt(attempt.id).points
    assert len(points) <= IN_THE_MIDDLE
    read = {round(one.watts, 6) for point in points for one in point.channels}
    assert {round(one.watts, 6) for one in attempt.readings} <= read


def test_another_instrument_at_an_address_is_told_before_anything_is_powered(lab: Lab) -> None:
    another_one(lab)
    lab.ended()
    powered = lab.behind.amplifier.powered
    with pytest.raises(BenchFault, match="Somebody,else"):  # refused before there is an attempt
        lab.ended(Cause.CONNECTION)
    assert not powered and not lab.behind.amplifier.powered
    assert sum(len(run.attempts) for run in lab.services.campaigns.get(1).runs) == 1


@pytest.mark.parametrize("watched", [False, True])
def test_after_all_were_switched_off_and_on_the_next_run_just_goes(lab: Lab, watched: bool) -> None:
    """Whatever was connected to before is gone; nothing is asked for twice, and no attempt is lost to it."""
    if watched:  # a first run that ends well has all of its connections open
        assert lab.ended().end is End.LIMIT
    addresses = {role: one.server_address[1] for role, one in lab.running.items()}
    for one in lab.running.values():
        one.shutdown()
        one.server_close()
    room = lab.services.benches.room("Bench 7")
    with pytest.raises(BenchFault, match="does not answer"):
        room.start(lab.run_id, TAMSIN, Cause.CONNECTION if watched else None, "All is off" if watched else "")
    assert not room.busy
    fresh = SimulatedInstruments(SimulatedBench(DESIGNS["two-ab"], "T2-0001")).trees
    with contextlib.ExitStack() as back:
        for role, port in addresses.items():
            back.enter_context(on_sockets({role: fresh[role]}, port))
        assert lab.ended(Cause.CONNECTION if watched else None).end is End.LIMIT


def test_a_recorder_that_slips_samples_gives_no_reading(lab: Lab) -> None:
    """One sample of each record is lost in its middle, its length kept: it would read as distortion."""

    def slipped(heard: Heard, message: str) -> bytes:
        answer = heard(message)
        inputs = int(message.split("?")[1].split(";")[0].split(",")[1])
        digits = int(answer[1:2])
        head, wave = answer[: 2 + digits], np.frombuffer(answer[2 + digits :].rstrip(b"\n"), "<f4").reshape(inputs, -1)
        middle = wave.shape[1] // 2
        lost = np.concatenate([wave[:, :middle], wave[:, middle + 1 :], wave[:, -1:]], axis=1)
        return head + lost.astype("<f4").tobytes() + b"\n"

    from_the_middle_on(lab.running["recorder"], "READ?", slipped)
    attempt = lab.ended()
    assert attempt.end is End.LINK_LOST and "lost 1 of its samples" in attempt.fault
    assert not lab.behind.amplifier.powered and lab.behind.is_muted


def test_a_supply_that_stays_on_is_told(lab: Lab) -> None:
    """It says that it is done, and is not: the probe sees amps."""
    answering(
        lab.running["supply"], lambda message, heard: b'1;0,"No error"\n' if "OUTPut:OFF" in message else heard(message)
    )
    attempt = lab.ended()
    assert lab.behind.amplifier.powered and lab.behind.is_muted
    assert "flow although the supply was switched off" in attempt.fault
    assert "Switch the supply off by hand" in attempt.fault


def test_nobody_on_the_network_while_off_is_pressed_is_told(lab: Lab) -> None:
    """Off comes back, the run is on record, and what may still be on is said with what to do."""
    room = lab.services.benches.room("Bench 7")

    def gone(heard: Heard, message: str) -> bytes:
        for one in lab.running.values():
            answering(one, nobody)
        began.set()
        raise ConnectionResetError

    def nobody(message: str, heard: Heard) -> bytes:
        raise ConnectionResetError

    began = threading.Event()
    from_the_middle_on(lab.running["recorder"], "READ?", gone)
    room.start(lab.run_id, TAMSIN)
    assert began.wait(60)
    lab.services.benches.off(TAMSIN, room.id)
    room.wait(120)
    (run,) = [one for one in lab.services.campaigns.get(1).runs if one.id == lab.run_id]
    attempt = run.attempts[-1]
    assert attempt.end in (End.LINK_LOST, End.OPERATOR)
    assert "Switch the supply off by hand" in attempt.fault
    assert room.state().state == "idle"


@pytest.mark.parametrize("lab", [{"volts_per_unit": 20.0}], indirect=True)
def test_a_divider_that_is_not_there_is_over_the_limits(lab: Lab) -> None:
    """The description says 20 : 1 and there is none: what would be 20 times the volts is no reading."""
    attempt = lab.ended()
    assert attempt.end is End.LINK_LOST and "its load stands" in attempt.fault
    assert not lab.behind.amplifier.powered and lab.behind.is_muted
    assert {round(one.watts, 6) for one in attempt.readings} <= {
        round(one.watts, 6) for point in lab.services.evidence.attempt(attempt.id).points for one in point.channels
    }
