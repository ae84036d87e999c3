"""True power and mean squares of captures of any length, and the textbook relations around them."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray


@lru_cache(maxsize=8)
def _fades(count: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Raised-cosine edges of ``count`` samples, from near 0 to near 1 and back."""
    rising: NDArray[np.float64] = 0.5 - 0.5 * np.cos(np.pi * (np.arange(count) + 0.5) / count)
    falling = rising[::-1].copy()  # a product with samples that lie backwards takes several times as long
    rising.flags.writeable = falling.flags.writeable = False
    return rising, falling


def _steady_mean_product(first: NDArray[np.float64], second: NDArray[np.float64]) -> float:
    """Mean of ``first · second``, periodic, over a record that need not hold whole periods.

    A plain mean is off by up to ``1 / (4π · cycles)`` of the ripple. Weighting the first and the last
    quarter down with raised-cosine edges lowers that by the square of the cycles in an edge: to 2 % from 2 cycles on,
    0.25 % from 4, 0.03 % from 8, 0.01 % from 12 and 0.002 % from 20. A reading of a tone does not come from here, but
    from the phasors that are fitted to it (:func:`rulvek.core.signals.distortion.analyse_tone`): those know no ends.

    Args:
        first, second: Samples, shape ``(n,)`` with ``n >= 1``.
    """
    edge = first.size // 4
    start, middle, end = slice(0, edge), slice(edge, first.size - edge), slice(first.size - edge, None)
    total = float(first[middle] @ second[middle])
    if edge:
        rising, falling = _fades(edge)
        total += float((first[start] * second[start]) @ rising)
        total += float((first[end] * second[end]) @ falling)
    # Each edge sums to half its length, so the weights add up to n - edge.
    return total / (first.size - edge)


def mean_square(volts: NDArray[np.float64]) -> float:
    """Mean of ``volts²`` in V², shape ``(n,)``, unbiased by a cut-off last period; DC counts."""
    return _steady_mean_product(volts, volts)


@dataclass(frozen=True, slots=True)
class LoadPower:
    """Power from simultaneous output volts and amps into a load that need not be a resistor."""

    watts: float
    volt_amps: float
    power_factor: float
    impedance_ohms: float


def power_from_current(volts: NDArray[np.float64], amps: NDArray[np.float64]) -> LoadPower:
    """Return real power ``mean(v·i)``, apparent power, power factor and ``|Z| = Vrms / Irms``.

    Args:
        volts, amps: Simultaneous samples of equal shape ``(n,)``.

    Raises:
        ValueError: different shapes, no samples, or no current at all.
    """
    if volts.shape != amps.shape or volts.size == 0:
        raise ValueError(f"volts and amps need the same samples, got {volts.shape} and {amps.shape}")
    volts_rms, amps_rms = math.sqrt(mean_square(volts)), math.sqrt(mean_square(amps))
    if amps_rms == 0 or volts_rms == 0:
        raise ValueError("volts or amps are all zero: the load cannot be told")
    watts = _steady_mean_product(volts, amps)
    apparent = volts_rms * amps_rms
    return LoadPower(watts, apparent, watts / apparent, volts_rms / amps_rms)


def rms_watts(volts_rms: float, load_ohms: float) -> float:
    """Return ``V² / R`` of volts that a meter has squared and averaged already.

    >>> rms_watts(17.0, 4.0)
    72.25
    """
    return volts_rms**2 / load_ohms


def volts_of(watts: float, load_ohms: float) -> float:
    """Return the volts rms of so many watts, ``√(P·R)``.

    >>> volts_of(72.25, 4.0)
    17.0
    """
    return math.sqrt(watts * load_ohms)


def input_for_full_output(source_volts: float, overlap_db: float) -> float:
    """Input level at which an amplifier is set to full output: the source's full-scale level, lowered by the overlap.

    An overlap lets quiet programme reach full power; loud programme then clips by that much (common practice, no
    source).

    >>> round(input_for_full_output(4.0, 5.0), 3)
    2.249
    """
    return source_volts * 10 ** (-overlap_db / 20)


def ratio_db(watts: float, reference: float) -> float:
    """Return a ratio of two powers in dB.

    Raises:
        ValueError: a power that is not above 0 W.

    >>> round(ratio_db(200.0, 100.0), 2)
    3.01
    """
    if not (watts > 0 and reference > 0):
        raise ValueError(f"powers must be above 0 W, got {watts} and {reference}")
    return 10 * math.log10(watts / reference)


def unclipped_sine_watts(volts_peak: float, load_ohms: float) -> float:
    """Return ``Vpk² / (2R)``: what an oscilloscope's peak stands for, valid for an unclipped sine only.

    Raises:
        ValueError: a negative peak or a load not above 0 Ω.

    >>> unclipped_sine_watts(41.6, 8.0)
    108.16
    """
    if not (volts_peak >= 0 and load_ohms > 0):
        raise ValueError(f"need a peak >= 0 V and a load > 0 ohm, got {volts_peak} V and {load_ohms} ohm")
    return round(volts_peak**2 / (2 * load_ohms), 12)
