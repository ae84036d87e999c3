"""Runs through sockets end as they do on the simulated bench itself, with the same watts."""

import threading
import time
from dataclasses import replace

import pytest

from rulvek.bench.conductor import LevelSet, RunEvent, RunSetup, conduct
from rulvek.bench.instruments.assembly import Assembly
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.switch import Switch
from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End, Mode
from tests.bench.instruments.conftest import Run, assembled

METHOD = MethodProfile()
FOUR = tuple(Connection((channel,), 4.0) for channel in (1, 2, 3, 4))
PAIRS = (Connection((1, 2), 4.0), Connection((3, 4), 4.0))


def setup_of(mode: Mode, wired: tuple[Connection, ...] = FOUR) -> RunSetup:
    burst = METHOD.burst_of(bass=False) if mode is Mode.BURST else None
    return RunSetup(wired, (), 1000.0, 40.0, 14.4, 0.0, METHOD, mode, burst)


@pytest.mark.parametrize(
    ("mode", "wired"),
    [(Mode.CERTIFIED, FOUR), (Mode.UNCERTIFIED, FOUR), (Mode.BURST, FOUR), (Mode.CERTIFIED, PAIRS)],
)
def test_watts_and_end_are_those_of_the_bench_behind(on_bench: Run, mode: Mode, wired: tuple[Connection, ...]) -> None:
    here = conduct(SimulatedBench(DESIGNS["four-d"], "S-0001"), setup_of(mode, wired), lambda _: None).outcome
    bench, _, behind = on_bench("four-d")
    there = conduct(bench, setup_of(mode, wired), lambda _: None)
    assert there.outcome.end is here.end and there.outcome.reading and here.reading and there.reading_capture
    watts = [one.watts for one in there.outcome.reading.channels]
    assert watts == pytest.approx([one.watts for one in here.reading.channels], rel=1e-3)  # 0.3 % is asked
    assert len(watts) == len(wired) and not behind.amplifier.powered and behind.is_muted
    assert bench.describe()["supply"].startswith("Rulvek,simulated supply")


def test_off_over_its_own_connection_ends_a_run_at_once(on_bench: Run) -> None:
    bench, _, behind = on_bench("four-d")
    switch, late = Switch(), []

    def off(event: RunEvent) -> None:
        if isinstance(event, LevelSet) and not late:
            began = time.monotonic()
            threading.Thread(target=switch.throw).start()
            while behind.amplifier.powered:
                time.sleep(0.0005)
            late.append(time.monotonic() - began)

    outcome = conduct(bench, setup_of(Mode.CERTIFIED), off, switch).outcome
    assert outcome.end is End.OPERATOR and not behind.amplifier.powered and behind.is_muted
    assert late[0] < 5.0  # 0.15 s is asked, and measured by `make bench`


def test_an_assembly_names_what_is_missing_or_cannot_be(on_bench: Run) -> None:
    _, running, _ = on_bench("two-ab")
    whole = assembled(running)
    without = {role: one for role, one in whole.stations.items() if role is not BenchRole.SUPPLY}
    crossed = dict(whole.stations) | {BenchRole.SUPPLY: whole.stations[BenchRole.SOURCE]}
    for wrong, words in (
        (replace(whole, stations=without), "nothing for the role supply"),
        (replace(whole, stations=crossed), "Simulated generator cannot be a supply"),
        (replace(whole, inputs={1: 9}), "has 8 inputs, none number 9"),
    ):
        with pytest.raises(BadInput, match=words):
            InstrumentBench("Bench 1", wrong)
    assert isinstance(whole, Assembly)


def test_an_input_that_is_wired_otherwise_is_read_there(on_bench: Run) -> None:
    """Channel 1 goes to input 2 and channel 2 to input 1, behind dividers of ten."""
    _, running, _ = on_bench("two-ab-mismatched")
    straight = InstrumentBench("Bench 1", assembled(running))
    crossed = InstrumentBench("Bench 1", replace(assembled(running), inputs={1: 2, 2: 1}, volts_per_unit=10.0))
    two = FOUR[:2]
    levels = []
    for bench in (straight, crossed):
        bench.open()
        bench.connect(two)
        bench.supply.set_volts(14.4)
        bench.supply.switch_on()
        bench.set_tone((1, 2), 1000.0)
        bench.set_level((1, 2), -30.0)
        bench.wait(0.3)
        levels.append([float((row**2).mean() ** 0.5) for row in bench.capture(0.1).samples])
        bench.close()
    assert levels[1] == pytest.approx([10 * levels[0][1], 10 * levels[0][0]], rel=1e-2)
    assert levels[0][0] != pytest.approx(levels[0][1], rel=2e-2)
