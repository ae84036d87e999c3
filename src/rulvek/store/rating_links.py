"""Links to ratings: to rows and back."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from rulvek.core.errors import NotFound
from rulvek.core.ratings.links import RatingLink
from rulvek.store import tables as t


def add(
    session: Session,
    rating_id: int,
    token: str,
    meant_for: str,
    with_records: bool,
    by: str,
    at: datetime,
    until: datetime,
) -> RatingLink:
    """Keep a link by the hash of its token."""
    row = t.RatingLink(
        rating_id=rating_id,
        token=token,
        meant_for=meant_for,
        with_records=with_records,
        made_by=by,
        made_at=at,
        until=until,
    )
    session.add(row)
    session.flush()
    return _row(row)


def of_rating(session: Session, rating_id: int) -> Sequence[RatingLink]:
    """All links to a rating, the latest first, those that ended too."""
    rows = select(t.RatingLink).where(t.RatingLink.rating_id == rating_id).order_by(t.RatingLink.id.desc())
    return [_row(one) for one in session.scalars(rows)]


def by_token(session: Session, token: str, at: datetime) -> RatingLink | None:
    """The link with this hash of its token; None where it lapsed, was ended, or never was."""
    found = session.scalar(select(t.RatingLink).where(t.RatingLink.token == token))
    row = _row(found) if found is not None else None
    return row if row is not None and row.opens(at) else None


def end(session: Session, link_id: int, at: datetime) -> RatingLink:
    """Let a link open nothing any more.

    Raises:
        NotFound: there is none.
    """
    row = session.get(t.RatingLink, link_id)
    if row is None:
        raise NotFound(f"There is no link number {link_id}.")
    row.ended_at = row.ended_at or at
    return _row(row)


def _row(row: t.RatingLink) -> RatingLink:
    return RatingLink(
        id=row.id,
        rating_id=row.rating_id,
        meant_for=row.meant_for,
        with_records=row.with_records,
        made_by=row.made_by,
        made_at=row.made_at,
        until=row.until,
        ended_at=row.ended_at,
    )
