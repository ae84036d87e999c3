"""Campaigns and attempts in lists, by key; the steps of attempts; what was left open."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from typing import Any, Literal

from sqlalchemy import ColumnElement, Text, case, cast, exists, func, or_, select
from sqlalchemy.orm import Session, defer

from rulvek.core.records.before_power import SetUp
from rulvek.core.records.summaries import AttemptFilter, CampaignSummary, RunSummary
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import Mode
from rulvek.store import tables as t
from rulvek.store.save import OF_THE_DAY

Which = Literal["all", "open", "done"]
LOOKED_BACK = 5_000


def campaigns_page(
    session: Session, before: int | None, limit: int, which: Which = "all", unit_id: int | None = None
) -> tuple[list[CampaignSummary], int | None]:
    """Campaigns, the newest first, from before a given id on; ``open`` are those with runs left to do."""
    statement = (
        select(t.Campaign, t.Unit.serial, t.Model.id, t.Model.name)
        .options(defer(t.Campaign.method, raiseload=True))  # the longest column by far
        .join(t.Unit, t.Unit.id == t.Campaign.unit_id)
        .join(t.Model, t.Model.id == t.Unit.model_id)
        .where(~t.Campaign.arriving)
        .order_by(t.Campaign.id.desc())
        .limit(limit + 1)
    )
    if before is not None:
        statement = statement.where(t.Campaign.id < before)
    if which != "all":
        statement = statement.where(t.Campaign.runs_left > 0 if which == "open" else t.Campaign.runs_left == 0)
    if unit_id is not None:
        statement = statement.where(t.Campaign.unit_id == unit_id)
    rows = session.execute(statement).all()
    runs = _runs(session, [row.id for row, *_ in rows[:limit]])
    found = [
        CampaignSummary(
            id=row.id,
            unit_id=row.unit_id,
            unit_serial=serial,
            model_id=model_id,
            model_name=model_name,
            bench=row.bench,
            supply_volts=row.supply_volts,
            policy=Wishes.from_data(row.wishes).policy,
            created_by=row.created_by,
            created_at=row.created_at,
            runs=tuple(runs[row.id]),
        )
        for row, serial, model_id, model_name in rows[:limit]
    ]
    return found, found[-1].id if len(rows) > limit else None


def _runs(session: Session, campaign_ids: Sequence[int]) -> dict[int, list[RunSummary]]:
    still = func.sum(case((t.AttemptEnding.attempt_id.is_(None) & t.Attempt.id.is_not(None), 1), else_=0))
    ended = func.sum(case((t.AttemptEnding.end.not_in(OF_THE_DAY), 1), else_=0))
    statement = (
        select(t.Run.campaign_id, t.Run.mode, t.Run.wiring_key, t.Run.predicted["minutes"].as_float(), still, ended)
        .outerjoin(t.Attempt, t.Attempt.run_id == t.Run.id)
        .outerjoin(t.AttemptEnding, t.AttemptEnding.attempt_id == t.Attempt.id)
        .where(t.Run.campaign_id.in_(campaign_ids))
        .group_by(t.Run.id)
        .order_by(t.Run.campaign_id, t.Run.position)
    )
    found: dict[int, list[RunSummary]] = defaultdict(list)
    for campaign_id, mode, key, minutes, running, done in session.execute(statement):
        found[campaign_id].append(RunSummary(Mode(mode), key, minutes, bool(running), bool(done) and not running))
    return found


@dataclass(frozen=True, slots=True)
class AttemptPlace:
    """Where an attempt in a list belongs."""

    attempt_id: int
    campaign_id: int
    model_name: str


def attempts_page(
    session: Session, before: int | None, limit: int, wanted: AttemptFilter
) -> tuple[list[AttemptPlace], int | None]:
    """Attempts, the newest first, from before a given id on, as far as what is stored of them says."""
    statement = (
        select(t.Attempt.id, t.Run.campaign_id, t.Model.name)
        .join(t.Run, t.Run.id == t.Attempt.run_id)
        .join(t.Campaign, t.Campaign.id == t.Run.campaign_id)
        .join(t.Unit, t.Unit.id == t.Campaign.unit_id)
        .join(t.Model, t.Model.id == t.Unit.model_id)
        .where(~t.Campaign.arriving)
        .order_by(t.Attempt.id.desc())
        .limit(limit + 1)
    )
    if before is not None:
        statement = statement.where(t.Attempt.id < before)
    if wanted.end is not None:
        statement = statement.join(t.AttemptEnding, t.AttemptEnding.attempt_id == t.Attempt.id)
    for condition in _conditions(wanted):
        statement = statement.where(condition)
    rows = [AttemptPlace(*row) for row in session.execute(statement)]
    return rows[:limit], rows[limit - 1].attempt_id if len(rows) > limit else None


def _conditions(wanted: AttemptFilter) -> Iterator[ColumnElement[bool]]:
    if wanted.model_id is not None:
        yield t.Unit.model_id == wanted.model_id
    if wanted.model:
        yield t.Model.name.icontains(wanted.model, autoescape=True)
    if wanted.unit:
        yield t.Unit.serial.icontains(wanted.unit, autoescape=True)
    if wanted.person:
        yield t.Attempt.started_by.icontains(wanted.person, autoescape=True)
    if wanted.mode is not None:
        yield t.Run.mode == wanted.mode.value
    if wanted.load_ohms is not None:
        yield func.abs(t.Run.load_ohms / wanted.load_ohms - 1) < 0.005
    if wanted.end is not None:
        yield t.AttemptEnding.end == wanted.end.value
    if wanted.since is not None:
        yield t.Attempt.started_at >= datetime.combine(wanted.since, time(), UTC)
    if wanted.until is not None:
        yield t.Attempt.started_at < datetime.combine(wanted.until + timedelta(days=1), time(), UTC)


@dataclass(frozen=True, slots=True)
class StepRow:
    """Something that happened in an attempt. ``id`` counts over all attempts: watchers resume by it."""

    id: int
    attempt_id: int
    kind: str
    at_seconds: float
    data: dict[str, Any]


def steps(session: Session, attempt_id: int) -> list[StepRow]:
    """All steps of an attempt in order."""
    return _steps(session, select(t.Step).where(t.Step.attempt_id == attempt_id).order_by(t.Step.id))


def steps_after(session: Session, campaign_id: int, after: int, limit: int = 500) -> list[StepRow]:
    """Steps of a campaign's attempts past a given step id, in order."""
    statement = (
        select(t.Step)
        .join(t.Attempt, t.Attempt.id == t.Step.attempt_id)
        .join(t.Run, t.Run.id == t.Attempt.run_id)
        .where(t.Run.campaign_id == campaign_id, t.Step.id > after)
        .order_by(t.Step.id)
        .limit(limit)
    )
    return _steps(session, statement)


