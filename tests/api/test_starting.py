"""Starting on what cannot be used: one sentence with the remedy and an exit code, and nothing is touched."""

import math
import socket
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest
from typer.testing import CliRunner

from rulvek.cli import app
from rulvek.composition import make_services
from rulvek.core.records.actor import PROGRAM
from rulvek.core.records.people import Role
from rulvek.store.engine import Database
from tests.conftest import services_in, write_line
from tests.people import admit
from tests.ports import free_port

pytestmark = pytest.mark.files


def call(*arguments: object, typed: str = ""):  # type: ignore[no-untyped-def]
    return CliRunner().invoke(app, [str(one) for one in arguments], input=typed)


def digests(folder: Path) -> dict[str, bytes]:
    return {one.name: one.read_bytes() for one in folder.rglob("*") if one.is_file()}


def records(folder: Path, demo: bool = False) -> Path:
    """Records with a line: a lab's own, or of nobody but the demo's people."""
    if demo:
        database = Database(f"sqlite:///{folder}/rulvek.db")
        database.migrate()
        services = make_services(database, folder / "captures", math.inf)
        services.accounts.make("Kasimir Dovell", (Role.MANAGER,), PROGRAM, demo=True)
    else:
        services = services_in(folder)
    write_line(services)
    services.close()
    return folder / "rulvek.db"


def damaged(path: Path) -> None:
    path.write_bytes(b"SQLite format 3\x00" + bytes(range(256)) * 40)


def foreign(path: Path) -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("CREATE TABLE songs (title TEXT)")
        connection.commit()


def newer(path: Path) -> None:
    records(path.parent)
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
        connection.commit()


def truncated(path: Path) -> None:
    whole = records(path.parent).read_bytes()
    path.write_bytes(whole[: len(whole) // 3])


def text_file(path: Path) -> None:
    path.write_text("serial,watts\nT2-0001,80\n" * 200)


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (text_file, "no database"),
        (damaged, "database"),
        (truncated, "damaged"),
        (foreign, "somebody else's tables"),
        (newer, "made by a newer Rulvek"),
    ],
)
def test_records_that_cannot_be_used(tmp_path: Path, spoil: Callable[[Path], None], words: str) -> None:
    spoil(tmp_path / "rulvek.db")
    before = (tmp_path / "rulvek.db").read_bytes()
    told = call("serve", "--data", tmp_path, "--port", free_port())
    assert told.exit_code == 2 and words in told.stderr, told.output
    assert told.stderr.strip().count("\n") == 0 and "Traceback" not in told.output
    assert (tmp_path / "rulvek.db").read_bytes() == before


def test_a_folder_that_is_a_file(tmp_path: Path) -> None:
    (tmp_path / "notes").write_text("x")
    told = call("serve", "--data", tmp_path / "notes", "--port", free_port())
    assert told.exit_code == 2 and "cannot be a folder of records" in told.stderr


def test_a_taken_port_is_told_before_anything_is_touched(tmp_path: Path) -> None:
    with closing(socket.socket()) as listening:
        listening.bind(("127.0.0.1", 0))
        listening.listen()
        port = listening.getsockname()[1]
        told = call("serve", "--data", tmp_path / "lab", "--port", port)
    assert told.exit_code == 2 and f"Port {port} of 127.0.0.1 is taken." in told.stderr
    assert not (tmp_path / "lab").exists()


def test_a_rebuild_of_a_labs_own_records_is_refused(tmp_path: Path) -> None:
    records(tmp_path)
    (tmp_path / "captures").mkdir(exist_ok=True)
    (tmp_path / "captures" / "1-reading.wav").write_bytes(b"not the demo's")
    before = digests(tmp_path)
    told = call("demo", "--rebuild", "--yes", "--data", tmp_path)
    assert told.exit_code == 2 and "are no demo" in told.stderr and "Nothing was deleted." in told.stderr
    after = digests(tmp_path)
    assert {name: after[name] for name in before if name.endswith((".db", ".wav"))} == {
        name: one for name, one in before.items() if name.endswith((".db", ".wav"))
    }


def test_a_rebuild_asks_and_keeps_what_was_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    records(tmp_path, demo=True)
    mine = tmp_path / "captures" / "1-reading.wav"
    mine.parent.mkdir(exist_ok=True)
    mine.write_bytes(b"somebody put it there")
    refused = call("demo", "--rebuild", "--data", tmp_path, typed="n\n")
    assert refused.exit_code == 2 and "Nothing was deleted." in refused.stderr
    assert not list(tmp_path.glob("before-rebuild-*"))
    monkeypatch.setattr("rulvek.demo.build.build", lambda services, tell: write_line(services))
    done = call("demo", "--rebuild", "--data", tmp_path, typed="y\n")
    assert done.exit_code == 0, done.output
    (kept,) = tmp_path.glob("before-rebuild-*.zip")
    assert call("verify", kept).exit_code == 0
    assert mine.read_bytes() == b"somebody put it there"  # no record names it


def test_an_account_that_is_not_the_demos_makes_it_a_labs_own(tmp_path: Path) -> None:
    records(tmp_path, demo=True)
    services = services_in(tmp_path)
    admit(services.database, "Ilse Varnholt")
    services.close()
    told = call("demo", "--rebuild", "--yes", "--data", tmp_path)
    assert told.exit_code == 2 and "Ilse Varnholt works with it" in told.stderr
