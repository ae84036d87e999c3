"""Which files the records speak of: captures, recordings that people brought, documents and photographs."""

from collections.abc import Iterator

from sqlalchemy import inspect, select
from sqlalchemy.orm import Session

from rulvek.core.records.attempts import KeptFile
from rulvek.store import kept as kept_entries
from rulvek.store import tables as t
from rulvek.store.files import sidecar


def captures(session: Session) -> list[tuple[int, KeptFile]]:
    """Every capture, with the attempt that it is of."""
    # No more than every version has: what is backed up before an upgrade may be older than the rest.
    c = t.CaptureFile
    rows = session.execute(
        select(c.attempt_id, c.path, c.sha256, c.bytes, c.kept_at, c.described_sha256).order_by(c.id)
    )
    return [
        (row.attempt_id, KeptFile(row.path, row.sha256, row.bytes, row.kept_at, row.described_sha256)) for row in rows
    ]


def found_changed(session: Session) -> set[tuple[int, str]]:
    """Captures that were found to be other than they were kept: attempt and hash."""
    rows = session.execute(
        select(t.CaptureFile.attempt_id, t.CaptureFile.sha256).where(t.CaptureFile.changed_at.is_not(None))
    )
    return {(attempt_id, sha256) for attempt_id, sha256 in rows}


def originals(session: Session) -> list[tuple[int, str, str]]:
    """Every recording that was brought, as it was brought: its attempt, where it lies, its hash."""
    rows = session.execute(select(t.Attempt.id, t.Attempt.recorded).order_by(t.Attempt.id))
    return [(one, kept["original"], kept["sha256"]) for one, kept in rows if kept.get("original")]


def brought(session: Session) -> list[tuple[str, str]]:
    """Every document and photograph with its smaller ones: where it lies, and its hash."""
    # What is backed up before an upgrade may be older than files that people brought.
    if not inspect(session.connection()).has_table(t.BroughtFile.__tablename__):
        return []
    return [part for file in kept_entries.files(session) for part in file.parts]


def paths(session: Session) -> Iterator[str]:
    """Where every file lies that the records speak of, whether it is there or not."""
    for _, kept in captures(session):
        yield from (kept.path, sidecar(kept))
    for _, path, _ in originals(session):
        yield path
    for path, _ in brought(session):
        yield path
