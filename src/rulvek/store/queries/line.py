"""The line in lists: models and units by key, and what is found by a part of its name."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import and_, exists, func, or_, select, text
from sqlalchemy.orm import Session

from rulvek.core.errors import NotFound
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.kept import Kind
from rulvek.store import tables as t
from rulvek.store.load import unit_of


@dataclass(frozen=True, slots=True)
class SeriesRow:
    """A series with the ids of those of its models that a page shows."""

    id: int
    name: str
    purpose: str
    models: tuple[int, ...]


EVERYTHING = 1_000_000
"""As the limit of a page: all of it."""


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
    # A page ends with a model, for that is what the next one begins after; a series may be without any.
    end = len(rows) if len(rows) <= limit else max((n for n in range(1, limit + 1) if rows[n - 1][3]), default=0)
    if not end and rows:
        return series_page(session, after, 2 * limit)
    found: dict[int, SeriesRow] = {}
    for series_id, name, purpose, model_id in rows[:end]:
        row = found.get(series_id, SeriesRow(series_id, name, purpose, ()))
        more = () if model_id is None else (model_id,)
        found[series_id] = SeriesRow(series_id, name, purpose, (*row.models, *more))
    return list(found.values()), rows[end - 1][3] if end < len(rows) else None


def units_page(session: Session, model_id: int, after: int | None, limit: int) -> tuple[list[Unit], int | None]:
    """A model's units in the order in which they came, from past one on."""
    statement = select(t.Unit).where(t.Unit.model_id == model_id).order_by(t.Unit.id).limit(limit + 1)
    if after is not None:
        statement = statement.where(t.Unit.id > after)
    rows = [unit_of(row) for row in session.scalars(statement)]
    return rows[:limit], rows[limit - 1].id if len(rows) > limit else None


def units_named(session: Session, kind: Kind, model_id: int, name: str, limit: int) -> list[Unit]:
    """A model's units of a lot or of a revision, the first ones."""
    column = t.Unit.lot if kind is Kind.LOT else t.Unit.revision
    rows = select(t.Unit).where(t.Unit.model_id == model_id, func.lower(column) == func.lower(name)).order_by(t.Unit.id)
    return [unit_of(row) for row in session.scalars(rows.limit(limit))]


def all_series(session: Session) -> Sequence[t.Series]:
    """Every series, in the order in which they came."""
    return session.scalars(select(t.Series).order_by(t.Series.id)).all()


def series_names(session: Session) -> dict[int, str]:
    """What every series is called, by its id."""
    return {row.id: row.name for row in session.execute(select(t.Series.id, t.Series.name))}


def model_names(session: Session) -> dict[int, str]:
    """What every model is called, by its id."""
    return {row.id: row.name for row in session.execute(select(t.Model.id, t.Model.name))}


def model_ids(session: Session) -> Sequence[int]:
    """Every model, by series, in the order in which they came."""
    return session.scalars(select(t.Model.id).order_by(t.Model.series_id, t.Model.id)).all()


def models_of_series(session: Session, series_id: int) -> Sequence[int]:
    """A series' models, in the order in which they came."""
    return session.scalars(select(t.Model.id).where(t.Model.series_id == series_id).order_by(t.Model.id)).all()


def all_units(session: Session) -> list[Unit]:
    """Every unit, by model, in the order in which they came."""
    return [unit_of(row) for row in session.scalars(select(t.Unit).order_by(t.Unit.model_id, t.Unit.id))]


def units_of_model(session: Session, model_id: int) -> list[Unit]:
    """All units of a model, in the order in which they came."""
    return [
        unit_of(row) for row in session.scalars(select(t.Unit).where(t.Unit.model_id == model_id).order_by(t.Unit.id))
    ]


def unit_ids(session: Session, model_id: int) -> Sequence[int]:
    """All units of a model."""
    return session.scalars(select(t.Unit.id).where(t.Unit.model_id == model_id).order_by(t.Unit.id)).all()


def latest_units(session: Session, model_ids: Sequence[int], limit: int) -> dict[int, list[Unit]]:
    """The units of each model that came last, the last one first."""
    place = func.row_number().over(partition_by=t.Unit.model_id, order_by=t.Unit.id.desc()).label("place")
    ranked = select(t.Unit.id, place).where(t.Unit.model_id.in_(model_ids)).subquery()
    rows = select(t.Unit).join(ranked, ranked.c.id == t.Unit.id).where(ranked.c.place <= limit)
    found: dict[int, list[Unit]] = {}
    for row in session.scalars(rows.order_by(t.Unit.id.desc())):
        found.setdefault(row.model_id, []).append(unit_of(row))
    return found


_CALLED = {"series": t.Series.name, "model": t.Model.name, "unit": t.Unit.serial}


def is_named(session: Session, kind: Literal["series", "model", "unit"], name: str) -> bool:
    """Whether something of a kind goes by a name, in whatever case."""
    return session.scalar(select(exists().where(func.lower(_CALLED[kind]) == func.lower(name)))) is True