def _steps(session: Session, statement: Any) -> list[StepRow]:
    return [StepRow(s.id, s.attempt_id, s.kind, s.at_seconds, s.data) for s in session.scalars(statement)]


def last_step_id(session: Session) -> int:
    """The newest step's id, 0 when there is none."""
    return session.scalar(select(t.Step.id).order_by(t.Step.id.desc()).limit(1)) or 0


def is_planned(session: Session, run_id: int) -> bool:
    """Whether a run still is one."""
    return bool(session.scalar(select(exists().where(t.Run.id == run_id))))


def campaign_exists(session: Session, campaign_id: int) -> bool:
    """Whether a campaign is on record."""
    return session.scalar(select(t.Campaign.id).where(t.Campaign.id == campaign_id)) is not None


def campaign_of_run(session: Session, run_id: int) -> int:
    """The campaign of a run that is on record."""
    return session.get_one(t.Run, run_id).campaign_id


def last_set_ups(session: Session, bench: str) -> tuple[SetUp, ...]:
    """What a bench was last set up for, and the last before that for something else; fewer where there was less.

    Of a bench that was not in use for thousands of attempts elsewhere nobody is sure how it is wired.
    """
    last = last_set_up(session, bench)
    other = last_set_up(session, bench, last) if last is not None else None
    return tuple(one for one in (last, other) if one is not None)


def newest_set_up(session: Session) -> tuple[int, int]:
    """Up to which preparation and attempt there is something on record: before another one no bench is set up anew."""
    prepared, tried = (session.scalar(select(func.max(one.id))) for one in (t.Preparation, t.Attempt))
    return prepared or 0, tried or 0


