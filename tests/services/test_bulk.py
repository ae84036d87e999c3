"""Bulk import: what a list may say, what one job comes to, and that nothing of a refused one stays."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from rulvek.composition import Services
from rulvek.core.errors import BadInput
from rulvek.core.runs.modes import Mode
from rulvek.services.outside import Imported, Job, import_one, read_list
from rulvek.services.views.outside import RecordingView
from tests.conftest import JOREN

DEFAULTS = Job(file=Path(), unit="T2-0001", full_scale=40.0, instrument="Recorder 2")


@pytest.fixture
def tone(tmp_path: Path) -> Path:
    """Two channels of a steady 20 V and 19.8 V peak, re 40 V of full scale."""
    wave = 0.5 * np.sin(2 * np.pi * 1000 * np.arange(48_000) / 48_000)
    path = tmp_path / "tone.wav"
    soundfile.write(path, np.column_stack([wave, 0.99 * wave]), 48_000, subtype="FLOAT")
    return path


def imported(services: Services, job: Job, dry_run: bool = False) -> tuple[Imported, list[RecordingView]]:
    told: list[RecordingView] = []
    came = import_one(services.database, services.recordings, job, JOREN, told.append, dry_run)
    folder = services.files.root.parent / "arriving"
    assert not folder.exists() or list(folder.iterdir()) == []
    return came, told


def test_the_groups_channels_are_the_columns_in_turn(services: Services, unit_id: int, tone: Path) -> None:
    came, _ = imported(services, replace(DEFAULTS, file=tone))
    assert came.attempt is not None and came.attempt_id is not None
    # V² / 2R of 20 and 19.8 V peak into 4 Ω
    assert [r.watts for r in came.attempt.readings] == pytest.approx([50.0, 50.0 * 0.99**2], rel=1e-4)
    swapped, _ = imported(services, replace(DEFAULTS, file=tone, channels=(2, 1)))
    assert swapped.attempt is not None
    assert [r.watts for r in swapped.attempt.readings] == pytest.approx([50.0 * 0.99**2, 50.0], rel=1e-4)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"unit": "T9"}, "no unit with the serial number “T9”"),
        ({"file": Path("gone.wav")}, "There is no file gone.wav"),
        ({"group": "rear"}, "no channel group “rear”"),
        ({"channels": (1,)}, "reads channel 2, which no column"),
        ({"mode": Mode.BURST}, "a steady tone, which is no burst run"),
        ({"instrument": ""}, "Name the instrument"),
    ],
)
def test_a_job_that_cannot_be_done_says_so_and_leaves_nothing(
    services: Services,
    unit_id: int,
    tone: Path,
    changes: dict,
    words: str,  # type: ignore[type-arg]
) -> None:
    came, _ = imported(services, replace(replace(DEFAULTS, file=tone), **changes))
    assert words in came.problem and came.attempt_id is None
    assert services.campaigns.listed().items == []


def test_a_dry_run_reads_and_keeps_nothing(services: Services, unit_id: int, tone: Path) -> None:
    came, _ = imported(services, replace(DEFAULTS, file=tone), dry_run=True)
    assert came.attempt is not None and came.attempt_id is None and came.problem == ""
    assert services.campaigns.listed().items == []


def test_a_list_is_read_with_its_defaults(tmp_path: Path) -> None:
    path = tmp_path / "list.csv"
    path.write_text("file,mode,load,channels,bridged\na.wav,burst,2,3 4,yes\nb.wav,,,,\n", encoding="utf-8-sig")
    first, second = read_list(path, DEFAULTS)
    assert (first.mode, first.load, first.channels, first.bridged) == (Mode.BURST, 2.0, (3, 4), True)
    assert first.file == tmp_path / "a.wav" and first.unit == "T2-0001"
    assert second == replace(DEFAULTS, file=tmp_path / "b.wav")


def test_a_list_may_be_parted_by_semicolons_and_have_decimal_commas(tmp_path: Path) -> None:
    path = tmp_path / "list.csv"
    path.write_text("\ufefffile;load;loaded_volts\na.wav;2,67;14,38\n", encoding="utf-8")
    (job,) = read_list(path, DEFAULTS)
    assert (job.file.name, job.load, job.loaded_volts) == ("a.wav", 2.67, 14.38)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("mode\ncertified\n", "no column “file”"),
        ("file,colour\na.wav,red\n", "a column “colour”"),
        ("file,load\na.wav,0\n", "Row 2: “0” is no load."),
        ("file,load\na.wav,inf\n", "Row 2: “inf” is no load."),
        ("file,channels\na.wav,1\nb.wav,one\n", "Row 3: “one” is no channels."),
        ("file,bridged\na.wav,perhaps\n", "Row 2: “perhaps” is no bridged."),
    ],
)
def test_a_list_that_cannot_be_read_names_its_row(tmp_path: Path, text: str, words: str) -> None:
    path = tmp_path / "list.csv"
    path.write_text(text)
    with pytest.raises(BadInput) as refused:
        read_list(path, DEFAULTS)
    assert words in refused.value.what
    with pytest.raises(BadInput, match="cannot be read"):
        read_list(tmp_path / "gone.csv", DEFAULTS)
