"""THD and THD+N: limits, ends and failures. Values from outside stand in ``tests/reference``."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadCapture, BadInput
from rulvek.core.signals.clipping import SINE_SHARE, clipping
from rulvek.core.signals.distortion import Band, analyse_tone
from rulvek.core.signals.spectrum import HALF_LOBE, kernel, level_columns, windowed_spectrum
from tests.examples import examples


def wave(hz: float, seconds: float, rate: float, *, harmonics: dict[int, float] | None = None) -> np.ndarray:
    """A sine of 20 V peak with harmonics of given volts peak, odd phases, 0.5 V of DC."""
    t = np.arange(int(seconds * rate)) / rate
    volts = 20 * np.sin(2 * np.pi * hz * t + 0.3) + 0.5
    for order, peak in (harmonics or {}).items():
        volts += peak * np.sin(2 * np.pi * order * hz * t + order)
    return volts


@examples(30)
@given(hz=st.floats(30.0, 1200.0), cycles=st.floats(2.5, 120.0), rate=st.sampled_from([44_100.0, 96_000.0]))
def test_two_harmonics_are_found_whatever_the_length(hz: float, cycles: float, rate: float) -> None:
    found = analyse_tone(wave(hz, cycles / hz, rate, harmonics={2: 0.2, 3: 0.1}), rate)
    assert found.fundamental_hz == pytest.approx(hz, rel=1e-6)
    assert found.thd == pytest.approx(np.hypot(0.2, 0.1) / 20, rel=2e-3)
    assert found.dc_volts == pytest.approx(0.5, abs=1e-4)
    assert found.harmonics_db[0] == pytest.approx(-40.0, abs=0.02)


@pytest.mark.parametrize("cycles", [8.3, 19.9, 20.1, 60.7])
def test_both_ways_of_reading_agree(cycles: float) -> None:
    """Few cycles are fitted in time, many are read from the spectrum; the figures must not depend on it."""
    volts = np.clip(wave(1000.0, cycles / 1000.0, 96_000.0, harmonics={2: 0.4}), -17.0, 18.0)
    reference = np.clip(wave(1000.0, 0.5, 96_000.0, harmonics={2: 0.4}), -17.0, 18.0)
    short, long = analyse_tone(volts, 96_000.0), analyse_tone(reference, 96_000.0)
    assert short.thd == pytest.approx(long.thd, rel=2e-3)
    assert short.thd_n == pytest.approx(long.thd_n, rel=2e-3)
    assert short.rms_volts == pytest.approx(long.rms_volts, rel=5e-4)


def test_noise_counts_in_thd_n_only_and_only_in_the_band() -> None:
    rate, t = 96_000.0, np.arange(96_000) / 96_000.0
    noise = np.random.default_rng(7).normal(0.0, 0.02, t.size)
    volts = 10 * np.sin(2 * np.pi * 997.3 * t) + noise
    found = analyse_tone(volts, rate)
    # White noise of 0.02 V over 48 kHz leaves sqrt(20/48) of it in the band up to 20 kHz.
    expected = 0.02 * np.sqrt(19_990 / 48_000) / np.sqrt(50)
    assert found.thd_n == pytest.approx(expected, rel=0.02)
    assert found.thd < 0.15 * found.thd_n


def test_a_known_frequency_is_taken_as_it_is() -> None:
    volts = wave(1000.0, 0.2, 96_000.0, harmonics={3: 0.2})
    assert analyse_tone(volts, 96_000.0, tone_hz=1000.0, coherent=True).fundamental_hz == 1000.0
    assert analyse_tone(volts, 96_000.0, tone_hz=1010.0).fundamental_hz == pytest.approx(1000.0, rel=1e-9)
    short = volts[: 96 * 5]
    assert analyse_tone(short, 96_000.0, tone_hz=1000.0, coherent=True).thd == pytest.approx(0.01, rel=1e-3)


@pytest.mark.parametrize(
    ("volts", "options", "sentence"),
    [
        (np.zeros(4800), {}, "all zeros"),
        (np.full(4800, 3.0), {}, "constant 3 V"),
        (np.ones(10), {}, "10 samples"),
        (wave(1000.0, 0.1, 48_000.0), {"tone_hz": 440.0}, "no steady tone at 440 Hz"),
        (np.random.default_rng(1).normal(size=48_000), {}, "no steady tone"),
        (wave(20.0, 0.05, 48_000.0), {"tone_hz": 20.0}, "1.00 cycles"),
    ],
)
def test_says_what_cannot_be_measured(volts: np.ndarray, options: dict[str, float], sentence: str) -> None:
    with pytest.raises(BadCapture, match=sentence):
        analyse_tone(volts, 48_000.0, **options)  # type: ignore[arg-type]


def test_refuses_bands_and_tones_that_do_not_fit() -> None:
    volts = wave(1000.0, 0.1, 48_000.0)
    with pytest.raises(BadInput, match="above half the sample rate") as refused:
        analyse_tone(volts, 48_000.0, band=Band(10, 30_000))
    assert refused.value.field == "band_high"
    with pytest.raises(BadInput, match="outside of the band"):
        analyse_tone(volts, 48_000.0, band=Band(10, 500), tone_hz=1000.0)
    with pytest.raises(BadInput, match="run upwards"):
        Band(500, 100)


def test_side_lobes_stay_below_180_db() -> None:
    offsets = np.linspace(HALF_LOBE, 400, 40_001)
    height = np.abs(kernel(np.append(offsets, 0.0), 100_000))
    assert 20 * np.log10(np.max(height[:-1]) / height[-1]) < -179.0


def test_windowed_bins_hold_the_power_of_the_whole() -> None:
    """Parseval's theorem on white noise: what the window takes is given back."""
    volts = np.random.default_rng(3).normal(0.0, 2.0, 200_001)
    found = windowed_spectrum(volts, 48_000.0, 24_000.0).power(0.0, 24_000.0)
    assert found == pytest.approx(4.0, rel=0.02)


def test_chart_columns_show_the_peak_at_its_level() -> None:
    volts = wave(1000.0, 0.5, 96_000.0, harmonics={3: 0.2})
    hz, db = level_columns(volts, 96_000.0, 10.0, 20_000.0, 20 / np.sqrt(2))
    assert np.max(db) == pytest.approx(0.0, abs=0.1)
    assert hz[np.argmax(db)] == pytest.approx(1000.0, rel=0.01)
    third = db[np.abs(hz / 3000 - 1) < 0.01].max()
    assert third == pytest.approx(-40.0, abs=0.2)


def test_flat_tops_are_counted_by_polarity() -> None:
    volts = np.sin(np.linspace(0, 200 * np.pi, 1_000_000))
    assert clipping(volts).share == pytest.approx(SINE_SHARE, rel=1e-3)
    one_sided = clipping(np.minimum(volts, 0.5))
    # A sine is above half its peak for a third of the time; its range is now 1.5, so the lower margin shrinks too.
    assert one_sided.upper_share == pytest.approx(1 / 3 + 0.001, abs=2e-3)
    assert one_sided.lower_share < 0.1 * one_sided.upper_share
