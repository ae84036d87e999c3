"""A simulated bench as seven instruments: each understands its own SCPI, and all act on the same physics."""

import math
import threading
from collections.abc import Callable

import numpy as np

from rulvek.bench.sim.bench import MUTED_DBV, SAMPLE_RATES, SimulatedBench
from rulvek.bench.sim.instruments.scpi import CONFLICT, HARDWARE, OUT_OF_RANGE, Answer, Command, ScpiError, Tree, block
from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import RulvekError
from rulvek.core.readings.point import Load
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.capture import Capture

DESCRIBED = {
    "source": "simulated-generator",
    "recorder": "simulated-digitizer",
    "supply": "simulated-supply",
    "current": "simulated-current-probe",
    "loads": "simulated-load-bank",
    "temperatures": "simulated-thermometer",
    "time": "simulated-clock",
}
"""Which shipped description each of them has, by role."""
INPUTS = 8
MOST_SECONDS = 60.0
NOT_A_NUMBER = "9.91E37"


class SimulatedInstruments:
    """What stands on the bench, by role; each is a tree of commands.

    Off and mute wait for nothing: they act while a record is being taken.
    """

    def __init__(self, bench: SimulatedBench) -> None:
        self._bench, self._lock = bench, threading.Lock()
        self._wired: dict[int, Connection] = {}
        self._measured: dict[int, Load] = {}
        self._told: set[int] = set()
        self._record: Capture | None = None
        self._hz: dict[int, float] = {}
        self._watchdog, self._watchdog_seconds = threading.Timer(0.0, self._off), 0.0
        self.trees = {
            "source": self._tree("generator", self._source(), self._mute),
            "recorder": self._tree("digitizer", self._recorder()),
            "supply": self._tree("supply", self._supply(), self._off),
            "current": self._tree("current probe", [self._asks("MEASure:CURRent?", self._amps)]),
            "loads": self._tree("load bank", self._loads()),
            "temperatures": self._tree("thermometer", self._temperatures()),
            "time": self._tree("clock", self._clock()),
        }

    def _tree(self, kind: str, commands: list[Command], reset: Callable[[], None] = lambda: None) -> Tree:
        return Tree(f"Rulvek,simulated {kind},{self._bench.name},1", commands, reset=reset)

    def _does(self, header: str, work: Callable[..., None], takes: int = 0) -> Command:
        return Command(header, self._in_turn(work), takes)

    def _asks(self, header: str, work: Callable[..., Answer | float], takes: int = 0) -> Command:
        return Command(header, self._in_turn(work), takes)

    def _in_turn(self, work: Callable[..., Answer | float]) -> Callable[..., Answer]:
        def done(*given: float) -> Answer:
            with self._lock:
                try:
                    found = work(*given)
                except ValueError as error:
                    raise ScpiError(OUT_OF_RANGE, str(error)[:60]) from None
                except RulvekError as error:
                    raise ScpiError(HARDWARE, error.what[:60]) from None
            return f"{found:.9g}" if isinstance(found, float) else found

        return done

    def _source(self) -> list[Command]:
        return [
            self._does("SOURce#:FREQuency", self._set_tone, 1),
            self._does("SOURce#:VOLTage", self._set_level, 1),
            self._does("SOURce#:BURSt", self._set_burst, 4),
            self._does("SOURce#:BURSt:OFF", self._end_burst),
            Command("OUTPut:MUTE", self._mute),
        ]

    def _set_tone(self, channel: int, hz: float) -> None:
        if not 1 <= hz <= 100_000:
            raise ScpiError(OUT_OF_RANGE, f"{hz:g} Hz")
        self._hz[channel] = hz
        self._bench.set_tone([self._channel(channel)], hz)

    def _set_level(self, channel: int, volts: float) -> None:
        level = 20 * math.log10(volts) if volts > 0 else MUTED_DBV
        self._bench.set_level([self._channel(channel)], level)

    def _set_burst(self, channel: int, cycles: float, period: float, rest_db: float, shaped: float) -> None:
        hz = self._hz.get(channel, 1000.0)
        profile = BurstProfile("sent", hz, cycles, period, rest_db if rest_db > -200 else -math.inf, bool(shaped))
        self._bench.set_burst([self._channel(channel)], profile)

    def _end_burst(self, channel: int) -> None:
        self._bench.set_burst([self._channel(channel)], None)

    def _channel(self, channel: int) -> int:
        if not 1 <= channel <= self._bench.amplifier.design.channels:
            raise ScpiError(OUT_OF_RANGE, f"channel {channel}")
        return channel

    def _mute(self) -> None:
        self._bench.source.make_safe()

    def _recorder(self) -> list[Command]:
        return [
            self._does("SENSe:RATE", self._set_rate, 1),
            self._asks("READ?", lambda samples, inputs: self._take(samples, None, inputs), 2),
            self._asks("READ:BURSt?", self._take, 3),
            self._asks("FETCh:SUPPly?", self._fetch_supply),
            self._asks("FETCh:SUPPly:RATE?", self._fetch_supply_rate),
        ]

    def _set_rate(self, hz: float) -> None:
        if hz not in SAMPLE_RATES:
            raise ScpiError(OUT_OF_RANGE, f"{hz:g} Hz")
        self._bench.set_bandwidth(0.499 * hz)

    def _take(self, samples: float, lead: float | None, inputs: float) -> bytes:
        seconds = samples / self._bench.sample_rate
        if not 0 < seconds <= MOST_SECONDS:
            raise ScpiError(OUT_OF_RANGE, f"{samples:g} samples")
        if not 1 <= inputs <= INPUTS:
            raise ScpiError(OUT_OF_RANGE, f"{inputs:g} inputs")
        self._record = taken = self._bench.capture(seconds, lead)
        rows = np.zeros((round(inputs), taken.samples.shape[1]), dtype="<f4")
        for row, signal in zip(taken.samples, taken.roles, strict=True):
            if signal.channel <= inputs:
                rows[signal.channel - 1] = row
        return block(rows.tobytes())

    def _taken(self) -> Capture:
        if self._record is None or self._record.supply is None:
            raise ScpiError(CONFLICT, "nothing was recorded")
        return self._record

    def _fetch_supply(self) -> bytes:
        supply = self._taken().supply
        assert supply is not None and supply.amps is not None
        return block(np.stack([supply.volts, supply.amps]).astype("<f4").tobytes())

    def _fetch_supply_rate(self) -> float:
        supply = self._taken().supply
        return supply.sample_rate if supply is not None else 0.0

    def _supply(self) -> list[Command]:
        return [
            self._does("SOURce:VOLTage", self._bench.supply.set_volts, 1),
            self._does("OUTPut:ON", self._bench.supply.switch_on),
            Command("OUTPut:OFF", self._off),
            self._asks("MEASure:VOLTage?", self._bench.supply.terminal_volts),
            Command("OUTPut:WATChdog", self._watch, 1),
            Command("OUTPut:WATChdog:FEED", self._feed),
            Command("OUTPut:WATChdog:OFF", self._unwatch),
        ]

    def _off(self) -> None:
        self._bench.supply.make_safe()

    def _watch(self, seconds: float) -> None:
        if not 0.1 <= seconds <= 60:
            raise ScpiError(OUT_OF_RANGE, f"{seconds:g} s")
        self._unwatch()
        self._watchdog_seconds = seconds
        self._feed()

    def _feed(self) -> None:
        """Count anew; as any supply, it counts from the last feeding, and has nobody to ask."""
        self._watchdog.cancel()
        if self._watchdog_seconds:
            self._watchdog = threading.Timer(self._watchdog_seconds, self._off)
            self._watchdog.daemon = True
            self._watchdog.start()

    def _unwatch(self) -> None:
        self._watchdog_seconds = 0.0
        self._watchdog.cancel()

    def _amps(self) -> float:
        return self._bench.amplifier.supply_amps + self._bench.supply.idle_clamp_amps()

    def _loads(self) -> list[Command]:
        return [
            self._does("ROUTe:OPEN:ALL", self._open_all),
            self._does("ROUTe:LOAD#", self._connect, 2),
            self._asks("MEASure:RESistance#?", self._ohms),
        ]

    def _open_all(self) -> None:
        self._wired.clear()
        self._measured.clear()

    def _connect(self, channel: int, other: float, ohms: float) -> None:
        channels = (self._channel(channel), self._channel(round(other))) if other else (self._channel(channel),)
        self._wired[channel] = Connection(channels, ohms)
        self._measured.clear()
        self._bench.connect(tuple(self._wired.values()))

    def _ohms(self, channel: int) -> Answer | float:
        """All loads are read in one round; who asks for one again begins another."""
        if channel not in self._wired:
            return NOT_A_NUMBER
        if channel not in self._measured or channel in self._told:
            self._measured = self._bench.measured()
            self._told.clear()
        self._told.add(channel)
        return self._measured[channel].measured_ohms

    def _temperatures(self) -> list[Command]:
        return [
            self._asks("MEASure:TEMPerature:SINK?", lambda: self._bench.temperatures().sink_c),
            self._asks("MEASure:TEMPerature:LOAD?", lambda: self._bench.temperatures().load_c),
        ]

    def _clock(self) -> list[Command]:
        """What no instrument does: time passes, a hand turns a gain, and puts cables."""
        return [
            self._does("SIMulate:TIME", self._pass, 1),
            self._does("SIMulate:GAIN#", self._turn_gain, 1),
            self._does("SIMulate:LOOP", self._loop, 1),
        ]

    def _turn_gain(self, channel: int, by_db: float) -> None:
        self._bench.turn_gain(self._channel(channel), by_db)

    def _loop(self, on: float) -> None:
        self._bench.looped = bool(on)

    def _pass(self, seconds: float) -> None:
        if not 0 <= seconds <= 3600:
            raise ScpiError(OUT_OF_RANGE, f"{seconds:g} s")
        self._bench.wait(seconds)
