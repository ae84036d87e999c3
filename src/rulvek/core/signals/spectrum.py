"""A windowed spectrum in which tones that do not complete whole periods still stand apart.

The window is a seven-term cosine sum whose side lobes stay below −180 dB (Albrecht, "A family of cosine-sum
windows for high-resolution measurements", ICASSP 2001; coefficients from memory, the side lobes are checked
in the tests).
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


def lobes(first_offset: NDArray[np.float64], count: int) -> Complex:
    """Return :func:`kernel` at ``HALF_LOBE`` bins on either side of each tone, shape ``(k, 2·HALF_LOBE + 1)``.

    The same figures for a fraction of the work: bins lie one apart, so that the sums of all of a tone's bins share
    the same few terms, whose sines differ in sign alone and whose turns are those of one table.

    Args:
        first_offset: From each tone to the first of its bins, shape ``(k,)``.
        count: Samples of the record.

    >>> offset = np.array([-6.75])
    >>> np.allclose(lobes(offset, 1000), kernel(offset + np.arange(2 * HALF_LOBE + 1), 1000), rtol=1e-12)
    True
    """
    steps = np.arange(-_REACH, 2 * HALF_LOBE + 1 + _REACH)
    offsets = first_offset[:, np.newaxis] + steps
    denominator = np.sin(np.pi / count * offsets)
    on_bin = np.abs(denominator) < 1e-14
    numerator = np.sin(np.pi * first_offset)[:, np.newaxis] * (1 - 2 * (steps % 2))
    ratio = np.where(on_bin, count, numerator / np.where(on_bin, 1.0, denominator))
    terms = ratio * np.exp(-1j * np.pi * (count - 1) / count * steps)
    found = TERMS[0] * terms[:, _REACH : _REACH + 2 * HALF_LOBE + 1]
    for order in range(1, len(TERMS)):
        low, high = _REACH - order, _REACH + order
        found += TERMS[order] / 2 * (terms[:, low : low + found.shape[1]] + terms[:, high : high + found.shape[1]])
    return np.asarray(found * np.exp(-1j * np.pi * (count - 1) / count * first_offset)[:, np.newaxis])


@lru_cache(maxsize=8)
def _lobe_on_bin(count: int) -> Complex:
    """The lobe of a tone that falls on a bin, shape ``(1, 2·HALF_LOBE + 1)``."""
    return lobes(np.array([-float(HALF_LOBE)]), count)


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
    _found: tuple[NDArray[np.float64], NDArray[np.int64], Complex] | None = None

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
        last = self.bins.size - 1
        centre = np.rint(at_bins).astype(np.int64)
        low, high = np.clip(centre - reach, 1, last), np.clip(centre + reach, 1, last)
        near = low[:, np.newaxis] + np.arange(2 * reach + 1)
        bins = self.bins[np.minimum(near, last)]
        energy = np.where(near <= high[:, np.newaxis], bins.real**2 + bins.imag**2, 0.0)
        mean = np.sum(energy, axis=1) / (high - low + 1)
        return np.asarray(_NOISE_BINS_A_TONE * 2 * mean / self.count**2 / _MEAN_SQUARE)

    def fit_phasors(self, at_bins: NDArray[np.float64]) -> Complex:
        """Least-squares amplitude of a phasor at each of ``at_bins``, shape ``(k,)``; twice its size is the peak."""
        near, shapes = self._lobes(at_bins)
        self._found = at_bins, near, shapes
        energy = np.sum(np.abs(shapes) ** 2, axis=1)
        return np.asarray(np.sum(shapes.conj() * self.bins[near], axis=1) / energy)

    def remove_phasors(self, at_bins: NDArray[np.float64], phasors: Complex) -> None:
        """Take tones out of the bins; what stays is everything else."""
        known = self._found is not None and self._found[0] is at_bins  # they were just fitted
        near, shapes = self._found[1:] if known and self._found is not None else self._lobes(at_bins)
        np.subtract.at(self.bins, near, shapes * phasors[:, np.newaxis])

    def refine(self, at_bin: float) -> float:
        """Return the exact position of the tone near ``at_bin``, by Gauss–Newton on the window's shape.

        This is the four-parameter sine fit of IEEE Std 1057 (frequency, amplitude, phase; the offset stands apart
        in the spectrum), weighted by the window so that harmonics and DC do not pull at the frequency.
        """
        position, step = at_bin, 1e-4
        for _ in range(25):
            near, (shape, beyond, before) = self._lobes(
                np.array([position, position + step, position - step]), position
            )
            seen = self.bins[near[0]]
            phasor = np.vdot(shape, seen) / np.vdot(shape, shape)
            slope = (beyond - before) / (2 * step)
            columns = np.stack([shape, 1j * shape, phasor * slope], axis=1)
            residual = seen - phasor * shape
            real = np.concatenate([columns.real, columns.imag])
            change = np.linalg.lstsq(real, np.concatenate([residual.real, residual.imag]), rcond=None)[0][2]
            position += float(np.clip(change, -0.5, 0.5))
            if abs(change) < 1e-11:
                break
        return position

    def _lobes(
        self, at_bins: NDArray[np.float64], around: NDArray[np.float64] | float | None = None
    ) -> tuple[NDArray[np.int64], Complex]:
        """The bins of each tone's lobe, and its shape in them; bins around another place where one is given."""
        centre = np.rint(at_bins if around is None else np.full_like(at_bins, around)).astype(np.int64)
        near = centre[:, np.newaxis] + np.arange(-HALF_LOBE, HALF_LOBE + 1)
        if np.array_equal(centre, at_bins):  # a coherent record: every lobe has the same shape
            shapes = np.repeat(_lobe_on_bin(self.count), at_bins.size, axis=0)
        else:
            shapes = lobes(near[:, 0] - at_bins, self.count)
        # Bins that do not exist (a lobe at 0 Hz or at the upper end) have no say and take nothing.
        shapes[(near < 0) | (near >= self.bins.size)] = 0.0
        return np.clip(near, 0, self.bins.size - 1), shapes


def windowed_spectrum(volts: NDArray[np.float64], sample_rate: float, up_to_hz: float) -> Spectrum:
    """Return the windowed bins of ``volts``, shape ``(n,)`` with ``n >= 64``, from 0 Hz to a lobe past ``up_to_hz``."""
    count = volts.size
    wanted = math.ceil(up_to_hz * count / sample_rate) + 2 * HALF_LOBE
    return Spectrum(np.fft.rfft(volts * _window(count))[:wanted], count, sample_rate)


@lru_cache(maxsize=4)  # a bench's captures are of few lengths
def _window(count: int) -> NDArray[np.float64]:
    """The window, shape ``(count,)``: a sum of cosines of whole turns is a Chebyshev series in the first of them."""
    half = np.polynomial.chebyshev.chebval(np.cos(2 * np.pi / count * np.arange(count // 2 + 1)), TERMS)
    return np.concatenate([half, half[(count - 1) // 2 : 0 : -1]])


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
