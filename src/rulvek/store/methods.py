"""The lab's own methods on record."""

from datetime import datetime

from sqlalchemy import ScalarSelect, func, select
from sqlalchemy.orm import Session

from rulvek.core.errors import NotFound
from rulvek.core.method.profile import MethodProfile
from rulvek.core.method.versions import USUAL, MethodVersion
from rulvek.store import tables as t


def versions(session: Session) -> list[MethodVersion]:
    """All of them, in the order in which they were proposed."""
    return [_version(row) for row in session.scalars(select(t.MethodVersion).order_by(t.MethodVersion.id))]


def version(session: Session, version_id: int) -> MethodVersion:
    """One of them.

    Raises:
        NotFound: there is none.
    """
    row = session.get(t.MethodVersion, version_id)
    if row is None:
        raise NotFound(f"There is no version of a method with the number {version_id}.")
    return _version(row)


def usual(session: Session) -> MethodProfile:
    """What is planned and judged by where nobody says otherwise: the lab's own as approved last, or what ships."""
    row = session.scalar(select(t.MethodVersion).where(t.MethodVersion.id == usual_id()))
    return _version(row).profile if row else MethodProfile()


def usual_id() -> ScalarSelect[int | None]:
    """Which version that is, as part of a statement; null where it is what ships."""
    own = t.MethodVersion.name == USUAL, t.MethodVersion.approved_at.is_not(None)
    # A later version has a higher number and a higher id, and an earlier one is not approved after it.
    return select(func.max(t.MethodVersion.id)).where(*own).scalar_subquery()


def add(
    session: Session, name: str, number: int, profile: MethodProfile, reason: str, by: str, at: datetime
) -> MethodVersion:
    """Put a proposal on record."""
    row = t.MethodVersion(
        name=name, number=number, profile=profile.as_data(), reason=reason, proposed_by=by, proposed_at=at
    )
    session.add(row)
    session.flush()
    return _version(row)


def approve(session: Session, version_id: int, by: str, at: datetime) -> None:
    """Put its approval on record."""
    row = session.get_one(t.MethodVersion, version_id)
    row.approved_by, row.approved_at = by, at


def _version(row: t.MethodVersion) -> MethodVersion:
    return MethodVersion(
        row.id,
        row.name,
        row.number,
        MethodProfile.from_data(row.profile),
        row.reason,
        row.proposed_by,
        row.proposed_at,
        row.approved_by or "",
        row.approved_at,
    )
