"""Whoever works a bench may die: its keeper makes it safe. Left in good order, it touches nothing."""

import subprocess
import sys
import time
from pathlib import Path

import pytest

from rulvek.bench.instruments.keeper import Keeper
from rulvek.core.errors import BenchFault
from tests.bench.instruments.conftest import Run, assembled

WORKS = """
import sys, time
from pathlib import Path
from rulvek.bench.instruments.assembly import kept_assembly
from rulvek.bench.instruments.bench import InstrumentBench
bench = InstrumentBench("Bench 1", kept_assembly(Path(sys.argv[1]).read_text()), kept=True)
bench.open()
bench.supply.switch_on()
print("on", flush=True)
time.sleep(60)
"""


def test_a_bench_is_off_within_a_second_after_its_server_was_killed(on_bench: Run, tmp_path: Path) -> None:
    _, running, behind = on_bench("two-ab")
    path = tmp_path / "bench.json"
    path.write_text(assembled(running).as_json(), encoding="utf-8")
    with subprocess.Popen([sys.executable, "-c", WORKS, str(path)], stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None and server.stdout.readline() == "on\n"
        assert behind.amplifier.powered
        server.kill()
        began = time.monotonic()
        while behind.amplifier.powered and time.monotonic() < began + 10:
            time.sleep(0.005)
        took = time.monotonic() - began
    assert not behind.amplifier.powered and took < 5.0  # within a second where nothing else is going on


def test_one_that_leaves_in_good_order_touches_nothing(on_bench: Run) -> None:
    bench, running, behind = on_bench("two-ab")
    keeper = Keeper(assembled(running).as_json())
    bench.supply.switch_on()
    keeper.leave()
    assert behind.amplifier.powered


def test_without_a_keeper_nothing_is_powered(on_bench: Run) -> None:
    _, running, _ = on_bench("two-ab")
    gone = assembled(running).as_json().replace(f"::{running['supply'].server_address[1]}::", "::9::")
    with pytest.raises(BenchFault, match=r"Nobody can look after the bench: Simulated supply at .* does not answer"):
        Keeper(gone)
