"""What the guard costs: a query, a block, a run through sockets beside one in this process, and Off meanwhile."""

import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from rulvek.bench.conductor import RunSetup, conduct
from rulvek.bench.instruments.assembly import Assembly, Limits, Station
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole, shipped
from rulvek.bench.instruments.link import Link
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import DESCRIBED
from rulvek.core.electrical.loads import Connection, LoadBox
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import Mode

Report = Callable[[str, float, float], None]
SETUP = RunSetup(
    tuple(Connection((channel,), 4.0) for channel in (1, 2, 3, 4)),
    (),
    1000.0,
    40.0,
    14.4,
    0.0,
    MethodProfile(),
    Mode.CERTIFIED,
)
OFFS, PAIRS = 200, 21


@contextmanager
def assembled() -> Iterator[Assembly]:
    """A bench of simulated instruments, which are a process of their own."""
    command = [sys.executable, "-m", "rulvek.cli", "instruments", "simulate"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        kinds, stations = shipped(), {}
        try:
            for _ in DESCRIBED:
                role, name, address = process.stdout.readline().split()
                stations[BenchRole(role)] = Station(kinds[name], address)
            yield Assembly(stations, Limits(250.0, (LoadBox(4.0, 600.0, 6),)))
        finally:
            process.terminate()


def instruments_speed(report: Report) -> None:
    """Figures through the guard."""
    with assembled() as assembly:
        bench = InstrumentBench("Bench 2", assembly)
        bench.open()
        print(f"  a query through the guard takes {1000 * _median(bench.supply.terminal_volts):6.2f} ms")
        bench.connect(SETUP.under_test)
        seconds = _median(lambda: bench.capture(0.2), 20)
        print(f"  a record of 0.2 s, 4 inputs, 307 kB, takes {1000 * seconds:6.1f} ms, the simulation included")
        ratios = []
        for _ in range(PAIRS):
            here = _seconds(lambda: conduct(SimulatedBench(DESIGNS["four-d"], "S-0001"), SETUP, lambda _: None))
            ratios.append(_seconds(lambda: conduct(bench, SETUP, lambda _: None)) / here)
        report("a run through sockets ÷ the same in-process", statistics.median(ratios), 1.5)
        report("Off while records are taken, p95, s", _off_p95(bench, assembly), 0.15)
        bench.close()


def _off_p95(bench: InstrumentBench, assembly: Assembly) -> float:
    """From saying Off to its answer, while another thread records without a pause."""
    station = assembly.stations[BenchRole.SUPPLY]
    off, ended = Link(station.description, station.address), threading.Event()
    off.open()

    def record() -> None:
        while not ended.is_set():
            bench.capture(0.2)

    recording = threading.Thread(target=record)
    recording.start()
    took = [_seconds(off.make_safe) for _ in range(OFFS)]
    ended.set()
    recording.join()
    off.close()
    return sorted(took)[int(0.95 * len(took))]


def _median(work: Callable[[], object], times: int = 200) -> float:
    return statistics.median(_seconds(work) for _ in range(times))


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


if __name__ == "__main__":
    instruments_speed(lambda what, value, target: print(f"  {what}: {value:.3g} (at most {target:g})"))
