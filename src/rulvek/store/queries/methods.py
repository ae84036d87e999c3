"""Which methods campaigns were planned under."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Text, cast, func, select
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


def used(session: Session) -> list[MethodRow]:
    """Every method on record, those used last first."""
    groups = (
        select(
            func.count().label("campaigns"),
            func.min(t.Campaign.created_at).label("first"),
            func.max(t.Campaign.created_at).label("last"),
            func.max(t.Campaign.id).label("latest"),
        )
        .where(~t.Campaign.arriving)
        .group_by(cast(t.Campaign.method, Text))
        .subquery()
    )
    rows = session.execute(
        select(t.Campaign.method, groups.c.campaigns, groups.c.first, groups.c.last, t.Campaign.id)
        .join(groups, groups.c.latest == t.Campaign.id)
        .order_by(t.Campaign.id.desc())
    )
    return [MethodRow(*row) for row in rows]
