"""Units of which only “at least so much” is known: their bench, or their supply, ended before they did."""

import math
from dataclasses import dataclass

import numpy as np
import scipy

DRAWS = 4_000
SEED = 19_410_301
FEWEST_EXACT = 3
"""Of fewer exact values neither a mean nor a spread is told."""
_ROUNDS = 400
_CLOSE = 1e-7
_NO_SPREAD = 1e-9


@dataclass(frozen=True, slots=True)
class Fitted:
    """A normal distribution that makes the exact values and the lower limits likeliest."""

    mean: float
    spread: float


def fit(watts: np.ndarray, censored: np.ndarray) -> Fitted:
    """Maximum likelihood of a normal distribution for values of which some are only lower limits.

    Args:
        watts: One-dimensional; of a censored unit what it gave at least.
        censored: Whether it is such a limit; the same shape.
    """
    means, spreads = _fit_all(watts[None, :], censored[None, :])
    return Fitted(float(means[0]), float(spreads[0]))


def censored_bound(
    watts: np.ndarray, censored: np.ndarray, share: float, confidence: float, draws: int = DRAWS
) -> tuple[float, Fitted]:
    """The lower bound, by a parametric bootstrap of the pivot (mean - quantile)/spread, and what was fitted.

    Each draw has as many units. None is read above the highest limit that censored one here, which is what the bench
    stood; where others were read above that, what ended a run was its own, and only those units have a limit.
    """
    found = fit(watts, censored)
    if found.spread <= 2 * _NO_SPREAD * max(1.0, abs(found.mean)):
        return float(np.min(watts)), Fitted(found.mean, 0.0)
    z = float(scipy.stats.norm.ppf(share))
    highest = float(np.max(watts[censored]))
    is_common = not np.any(watts[~censored] > highest)
    top = np.full(len(watts), highest) if is_common else np.where(censored, watts, np.inf)
    draw = np.random.default_rng(SEED)
    drawn = found.mean + found.spread * draw.standard_normal((draws, len(watts)))
    over = drawn > top
    enough = np.sum(~over, axis=1) >= FEWEST_EXACT
    means, spreads = _fit_all(np.where(over, top, drawn)[enough], over[enough])
    quantile = found.mean - z * found.spread
    k = float(np.quantile((means - quantile) / spreads, confidence))
    return found.mean - k * found.spread, found


def _fit_all(watts: np.ndarray, censored: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Fit many samples at once, one a row, by expectation and maximisation (Dempster, Laird and Rubin 1977)."""
    means = np.mean(watts, axis=1)
    least = _NO_SPREAD * np.maximum(1.0, np.abs(means))  # all exact values alike: nothing is divided by
    spreads = np.maximum(np.std(watts, axis=1), least)
    for _ in range(_ROUNDS):
        low = (watts - means[:, None]) / spreads[:, None]
        # φ/(1 - Φ), which stays exact where both are next to nothing
        hazard = math.sqrt(2 / math.pi) / scipy.special.erfcx(low / math.sqrt(2))
        first = np.where(censored, means[:, None] + spreads[:, None] * hazard, watts)
        extra = np.where(censored, spreads[:, None] ** 2 * (1 + low * hazard - hazard**2), 0.0)
        new = np.mean(first, axis=1)
        variance = np.mean((first - new[:, None]) ** 2 + extra, axis=1)
        moved = np.max(np.abs(new - means) / spreads)
        before, means, spreads = spreads, new, np.maximum(np.sqrt(np.maximum(variance, 0.0)), least)
        if moved < _CLOSE and np.max(np.abs(spreads / before - 1)) < _CLOSE:
            break
    return means, spreads
