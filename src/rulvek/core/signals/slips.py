"""Samples that a recorder lost or gave twice, found by the phase of the tone that is recorded."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

MOST_WINDOWS = 40
FEWEST_WINDOWS = 8
SURE = 8.0
"""How many times its own uncertainty a jump must be."""
WHOLE = 0.25
"""How far a jump may be from whole samples: what else turns a phase does not do so by whole ones."""
TONE = 0.02
"""Turns by which phases may scatter about their line; those of noise alone wander by whole ones."""
STEADY = 0.05
"""By how much the amplitude may change: what is switched in the middle of a record is no slip."""


def slipped(volts: NDArray[np.float64], sample_rate: float, hz: float) -> int:
    """How many samples are missing at one place of a record of a steady tone; negative where some came twice.

    The phase of a tone runs on evenly; where samples are missing, it jumps ahead by as many. Whole cycles of the tone
    that are missing cannot be told, so a tone for this is no divisor of the rate; nor can what noise hides: 0 then.
    From half a cycle on another number may be told.

    Args:
        volts: Shape ``(n,)``; at least eight cycles.
        sample_rate: Hz.
        hz: Of the tone, below half the rate; of another clock it may be off by 0.01 %.

    >>> moments = np.arange(9_600) / 48_000
    >>> record = np.sin(2 * np.pi * 997 * moments)
    >>> slipped(record, 48_000, 997), slipped(np.delete(record, 5_000), 48_000, 997)
    (0, 1)
    """
    cycle = sample_rate / hz
    length = round(max(1, len(volts) / cycle // MOST_WINDOWS) * cycle)  # whole cycles, so that nothing else leaks in
    windows = len(volts) // length
    if windows < FEWEST_WINDOWS or not np.any(volts):
        return 0
    record = volts[: windows * length].reshape(windows, 1, length)
    phasors = (record @ _turns(windows, length, cycle))[:, 0, 0]
    phases = np.unwrap(np.angle(phasors)) * cycle / (2 * np.pi)
    at, jump, scatter, unsure = _jump(phases)
    if scatter > TONE * cycle:
        return 0
    before, after = np.abs(phasors[:at]).mean(), np.abs(phasors[at + 1 :]).mean()
    steady = abs(before - after) <= STEADY * max(before, after)
    whole = round(jump)
    is_slip = whole != 0 and abs(jump - whole) <= WHOLE and abs(jump) >= SURE * unsure
    return whole if is_slip and steady else 0


def _jump(phases: NDArray[np.float64]) -> tuple[int, float, float, float]:
    """In which window phases along a line jump most plainly, by how much, their scatter, and how sure that is."""
    within, jumps, spreads = _fits(len(phases))
    explained = np.sum(np.square(within @ phases), axis=1)
    others = np.sum(np.square(phases)) - np.square(phases[1:-1])  # it may have jumped in the middle of a window
    left = np.maximum(others - explained, 0.0)
    best = int(np.argmin(left))
    scatter = float(np.sqrt(left[best] / (len(phases) - 4)))
    return best + 1, float(jumps[best] @ phases), scatter, scatter * float(spreads[best])


@lru_cache(16)
def _turns(windows: int, length: int, cycle: float) -> NDArray[np.complex128]:
    """What turns a tone's windows to their phasors, shape ``(windows, length, 1)``."""
    turns = np.exp(-2j * np.pi * np.mod(np.arange(windows * length) / cycle, 1.0)).reshape(windows, length)
    return np.asarray((turns * np.hanning(length + 2)[1:-1])[:, :, None], np.complex128)


@lru_cache(MOST_WINDOWS)
def _fits(count: int) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Least squares of a line with a jump in each window but the outer ones, which are left out of their own fits.

    Returns:
        Orthonormal parts, shape ``(count - 2, 3, count)``; the jump, ``(count - 2, count)``; its spread where that of
        phases is 1.
    """
    moments, parts, jumps, spreads = np.linspace(-1, 1, count), [], [], []
    for at in range(1, count - 1):
        columns = np.column_stack([np.ones(count), moments, np.arange(count) > at])
        columns[at] = 0.0
        orthonormal, triangle = np.linalg.qr(columns)
        solved = np.linalg.solve(triangle, orthonormal.T)
        parts.append(orthonormal.T)
        jumps.append(solved[2])
        spreads.append(np.linalg.norm(solved[2]))
    return np.array(parts), np.array(jumps), np.array(spreads)
