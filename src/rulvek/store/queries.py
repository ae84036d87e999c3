"""Every question that is put to the records, and every way rows are added to them."""

from collections.abc import Sequence
from typing import Any, TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload, object_session, selectinload

from rulvek.core.errors import NotFound
from rulvek.store.tables import (
    Attempt,
    AttemptEnding,
    AuditEntry,
    Base,
    Campaign,
    Claim,
    Instrument,
    Model,
    Run,
    Series,
    Step,
    Unit,
)

Row = TypeVar("Row", bound=Base)


def add(session: Session, row: Row) -> Row:
    """Add a row and give it its id."""
    session.add(row)
    session.flush()
    return row


def remembered(row: Base) -> dict[Any, Any]:
    """What was worked out before in the row's session, by key; gone with the session."""
    session = object_session(row)
    return {} if session is None else session.info


def get(session: Session, kind: type[Row], identity: int) -> Row:
    """Return a row by id.

    Raises:
        NotFound: there is none.
    """
    row = session.get(kind, identity)
    if row is None:
        raise NotFound(f"There is no {kind.__name__.lower()} number {identity}.")
    return row


def is_empty(session: Session) -> bool:
    """Whether the records hold no product line yet."""
    return session.scalar(select(func.count()).select_from(Series)) == 0


_ATTEMPTS = (
    selectinload(Campaign.runs).selectinload(Run.attempts).joinedload(Attempt.ending),
    selectinload(Campaign.runs).selectinload(Run.attempts).selectinload(Attempt.readings),
    selectinload(Campaign.runs).selectinload(Run.attempts).selectinload(Attempt.remarks),
    selectinload(Campaign.runs).selectinload(Run.attempts).selectinload(Attempt.overrulings),
    selectinload(Campaign.runs).selectinload(Run.attempts).selectinload(Attempt.seconds),
    selectinload(Campaign.runs).selectinload(Run.choices),
)


def line(session: Session) -> Sequence[Series]:
    """The whole product line with claims, units, campaigns and readings, in a handful of statements."""
    models = selectinload(Series.models)
    campaigns = models.selectinload(Model.units).selectinload(Unit.campaigns)
    runs = campaigns.selectinload(Campaign.runs).selectinload(Run.attempts)
    statement = (
        select(Series)
        .order_by(Series.id)
        .options(
            models.selectinload(Model.groups),
            models.selectinload(Model.claims).joinedload(Claim.withdrawal),
            runs.joinedload(Attempt.ending),
            runs.selectinload(Attempt.readings),
            runs.selectinload(Attempt.overrulings),
            runs.selectinload(Attempt.seconds),
            campaigns.selectinload(Campaign.runs).selectinload(Run.choices),
        )
    )
    return session.scalars(statement).unique().all()


def units_with_evidence(session: Session, model_id: int) -> Sequence[Unit]:
    """A model's units with all that was conducted on them."""
    campaigns = selectinload(Unit.campaigns)
    attempts = campaigns.selectinload(Campaign.runs).selectinload(Run.attempts)
    statement = (
        select(Unit)
        .where(Unit.model_id == model_id)
        .order_by(Unit.id)
        .options(
            attempts.joinedload(Attempt.ending),
            attempts.selectinload(Attempt.readings),
            attempts.selectinload(Attempt.overrulings),
            attempts.selectinload(Attempt.seconds),
            campaigns.selectinload(Campaign.runs).selectinload(Run.choices),
        )
    )
    return session.scalars(statement).unique().all()


def campaign(session: Session, campaign_id: int) -> Campaign:
    """A campaign with unit, runs, attempts and readings.

    Raises:
        NotFound: there is none.
    """
    statement = (
        select(Campaign)
        .where(Campaign.id == campaign_id)
        .options(joinedload(Campaign.unit).joinedload(Unit.model).joinedload(Model.series), *_ATTEMPTS)
    )
    found = session.scalars(statement).unique().first()
    if found is None:
        raise NotFound(f"There is no campaign number {campaign_id}.")
    return found


