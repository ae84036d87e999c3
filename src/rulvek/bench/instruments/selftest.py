"""A bench of instruments looked at before anybody trusts it: who answers, what idles, what the loads are, and Off."""

import math
from collections.abc import Callable, Iterator
from functools import partial

import numpy as np
from numpy.typing import NDArray

from rulvek.bench.instruments.bench import OFF_AMPS, InstrumentBench
from rulvek.bench.instruments.description import BenchRole
from rulvek.bench.switch import Guarded, Switch
from rulvek.core.electrical.loads import Connection, LoadBox, off_nominal
from rulvek.core.errors import BadCapture, BadInput, BenchFault
from rulvek.core.records.benches import Looked
from rulvek.core.signals.distortion import ToneAnalysis, analyse_tone

LOAD_TOLERANCE = 0.05
"""Of a cold load against its nominal value; what is further off is another load, or a bad contact (ours)."""
REGISTER_TOLERANCE = 0.02
"""Of a cold load against what it was on the register: beyond the ohmmeter and a room that is warmer (ours)."""
SUPPLY_TOLERANCE_VOLTS = 0.2
SILENCE_VOLTS = 0.05
TEST_VOLTS = 12.0
SETTLE_SECONDS = 0.5
LOOP_HZ, LOOP_DBV = 997.0, -6.0
"""No divisor of a rate: samples that are lost show in its phase; and what sources have and recorders stand."""
LOOP_TOLERANCE = 0.02
"""Of a known level that comes straight from the source (ours): further off, a divider or a range is not as told."""
LOOP_THD_N = 1e-3
"""A tenth of the usual limit: it does not show in a reading there (common practice, no source)."""
KNOWN_HZ, KNOWN_DBV = 100.0, -40.0
"""Between what goes to subwoofers and what goes to all else, and too little to warm anything."""
KNOWN_SECONDS, DOUBLED_DB = 0.2, 20 * math.log10(2)
ASTRAY = 0.1
"""The share of a channel's volts from which on another one has them, too: it is wired crosswise (ours)."""
DOUBLES_WITHIN = 0.02


def self_test(
    bench: InstrumentBench,
    channels: int,
    powered: bool = False,
    switch: Switch | None = None,
    looped: bool = False,
) -> Iterator[Looked]:
    """Look at a bench, one thing after the other; it is safe whenever nobody looks, and afterwards.

    Args:
        channels: How many outputs are wired to loads, from channel 1 on.
        powered: Whether the amplifier on it may be switched on: 10 mV are sent, and seen whether Off works.
        switch: Off, which ends it.
        looped: Whether cables go from the source's outputs straight to where the amplifier's are recorded.

    Raises:
        BadInput: cables past an amplifier that is to be powered.
    """
    if looped and powered:
        raise BadInput("Take the cables of the loopback away before power.", field="looped")
    guarded = Guarded(bench, switch or Switch())
    for looked in _looks(bench, guarded, channels, powered, looped):
        yield looked
        if switch is not None and switch.thrown:
            yield Looked("the rest", "The bench was switched off.", False)
            return


def _looks(bench: InstrumentBench, guarded: Guarded, channels: int, powered: bool, looped: bool) -> Iterator[Looked]:
    try:
        answered = _look("instruments", lambda: (f"{len(bench.open())} answer, each as it is described", True))
        yield answered
        yield _look("make safe", lambda: _safe(bench))
        if not answered.passed:
            return
        zero = bench.supply.idle_clamp_amps()
        yield Looked("current probe, nothing flowing", f"{zero:.2f} A", True)
        box = bench.assembly.limits.boxes[0]
        ohms = box.ohms
        loads: dict[int, float] = {}
        for channel in range(1, channels + 1):
            yield _look(f"load on channel {channel}", partial(_load, bench, channel, box, loads))
        bench.connect(tuple(Connection((channel,), ohms) for channel in range(1, channels + 1)))
        yield _look("supply", lambda: _supply(bench))
        yield _look("silence at the recorder", lambda: _silence(bench))
        if looped:
            yield from _loopback(bench, guarded, channels)
        if powered:
            try:
                guarded.supply.switch_on()
            except BenchFault as fault:
                yield Looked("supply on", fault.what, False)
                return
            bench.wait(SETTLE_SECONDS)
            for channel in range(1, channels + 1):
                yield _look(
                    f"known level on channel {channel}",
                    partial(_known, bench, guarded, channel, loads.get(channel, ohms)),
                )
        if powered and bench.is_by_hand(BenchRole.SUPPLY):
            yield Looked("supply off", "is by hand: nothing here can be told to do it; the source is muted", True)
        elif powered:
            yield _look("supply off", lambda: _off(bench, zero))
    finally:
        bench.make_all_safe()


def _look(at: str, look: Callable[[], tuple[str, bool]]) -> Looked:
    try:
        return Looked(at, *look())
    except BenchFault as fault:
        return Looked(at, fault.what, False)


def _safe(bench: InstrumentBench) -> tuple[str, bool]:
    unsafe = bench.make_all_safe()
    return unsafe or "source muted, supply off", not unsafe


