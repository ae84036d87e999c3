"""Lots, revisions and documents that somebody names before anybody enters them: each becomes a record of its own."""

from collections.abc import Iterable, Sequence
from typing import Any

from rulvek import clock
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.documents import DocumentEntry, kind_of
from rulvek.core.records.kept import Kind, title
from rulvek.core.records.revisions import LotEntry, RevisionEntry
from rulvek.store import audit, kept
from rulvek.store.engine import Session


def note_lots(session: Session, units: Sequence[Unit], actor: Actor) -> None:
    """Put units' lots and revisions on record where their models have none of those names."""
    revisions = [(unit.model_id, RevisionEntry(unit.revision)) for unit in units if unit.revision]
    lots = [(unit.model_id, LotEntry(unit.lot, unit.revision)) for unit in units if unit.lot]
    _note(session, Kind.REVISION, revisions, actor)
    _note(session, Kind.LOT, lots, actor)


def note_documents(session: Session, named: Iterable[tuple[int, str]], actor: Actor) -> None:
    """Put documents on record, each by its model and name, where the model has none of that name."""
    documents = [(model_id, DocumentEntry(name.strip(), kind_of(name))) for model_id, name in named]
    _note(session, Kind.DOCUMENT, documents, actor)


def _note(session: Session, kind: Kind, entries: Sequence[tuple[int, Any]], actor: Actor) -> None:
    here = sorted({model_id for model_id, _ in entries})
    known = {(one.of_id, one.entry.name.casefold()) for one in kept.all_of(session, kind, here)} if here else set()
    fresh: dict[tuple[int, str], tuple[int, Any]] = {}
    for model_id, entry in entries:
        key = model_id, entry.name.casefold()
        if key not in known:
            fresh.setdefault(key, (model_id, entry))
    new = list(fresh.values())
    for kept_id, (_, entry) in zip(kept.add_all(session, kind, new, actor.name, clock.now()), new, strict=True):
        audit.note(session, actor, f"named a {kind.value}", f"{kind.value}/{kept_id}", text=title(kind, entry))
