"""Earlier versions of what people maintain: kept at each change, so that nothing that was ever entered is lost."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, insert, select
from sqlalchemy.orm import Session

from rulvek.store import tables as t


@dataclass(frozen=True, slots=True)
class Version:
    """How something was entered: by whom and when, and its fields."""

    number: int
    data: Mapping[str, Any]
    by: str
    at: datetime


def current(session: Session, subject: str) -> int:
    """The number of the version that holds; 1 for what was never changed."""
    return session.scalar(select(func.max(t.EntryVersion.number)).where(t.EntryVersion.subject == subject)) or 1


def all_current(session: Session) -> dict[str, int]:
    """The numbers of the versions that hold, by subject; what was never changed is left out."""
    rows = select(t.EntryVersion.subject, func.max(t.EntryVersion.number)).group_by(t.EntryVersion.subject)
    return {row[0]: row[1] for row in session.execute(rows)}


def numbers(session: Session, subjects: Sequence[str]) -> dict[str, int]:
    """The numbers of the versions of some subjects that hold; what was never changed is left out."""
    rows = select(t.EntryVersion.subject, func.max(t.EntryVersion.number)).where(t.EntryVersion.subject.in_(subjects))
    return {row[0]: row[1] for row in session.execute(rows.group_by(t.EntryVersion.subject))}


def keep(session: Session, changes: Mapping[str, tuple[Mapping[str, Any], Version]]) -> None:
    """Keep changes by their subjects, each with what was before it.

    The first change of a subject keeps what was before it, too, by whoever the audit chain says entered it.
    """
    known = numbers(session, list(changes))
    first_changed = [subject for subject in changes if subject not in known]
    entered = _entered(session, first_changed)
    rows = []
    for subject, (before, after) in changes.items():
        if subject not in known:
            by, at = entered.get(subject, ("", after.at))
            rows.append(_row(subject, Version(1, before, by, at)))
        rows.append(_row(subject, after))
    if rows:
        session.execute(insert(t.EntryVersion), rows)


def _row(subject: str, one: Version) -> dict[str, Any]:
    return {"subject": subject, "number": one.number, "data": dict(one.data), "by": one.by, "at": one.at}


def _entered(session: Session, subjects: Sequence[str]) -> dict[str, tuple[str, datetime]]:
    """By whom subjects were entered, and when."""
    rows = select(t.AuditEntry).where(t.AuditEntry.subject.in_(subjects)).order_by(t.AuditEntry.id.desc())
    return {row.subject: (row.person, row.at) for row in session.scalars(rows)}


def versions(session: Session, subject: str) -> list[Version]:
    """All that are kept, the latest first; none of what was never changed."""
    rows = select(t.EntryVersion).where(t.EntryVersion.subject == subject).order_by(t.EntryVersion.number.desc())
    return [Version(row.number, row.data, row.by, row.at) for row in session.scalars(rows)]
