"""What a sample of units says of a whole production: the figure that may be promised, and what is missing for more."""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated, Any, ClassVar

import numpy as np
import scipy
from annotated_types import Ge, Gt, Le

from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED, Name, Watts, refuse_out_of_bounds
from rulvek.core.ratings import censored as limits
from rulvek.core.ratings.lots import FEWEST as FEWEST_LOTS
from rulvek.core.ratings.lots import components, lots_bound, lots_factor
from rulvek.core.ratings.normality import Normality, anderson_darling
from rulvek.core.ratings.tolerance import (
    bounding_rank,
    chance_of,
    normal_factor,
    smallest_suffices,
    units_for,
    weakest_factor,
)

SYSTEMATIC_FACTOR = 1.645
"""One-sided, at 95 %."""
MOST_UNITS = 5_000
LEANS_BELOW = -0.5
"""Skewness from which something is said; the weakest of four channels that have nothing in common has -0.55, and its
factor counts with that."""
MOST_LOTS = 200
Share = Annotated[float, Ge(0.5), Le(0.9999)]
StepWatts = Annotated[float, Gt(0), Le(10_000)]


@dataclass(frozen=True, slots=True)
class SampledUnit:
    """A unit with its watts at a rating's conditions; of one that is ``censored`` only that it gives so much is known.

    ``lot`` is empty where nobody knows of which one it is.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    unit: Name
    watts: Watts
    lot: Name = ""
    censored: bool = False


@dataclass(frozen=True, slots=True)
class Promise:
    """What a figure is to mean, and how it is rounded.

    Attributes:
        share: Of all units, that reach it; between 0.5 and 0.9999.
        confidence: That they do.
        systematic_watts: The part of the readings' standard uncertainty that all units share, such as their meter's
            calibration; it does not average out.
        individual_watts: The part that is each reading's own; units cannot be told to scatter less than that.
        step_watts: To which the proposal is rounded, downwards.
        wanted_watts: A figure that somebody would like to print.
        channels: Of which each unit's figure is the weakest; 1 for figures that scatter normally by themselves.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    share: Share = 0.95
    confidence: Share = 0.95
    systematic_watts: Annotated[float, Ge(0), Le(100_000)] = 0.0
    individual_watts: Annotated[float, Ge(0), Le(100_000)] = 0.0
    step_watts: StepWatts = 1.0
    wanted_watts: Watts | None = None
    channels: Annotated[int, Ge(1), Le(64)] = 1

    def factor(self, n: int) -> float:
        """How many spreads below their mean n units' bound lies."""
        return weakest_factor(n, self.share, self.confidence, self.channels)

    def lean(self, n: int) -> float:
        """How much further down that is than for figures that scatter normally by themselves; at least 1."""
        return self.factor(n) / normal_factor(n, self.share, self.confidence)

    @property
    def taken_off_watts(self) -> float:
        """What is taken off a bound for what all readings share."""
        return SYSTEMATIC_FACTOR * self.systematic_watts


class Method(StrEnum):
    """How a bound was come to."""

    NORMAL = "normal"
    LOTS = "lots"
    DISTRIBUTION_FREE = "distribution-free"
    CENSORED = "censored"


@dataclass(frozen=True, slots=True)
class Chance:
    """How likely a number of units would bear the wanted figure, if production is as today's mean and spread say."""

    units: int
    chance: float


@dataclass(frozen=True, slots=True)
class Bound:
    """What a sample bears.

    Attributes:
        mean, spread: Of production, as far as the sample tells; None where it does not.
        between, within: Standard deviations between lots and within them; None where they cannot be told apart.
        k: How many spreads the bound lies below the mean.
        bound_watts: What the promised share of units reaches with the promised confidence; None where nothing is known.
        proposal_watts: That less the systematic part, rounded down.
        more_units: How many more the wanted figure takes at today's mean and spread; None where no number suffices, or
            nothing is wanted.
        chances: The power curve for the wanted figure; empty where lots differ, for then units alone do not do.
        notes: What has to be said with it, a sentence each.
    """

    n: int
    lots: int
    method: Method
    mean: float | None = None
    spread: float | None = None
    between: float | None = None
    within: float | None = None
    k: float | None = None
    bound_watts: float | None = None
    proposal_watts: float | None = None
    normality: Normality | None = None
    more_units: int | None = None
    chances: tuple[Chance, ...] = ()
    notes: tuple[str, ...] = ()


