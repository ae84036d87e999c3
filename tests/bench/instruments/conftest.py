"""Simulated instruments on sockets, and benches that are made of them."""

from collections.abc import Callable, Iterator
from contextlib import ExitStack

import pytest

from rulvek.bench.instruments.assembly import Assembly, Limits, Station
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole, shipped
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import DESCRIBED, SimulatedInstruments
from rulvek.bench.sim.instruments.server import SocketInstrument, on_sockets
from rulvek.core.electrical.loads import LoadBox

Running = dict[str, SocketInstrument]
Run = Callable[[str], tuple[InstrumentBench, Running, SimulatedBench]]


def assembled(running: Running) -> Assembly:
    kinds = shipped()
    stations = {BenchRole(role): Station(kinds[DESCRIBED[role]], one.address) for role, one in running.items()}
    return Assembly(stations, Limits(250.0, (LoadBox(4.0, 600.0, 6), LoadBox(2.0, 900.0, 6))))


@pytest.fixture
def on_bench() -> Iterator[Run]:
    """Put an amplifier of a design on a bench of simulated instruments."""
    with ExitStack() as stack:

        def made(design: str) -> tuple[InstrumentBench, Running, SimulatedBench]:
            behind = SimulatedBench(DESIGNS[design], "S-0001")
            running = stack.enter_context(on_sockets(SimulatedInstruments(behind).trees))
            bench = InstrumentBench("Bench 1", assembled(running))
            bench.open()
            stack.callback(bench.close)
            return bench, running, behind

        yield made
