"""A supply's own watchdog: the last line where this whole machine is gone, its keeper included."""

import os
import signal
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import pytest

from rulvek.bench.instruments.assembly import Assembly
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import SHIPPED, BenchRole, Description, read_description
from rulvek.bench.instruments.watchdog import WATCHDOG_SECONDS
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.core.errors import BadInput, BenchFault
from tests.bench.instruments.conftest import Run, Running, assembled
from tests.bench.instruments.test_keeper import WORKS

ACTS = """
[acts]
arm_watchdog.send = "OUTPut:WATChdog {seconds:.2f}"
feed_watchdog.send = "OUTPut:WATChdog:FEED"
disarm_watchdog.send = "OUTPut:WATChdog:OFF"
"""
UNKEPT = WORKS.replace(", kept=True", "")
"""As when its keeper was killed with the server, or the machine stands still."""


def watched_supply() -> Description:
    text = (SHIPPED / "simulated-supply.toml").read_text(encoding="utf-8")
    return read_description(text.replace("\n[acts]\n", ACTS))


def watched(running: Running) -> Assembly:
    found = assembled(running)
    station = replace(found.stations[BenchRole.SUPPLY], description=watched_supply())
    return replace(found, stations={**found.stations, BenchRole.SUPPLY: station})


def off_after(behind: SimulatedBench, most: float) -> float:
    """Seconds until it is off."""
    began = time.monotonic()
    while behind.amplifier.powered and time.monotonic() < began + most:
        time.sleep(0.005)
    assert not behind.amplifier.powered
    return time.monotonic() - began


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGSTOP], ids=["killed", "frozen"])
def test_nobody_left_to_switch_off_and_it_is_off(on_bench: Run, tmp_path: Path, how: signal.Signals) -> None:
    _, running, behind = on_bench("two-ab")
    path = tmp_path / "bench.json"
    path.write_text(watched(running).as_json(), encoding="utf-8")
    with subprocess.Popen([sys.executable, "-c", UNKEPT, str(path)], stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None and server.stdout.readline() == "on\n"
        assert behind.amplifier.powered
        os.kill(server.pid, how)
        assert off_after(behind, 10) < 5.0  # the watchdog's second where nothing else is going on
        server.kill()


def test_it_is_fed_while_power_is_on_and_disarmed_with_off(on_bench: Run) -> None:
    _, running, behind = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", watched(running))
    bench.open()
    try:
        bench.supply.switch_on()
        time.sleep(3 * WATCHDOG_SECONDS)
        assert behind.amplifier.powered, "nobody fed it"
        bench.supply.make_safe()
        assert not behind.amplifier.powered
        behind.supply.switch_on()  # by somebody else's hand: an armed watchdog would end that
        time.sleep(2 * WATCHDOG_SECONDS)
        assert behind.amplifier.powered
    finally:
        bench.close()


def test_one_that_cannot_be_armed_keeps_power_off(on_bench: Run) -> None:
    _, running, behind = on_bench("two-ab")
    whole = watched(running)
    station = whole.stations[BenchRole.SUPPLY]
    wrong = read_description(
        (SHIPPED / "simulated-supply.toml")
        .read_text(encoding="utf-8")
        .replace("\n[acts]\n", ACTS.replace("WATChdog {seconds:.2f}", "WATChdog {seconds:.2f},1"))
    )
    bench = InstrumentBench(
        "Bench 1", replace(whole, stations={**whole.stations, BenchRole.SUPPLY: replace(station, description=wrong)})
    )
    bench.open()
    try:
        with pytest.raises(BenchFault, match="refuses OUTPut:WATChdog"):
            bench.supply.switch_on()
        assert not behind.amplifier.powered
    finally:
        bench.close()


def test_a_watchdog_that_is_only_armed_is_refused() -> None:
    text = (SHIPPED / "simulated-supply.toml").read_text(encoding="utf-8")
    only = "\n".join(ACTS.splitlines()[:3]) + "\n"
    with pytest.raises(BadInput, match="does not say how to feed watchdog") as refused:
        read_description(text.replace("\n[acts]\n", only))
    assert refused.value.field == "acts.feed_watchdog"
