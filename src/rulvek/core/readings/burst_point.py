"""What is read inside tone bursts: the strongest whole cycle, and the distortion of those that count."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture
from rulvek.core.readings.point import DEAD_VOLTS, ChannelReading, Load, Point
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.clipping import clipping
from rulvek.core.signals.distortion import FEWEST_SAMPLES, Band, analyse_tone
from rulvek.core.signals.power import ratio_db

LEFT_OUT_FROM = 4  # bursts of this many cycles and more are read without their first and last one


def read_burst_point(
    capture: Capture,
    *,
    level_dbv: float,
    loads: Mapping[int, Load],
    profile: BurstProfile,
    band: Band,
) -> Point:
    """Read each channel inside the bursts of a capture.

    The power is that of the strongest whole cycle, first and last cycle left out from four on; THD+N is that of all
    those cycles together. The supply's volts are read during the bursts. Its amps are not read at all: a mean over
    the silence between bursts would make an efficiency far above 100 %.

    Raises:
        BadCapture: a channel under test is not in the capture.
    """
    outputs = capture.outputs()
    missing = sorted(set(loads) - set(outputs))
    if missing:
        raise BadCapture(f"Channel {missing[0]} is loaded but not in the capture.", field="roles")
    supply_volts = lowest = None
    if capture.supply is not None:
        strongest = max(outputs.values(), key=lambda volts: float(np.max(np.abs(volts))))
        during = _during_bursts(strongest, capture, profile)
        supply_volts, lowest = float(np.mean(during)), capture.supply.lowest_volts
    return Point(
        level_dbv=level_dbv,
        channels=tuple(
            _read_channel(number, outputs[number], capture.sample_rate, load, profile, band)
            for number, load in sorted(loads.items())
        ),
        supply_volts=supply_volts,
        supply_lowest=lowest,
        supply_amps=None,
        temperature_c=capture.temperature_c,
        load_c=capture.load_c,
    )


def burst_windows(volts: NDArray[np.float64], sample_rate: float, profile: BurstProfile) -> list[slice]:
    """Find the bursts that lie wholly inside a record, each as a slice of its samples, to within half a cycle.

    A burst is where the rms over one cycle is more than half of the largest; one that is cut off by an end of the
    record, or shorter than half of what was sent, does not count.
    """
    cycle = max(1, round(sample_rate / profile.hz))
    if volts.size < 2 * cycle:
        return []
    sums = np.concatenate([[0.0], np.cumsum(volts * volts)])
    moving = np.maximum(sums[cycle:] - sums[:-cycle], 0.0)  # rounding may leave a hair below zero
    loud = moving > 0.25 * float(np.max(moving))
    edges = np.flatnonzero(np.diff(loud.astype(np.int8)))
    starts = [int(edge) + 1 for edge in edges if not loud[edge]]
    found = []
    for start in starts:
        ends = edges[edges >= start]
        if ends.size == 0:
            break
        # The moving window is loud from a quarter of its length inside the burst at either end.
        first, last = start + (3 * cycle) // 4, int(ends[0]) + cycle // 4
        if last - first >= 0.5 * profile.on_cycles * cycle - cycle:
            found.append(slice(max(0, first), min(volts.size, last)))
    return found


@dataclass(frozen=True, slots=True)
class Pulses:
    """A record of bursts in few points, for people to look at, and the windows that are read.

    ``volts`` are evenly spaced samples, about as many as a screen shows; windows are seconds from the record's start.
    """

    channel: int
    seconds: float
    volts: tuple[float, ...]
    windows: tuple[tuple[float, float], ...]


def pulses(capture: Capture, channel: int, profile: BurstProfile, most: int = 480) -> Pulses:
    """Draw a channel's bursts and the part of each whose cycles count."""
    volts = capture.outputs()[channel]
    rate, cycle = capture.sample_rate, capture.sample_rate / profile.hz
    windows = []
    for window in burst_windows(volts, rate, profile):
        length = _whole_cycles(volts[window], cycle, profile).size
        start = window.start + (window.stop - window.start - length) // 2
        windows.append((start / rate, (start + length) / rate))
    shown = volts[:: max(1, math.ceil(volts.size / most))]
    return Pulses(channel, volts.size / rate, tuple(float(v) for v in shown), tuple(windows))