def bound_of(sample: Sequence[SampledUnit], promise: Promise = Promise()) -> Bound:  # frozen
    """What a sample bears of a production.

    >>> watts = (104.1, 106.3, 103.0, 105.2, 107.4, 104.8, 105.9, 103.7, 106.6, 105.0)
    >>> found = bound_of([SampledUnit(f"U{at}", one) for at, one in enumerate(watts)], Promise(step_watts=5.0))
    >>> found.method.value, round(found.k, 3), round(found.bound_watts, 2), found.proposal_watts
    ('normal', 2.911, 101.2, 100.0)

    Raises:
        BadInput: a field that is out of its bounds, the same unit twice, or too many of them.
    """
    _refuse_unfit(sample, promise)
    watts = np.array([one.watts for one in sample])
    hidden = np.array([one.censored for one in sample], dtype=bool)
    lots: dict[str, list[float]] = defaultdict(list)
    for one in sample:
        lots[one.lot].append(one.watts)
    notes = list(_lot_notes(lots))
    by_lot = [np.array(values) for values in lots.values()]
    if hidden.any():
        found = _censored(watts, hidden, len(lots), promise, notes)
    elif len(sample) < 2:
        notes.append("One unit says nothing of how units scatter: no figure can be promised.")
        found = Bound(len(sample), len(lots), Method.NORMAL, mean=float(watts[0]))
    else:
        found = _complete(watts, by_lot, promise, notes)
    return _proposed(found, promise, notes, by_lot)


def _complete(watts: np.ndarray, lots: list[np.ndarray], promise: Promise, notes: list[str]) -> Bound:
    n, count = len(watts), len(lots)
    split = components(lots) if count >= 2 and n > count else None
    # Lots that differ make units of one lot alike: what is looked at is how they scatter within them.
    scatter = _residuals(lots) if split is not None and count >= FEWEST_LOTS else watts
    fitted = anderson_darling(scatter)
    mean, spread = float(np.mean(watts)), float(np.std(watts, ddof=1))
    plain = Bound(
        n,
        count,
        Method.NORMAL,
        mean=mean,
        spread=spread,
        between=split.between if split else None,
        within=split.within if split else None,
        normality=fitted,
    )
    if fitted is not None and fitted.is_doubted:
        return _whatever_distribution(plain, watts, promise, notes)
    if fitted is None and spread > 0:
        notes.append(f"Whether {n} units scatter normally cannot be seen; the bound takes it that they do.")
    if fitted is not None and _leans_down(scatter):
        notes.append("The lower tail looks longer than a normal one: the bound then holds less often than is said.")
    k = promise.factor(n)
    plain = replace(plain, k=k, bound_watts=mean - k * spread)
    if split is None or count < FEWEST_LOTS:
        return plain
    lower = lots_bound(split, promise.share, promise.confidence)
    lower = split.mean - promise.lean(n) * (split.mean - lower)
    if plain.bound_watts is not None and lower >= plain.bound_watts:
        return plain
    k = (split.mean - lower) / split.spread if split.spread > 0 else 0.0
    return replace(plain, method=Method.LOTS, mean=split.mean, spread=split.spread, k=k, bound_watts=lower)


def _whatever_distribution(plain: Bound, watts: np.ndarray, promise: Promise, notes: list[str]) -> Bound:
    n, needed = plain.n, smallest_suffices(promise.share, promise.confidence)
    rank = bounding_rank(n, promise.share, promise.confidence)
    found = replace(plain, method=Method.DISTRIBUTION_FREE)
    notes.append("Units do not scatter as a normal distribution does; look at them one by one before anything else.")
    if rank == 0:
        notes.append(f"Without one it takes {needed} units for a bound, of which {needed - n} are missing.")
        return found
    place = "smallest" if rank == 1 else f"{rank}. smallest"
    notes.append(f"The bound is the {place} of {n} units.")
    return replace(found, bound_watts=float(np.sort(watts)[rank - 1]))


def _censored(watts: np.ndarray, hidden: np.ndarray, lots: int, promise: Promise, notes: list[str]) -> Bound:
    n, exact = len(watts), int(np.sum(~hidden))
    notes.append(
        f"Of {n - exact} of {n} units it is only known that they give so much: they never reached their limit."
    )
    if exact < limits.FEWEST_EXACT:
        notes.append(
            f"It takes {limits.FEWEST_EXACT} units that reached it to tell a spread: no figure can be promised."
        )
        return Bound(n, lots, Method.CENSORED)
    if lots >= FEWEST_LOTS:
        notes.append("What lots differ by is not told apart where units did not reach their limit.")
    bound, fitted = limits.censored_bound(watts, hidden, promise.share, promise.confidence)
    bound = fitted.mean - promise.lean(n) * (fitted.mean - bound)
    k = (fitted.mean - bound) / fitted.spread if fitted.spread > 0 else 0.0
    return Bound(n, lots, Method.CENSORED, mean=fitted.mean, spread=fitted.spread, k=k, bound_watts=bound)


def _proposed(found: Bound, promise: Promise, notes: list[str], lots: list[np.ndarray]) -> Bound:
    """With the proposal, and what is missing for the wanted figure."""
    off = promise.taken_off_watts
    proposal = None
    if found.bound_watts is not None:
        proposal = rounded_down(found.bound_watts - off, promise.step_watts)
        if proposal <= 0:
            proposal = None
            notes.append("The bound lies so low that nothing can be promised.")
    if found.spread is not None and 0 < found.spread < promise.individual_watts:
        notes.append(
            f"These units scatter by {found.spread:.2g} W, less than their readings do by themselves"
            f" ({promise.individual_watts:.2g} W): that is luck, and more of them will scatter more."
        )
    if found.spread == 0:
        notes.append("All units read the same, which units never do: look at how they were read.")
    more, chances = _missing(found, promise, off, notes, lots) if promise.wanted_watts is not None else (None, ())
    return replace(found, proposal_watts=proposal, more_units=more, chances=chances, notes=tuple(notes))


