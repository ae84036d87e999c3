"""An audio interface that there is not, alone and on a bench."""

from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import replace
from typing import Any

import pytest

from rulvek.bench.instruments.assembly import Station
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole, shipped
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.server import on_sockets
from rulvek.bench.sound.levels import Levels
from tests.bench.instruments.conftest import assembled
from tests.bench.sound.fake import FakePortAudio, put

LEVELS = Levels(output_volts=(4.0, 4.0), input_volts=(4.0, 4.0))


@pytest.fixture
def card(monkeypatch: pytest.MonkeyPatch) -> FakePortAudio:
    return put(monkeypatch)


@pytest.fixture
def bench(card: FakePortAudio) -> Iterator[InstrumentBench]:
    """An audio interface as source and recorder behind a divider of 10; all else is simulated, on sockets."""
    with ExitStack() as stack:
        behind = SimulatedBench(DESIGNS["two-ab"], "S-0001")
        whole = assembled(stack.enter_context(on_sockets(SimulatedInstruments(behind).trees)))
        interface = replace(shipped()["audio-interface"], simulated=True)
        both: dict[BenchRole, Any] = dict.fromkeys(
            (BenchRole.SOURCE, BenchRole.RECORDER), Station(interface, "sound:Interface")
        )
        stations = dict(whole.stations) | both
        made = InstrumentBench("Bench 3", replace(whole, stations=stations, levels=LEVELS, volts_per_unit=10.0))
        stack.callback(made.close)
        made.open()
        yield made
