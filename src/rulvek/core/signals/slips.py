"""Samples that a recorder lost or gave twice, found by the phase of the tone that is recorded."""

import numpy as np
from numpy.typing import NDArray

MOST_WINDOWS = 40
FEWEST_WINDOWS = 8
SURE = 8.0
"""How many times its own uncertainty a jump must be."""
WHOLE = 0.25
"""How far a jump may be from whole samples: what else turns a phase does not do so by whole ones."""
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
    weights = np.hanning(length + 2)[1:-1]
    turns = np.exp(-2j * np.pi * np.mod(np.arange(windows * length) / cycle, 1.0))
    phasors = (volts[: windows * length] * turns).reshape(windows, length) @ weights
    phases = np.unwrap(np.angle(phasors)) * cycle / (2 * np.pi)
    at, jump, unsure = _jump(phases)
    before, after = np.abs(phasors[:at]).mean(), np.abs(phasors[at + 1 :]).mean()
    steady = abs(before - after) <= STEADY * max(before, after)
    whole = round(jump)
    is_slip = whole != 0 and abs(jump - whole) <= WHOLE and abs(jump) >= SURE * unsure
    return whole if is_slip and steady else 0


def _jump(phases: NDArray[np.float64]) -> tuple[int, float, float]:
    """In which window phases that run along a line jump most plainly, by how much, and how sure that is."""
    count = len(phases)
    moments = np.linspace(-1, 1, count)
    best = (1, 0.0, np.inf)
    least = np.inf
    for at in range(1, count - 1):
        rows = np.arange(count) != at  # it may have jumped in the middle of this window
        stepped = np.column_stack([np.ones(count), moments, np.arange(count) > at])[rows]
        found, _, _, _ = np.linalg.lstsq(stepped, phases[rows], rcond=None)
        left = float(np.sum(np.square(phases[rows] - stepped @ found)))
        if left < least:
            least = left
            spread = np.sqrt(left / (count - 4))
            unsure = float(spread * np.sqrt(np.linalg.inv(stepped.T @ stepped)[2, 2]))
            best = (at, float(found[2]), unsure)
    return best
