"""Production audits: what is owed in which month, and the campaigns by which units prove what is promised."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Protocol

from rulvek import clock
from rulvek.core.errors import Conflict
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.audits import Period, asked_for, audited, proof_runs
from rulvek.core.ratings.basis import Basis, RatingTerms
from rulvek.core.ratings.life import RatingState
from rulvek.core.ratings.sample import LEFT_OUT
from rulvek.core.ratings.unsettled import Today, came_later, individuals
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.kept import Kept, Kind
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.ratings.watch import RatingWatch
from rulvek.services.views.audits import AuditRow, AuditView, audit_row, audit_view
from rulvek.services.views.campaign import CampaignView
from rulvek.store import kept, load, methods, ratings
from rulvek.store.engine import Database, Session
from rulvek.store.queries import line as line_queries
from rulvek.store.queries import records as record_queries
from rulvek.store.ratings import RatingRow

MOST_CANDIDATES = 50
"""Units of a model that are offered for its next audit: those that came last and were not looked at yet."""


class Planned(Protocol):
    """Puts a campaign of the given runs on record."""

    def __call__(
        self,
        unit_id: int,
        actor: Actor,
        wishes: Wishes,
        specs: Sequence[RunSpec],
        method: MethodProfile,
        bench: str | None,
    ) -> CampaignView: ...


@dataclass(frozen=True, slots=True)
class _Looked:
    """A plan, the published ratings that it asks for, its periods, and what those ratings are held against."""

    plan: Kept
    asked: dict[int, RatingTerms]
    periods: Sequence[Period]
    held: dict[int, tuple[Basis, Today]]


class Audits:
    """Puts plans, published ratings and what was read since side by side."""

    def __init__(self, database: Database, watch: RatingWatch, plan_campaign: Planned) -> None:
        self._database, self._watch, self._plan_campaign = database, watch, plan_campaign
        self._days: dict[int, date] = {}

    def rows(self, day: date | None = None) -> list[AuditRow]:
        """Every plan that is in use and what it owes, in the order of its models."""
        with self._database.reading() as session:
            plans = [
                one for one in kept.all_of(session, Kind.AUDIT_PLAN, line_queries.model_ids(session)) if not one.closed
            ]
            looked = self._look(session, plans, day)
            names = line_queries.model_names(session)
        return [audit_row(one.plan, names[one.plan.of_id], one.periods) for one in looked]

    def one(self, plan_id: int, day: date | None = None) -> AuditView:
        """A plan with its periods, its ratings as units came, and who could be looked at next.

        Raises:
            NotFound: no such plan.
        """
        with self._database.reading() as session:
            plan = kept.one(session, Kind.AUDIT_PLAN, plan_id)
            (looked,) = self._look(session, [plan], day)
            model = load.model(session, plan.of_id)
            most = MOST_CANDIDATES + len(_seen(looked.periods))
            units = line_queries.latest_units(session, [plan.of_id], most).get(plan.of_id, [])
        charts = {one: chart for one, held in looked.held.items() if (chart := individuals(*held))}
        return audit_view(plan, model, looked.asked, looked.periods, _candidates(units, looked.periods), charts)

    def prove(self, plan_id: int, unit_id: int, actor: Actor, bench: str | None = None) -> CampaignView:
        """Plan the proofs of a plan's ratings for a unit of its model: one campaign, ready to be conducted.

        Raises:
            NotFound: no such plan or unit.
            Conflict: the unit is of another model, or there is nothing to prove.
        """
        with self._database.reading() as session:
            plan = kept.one(session, Kind.AUDIT_PLAN, plan_id)
            unit = load.unit(session, unit_id)
            model = load.model(session, plan.of_id)
            rows = _published(session, {plan.of_id}).get(plan.of_id, [])
            usual = methods.usual(session)
        if unit.model_id != plan.of_id:
            raise Conflict(f"{unit.serial} is no unit of {model.name}.", todo="Choose one of its units.")
        asked = list(asked_for(plan.entry, _terms(rows)).values())
        if not asked:
            raise Conflict(f"No rating of {model.name} is published there.", todo="Publish one, or change the plan.")
        method = _with_limit(usual, asked)
        return self._plan_campaign(
            unit_id, actor, Wishes(modes=(Mode.PROOF,)), proof_runs(asked, model.product, method), method, bench
        )

    def _look(self, session: Session, plans: Sequence[Kept], day: date | None) -> list[_Looked]:
        """What became of some plans until a day, by what their ratings rest on and what is there today."""
        published = _published(session, {one.of_id for one in plans})
        rows = [row for some in published.values() for row in some]
        bases, now = ratings.bases_of(session, rows), self._watch.today(session, rows)
        later = {one: came_later(basis, now[one]) for one, basis in bases.items()}
        attempts = [row.attempt_id for some in later.values() for row in some if row.attempt_id is not None]
        days = self._days_taken(session, attempts)
        found = []
        for plan in sorted(plans, key=lambda one: (one.of_id, one.id)):
            asked = asked_for(plan.entry, _terms(published.get(plan.of_id, [])))
            periods = audited(plan.entry, asked, later, days, day or clock.now().date())
            held = {one: (bases[one], now[one]) for one in asked if one in bases}
            found.append(_Looked(plan, asked, periods, held))
        return found

    def _days_taken(self, session: Session, attempts: Sequence[int]) -> Mapping[int, date]:
        """On which day each was begun: looked up once, as that stays so."""
        if new := [one for one in attempts if one not in self._days]:
            self._days = {**self._days, **record_queries.days_taken(session, new)}
        return self._days


def _published(session: Session, models: set[int]) -> dict[int, list[RatingRow]]:
    found: dict[int, list[RatingRow]] = {}
    for row in ratings.everything(session):
        if row.model_id in models and row.life.state is RatingState.PUBLISHED:
            found.setdefault(row.model_id, []).append(row)
    return found


def _terms(rows: Sequence[RatingRow]) -> dict[int, RatingTerms]:
    return {row.id: row.terms for row in rows}


def _with_limit(method: MethodProfile, asked: Sequence[RatingTerms]) -> MethodProfile:
    """A campaign has one limit of THD+N: the lowest that is promised."""
    limits = [terms.at.thd_n_percent for terms in asked if terms.at.thd_n_percent is not None]
    return replace(method, thd_n_limit_percent=min(limits)) if limits else method


def _seen(periods: Sequence[Period]) -> Sequence[int]:
    """The units that were looked at in the newest period."""
    return list(periods[0].units) if periods else []


def _candidates(latest: Sequence[Unit], periods: Sequence[Period]) -> list[Unit]:
    """Units of production that were not looked at in this period."""
    seen = set(_seen(periods))
    fit = [one for one in latest if one.id not in seen and one.facts.came not in LEFT_OUT]
    return fit[:MOST_CANDIDATES]
