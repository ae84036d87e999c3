"""Test signals as float64 arrays, 1.0 = digital full scale; every tone is made of whole cycles."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rulvek.core.errors import BadInput
from rulvek.core.signals.bursts import BurstProfile


def whole_cycles(hz: float, seconds: float, sample_rate: float) -> int:
    """Return the number of samples, nearest to ``seconds``, after which ``hz`` starts a new cycle.

    The tone's phase there is within half a sample of a whole turn; the count is at least one cycle.

    Raises:
        BadInput: a tone not above 0 Hz and below half the sample rate, or a length not above 0 s.
    """
    if not (math.isfinite(sample_rate) and sample_rate > 0):
        raise BadInput(f"The sample rate must be above 0 Hz, got {sample_rate}.", field="sample_rate")
    if not (math.isfinite(hz) and 0 < hz < sample_rate / 2):
        raise BadInput(
            f"A tone must lie between 0 Hz and half the sample rate ({sample_rate / 2:g} Hz), got {hz:g} Hz.",
            field="hz",
        )
    if not (math.isfinite(seconds) and seconds > 0):
        raise BadInput(f"The length must be above 0 s, got {seconds}.", field="seconds")
    cycles = max(1, round(hz * seconds))
    return round(cycles * sample_rate / hz)


def sine(hz: float, seconds: float, sample_rate: float, level_dbfs: float = 0.0) -> NDArray[np.float64]:
    """Return a sine of whole cycles that starts at a rising zero crossing.

    Args:
        hz: Frequency, above 0 and below half the sample rate.
        seconds: Wanted length; rounded to whole cycles (see :func:`whole_cycles`).
        sample_rate: Hz.
        level_dbfs: Peak level in dB re full scale, at most 0.

    Returns:
        Samples, shape ``(n,)``, within ±1.
    """
    count = whole_cycles(hz, seconds, sample_rate)
    return np.asarray(_amplitude(level_dbfs) * np.sin(2 * np.pi * hz / sample_rate * np.arange(count)))


def stepped_sweep(
    hz: float, levels_dbfs: Sequence[float], seconds_per_step: float, sample_rate: float
) -> NDArray[np.float64]:
    """Return one tone at several levels, one after the other, changing level at zero crossings only.

    Args:
        levels_dbfs: Peak level of each step in dB re full scale, each at most 0; at least one.
        seconds_per_step: Length of one step, rounded to whole cycles.

    Returns:
        Samples, shape ``(n,)``; the phase runs on through the level changes.
    """
    if not levels_dbfs:
        raise BadInput("A sweep needs at least one level.", field="levels_dbfs")
    count = whole_cycles(hz, seconds_per_step, sample_rate)
    amplitudes = np.array([_amplitude(level) for level in levels_dbfs])
    phase = 2 * np.pi * hz / sample_rate * np.arange(count * len(amplitudes))
    return np.asarray(np.repeat(amplitudes, count) * np.sin(phase))


def bursts(profile: BurstProfile, periods: int, sample_rate: float, level_dbfs: float = 0.0) -> NDArray[np.float64]:
    """Return so many bursts with their rests, the level changing at zero crossings.

    Args:
        periods: Whole periods, at least one.

    Returns:
        Samples, shape ``(n,)``, within ±1.
    """
    if periods < 1:
        raise BadInput(f"At least one burst is needed, got {periods}.", field="periods")
    whole_cycles(profile.hz, profile.period_seconds, sample_rate)  # refuses a tone that the rate cannot hold
    seconds = np.arange(round(periods * profile.period_seconds * sample_rate)) / sample_rate
    wave = profile.envelope(seconds) * np.sin(2 * np.pi * profile.hz * seconds)
    return np.asarray(_amplitude(level_dbfs) * wave)


def _amplitude(level_dbfs: float) -> float:
    if not (math.isfinite(level_dbfs) and level_dbfs <= 0):
        raise BadInput(f"A level must be at most 0 dB re full scale, got {level_dbfs}.", field="level_dbfs")
    return float(10 ** (level_dbfs / 20))
