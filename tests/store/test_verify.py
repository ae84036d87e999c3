"""``rulvek verify``: whatever is changed behind the records' back is found, and named in one line."""

import json
import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest
from typer.testing import CliRunner, Result

from rulvek.cli import app
from rulvek.composition import Services
from rulvek.core.records.outside import HandChannel, HandReading, OtherReading
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.outside import Table
from tests.conftest import TAMSIN, certified_campaign, services_in, write_line

pytestmark = pytest.mark.files


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A run of the bench, a reading by hand, a table, a second instrument: everything that is sealed."""
    made = tmp_path_factory.mktemp("sealed")
    services: Services = services_in(made)
    unit_id = write_line(services)
    campaign = certified_campaign(services, unit_id)
    services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()
    spec = RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4)
    hand = HandReading(
        spec, (HandChannel(watts=80.0), HandChannel(watts=81.0)), "Meter 4", loaded_volts=14.4, end=End.LIMIT
    )
    services.by_hand.keep(unit_id, hand, TAMSIN)
    services.second.add(1, "Meter 9", 0.5, [OtherReading(1, watts=79.0)], TAMSIN)
    text = "Serial,Mode,Load,Watts,Watts 2\nT2-0001,certified,4,79,80\n"
    mapping = {0: "serial", 1: "mode", 2: "load_ohms", 3: "watts", 4: "watts"}
    services.earlier_results.keep(Table("old.csv", text, mapping, "Meter 4"), TAMSIN)  # type: ignore[arg-type]
    services.close()
    return made


def verified(folder: Path) -> Result:
    return CliRunner().invoke(app, ["verify", str(folder)])


@pytest.fixture
def copy(folder: Path, tmp_path: Path) -> Path:
    for path in folder.rglob("*"):
        if path.is_file() and not path.name.endswith(("-wal", "-shm")):
            target = tmp_path / path.relative_to(folder)
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(path.read_bytes())
    return tmp_path


def test_records_that_nobody_touched_are_found_whole(copy: Path) -> None:
    answer = verified(copy)
    assert answer.exit_code == 0, answer.output
    assert "3 attempts are as they were sealed." in answer.stdout


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ("UPDATE reading SET watts = watts + 1e-9 WHERE attempt_id = 1 AND channel = 1", "Attempt 1 is not as it was"),
        ("UPDATE reading SET watts = 90 WHERE attempt_id = 2 AND channel = 2", "Attempt 2 is not as it was"),
        ("UPDATE reading SET watts = 90 WHERE attempt_id = 3 AND channel = 2", "Attempt 3 is not as it was"),
        ("UPDATE attempt_ending SET supply_volts = 14.0 WHERE attempt_id = 1", "Attempt 1 is not as it was"),
        ("UPDATE attempt_ending SET \"end\" = 'clip' WHERE attempt_id = 3", "Attempt 3 is not as it was"),
        ("UPDATE attempt SET instruments = '{}' WHERE id = 2", "Attempt 2 is not as it was"),
        ("UPDATE attempt SET simulated = 0 WHERE id = 1", "Attempt 1 is not as it was"),
        ("UPDATE attempt SET simulated = NULL WHERE id = 1", "Attempt 1 is not as it was"),
        ("UPDATE run SET load_ohms = 2.0 WHERE id = 1", "Attempt 1 is not as it was"),
        (
            "UPDATE step SET data = json_set(data, '$.channels[0].watts', 1.5) WHERE id ="
            " (SELECT min(id) FROM step WHERE kind = 'point')",
            "Attempt 1 is not as it was",
        ),
        ("DELETE FROM step WHERE kind = 'level' AND attempt_id = 1", "Attempt 1 is not as it was"),
        ("UPDATE second_reading SET watts = 80.5", "Second reading 1 is not as it was"),
        ("UPDATE claim SET watts = 70", "Claim 1 is not as it was"),
        ("DELETE FROM attempt WHERE id = 2", "Attempt 2 was sealed and is gone"),
        ("DELETE FROM claim", "Claim 1 was sealed and is gone"),
        ("UPDATE capture_file SET sha256 = 'x'", "capture"),
        ("DELETE FROM audit_entry WHERE id = 3", "The audit chain is broken at entry 4"),
        ("UPDATE audit_entry SET person = 'Nobody' WHERE id = 2", "The audit chain is broken at entry 2"),
        ("DELETE FROM reading WHERE attempt_id = 2", "Attempt 2 is not as it was"),
    ],
)
def test_a_change_of_anything_sealed_is_found(copy: Path, change: str, words: str) -> None:
    with sqlite3.connect(copy / "rulvek.db") as raw:
        raw.execute("PRAGMA foreign_keys = OFF")
        assert raw.execute(change).rowcount > 0
    answer = verified(copy)
    assert answer.exit_code == 1 and words in answer.stdout, answer.output


def test_every_watt_of_every_reading_is_sealed(copy: Path) -> None:
    with sqlite3.connect(copy / "rulvek.db") as raw:
        ids = [row[0] for row in raw.execute("SELECT id FROM reading")]
    for identity in ids:
        with sqlite3.connect(copy / "rulvek.db") as raw:
            raw.execute("UPDATE reading SET watts = watts * 1.000001 WHERE id = ?", (identity,))
        assert verified(copy).exit_code == 1, identity
        with sqlite3.connect(copy / "rulvek.db") as raw:
            raw.execute("UPDATE reading SET watts = watts / 1.000001 WHERE id = ?", (identity,))


@pytest.mark.parametrize("suffix", [".wav", ".json"])
def test_a_changed_or_missing_file_is_found(copy: Path, suffix: str) -> None:
    file = next((copy / "captures").rglob(f"*{suffix}"))
    content = bytearray(file.read_bytes())
    content[len(content) // 2] ^= 1
    file.write_bytes(bytes(content))
    assert "is not as it was kept" in verified(copy).stdout
    file.unlink()
    assert verified(copy).exit_code == 1


def test_a_damaged_database_and_no_records_at_all(copy: Path, tmp_path: Path) -> None:
    assert "There are no records" in verified(tmp_path / "nothing").stderr
    with sqlite3.connect(copy / "rulvek.db") as raw:
        raw.execute("PRAGMA foreign_keys = OFF")
        raw.execute("DELETE FROM run WHERE id = 2")
        kept = json.loads(raw.execute("SELECT detail FROM audit_entry WHERE action = 'ended a run'").fetchone()[0])
    assert kept["seals"][0][:2] == ["attempt", 1]
    assert verified(copy).exit_code in (0, 1)
    with sqlite3.connect(copy / "rulvek.db") as raw:
        raw.execute("PRAGMA foreign_keys = OFF")
        raw.execute("DELETE FROM run WHERE id = 1")
    assert "refers to a run that is not there" in verified(copy).stdout


def _of_before(records: Path) -> None:
    with sqlite3.connect(records) as raw:
        raw.execute("ALTER TABLE attempt DROP COLUMN read_again")
        raw.execute("UPDATE alembic_version SET version_num = '0024'")


def _of_later(records: Path) -> None:
    with sqlite3.connect(records) as raw:
        raw.execute("UPDATE alembic_version SET version_num = '9999'")


def _cut(records: Path) -> None:
    records.write_bytes(records.read_bytes()[:20_000])


def _scrambled(records: Path) -> None:
    records.write_bytes(bytes(range(256)) * 100)


@pytest.mark.parametrize(
    ("spoil", "sentence"),
    [
        (_of_before, "The records are of another version of Rulvek."),
        (_of_later, "The records are of another version of Rulvek."),
        (_cut, "The database is damaged."),
        (_scrambled, "The file of the records is no database."),
    ],
)
@pytest.mark.parametrize("command", ["verify", "reanalyse"])
def test_records_that_cannot_be_looked_at_are_told_in_one_sentence(
    copy: Path, command: str, spoil: Callable[[Path], None], sentence: str
) -> None:
    spoil(copy / "rulvek.db")
    answer = CliRunner().invoke(app, [command, str(copy)])
    assert answer.exit_code == 2 and answer.stderr.startswith(sentence), answer.output
    assert answer.stderr.count("\n") == 1 and "Error" not in answer.stderr
