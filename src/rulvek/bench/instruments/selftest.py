"""A bench of instruments looked at before anybody trusts it: who answers, what idles, what the loads are, and Off."""

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np

from rulvek.bench.instruments.bench import OFF_AMPS, InstrumentBench
from rulvek.bench.instruments.description import BenchRole
from rulvek.bench.switch import Guarded, Switch
from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import BenchFault
from rulvek.core.records.benches import Looked

LOAD_TOLERANCE = 0.05
"""Of a cold load against its nominal value; what is further off is another load, or a bad contact."""
SUPPLY_TOLERANCE_VOLTS = 0.2
SILENCE_VOLTS = 0.05
TEST_VOLTS = 12.0
SETTLE_SECONDS = 0.5


def self_test(
    bench: InstrumentBench, channels: int, powered: bool = False, switch: Switch | None = None
) -> Iterator[Looked]:
    """Look at a bench, one thing after the other; it is safe whenever nobody looks, and afterwards.

    Args:
        channels: How many outputs are wired to loads, from channel 1 on.
        powered: Whether the amplifier on it may be switched on, with the source muted, to see that Off works.
        switch: Off, which ends it.
    """
    guarded = Guarded(bench, switch or Switch())
    for looked in _looks(bench, guarded, channels, powered):
        yield looked
        if switch is not None and switch.thrown:
            yield Looked("the rest", "The bench was switched off.", False)
            return


def _looks(bench: InstrumentBench, guarded: Guarded, channels: int, powered: bool) -> Iterator[Looked]:
    try:
        answered = _look("instruments", lambda: (f"{len(bench.open())} answer, each as it is described", True))
        yield answered
        yield _look("make safe", lambda: _safe(bench))
        if not answered.passed:
            return
        zero = bench.supply.idle_clamp_amps()
        yield Looked("current probe, nothing flowing", f"{zero:.2f} A", True)
        ohms = bench.assembly.limits.boxes[0].ohms
        for channel in range(1, channels + 1):
            yield _look(f"load on channel {channel}", partial(_load, bench, channel, ohms))
        bench.connect(tuple(Connection((channel,), ohms) for channel in range(1, channels + 1)))
        yield _look("supply", lambda: _supply(bench))
        yield _look("silence at the recorder", lambda: _silence(bench))
        if powered and bench.is_by_hand(BenchRole.SUPPLY):
            yield Looked("supply off", "is by hand: nothing here can be told to do it; the source is muted", True)
        elif powered:
            yield _look("supply off", lambda: _off(bench, guarded, zero))
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


def _load(bench: InstrumentBench, channel: int, ohms: float) -> tuple[str, bool]:
    bench.connect((Connection((channel,), ohms),))
    read = bench.measured()[channel].measured_ohms
    return f"{read:.3f} Ω, nominal {ohms:g} Ω", abs(read / ohms - 1) <= LOAD_TOLERANCE


def _supply(bench: InstrumentBench) -> tuple[str, bool]:
    bench.supply.set_volts(TEST_VOLTS)
    bench.wait(SETTLE_SECONDS)
    volts = bench.supply.terminal_volts()
    return f"{volts:.2f} V, set to {TEST_VOLTS:g} V", abs(volts - TEST_VOLTS) <= SUPPLY_TOLERANCE_VOLTS


def _silence(bench: InstrumentBench) -> tuple[str, bool]:
    rms = float(np.sqrt(np.max(np.mean(np.square(bench.capture(0.1).samples), axis=1))))
    return f"{1000 * rms:.2f} mV", rms <= SILENCE_VOLTS


def _off(bench: InstrumentBench, guarded: Guarded, zero: float) -> tuple[str, bool]:
    guarded.supply.switch_on()
    bench.wait(SETTLE_SECONDS)
    on = bench.supply.amps() - zero
    bench.supply.make_safe()
    off = bench.supply.amps() - zero
    return f"{on:.2f} A while it is on, {off:.2f} A when it is off", on > OFF_AMPS >= abs(off)
