"""The database: engine, sessions, migrations. One of SQLite's in a file, or of PostgreSQL's on a server."""

import gc
import sqlite3
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any, Protocol

import structlog
from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker

from rulvek.core.errors import Conflict, NoRoom, RulvekError
from rulvek.store import sqlite, statements
from rulvek.store.schema import migrations, newest, scripts

__all__ = ["Database", "Session"]

LONG_WRITE_SECONDS = 0.25
log = structlog.get_logger()
_REFUSED: Mapping[str, Callable[[], RulvekError]] = {
    "FULL": NoRoom,
    "LOCKED": lambda: Conflict(
        "Somebody else has been writing to the records for long: nothing was kept.", todo="Do it again.", code="locked"
    ),
    "READ_ONLY": lambda: Conflict(
        "The records cannot be written to any more: nothing was kept.", todo="Tell an admin."
    ),
}
"""What is told of a single change that a database refuses, by the name of what it says."""


class Kind(Protocol):
    """What the databases that hold records differ in: ``sqlite`` and ``postgres``."""

    START: str
    UNUSABLE: Mapping[str, Callable[[], RulvekError]]
    FULL: str
    LOCKED: str
    READ_ONLY: str

    def arguments(self, connections: int, patience: float, is_kept: bool) -> dict[str, Any]: ...
    def listen(self, engine: Engine, durable: bool, patience: float) -> None: ...
    def refuse_foreign(self, engine: Engine) -> None: ...
    def first_schema(self, _engine: Engine) -> None: ...
    def faults(self, session: Session) -> Iterator[str]: ...


def _kind_of(url: str) -> Kind:
    if url.startswith("postgresql"):
        from rulvek.store import postgres

        return postgres
    return sqlite


def _told(failure: Exception, told: Mapping[str, Callable[[], RulvekError]]) -> RulvekError | None:
    said = str(failure.orig if isinstance(failure, DatabaseError) else failure)
    return next((one() for words, one in told.items() if words in said), None)


class Database:
    """Transactions on one database: committed at the end of their block, or nothing of them.

    Pages share one pool of connections; a bench has a few of its own (:meth:`aside`), so that no crowd of readers can
    keep it waiting.
    """

    def __init__(self, url: str, durable: bool = True, connections: int = 8, patience: float = 20.0) -> None:
        """``durable`` commits survive a power cut, not only a crash of the program.

        ``patience`` is how many seconds a writer waits for others before it gives up.
        """
        self.url, self._durable = url, durable
        self.kind = _kind_of(url)
        self.engine = create_engine(url, **self.kind.arguments(connections, patience, self.is_kept))
        self.kind.listen(self.engine, durable, patience)
        statements.listen(self.engine)
        self._readers = sessionmaker(self.engine, expire_on_commit=False)
        self._writers = sessionmaker(self.engine.execution_options(writing=True), expire_on_commit=False)
        self.write_seconds: deque[float] = deque(maxlen=10_000)

    def aside(self, connections: int = 2, patience: float = 20.0) -> "Database":
        """The same records by connections of their own."""
        return Database(self.url, self._durable, connections, patience)

    def migrate(self) -> None:
        """Bring the schema to the newest version.

        Raises:
            Conflict: another program keeps the records locked, they cannot be written to, or a newer program made them.
            Unreadable: they are damaged, or somebody else's.
        """
        from alembic import command
        from alembic.util.exc import CommandError

        config = migrations()
        config.attributes["engine"] = self.engine
        try:
            self.kind.refuse_foreign(self.engine)
            self.kind.first_schema(self.engine)
            command.upgrade(config, "head")
        except CommandError:
            what = "The records were made by a newer Rulvek."
            raise Conflict(what, todo="Start that one, or restore a backup from before.") from None
        except (DatabaseError, sqlite3.DatabaseError) as failure:
            if (told := _told(failure, self.kind.UNUSABLE)) is None:
                raise
            raise told from None

    @property
    def is_kept(self) -> bool:
        """Whether the records outlive this process: those in memory do not."""
        return self.url != "sqlite://"

    def is_current(self) -> bool:
        """Whether the schema is the newest that this program knows."""
        return self.schema()[0] == self.schema()[1]

    def refuse_other_version(self) -> None:
        """Refuse records that are not as this program has them; nothing of them is changed.

        Raises:
            Conflict: another version made them, or they cannot be worked with at all.
        """
        try:
            is_current = self.is_current()
        except (DatabaseError, sqlite3.DatabaseError) as failure:
            if (told := _told(failure, self.kind.UNUSABLE)) is None:
                raise
            raise told from None
        if not is_current:
            todo = "rulvek upgrade-check tells what bringing them up to date does; serving them does it."
            raise Conflict("The records are of another version of Rulvek.", todo=todo)

    def schema(self) -> tuple[str, str]:
        """The schema's version on record (empty where there is none), and the newest that this program knows."""
        from alembic.runtime.migration import MigrationContext

        with self.engine.connect() as connection:
            now = MigrationContext.configure(connection).get_current_revision()
        return now or "", newest()

    def steps_to_come(self) -> list[str]:
        """What a migration would do, a line a step, the first one first."""
        now, last = self.schema()
        found = scripts().iterate_revisions(last, now or "base")
        return [f"{one.revision}: {one.doc}" for one in found if one.revision != now][::-1]

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """One transaction that only reads: a consistent view that nobody waits for."""
        with self._readers() as session, session.begin():
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """One short transaction that may write; it waits for other writers before it reads anything.

        Nothing computes, waits for a person or reads a file inside of one: everybody else waits with it.
        """
        with self._writers() as session:
            try:
                session.connection()  # begins, and waits for its turn
            except DatabaseError as failure:
                raise self._refusal(failure) or failure from None
            began = time.perf_counter()
            try:
                with _COLLECTOR.paused():
                    yield session
                    session.commit()
            except DatabaseError as failure:
                raise self._refusal(failure) or failure from None
            finally:
                taken = time.perf_counter() - began
                self.write_seconds.append(taken)
                if taken > LONG_WRITE_SECONDS:
                    log.warning("long write", milliseconds=round(1000 * taken))

    def _refusal(self, failure: Exception) -> RulvekError | None:
        return _told(failure, {getattr(self.kind, name): told for name, told in _REFUSED.items()})

    def close(self) -> None:
        """Let go of all connections."""
        self.engine.dispose()


class _Collector:
    """Python's collector of garbage, which stops every thread for as long as much is in memory: never in a write."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._pausing = 0
        self._was_on = True

    @contextmanager
    def paused(self) -> Iterator[None]:
        """Put collections off until no block of any thread asks for it any more."""
        with self._lock:
            if self._pausing == 0:
                self._was_on = gc.isenabled()
                gc.disable()
            self._pausing += 1
        try:
            yield
        finally:
            with self._lock:
                self._pausing -= 1
                if self._pausing == 0 and self._was_on:
                    gc.enable()


_COLLECTOR = _Collector()
