"""What is read inside tone bursts: the strongest whole cycle, and the distortion of those that count.

A burst begins and ends, so that even a perfect amplifier with a coupling capacitor gives something that is no sine.
Distortion is therefore what differs from the same burst at a low level, scaled: what an amplifier does to both alike
is no clipping. Where no quieter burst is at hand (a recording of one level), it is told from a sine instead.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture
from rulvek.core.readings.point import DEAD_VOLTS, ChannelReading, Load, Point
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.clipping import clipping
from rulvek.core.signals.distortion import FEWEST_SAMPLES, Band, analyse_tone, recorded_band
from rulvek.core.signals.power import ratio_db

FEWEST_POINTS = 8
LEAST_TOLD = 1e-6  # a burst that is compared with itself differs by nothing, which says nothing
_ALIGNING = 6
LEFT_OUT_FROM = 4  # bursts of this many cycles and more are read without their first and last one


@dataclass(frozen=True, slots=True)
class Quiet:
    """Bursts of a level that is far from clipping, to compare louder ones with."""

    capture: Capture
    lead_seconds: float | None


def read_burst_point(
    capture: Capture,
    *,
    level_dbv: float,
    loads: Mapping[int, Load],
    profile: BurstProfile,
    band: Band,
    lead_seconds: float | None = None,
    quiet: Quiet | None = None,
) -> Point:
    """Read each channel inside the bursts of a capture.

    The power is that of the strongest whole cycle, first and last cycle left out from four on; THD+N is that of all
    those cycles together. The supply's volts are read during the bursts. Its amps are not read at all: a mean over
    the silence between bursts would make an efficiency far above 100 %.

    Args:
        lead_seconds: How long after its start the capture's burst begins, where a trigger says so.
        quiet: What distortion is told against; from a sine where None.

    Raises:
        BadCapture: a channel under test is not in the capture, or the capture's rate is too low for the tone.
    """
    band = recorded_band(band, profile.hz, capture.sample_rate)
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
            _read_channel(number, capture, load, profile, band, lead_seconds, quiet)
            for number, load in sorted(loads.items())
        ),
        supply_volts=supply_volts,
        supply_lowest=lowest,
        supply_amps=None,
        temperature_c=capture.temperature_c,
        load_c=capture.load_c,
        band_high_hz=band.high_hz,
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


def pulses(
    capture: Capture, channel: int, profile: BurstProfile, lead_seconds: float | None = None, most: int = 480
) -> Pulses:
    """Draw a channel's bursts and the part of each whose cycles count."""
    volts, rate = capture.outputs()[channel], capture.sample_rate
    windows = tuple((start / rate, stop / rate) for start, stop in _counted(volts, rate, profile, lead_seconds))
    shown = volts[:: max(1, math.ceil(volts.size / most))]
    return Pulses(channel, volts.size / rate, tuple(float(v) for v in shown), windows)


@dataclass(frozen=True, slots=True)
class _Burst:
    """A burst's counted cycles: where they are in the record, in samples, and each whole cycle's mean square.

    ``powers`` begin an eighth of a cycle apart, so that the strongest is found wherever it lies.
    """

    start: float
    stop: float
    powers: NDArray[np.float64]

    @property
    def strongest(self) -> float:
        return float(np.max(self.powers))

    @property
    def kept_up(self) -> float:
        """rms of the last counted cycle over the first one's."""
        return math.sqrt(max(0.0, float(self.powers[-1])) / max(float(self.powers[0]), 1e-30))


def _read_channel(
    number: int,
    capture: Capture,
    load: Load,
    profile: BurstProfile,
    band: Band,
    lead_seconds: float | None,
    quiet: Quiet | None,
) -> ChannelReading:
    volts, rate = capture.outputs()[number], capture.sample_rate
    best = _strongest(volts, rate, profile, lead_seconds)
    if best is None or math.sqrt(best.strongest) < DEAD_VOLTS:
        rms = math.sqrt(float(np.mean(volts * volts)))
        return ChannelReading(number, rms, rms * rms / load.measured_ohms, 0.0, None, None, 0.0, 0.0)
    inner = volts[round(best.start) : round(best.stop)]
    thd_n = thd = None
    if quiet is not None:  # harmonics of what is no steady sine say little
        thd_n = _differs(volts, best, _quiet_burst(quiet, number, profile), rate, rate / profile.hz, band)
    elif inner.size >= FEWEST_SAMPLES:
        try:
            tone = analyse_tone(inner, rate, band=band, tone_hz=profile.hz, coherent=True)
        except BadCapture:
            pass  # cut off inside the burst, or shaped: there is no tone to speak of
        else:
            thd_n, thd = tone.thd_n, tone.thd
    return ChannelReading(
        channel=number,
        volts_rms=math.sqrt(best.strongest),
        watts=best.strongest / load.measured_ohms,
        watts_at_start=best.strongest / load.measured_ohms,
        thd_n=thd_n,
        thd=thd,
        clipped_share=clipping(inner).share,
        kept_up=best.kept_up,
    )


def counted_cycles(volts: NDArray[np.float64], sample_rate: float, profile: BurstProfile) -> NDArray[np.float64] | None:
    """The cycles of the strongest burst in a record that a reading counts; None where there is no burst."""
    best = _strongest(volts, sample_rate, profile, None)
    return None if best is None else volts[round(best.start) : round(best.stop)]


