"""Simulated instruments in a process beside this one, for whichever unit lies on their bench.

The process is told which unit it is, line by line; it ends when nobody is there to tell it any more.
"""

import json
import math
import signal
import subprocess
import sys
import threading
from collections.abc import Mapping
from contextlib import ExitStack
from typing import Any

from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.design import read_design
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.server import SocketInstrument, on_sockets
from rulvek.core.errors import BenchFault

NEARBY = "simulated nearby"
"""The address of what is simulated in such a process; its ports are found when it is begun."""
_IDLE: list["Nearby"] = []
_TAKING = threading.Lock()


class Nearby:
    """Such a process, from this side."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "rulvek.bench.sim.instruments.nearby"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            start_new_session=True,  # Ctrl+C is for the one that works the bench
        )

    def put(
        self, design: str, described: str, serial: str, gains_db: Mapping[int, float], speed: float
    ) -> dict[str, str]:
        """Put a unit on the bench; the addresses of the instruments by their roles.

        Raises:
            BenchFault: the process ended.
        """
        unit = {
            "design": design,
            "described": described,
            "serial": serial,
            "gains_db": {str(channel): by_db for channel, by_db in gains_db.items()},
            "speed": speed if math.isfinite(speed) else None,
        }
        assert self._process.stdin is not None and self._process.stdout is not None
        try:
            self._process.stdin.write(json.dumps(unit) + "\n")
            self._process.stdin.flush()
            addresses: dict[str, str] = json.loads(self._process.stdout.readline())
        except (OSError, ValueError) as error:
            raise BenchFault("The simulated instruments ended.", todo="Start the run again.") from error
        return addresses

    def give_back(self) -> None:
        """Nobody works at it: the next bench may have it."""
        with _TAKING:
            if self not in _IDLE:
                _IDLE.append(self)

    @property
    def lives(self) -> bool:
        """Whether it is still there."""
        return self._process.poll() is None


def taken() -> Nearby:
    """One that nobody has, or another one."""
    with _TAKING:
        while _IDLE:
            if (found := _IDLE.pop()).lives:
                return found
    return Nearby()


def _bench(unit: Mapping[str, Any]) -> SimulatedBench:
    design = read_design(unit["described"]) if unit["described"] else DESIGNS[unit["design"]]
    bench = SimulatedBench(design, unit["serial"], speed=unit["speed"] or math.inf)
    for channel, by_db in unit["gains_db"].items():
        bench.turn_gain(int(channel), by_db)
    return bench


def _stand_by() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    with ExitStack() as stack:
        running: dict[str, SocketInstrument] = {}
        for line in sys.stdin:
            trees = SimulatedInstruments(_bench(json.loads(line))).trees
            if not running:
                running = stack.enter_context(on_sockets(trees))
            for role, tree in trees.items():
                running[role].tree = tree
            print(json.dumps({role: one.address for role, one in running.items()}), flush=True)


if __name__ == "__main__":
    _stand_by()
