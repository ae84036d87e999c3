"""Off: a path of its own, that makes a bench safe at once and lets nothing power it again."""

import threading
from collections.abc import Callable, Sequence
from contextlib import ExitStack

from rulvek.bench.protocols import Bench, LoadBank, Recorder, Source, Supply, Temperatures
from rulvek.core.errors import BenchFault
from rulvek.core.runs.modes import End
from rulvek.core.signals.bursts import BurstProfile

SEE_TO_IT = "Switch the supply off by hand: it may still be on."


class Switch:
    """Off for one piece of work on a bench. Whoever throws it first says why; it stays thrown."""

    def __init__(self) -> None:
        self.event = threading.Event()
        self.fault = ""
        self._lock, self._first = threading.Lock(), threading.Lock()
        self._bench: Bench | None = None
        self._thrown: End | None = None

    @property
    def thrown(self) -> End | None:
        """What it was thrown for; None while it is not."""
        return self._thrown

    def attach(self, bench: Bench) -> None:
        """Say which bench is to be made safe; at once, where the switch is thrown already."""
        with self._lock:
            self._bench = bench
            if self._thrown:
                bench.give_up()
                self._make_safe(bench)

    def throw(self, end: End = End.OPERATOR, fault: str = "") -> None:
        """Mute the source and switch the supply off, now, whatever else is going on; needs nothing but the bench."""
        with self._first:
            if self._thrown is None:
                self._thrown, self.fault = end, fault
        self.event.set()
        if (bench := self._bench) is not None:
            bench.give_up()  # who powers something holds the lock, and may wait for a person
        with self._lock:
            if self._bench is not None:
                self._make_safe(self._bench)

    def _make_safe(self, bench: Bench) -> None:
        self.fault = " ".join(one for one in (self.fault, make_safe(bench)) if one)

    def powering(self) -> "_Powering":
        """A block in which the bench may be powered: it is not begun once the switch is thrown, and throwing waits."""
        return _Powering(self)


class _Powering:
    def __init__(self, switch: Switch) -> None:
        self._switch = switch

    def __enter__(self) -> None:
        self._switch._lock.acquire()
        if self._switch._thrown:
            self._switch._lock.release()
            raise BenchFault("The bench was switched off.")

    def __exit__(self, *_: object) -> None:
        self._switch._lock.release()


def make_safe(bench: Bench) -> str:
    """Mute the source and switch the supply off, each whatever comes of the other; what could not be told."""
    told: list[str] = []
    with ExitStack() as each:
        each.callback(_telling, bench.supply.make_safe, told)
        each.callback(_telling, bench.source.make_safe, told)
    return " ".join([*told, SEE_TO_IT]) if told else ""


def _telling(safe: Callable[[], None], told: list[str]) -> None:
    try:
        safe()
    except BenchFault as fault:
        told.append(fault.what)


class Guarded:
    """A bench whose powering acts go through a switch; everything else goes straight to it."""

    def __init__(self, bench: Bench, switch: Switch) -> None:
        self._bench = bench
        self.source: Source = _GuardedSource(bench.source, switch)
        self.supply: Supply = _GuardedSupply(bench.supply, switch)
        self.loads: LoadBank = bench.loads
        self.recorder: Recorder = bench.recorder

    @property
    def name(self) -> str:
        return self._bench.name

    def wait(self, seconds: float) -> None:
        self._bench.wait(seconds)

    def now(self) -> float:
        return self._bench.now()

    def temperatures(self) -> Temperatures:
        return self._bench.temperatures()

    def describe(self) -> dict[str, str]:
        return self._bench.describe()

    def lie_idle(self, seconds: float) -> None:
        self._bench.lie_idle(seconds)

    def turn_gain(self, channel: int, by_db: float) -> None:
        self._bench.turn_gain(channel, by_db)

    def close(self) -> None:
        self._bench.close()

    def give_up(self) -> None:
        self._bench.give_up()


class _GuardedSource:
    def __init__(self, source: Source, switch: Switch) -> None:
        self._source, self._switch = source, switch

    @property
    def highest_level_dbv(self) -> float:
        return self._source.highest_level_dbv

    @property
    def level_per_channel(self) -> bool:
        return self._source.level_per_channel

    def set_tone(self, channels: Sequence[int], hz: float) -> None:
        self._source.set_tone(channels, hz)

    def set_burst(self, channels: Sequence[int], profile: BurstProfile | None) -> None:
        self._source.set_burst(channels, profile)

    def set_level(self, channels: Sequence[int], level_dbv: float) -> None:
        with self._switch.powering():
            self._source.set_level(channels, level_dbv)

    def make_safe(self) -> None:
        self._source.make_safe()


class _GuardedSupply:
    def __init__(self, supply: Supply, switch: Switch) -> None:
        self._supply, self._switch = supply, switch

    def set_volts(self, volts: float) -> None:
        self._supply.set_volts(volts)

    def switch_on(self) -> None:
        with self._switch.powering():
            self._supply.switch_on()

    def make_safe(self) -> None:
        self._supply.make_safe()

    def terminal_volts(self) -> float:
        return self._supply.terminal_volts()

    def idle_clamp_amps(self) -> float:
        return self._supply.idle_clamp_amps()
