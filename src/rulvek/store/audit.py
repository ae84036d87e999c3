"""The audit chain: who did what, each entry sealed over the one before."""

import hashlib
import json
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from rulvek.store.tables import AuditEntry

GENESIS = "0" * 64


def note(session: Session, person: str, action: str, subject: str, **detail: Any) -> AuditEntry:
    """Append an entry; it becomes part of the caller's transaction."""
    last = session.scalars(select(AuditEntry).order_by(AuditEntry.id.desc()).limit(1)).first()
    entry = AuditEntry(
        at=datetime.now(UTC),
        person=person,
        action=action,
        subject=subject,
        detail=detail,
        previous=last.hash if last else GENESIS,
    )
    entry.hash = _seal(entry)
    session.add(entry)
    session.flush()
    return entry


def broken_at(session: Session) -> int | None:
    """Return the id of the first entry that was changed or whose predecessor is missing; None when the chain holds."""
    previous = GENESIS
    for entry in session.scalars(select(AuditEntry).order_by(AuditEntry.id)):
        if entry.previous != previous or entry.hash != _seal(entry):
            return entry.id
        previous = entry.hash
    return None


def _seal(entry: AuditEntry) -> str:
    content = [entry.previous, entry.at.isoformat(), entry.person, entry.action, entry.subject, entry.detail]
    return hashlib.sha256(json.dumps(content, sort_keys=True, ensure_ascii=False).encode()).hexdigest()
