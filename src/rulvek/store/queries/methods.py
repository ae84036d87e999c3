"""Which methods campaigns were planned under."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Text, cast, func, select, true
from sqlalchemy.orm import Session

from rulvek.store import tables as t


@dataclass(frozen=True, slots=True)
class MethodRow:
    """A method as it was stored, with the campaigns under it."""

    method: dict[str, Any]
    campaigns: int
    first: datetime
    last: datetime
    latest_campaign: int


def settled(session: Session) -> int:
    """The last campaign up to which none still arrives: of these none comes, goes or changes its method any more."""
    arriving = session.scalar(select(func.min(t.Campaign.id)).where(t.Campaign.arriving))
    last = session.scalar(select(func.max(t.Campaign.id))) or 0
    return last if arriving is None else arriving - 1


def used(session: Session, after: int = 0, up_to: int | None = None) -> list[MethodRow]:
    """Every method that campaigns past a given one were planned under, those used last first."""
    groups = (
        select(
            func.count().label("campaigns"),
            func.min(t.Campaign.created_at).label("first"),
            func.max(t.Campaign.created_at).label("last"),
            func.max(t.Campaign.id).label("latest"),
        )
        .where(~t.Campaign.arriving, t.Campaign.id > after)
        .where(t.Campaign.id <= up_to if up_to is not None else true())
        .group_by(cast(t.Campaign.method, Text))
        .subquery()
    )
    rows = session.execute(
        select(t.Campaign.method, groups.c.campaigns, groups.c.first, groups.c.last, t.Campaign.id)
        .join(groups, groups.c.latest == t.Campaign.id)
        .order_by(t.Campaign.id.desc())
    )
    return [MethodRow(*row) for row in rows]
