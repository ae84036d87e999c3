"""A person at a bench of simulated instruments: does what is asked, to the bench behind them."""

import re
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import replace

from rulvek.bench.instruments.assembly import Assembly, Station
from rulvek.bench.instruments.by_hand import Asking, Question
from rulvek.bench.instruments.description import BenchRole, shipped
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import Conflict

BY_HAND = {
    BenchRole.LOADS: "by-hand-loads",
    BenchRole.SUPPLY: "by-hand-supply",
    BenchRole.TEMPERATURES: "by-hand-thermometer",
}


def with_hands(assembly: Assembly) -> Assembly:
    """The same bench, where a person plugs loads, turns the supply and reads a thermometer."""
    kinds = shipped()
    stations = {role: one for role, one in assembly.stations.items() if role is not BenchRole.CURRENT}
    stations |= {role: Station(kinds[name], "by hand") for role, name in BY_HAND.items()}
    return replace(assembly, stations=stations)


class Person:
    """Answers as long as somebody asks."""

    def __init__(self, asking: Asking, behind: SimulatedBench) -> None:
        self.asking, self.behind = asking, behind
        self.heard: list[str] = []
        self._gone = threading.Event()

    def stand_there(self) -> None:
        while not self._gone.wait(0.002):
            asked = self.asking.question
            if asked is not None:
                with suppress(Conflict):
                    value = self.done(asked)
                    self.asking.answer(asked.id, value)
                    self.heard.append(asked.words)

    def done(self, asked: Question) -> float | None:
        """Do it, or read it."""
        bench, words = self.behind, asked.words
        if "wire" in words:
            bench.make_safe()
            pairs = re.findall(r"([0-9.]+) Ω to channel (\d+)", words)
            bench.connect([Connection((int(channel),), float(ohms)) for ohms, channel in pairs])
        elif "Set the supply" in words:
            bench.supply.set_volts(float(words.split(" to ")[1].split(" V")[0]))
        elif "Switch the supply on" in words:
            bench.supply.switch_on()
        elif "Switch the supply off" in words:
            bench.supply.make_safe()
        elif "measure the load" in words:
            channel = int(words.split("channel ")[1].split(",")[0])
            return round(bench.measured()[channel].measured_ohms, 3)
        elif "volts at the amplifier" in words:
            return round(bench.supply.terminal_volts(), 2)
        elif "heat sink" in words:
            return round(bench.temperatures().sink_c, 1)
        elif "hottest load" in words:
            return round(bench.temperatures().load_c, 1)
        else:
            raise AssertionError(f"nobody knows what to do: {words}")
        return None


@contextmanager
def somebody_at(asking: Asking, behind: SimulatedBench) -> Iterator[Person]:
    """A person who stands at the bench meanwhile."""
    person = Person(asking, behind)
    thread = threading.Thread(target=person.stand_there, daemon=True)
    thread.start()
    yield person
    person._gone.set()
    thread.join(10)
