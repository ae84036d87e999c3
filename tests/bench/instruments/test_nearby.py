"""A bench whose instruments are simulated in a process beside this one: whichever unit lies on it is behind them."""

import math
import os
import signal

import pytest

from rulvek.bench.benches import OF_INSTRUMENTS, StandingBench, UnitUnderTest, kind_of
from rulvek.bench.conductor import conduct
from rulvek.bench.instruments.assembly import Assembly, Limits, Station
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole, shipped
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments import nearby
from rulvek.bench.sim.instruments.devices import DESCRIBED
from rulvek.bench.switch import Switch
from rulvek.core.electrical.loads import Connection, LoadBox
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput, NotFound
from rulvek.core.runs.modes import Mode
from tests.bench.instruments.test_runs import setup_of

HELD = SupplyPolicy.HELD


@pytest.fixture
def standing() -> StandingBench:
    kinds = shipped()
    stations = {BenchRole(role): Station(kinds[name], nearby.NEARBY) for role, name in DESCRIBED.items()}
    assembly = Assembly(stations, Limits(250.0, (LoadBox(4.0, 600.0, 6), LoadBox(2.0, 900.0, 6))))
    return StandingBench("Bench 2", kind_of(OF_INSTRUMENTS, assembly.as_json()), math.inf)


def watts(design: str, serial: str, bench: InstrumentBench | SimulatedBench) -> list[float]:
    wired = tuple(Connection((channel,), 4.0) for channel in range(1, DESIGNS[design].channels + 1))
    reading = conduct(bench, setup_of(Mode.CERTIFIED, wired), lambda _: None).outcome.reading
    assert reading is not None
    return [one.watts for one in reading.channels]


def test_each_unit_is_behind_the_instruments_while_it_lies_there(standing: StandingBench) -> None:
    for design, serial in (("four-d", "S-0001"), ("two-ab", "S-0002"), ("four-d", "S-0001")):
        bench = standing.with_unit(UnitUnderTest(serial, "a model", design), HELD)
        assert isinstance(bench, InstrumentBench)
        here = watts(design, serial, SimulatedBench(DESIGNS[design], serial))
        assert watts(design, serial, bench) == pytest.approx(here, rel=1e-3)
    assert standing.with_unit(UnitUnderTest("S-0001", "a model", "four-d"), HELD) is bench  # it lies there
    bench.close()


def test_a_hand_turns_a_gain_and_it_is_looked_at(standing: StandingBench) -> None:
    bench = standing.with_unit(UnitUnderTest("S-0001", "a model", "four-d", {1: -2.0}), HELD)
    bench.loads.connect((Connection((1,), 4.0), Connection((2,), 4.0)))

    def apart() -> float:
        bench.supply.set_volts(14.4)
        bench.supply.switch_on()
        bench.source.set_tone((1, 2), 1000.0)
        bench.source.set_level((1, 2), -20.0)
        bench.wait(0.3)
        first, second = (bench.recorder.capture(0.1).samples ** 2).mean(axis=1)
        return 10 * math.log10(first / second)

    before = apart()
    bench.turn_gain(1, 2.0)
    assert apart() - before == pytest.approx(2.0, abs=0.05)
    looked = list(standing.look(4, True, Switch()))
    assert all(one.passed for one in looked), looked
    assert looked[-1].at == "supply off"


def test_one_process_serves_unit_after_unit_and_another_comes_for_one_that_ended(standing: StandingBench) -> None:
    bench = standing.with_unit(UnitUnderTest("S-0001", "a model", "two-ab"), HELD)
    bench.close()
    (idle,) = nearby._IDLE[-1:]
    assert nearby.taken() is idle
    idle.give_back()
    os.kill(idle._process.pid, signal.SIGKILL)
    idle._process.wait(10)
    assert nearby.taken() is not idle


def test_what_nothing_stands_in_for_is_told(standing: StandingBench) -> None:
    with pytest.raises(NotFound, match="no simulated amplifier for Some model"):
        standing.with_unit(UnitUnderTest("S-1", "Some model", "no-such"), HELD)
    with pytest.raises(BadInput, match="bank"):
        standing.with_unit(UnitUnderTest("S-1", "Some model", "four-d"), SupplyPolicy.BANK)