def _counted(
    volts: NDArray[np.float64], sample_rate: float, profile: BurstProfile, lead_seconds: float | None
) -> list[tuple[float, float]]:
    """Where the counted cycles of each burst lie, in samples: whole ones, centred in it.

    The first and the last cycle are left out where there are four or more.
    """
    cycle = sample_rate / profile.hz
    if lead_seconds is not None:
        first = lead_seconds * sample_rate
        found = [(first, min(float(volts.size), first + profile.on_cycles * cycle))]
    else:
        found = [(float(one.start), float(one.stop)) for one in burst_windows(volts, sample_rate, profile)]
    counted = []
    for start, stop in found:
        wanted = math.floor(profile.on_cycles)
        if wanted >= LEFT_OUT_FROM:
            wanted -= 2
        wanted = min(wanted, math.floor((stop - start) / cycle + 0.5))
        length = min(stop - start, wanted * cycle)
        if length > 0:
            counted.append((start + (stop - start - length) / 2, start + (stop - start + length) / 2))
    return counted


def _strongest(
    volts: NDArray[np.float64], sample_rate: float, profile: BurstProfile, lead_seconds: float | None
) -> _Burst | None:
    cycle = sample_rate / profile.hz
    bursts = [
        _Burst(start, stop, _cycle_powers(volts, start, stop, cycle))
        for start, stop in _counted(volts, sample_rate, profile, lead_seconds)
    ]
    return max((one for one in bursts if one.powers.size), key=lambda one: one.strongest, default=None)


def _cycle_powers(volts: NDArray[np.float64], start: float, stop: float, cycle: float) -> NDArray[np.float64]:
    """Mean square of whole cycles, from the first to the last, an eighth of a cycle apart.

    A cycle is rarely a whole number of samples: the square is integrated between its ends, not summed.
    """
    low, high = max(0, math.floor(start) - 4), min(volts.size, math.ceil(stop) + 4)
    if high - low < FEWEST_POINTS:
        return np.zeros(0)
    integral = scipy.interpolate.CubicSpline(np.arange(low, high), volts[low:high] ** 2).antiderivative()
    last = min(stop, float(high - 1)) - cycle
    begins = np.arange(start, max(start, last) + 1e-6 * cycle, cycle / 8)
    ends = np.minimum(begins + cycle, high - 1)
    return np.asarray((integral(ends) - integral(begins)) / (ends - begins))


def _quiet_burst(quiet: Quiet, number: int, profile: BurstProfile) -> tuple[NDArray[np.float64], float] | None:
    """A channel's quiet record and where its counted cycles begin, in samples."""
    volts = quiet.capture.outputs().get(number)
    if volts is None:
        return None
    best = _strongest(volts, quiet.capture.sample_rate, profile, quiet.lead_seconds)
    return None if best is None else (volts, best.start)


def _differs(
    volts: NDArray[np.float64],
    burst: _Burst,
    quiet: tuple[NDArray[np.float64], float] | None,
    sample_rate: float,
    cycle: float,
    band: Band,
) -> float | None:
    """rms of what differs from the quiet burst, scaled and shifted to fit best, over the rms of the burst."""
    if quiet is None:
        return None
    record, begins = quiet
    start, length = round(burst.start), round(burst.stop) - round(burst.start)
    wave = volts[start : start + length]
    if length < FEWEST_POINTS or start + length > volts.size:
        return None
    turns = 2j * np.pi * np.fft.rfftfreq(record.size)  # per sample
    spectrum = np.fft.rfft(record)
    # Both records have their own sampling instants: the quiet one is shifted by parts of a sample.
    shift = burst.start - start - (begins - round(begins))
    at = _aligned(record, wave, round(begins), math.ceil(cycle / 2))
    residual = wave
    for _ in range(_ALIGNING):
        shifted = np.fft.irfft(spectrum * np.exp(turns * shift), record.size)
        slope = np.fft.irfft(spectrum * turns * np.exp(turns * shift), record.size)
        window = slice(at, at + length)
        if shifted[window].size < length:
            return None
        columns = np.stack([shifted[window], slope[window], np.ones(length)], axis=1)
        fitted = np.linalg.lstsq(columns, wave, rcond=None)[0]
        residual = wave - columns @ fitted
        if fitted[0] <= 0:
            return None  # it is not the same burst
        shift += float(np.clip(fitted[1] / fitted[0], -1.0, 1.0))
        if abs(fitted[1] / fitted[0]) < 1e-6:
            break
    whole = math.sqrt(float(np.mean((wave - np.mean(wave)) ** 2)))
    return max(LEAST_TOLD, _within(residual, sample_rate, band) / whole) if whole > 0 else None


def _aligned(record: NDArray[np.float64], wave: NDArray[np.float64], near: int, reach: int) -> int:
    """Where in a record a wave is most alike, within so many samples of a place; bursts are found to half a cycle."""
    low = max(0, near - reach)
    around = record[low : near + reach + wave.size]
    if around.size <= wave.size:
        return near
    return low + int(np.argmax(scipy.signal.correlate(around, wave, mode="valid", method="fft")))


def _within(residual: NDArray[np.float64], sample_rate: float, band: Band) -> float:
    """rms of what lies under the band's upper end."""
    spectrum = np.fft.rfft(residual)
    spectrum[np.fft.rfftfreq(residual.size, 1 / sample_rate) > band.high_hz] = 0
    return math.sqrt(float(np.mean(np.fft.irfft(spectrum, residual.size) ** 2)))


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
