"""Lots, revisions and documents that somebody names before anybody enters them: each becomes a record of its own."""

from typing import Any

from rulvek import clock
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.documents import DocumentEntry, kind_of
from rulvek.core.records.kept import Kind, title
from rulvek.core.records.revisions import LotEntry, RevisionEntry
from rulvek.store import audit, kept
from rulvek.store.engine import Session


def note_lot(session: Session, unit: Unit, actor: Actor) -> None:
    """Put a unit's lot and revision on record where its model has none of that name."""
    if unit.revision:
        _note(session, Kind.REVISION, unit.model_id, RevisionEntry(unit.revision), actor)
    if unit.lot:
        _note(session, Kind.LOT, unit.model_id, LotEntry(unit.lot, unit.revision), actor)


def note_document(session: Session, model_id: int, name: str, actor: Actor) -> None:
    """Put a document on record where the model has none of that name."""
    _note(session, Kind.DOCUMENT, model_id, DocumentEntry(name.strip(), kind_of(name)), actor)


def _names(session: Session, kind: Kind, model_id: int) -> set[str]:
    """Names that are on record, read once in a transaction."""
    read: dict[tuple[Kind, int], set[str]] = session.info.setdefault("rulvek.named", {})
    if (kind, model_id) not in read:
        read[kind, model_id] = {one.entry.name.casefold() for one in kept.all_of(session, kind, [model_id])}
    return read[kind, model_id]


def _note(session: Session, kind: Kind, model_id: int, entry: Any, actor: Actor) -> None:
    known = _names(session, kind, model_id)
    if entry.name.casefold() in known:
        return
    known.add(entry.name.casefold())
    kept_id = kept.add(session, kind, model_id, entry, actor.name, clock.now())
    audit.note(session, actor, f"named a {kind.value}", f"{kind.value}/{kept_id}", text=title(kind, entry))
