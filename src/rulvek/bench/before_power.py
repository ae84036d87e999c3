"""What is seen to before power, for each wiring: the clamp's zero, the gains, the loads, the start window."""

import math
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from rulvek.bench.protocols import Bench, Connection
from rulvek.bench.switch import make_safe
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BenchFault
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.point import Load
from rulvek.core.signals.power import mean_square

_CLAMP_SECONDS = 1.0


@dataclass(frozen=True, slots=True)
class GainMatch:
    """How far each channel of a group is from its mean, in dB, and the source level for the chosen overlap.

    ``source_dbv`` is the rms level that gives ``full_volts`` at the output of the loudest channel.
    """

    deviations_db: dict[int, float]
    gains_db: dict[int, float]

    @property
    def worst_db(self) -> float:
        """The largest difference between two channels."""
        values = self.deviations_db.values()
        return max(values) - min(values)

    def source_dbv(self, full_volts: float, overlap_db: float) -> float:
        """Source level for full output with so many dB of overlap: the input is driven that much harder."""
        return 20 * math.log10(full_volts) - max(self.gains_db.values()) + overlap_db


@dataclass(frozen=True, slots=True)
class OutOfWindow:
    """Why a run may not start yet: what is read, and the limits it must be within."""

    what: Literal["sink", "load", "supply"]
    value: float
    low: float
    high: float


def zero_clamp(bench: Bench, wiring: Sequence[Connection]) -> float:
    """Amps that the clamp indicates on the connected, idle bench."""
    _idle(bench, wiring)
    bench.wait(_CLAMP_SECONDS)
    return bench.supply.idle_clamp_amps()


def measure_loads(bench: Bench, wiring: Sequence[Connection]) -> dict[int, Load]:
    """Every load as it is now, warm or cold."""
    _idle(bench, wiring)
    return bench.loads.measured()


def match_gains(
    bench: Bench,
    wiring: Sequence[Connection],
    under_test: Sequence[Connection],
    *,
    hz: float,
    sensitivity_dbv: float,
    supply_volts: float,
    policy: SupplyPolicy,
    method: MethodProfile,
) -> GainMatch:
    """Play all channels under test well below full output and compare what comes out of each."""
    level = sensitivity_dbv - method.gain_match_below_db
    channels = [channel for link in under_test for channel in link.channels]
    try:
        _idle(bench, wiring)
        power_up(bench, supply_volts, policy)
        bench.source.set_tone(channels, hz)
        bench.source.set_burst(channels, None)
        bench.source.set_level(channels, level)
        bench.wait(method.settle_seconds)
        outputs = bench.recorder.capture(max(method.capture_seconds, 20 / hz)).outputs()
    finally:
        unsafe = make_safe(bench)
    if unsafe:
        raise BenchFault(unsafe)
    gains = {link.number: 10 * math.log10(mean_square(outputs[link.number])) - level for link in under_test}
    mean = sum(gains.values()) / len(gains)
    return GainMatch({number: gain - mean for number, gain in gains.items()}, gains)


def power_up(bench: Bench, volts: float, policy: SupplyPolicy) -> None:
    """Set the supply, unless it is a bank, and switch the amplifier on."""
    if policy is not SupplyPolicy.BANK:
        bench.supply.set_volts(volts)
    bench.supply.switch_on()


def out_of_window(bench: Bench, volts: float, policy: SupplyPolicy, method: MethodProfile) -> OutOfWindow | None:
    """The first thing that is outside of the start window, or None when the run may start.

    The supply's volts are read with the amplifier on and at rest.
    """
    warm = bench.temperatures()
    if warm.sink_c > method.start_sink_maximum_c:
        return OutOfWindow("sink", warm.sink_c, -math.inf, method.start_sink_maximum_c)
    if warm.load_c > method.start_load_maximum_c:
        return OutOfWindow("load", warm.load_c, -math.inf, method.start_load_maximum_c)
    low, high = volts - method.start_held_tolerance_volts, volts + method.start_held_tolerance_volts
    if policy is SupplyPolicy.BANK:
        low, high = method.start_bank_low_volts, method.start_bank_high_volts
    now = bench.supply.terminal_volts()
    return None if low <= now <= high else OutOfWindow("supply", now, low, high)


def await_window(
    bench: Bench,
    volts: float,
    policy: SupplyPolicy,
    method: MethodProfile,
    tell: Callable[[OutOfWindow], None],
    give_up: Sequence[threading.Event],
) -> OutOfWindow | None:
    """Wait, saying what for, until the start window is met or somebody gives up; returns what is still outside."""
    waited = 0.0
    while (outside := out_of_window(bench, volts, policy, method)) is not None:
        if any(event.is_set() for event in give_up) or waited >= method.start_wait_maximum_seconds:
            return outside
        tell(outside)
        bench.wait(_STEP_SECONDS)
        waited += _STEP_SECONDS
    return None


_STEP_SECONDS = 1.0


def _idle(bench: Bench, wiring: Sequence[Connection]) -> None:
    bench.source.make_safe()
    bench.supply.make_safe()
    bench.loads.connect(wiring)
