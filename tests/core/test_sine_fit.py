"""Sine fits against a general optimiser."""

import numpy as np
import pytest
from scipy.optimize import least_squares

from rulvek.core.signals.sine_fit import coarse_frequency, fit_harmonics, refine_frequency, synthesise

RATE = 10_000.0
T = np.arange(1234) / RATE


def noisy() -> np.ndarray:
    return 3 * np.sin(2 * np.pi * 101.7 * T + 1.1) - 0.4 + np.random.default_rng(5).normal(0, 0.05, T.size)


def test_the_frequency_matches_scipys_four_parameter_fit() -> None:
    volts = noisy()
    best = least_squares(
        lambda p: p[0] * np.sin(2 * np.pi * p[3] * T + p[1]) + p[2] - volts,
        [3.0, 1.0, 0.0, 101.5],
        x_scale=[1, 1, 1, 0.1],
        xtol=1e-14,
        ftol=1e-14,
    )
    hz = refine_frequency(volts, RATE, 99.0, harmonics=1)
    assert hz == pytest.approx(best.x[3], rel=1e-8)
    offset, fundamental = fit_harmonics(volts, RATE, hz, 1)
    assert 2 * abs(fundamental) == pytest.approx(best.x[0], rel=1e-6)
    assert offset.real == pytest.approx(best.x[2], rel=1e-6)


def test_joint_fit_equals_plain_least_squares() -> None:
    """The Toeplitz solution is the same as building all the columns and solving."""
    volts = np.clip(noisy(), -2.5, 2.5)
    phasors = fit_harmonics(volts, RATE, 101.7, 6)
    phase = 2 * np.pi * 101.7 * np.outer(T, np.arange(1, 7))
    columns = np.hstack([np.ones((T.size, 1)), np.cos(phase), np.sin(phase)])
    solution = np.linalg.lstsq(columns, volts, rcond=None)[0]
    expected = np.concatenate([[solution[0]], (solution[1:7] - 1j * solution[7:]) / 2])
    assert np.allclose(phasors, expected, atol=1e-10)
    assert np.allclose(synthesise(phasors, 101.7, RATE, T.size), columns @ solution, atol=1e-9)


def test_coarse_search_lands_within_half_a_cycle_of_the_record() -> None:
    assert abs(coarse_frequency(noisy(), RATE, 20.0, 400.0) - 101.7) < 0.5 * RATE / T.size
