"""The database: migrations, transactions, time, and that evidence is safe."""

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError, StatementError

from rulvek.core.errors import Conflict
from rulvek.core.records.actor import PROGRAM, UNNAMED, Actor
from rulvek.core.records.entered import SeriesEntry
from rulvek.store import audit, save, tables
from rulvek.store.engine import Database
from rulvek.store.queries.line import is_empty
from rulvek.store.queries.records import history
from tests.conftest import TAMSIN, migrated


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    made = migrated(tmp_path)
    yield made
    made.close()


def test_migrations_make_exactly_the_tables(database: Database) -> None:
    with database.engine.connect() as connection:
        # The index of names is a virtual table: SQLite keeps its parts, and no class has it.
        ours = {"include_name": lambda name, kind, _: kind != "table" or not (name or "").startswith("found")}
        options = {"compare_type": True, **ours}
        context = MigrationContext.configure(connection, opts=options)
        assert compare_metadata(context, tables.Base.metadata) == []


@pytest.mark.files
def test_records_that_another_program_writes_to_are_not_brought_up_to_date(tmp_path: Path) -> None:
    made = Database(f"sqlite:///{tmp_path / 'rulvek.db'}", patience=0.05)
    with closing(sqlite3.connect(tmp_path / "rulvek.db", isolation_level=None)) as other:
        other.execute("PRAGMA journal_mode = WAL")
        other.execute("BEGIN EXCLUSIVE")
        with pytest.raises(Conflict, match="another program is writing to them"):
            made.migrate()
    made.migrate()
    with made.reading() as session:
        assert is_empty(session)
    made.close()


def test_migrating_again_changes_nothing(database: Database) -> None:
    with database.writing() as session:
        save.series(session, SeriesEntry("Kept", "Boats"))
    database.migrate()
    with database.reading() as session:
        assert not is_empty(session)


@pytest.mark.files
def test_pragmas_of_every_connection(database: Database) -> None:
    with database.engine.connect() as connection:
        for pragma, value in (("journal_mode", "wal"), ("foreign_keys", 1), ("synchronous", 2)):
            assert connection.exec_driver_sql(f"PRAGMA {pragma}").scalar() == value


def test_a_failed_transaction_leaves_nothing(database: Database) -> None:
    with pytest.raises(RuntimeError), database.writing() as session:
        save.series(session, SeriesEntry("Half", "Boats"))
        raise RuntimeError
    with database.reading() as session:
        assert is_empty(session)


def test_foreign_keys_hold(database: Database) -> None:
    with pytest.raises(IntegrityError), database.writing() as session:
        session.add(
            tables.ChannelGroup(model_id=77, name="x", channels=[1], rated_loads=[4.0], bridged_loads=[], bass=False)
        )


def test_moments_keep_their_zone(database: Database) -> None:
    local = datetime(2026, 3, 1, 12, 0, tzinfo=timezone(timedelta(hours=5)))
    with database.writing() as session:
        audit.note(session, TAMSIN, "did", "thing/1")
        session.scalars(select(tables.AuditEntry)).one().at = local
    with database.reading() as session:
        (kept,) = session.scalars(select(tables.AuditEntry))
        assert kept.at == local and kept.at.tzinfo is UTC
    with pytest.raises(StatementError, match="without a time zone"), database.writing() as session:
        session.scalars(select(tables.AuditEntry)).one().at = datetime(2026, 3, 1)


def test_writers_wait_for_each_other(database: Database) -> None:
    """Two threads that read before they write: without immediate transactions one of them would fail."""
    failures: list[Exception] = []

    def write(name: str) -> None:
        try:
            for index in range(10):
                with database.writing() as session:
                    audit.note(session, Actor(name), "wrote", f"thing/{index}")
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
        assert len(history(session, [f"thing/{index}" for index in range(10)])) == 30


@pytest.mark.files
def test_the_audit_chain_shows_a_deleted_and_a_changed_entry(database: Database, tmp_path: Path) -> None:
    with database.writing() as session:
        for index in range(4):
            audit.note(session, TAMSIN, "did", f"thing/{index}", watts=12.5, text="größer")
    database.close()
    with sqlite3.connect(tmp_path / "rulvek.db") as raw:
        raw.execute("DELETE FROM audit_entry WHERE id = 2")
    with database.reading() as session:
        assert audit.broken_at(session) == 3
    with sqlite3.connect(tmp_path / "rulvek.db") as raw:
        raw.execute("UPDATE audit_entry SET detail = '{}' WHERE id = 1")
    with database.reading() as session:
        assert audit.broken_at(session) == 1


@pytest.mark.files
def test_the_program_and_somebody_unnamed_are_no_persons(database: Database, tmp_path: Path) -> None:
    """A person may be called anything; entries of before meant two names otherwise."""
    with database.writing() as session:
        for actor in (PROGRAM, UNNAMED, Actor("Rulvek"), Actor("rehearsal")):
            audit.note(session, actor, "did", "thing/1")
    with database.reading() as session:
        assert [h.actor for h in history(session, ["thing/1"])] == [
            PROGRAM,
            UNNAMED,
            Actor("Rulvek"),
            Actor("rehearsal"),
        ]
    with sqlite3.connect(tmp_path / "rulvek.db") as raw:
        raw.execute("UPDATE audit_entry SET actor = 'person' WHERE id = 1")
    with database.reading() as session:
        assert audit.broken_at(session) == 1  # who it was is sealed, too
