"""Whether two groups of units differ, and by how much: before and after a change, two lots, two siblings."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar

import numpy as np
import scipy
from annotated_types import Ge, Le, Len

from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED, Identity, Name, refuse_out_of_bounds
from rulvek.core.ratings.population import SampledUnit
from rulvek.core.signals.power import ratio_db

FEWEST = 2
HEARD_DB = 0.5
"""A smaller difference in power is nothing that anybody prints or hears (ours)."""


@dataclass(frozen=True, slots=True)
class Asked:
    """How sure the interval is to be, and from which difference on it matters.

    Attributes:
        matters_watts: None for what 0.5 dB of the first group's mean are.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    confidence: Annotated[float, Ge(0.5), Le(0.9999)] = 0.95
    matters_watts: Annotated[float, Ge(0), Le(100_000)] | None = None


@dataclass(frozen=True, slots=True)
class GroupOf:
    """Units of a model: all of them, or those of some lots."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    model_id: Identity
    lots: Annotated[tuple[Name, ...], Len(0, 100)] = ()


@dataclass(frozen=True, slots=True)
class Difference:
    """The second group against the first.

    Attributes:
        by_pairs: Whether the same units were compared with themselves.
        watts: Of the means.
        low, high: Between which it lies, at the confidence that was asked for.
        p: How likely so large a difference would be if there were none.
        matters: Whether all of the interval is further from nothing than what matters; None where that is open.
        notes: What has to be said with it.
    """

    first: int
    second: int
    by_pairs: bool
    watts: float
    db: float
    low: float
    high: float
    freedom: float
    p: float
    matters_watts: float
    matters: bool | None
    notes: tuple[str, ...] = ()


def difference(
    first: Sequence[SampledUnit],
    second: Sequence[SampledUnit],
    asked: Asked = Asked(),  # frozen
) -> Difference:
    """Compare two groups: by pairs where both have the same units, else after Welch.

    Source: Welch, Biometrika 34 (1947), with Satterthwaite's degrees of freedom; Student's t for pairs.

    >>> before = [SampledUnit(f"U{at}", watts) for at, watts in enumerate((100.0, 102.0, 101.0, 99.0))]
    >>> after = [SampledUnit(f"U{at}", watts) for at, watts in enumerate((103.0, 105.5, 103.5, 102.0))]
    >>> found = difference(before, after)
    >>> found.by_pairs, found.watts, round(found.low, 2), round(found.high, 2)
    (True, 3.0, 2.35, 3.65)

    Raises:
        BadInput: too few units, the same one twice in a group, or some of which only a lower limit is known.
    """
    refuse_out_of_bounds(asked)
    for name, group in (("first", first), ("second", second)):
        _refuse_unfit(name, group)
    one, other = ({unit.unit.casefold(): unit.watts for unit in group} for group in (first, second))
    notes: list[str] = []
    if set(one) == set(other):
        pairs = np.array([other[name] - one[name] for name in one])
        by_pairs, freedom = True, float(len(pairs) - 1)
        mean, error = float(np.mean(pairs)), float(np.std(pairs, ddof=1) / math.sqrt(len(pairs)))
    else:
        if set(one) & set(other):
            notes.append("Some units are in both groups: only where all are, they are compared by pairs.")
        by_pairs = False
        mean, error, freedom = _welch(np.array(list(one.values())), np.array(list(other.values())))
    half = float(scipy.stats.t.ppf((1 + asked.confidence) / 2, freedom)) * error if error > 0 else 0.0
    if error == 0:
        notes.append("The units do not scatter at all, which units never do: look at how they were read.")
    level = float(np.mean(list(one.values())))
    matters = asked.matters_watts if asked.matters_watts is not None else level * (10 ** (HEARD_DB / 10) - 1)
    if len({unit.lot for unit in first}) == 1 or len({unit.lot for unit in second}) == 1:
        notes.append("A group of one lot: what lots differ by cannot be told from what was changed.")
    return Difference(
        first=len(first),
        second=len(second),
        by_pairs=by_pairs,
        watts=mean,
        db=ratio_db(level + mean, level),
        low=mean - half,
        high=mean + half,
        freedom=freedom,
        p=float(2 * scipy.stats.t.sf(abs(mean) / error, freedom)) if error > 0 else (1.0 if mean == 0 else 0.0),
        matters_watts=matters,
        matters=_matters(mean - half, mean + half, matters),
        notes=tuple(notes),
    )


def _welch(one: np.ndarray, other: np.ndarray) -> tuple[float, float, float]:
    parts = [float(np.var(group, ddof=1)) / len(group) for group in (one, other)]
    error = math.sqrt(sum(parts))
    spent = sum(part**2 / (len(group) - 1) for part, group in zip(parts, (one, other), strict=True))
    freedom = error**4 / spent if spent > 0 else float(len(one) + len(other) - 2)
    return float(np.mean(other) - np.mean(one)), error, freedom


def _matters(low: float, high: float, least: float) -> bool | None:
    if low > least or high < -least:
        return True
    return False if -least < low and high < least else None


def _refuse_unfit(name: str, group: Sequence[SampledUnit]) -> None:
    if len(group) < FEWEST:
        raise BadInput(f"It takes {FEWEST} units a group to tell a difference.", field=name)
    for at, unit in enumerate(group):
        refuse_out_of_bounds(unit, f"{name}.{at}.")
        if unit.censored:
            raise BadInput(f"Of {unit.unit} only a lower limit is known: it cannot be compared.", field=f"{name}.{at}")
    if len({unit.unit.casefold() for unit in group}) < len(group):
        raise BadInput("A unit is there twice in a group.", field=name)
