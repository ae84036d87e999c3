"""The measuring core against general libraries: SciPy's windows, peak finders and estimators of spectra."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import signal

from rulvek.core.signals.distortion import Band, analyse_tone
from rulvek.core.signals.power import mean_square
from rulvek.core.signals.spectrum import HALF_LOBE, TERMS, kernel, level_columns, lobes, windowed_spectrum
from tests.examples import examples

RATE = 48_000.0


def scipy_window(count: int) -> np.ndarray:
    """The same cosine sum as ``scipy.signal.windows.general_cosine`` makes it, periodic."""
    return np.asarray(signal.windows.general_cosine(count, [abs(term) for term in TERMS], sym=False))


@pytest.mark.parametrize("count", [64, 257, 1000, 4095])
def test_windowed_bins_are_those_of_scipys_window(count: int) -> None:
    volts = np.random.default_rng(count).normal(size=count) + 3.0
    ours = windowed_spectrum(volts, RATE, RATE / 2).bins
    theirs = np.fft.rfft(volts * scipy_window(count))
    assert ours.size == theirs.size
    assert np.allclose(ours, theirs, atol=1e-10 * count)


@pytest.mark.parametrize("offset", [0.0, 0.37, -2.5, 6.2])
def test_kernel_equals_the_transform_of_scipys_window(offset: float) -> None:
    count, bin_number = 1024, 200
    phasor = np.exp(2j * np.pi * (bin_number - offset) * np.arange(count) / count)
    theirs = np.fft.fft(phasor * scipy_window(count))[bin_number]
    assert kernel(np.array([offset]), count)[0] == pytest.approx(theirs, abs=1e-9 * count)


@pytest.mark.parametrize("count", [64, 1023, 19_200])
def test_lobes_equal_the_transform_of_scipys_window(count: int) -> None:
    positions = np.array([20.0, 20.5, 21.37, 25.999])
    near = np.rint(positions).astype(int)[:, np.newaxis] + np.arange(-HALF_LOBE, HALF_LOBE + 1)
    ours = lobes(near[:, 0] - positions, count)
    for place, bins, shape in zip(positions, near, ours, strict=True):
        phasor = np.exp(2j * np.pi * place * np.arange(count) / count)
        theirs = np.fft.fft(phasor * scipy_window(count))[bins % count]
        assert np.allclose(shape, theirs, atol=1e-10 * count)


def test_noise_in_a_band_agrees_with_welchs_method() -> None:
    """Coloured noise under a tone: THD+N against ``scipy.signal.welch`` on the noise alone."""
    rng = np.random.default_rng(11)
    taps = signal.firwin(101, 3000, fs=RATE)
    noise = signal.lfilter(taps, 1.0, rng.normal(0, 0.05, 480_000))
    t = np.arange(noise.size) / RATE
    band = Band(100.0, 2000.0)
    found = analyse_tone(5 * np.sin(2 * np.pi * 777.7 * t) + noise, RATE, band=band)
    hz, density = signal.welch(noise, RATE, nperseg=8192)
    inside = (hz >= band.low_hz) & (hz <= band.high_hz)
    expected = math.sqrt(float(np.trapezoid(density[inside], hz[inside])) / 12.5)
    assert found.thd_n == pytest.approx(expected, rel=0.03)


def test_harmonics_agree_with_a_long_coherent_fft() -> None:
    """At a coherent frequency the plain FFT of whole periods is exact; an odd length must read the same wave alike."""
    hz = 1000.0
    wave = np.tanh(1.3 * np.sin(2 * np.pi * hz * np.arange(48_000) / RATE) + 0.2)
    lines = np.abs(np.fft.rfft(wave)) / wave.size * 2
    ours = analyse_tone(wave[: 48 * 311 + 17], RATE)
    for order in range(2, 11):
        expected = 20 * math.log10(lines[order * 1000] / lines[1000])
        assert ours.harmonics_db[order - 2] == pytest.approx(expected, abs=0.01)
    assert ours.dc_volts == pytest.approx(lines[0] / 2, rel=1e-6)


def test_chart_peaks_are_where_scipy_finds_them() -> None:
    t = np.arange(96_000) / 96_000.0
    volts = np.sin(2 * np.pi * 500 * t) + 0.01 * np.sin(2 * np.pi * 1500 * t) + 0.001 * np.sin(2 * np.pi * 3500 * t)
    hz, db = level_columns(volts, 96_000.0, 10.0, 20_000.0, 2**-0.5)
    peaks, _ = signal.find_peaks(db, height=-100, prominence=30)
    assert list(np.round(hz[peaks])) == pytest.approx([500, 1500, 3500], rel=0.01)
    assert list(db[peaks]) == pytest.approx([0, -40, -60], abs=0.1)


@examples(25)
@given(
    hz=st.floats(200.0, 4000.0),
    phase=st.floats(0.0, 6.28),
    scale=st.floats(1e-3, 1e3),
    clip=st.floats(0.3, 0.98),
)
def test_figures_do_not_depend_on_scale_sign_or_direction_of_time(
    hz: float, phase: float, scale: float, clip: float
) -> None:
    t = np.arange(19_200) / 96_000.0
    wave = np.clip(np.sin(2 * np.pi * hz * t + phase), -clip, 0.9 * clip)
    base = analyse_tone(wave, 96_000.0)
    for other in (scale * wave, -wave, wave[::-1]):
        same = analyse_tone(other, 96_000.0)
        assert same.thd == pytest.approx(base.thd, rel=1e-4)
        assert same.thd_n == pytest.approx(base.thd_n, rel=1e-4)
        assert same.fundamental_hz == pytest.approx(base.fundamental_hz, rel=1e-8)
    assert mean_square(scale * wave) == pytest.approx(scale**2 * mean_square(wave), rel=1e-9)


@examples(25)
@given(hz=st.floats(100.0, 5000.0), level_db=st.floats(-100.0, -20.0), order=st.integers(2, 5))
def test_a_single_harmonic_is_found_from_minus_20_to_minus_100_db(hz: float, level_db: float, order: int) -> None:
    if order * hz > 19_000:
        order = 2
    t = np.arange(38_400) / 96_000.0
    wave = np.sin(2 * np.pi * hz * t) + 10 ** (level_db / 20) * np.sin(2 * np.pi * order * hz * t + 1.0)
    found = analyse_tone(wave, 96_000.0)
    if (order * hz) <= 20_000 and len(found.harmonics_db) >= order - 1:
        assert found.harmonics_db[order - 2] == pytest.approx(level_db, abs=0.01)
        assert 20 * math.log10(found.thd) == pytest.approx(level_db, abs=0.02)