def has_series(session: Session, series_id: int) -> bool:
    """Whether there is such a series."""
    return session.get(t.Series, series_id) is not None


def model_of_claim(session: Session, claim_id: int) -> int | None:
    """The model that a claim is made of."""
    return session.scalar(select(t.Claim.model_id).where(t.Claim.id == claim_id))


def serials(session: Session, unit_ids: Sequence[int]) -> dict[int, str]:
    """Units' serial numbers by their ids; those that are not on record are left out."""
    rows = session.execute(select(t.Unit.id, t.Unit.serial).where(t.Unit.id.in_(unit_ids)))
    return {row.id: row.serial for row in rows}


def is_gone_by(session: Session, kind: Kind, model_id: int, name: str) -> bool:
    """Whether a unit of the model (or a claim, of a document) goes by such a name."""
    named = {
        Kind.LOT: (t.Unit.model_id, t.Unit.lot),
        Kind.REVISION: (t.Unit.model_id, t.Unit.revision),
        Kind.DOCUMENT: (t.Claim.model_id, t.Claim.__table__.c.document),
    }
    of, column = named[kind]
    return session.scalar(select(exists().where(of == model_id, func.lower(column) == func.lower(name)))) is True


def models_of_claims(session: Session, claim_ids: Sequence[int]) -> dict[int, int]:
    """The models that claims are made of, by the claims' ids."""
    rows = session.execute(select(t.Claim.id, t.Claim.model_id).where(t.Claim.id.in_(claim_ids)))
    return {row.id: row.model_id for row in rows}


@dataclass(frozen=True, slots=True)
class FoundName:
    """Something that goes by a name: a model, unit, campaign, attempt, claim or instrument."""

    kind: str
    id: int
    name: str
    of: str


_SHORTEST = 3
"""Letters of a part that the index finds by itself; shorter ones are looked for in all names of a kind."""
_UNITS = "SELECT unit.id FROM unit JOIN model ON model.id = unit.model_id"
IN_ROWS = {
    "model": ("model.name", "model.description", "model", "model.name LIKE {p} OR model.description LIKE {p}"),
    "unit": (
        "unit.serial",
        "model.name",
        "unit CROSS JOIN model ON model.id = unit.model_id",
        "unit.serial LIKE {p} OR model.name LIKE {p}",
    ),
    "campaign": (
        "'Campaign ' || campaign.id",
        "unit.serial || ' ' || model.name",
        "campaign CROSS JOIN unit ON unit.id = campaign.unit_id CROSS JOIN model ON model.id = unit.model_id",
        f"campaign.unit_id IN ({_UNITS} WHERE unit.serial LIKE {{p}} OR model.name LIKE {{p}})",
    ),
    "claim": (
        "claim.document",
        "printf('%g W, ', claim.watts) || model.name",
        "claim CROSS JOIN model ON model.id = claim.model_id",
        "claim.document LIKE {p} OR printf('%g W, ', claim.watts) LIKE {p} OR model.name LIKE {p}",
    ),
    "instrument": (
        "instrument.name || ' ' || instrument.serial",
        "'instrument'",
        "instrument",
        "instrument.name || ' ' || instrument.serial LIKE {p} OR 'instrument' LIKE {p}",
    ),
}
"""What is called how, of what, where it stands, and when a word is in it, by kind.

A join begins with its first table, newest first, and stops when there are enough.
"""
FEW = frozenset({"model", "instrument"})
"""Kinds of which there are so few that the index takes longer."""
_KINDS = ("model", "unit", "campaign", "claim", "instrument")


def find(session: Session, words: str, limit: int) -> list[FoundName]:
    """Whatever has all the words in its name or in what it is of, the newest of each kind first.

    A number finds the campaign and the attempt of that number, too.
    """
    parts = words.split()
    if not parts:
        return []
    found = _numbered(session, parts)
    for kind in _KINDS:
        if len(found) < limit:
            found += [one for one in _named(session, kind, parts, limit) if one not in found]
    return found[:limit]


def _named(session: Session, kind: str, parts: Sequence[str], limit: int) -> list[FoundName]:
    """The newest of a kind: they come newest first, so that no more are read than are wanted."""
    is_indexed = session.get_bind().dialect.name == "sqlite"
    if is_indexed and (kind in FEW or all(len(part) < _SHORTEST for part in parts)):
        return _in_rows(session, kind, parts, limit)
    like = "LIKE" if is_indexed else "ILIKE"  # in whatever case
    conditions = [f"(name {like} :p{i} ESCAPE '\\' OR of {like} :p{i} ESCAPE '\\')" for i in range(len(parts))]
    conditions.append("NOT (kind = 'campaign' AND ref IN (SELECT id FROM campaign WHERE arriving))")
    values: dict[str, Any] = {f"p{i}": f"%{_escaped(part)}%" for i, part in enumerate(parts)} | {"limit": limit}
    if is_indexed:
        indexed = ['{name of} : "' + part.replace('"', '""') + '"' for part in parts if len(part) >= _SHORTEST]
        conditions.insert(0, "found MATCH :match")
        values["match"] = " AND ".join([f"kind : {kind}", *indexed])
    else:
        conditions.insert(0, "kind = :kind")
        values["kind"] = kind
    condition = " AND ".join(conditions)  # holds no words of anybody's
    newest = "rowid" if is_indexed else "ref"
    rows = session.execute(
        text(f"SELECT kind, ref, name, of FROM found WHERE {condition} ORDER BY {newest} DESC LIMIT :limit"), values
    )
    return [FoundName(*row) for row in rows]


