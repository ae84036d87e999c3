"""THD, THD+N and harmonics of a steady tone, for records of any length, phase, offset and frequency.

Definitions (usage varies, so both figures are always given and named):

* **THD**: root of the power in harmonics 2, 3, … up to the band's upper limit, over the fundamental. Of noise that
  falls on harmonics nothing counts.
* **THD+N**: root of all power in the band but the fundamental, over the root of the whole in the band
  (as in AES17 practice, from memory). DC counts in neither.

Two ways lead to the same figures. A record of many cycles is read from a windowed spectrum
(:mod:`~rulvek.core.signals.spectrum`); in one of few cycles the lobes of neighbouring harmonics would overlap, so
all harmonics are fitted jointly in time (:mod:`~rulvek.core.signals.sine_fit`) and only the rest goes through the
spectrum. The tests hold one against the other.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture, BadInput
from rulvek.core.signals import sine_fit
from rulvek.core.signals.power import mean_square
from rulvek.core.signals.spectrum import HALF_LOBE, Spectrum, windowed_spectrum

FEWEST_CYCLES = 1.5
SPECTRAL_CYCLES = 20  # lobes are ±7 bins wide and must not touch
FEWEST_SAMPLES = 64
TONE_SHARE = 0.1  # a steady tone holds at least a tenth of the power in the band
NOT_THERE_DB = -240.0
_REFINING_HARMONICS = 20
_ABOVE_NOISE = 8.0  # noise alone is so strong at one harmonic of 3000, and a harmonic that is weaker counts for little
_NOISE_BINS = 40  # on either side of a harmonic, from which the noise on it is told
FOLLOWS_ABOVE_HZ = 4000.0
WANTED_HARMONICS = 5
FEWEST_HARMONICS = 3
FLAT_SHARE = 0.46  # of its rate, up to which a recorder shows a harmonic in full (common practice, no source)
_DC = np.zeros(1)


@dataclass(frozen=True, slots=True)
class Band:
    """The band, in Hz, within which THD+N is measured."""

    low_hz: float = 10.0
    high_hz: float = 20_000.0

    def __post_init__(self) -> None:
        if not (math.isfinite(self.low_hz) and math.isfinite(self.high_hz) and 0 <= self.low_hz < self.high_hz):
            raise BadInput(
                f"The band must run upwards from 0 Hz or more, got {self.low_hz:g} to {self.high_hz:g} Hz.",
                field="band",
            )


def band_for_tone(band: Band, tone_hz: float) -> Band:
    """The band in which a tone's THD+N and power are taken: it follows a tone above 4 kHz up to its fifth harmonic.

    In a band that ends at 20 kHz whatever the tone, a clipped tone of 7 kHz and more would read as undistorted, and
    far more power would be found at the limit (ours; AES17 ends at 20 kHz, from memory).

    >>> band_for_tone(Band(), 1000.0).high_hz, band_for_tone(Band(), 15_000.0).high_hz
    (20000.0, 75000.0)
    """
    if tone_hz <= FOLLOWS_ABOVE_HZ:
        return band
    return Band(band.low_hz, max(band.high_hz, WANTED_HARMONICS * tone_hz))


def recorded_band(band: Band, tone_hz: float, sample_rate: float) -> Band:
    """What a record of some rate holds of the band for a tone.

    Raises:
        BadCapture: not even the third harmonic lies below half the sample rate: of distortion nothing could be told.
    """
    wanted = band_for_tone(band, tone_hz)
    flat = max(band.high_hz, FEWEST_HARMONICS * tone_hz, FLAT_SHARE * sample_rate)
    high = min(wanted.high_hz, 0.499 * sample_rate, flat)
    if tone_hz > FOLLOWS_ABOVE_HZ and high < FEWEST_HARMONICS * tone_hz:
        raise BadCapture(
            f"At {sample_rate / 1000:g} kHz a record does not hold the third harmonic of {tone_hz:g} Hz: "
            "its distortion cannot be read.",
            todo=f"Record at {2.1 * FEWEST_HARMONICS * tone_hz / 1000:.0f} kHz or more, or take a lower tone.",
            field="sample_rate",
        )
    return Band(band.low_hz, high)


@dataclass(frozen=True, slots=True)
class ToneAnalysis:
    """What one channel's steady tone holds.

    Attributes:
        fundamental_hz: Frequency of the fundamental.
        fundamental_volts: Its rms value.
        rms_volts: Of everything, DC included: what heats the load.
        band_volts: Of what lies in the band: what counts as output.
        dc_volts: The offset.
        thd: Ratio to the fundamental, the noise on the harmonics left out.
        thd_n: Ratio to the whole in the band, 0 to 1.
        harmonics: rms volts of harmonics 2, 3, … within the band.
    """

    fundamental_hz: float
    fundamental_volts: float
    rms_volts: float
    band_volts: float
    dc_volts: float
    thd: float
    thd_n: float
    harmonics: tuple[float, ...]

    @property
    def outside_share(self) -> float:
        """Share of the power that lies outside of the band, 0 to 1: carrier residue, an offset."""
        return max(0.0, 1 - (self.band_volts / self.rms_volts) ** 2)

    @property
    def harmonics_db(self) -> tuple[float, ...]:
        """Harmonics 2, 3, … in dB re the fundamental, −240 where nothing is left."""
        return tuple(
            max(NOT_THERE_DB, 20 * math.log10(volts / self.fundamental_volts)) if volts > 0 else NOT_THERE_DB
            for volts in self.harmonics
        )


@dataclass(frozen=True, slots=True)
class _Parts:
    """Mean squares, V²: by harmonic from the first on, of noise on each, of the rest in the band, and of everything."""

    hz: float
    dc: float
    components: NDArray[np.float64]
    noise: NDArray[np.float64]
    rest: float
    everything: float


def analyse_tone(
    volts: NDArray[np.float64],
    sample_rate: float,
    *,
    band: Band | None = None,
    tone_hz: float | None = None,
    coherent: bool = False,
) -> ToneAnalysis:
    """Analyse one channel that holds a steady, possibly heavily distorted tone.

    Args:
        volts: Samples, shape ``(n,)``, finite.
        sample_rate: Hz.
        band: For THD+N and the harmonics; 10 Hz to 20 kHz when left out, ending below half the sample rate.
        tone_hz: Where the tone is expected (within 3 %, or half a cycle over the record); the strongest component
            when left out.
        coherent: The source and the capture share a clock, so that ``tone_hz`` is exact and is not refined.

    Raises:
        BadInput: a band that ends above half the sample rate, or a tone outside of the band.
        BadCapture: all zeros, too short, or no steady tone where one was expected.
    """
    band = band or Band(high_hz=min(20_000.0, 0.499 * sample_rate))
    _check(volts, sample_rate, band, tone_hz, coherent)
    spectrum = windowed_spectrum(volts, sample_rate, band.high_hz)
    offset = spectrum.fit_phasors(_DC)
    spectrum.remove_phasors(_DC, offset)
    near = _strongest(spectrum, band) if tone_hz is None else tone_hz
    if near * volts.size / sample_rate >= SPECTRAL_CYCLES:
        parts = _from_spectrum(volts, float(offset[0].real), spectrum, band, near, tone_hz, coherent)
    else:
        parts = _from_joint_fit(volts, sample_rate, band, tone_hz, coherent)
    return _figures(parts, tone_hz)


def _figures(parts: _Parts, tone_hz: float | None) -> ToneAnalysis:
    fundamental, harmonics = float(parts.components[0]), parts.components[1:]
    distortion = float(np.sum(harmonics))
    whole = fundamental + distortion + parts.rest
    clear = harmonics > _ABOVE_NOISE * parts.noise[1:]
    told = float(np.sum((harmonics - parts.noise[1:])[clear]))
    if fundamental < TONE_SHARE * whole:
        where = f"at {tone_hz:g} Hz" if tone_hz is not None else "in the band"
        raise BadCapture(
            f"There is no steady tone {where}: it would hold only {fundamental / whole:.1%} of the power.",
            todo="Give the frequency that was played, or record a steady tone.",
            field="tone",
        )
    return ToneAnalysis(
        fundamental_hz=parts.hz,
        fundamental_volts=math.sqrt(fundamental),
        rms_volts=math.sqrt(parts.everything),
        band_volts=math.sqrt(min(whole, parts.everything)),
        dc_volts=parts.dc,
        thd=math.sqrt(told / fundamental),
        thd_n=math.sqrt((distortion + parts.rest) / whole),
        harmonics=tuple(float(v) for v in np.sqrt(harmonics)),
    )


def _check(volts: NDArray[np.float64], sample_rate: float, band: Band, tone_hz: float | None, coherent: bool) -> None:
    if band.high_hz > sample_rate / 2:
        raise BadInput(
            f"The band ends at {band.high_hz:g} Hz, above half the sample rate ({sample_rate / 2:g} Hz).",
            todo="Lower the band's upper limit or record at a higher rate.",
            field="band_high",
        )
    if tone_hz is not None and not band.low_hz <= tone_hz <= band.high_hz:
        raise BadInput(
            f"The tone, {tone_hz:g} Hz, lies outside of the band of {band.low_hz:g} to {band.high_hz:g} Hz.",
            field="tone",
        )
    if volts.size < FEWEST_SAMPLES:
        raise BadCapture(
            f"The capture has {volts.size} samples; at least {FEWEST_SAMPLES} are needed.", field="samples"
        )
    if volts[1] == volts[0] and not np.any(volts != volts[0]):
        what = "all zeros" if volts[0] == 0 else f"a constant {volts[0]:g} V"
        raise BadCapture(f"The channel is {what}: there is no signal to measure.", field="samples")
    # A tone whose frequency is known exactly needs no more than the one cycle of the shortest burst.
    fewest = 1 - 1e-9 if coherent else FEWEST_CYCLES
    if tone_hz is not None and tone_hz * volts.size / sample_rate < fewest:
        raise BadCapture(
            f"The capture holds {tone_hz * volts.size / sample_rate:.2f} cycles of {tone_hz:g} Hz; "
            f"at least {fewest:g} are needed.",
            field="samples",
        )


def _strongest(spectrum: Spectrum, band: Band) -> float:
    last = min(spectrum.bins.size - 1, math.floor(band.high_hz / spectrum.bin_hz))
    first = min(max(1, math.ceil(band.low_hz / spectrum.bin_hz)), last)
    part = spectrum.bins[first : last + 1]
    return (first + int(np.argmax(part.real**2 + part.imag**2))) * spectrum.bin_hz


def _from_spectrum(
    volts: NDArray[np.float64],
    offset: float,
    spectrum: Spectrum,
    band: Band,
    near_hz: float,
    tone_hz: float | None,
    coherent: bool,
) -> _Parts:
    if tone_hz is None:
        position = spectrum.refine(near_hz / spectrum.bin_hz)
    elif coherent:
        position = tone_hz / spectrum.bin_hz
    else:
        around = Band(max(band.low_hz, tone_hz * 0.97 - spectrum.bin_hz), tone_hz * 1.03 + spectrum.bin_hz)
        position = spectrum.refine(_strongest(spectrum, around) / spectrum.bin_hz)
    in_band = max(1, math.floor(band.high_hz / (position * spectrum.bin_hz) + 1e-9))
    # One harmonic more, if the record has it: its lobe may reach into the band.
    fitted = max(1, min(in_band + 1, math.floor((spectrum.bins.size - 1 - HALF_LOBE) / position)))
    at_bins = np.arange(1, fitted + 1, dtype=np.float64) * position
    phasors = spectrum.fit_phasors(at_bins)
    spectrum.remove_phasors(at_bins, phasors)
    return _Parts(
        hz=position * spectrum.bin_hz,
        dc=offset,
        components=2 * np.abs(phasors[:in_band]) ** 2,
        noise=spectrum.noise_at(at_bins[:in_band], min(_NOISE_BINS, max(1, int(position / 2)))),
        rest=spectrum.power(band.low_hz, band.high_hz),
        everything=mean_square(volts),
    )


def _from_joint_fit(
    volts: NDArray[np.float64], sample_rate: float, band: Band, tone_hz: float | None, coherent: bool
) -> _Parts:
    cycle = sample_rate / volts.size  # Hz of one cycle over the record
    if tone_hz is not None and coherent:
        hz = tone_hz
    else:
        if tone_hz is None:
            low, high = max(band.low_hz, FEWEST_CYCLES * cycle), 2 * SPECTRAL_CYCLES * cycle
        else:
            low, high = tone_hz * 0.97 - 0.5 * cycle, tone_hz * 1.03 + 0.5 * cycle
        high = min(high, 0.45 * sample_rate)
        if low >= high:
            raise BadCapture(
                f"The capture is too short for a tone in the band: it needs {FEWEST_CYCLES:g} cycles.",
                field="samples",
            )
        near = sine_fit.coarse_frequency(volts, sample_rate, low, high)
        few = max(1, min(_REFINING_HARMONICS, math.floor(0.45 * sample_rate / near)))
        hz = sine_fit.refine_frequency(volts, sample_rate, near, few)
        if not low - cycle <= hz <= high + cycle:
            raise BadCapture("There is no steady tone in the capture that could be followed.", field="tone")
    fitted = max(1, math.floor(0.45 * sample_rate / hz))
    phasors = sine_fit.fit_harmonics(volts, sample_rate, hz, fitted)
    rest = volts - sine_fit.synthesise(phasors, hz, sample_rate, volts.size)
    powers = 2 * np.abs(phasors) ** 2
    in_band = max(1, min(fitted, math.floor(band.high_hz / hz + 1e-9)))
    return _Parts(
        hz=hz,
        dc=float(phasors[0].real),
        components=powers[1 : in_band + 1],
        noise=np.full(in_band, 2 * float(np.mean(rest**2)) / volts.size),
        rest=windowed_spectrum(rest, sample_rate, band.high_hz).power(band.low_hz, band.high_hz),
        everything=float(powers[0] / 2 + np.sum(powers[1:]) + np.mean(rest**2)),
    )
