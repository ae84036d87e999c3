"""A windowed spectrum in which tones that do not complete whole periods still stand apart.

The window is a seven-term cosine sum whose side lobes stay below −180 dB (Albrecht, "A family of cosine-sum
windows for high-resolution measurements", ICASSP 2001; coefficients from memory, the side lobes are checked
in the tests). It is applied after the transform: multiplying by cosines in time is adding shifted bins, so one
real FFT and a short sum over the bins of the band are all that is computed.
"""

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

TERMS = (
    0.27105140069342,
    -0.43329793923448,
    0.21812299954311,
    -0.06592544638803,
    0.01081174209837,
    -0.00077658482522,
    0.00001388721735,
)
HALF_LOBE = len(TERMS)  # bins from a tone beyond which nothing of it is left
_REACH = len(TERMS) - 1
_MEAN_SQUARE = TERMS[0] ** 2 + sum(term**2 for term in TERMS[1:]) / 2
_TURNS = np.outer(np.arange(len(TERMS)), 2 * np.pi * np.arange(256) / 256)
_SHAPE = np.asarray(TERMS) @ np.cos(_TURNS)
_NOISE_BINS_A_TONE = float(np.mean(_SHAPE**4) / np.mean(_SHAPE**2) ** 2)  # as much noise as so many bins is in a phasor

Complex = NDArray[np.complex128]


def kernel(offset_bins: NDArray[np.float64], count: int) -> Complex:
    """Return the window's transform at ``offset_bins`` from a unit phasor, for a record of ``count`` samples."""
    total = np.zeros(offset_bins.shape, dtype=np.complex128)
    for order, term in enumerate(TERMS):
        if order == 0:
            total += term * _dirichlet(offset_bins, count)
        else:
            total += term / 2 * (_dirichlet(offset_bins - order, count) + _dirichlet(offset_bins + order, count))
    return total


@lru_cache(maxsize=8)
def _lobe_on_bin(count: int) -> Complex:
    """The lobe of a tone that falls on a bin, shape ``(1, 2·HALF_LOBE + 1)``."""
    return kernel(np.arange(-HALF_LOBE, HALF_LOBE + 1, dtype=np.float64)[np.newaxis], count)


def _dirichlet(offset: NDArray[np.float64], count: int) -> Complex:
    denominator = np.sin(np.pi * offset / count)
    on_bin = np.abs(denominator) < 1e-14
    ratio = np.where(on_bin, count, np.sin(np.pi * offset) / np.where(on_bin, 1.0, denominator))
    return np.asarray(ratio * np.exp(-1j * np.pi * offset * (count - 1) / count))


