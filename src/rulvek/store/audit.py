"""The audit chain: who did what, each entry sealed over the one before, with digests of the evidence it is about."""

import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from rulvek import clock
from rulvek.core.records.actor import PROGRAM, UNNAMED, Actor, ActorKind
from rulvek.store.tables import AuditEntry

_GATHERED = "rulvek.audit"
GENESIS = "0" * 64
VERSION = 2
_OF_BEFORE = {"Rulvek": PROGRAM, "Somebody unnamed": UNNAMED}
"""What names meant in entries of version 1, which cannot be written again."""


@dataclass(frozen=True, slots=True)
class Seal:
    """A digest of what stands on record: of an attempt, a claim, a second reading."""

    kind: str
    id: int
    sha256: str


@dataclass(frozen=True, slots=True)
class Deed:
    """What was done to a subject, with the digests of the evidence that it is about."""

    action: str
    subject: str
    detail: dict[str, Any]
    seals: Sequence[Seal] = ()


def note(session: Session, actor: Actor, action: str, subject: str, seals: Sequence[Seal] = (), **detail: Any) -> None:
    """Append an entry; it becomes part of the caller's transaction."""
    drafts = draft_all(actor, [Deed(action, subject, detail, seals)])
    if (waiting := session.info.get(_GATHERED)) is not None:
        waiting += drafts
    else:
        append(session, drafts)


@contextmanager
def gathered(session: Session) -> Iterator[None]:
    """Entries that are noted within go to the end of the chain together, which takes a statement for all of them."""
    waiting: list[Draft] = []
    session.info[_GATHERED] = waiting
    try:
        yield
    finally:
        del session.info[_GATHERED]
    append(session, waiting)


@dataclass(frozen=True, slots=True)
class Draft:
    """An entry that only wants its place in the chain; ``sealed`` is what its seal is taken of, but for that place."""

    row: dict[str, Any]
    sealed: str


def draft_all(actor: Actor, deeds: Sequence[Deed]) -> list[Draft]:
    """An entry a deed, worked out before a transaction in which others would have to wait for it."""
    drafts = []
    for deed in deeds:
        sealed = [[seal.kind, seal.id, seal.sha256] for seal in deed.seals]
        row = {
            "at": clock.now(),
            "version": VERSION,
            "actor": actor.kind.value,
            "person": actor.name,
            "action": deed.action,
            "subject": deed.subject,
            "detail": deed.detail | ({"seals": sealed} if sealed else {}),
        }
        drafts.append(Draft(row, _content(row)))
    return drafts


def append(session: Session, drafts: Sequence[Draft]) -> None:
    """Put drafted entries at the end of the chain, in a statement for all of them."""
    session.flush()
    previous = session.scalar(select(AuditEntry.hash).order_by(AuditEntry.id.desc()).limit(1)) or GENESIS
    rows: list[dict[str, Any]] = []
    for draft in drafts:
        row = draft.row | {"previous": previous}
        previous = _seal(previous, draft.sealed)
        rows.append(row | {"hash": previous})
    if rows:
        session.connection().execute(insert(AuditEntry), rows)


def actor_of(entry: AuditEntry) -> Actor:
    """Who did it."""
    if entry.version == 1:
        return _OF_BEFORE.get(entry.person, Actor(entry.person))
    return Actor(entry.person, ActorKind(entry.actor))


def head(session: Session) -> tuple[int, str]:
    """The latest entry's id and seal: a chain that was cut short since does not have it any more."""
    row = session.execute(select(AuditEntry.id, AuditEntry.hash).order_by(AuditEntry.id.desc()).limit(1)).first()
    return (row.id, row.hash) if row else (0, GENESIS)


def broken_at(session: Session) -> int | None:
    """Return the id of the first entry that was changed or whose predecessor is missing; None when the chain holds."""
    previous = GENESIS
    for entry in session.scalars(select(AuditEntry).order_by(AuditEntry.id).execution_options(yield_per=1000)):
        if entry.previous != previous or entry.hash != _seal(previous, _content(vars(entry))):
            return entry.id
        previous = entry.hash
    return None


def seals(session: Session) -> Iterator[tuple[int, Seal]]:
    """Every digest in the chain with the entry it stands in, in order."""
    for entry in session.scalars(select(AuditEntry).order_by(AuditEntry.id).execution_options(yield_per=1000)):
        for kind, identity, digest in entry.detail.get("seals", []):
            yield entry.id, Seal(kind, identity, digest)


def _content(row: Mapping[str, Any]) -> str:
    content: list[Any] = [row["at"].isoformat()]
    content += [row[name] for name in ("person", "action", "subject", "detail")]
    if row["version"] > 1:
        content += [row["version"], row["actor"]]
    return json.dumps(content, sort_keys=True, ensure_ascii=False)


def _seal(previous: str, content: str) -> str:
    """Over a JSON list of the seal before and the entry's content."""
    return hashlib.sha256(f'["{previous}", {content[1:]}'.encode()).hexdigest()
