"""Leases of benches: which server has one, until when, and who works at it."""

import os
import socket
from dataclasses import asdict, dataclass, fields
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import delete, insert, select, update
from sqlalchemy.orm import Session

from rulvek.store import tables as t


@dataclass(frozen=True, slots=True)
class Lease:
    """A bench in a server's hands; see :class:`rulvek.store.tables.BenchLease`."""

    bench_id: int
    server: str
    host: str
    process: str
    expires_at: datetime
    doing: str = "idle"
    campaign_id: int | None = None
    attempt_id: int | None = None
    person: str | None = None
    holder: str | None = None
    asked_by: str | None = None
    off_asked_by: str | None = None

    def is_alive(self, now: datetime | None = None) -> bool:
        """Whether its server still has the bench: not run out, and not a process of this machine that is gone."""
        if self.expires_at <= (now or datetime.now(UTC)):
            return False
        return self.host != this_host() or self.process == process_mark(int(self.process.partition(":")[0]))


def this_host() -> str:
    """The machine's name."""
    return socket.gethostname()


def process_mark(pid: int | None = None) -> str:
    """A process by its number and the moment it began, as numbers are used again; no moment once it is gone."""
    number = os.getpid() if pid is None else pid
    try:
        stat = Path(f"/proc/{number}/stat").read_text()
    except OSError:
        return f"{number}:"
    return f"{number}:{stat.rpartition(')')[2].split()[19]}"


def get(session: Session, bench_id: int) -> Lease | None:
    """A bench's lease, alive or not."""
    row = session.get(t.BenchLease, bench_id, populate_existing=True)
    return Lease(**{item.name: getattr(row, item.name) for item in fields(Lease)}) if row is not None else None


def everyone(session: Session) -> dict[int, Lease]:
    """All leases by bench, alive or not."""
    rows = session.scalars(select(t.BenchLease))
    return {row.bench_id: Lease(**{item.name: getattr(row, item.name) for item in fields(Lease)}) for row in rows}


def put(session: Session, lease: Lease) -> None:
    """Take or renew a lease."""
    session.execute(delete(t.BenchLease).where(t.BenchLease.bench_id == lease.bench_id))
    session.execute(insert(t.BenchLease).values(**asdict(lease)))


def drop(session: Session, bench_id: int, server: str) -> None:
    """Give a lease back."""
    session.execute(delete(t.BenchLease).where(t.BenchLease.bench_id == bench_id, t.BenchLease.server == server))


def ask_off(session: Session, bench_id: int, by: str) -> None:
    """Leave word for the server that has a bench that somebody wants it off."""
    session.execute(update(t.BenchLease).where(t.BenchLease.bench_id == bench_id).values(off_asked_by=by))
