"""An audio interface looked at with a cable from each output to the input of its number; nothing else is connected."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rulvek.bench.sound.duplex import Duplex, Sent
from rulvek.core.records.benches import Looked
from rulvek.core.signals.bursts import cycles_profile
from rulvek.core.signals.distortion import Band, analyse_tone
from rulvek.core.signals.slips import slipped

HZ = 997.0  # no divisor of a rate: any number of samples that is lost shows in its phase
AMPLITUDE = 10 ** (-3 / 20)
RESIDUAL_DB = -80.0
"""A hundredth of 1 %: what the interface adds itself does not show in a reading at the limit (common practice)."""
CROSSTALK_DB = -60.0
COMES_BACK = 1e-3
"""The least share of what was sent that is called a connection."""
BAND = Band(20.0, 20_000.0)
SEARCH_SECONDS = 0.1


@dataclass(frozen=True, slots=True)
class Returned:
    """How one output came back at the input of its number."""

    gain: float
    residual_db: float
    crosstalk_db: float
    late: int
    inverted: bool


def look_at(interface: Duplex, slip_seconds: float = 10.0) -> Iterator[Looked]:
    """Each output in turn, then all of them for a while; the interface must run.

    Raises:
        BenchFault: it stopped.
    """
    try:
        for channel in range(interface.outputs):
            found = returned(interface, channel)
            if found is None:
                yield Looked(f"output {channel + 1}", f"does not come back at input {channel + 1}", False)
                continue
            rate, late = interface.rate, found.late
            words = (
                f"residual {found.residual_db:.1f} dB, cross-talk {found.crosstalk_db:.1f} dB, "
                f"{interface.latency + late} samples ({1000 * (interface.latency + late) / rate:.1f} ms), "
                f"{late:+d} than is told"
            )
            passed = found.residual_db <= RESIDUAL_DB and found.crosstalk_db <= CROSSTALK_DB
            yield Looked(f"output {channel + 1} to input {channel + 1}", words, passed)
            yield Looked(f"polarity of input {channel + 1}", "inverted" if found.inverted else "as it is sent", True)
        yield _slips(interface, slip_seconds)
    finally:
        interface.mute()


def returned(interface: Duplex, channel: int) -> Returned | None:
    """How an output, counted from 0, comes back; None where it doesn't."""
    others = {one: Sent() for one in range(interface.outputs) if one != channel}
    interface.send({**others, channel: Sent(HZ, AMPLITUDE)})
    taken = interface.take(round(interface.rate)).astype(np.float64)
    levels = [_level(row, interface.rate) for row in taken]
    if levels[channel] < COMES_BACK * AMPLITUDE:
        return None
    analysis = analyse_tone(taken[channel], interface.rate, band=BAND, tone_hz=HZ)
    elsewhere = max((one for at, one in enumerate(levels) if at != channel), default=0.0)
    late, inverted = _round_trip(interface, channel)
    return Returned(
        levels[channel] / AMPLITUDE,
        20 * math.log10(max(analysis.thd_n, 1e-12)),
        20 * math.log10(max(elsewhere / levels[channel], 1e-12)),
        late,
        inverted,
    )


def _level(row: NDArray[np.float64], rate: float) -> float:
    """Amplitude of the tone that was sent, whatever else there is."""
    turns = np.exp(-2j * np.pi * HZ / rate * np.arange(len(row)))
    window = np.hanning(len(row))
    return float(2 * abs(np.dot(row * window, turns)) / window.sum())


def _round_trip(interface: Duplex, channel: int) -> tuple[int, bool]:
    """By how many samples a single cycle comes later than is told, and whether it comes upside down."""
    profile, rate = cycles_profile(1000.0, 1), interface.rate
    single = Sent(profile.hz, AMPLITUDE, profile)
    interface.send({channel: single})
    search = round(SEARCH_SECONDS * rate)
    length = round(profile.on_seconds * rate)
    taken = interface.take(2 * search + length, profile, search)[channel].astype(np.float64)
    sent = single.wave(np.arange(length), rate)
    alike = np.correlate(taken, sent, mode="valid")
    at = int(np.argmax(np.abs(alike)))
    return at - search, bool(alike[at] < 0)


def _slips(interface: Duplex, seconds: float) -> Looked:
    at = "slips"
    interface.send({channel: Sent(HZ, AMPLITUDE) for channel in range(interface.outputs)})
    taken = interface.take(round(seconds * interface.rate)).astype(np.float64)
    lost = [slipped(row, interface.rate, HZ) for row in taken]
    if any(lost):
        return Looked(at, f"{max(lost, key=abs)} samples in {seconds:g} s", False)
    return Looked(at, f"none in {seconds:g} s, by the phase of {HZ:g} Hz", True)