def _read_channel(
    number: int,
    volts: NDArray[np.float64],
    sample_rate: float,
    load: Load,
    profile: BurstProfile,
    band: Band,
) -> ChannelReading:
    best = _strongest(volts, sample_rate, profile)
    if best is None or math.sqrt(best[0]) < DEAD_VOLTS:
        rms = math.sqrt(float(np.mean(volts * volts)))
        return ChannelReading(number, rms, rms * rms / load.measured_ohms, 0.0, None, None, 0.0, 0.0)
    power, kept, inner = best
    thd_n = thd = None
    if inner.size >= FEWEST_SAMPLES:
        try:
            tone = analyse_tone(inner, sample_rate, band=band, tone_hz=profile.hz, coherent=True)
        except BadCapture:
            pass  # cut off inside the burst: there is no tone to speak of
        else:
            thd_n, thd = tone.thd_n, tone.thd
    return ChannelReading(
        channel=number,
        volts_rms=math.sqrt(power),
        watts=power / load.measured_ohms,
        watts_at_start=power / load.measured_ohms,
        thd_n=thd_n,
        thd=thd,
        clipped_share=clipping(inner).share,
        kept_up=math.sqrt(kept),
    )


def counted_cycles(volts: NDArray[np.float64], sample_rate: float, profile: BurstProfile) -> NDArray[np.float64] | None:
    """The cycles of the strongest burst in a record that a reading counts; None where there is no burst."""
    best = _strongest(volts, sample_rate, profile)
    return None if best is None else best[2]


def _strongest(
    volts: NDArray[np.float64], sample_rate: float, profile: BurstProfile
) -> tuple[float, float, NDArray[np.float64]] | None:
    """Mean square of the strongest whole cycle, the last counted cycle's over the first's, and the counted cycles."""
    cycle = sample_rate / profile.hz
    best: tuple[float, float, NDArray[np.float64]] | None = None
    for window in burst_windows(volts, sample_rate, profile):
        inner = _whole_cycles(volts[window], cycle, profile)
        powers = _cycle_powers(inner, cycle)
        if powers.size and (best is None or float(np.max(powers)) > best[0]):
            best = float(np.max(powers)), float(powers[-1] / max(powers[0], 1e-30)), inner
    return best


def _whole_cycles(burst: NDArray[np.float64], cycle: float, profile: BurstProfile) -> NDArray[np.float64]:
    """The burst's whole cycles, centred, without the first and the last one where there are four or more."""
    wanted = math.floor(profile.on_cycles)
    if wanted >= LEFT_OUT_FROM:
        wanted -= 2
    wanted = min(wanted, math.floor(burst.size / cycle + 0.5))
    length = min(burst.size, round(wanted * cycle))
    start = (burst.size - length) // 2
    return burst[start : start + length]


def _cycle_powers(inner: NDArray[np.float64], cycle: float) -> NDArray[np.float64]:
    """Mean square of each whole cycle."""
    count = round(inner.size / cycle)
    edges = [round(index * cycle) for index in range(count + 1)]
    parts = [inner[edges[i] : edges[i + 1]] for i in range(count)]
    return np.array([float(np.mean(part * part)) for part in parts if part.size])


def _during_bursts(volts: NDArray[np.float64], capture: Capture, profile: BurstProfile) -> NDArray[np.float64]:
    """Supply volts while bursts were on; the whole trace where none is found."""
    supply = capture.supply
    if supply is None:
        raise ValueError("the capture has no supply trace")
    ratio = supply.sample_rate / capture.sample_rate
    parts = [
        supply.volts[int(window.start * ratio) : max(int(window.stop * ratio), int(window.start * ratio) + 1)]
        for window in burst_windows(volts, capture.sample_rate, profile)
    ]
    parts = [part for part in parts if part.size]
    return np.concatenate(parts) if parts else supply.volts


def headroom_db(burst_onset_watts: float, certified_watts: float) -> float:
    """Burst power at the onset of clipping over certified power, in dB.

    Raises:
        ValueError: a power that is not above 0 W.
    """
    return ratio_db(burst_onset_watts, certified_watts)