def last_set_up(session: Session, bench: str, beside: SetUp | None = None) -> SetUp | None:
    """What a bench was last set up for, or the last before that for something else."""
    prepared = (
        select(t.Unit.id, t.Unit.serial, t.Preparation.wiring_key, t.Preparation.at)
        .join_from(t.Preparation, t.Campaign, t.Campaign.id == t.Preparation.campaign_id)
        .join(t.Unit, t.Unit.id == t.Campaign.unit_id)
        .where(t.Campaign.bench == bench, _lately(t.Preparation))
        .order_by(t.Preparation.id.desc())
        .limit(1)
    )
    # What was read elsewhere says nothing of the bench.
    run = (
        select(t.Unit.id, t.Unit.serial, t.Run.wiring_key, t.Attempt.started_at)
        .join_from(t.Attempt, t.Run, t.Run.id == t.Attempt.run_id)
        .join(t.Campaign, t.Campaign.id == t.Run.campaign_id)
        .join(t.Unit, t.Unit.id == t.Campaign.unit_id)
        .where(t.Campaign.bench == bench, _lately(t.Attempt))
        .where(*(cast(one, Text) == "{}" for one in (t.Attempt.typed, t.Attempt.recorded)))
        .order_by(t.Attempt.id.desc())
        .limit(1)
    )
    if beside is not None:
        prepared = prepared.where(
            or_(t.Campaign.unit_id != beside.unit_id, t.Preparation.wiring_key != beside.wiring_key)
        )
        run = run.where(or_(t.Campaign.unit_id != beside.unit_id, t.Run.wiring_key != beside.wiring_key))
    found = [SetUp(*row) for one in (prepared, run) if (row := session.execute(one).first()) is not None]
    return max(found, key=lambda one: one.at, default=None)


def _lately(kind: type[t.Attempt] | type[t.Preparation]) -> ColumnElement[bool]:
    return kind.id > select(func.max(kind.id)).scalar_subquery() - LOOKED_BACK


def next_attempt_number(session: Session, run_id: int) -> int:
    """1 for the first attempt at a run."""
    return (session.scalar(select(func.max(t.Attempt.number)).where(t.Attempt.run_id == run_id)) or 0) + 1


@dataclass(frozen=True, slots=True)
class OpenAttempt:
    """An attempt that has not ended, and the bench that it was started on."""

    attempt_id: int
    number: int
    campaign_id: int
    bench: str


def open_attempts(session: Session) -> list[OpenAttempt]:
    """Attempts that have not ended."""
    statement = (
        select(t.Attempt.id, t.Attempt.number, t.Run.campaign_id, t.Campaign.bench)
        .join(t.Run, t.Run.id == t.Attempt.run_id)
        .join(t.Campaign, t.Campaign.id == t.Run.campaign_id)
        .outerjoin(t.AttemptEnding, t.AttemptEnding.attempt_id == t.Attempt.id)
        .where(t.AttemptEnding.attempt_id.is_(None))
    )
    return [OpenAttempt(*row) for row in session.execute(statement)]


def has_ended(session: Session, attempt_id: int) -> bool:
    """Whether an attempt has its ending."""
    return session.get(t.AttemptEnding, attempt_id) is not None


def started_at(session: Session, attempt_id: int) -> datetime:
    """When an attempt was started, by the server's clock."""
    return session.scalars(select(t.Attempt.started_at).where(t.Attempt.id == attempt_id)).one()


def arriving_campaigns(session: Session, begun_before: datetime) -> list[int]:
    """Campaigns that are written in pieces and not shown yet."""
    return list(session.scalars(select(t.Campaign.id).where(t.Campaign.arriving, t.Campaign.created_at < begun_before)))


def gains_turned(session: Session, unit_id: int) -> list[tuple[str, dict[str, Any]]]:
    """What was found when a unit's gains were matched, the oldest first: wiring and data."""
    statement = (
        select(t.Preparation.wiring_key, t.Preparation.data)
        .join(t.Campaign, t.Campaign.id == t.Preparation.campaign_id)
        .where(t.Campaign.unit_id == unit_id, t.Preparation.item == "gains")
        .order_by(t.Preparation.id)
    )
    return [(key, data) for key, data in session.execute(statement)]


def ids_of_unit(session: Session, unit_id: int) -> Sequence[int]:
    """A unit's campaigns, the oldest first."""
    return session.scalars(select(t.Campaign.id).where(t.Campaign.unit_id == unit_id).order_by(t.Campaign.id)).all()
