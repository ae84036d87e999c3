"""Capture files: what comes back is what was kept, and a changed file is seen."""

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile

from rulvek.core.errors import BadCapture, NotFound
from rulvek.core.measure.capture import Capture, Role, SupplyTrace
from rulvek.store.captures import CaptureFolder


@pytest.fixture
def capture() -> Capture:
    t = np.arange(9600) / 96_000
    return Capture(
        samples=np.array([31.5 * np.sin(2 * np.pi * 1000 * t), 0.1 * np.cos(2 * np.pi * 40 * t) - 3]),
        sample_rate=96_000.0,
        roles=(Role("output_volts", 1), Role("output_volts", 5)),
        supply=SupplyTrace(np.linspace(14.4, 14.2, 100), np.linspace(0, 80, 100), 1000.0),
        temperature_c=31.25,
    )


def test_comes_back_as_it_was(tmp_path: Path, capture: Capture) -> None:
    folder = CaptureFolder(tmp_path)
    kept = folder.keep("000001-reading", capture)
    back = folder.load(kept.path)
    # float32 carries 24 bits of the full scale, which is the next power of two above the peak: 32 V.
    assert np.max(np.abs(back.samples - capture.samples)) < 32 * 2**-24
    assert back.roles == capture.roles and back.sample_rate == 96_000.0 and back.temperature_c == 31.25
    assert back.supply is not None and capture.supply is not None
    assert back.supply.mean_volts == pytest.approx(capture.supply.mean_volts, abs=1e-4)
    assert soundfile.info(tmp_path / kept.path).subtype == "FLOAT"
    assert kept.bytes == (tmp_path / kept.path).stat().st_size


def test_nothing_is_overwritten(tmp_path: Path, capture: Capture) -> None:
    folder = CaptureFolder(tmp_path)
    first = folder.keep("a", capture)
    with pytest.raises(FileExistsError):
        folder.keep("a", capture)
    assert folder.fingerprint(first.path) == first.sha256


@pytest.mark.parametrize("suffix", [".wav", ".json"])
def test_a_change_in_either_file_changes_the_fingerprint(tmp_path: Path, capture: Capture, suffix: str) -> None:
    folder = CaptureFolder(tmp_path)
    kept = folder.keep("a", capture)
    part = (tmp_path / kept.path).with_suffix(suffix)
    part.write_bytes(part.read_bytes() + b" ")
    assert folder.fingerprint(kept.path) != kept.sha256


def test_a_missing_or_foreign_file_is_told(tmp_path: Path, capture: Capture) -> None:
    folder = CaptureFolder(tmp_path)
    kept = folder.keep("a", capture)
    sidecar = (tmp_path / kept.path).with_suffix(".json")
    described = json.loads(sidecar.read_text())
    sidecar.write_text(json.dumps(described | {"format": "something else"}))
    with pytest.raises(BadCapture, match="not described as"):
        folder.load(kept.path)
    sidecar.unlink()
    with pytest.raises(NotFound, match="gone"):
        folder.load(kept.path)


def test_a_capture_without_a_supply_is_kept_too(tmp_path: Path) -> None:
    folder = CaptureFolder(tmp_path)
    kept = folder.keep("quiet", Capture(np.zeros((1, 64)), 48_000.0))
    assert folder.load(kept.path).supply is None
