"""What a killed process leaves is swept away at the next start, and nothing else, and only while nobody is at work."""

import subprocess
import sys
from pathlib import Path

import pytest

from rulvek.composition import Services
from rulvek.store import named
from rulvek.store.files import FileStore
from rulvek.store.sweep import LOCK, MARKS, occupy, sweep
from rulvek.store.verify import verify
from tests.conftest import CERTIFIED, TAMSIN, conducted, migrated

KILLED = """
import os, signal, sys
from pathlib import Path
from rulvek.store.files import FileStore
from rulvek.store.sweep import occupy
folder = Path(sys.argv[1])
occupy(folder)
FileStore(folder / "captures").put(b"nobody speaks of it", ".wav")
(folder / "arriving-77").mkdir()
(folder / "arriving-77" / "half.part").write_bytes(b"half")
(folder / "practice-k3x").mkdir()
(folder / "practice-k3x" / "rulvek.db").write_bytes(b"of a practice job")
os.kill(os.getpid(), signal.SIGKILL)
"""


@pytest.fixture
def worked(tmp_path: Path, services: Services, unit_id: int) -> Path:
    """Records with captures, left in good order."""
    conducted(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id)
    services.close()
    return tmp_path


def killed_in(folder: Path) -> None:
    """A process that works there, and is killed between a file and its record."""
    assert subprocess.run([sys.executable, "-c", KILLED, str(folder)], check=False).returncode == -9


def swept(folder: Path) -> int:
    database = migrated(folder)
    gone = sweep(database, FileStore(folder / "captures"), folder)
    database.close()
    return gone


def on_disk(folder: Path) -> set[str]:
    root = folder / "captures"
    return {str(path.relative_to(root)) for path in root.rglob("*") if path.is_file()}


def test_what_a_killed_process_left_goes_and_nothing_else(worked: Path) -> None:
    before = on_disk(worked)
    assert before
    aside = worked / "captures" / "notes.txt"
    aside.write_text("laid here by hand")
    killed_in(worked)
    assert len(on_disk(worked)) == len(before) + 2
    assert swept(worked) == 1
    assert on_disk(worked) == before | {"notes.txt"}
    assert not list(worked.glob("arriving-*")) and not list(worked.glob("practice-*"))
    assert not list(worked.glob(MARKS))
    database = migrated(worked)
    assert not verify(database, FileStore(worked / "captures")).faults
    with database.reading() as session:
        assert set(named.paths(session)) == before
    database.close()


def test_nothing_goes_while_somebody_is_at_work(worked: Path) -> None:
    killed_in(worked)
    leave = occupy(worked)
    assert swept(worked) == 0
    leave()
    assert swept(worked) == 1


def test_nothing_is_looked_through_after_an_orderly_end(worked: Path) -> None:
    FileStore(worked / "captures").put(b"from before there were marks", ".wav")
    assert not list(worked.glob(MARKS))
    assert swept(worked) == 0


def test_a_folder_that_cannot_be_written_to_is_only_read(tmp_path: Path) -> None:
    (tmp_path / LOCK).mkdir()  # even root cannot open it for writing
    occupy(tmp_path)()
    assert not list(tmp_path.glob(MARKS))
