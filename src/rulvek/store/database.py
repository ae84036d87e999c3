"""The database file: engine, sessions, migrations. SQLite in WAL mode, foreign keys on, every commit on disk."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

__all__ = ["Database", "Session"]

MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """Transactions on one database: committed at the end of their block, or nothing of them."""

    def __init__(self, url: str, durable: bool = True) -> None:
        """``durable`` commits survive a power cut, not only a crash of the program."""
        self.url = url
        self.engine = create_engine(url, connect_args={"timeout": 30})
        event.listen(self.engine, "connect", partial(_prepare_connection, "FULL" if durable else "OFF"))
        event.listen(self.engine, "begin", _begin)
        self._readers = sessionmaker(self.engine, expire_on_commit=False)
        self._writers = sessionmaker(self.engine.execution_options(writing=True), expire_on_commit=False)

    def migrate(self) -> None:
        """Bring the schema to the newest version."""
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        config.attributes["engine"] = self.engine
        command.upgrade(config, "head")

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """One transaction that only reads: a consistent view that nobody waits for."""
        with self._readers() as session, session.begin():
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """One transaction that may write; it waits for other writers before it reads anything."""
        with self._writers() as session, session.begin():
            yield session

    def close(self) -> None:
        """Let go of all connections."""
        self.engine.dispose()


def _prepare_connection(synchronous: str, connection: Any, _record: Any) -> None:
    connection.isolation_level = None  # transactions are begun below, not by the driver
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute(f"PRAGMA synchronous={synchronous}")
    cursor.execute("PRAGMA busy_timeout=30000")
    cursor.close()


def _begin(connection: Connection) -> None:
    # A transaction that reads first and then writes would fail if another wrote in between.
    writing = connection.get_execution_options().get("writing", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")
