"""Clipped sines and square waves: values from definitions integrated outside of the project's code.

Sources: the Fourier series of a hard-clipped sine in closed form (any text on Fourier series), checked here once
against numerical integration by ``scipy.integrate``; of the square wave π²/8 − 1 (sum of odd inverse squares).
"""

import math

import numpy as np
import pytest
from scipy.integrate import quad
from scipy.optimize import brentq

from rulvek.core.signals.distortion import Band, analyse_tone
from rulvek.core.signals.power import mean_square as measured_square


def harmonic(clip: float, order: int) -> float:
    """Amplitude of an odd harmonic of sin clipped at ±clip (0 < clip ≤ 1), by its closed form."""
    angle = math.asin(clip)
    if order == 1:
        return 2 / math.pi * (angle + clip * math.sqrt(1 - clip**2))
    n = order
    inside = math.sin((n - 1) * angle) / (n - 1) - math.sin((n + 1) * angle) / (n + 1)
    return 2 / math.pi * inside + 4 / math.pi * clip * math.cos(n * angle) / n


def thd(clip: float, harmonics: int) -> float:
    return math.sqrt(sum(harmonic(clip, n) ** 2 for n in range(3, harmonics + 1, 2))) / harmonic(clip, 1)


def mean_square(clip: float) -> float:
    angle = math.asin(clip)
    return 2 / math.pi * (angle / 2 - math.sin(2 * angle) / 4 + clip**2 * (math.pi / 2 - angle))


@pytest.mark.parametrize("clip", [0.95, 0.5])
@pytest.mark.parametrize("order", [1, 3, 7])
def test_closed_form_agrees_with_numerical_integration(clip: float, order: int) -> None:
    def integrand(x: float) -> float:
        return max(-clip, min(clip, math.sin(x))) * math.sin(order * x)

    kinks = [math.asin(clip), math.pi - math.asin(clip)]
    value, _ = quad(integrand, 0, math.pi, points=kinks, limit=200)
    assert harmonic(clip, order) == pytest.approx(2 / math.pi * value, abs=1e-9)


def clip_for(wanted_thd: float, harmonics: int) -> float:
    return float(brentq(lambda c: thd(c, harmonics) - wanted_thd, 1e-4, 1 - 1e-9))


@pytest.mark.parametrize("percent", [0.1, 0.3, 1.0, 3.0, 10.0, 20.0, 30.0, 40.0, 45.0])
@pytest.mark.parametrize(
    ("hz", "seconds", "rate"),
    [(997.3, 0.37, 96_000.0), (997.3, 0.37, 192_000.0), (997.3, 0.0113, 192_000.0), (1001.7, 1.0, 44_100.0)],
)
def test_thd_from_a_tenth_of_a_percent_up(percent: float, hz: float, seconds: float, rate: float) -> None:
    """Within 0.5 % of the value. Harmonics count up to 20 kHz on both sides."""
    count = math.floor(20_000 / hz)
    clip = clip_for(percent / 100, count)
    t = np.arange(int(seconds * rate)) / rate
    found = analyse_tone(np.clip(np.sin(2 * np.pi * hz * t + 0.7), -clip, clip), rate)
    assert found.thd == pytest.approx(percent / 100, rel=5e-3)


@pytest.mark.parametrize("cycles", [8.0, 12.6, 41.3])
def test_forty_eight_percent_of_a_bass_tone(cycles: float) -> None:
    """With all harmonics up to 20 kHz of 40 Hz a hard-driven sine comes close to the square wave's 48.34 %."""
    rate, hz, clip = 96_000.0, 40.0, 0.01
    t = np.arange(int(cycles / hz * rate)) / rate
    found = analyse_tone(np.clip(np.sin(2 * np.pi * hz * t), -clip, clip), rate)
    assert found.thd == pytest.approx(thd(clip, 500), rel=5e-3)
    assert 0.475 < found.thd < math.sqrt(math.pi**2 / 8 - 1)


def test_square_wave_limits() -> None:
    """48.34 % of the fundamental, 43.52 % of the whole: π²/8 − 1 and 1 − 8/π² (series of odd inverse squares)."""
    assert thd(1e-4, 200_001) == pytest.approx(0.4834, abs=1e-4)
    rate, hz = 192_000.0, 10.1
    t = np.arange(int(3.7 * rate)) / rate
    found = analyse_tone(np.clip(1e4 * np.sin(2 * np.pi * hz * t), -1, 1), rate, band=Band(5.0, 90_000.0))
    assert found.thd_n == pytest.approx(0.4352, rel=2e-3)


def test_power_at_one_and_ten_percent_over_the_onset_of_clipping() -> None:
    """1 % THD+N at 1.0475 × the power at the onset and +0.2513 dB drive, 10 % at 1.2889 × (from the definition)."""
    rate, hz = 192_000.0, 50.3
    t = np.arange(int(0.8 * rate)) / rate
    band = Band(10.0, 90_000.0)

    def reads(drive_db: float) -> tuple[float, float]:
        volts = np.clip(10 ** (drive_db / 20) * np.sin(2 * np.pi * hz * t), -1, 1)
        return analyse_tone(volts, rate, band=band).thd_n, measured_square(volts)

    found = {}
    for limit, highest in ((0.01, 0.6), (0.10, 2.5)):
        drive = brentq(lambda level, limit=limit: reads(level)[0] - limit, 0.05, highest, xtol=1e-4)
        found[limit] = drive, reads(drive)[1] / 0.5
    assert found[0.01][0] == pytest.approx(0.2513, abs=2e-3)
    assert found[0.01][1] == pytest.approx(1.0475, rel=5e-4)
    assert found[0.10][1] == pytest.approx(1.2889, rel=5e-4)
    assert found[0.10][1] / found[0.01][1] == pytest.approx(1.2305, rel=1e-3)


@pytest.mark.parametrize("clip", [0.99, 0.6, 0.2])
def test_power_of_a_clipped_sine(clip: float) -> None:
    """Within 0.01 % of the closed form."""
    rate = 192_000.0
    t = np.arange(int(0.37 * rate)) / rate
    volts = 20 * np.clip(np.sin(2 * np.pi * 997.3 * t + 2), -clip, clip)
    assert measured_square(volts) / 4 == pytest.approx(400 * mean_square(clip) / 4, rel=1e-4)


@pytest.mark.parametrize("rate", [44_100.0, 48_000.0, 96_000.0, 192_000.0])
def test_residual_of_a_clean_sine_at_an_awkward_frequency(rate: float) -> None:
    """997.3 Hz in 0.37 s: below −110 dB, with nothing known about the frequency."""
    t = np.arange(int(0.37 * rate)) / rate
    found = analyse_tone(31 * np.sin(2 * np.pi * 997.3 * t + 1.0) + 0.25, rate)
    assert 20 * math.log10(found.thd_n) < -110
    assert found.fundamental_hz == pytest.approx(997.3, abs=1e-6)
    assert found.rms_volts**2 == pytest.approx(31**2 / 2 + 0.25**2, rel=1e-4)