def _load(bench: InstrumentBench, channel: int, box: LoadBox, loads: dict[int, float]) -> tuple[str, bool]:
    bench.connect((Connection((channel,), box.ohms),))
    read = loads[channel] = bench.measured()[channel].measured_ohms
    if box.cold_ohms is None:
        return f"{read:.3f} Ω, nominal {box.ohms:g} Ω", abs(off_nominal(box.ohms, read)) <= LOAD_TOLERANCE
    fits = abs(off_nominal(box.cold_ohms, read)) <= REGISTER_TOLERANCE
    return f"{read:.3f} Ω, {box.cold_ohms:g} Ω on the register", fits


def _supply(bench: InstrumentBench) -> tuple[str, bool]:
    bench.supply.set_volts(TEST_VOLTS)
    bench.wait(SETTLE_SECONDS)
    volts = bench.supply.terminal_volts()
    return f"{volts:.2f} V, set to {TEST_VOLTS:g} V", abs(volts - TEST_VOLTS) <= SUPPLY_TOLERANCE_VOLTS


def _silence(bench: InstrumentBench) -> tuple[str, bool]:
    rms = float(np.sqrt(np.max(np.mean(np.square(bench.capture(0.1).samples), axis=1))))
    return f"{1000 * rms:.2f} mV", rms <= SILENCE_VOLTS


def _loopback(bench: InstrumentBench, guarded: Guarded, channels: int) -> Iterator[Looked]:
    bench.loop_back(True)
    try:
        bench.set_bandwidth(20_000.0)
        for channel in range(1, channels + 1):
            yield _look(f"loopback of channel {channel}", partial(_comes_back, bench, guarded, channel))
    finally:
        bench.make_all_safe()
        bench.loop_back(False)


def _comes_back(bench: InstrumentBench, guarded: Guarded, channel: int) -> tuple[str, bool]:
    """A known level, straight from the source: what the recorder reads, and what both add to it."""
    sent = 10 ** (LOOP_DBV / 20)
    own, astray = _sent(bench, guarded, channel, LOOP_HZ, LOOP_DBV, 0.5)
    if own is None:
        return f"nothing comes back of {sent:.3f} V", False
    volts = own.fundamental_volts
    words = f"{volts:.4f} V of {sent:.4f} V, residual {20 * math.log10(max(own.thd_n, 1e-9)):.0f} dB"
    if astray > ASTRAY * volts:
        return f"{words}; another input has {astray:.3f} V of it", False
    return words, abs(volts / sent - 1) <= LOOP_TOLERANCE and own.thd_n <= LOOP_THD_N


def _known(bench: InstrumentBench, guarded: Guarded, channel: int, ohms: float) -> tuple[str, bool]:
    """A known level through the amplifier into a known load: it comes where it is wired, and doubles when it does."""
    sent = 10 ** (KNOWN_DBV / 20)
    once, astray = _sent(bench, guarded, channel, KNOWN_HZ, KNOWN_DBV, KNOWN_SECONDS)
    twice, _ = _sent(bench, guarded, channel, KNOWN_HZ, KNOWN_DBV + DOUBLED_DB, KNOWN_SECONDS)
    if once is None or twice is None:
        return f"nothing comes of {1000 * sent:g} mV: a gain is down, or a wire is off", False
    volts = once.fundamental_volts
    words = f"{20 * math.log10(volts / sent):.2f} dB, {1000 * volts**2 / ohms:.3g} mW into {ohms:.3f} Ω"
    if astray > ASTRAY * volts:
        return f"{words}; another channel has {astray:.3f} V of it", False
    return words, abs(twice.fundamental_volts / volts / 2 - 1) <= DOUBLES_WITHIN


def _sent(
    bench: InstrumentBench, guarded: Guarded, channel: int, hz: float, level_dbv: float, seconds: float
) -> tuple[ToneAnalysis | None, float]:
    """What comes of a tone at one channel, None where nothing does; and the most volts of it that any other one has."""
    guarded.source.make_safe()
    guarded.source.set_tone([channel], hz)
    guarded.source.set_level([channel], level_dbv)
    bench.wait(SETTLE_SECONDS)
    taken = bench.capture(seconds)
    guarded.source.make_safe()
    found = {
        signal.channel: _tone(row, taken.sample_rate, hz)
        for signal, row in zip(taken.roles, taken.samples, strict=True)
    }
    own = found.pop(channel)
    return own, max((one.fundamental_volts for one in found.values() if one), default=0.0)


def _tone(row: NDArray[np.float64], rate: float, hz: float) -> ToneAnalysis | None:
    try:
        return analyse_tone(row, rate, tone_hz=hz)
    except BadCapture:  # there is none
        return None


def _off(bench: InstrumentBench, zero: float) -> tuple[str, bool]:
    on = bench.supply.amps() - zero
    bench.supply.make_safe()
    off = bench.supply.amps() - zero
    return f"{on:.2f} A while it is on, {off:.2f} A when it is off", on > OFF_AMPS >= abs(off)
