"""The line in lists: models and units by key, and what is found by a part of its name."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import and_, func, or_, select
from sqlalchemy.orm import Session

from rulvek.core.records.campaigns import Unit
from rulvek.store import tables as t
from rulvek.store.load import unit_of


@dataclass(frozen=True, slots=True)
class SeriesRow:
    """A series with the ids of those of its models that a page shows."""

    id: int
    name: str
    purpose: str
    models: tuple[int, ...]


def is_empty(session: Session) -> bool:
    """Whether the records hold no product line yet."""
    return session.scalar(select(t.Series.id).limit(1)) is None


def series_page(session: Session, after: int | None, limit: int) -> tuple[list[SeriesRow], int | None]:
    """Series with their models, from past a model on, and the model to read on after; None at the end."""
    statement = (
        select(t.Series.id, t.Series.name, t.Series.purpose, t.Model.id)
        .outerjoin(t.Model, t.Model.series_id == t.Series.id)
        .order_by(t.Series.id, t.Model.id)
        .limit(limit + 1)
    )
    if after is not None:
        of_series = select(t.Model.series_id).where(t.Model.id == after).scalar_subquery()
        statement = statement.where(or_(t.Series.id > of_series, and_(t.Series.id == of_series, t.Model.id > after)))
    rows = session.execute(statement).all()
    found: dict[int, SeriesRow] = {}
    for series_id, name, purpose, model_id in rows[:limit]:
        row = found.get(series_id, SeriesRow(series_id, name, purpose, ()))
        more = () if model_id is None else (model_id,)
        found[series_id] = SeriesRow(series_id, name, purpose, (*row.models, *more))
    return list(found.values()), rows[limit - 1][3] if len(rows) > limit else None


def units_page(session: Session, model_id: int, after: int | None, limit: int) -> tuple[list[Unit], int | None]:
    """A model's units in the order in which they came, from past one on."""
    statement = select(t.Unit).where(t.Unit.model_id == model_id).order_by(t.Unit.id).limit(limit + 1)
    if after is not None:
        statement = statement.where(t.Unit.id > after)
    rows = [unit_of(row) for row in session.scalars(statement)]
    return rows[:limit], rows[limit - 1].id if len(rows) > limit else None


def unit_ids(session: Session, model_id: int) -> Sequence[int]:
    """All units of a model."""
    return session.scalars(select(t.Unit.id).where(t.Unit.model_id == model_id).order_by(t.Unit.id)).all()


def model_of_claim(session: Session, claim_id: int) -> int | None:
    """The model that a claim is made of."""
    return session.scalar(select(t.Claim.model_id).where(t.Claim.id == claim_id))


@dataclass(frozen=True, slots=True)
class FoundName:
    """Something that goes by a name: a model, a unit or a campaign."""

    kind: str
    id: int
    name: str
    of: str


def find(session: Session, words: str, limit: int) -> list[FoundName]:
    """Models and units by any part of their names, campaigns by their number or their unit; the newest first."""
    like = "%" + words.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    model_name = t.Model.name.ilike(like, escape="\\")
    models = select(t.Model.id, t.Model.name, t.Model.description).where(model_name).order_by(t.Model.id).limit(limit)
    serial = t.Unit.serial.ilike(like, escape="\\")
    units = select(t.Unit.id, t.Unit.serial, t.Model.name).join(t.Model, t.Model.id == t.Unit.model_id)
    units = units.where(or_(serial, model_name)).order_by(t.Unit.id.desc()).limit(limit)
    number = int(words) if words.isdigit() and len(words) < 16 else -1
    campaigns = select(t.Campaign.id, t.Unit.serial).join(t.Unit, t.Unit.id == t.Campaign.unit_id)
    campaigns = campaigns.where(or_(t.Campaign.id == number, serial), ~t.Campaign.arriving)
    campaigns = campaigns.order_by(func.abs(t.Campaign.id - number) if number > 0 else t.Campaign.id.desc())
    found = [FoundName("model", *row) for row in session.execute(models)]
    found += [FoundName("unit", *row) for row in session.execute(units)]
    return found + [
        FoundName("campaign", row[0], f"Campaign {row[0]}", row[1]) for row in session.execute(campaigns.limit(limit))
    ]
