"""What is kept with models and units: to rows and back."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from functools import cache
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from rulvek.core.errors import NotFound
from rulvek.core.quantities import field_names
from rulvek.core.records.documents import FileEntry
from rulvek.core.records.kept import OF, SHAPES, Kept, Kind
from rulvek.store import tables as t


def add(session: Session, kind: Kind, of_id: int, entry: Any, by: str, at: datetime) -> int:
    """Put an entry on record; returns its id."""
    return add_all(session, kind, [(of_id, entry)], by, at)[0]


def add_all(session: Session, kind: Kind, entries: Sequence[tuple[int, Any]], by: str, at: datetime) -> list[int]:
    """Put entries on record, each with what it is kept with; returns their ids, in order."""
    rows = [
        {
            f"{OF[kind]}_id": of_id,
            "kind": kind,
            "entry": data_of(kind, entry),
            "entered_by": by,
            "entered_at": at,
        }
        for of_id, entry in entries
    ]
    if not rows:
        return []
    statement = insert(t.KeptEntry).returning(t.KeptEntry.id, sort_by_parameter_order=True)
    return list(session.scalars(statement, rows))


def change(session: Session, kept_id: int, kind: Kind, entry: Any) -> None:
    """Another entry in place of the one that holds."""
    session.get_one(t.KeptEntry, kept_id).entry = data_of(kind, entry)


def close(session: Session, kept_id: int, closed: bool) -> None:
    """That an entry is not used any more, or is again."""
    session.get_one(t.KeptEntry, kept_id).closed = closed


def one(session: Session, kind: Kind, kept_id: int) -> Kept:
    """An entry.

    Raises:
        NotFound: there is none of that kind.
    """
    row = session.get(t.KeptEntry, kept_id)
    if row is None or row.kind is not kind:
        raise NotFound(f"There is no {kind.value} number {kept_id}.")
    return _kept(row)


def all_of(session: Session, kind: Kind, of_ids: Sequence[int]) -> list[Kept]:
    """Everything of a kind that is kept with any of these models (or units), in the order in which it came."""
    of = t.KeptEntry.model_id if OF[kind] == "model" else t.KeptEntry.unit_id
    rows = select(t.KeptEntry).where(of.in_(of_ids), t.KeptEntry.kind == kind).order_by(t.KeptEntry.id)
    return [_kept(row) for row in session.scalars(rows)]


def names(session: Session, kind: Kind, of_ids: Sequence[int]) -> dict[int, tuple[str, ...]]:
    """What entries of a kind are called that are in use, by the models that they are kept with."""
    found: dict[int, tuple[str, ...]] = {}
    for one in all_of(session, kind, of_ids):
        if not one.closed:
            found[one.of_id] = (*found.get(one.of_id, ()), one.entry.name)
    return found


def subjects_of(session: Session, kinds: Iterable[Kind], of_id: int) -> list[str]:
    """How the audit chain names what is kept with a model or a unit."""
    return [one.subject for kind in kinds for one in all_of(session, kind, [of_id])]


def data_of(kind: Kind, entry: Any) -> dict[str, Any]:
    """An entry as plain data."""
    data: dict[str, Any] = _adapter(kind).dump_python(entry, mode="json")
    return data


def entry_of(kind: Kind, data: Any) -> Any:
    """An entry from plain data; fields that came later read as their defaults."""
    return _adapter(kind).validate_python(data)


def add_file(session: Session, new: FileEntry, by: str, at: datetime) -> FileEntry:
    """Put a file on record; one with the same bytes stays as it was called first."""
    known = session.get(t.BroughtFile, new.sha256)
    if known is None:
        known = t.BroughtFile(**{name: getattr(new, name) for name in field_names(FileEntry)}, added_by=by, added_at=at)
        session.add(known)
        session.flush()
    return _file(known)


def file(session: Session, sha256: str) -> FileEntry:
    """A file on record.

    Raises:
        NotFound: there is none with these bytes.
    """
    row = session.get(t.BroughtFile, sha256)
    if row is None:
        raise NotFound("There is no such file on record.")
    return _file(row)


def files(session: Session) -> list[FileEntry]:
    """All files on record."""
    return [_file(row) for row in session.scalars(select(t.BroughtFile).order_by(t.BroughtFile.sha256))]


def _file(row: t.BroughtFile) -> FileEntry:
    return FileEntry(**{name: getattr(row, name) for name in field_names(FileEntry)})


def _kept(row: t.KeptEntry) -> Kept:
    of_id = row.model_id if OF[row.kind] == "model" else row.unit_id
    return Kept(row.id, row.kind, of_id or 0, entry_of(row.kind, row.entry), row.entered_by, row.entered_at, row.closed)


@cache
def _adapter(kind: Kind) -> TypeAdapter[Any]:
    return TypeAdapter(SHAPES[kind])
