"""Production audits: which units were looked at in which period, and whether what is promised was held."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.settling import proofs_of
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.sample import SampleRow
from rulvek.core.records.audit_plans import AuditPlanEntry
from rulvek.core.records.product import Product
from rulvek.core.runs.spec import RunSpec, same_place

SHOWN = 12
"""Periods that are looked back on."""


class AuditState(StrEnum):
    """How a period of an audit stands, the gravest first."""

    SHORT = "short"
    LATE = "late"
    OWING = "owing"
    DONE = "done"


@dataclass(frozen=True, slots=True)
class Audited:
    """A unit at a rating: it gave so much, or ``at_least`` so much where it only had to hold it."""

    rating_id: int
    unit_id: int
    serial: str
    lot: str
    attempt_id: int
    day: date
    watts: float
    at_least: bool
    wanted_watts: float

    @property
    def short(self) -> bool:
        """Whether it gives less than is promised; of one that only gave at least so much nobody knows."""
        return not self.at_least and self.watts < self.wanted_watts


@dataclass(frozen=True, slots=True)
class Period:
    """A period of an audit, both days within it.

    Attributes:
        units: Ids of units that were looked at, at every rating that the plan asks for.
        begun: Ids of those that were looked at at some of them only.
    """

    first: date
    last: date
    wanted: int
    state: AuditState
    units: tuple[int, ...]
    begun: tuple[int, ...]
    found: tuple[Audited, ...]

    @property
    def missing(self) -> int:
        """Units that are still to be looked at."""
        return max(0, self.wanted - len(self.units))


def asked_for(plan: AuditPlanEntry, published: Mapping[int, RatingTerms]) -> dict[int, RatingTerms]:
    """The published ratings that a plan is about."""
    return {
        one: terms
        for one, terms in published.items()
        if not plan.places or any(same_place(terms.at.place, at.place) for at in plan.places)
    }


def audited(
    plan: AuditPlanEntry,
    ratings: Mapping[int, RatingTerms],
    later: Mapping[int, Sequence[SampleRow]],
    days: Mapping[int, date],
    today: date,
) -> tuple[Period, ...]:
    """The periods of a plan until today, the latest first; none before it starts, or without ratings.

    Args:
        ratings: That it asks for, by their ids.
        later: Of each rating, units that count and were not in its sample when it was frozen.
        days: When readings were taken, by their attempts.
    """
    if not ratings:
        return ()
    found = [
        Audited(
            *(rating_id, row.unit_id, row.serial, row.lot, row.attempt_id, days[row.attempt_id]),
            *(row.watts, row.censored, ratings[rating_id].watts),
        )
        for rating_id in ratings
        for row in later.get(rating_id, ())
        if row.attempt_id in days and row.watts is not None and row.attempt_id is not None
    ]
    periods = [
        _period(plan, set(ratings), first, last, [one for one in found if first <= one.day <= last], today)
        for first, last in _spans(plan, today)
    ]
    return tuple(reversed(periods[-SHOWN:]))


def _period(
    plan: AuditPlanEntry, ratings: set[int], first: date, last: date, found: Sequence[Audited], today: date
) -> Period:
    seen: dict[int, set[int]] = {}
    for one in sorted(found, key=lambda one: (one.day, one.attempt_id)):
        seen.setdefault(one.unit_id, set()).add(one.rating_id)
    whole = tuple(unit for unit, at in seen.items() if at >= ratings)
    if any(one.short for one in found):
        state = AuditState.SHORT
    elif len(whole) >= plan.units:
        state = AuditState.DONE
    else:
        state = AuditState.LATE if today > last else AuditState.OWING
    begun = tuple(unit for unit in seen if unit not in whole)
    return Period(first, last, plan.units, state, whole, begun, tuple(found))


def _spans(plan: AuditPlanEntry, today: date) -> Iterable[tuple[date, date]]:
    """First and last day of each period that has begun."""
    start = 12 * plan.starts_on.year + plan.starts_on.month - 1
    starts = [date(at // 12, at % 12 + 1, 1) for at in range(start, 12 * today.year + today.month, plan.every_months)]
    if not starts:
        return []
    after = start + len(starts) * plan.every_months
    ends = [*starts[1:], date(after // 12, after % 12 + 1, 1)]
    return [(one, date.fromordinal(end.toordinal() - 1)) for one, end in zip(starts, ends, strict=True)]


def proof_runs(ratings: Iterable[RatingTerms], product: Product, method: MethodProfile) -> tuple[RunSpec, ...]:
    """The runs by which a unit proves ratings: each held, at the edges of its band or at the usual tone."""
    found = [run for terms in ratings for run in proofs_of(terms.as_claim, product, method)]
    return tuple(dict.fromkeys(found))
