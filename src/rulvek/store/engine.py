"""The database file: engine, sessions, migrations. SQLite in WAL mode, foreign keys on, every commit on disk."""

import gc
import threading
import time
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any

import structlog
from sqlalchemy import Connection, create_engine, event
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

from rulvek.core.errors import Conflict

__all__ = ["Database", "Session"]

MIGRATIONS = Path(__file__).parent / "migrations"
LONG_WRITE_SECONDS = 0.25
log = structlog.get_logger()


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
        pool = {} if url == "sqlite://" else {"pool_size": connections, "max_overflow": connections}
        self.engine = create_engine(url, connect_args={"timeout": patience}, **pool)
        prepare = partial(_prepare_connection, "FULL" if durable else "OFF", patience)
        event.listen(self.engine, "connect", prepare)
        event.listen(self.engine, "begin", _begin)
        self._readers = sessionmaker(self.engine, expire_on_commit=False)
        self._writers = sessionmaker(self.engine.execution_options(writing=True), expire_on_commit=False)
        self.write_seconds: deque[float] = deque(maxlen=10_000)

    def aside(self, connections: int = 2, patience: float = 20.0) -> "Database":
        """The same records by connections of their own."""
        return Database(self.url, self._durable, connections, patience)

    def migrate(self) -> None:
        """Bring the schema to the newest version.

        Raises:
            Conflict: another program keeps the records locked.
        """
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        config.attributes["engine"] = self.engine
        try:
            command.upgrade(config, "head")
        except OperationalError as failure:
            if "locked" not in str(failure.orig):
                raise
            what = "The records cannot be brought up to date: another program is writing to them."
            raise Conflict(what, todo="End the other one, then start again.") from None

    def is_current(self) -> bool:
        """Whether the schema is the newest that this program knows."""
        return self.schema()[0] == self.schema()[1]

    def schema(self) -> tuple[str, str]:
        """The schema's version on record (empty where there is none), and the newest that this program knows."""
        from alembic.config import Config
        from alembic.runtime.migration import MigrationContext
        from alembic.script import ScriptDirectory

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.connect() as connection:
            now = MigrationContext.configure(connection).get_current_revision()
        return now or "", ScriptDirectory.from_config(config).get_current_head() or ""

    def steps_to_come(self) -> list[str]:
        """What a migration would do, a line a step, the first one first."""
        from alembic.config import Config
        from alembic.script import ScriptDirectory

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        now, newest = self.schema()
        found = ScriptDirectory.from_config(config).iterate_revisions(newest, now or "base")
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
            session.connection()  # begins, and waits for its turn
            began = time.perf_counter()
            try:
                with _COLLECTOR.paused():
                    yield session
                    session.commit()
            finally:
                taken = time.perf_counter() - began
                self.write_seconds.append(taken)
                if taken > LONG_WRITE_SECONDS:
                    log.warning("long write", milliseconds=round(1000 * taken))

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


def _prepare_connection(synchronous: str, patience: float, connection: Any, _record: Any) -> None:
    connection.isolation_level = None  # transactions are begun below, not by the driver
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute(f"PRAGMA synchronous={synchronous}")
    cursor.execute(f"PRAGMA busy_timeout={round(1000 * patience)}")
    cursor.close()


def _begin(connection: Connection) -> None:
    # A transaction that reads first and then writes would fail if another wrote in between.
    writing = connection.get_execution_options().get("writing", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")