def campaigns(session: Session, before: int | None, limit: int) -> Sequence[Campaign]:
    """Campaigns, the newest first, from before a given id on (keyset paging)."""
    statement = select(Campaign).order_by(Campaign.id.desc()).limit(limit)
    statement = statement.options(joinedload(Campaign.unit).joinedload(Unit.model), *_ATTEMPTS)
    if before is not None:
        statement = statement.where(Campaign.id < before)
    return session.scalars(statement).unique().all()


def attempts(session: Session, before: int | None, limit: int, model_id: int | None = None) -> Sequence[Attempt]:
    """Attempts, the newest first, from before a given id on (keyset paging)."""
    up = joinedload(Attempt.run).joinedload(Run.campaign).joinedload(Campaign.unit).joinedload(Unit.model)
    statement = (
        select(Attempt)
        .order_by(Attempt.id.desc())
        .limit(limit)
        .options(up, joinedload(Attempt.ending), selectinload(Attempt.readings))
    )
    if before is not None:
        statement = statement.where(Attempt.id < before)
    if model_id is not None:
        statement = statement.join(Attempt.run).join(Run.campaign).join(Campaign.unit).where(Unit.model_id == model_id)
    return session.scalars(statement).unique().all()


def attempt(session: Session, attempt_id: int) -> Attempt:
    """An attempt with everything that hangs on it.

    Raises:
        NotFound: there is none.
    """
    up = joinedload(Attempt.run).joinedload(Run.campaign).joinedload(Campaign.unit).joinedload(Unit.model)
    statement = (
        select(Attempt)
        .where(Attempt.id == attempt_id)
        .options(
            up.joinedload(Model.series),
            joinedload(Attempt.ending),
            selectinload(Attempt.readings),
            selectinload(Attempt.captures),
        )
    )
    found = session.scalars(statement).unique().first()
    if found is None:
        raise NotFound(f"There is no attempt number {attempt_id}.")
    return found


def open_attempts(session: Session) -> Sequence[Attempt]:
    """Attempts that have not ended."""
    statement = select(Attempt).outerjoin(AttemptEnding).where(AttemptEnding.attempt_id.is_(None))
    return session.scalars(statement.options(joinedload(Attempt.run).joinedload(Run.campaign))).unique().all()


def next_attempt_number(session: Session, run_id: int) -> int:
    """1 for the first attempt at a run."""
    return (session.scalar(select(func.max(Attempt.number)).where(Attempt.run_id == run_id)) or 0) + 1


def steps(session: Session, attempt_id: int) -> Sequence[Step]:
    """All steps of an attempt in order."""
    return session.scalars(select(Step).where(Step.attempt_id == attempt_id).order_by(Step.id)).all()


def campaign_steps_after(session: Session, campaign_id: int, after: int, limit: int = 500) -> Sequence[Step]:
    """Steps of a campaign's attempts past a given step id, in order."""
    statement = (
        select(Step)
        .join(Attempt, Attempt.id == Step.attempt_id)
        .join(Run, Run.id == Attempt.run_id)
        .where(Run.campaign_id == campaign_id, Step.id > after)
        .order_by(Step.id)
        .limit(limit)
    )
    return session.scalars(statement).all()


def last_step_id(session: Session) -> int:
    """The newest step's id, 0 when there is none."""
    return session.scalar(select(func.max(Step.id))) or 0


def history(session: Session, subjects: Sequence[str]) -> Sequence[AuditEntry]:
    """Audit entries about any of the subjects, the oldest first."""
    statement = select(AuditEntry).where(AuditEntry.subject.in_(subjects)).order_by(AuditEntry.id)
    return session.scalars(statement).all()


def unit_by_serial(session: Session, serial: str) -> Unit:
    """The unit of a serial number.

    Raises:
        NotFound: there is none.
    """
    row = session.scalars(select(Unit).where(Unit.serial == serial)).first()
    if row is None:
        raise NotFound(f"There is no unit with the serial number “{serial}”.")
    return row


def serial_exists(session: Session, serial: str) -> bool:
    """Whether a unit with this serial number is on record."""
    return session.scalar(select(func.count()).select_from(Unit).where(Unit.serial == serial)) != 0


def instruments(session: Session) -> Sequence[Instrument]:
    """The whole gear register, the oldest entry first."""
    return session.scalars(select(Instrument).order_by(Instrument.id)).all()
