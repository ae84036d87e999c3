"""Answers about two groups of units."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rulvek.core.ratings.aspects import Aspect, Told
from rulvek.core.ratings.compare import Asked, Difference
from rulvek.core.ratings.sample import SampleRow
from rulvek.services.views.base import View, view


@view
class ComparedUnitView(View):
    """A unit of a group; ``watts`` is null where it does not count, which ``left_out`` explains."""

    unit_id: int
    serial: str
    lot: str
    watts: float | None
    left_out: str
    attempt_id: int | None
    simulated: bool


@view
class ComparedGroupView(View):
    """A group of units that is compared."""

    name: str
    mean: float
    units: list[ComparedUnitView]


@view
class AspectView(View):
    """What else the groups differ in; a group whose units cannot tell it has null."""

    aspect: Aspect
    first: Told | None
    second: Told | None


@view
class ComparedView(View):
    """Two groups, and how the second differs from the first; watts."""

    confidence: float
    first: ComparedGroupView
    second: ComparedGroupView
    by_pairs: bool
    watts: float
    db: float
    low: float
    high: float
    p: float
    matters_watts: float
    matters: bool | None
    notes: list[str]
    aspects: list[AspectView]


@dataclass(frozen=True, slots=True)
class ComparedGroup:
    """A group with what its units give, and what else they tell."""

    name: str
    rows: Sequence[SampleRow]
    aspects: Mapping[Aspect, Told]


def compared_view(asked: Asked, first: ComparedGroup, second: ComparedGroup, found: Difference) -> ComparedView:
    """Two groups with their difference."""
    return ComparedView(
        confidence=asked.confidence,
        first=_group_view(first.name, first.rows),
        second=_group_view(second.name, second.rows),
        by_pairs=found.by_pairs,
        watts=found.watts,
        db=found.db,
        low=found.low,
        high=found.high,
        p=found.p,
        matters_watts=found.matters_watts,
        matters=found.matters,
        notes=list(found.notes),
        aspects=[
            AspectView(aspect=one, first=first.aspects.get(one), second=second.aspects.get(one))
            for one in Aspect
            if one in first.aspects or one in second.aspects
        ],
    )


def _group_view(name: str, rows: Sequence[SampleRow]) -> ComparedGroupView:
    units = [
        ComparedUnitView(
            unit_id=row.unit_id,
            serial=row.serial,
            lot=row.lot,
            watts=row.watts if row.counts and not row.censored else None,
            left_out=row.left_out or ("Only a lower limit is known." if row.censored else ""),
            attempt_id=row.attempt_id,
            simulated=row.simulated,
        )
        for row in rows
    ]
    read = [one.watts for one in units if one.watts is not None]
    return ComparedGroupView(name=name, mean=sum(read) / len(read), units=units)
