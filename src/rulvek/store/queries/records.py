"""The register of gear, the benches, and the history of things."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from rulvek.core.quantities import field_names
from rulvek.core.records.actor import Actor
from rulvek.core.records.benches import Looked, SelfTest
from rulvek.core.records.instruments import InstrumentEntry, InstrumentRole, Instruments, InstrumentUsed
from rulvek.store import tables as t
from rulvek.store.audit import actor_of


@dataclass(frozen=True, slots=True)
class Registered:
    """An entry of the gear register."""

    id: int
    entry: InstrumentEntry
    entered_by: str
    entered_at: datetime


def register(session: Session) -> list[Registered]:
    """The whole gear register, the oldest entry first."""
    return [_registered(row) for row in session.scalars(select(t.Instrument).order_by(t.Instrument.id))]


def _registered(row: t.Instrument) -> Registered:
    names = field_names(InstrumentEntry)
    values = {name: getattr(row, name) for name in names} | {"role": InstrumentRole(row.role)}
    return Registered(row.id, InstrumentEntry(**values), row.entered_by, row.entered_at)


def instruments_in_use(session: Session) -> Instruments:
    """What each role is read with now: the latest entry of each."""
    latest = select(func.max(t.Instrument.id)).group_by(t.Instrument.role)
    rows = [_registered(row) for row in session.scalars(select(t.Instrument).where(t.Instrument.id.in_(latest)))]
    return Instruments({r.entry.role: InstrumentUsed(r.entry.specification, r.entry.due_on) for r in rows})


def instrument_named(session: Session, name: str) -> InstrumentEntry | None:
    """The latest entry of an instrument by its name, with or without its serial number."""
    wanted = name.strip().lower()
    named = func.lower(t.Instrument.name)
    full = func.lower(t.Instrument.name + " " + t.Instrument.serial)
    statement = select(t.Instrument).where((named == wanted) | (full == wanted)).order_by(t.Instrument.id.desc())
    row = session.scalars(statement.limit(1)).first()
    return _registered(row).entry if row else None


def capture_digests(session: Session) -> set[str]:
    """SHA-256 of every waveform on record."""
    return set(session.scalars(select(t.CaptureFile.sha256)))


def withdrawn(session: Session) -> dict[int, str]:
    """Why readings do not count any more, by their attempts; all of them, as they are few."""
    latest = select(func.max(t.ReadingWithdrawal.id)).group_by(t.ReadingWithdrawal.attempt_id)
    columns = (t.ReadingWithdrawal.attempt_id, t.ReadingWithdrawal.reason, t.ReadingWithdrawal.withdrawn)
    rows = session.execute(select(*columns).where(t.ReadingWithdrawal.id.in_(latest)))
    return {attempt_id: reason for attempt_id, reason, withdrawn in rows if withdrawn}


def days_taken(session: Session, attempts: Sequence[int]) -> dict[int, date]:
    """On which day readings were taken, by their attempts."""
    rows = select(t.Attempt.id, t.Attempt.started_at).where(t.Attempt.id.in_(attempts))
    return {one: at.date() for one, at in session.execute(rows)}


@dataclass(frozen=True, slots=True)
class BenchRow:
    """A bench on record; ``kind`` says what stands behind it, ``assembly`` what one of instruments is made of.

    ``version`` counts how often that was changed, ``changed_at`` is when it was last.
    """

    id: int
    name: str
    kind: str
    assembly: str = ""
    version: int = 0
    changed_at: datetime | None = None


def benches(session: Session) -> list[BenchRow]:
    """All benches in the order in which they came."""
    rows = session.scalars(select(t.Bench).order_by(t.Bench.id))
    return [BenchRow(row.id, row.name, row.kind, row.assembly, row.version, row.changed_at) for row in rows]


def bench_changed_at(session: Session, bench_id: int) -> datetime | None:
    """When a bench was put together otherwise the last time; None where it never was."""
    return session.scalar(select(t.Bench.changed_at).where(t.Bench.id == bench_id))


def self_tests(session: Session, bench_id: int, most: int = 20) -> list[SelfTest]:
    """How a bench was found, the latest first."""
    rows = select(t.SelfTest).where(t.SelfTest.bench_id == bench_id).order_by(t.SelfTest.id.desc()).limit(most)
    return [
        SelfTest(
            row.id, row.bench_id, row.at, row.by, row.channels, row.powered, tuple(Looked(**one) for one in row.looked)
        )
        for row in session.scalars(rows)
    ]


@dataclass(frozen=True, slots=True)
class HistoryEntry:
    """An entry of the audit chain about something."""

    at: datetime
    actor: Actor
    action: str
    text: str
    hash: str


def history(session: Session, subjects: Sequence[str], limit: int = 100) -> list[HistoryEntry]:
    """The latest audit entries about any of the subjects, the oldest of them first."""
    statement = (
        select(t.AuditEntry).where(t.AuditEntry.subject.in_(subjects)).order_by(t.AuditEntry.id.desc()).limit(limit)
    )
    rows = list(session.scalars(statement))[::-1]
    return [HistoryEntry(row.at, actor_of(row), row.action, str(row.detail.get("text", "")), row.hash) for row in rows]


@dataclass(frozen=True, slots=True)
class FullEntry:
    """An entry of the audit chain with all that it tells."""

    id: int
    at: datetime
    actor: Actor
    action: str
    subject: str
    detail: dict[str, Any]
    hash: str


def history_page(session: Session, subjects: Sequence[str], before: int | None, limit: int) -> list[FullEntry]:
    """Entries about any of the subjects, from before one on, the latest first."""
    statement = select(t.AuditEntry).where(t.AuditEntry.subject.in_(subjects)).order_by(t.AuditEntry.id.desc())
    if before is not None:
        statement = statement.where(t.AuditEntry.id < before)
    return [
        FullEntry(row.id, row.at, actor_of(row), row.action, row.subject, row.detail, row.hash)
        for row in session.scalars(statement.limit(limit))
    ]


@dataclass(frozen=True, slots=True)
class Entry:
    """An entry of the audit chain, as others are told of it."""

    id: int
    actor: Actor
    action: str
    subject: str
    text: str


def last_entry_id(session: Session) -> int:
    """The latest entry's id; 0 where there is none."""
    return session.scalar(select(func.max(t.AuditEntry.id))) or 0


def entries_after(session: Session, after: int, limit: int) -> list[Entry]:
    """The latest entries past an id, in their order."""
    statement = select(t.AuditEntry).where(t.AuditEntry.id > after).order_by(t.AuditEntry.id.desc()).limit(limit)
    rows = list(session.scalars(statement))[::-1]
    return [Entry(row.id, actor_of(row), row.action, row.subject, str(row.detail.get("text", ""))) for row in rows]
