"""Answers about production audits."""

from collections.abc import Mapping, Sequence
from datetime import date

from rulvek.core.quantities import field_names
from rulvek.core.ratings.audits import AuditState, Period
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.unsettled import IndividualsChart
from rulvek.core.records.audit_plans import AuditPlanEntry
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.kept import Kept
from rulvek.core.records.product import Model
from rulvek.services.views.base import View, view
from rulvek.services.views.rating_lives import ChartView, chart_view


@view
class AuditedView(View):
    """A unit at a rating; watts are of its weakest channel. One that only had to hold it gave at least so much."""

    rating_id: int
    unit_id: int
    serial: str
    lot: str
    attempt_id: int
    day: date
    watts: float
    at_least: bool
    short: bool


@view
class PeriodView(View):
    """A period of an audit, both days within it. ``begun`` units were looked at at some of the loads only."""

    first: date
    last: date
    state: AuditState
    wanted: int
    done: int
    begun: int
    missing: int
    found: list[AuditedView]


@view
class ProvenView(View):
    """A published rating that an audit proves, with the units in the order in which they came where they are enough."""

    id: int
    group: str
    load_ohms: float
    bridged: bool
    watts: float
    chart: ChartView | None


@view
class CandidateView(View):
    """A unit that could be looked at next."""

    unit_id: int
    serial: str
    lot: str


@view
class AuditRow(View):
    """A plan in a line; of ``wanted`` units of this period ``owed`` are missing, None before it has begun."""

    id: int
    model_id: int
    model_name: str
    words: str
    owed: int
    wanted: int | None
    state: AuditState | None


@view
class AuditView(View):
    """A plan with what became of it, the latest period first; ``owed`` units are still missing in this one."""

    id: int
    model_id: int
    model_name: str
    words: str
    entry: AuditPlanEntry
    ratings: list[ProvenView]
    periods: list[PeriodView]
    owed: int
    candidates: list[CandidateView]


def audit_row(plan: Kept, model_name: str, periods: Sequence[Period]) -> AuditRow:
    """A plan in a line."""
    now = periods[0] if periods else None
    return AuditRow(
        id=plan.id,
        model_id=plan.of_id,
        model_name=model_name,
        words=plan.entry.words,
        owed=_owed(periods),
        wanted=now.wanted if now else None,
        state=now.state if now else None,
    )


def audit_view(
    plan: Kept,
    model: Model,
    ratings: Mapping[int, RatingTerms],
    periods: Sequence[Period],
    candidates: Sequence[Unit],
    charts: Mapping[int, IndividualsChart],
) -> AuditView:
    """A plan as people see it."""
    return AuditView(
        id=plan.id,
        model_id=model.id,
        model_name=model.name,
        words=plan.entry.words,
        entry=plan.entry,
        ratings=[
            ProvenView(
                id=one,
                group=terms.at.group,
                load_ohms=terms.at.load_ohms,
                bridged=terms.at.bridged,
                watts=terms.watts,
                chart=chart_view(charts[one]) if one in charts else None,
            )
            for one, terms in ratings.items()
        ],
        periods=[_period(one) for one in periods],
        owed=_owed(periods),
        candidates=[CandidateView(unit_id=one.id, serial=one.serial, lot=one.lot) for one in candidates],
    )


def _period(one: Period) -> PeriodView:
    return PeriodView(
        first=one.first,
        last=one.last,
        state=one.state,
        wanted=one.wanted,
        done=len(one.units),
        begun=len(one.begun),
        missing=one.missing,
        found=[AuditedView(**{name: getattr(each, name) for name in field_names(AuditedView)}) for each in one.found],
    )


def _owed(periods: Sequence[Period]) -> int:
    return periods[0].missing if periods else 0
