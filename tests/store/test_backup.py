"""Backups: taken under load, verified, restored whole or not at all."""

import json
import shutil
import threading
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner, Result

from rulvek.cli import app
from rulvek.composition import Services
from rulvek.core.errors import BadInput, Conflict
from rulvek.services.backups import Backups, Schedule
from rulvek.store.backup import back_up, restore, verify_backup
from rulvek.store.engine import Database
from rulvek.store.files import FileStore
from rulvek.store.verify import verify
from tests.conftest import CERTIFIED, TAMSIN, conducted, put_attempt, services_in, write_line

pytestmark = pytest.mark.files

UNIT = 1
"""The only unit on record."""


@pytest.fixture(scope="module")
def conducted_once(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder of records with a conducted campaign, captures and all."""
    folder = tmp_path_factory.mktemp("conducted")
    services = services_in(folder)
    unit_id = write_line(services)
    conducted(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id)
    services.close()
    return folder


@pytest.fixture
def worked(conducted_once: Path, tmp_path: Path) -> Iterator[Services]:
    """A copy of them that a test may do with as it likes."""
    shutil.copytree(conducted_once, tmp_path, dirs_exist_ok=True)
    services = services_in(tmp_path)
    yield services
    services.close()


def command(*words: object) -> Result:
    return CliRunner().invoke(app, [str(word) for word in words])


@pytest.mark.parametrize("name", ["kept.zip", "kept"])
def test_a_backup_is_verified_and_restored_whole(worked: Services, tmp_path: Path, name: str) -> None:
    target, folder = tmp_path / "safe" / name, tmp_path / "back"
    made = back_up(worked.database, worked.files, target)
    assert made.copied == len(made.manifest.files) - 1 > 2
    assert verify_backup(target)[1] == []
    assert command("verify", target).exit_code == 0
    told = command("restore", target, folder)
    assert told.exit_code == 0, told.output
    again = Database(f"sqlite:///{folder / 'rulvek.db'}")
    found, before = verify(again, FileStore(folder / "captures")), verify(worked.database, worked.files)
    assert found.faults == () and (found.entries, found.files) == (before.entries, before.files)
    again.close()
    assert command("restore", target, folder).exit_code == 2, "never over something that is there"


def test_a_folder_takes_only_what_is_new(worked: Services, tmp_path: Path) -> None:
    target = tmp_path / "kept"
    first = back_up(worked.database, worked.files, target)
    assert back_up(worked.database, worked.files, target).copied == 0
    conducted(worked, worked.campaigns.create(UNIT, TAMSIN, CERTIFIED).id)
    second = back_up(worked.database, worked.files, target)
    assert 0 < second.copied < len(second.manifest.files) - 1
    assert second.copied == len(second.manifest.files) - len(first.manifest.files)
    assert verify_backup(target)[1] == []


@pytest.mark.parametrize("damage", ["a capture", "the database", "a missing file", "the manifest", "a shortened chain"])
def test_a_damaged_backup_is_told_and_nothing_is_written(worked: Services, tmp_path: Path, damage: str) -> None:
    target = tmp_path / "kept"
    manifest = back_up(worked.database, worked.files, target).manifest
    capture = next(target / path for path in manifest.files if path.endswith(".wav"))
    said = json.loads((target / "manifest.json").read_text())
    if damage == "a capture":
        capture.write_bytes(capture.read_bytes()[:-4] + b"oops")
    elif damage == "the database":
        database = target / "rulvek.db"
        database.write_bytes(database.read_bytes()[:-100])
    elif damage == "a missing file":
        capture.unlink()
    elif damage == "the manifest":
        (target / "manifest.json").write_text("{}")
    else:
        (target / "manifest.json").write_text(json.dumps(said | {"chain_entries": said["chain_entries"] + 1}))
    with pytest.raises((Conflict, BadInput)):
        restore(target, tmp_path / "back")
    assert not (tmp_path / "back").exists() and list(tmp_path.glob("rulvek-restore-*")) == []
    assert command("verify", target).exit_code != 0


def test_a_backup_never_hides_that_the_records_are_damaged(worked: Services, tmp_path: Path) -> None:
    capture = next(worked.files.root.rglob("*.wav"))
    capture.write_bytes(b"something else")
    with pytest.raises(Conflict, match="not as it was kept"):
        back_up(worked.database, worked.files, tmp_path / "kept.zip")
    assert list(tmp_path.glob("kept*")) == []


def test_nobody_waits_for_a_backup(worked: Services, tmp_path: Path) -> None:
    """Writes go on while it is taken; what it holds is of one moment, and its chain is whole."""
    campaign = worked.campaigns.create(UNIT, TAMSIN)
    stop = threading.Event()
    longest = 0.0

    def write() -> None:
        nonlocal longest
        while not stop.is_set():
            began = time.perf_counter()
            put_attempt(worked, campaign.id, (70.0, 71.0))
            longest = max(longest, time.perf_counter() - began)

    writing = threading.Thread(target=write)
    writing.start()
    try:
        for number in range(4):
            back_up(worked.database, worked.files, tmp_path / f"{number}.zip")
    finally:
        stop.set()
        writing.join()
    assert longest < 15.0  # a writer that waited for a backup would have given up; `make bench` has the figure
    for number in range(4):
        assert verify_backup(tmp_path / f"{number}.zip")[1] == []
    restore(tmp_path / "3.zip", tmp_path / "back")
    again = Database(f"sqlite:///{tmp_path / 'back' / 'rulvek.db'}")
    assert verify(again, FileStore(tmp_path / "back" / "captures")).faults == ()
    again.close()


def test_what_is_no_backup_is_told(tmp_path: Path) -> None:
    (tmp_path / "text.zip").write_text("no zip at all")
    with zipfile.ZipFile(tmp_path / "other.zip", "w") as packed:
        packed.writestr("something", "else")
    (tmp_path / "folder").mkdir()
    for name in ("text.zip", "other.zip", "folder", "nothing.zip"):
        told = command("restore", tmp_path / name, tmp_path / "back")
        assert told.exit_code == 2 and "backup" in told.output and "Traceback" not in told.output


def test_scheduled_ones_are_kept_counted_and_shown(worked: Services, client: TestClient, tmp_path: Path) -> None:
    folder = tmp_path / "safe"
    folder.mkdir()
    (folder / "rulvek-mine.zip").write_text("somebody's own")
    scheduled = Backups(worked.database, worked.files, Schedule(folder, keep=2))
    assert scheduled.view().overdue
    for day in ("20260101", "20260102"):
        (folder / f"rulvek-{day}-120000.zip").write_text("an old one")
    assert scheduled.view().overdue, "the latest is from long ago"
    view = scheduled.take(TAMSIN)
    assert not view.overdue and [one.name[:15] for one in view.backups][1] == "rulvek-20260102"
    assert len(view.backups) == 2 and (folder / "rulvek-mine.zip").exists()
    shown = client.get("/api/backups").json()
    assert shown["folder"] == "" and not shown["overdue"]
    refused = client.post("/api/backups")
    assert refused.status_code == 409 and "RULVEK_BACKUP_FOLDER" in refused.json()["todo"]


def test_one_that_failed_is_told_until_one_succeeds(worked: Services, tmp_path: Path) -> None:
    capture = next(worked.files.root.rglob("*.wav"))
    good = capture.read_bytes()
    capture.write_bytes(b"damaged")
    scheduled = Backups(worked.database, worked.files, Schedule(tmp_path / "safe"))
    with pytest.raises(Conflict):
        scheduled.take(TAMSIN)
    assert "not as it was kept" in scheduled.view().problem and scheduled.view().overdue
    capture.write_bytes(good)
    assert scheduled.take(TAMSIN).problem == ""


def test_a_watch_takes_the_first_one_by_itself(worked: Services, tmp_path: Path) -> None:
    scheduled = Backups(worked.database, worked.files, Schedule(tmp_path / "safe"))
    scheduled.watch(TAMSIN)
    until = time.monotonic() + 20
    while not scheduled.view().backups and time.monotonic() < until:
        time.sleep(0.05)
    scheduled.close()
    assert len(scheduled.view().backups) == 1 and not scheduled.view().overdue


def test_an_upgrade_is_told_before_it_is_made(tmp_path: Path) -> None:
    from alembic import command as alembic
    from alembic.config import Config

    from rulvek.store.schema import MIGRATIONS

    old = tmp_path / "records"
    old.mkdir()
    database = Database(f"sqlite:///{old / 'rulvek.db'}")
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = database.engine
    alembic.upgrade(config, "0016")
    database.close()
    before = (old / "rulvek.db").read_bytes()
    told = command("upgrade-check", "--data", old)
    assert told.exit_code == 0 and "0017: People with accounts" in told.output and "way back" in told.output
    assert (old / "rulvek.db").read_bytes() == before, "nothing is changed"
    (kept,) = tmp_path.glob("before-*.zip")
    restore(kept, tmp_path / "back")
    again = Database(f"sqlite:///{tmp_path / 'back' / 'rulvek.db'}")
    again.migrate()
    assert again.is_current() and again.steps_to_come() == []
    again.close()
    shutil.copytree(tmp_path / "back", tmp_path / "new")
    assert "nothing to do" in command("upgrade-check", "--data", tmp_path / "new").output