@dataclass(slots=True)
class Spectrum:
    """Windowed bins of one channel from 0 Hz up to ``bins.size - 1``, and what they came from."""

    bins: Complex
    count: int
    sample_rate: float

    @property
    def bin_hz(self) -> float:
        """Distance of two bins in Hz."""
        return self.sample_rate / self.count

    def power(self, low_hz: float, high_hz: float) -> float:
        """Mean square of all that lies from ``low_hz`` to ``high_hz``, in V²; 0 Hz is never included."""
        first = max(1, math.ceil(low_hz / self.bin_hz - 1e-9))
        last = min(self.bins.size - 1, math.floor(high_hz / self.bin_hz + 1e-9))
        if last < first:
            return 0.0
        part = self.bins[first : last + 1]
        energy = float(np.vdot(part, part).real)
        return 2 * energy / self.count**2 / _MEAN_SQUARE

    def noise_at(self, at_bins: NDArray[np.float64], reach: int) -> NDArray[np.float64]:
        """Mean square of noise in the phasors fitted at ``at_bins``, in V², from so many bins on either side of each.

        Tones must have been removed.
        """
        energy = np.concatenate([[0.0], np.cumsum(self.bins.real**2 + self.bins.imag**2)])
        centre = np.rint(at_bins).astype(np.int64)
        low, high = np.clip(centre - reach, 1, energy.size - 2), np.clip(centre + reach + 1, 2, energy.size - 1)
        mean = (energy[high] - energy[low]) / (high - low)
        return np.asarray(_NOISE_BINS_A_TONE * 2 * mean / self.count**2 / _MEAN_SQUARE)

    def fit_phasors(self, at_bins: NDArray[np.float64]) -> Complex:
        """Least-squares amplitude of a phasor at each of ``at_bins``, shape ``(k,)``; twice its size is the peak."""
        near, shapes = self._lobes(at_bins)
        energy = np.sum(np.abs(shapes) ** 2, axis=1)
        return np.asarray(np.sum(shapes.conj() * self.bins[near], axis=1) / energy)

    def remove_phasors(self, at_bins: NDArray[np.float64], phasors: Complex) -> None:
        """Take tones out of the bins; what stays is everything else."""
        near, shapes = self._lobes(at_bins)
        np.subtract.at(self.bins, near, shapes * phasors[:, np.newaxis])

    def refine(self, at_bin: float) -> float:
        """Return the exact position of the tone near ``at_bin``, by Gauss–Newton on the window's shape.

        This is the four-parameter sine fit of IEEE Std 1057 (frequency, amplitude, phase; the offset stands apart
        in the spectrum), weighted by the window so that harmonics and DC do not pull at the frequency.
        """
        position, step = at_bin, 1e-4
        for _ in range(25):
            middle = np.array([position])
            near, shapes = self._lobes(middle)
            seen, shape = self.bins[near][0], shapes[0]
            phasor = np.vdot(shape, seen) / np.vdot(shape, shape)
            offsets = near[0] - position
            slope = (kernel(offsets - step, self.count) - kernel(offsets + step, self.count)) / (2 * step)
            columns = np.stack([shape, 1j * shape, phasor * slope], axis=1)
            residual = seen - phasor * shape
            real = np.concatenate([columns.real, columns.imag])
            change = np.linalg.lstsq(real, np.concatenate([residual.real, residual.imag]), rcond=None)[0][2]
            position += float(np.clip(change, -0.5, 0.5))
            if abs(change) < 1e-11:
                break
        return position

    def _lobes(self, at_bins: NDArray[np.float64]) -> tuple[NDArray[np.int64], Complex]:
        centre = np.rint(at_bins).astype(np.int64)
        near = centre[:, np.newaxis] + np.arange(-HALF_LOBE, HALF_LOBE + 1)
        if np.array_equal(centre, at_bins):  # a coherent record: every lobe has the same shape
            shapes = np.repeat(_lobe_on_bin(self.count), at_bins.size, axis=0)
        else:
            shapes = kernel(near - at_bins[:, np.newaxis], self.count)
        # Bins that do not exist (a lobe at 0 Hz or at the upper end) have no say and take nothing.
        shapes[(near < 0) | (near >= self.bins.size)] = 0.0
        return np.clip(near, 0, self.bins.size - 1), shapes


def windowed_spectrum(volts: NDArray[np.float64], sample_rate: float, up_to_hz: float) -> Spectrum:
    """Return the windowed bins of ``volts``, shape ``(n,)`` with ``n >= 64``, from 0 Hz to a lobe past ``up_to_hz``."""
    count = volts.size
    raw = np.fft.rfft(volts)
    wanted = min(raw.size, math.ceil(up_to_hz * count / sample_rate) + 2 * HALF_LOBE)
    # Bins before 0 Hz and past half the sample rate are the mirror images of those inside.
    before = raw[_REACH:0:-1].conj()
    beyond = np.arange(raw.size, wanted + _REACH)
    padded = np.concatenate([before, raw[: wanted + _REACH], raw[count - beyond].conj()])
    bins: Complex = np.multiply(padded[_REACH : _REACH + wanted], TERMS[0])
    both = np.empty_like(bins)
    for order in range(1, len(TERMS)):
        np.add(
            padded[_REACH - order : _REACH - order + wanted],
            padded[_REACH + order : _REACH + order + wanted],
            out=both,
        )
        both *= TERMS[order] / 2
        bins += both
    return Spectrum(bins, count, sample_rate)


def level_columns(
    volts: NDArray[np.float64],
    sample_rate: float,
    low_hz: float,
    high_hz: float,
    reference_volts: float,
    columns: int = 700,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return frequencies and levels for a logarithmic chart: the highest bin in each column, in dB re a tone's rms.

    Columns narrower than a bin are left out, so that every point is a bin that exists. Levels end at −180 dB.
    """
    spectrum = windowed_spectrum(volts - float(np.mean(volts)), sample_rate, high_hz)
    peak = np.abs(spectrum.bins) * 2 / (spectrum.count * TERMS[0])
    level = 20 * np.log10(np.maximum(peak / (math.sqrt(2) * reference_volts), 1e-9))
    first = max(1, math.ceil(low_hz / spectrum.bin_hz))
    last = min(spectrum.bins.size - 1, math.floor(high_hz / spectrum.bin_hz))
    edges = np.unique(np.round(np.geomspace(first, last + 1, columns + 1)).astype(np.int64))
    highest = [int(start + np.argmax(level[start:end])) for start, end in itertools.pairwise(edges)]
    return np.array(highest) * spectrum.bin_hz, level[highest]
