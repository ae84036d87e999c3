"""Records on a database server: brought there and back, searched, backed up, and written by several servers at once."""

import json
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from sqlalchemy import text
from typer.testing import CliRunner

from rulvek.cli import app
from rulvek.composition import Services, make_services
from rulvek.core.errors import Conflict, RulvekError, Unreadable
from rulvek.core.records.actor import Actor
from rulvek.core.records.entered import SeriesEntry
from rulvek.services.benches import conduct_all
from rulvek.store import audit, save, tables
from rulvek.store.backup import back_up, restore
from rulvek.store.copying import copy_records
from rulvek.store.engine import Database
from rulvek.store.queries.line import find, is_empty
from rulvek.store.verify import verify
from tests import postgres
from tests.conftest import CERTIFIED, TAMSIN, certified_campaign, put_attempt, write_line

pytestmark = pytest.mark.skipif(not postgres.WANTED, reason="make test-postgres")


ATTEMPTS = 3


@pytest.fixture(scope="module")
def records(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Services]:
    """A campaign conducted on records in a file, whatever the other tests work on."""
    folder = tmp_path_factory.mktemp("file")
    database = Database(f"sqlite:///{folder}/rulvek.db")
    database.migrate()
    made = make_services(database, folder / "captures", float("inf"))
    campaign = certified_campaign(made, write_line(made))
    conduct_all(database, made.preparations, made.benches, campaign.id, TAMSIN)
    made.conclusions.flush()
    yield made
    made.close()


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[Database]:
    """A database on the server without a table."""
    folder = tmp_path / "there"
    postgres.make(folder)
    made = Database(postgres.url_of(folder), patience=0.3)
    yield made
    made.close()


def everything(database: Database) -> dict[str, list[str]]:
    """All rows of all tables as they are stored."""
    found = {}
    with database.reading() as session:
        for table in tables.Base.metadata.sorted_tables:
            rows = session.execute(text(f"SELECT * FROM {table.name}"))
            found[table.name] = sorted(json.dumps([str(value) for value in row]) for row in rows)
    return found


def test_there_and_back_nothing_is_changed(records: Services, empty: Database, tmp_path: Path) -> None:
    copied = copy_records(records.database, empty)
    assert copied["attempt"] == ATTEMPTS and copied["step"] > 10 and copied["audit_entry"] > 5
    assert verify(empty, records.files).faults == ()  # chain, seals and files hold on the server
    back = Database(f"sqlite:///{tmp_path}/back.db")
    assert copy_records(empty, back) == copied
    assert everything(back) == everything(records.database)
    assert verify(back, records.files).faults == ()
    back.close()


def test_new_rows_are_numbered_after_those_that_came(records: Services, empty: Database, tmp_path: Path) -> None:
    copy_records(records.database, empty)
    on_server = make_services(empty, tmp_path / "captures", float("inf"))
    unit = on_server.catalogue.model(1).units[0].id
    second = on_server.campaigns.create(unit, TAMSIN, CERTIFIED)
    put_attempt(on_server, second.id, (80.0, 81.0))
    assert second.id == 2
    assert verify(empty, records.files).faults == ()
    assert on_server.evidence.attempts().items[0].id == ATTEMPTS + 1
    on_server.close()


def test_a_copy_goes_into_an_empty_database_or_nowhere(records: Services, empty: Database) -> None:
    copy_records(records.database, empty)
    before = everything(empty)
    with pytest.raises(Conflict, match="There are records in the database already"):
        copy_records(records.database, empty)
    assert everything(empty) == before


def test_what_fails_on_the_way_leaves_nothing(records: Services, empty: Database) -> None:
    def stop(table: str, _rows: int) -> None:
        if table == "attempt":
            raise RuntimeError

    with pytest.raises(RuntimeError):
        copy_records(records.database, empty, stop)
    with empty.reading() as session:
        assert is_empty(session)
    assert copy_records(records.database, empty)["attempt"] == ATTEMPTS


def test_the_command_copies_and_says_so(records: Services, tmp_path: Path) -> None:
    postgres.make(tmp_path / "commanded")
    url = postgres.url_of(tmp_path / "commanded")
    told = CliRunner().invoke(app, ["copy", str(records.files.root.parent), url])
    assert told.exit_code == 0 and f"attempt: {ATTEMPTS}" in told.output and "the audit chain is whole" in told.output
    again = CliRunner().invoke(app, ["copy", str(records.files.root.parent), url])
    assert again.exit_code == 2 and "records in the database already" in again.output
    assert "There are no records in" in CliRunner().invoke(app, ["copy", str(tmp_path / "no"), url]).output


