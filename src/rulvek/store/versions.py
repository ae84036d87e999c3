"""Earlier versions of what people maintain: kept at each change, so that nothing that was ever entered is lost."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
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


def keep(session: Session, subject: str, before: Mapping[str, Any], after: Version) -> None:
    """Keep a change; the first one keeps what was before it, too, by whoever the audit chain says entered it."""
    if after.number == 2 and not _has_any(session, subject):
        first = session.scalar(select(t.AuditEntry).where(t.AuditEntry.subject == subject).order_by(t.AuditEntry.id))
        by, at = (first.person, first.at) if first else ("", after.at)
        session.add(t.EntryVersion(subject=subject, number=1, data=dict(before), by=by, at=at))
    session.add(t.EntryVersion(subject=subject, number=after.number, data=dict(after.data), by=after.by, at=after.at))


def versions(session: Session, subject: str) -> list[Version]:
    """All that are kept, the latest first; none of what was never changed."""
    rows = select(t.EntryVersion).where(t.EntryVersion.subject == subject).order_by(t.EntryVersion.number.desc())
    return [Version(row.number, row.data, row.by, row.at) for row in session.scalars(rows)]


def _has_any(session: Session, subject: str) -> bool:
    return session.scalar(select(t.EntryVersion.id).where(t.EntryVersion.subject == subject).limit(1)) is not None
