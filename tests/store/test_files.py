"""Files by their hashes: what comes back is what was kept, a changed file is seen, nothing stands in the way."""

import hashlib
import json
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile

from rulvek.core.errors import BadCapture, NotFound
from rulvek.core.records.attempts import KeptFile
from rulvek.core.signals.capture import Capture, Signal, SupplyTrace
from rulvek.store.files import FileStore


@pytest.fixture
def capture() -> Capture:
    t = np.arange(9600) / 96_000
    return Capture(
        samples=np.array([31.5 * np.sin(2 * np.pi * 1000 * t), 0.1 * np.cos(2 * np.pi * 40 * t) - 3]),
        sample_rate=96_000.0,
        roles=(Signal("output_volts", 1), Signal("output_volts", 5)),
        supply=SupplyTrace(np.linspace(14.4, 14.2, 100), np.linspace(0, 80, 100), 1000.0),
        temperature_c=31.25,
        load_c=88.5,
    )


def test_comes_back_as_it_was(tmp_path: Path, capture: Capture) -> None:
    store = FileStore(tmp_path)
    kept = store.keep_capture(capture)
    back = store.load_capture(kept)
    # float32 carries 24 bits of the full scale, which is the next power of two above the peak: 32 V.
    assert np.max(np.abs(back.samples - capture.samples)) < 32 * 2**-24
    assert back.roles == capture.roles and back.sample_rate == 96_000.0
    assert (back.temperature_c, back.load_c) == (31.25, 88.5)
    assert back.supply is not None and capture.supply is not None
    assert back.supply.mean_volts == pytest.approx(capture.supply.mean_volts, abs=1e-4)
    assert soundfile.info(tmp_path / kept.path).subtype == "FLOAT"
    assert kept.bytes == (tmp_path / kept.path).stat().st_size


def test_files_are_named_by_their_bytes_and_the_same_bytes_are_one_file(tmp_path: Path, capture: Capture) -> None:
    store = FileStore(tmp_path)
    first, again = store.keep_capture(capture), store.keep_capture(capture)
    assert (first.path, first.sha256) == (again.path, again.sha256)
    files = [path for path in tmp_path.rglob("*") if path.is_file()]
    assert len(files) == 2 and all(hashlib.sha256(p.read_bytes()).hexdigest() == p.stem for p in files)


@pytest.mark.parametrize("leftover", [b"", b"half of something", b"RIFF"])
def test_no_leftover_stands_in_the_way(tmp_path: Path, capture: Capture, leftover: bytes) -> None:
    """Whatever a crash left under the very name, the next file of that name is whole."""
    store = FileStore(tmp_path)
    kept = store.keep_capture(capture)
    (tmp_path / kept.path).write_bytes(leftover)
    assert not store.is_intact(kept)
    later = time.time() + 1  # a file of floats says at which second it was written
    while time.time() < later:
        time.sleep(0.05)
    again = store.keep_capture(capture)
    assert again.path == kept.path and store.is_intact(again)
    source = tmp_path / "sent.wav"
    source.write_bytes(b"an original")
    digest = hashlib.sha256(b"an original").hexdigest()
    (tmp_path / digest[:2]).mkdir(exist_ok=True)
    (tmp_path / digest[:2] / f"{digest}.wav").write_bytes(leftover)
    assert store.holds(store.take(source, digest, ".wav").path, digest)


@pytest.mark.parametrize("suffix", [".wav", ".json"])
def test_a_change_in_either_file_is_seen(tmp_path: Path, capture: Capture, suffix: str) -> None:
    store = FileStore(tmp_path)
    kept = store.keep_capture(capture)
    part = next(path for path in tmp_path.rglob(f"*{suffix}"))
    part.write_bytes(part.read_bytes() + b" ")
    assert not store.is_intact(kept)


def test_a_missing_or_foreign_file_is_told(tmp_path: Path, capture: Capture) -> None:
    store = FileStore(tmp_path)
    kept = store.keep_capture(capture)
    sidecar = next(tmp_path.rglob("*.json"))
    described = json.loads(sidecar.read_text())
    sidecar.write_text(json.dumps(described | {"format": "something else"}))
    with pytest.raises(BadCapture, match="not described as"):
        store.load_capture(kept)
    sidecar.unlink()
    with pytest.raises(NotFound, match="gone"):
        store.load_capture(kept)
    with pytest.raises(NotFound, match="gone"):
        store.path("../outside.wav")


def test_a_capture_of_before_is_read_by_its_one_fingerprint(tmp_path: Path, capture: Capture) -> None:
    store = FileStore(tmp_path)
    kept = store.keep_capture(capture)
    wav, sidecar = (next(tmp_path.rglob(f"*{suffix}")) for suffix in (".wav", ".json"))
    old = json.loads(sidecar.read_text()) | {"format": "rulvek-capture-1"}
    for name in ("sample_rate", "load_c", "wav_sha256"):
        del old[name]
    (tmp_path / "000001-reading.wav").write_bytes(wav.read_bytes())
    (tmp_path / "000001-reading.json").write_text(json.dumps(old))
    both = wav.read_bytes() + (tmp_path / "000001-reading.json").read_bytes()
    before = KeptFile("000001-reading.wav", hashlib.sha256(both).hexdigest(), kept.bytes, kept.kept_at)
    assert store.is_intact(before) and store.load_capture(before).load_c is None
    (tmp_path / "000001-reading.json").write_text("{}")
    assert not store.is_intact(before)


def test_a_capture_without_a_supply_is_kept_too(tmp_path: Path) -> None:
    store = FileStore(tmp_path)
    kept = store.keep_capture(Capture(np.zeros((1, 64)), 48_000.0))
    assert store.load_capture(kept).supply is None
