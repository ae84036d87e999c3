"""How often bounds hold, by simulation: part of ``make bench``. Nominal is 95 %; nothing that is promised under 94 %.

A draw is held against the true quantile of what it was drawn from. Where normal units would hardly look like a draw,
nothing is promised by their spread, so that it counts as held.

A unit's figure is that of its weakest channel, and is bounded by the factor for it. What is not promised stands apart:
a few units of two humps or of a long lower tail look like normal ones, and no bound by their mean and spread holds for
all shapes; one that does takes 59 units.
"""

from collections.abc import Callable

import numpy as np
from scipy import stats

from rulvek.core.ratings import censored as limits
from rulvek.core.ratings.lots import components, lots_bound
from rulvek.core.ratings.normality import anderson_darling
from rulvek.core.ratings.population import Promise, SampledUnit, bound_of
from rulvek.core.ratings.tolerance import bounding_rank, normal_factor, weakest_factor

SHARE = CONFIDENCE = 0.95
Z = float(stats.norm.ppf(SHARE))
Draw = Callable[[np.random.Generator, tuple[int, ...]], np.ndarray]


def _humps(draw: np.random.Generator, shape: tuple[int, ...]) -> np.ndarray:
    return 0.5 * draw.normal(size=shape) + np.where(draw.random(shape) < 0.5, -1.5, 1.5)


SHAPES: dict[str, Draw] = {
    "normal": lambda draw, shape: draw.normal(size=shape),
    "long upper tail": lambda draw, shape: np.exp(0.3 * draw.normal(size=shape)),
    "weakest of 2 channels": lambda draw, shape: draw.normal(size=(*shape, 2)).min(axis=-1),
    "weakest of 4 channels": lambda draw, shape: draw.normal(size=(*shape, 4)).min(axis=-1),
    "weakest of 4 alike": lambda draw, shape: draw.normal(size=shape) + draw.normal(size=(4, *shape)).min(axis=0),
    "two humps": _humps,
    "long lower tail": lambda draw, shape: -np.exp(0.3 * draw.normal(size=shape)),
}
CHANNELS = {"weakest of 2 channels": 2, "weakest of 4 channels": 4, "weakest of 4 alike": 4}
PROMISED = ("normal", "long upper tail", *CHANNELS)
SIZES = (3, 5, 8, 12, 20, 40, 60)


def of_one_lot(times: int = 6_000) -> dict[str, dict[int, float]]:
    """Share of draws whose bound holds, by shape and number of units; the way is chosen as it is in use."""
    draw = np.random.default_rng(1)
    found: dict[str, dict[int, float]] = {}
    for name, make in SHAPES.items():
        truth = float(np.quantile(make(draw, (2_000_000,)), 1 - SHARE))
        found[name] = {}
        for n in SIZES:
            drawn = make(draw, (times, n))
            k = weakest_factor(n, SHARE, CONFIDENCE, CHANNELS.get(name, 1))
            held = drawn.mean(axis=1) - k * drawn.std(axis=1, ddof=1) <= truth
            rank = bounding_rank(n, SHARE, CONFIDENCE)
            by_rank = np.sort(drawn, axis=1)[:, rank - 1] <= truth if rank else np.ones(times, dtype=bool)
            fits = [anderson_darling(row) for row in drawn[: times // 4]] if n >= 8 else []
            doubted = np.array([bool(fit and fit.is_doubted) for fit in fits] or [False])
            part = slice(0, len(doubted)) if fits else slice(None)
            found[name][n] = float(np.mean(np.where(doubted, by_rank[part], held[part])))
    return found


def of_lots(times: int = 400) -> dict[tuple[int, int, float], float]:
    """Share of draws whose bound holds, by lots, units of each, and the part of the variance that lies between lots."""
    draw = np.random.default_rng(2)
    found = {}
    for lots in (3, 5, 8):
        for size in (2, 4, 8):
            for part in (0.0, 0.3, 0.8):
                held = 0
                for _ in range(times):
                    means = draw.normal(100, np.sqrt(part), lots)
                    rows = [draw.normal(mean, np.sqrt(1 - part), size) for mean in means]
                    held += lots_bound(components(rows), SHARE, CONFIDENCE, 2_000) <= 100 - Z
                found[lots, size, part] = held / times
    return found


def of_uneven_lots(times: int = 300) -> float:
    """The same through the whole of it, for lots of two to nine units of which half the variance lies between."""
    draw, held = np.random.default_rng(3), 0
    for _ in range(times):
        means = draw.normal(100, np.sqrt(0.5), 5)
        sizes = draw.integers(2, 10, 5)
        sample = [
            SampledUnit(f"{lot}-{at}", float(draw.normal(means[lot], np.sqrt(0.5))), str(lot))
            for lot in range(5)
            for at in range(sizes[lot])
        ]
        bound = bound_of(sample, Promise(SHARE, CONFIDENCE)).bound_watts
        held += bound is None or bound <= 100 - Z
    return held / times


def of_censored(times: int = 250) -> dict[tuple[int, float], tuple[float, float]]:
    """By units and the share of them that reaches its limit: how often the bound holds, and how often it would if
    “at least so much” were taken for the figure.
    """
    draw = np.random.default_rng(4)
    found = {}
    for n, seen in ((8, 0.8), (12, 0.6), (20, 0.7)):
        top, held, naive, tried = 100 + float(stats.norm.ppf(seen)), 0, 0, 0
        while tried < times:
            drawn = draw.normal(100, 1, n)
            hidden = drawn > top
            if not hidden.any() or (~hidden).sum() < limits.FEWEST_EXACT:
                continue
            watts = np.where(hidden, top, drawn)
            tried += 1
            held += limits.censored_bound(watts, hidden, SHARE, CONFIDENCE, 500)[0] <= 100 - Z
            spread = watts.std(ddof=1)
            naive += watts.mean() - normal_factor(n, SHARE, CONFIDENCE) * spread <= 100 - Z
        found[n, seen] = (held / times, naive / times)
    return found


def coverage() -> None:
    """Print the tables."""
    print("bounds: how often they hold, nominal 95 %")
    one_lot = of_one_lot()
    heading = "".join(f"{n:>8}" for n in SIZES)
    print(f"  {'one lot, units':22}{heading}")
    for name in PROMISED:
        print(f"  {name:22}" + "".join(f"{100 * share:8.1f}" for share in one_lot[name].values()))
    print(f"  {'other shapes, units':22}{heading}   not promised; the page says what it takes")
    for name in (name for name in one_lot if name not in PROMISED):
        print(f"  {name:22}" + "".join(f"{100 * share:8.1f}" for share in one_lot[name].values()))
    table = of_lots()
    print("  lots × units, and the part of the variance between lots: 0, 0.3, 0.8")
    for lots in (3, 5, 8):
        for size in (2, 4, 8):
            print(f"  {f'{lots} × {size}':22}" + "".join(f"{100 * table[lots, size, p]:8.1f}" for p in (0.0, 0.3, 0.8)))
    print(f"  {'5 uneven lots':22}{100 * of_uneven_lots():8.1f}")
    print("  censored: units, share that reaches its limit; and if “at least” were taken for the figure")
    for (n, seen), (held, naive) in of_censored().items():
        print(f"  {f'{n}, {seen:g}':22}{100 * held:8.1f}{100 * naive:8.1f}")


if __name__ == "__main__":
    coverage()
