"""A contactor in the supply's lead: closed before power comes on, opened with Off whatever the supply says to it."""

import subprocess
import sys
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from rulvek.bench.instruments.assembly import Assembly, Station
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole, read_description
from rulvek.bench.sim.instruments.scpi import Command, Tree
from rulvek.bench.sim.instruments.server import on_sockets
from rulvek.core.errors import BadInput, BenchFault
from tests.bench.instruments.conftest import Run, Running, assembled
from tests.bench.instruments.test_keeper import WORKS
from tests.conftest import until

DESCRIBED = """
name = "Contactor"
identifies = "Rulvek,simulated contactor"
roles = ["off"]
simulated = true
safe = ["ROUTe:OPEN"]
acts.allow.send = "ROUTe:CLOSe"
"""


class Contactor:
    """Closed or open, and how often it was told."""

    def __init__(self) -> None:
        self.closed, self.heard = False, list[str]()
        self.tree = Tree(
            "Rulvek,simulated contactor,1,1",
            [Command("ROUTe:CLOSe", self._close), Command("ROUTe:OPEN", self._open)],
        )

    def _close(self) -> None:
        self.closed = True
        self.heard.append("closed")

    def _open(self) -> None:
        self.closed = False
        self.heard.append("opened")


With = Callable[[Running], Assembly]


@pytest.fixture
def contactor() -> Contactor:
    return Contactor()


@pytest.fixture
def with_it(contactor: Contactor) -> Iterator[With]:
    with on_sockets({"off": contactor.tree}) as there:

        def made(running: Running) -> Assembly:
            found = assembled(running)
            off = Station(read_description(DESCRIBED), there["off"].address)
            return replace(found, stations={**found.stations, BenchRole.OFF: off})

        yield made


def test_it_is_closed_before_power_and_opened_with_off(on_bench: Run, with_it: With, contactor: Contactor) -> None:
    _, running, behind = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", with_it(running))
    bench.open()
    bench.supply.switch_on()
    assert contactor.closed and behind.amplifier.powered
    assert bench.make_all_safe() == ""
    assert not contactor.closed and not behind.amplifier.powered
    bench.close()


def test_it_opens_where_the_supply_cannot_be_told(on_bench: Run, with_it: With, contactor: Contactor) -> None:
    """That is what it is for; that the supply was not told is said all the same."""
    _, running, _ = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", with_it(running))
    bench.open()
    bench.supply.switch_on()
    running["supply"].shutdown()
    running["supply"].server_close()
    running["supply"].heard = lambda message: b""  # type: ignore[method-assign]
    with pytest.raises(BenchFault):
        bench.supply.make_safe()
    assert not contactor.closed
    bench.close()


def test_its_keeper_opens_it_too(on_bench: Run, with_it: With, contactor: Contactor, tmp_path: Path) -> None:
    _, running, behind = on_bench("two-ab")
    path = tmp_path / "bench.json"
    path.write_text(with_it(running).as_json(), encoding="utf-8")
    with subprocess.Popen([sys.executable, "-c", WORKS, str(path)], stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None and server.stdout.readline() == "on\n"
        assert contactor.closed
        server.kill()
        until(lambda: not contactor.closed and not behind.amplifier.powered)


def test_one_that_cannot_be_opened_is_none() -> None:
    with pytest.raises(BadInput, match="does not say how it is made safe"):
        read_description(DESCRIBED.replace('safe = ["ROUTe:OPEN"]', ""))