def test_a_backup_of_a_server_is_a_backup(records: Services, empty: Database, tmp_path: Path) -> None:
    copy_records(records.database, empty)
    taken = back_up(empty, records.files, tmp_path / "backup.zip")
    restore(tmp_path / "backup.zip", tmp_path / "restored")
    again = Database(f"sqlite:///{tmp_path}/restored/rulvek.db")
    assert everything(again) == everything(records.database)
    assert taken.manifest.chain_entries == len(everything(empty)["audit_entry"])
    again.close()


def test_the_same_is_found_as_in_a_file(records: Services, empty: Database) -> None:
    copy_records(records.database, empty)
    for words in ("test two", "T2-0001", "0001 two", "t2", "campaign 1", "Manual", "recorder", "nothing"):
        with records.database.reading() as here, empty.reading() as there:
            expected = {(one.kind, one.id, one.name) for one in find(here, words, 20)}
            assert {(one.kind, one.id, one.name) for one in find(there, words, 20)} == expected
            assert expected or words == "nothing"


def test_writers_take_turns_and_one_that_waits_too_long_is_told(empty: Database) -> None:
    empty.migrate()
    inside, over = threading.Event(), threading.Event()

    def hold() -> None:
        with empty.writing():
            inside.set()
            over.wait(20)

    holder = threading.Thread(target=hold)
    holder.start()
    inside.wait(20)
    start = time.monotonic()
    with pytest.raises(Conflict, match="writing to the records for long") as told, empty.writing():
        pass
    assert told.value.code == "locked" and time.monotonic() - start >= 0.3
    with empty.reading() as session:
        assert is_empty(session)  # who reads waits for nobody
    over.set()
    holder.join()


def test_several_servers_write_one_unbroken_chain(empty: Database) -> None:
    empty.migrate()
    servers = [Database(empty.engine.url.render_as_string(hide_password=False)) for _ in range(3)]

    def write(server: Database, name: str) -> None:
        for index in range(20):
            with server.writing() as session:
                audit.note(session, Actor(name), "wrote", f"thing/{index}")

    threads = [threading.Thread(target=write, args=(one, f"server {at}")) for at, one in enumerate(servers)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with empty.reading() as session:
        assert audit.broken_at(session) is None
        assert session.execute(text("SELECT count(*) FROM audit_entry")).scalar() == 60
    for one in servers:
        one.close()


def test_a_reader_sees_one_moment(empty: Database) -> None:
    empty.migrate()
    with empty.reading() as session:
        assert is_empty(session)
        with empty.writing() as other:
            save.series(other, SeriesEntry("Late", "Boats"))
        assert is_empty(session)
    with empty.reading() as session:
        assert not is_empty(session)


def test_a_server_that_was_started_anew_is_found_again(empty: Database) -> None:
    empty.migrate()
    with empty.reading() as session:
        assert is_empty(session)
    plain = postgres.url_of(Path("empty")).rpartition("/")[0].replace("+psycopg", "")
    with psycopg.connect(f"{plain}/postgres", autocommit=True) as admin:
        admin.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s", (empty.engine.url.database,)
        )
    with empty.writing() as session:
        save.series(session, SeriesEntry("After", "Boats"))


def test_what_cannot_be_used_is_told_in_one_sentence(empty: Database, tmp_path: Path) -> None:
    with pytest.raises(RulvekError, match="cannot be reached"):
        Database("postgresql+psycopg://rulvek@127.0.0.1:1/rulvek").migrate()
    with pytest.raises(RulvekError, match="The database is not there"):
        Database(f"{postgres.server()}/nowhere").migrate()
    with empty.engine.begin() as connection:
        connection.exec_driver_sql("CREATE TABLE somebodys (id integer)")
    with pytest.raises(Unreadable, match="somebody else's tables"):
        empty.migrate()


def test_several_servers_may_start_at_once(empty: Database, tmp_path: Path) -> None:
    url = empty.engine.url.render_as_string(hide_password=False)
    start = f"from rulvek.store.engine import Database; Database({url!r}).migrate()"
    servers = [subprocess.Popen([sys.executable, "-c", start]) for _ in range(3)]
    assert [one.wait(120) for one in servers] == [0, 0, 0]
    assert empty.is_current()
    services = make_services(empty, tmp_path / "captures", float("inf"))
    assert [one.name for one in services.benches.states()] == ["Bench 1"]
    services.benches.off(TAMSIN)
    services.close()
