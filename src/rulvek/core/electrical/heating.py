"""A dummy load's heat path, fitted to what it was heated with and how warm it became in runs."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy

from rulvek.core.electrical.loads import LoadBox

UNMEASURED = LoadBox(4.0, 500.0)
"""A fit begins with what a load is planned with that nobody measured."""
WITHIN = 0.2
"""A constant that is known to no better than this ratio, one standard deviation, is not told (ours)."""
FEWEST = 10
"""Temperatures; fewer tell nothing (ours)."""


@dataclass(frozen=True, slots=True)
class HeatTrace:
    """One run of a load: when its temperature was read, seconds; its watts until then from the time before; and °C.

    The first temperature is where it began; its watts are not looked at.
    """

    seconds: tuple[float, ...]
    watts: tuple[float, ...]
    celsius: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class HeatedRun:
    """A run with what lay at each of its channels, by nominal ohms; the trace is of the load that took the most."""

    ohms: tuple[float, ...]
    trace: HeatTrace


@dataclass(frozen=True, slots=True)
class HeatPath:
    """A first-order heat path to the air, with the standard deviation of each constant as a ratio of it."""

    kelvin_per_watt: float
    joules_per_kelvin: float
    kelvin_per_watt_within: float
    joules_per_kelvin_within: float
    runs: int


def fitted(boxes: Sequence[LoadBox], runs: Sequence[HeatedRun], ambient_c: float) -> tuple[LoadBox, ...]:
    """Boxes with the heat paths that their runs tell; the others as they are."""
    return tuple(_with(box, heat_path_of(_alone(box, runs), ambient_c)) for box in boxes)


def _alone(box: LoadBox, runs: Sequence[HeatedRun]) -> list[HeatTrace]:
    """Runs in which one box lay at each channel: what was made of several tells nothing of one."""
    return [one.trace for one in runs if set(one.ohms) == {box.ohms} and len(one.ohms) <= box.count]


def _with(box: LoadBox, path: HeatPath | None) -> LoadBox:
    if path is None:
        return box
    return replace(
        box,
        kelvin_per_watt=path.kelvin_per_watt,
        joules_per_kelvin=path.joules_per_kelvin,
        fitted_to_runs=path.runs,
    )


def heat_path_of(traces: Sequence[HeatTrace], ambient_c: float) -> HeatPath | None:
    """Fit a load's two constants to its runs by least squares; None where the runs do not tell them.

    Short runs tell how fast it warms, J/K; how warm it becomes, K/W, is told by runs that begin warm or last for
    its time constant, which is the product of both.

    >>> warms = [23 + 100 * 0.3 * (1 - math.exp(-t / 240)) for t in range(0, 600, 30)]
    >>> found = heat_path_of([HeatTrace(tuple(range(0, 600, 30)), (100.0,) * 20, tuple(warms))], 23.0)
    >>> round(found.kelvin_per_watt, 3), round(found.joules_per_kelvin)
    (0.3, 800)
    """
    told = [one for one in traces if len(one.celsius) > 1]
    if sum(len(one.celsius) - 1 for one in told) < FEWEST:
        return None

    def off(logs: np.ndarray) -> np.ndarray:
        kelvin_per_watt, joules_per_kelvin = np.exp(logs)
        return np.concatenate([_off(one, kelvin_per_watt, joules_per_kelvin, ambient_c) for one in told])

    begin = np.log((UNMEASURED.kelvin_per_watt, UNMEASURED.joules_per_kelvin))
    found = scipy.optimize.least_squares(off, begin, bounds=(np.log([1e-3, 1.0]), np.log([10.0, 1e6])))
    left = len(found.fun) - len(told) - len(found.x)
    information = found.jac.T @ found.jac
    if not found.success or np.linalg.cond(information) > 1e12:
        return None
    within = np.sqrt(np.diag(np.linalg.inv(information)) * (found.fun @ found.fun) / left)
    if not np.all(np.isfinite(within)) or max(within) > WITHIN:
        return None
    kelvin_per_watt, joules_per_kelvin = np.exp(found.x)
    return HeatPath(float(kelvin_per_watt), float(joules_per_kelvin), float(within[0]), float(within[1]), len(told))


def _off(trace: HeatTrace, kelvin_per_watt: float, joules_per_kelvin: float, ambient_c: float) -> np.ndarray:
    """How much warmer a load of these constants would be than it was, each time that it was read.

    Where it began is read with as much noise as the rest: it is taken from all readings of the run, by least squares.
    """
    left, warmed = [1.0], [0.0]  # of the excess at the beginning, and by the watts since
    for before, at, watts in zip(trace.seconds, trace.seconds[1:], trace.watts[1:], strict=False):
        decay = math.exp(-(at - before) / (kelvin_per_watt * joules_per_kelvin))
        left.append(left[-1] * decay)
        warmed.append(watts * kelvin_per_watt * (1 - decay) + warmed[-1] * decay)
    share, excess = np.array(left), np.array(trace.celsius) - ambient_c - np.array(warmed)
    off: np.ndarray = share * (share @ excess) / (share @ share) - excess
    return off