def rounded_down(watts: float, step: float) -> float:
    """To a multiple of a step that is not above it.

    >>> rounded_down(104.99, 5.0), rounded_down(105.0, 5.0), rounded_down(0.3, 0.1)
    (100.0, 105.0, 0.3)
    """
    steps = math.floor(watts / step + 1e-9)
    return float(f"{steps * step:.12g}")


def _missing(
    found: Bound, promise: Promise, off: float, notes: list[str], lots: list[np.ndarray]
) -> tuple[int | None, tuple[Chance, ...]]:
    wanted = promise.wanted_watts or 0.0
    needed = wanted + off
    if found.bound_watts is not None and found.bound_watts >= needed:
        return 0, ()
    if found.mean is None or not found.spread:
        notes.append(f"What {wanted:g} W would take cannot be told from these units.")
        return None, ()
    margin = (found.mean - needed) / found.spread
    if found.method is Method.DISTRIBUTION_FREE:
        return _missing_of_any(found, promise, needed, notes, lots), ()
    fewest = units_for(margin, promise.share, promise.confidence, channels=promise.channels)
    if fewest is None:
        notes.append(f"No number of units bears {wanted:g} W at today's mean and spread.")
        return None, ()
    if found.method is Method.LOTS:
        return _missing_lots(found, promise, margin, notes), ()
    chances = tuple(
        Chance(n, chance_of(n, margin, promise.share, promise.confidence, promise.channels))
        for n in _sizes(found.n, fewest)
    )
    return max(1, fewest - found.n), chances


def _missing_of_any(
    found: Bound, promise: Promise, needed: float, notes: list[str], lots: list[np.ndarray]
) -> int | None:
    smallest = min(float(np.min(one)) for one in lots)
    if smallest < needed:
        notes.append(f"A unit of {smallest:.4g} W is below the wanted figure already.")
        return None
    return max(1, smallest_suffices(promise.share, promise.confidence) - found.n)


def _missing_lots(found: Bound, promise: Promise, margin: float, notes: list[str]) -> int | None:
    size = max(1, round(found.n / found.lots))
    within = found.within or 0.0
    ratio = ((found.between or 0.0) / within) ** 2 if within > 0 else math.inf
    for count in range(found.lots, MOST_LOTS + 1):
        if math.isinf(ratio):
            factor = normal_factor(count, promise.share, promise.confidence)
        else:
            factor = lots_factor(count, size, ratio, promise.share, promise.confidence)
        factor *= promise.lean(size * count)
        if factor <= margin:
            more = max(1, count - found.lots)
            of = "lot" if more == 1 else "lots"
            notes.append(f"The wanted figure takes about {more} more {of} of {size}, rather than more of these.")
            return more * size
    notes.append("No number of lots that can be measured bears the wanted figure.")
    return None


def _sizes(n: int, fewest: int) -> list[int]:
    """Some numbers of units to show the chance at, from today's to well past the fewest that do."""
    last = max(n + 4, 2 * fewest)
    steps = np.unique(np.round(np.geomspace(max(2, n), last, 12)).astype(int))
    return [int(one) for one in steps]


def _residuals(lots: list[np.ndarray]) -> np.ndarray:
    """Units about their lots' means, each brought to the spread that it would have about a known one."""
    return np.concatenate(
        [(one - np.mean(one)) * math.sqrt(len(one) / (len(one) - 1)) for one in lots if len(one) > 1] or [np.array([])]
    )


def _leans_down(scatter: np.ndarray) -> bool:
    """Whether units scatter further downwards than upwards; no test, as few units tell little of a tail."""
    return float(scipy.stats.skew(scatter, bias=False)) < LEANS_BELOW


def _lot_notes(lots: dict[str, list[float]]) -> list[str]:
    count = len(lots)
    if "" in lots:
        return ["Of some units nobody knows the lot: they are taken as one."]
    if count == 1:
        return ["One lot: this is a statement about that lot."]
    if count < FEWEST_LOTS:
        return [f"{count} lots: what lots differ by cannot be told; this is a statement about those."]
    return []


def _refuse_unfit(sample: Sequence[SampledUnit], promise: Promise) -> None:
    refuse_out_of_bounds(promise)
    if not sample:
        raise BadInput("There is no unit to speak of.", field="sample")
    if len(sample) > MOST_UNITS:
        raise BadInput(f"A sample has at most {MOST_UNITS} units.", field="sample")
    seen: set[str] = set()
    for at, one in enumerate(sample):
        refuse_out_of_bounds(one, f"sample.{at}.")
        if not one.unit.strip():
            raise BadInput("A unit goes by its serial number.", field=f"sample.{at}.unit")
        if one.unit.casefold() in seen:
            raise BadInput(f"The unit {one.unit} is there twice: one figure a unit.", field=f"sample.{at}.unit")
        seen.add(one.unit.casefold())
