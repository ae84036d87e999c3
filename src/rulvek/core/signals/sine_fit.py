"""Fits in time: the frequency of a wave with its harmonics, and all of its harmonics jointly.

The method is the least-squares one of the four-parameter sine fit in IEEE Std 1057 (from memory), with the harmonics
in the model; the tests check it against ``scipy.optimize``.
"""

import math

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def refine_frequency(volts: Floats, sample_rate: float, near_hz: float, harmonics: int) -> float:
    """Gauss–Newton on the frequency of a wave with ``harmonics`` components, all fitted jointly with the offset.

    With the harmonics in the model a distorted wave in a record of few, incomplete cycles does not pull at the
    frequency, as it would in the plain four-parameter fit.
    """
    hz, turn = near_hz, np.arange(volts.size) * (2 * np.pi / sample_rate)
    orders = np.arange(1, harmonics + 1)
    largest_step = 0.25 * sample_rate / volts.size
    for _ in range(30):
        columns = _columns(volts.size, sample_rate, hz, harmonics)
        solution = _solve(columns, volts)
        sines, cosines = solution[:harmonics], solution[harmonics : 2 * harmonics]
        slope = turn * (columns[:, harmonics:-1] @ (orders * sines) - columns[:, :harmonics] @ (orders * cosines))
        change = float(_solve(np.column_stack([columns, slope]), volts)[-1])
        hz += min(max(change, -largest_step), largest_step)
        if abs(change) < 1e-13 * hz:
            break
    return hz


def coarse_frequency(volts: Floats, sample_rate: float, low_hz: float, high_hz: float) -> float:
    """The frequency between two bounds at which a single sine with offset explains most of ``volts``."""
    stride = max(1, math.floor(sample_rate / (16 * high_hz)))
    thin, rate = volts[::stride], sample_rate / stride
    step = 0.1 * sample_rate / volts.size
    candidates = np.arange(low_hz, high_hz + step, step)
    left = [_unexplained(thin, rate, float(hz)) for hz in candidates]
    return float(candidates[int(np.argmin(left))])


def _unexplained(volts: Floats, sample_rate: float, hz: float) -> float:
    columns = _columns(volts.size, sample_rate, hz, 1)
    return float(np.sum((volts - columns @ _solve(columns, volts)) ** 2))


def fit_harmonics(volts: Floats, sample_rate: float, hz: float, harmonics: int) -> NDArray[np.complex128]:
    """Joint least-squares phasors of 0 Hz and all harmonics of ``hz``, for a record of any length ≥ 1 cycle.

    The normal equations of a sum of equally spaced complex exponentials are a Hermitian Toeplitz system with a
    closed form (a geometric sum). Over a record of at least one cycle its condition number stays near 2, so
    hundreds of harmonics are solved at once without building their waveforms.

    Returns:
        Phasors for 0, hz, 2·hz … shape ``(harmonics + 1,)``; twice the size is the peak, at 0 Hz the size itself.
    """
    if (cycles := _whole_cycles(volts.size, sample_rate, hz)) is not None:
        # Over whole cycles the exponentials are orthogonal: the system's matrix is n times the identity.
        spectrum = np.fft.rfft(volts) / volts.size
        return np.asarray(spectrum[: harmonics * cycles + 1 : cycles], dtype=np.complex128)
    from scipy.linalg import solve_toeplitz

    orders = np.arange(-harmonics, harmonics + 1)
    turn = 2 * np.pi * hz / sample_rate
    first_column = _geometric_sum(-turn * np.arange(2 * harmonics + 1, dtype=np.float64), volts.size)
    right = project(volts, turn, orders)
    solution = solve_toeplitz(first_column, right)
    return np.asarray(solution[harmonics:], dtype=np.complex128)


def project(volts: Floats, turn: float, orders: NDArray[np.int64]) -> NDArray[np.complex128]:
    """Return ``Σ v[n]·exp(−j·order·turn·n)`` for every order, in blocks so that no long exponential is built."""
    block = max(1, round(math.sqrt(volts.size)))
    blocks = math.ceil(volts.size / block)
    padded = np.zeros(block * blocks)
    padded[: volts.size] = volts
    inside = np.exp(-1j * turn * np.outer(np.arange(block), orders))
    between = np.exp(-1j * turn * block * np.outer(np.arange(blocks), orders))
    return np.asarray(np.sum((padded.reshape(blocks, block) @ inside) * between, axis=0))


def synthesise(phasors: NDArray[np.complex128], hz: float, sample_rate: float, count: int) -> Floats:
    """Return the waveform that :func:`fit_harmonics` describes, shape ``(count,)``."""
    if (cycles := _whole_cycles(count, sample_rate, hz)) is not None:
        spectrum = np.zeros(count // 2 + 1, dtype=np.complex128)
        spectrum[: (phasors.size - 1) * cycles + 1 : cycles] = phasors * count
        return np.asarray(np.fft.irfft(spectrum, count))
    turn = 2 * np.pi * hz / sample_rate
    orders = np.arange(phasors.size)
    weights = phasors * np.where(orders == 0, 1.0, 2.0)
    block = max(1, round(math.sqrt(count)))
    blocks = math.ceil(count / block)
    inside = np.exp(1j * turn * np.outer(orders, np.arange(block)))
    between = np.exp(1j * turn * block * np.outer(np.arange(blocks), orders)) * weights
    return np.asarray((between @ inside).real.reshape(-1)[:count])


def _whole_cycles(count: int, sample_rate: float, hz: float) -> int | None:
    """How many cycles the record holds, if it is a whole number of them."""
    cycles = count * hz / sample_rate
    whole = round(cycles)
    return whole if whole >= 1 and abs(cycles - whole) < 1e-9 * whole else None


def _geometric_sum(angle: Floats, count: int) -> NDArray[np.complex128]:
    half = np.sin(angle / 2)
    whole_turn = np.abs(half) < 1e-15
    ratio = np.where(whole_turn, count, np.sin(count * angle / 2) / np.where(whole_turn, 1.0, half))
    return np.asarray(ratio * np.exp(1j * angle * (count - 1) / 2))


def _columns(count: int, sample_rate: float, hz: float, harmonics: int) -> Floats:
    phase = np.outer(np.arange(count) * (2 * np.pi * hz / sample_rate), np.arange(1, harmonics + 1))
    return np.concatenate([np.sin(phase), np.cos(phase), np.ones((count, 1))], axis=1)


def _solve(columns: Floats, volts: Floats) -> Floats:
    # Normal equations would square the condition number; QR keeps clean sines clean to −200 dB.
    orthogonal, triangle = np.linalg.qr(columns)
    return np.asarray(np.linalg.solve(triangle, orthogonal.T @ volts))
