"""Volts and amps at a loudspeaker's wire from a recording of both."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture
from rulvek.core.signals.power import mean_square, power_from_current
from rulvek.core.signals.sine_fit import coarse_frequency, fit_harmonics, refine_frequency

LOWEST_HZ, HIGHEST_HZ = 10.0, 5_000.0
LONGEST_SECONDS = 20.0
_TONE_SHARE = 0.9
"""Share of the volts' mean square in one sine from which a recording is of a tone, and has one phase."""


@dataclass(frozen=True, slots=True)
class WireReading:
    """Rms volts and amps, real watts, and at a tone its frequency and the phase by which the volts lead.

    ``tone_hz`` and ``phase_degrees`` are None where music played: of many tones there is no one phase.
    """

    volts: float
    amps: float
    watts: float
    tone_hz: float | None
    phase_degrees: float | None


def read_speaker_wire(volts: NDArray[np.float64], amps: NDArray[np.float64], sample_rate: float) -> WireReading:
    """Read a wire from simultaneous samples of shape ``(n,)``, in volts and amps.

    Raises:
        BadCapture: too short, silent, or longer than 20 s.
    """
    if volts.size < sample_rate / LOWEST_HZ * 2:
        raise BadCapture("The recording is shorter than two cycles of the lowest tone.", field="recording")
    if volts.size > sample_rate * LONGEST_SECONDS:
        raise BadCapture(f"Cut the recording to {LONGEST_SECONDS:g} s or less.", field="recording")
    volts, amps = volts - np.mean(volts), amps - np.mean(amps)
    if not np.any(volts) or not np.any(amps):
        raise BadCapture("There is no signal on the volts' or on the amps' channel.", field="recording")
    power = power_from_current(volts, amps)
    volts_rms, amps_rms = (math.sqrt(mean_square(samples)) for samples in (volts, amps))
    tone, phase = _tone(volts, amps, sample_rate)
    return WireReading(volts_rms, amps_rms, power.watts, tone, phase)


def _tone(
    volts: NDArray[np.float64], amps: NDArray[np.float64], sample_rate: float
) -> tuple[float | None, float | None]:
    highest = min(HIGHEST_HZ, sample_rate / 4)
    strongest = _strongest(volts, sample_rate, highest)
    span = 2 * sample_rate / volts.size
    near = coarse_frequency(volts, sample_rate, max(LOWEST_HZ, strongest - span), min(highest, strongest + span))
    hz = refine_frequency(volts, sample_rate, near, 1)
    of_volts, of_amps = (fit_harmonics(samples, sample_rate, hz, 1)[1] for samples in (volts, amps))
    if 2 * abs(of_volts) ** 2 < _TONE_SHARE * float(np.mean(volts**2)) or not abs(of_amps):
        return None, None
    return hz, math.degrees(float(np.angle(of_volts / of_amps)))


def _strongest(volts: NDArray[np.float64], sample_rate: float, highest_hz: float) -> float:
    levels = np.abs(np.fft.rfft(volts * np.hanning(volts.size)))
    hertz = np.fft.rfftfreq(volts.size, 1 / sample_rate)
    within = (hertz >= LOWEST_HZ) & (hertz <= highest_hz)
    return float(hertz[within][int(np.argmax(levels[within]))])
