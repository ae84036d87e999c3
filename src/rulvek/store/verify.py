"""Holding the records against themselves: integrity, the audit chain, every file by its hash, every sealed figure."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

from rulvek.store import audit, named, seals
from rulvek.store.audit import Seal
from rulvek.store.engine import Database
from rulvek.store.files import FileStore

AT_ONCE = 500


@dataclass(frozen=True, slots=True)
class Verified:
    """What was found: one line a fault, and how much was looked at."""

    faults: tuple[str, ...]
    entries: int
    files: int
    sealed: int
    unsealed: int


def verify(database: Database, files: FileStore) -> Verified:
    """Check everything that can be checked, without changing anything."""
    with database.reading() as session:
        faults = list(database.kind.faults(session))
        broken = audit.broken_at(session)
        if broken is not None:
            faults.append(f"The audit chain is broken at entry {broken}.")
        kept = named.captures(session)
        faults += [
            f"Attempt {attempt_id}: the capture {one.path} is not as it was kept."
            for attempt_id, one in kept
            if not files.is_intact(one)
        ]
        originals = named.originals(session)
        faults += [
            f"Attempt {attempt_id}: the recording {path} is not as it was kept."
            for attempt_id, path, sha256 in originals
            if not files.holds(path, sha256)
        ]
        brought = named.brought(session)
        faults += [
            f"The file {path} is not as it was brought." for path, sha256 in brought if not files.holds(path, sha256)
        ]
        chained = [seal for _, seal in audit.seals(session)]
        faults += _seal_faults(session, chained)
        entries = session.scalar(text("SELECT count(*) FROM audit_entry")) or 0
        ended = session.scalar(text("SELECT count(*) FROM attempt_ending")) or 0
        sealed = len({seal.id for seal in chained if seal.kind == "attempt"})
        return Verified(
            tuple(faults), entries, len(kept) + len(originals) + len(brought), sealed, max(0, ended - sealed)
        )


def _seal_faults(session: Session, chained: Sequence[Seal]) -> Iterator[str]:
    attempts = {seal.id: seal for seal in chained if seal.kind == "attempt"}
    for start in range(0, len(attempts), AT_ONCE):
        part = dict(list(attempts.items())[start : start + AT_ONCE])
        found = {seal.id: seal for seal in seals.attempt_seals(session, list(part))}
        yield from _differences("Attempt", part, found)
    seconds = {seal.id: seal for seal in chained if seal.kind == "second"}
    found = {seal.id: seal for seal in seals.second_reading_seals(session, list(seconds))}
    yield from _differences("Second reading", seconds, found)
    steps = {seal.id: seal for seal in chained if seal.kind == "rating"}
    found = {seal.id: seal for seal in seals.rating_seals(session, list(steps))}
    yield from _differences("Step of a rating", steps, found)
    claims = {seal.id: seal for seal in chained if seal.kind == "claim"}
    standing = {one: seal for one in claims if (seal := seals.claim_seal(session, one)) is not None}
    yield from _differences("Claim", claims, standing)


def _differences(kind: str, sealed: dict[int, Seal], found: dict[int, Seal]) -> Iterator[str]:
    for identity, seal in sealed.items():
        if identity not in found:
            yield f"{kind} {identity} was sealed and is gone."
        elif found[identity].sha256 != seal.sha256:
            yield f"{kind} {identity} is not as it was sealed."
