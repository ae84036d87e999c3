"""The database: migrations, transactions, time, and that evidence is safe."""

import sqlite3
import threading
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy.exc import IntegrityError, StatementError

from rulvek.core.errors import NotFound
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    made = Database(f"sqlite:///{tmp_path / 'rulvek.db'}")
    made.migrate()
    yield made
    made.close()


def test_migrations_make_exactly_the_tables(database: Database) -> None:
    with database.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, tables.Base.metadata) == []


def test_migrating_again_changes_nothing(database: Database) -> None:
    with database.writing() as session:
        queries.add(session, tables.Series(name="Kept", purpose="Boats"))
    database.migrate()
    with database.reading() as session:
        assert not queries.is_empty(session)


def test_pragmas_of_every_connection(database: Database) -> None:
    with database.engine.connect() as connection:
        for pragma, value in (("journal_mode", "wal"), ("foreign_keys", 1), ("synchronous", 2)):
            assert connection.exec_driver_sql(f"PRAGMA {pragma}").scalar() == value


def test_a_failed_transaction_leaves_nothing(database: Database) -> None:
    with pytest.raises(RuntimeError), database.writing() as session:
        queries.add(session, tables.Series(name="Half", purpose="Boats"))
        raise RuntimeError
    with database.reading() as session:
        assert queries.is_empty(session)


def test_foreign_keys_hold(database: Database) -> None:
    with pytest.raises(IntegrityError), database.writing() as session:
        session.add(
            tables.ChannelGroup(model_id=77, name="x", channels=[1], rated_loads=[4.0], bridged_loads=[], bass=False)
        )


def test_moments_keep_their_zone(database: Database) -> None:
    local = datetime(2026, 3, 1, 12, 0, tzinfo=timezone(timedelta(hours=5)))
    with database.writing() as session:
        entry = audit.note(session, "Tamsin Oduwell", "did", "thing/1")
        entry.at = local
    with database.reading() as session:
        kept = queries.get(session, tables.AuditEntry, 1)
        assert kept.at == local and kept.at.tzinfo is UTC
    with pytest.raises(StatementError, match="without a time zone"), database.writing() as session:
        audit.note(session, "Tamsin Oduwell", "did", "thing/2").at = datetime(2026, 3, 1)


def test_writers_wait_for_each_other(database: Database) -> None:
    """Two threads that read before they write: without immediate transactions one of them would fail."""
    failures: list[Exception] = []

    def write(name: str) -> None:
        try:
            for index in range(10):
                with database.writing() as session:
                    audit.note(session, name, "wrote", f"thing/{index}")
        except Exception as error:
            failures.append(error)

    threads = [threading.Thread(target=write, args=(f"person {n}",)) for n in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert failures == []
    with database.reading() as session:
        assert audit.broken_at(session) is None
        assert len(queries.history(session, [f"thing/{index}" for index in range(10)])) == 30


def test_the_audit_chain_shows_a_deleted_and_a_changed_entry(database: Database, tmp_path: Path) -> None:
    with database.writing() as session:
        for index in range(4):
            audit.note(session, "Tamsin Oduwell", "did", f"thing/{index}", watts=12.5, text="größer")
    database.close()
    with sqlite3.connect(tmp_path / "rulvek.db") as raw:
        raw.execute("DELETE FROM audit_entry WHERE id = 2")
    with database.reading() as session:
        assert audit.broken_at(session) == 3
    with sqlite3.connect(tmp_path / "rulvek.db") as raw:
        raw.execute("UPDATE audit_entry SET detail = '{}' WHERE id = 1")
    with database.reading() as session:
        assert audit.broken_at(session) == 1


def test_what_is_not_there_is_named(database: Database) -> None:
    with database.reading() as session, pytest.raises(NotFound, match="no unit number 5"):
        queries.get(session, tables.Unit, 5)
    with database.reading() as session:
        assert queries.last_step_id(session) == 0
        assert not queries.serial_exists(session, "X")