def _in_rows(session: Session, kind: str, parts: Sequence[str], limit: int) -> list[FoundName]:
    """Go through the rows themselves: what is too short for the index is looked for faster without it."""
    name, of, rows, holds = IN_ROWS[kind]
    conditions = []
    for i, part in enumerate(parts):
        # Of a campaign's own name only its number and a part of that word can be meant.
        is_own = kind == "campaign" and (part.casefold() in "campaign" or part.isdigit())
        whole = f"{name} LIKE {{p}} OR {holds}" if is_own else holds
        conditions.append("(" + whole.format(p=f":p{i} ESCAPE '\\'") + ")")
    values: dict[str, Any] = {f"p{i}": f"%{_escaped(part)}%" for i, part in enumerate(parts)} | {"limit": limit}
    if kind == "campaign":
        conditions.append("NOT campaign.arriving")
    asked = f"SELECT {kind}.id, {name}, {of} FROM {rows} WHERE {' AND '.join(conditions)}"
    found = session.execute(text(f"{asked} ORDER BY {kind}.id DESC LIMIT :limit"), values)
    return [FoundName(kind, *row) for row in found]


def _escaped(part: str) -> str:
    return part.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def _numbered(session: Session, parts: Sequence[str]) -> list[FoundName]:
    number = parts[-1] if parts else ""
    if not number.isascii() or not number.isdigit() or len(number) > 15 or len(parts) > 2:
        return []
    kind = parts[0].lower() if len(parts) == 2 else ""
    found = []
    of = select(t.Campaign.id, t.Unit.serial, t.Model.name).join(t.Unit, t.Unit.id == t.Campaign.unit_id)
    of = of.join(t.Model, t.Model.id == t.Unit.model_id).where(~t.Campaign.arriving)
    if "campaign".startswith(kind) and (row := session.execute(of.where(t.Campaign.id == int(number))).first()):
        found.append(FoundName("campaign", row[0], f"Campaign {row[0]}", f"{row[1]} {row[2]}"))
    of = of.join(t.Run, t.Run.campaign_id == t.Campaign.id).join(t.Attempt, t.Attempt.run_id == t.Run.id)
    if "attempt".startswith(kind) and (row := session.execute(of.where(t.Attempt.id == int(number))).first()):
        found.append(FoundName("attempt", int(number), f"Attempt {number}", f"{row[1]} {row[2]}"))
    return found


def series_named(session: Session, name: str) -> int | None:
    """The series of a name, in whatever case; None where there is none."""
    return session.scalar(select(t.Series.id).where(func.lower(t.Series.name) == func.lower(name)))


def model_named(session: Session, name: str) -> int | None:
    """The model of a name, in whatever case; None where there is none."""
    return session.scalar(select(t.Model.id).where(func.lower(t.Model.name) == func.lower(name)))


def series_of_model(session: Session, model_id: int) -> int:
    """The series of a model that is on record."""
    return session.get_one(t.Model, model_id).series_id


def units_called(session: Session, serials: Sequence[str]) -> list[Unit]:
    """Units by their serial numbers, in whatever case, in the order in which they came."""
    wanted = [serial.lower() for serial in serials]
    rows = select(t.Unit).where(func.lower(t.Unit.serial).in_(wanted)).order_by(t.Unit.id)
    return [unit_of(row) for row in session.scalars(rows)]


def series_entry(session: Session, series_id: int) -> SeriesEntry:
    """A series as it is entered.

    Raises:
        NotFound: there is none.
    """
    row = session.get(t.Series, series_id)
    if row is None:
        raise NotFound(f"There is no series number {series_id}.")
    return SeriesEntry(row.name, row.purpose, row.rating_step_watts, row.currency)


def groups_in_use(session: Session, model_id: int) -> set[str]:
    """Names of a model's groups that a campaign or a claim is of."""
    run = select(t.Run.group).join(t.Campaign, t.Campaign.id == t.Run.campaign_id)
    run = run.join(t.Unit, t.Unit.id == t.Campaign.unit_id).where(t.Unit.model_id == model_id)
    claim = select(t.Claim.__table__.c.group).where(t.Claim.model_id == model_id)
    return set(session.scalars(run.distinct())) | set(session.scalars(claim.distinct()))
