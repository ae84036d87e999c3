"""The folder of files, each named by its own SHA-256: the same bytes twice are one file, and nothing stands in the way.

A capture is two files in the open: a float32 WAV in volts re a full scale, and a JSON that tells the rest and names
the WAV. Files are on disk before the records speak of them; one that no record speaks of does no harm.
"""

import hashlib
import io
import json
import os
import secrets
import shutil
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from rulvek import clock
from rulvek.core.errors import BadCapture, NoRoom, NotFound
from rulvek.core.records.attempts import KeptFile
from rulvek.core.signals.capture import Capture, Signal, SupplyTrace

FORMAT = "rulvek-capture-2"
FORMATS = ("rulvek-capture-1", FORMAT)
_PIECE = 1 << 20


@dataclass(frozen=True, slots=True)
class Stored:
    """A file that was put away."""

    path: str
    sha256: str
    bytes: int


class FileStore:
    """A folder of files by their hashes."""

    def __init__(self, root: Path) -> None:
        self.root = root

    def put(self, content: bytes, suffix: str) -> Stored:
        """Put bytes away, on disk when this returns; those that are there already are left alone."""
        digest = hashlib.sha256(content).hexdigest()
        path = place(digest, suffix)
        target = self.root / path
        if not self._holds(target, digest):
            target.parent.mkdir(parents=True, exist_ok=True)
            partial = target.with_name(f"{target.name}.{secrets.token_hex(4)}.part")
            try:
                with partial.open("xb") as file:
                    file.write(content)
                    file.flush()
                    os.fsync(file.fileno())
                partial.replace(target)
            except OSError as failure:
                partial.unlink(missing_ok=True)
                raise (NoRoom() if failure.errno in NoRoom.ERRNO else failure) from None
            except BaseException:
                partial.unlink(missing_ok=True)
                raise
            _sync_folder(target.parent)
        return Stored(path, digest, len(content))

    def take(self, source: Path, sha256: str, suffix: str) -> Stored:
        """Take a file in whose hash is known; the source stays until its owner lets it go."""
        path, size = place(sha256, suffix), source.stat().st_size
        target = self.root / path
        if not self._holds(target, sha256):
            target.parent.mkdir(parents=True, exist_ok=True)
            target.unlink(missing_ok=True)  # it holds other bytes than its name says
            with source.open("rb+") as file:
                os.fsync(file.fileno())
            try:
                os.link(source, target)
            except OSError:
                shutil.copyfile(source, target)
            _sync_folder(target.parent)
        return Stored(path, sha256, size)

    def keep_capture(self, capture: Capture) -> KeptFile:
        """Write a capture as WAV and JSON."""
        full_scale = float(2 ** np.ceil(np.log2(max(1e-3, float(np.max(np.abs(capture.samples)))))))
        out = io.BytesIO()
        scaled = (capture.samples.T / full_scale).astype(np.float32)
        soundfile.write(out, scaled, round(capture.sample_rate), subtype="FLOAT", format="WAV")
        wav = self.put(_undated(out.getvalue()), ".wav")
        described = json.dumps(_describe(capture, full_scale) | {"wav_sha256": wav.sha256}, indent=1, allow_nan=False)
        sidecar = self.put(described.encode(), ".json")
        return KeptFile(wav.path, wav.sha256, wav.bytes, clock.now(), sidecar.sha256)

    def load_capture(self, kept: KeptFile) -> Capture:
        """Read a kept capture back, in volts.

        Raises:
            NotFound: the file or its JSON is gone.
            BadCapture: the JSON does not describe a capture.
        """
        wav, sidecar = self.path(kept.path), self._sidecar(kept)
        return capture_of(wav.read_bytes(), sidecar.read_bytes(), wav.name)

    def is_intact(self, kept: KeptFile) -> bool:
        """Whether a capture is there, byte for byte as it was kept."""
        with suppress(NotFound):
            if kept.described_sha256:
                return self.holds(kept.path, kept.sha256) and sha256_of(self._sidecar(kept)) == kept.described_sha256
            return sha256_of(self.path(kept.path), self._sidecar(kept)) == kept.sha256
        return False

    def parts(self, kept: KeptFile) -> list[tuple[Path, str]]:
        """The files of a capture, each with the hash that it must have.

        Raises:
            NotFound: one of them is gone.
        """
        wav, sidecar = self.path(kept.path), self._sidecar(kept)
        if kept.described_sha256:
            return [(wav, kept.sha256), (sidecar, kept.described_sha256)]
        return [(wav, sha256_of(wav)), (sidecar, sha256_of(sidecar))]  # of before: one hash over both

    def holds(self, path: str, sha256: str) -> bool:
        """Whether a file is there with these bytes."""
        return self._holds(self.root / path, sha256)

    def path(self, path: str) -> Path:
        """Where a file is.

        Raises:
            NotFound: it is gone, or lies outside of the folder.
        """
        found = (self.root / path).resolve()
        if not found.is_file() or not found.is_relative_to(self.root.resolve()):
            raise NotFound(f"The file {Path(path).name} is gone from the folder of captures.")
        return found

    def _sidecar(self, kept: KeptFile) -> Path:
        return self.path(sidecar(kept))

    @staticmethod
    def _holds(path: Path, sha256: str) -> bool:
        return path.is_file() and sha256_of(path) == sha256


def capture_of(wav: bytes, described: bytes, name: str) -> Capture:
    """A capture from the bytes of its WAV and of its JSON, in volts.

    Raises:
        BadCapture: the JSON does not describe a capture, or the WAV is none.
    """
    said = json.loads(described)
    if said.get("format") not in FORMATS:
        raise BadCapture(f"{name} is not described as {FORMAT}.", field="format")
    try:
        samples, rate = soundfile.read(io.BytesIO(wav), dtype="float64", always_2d=True)
    except soundfile.SoundFileError:
        raise BadCapture(f"{name} is no WAV.", field="file") from None
    supply = said["supply"]
    return Capture(
        samples=samples.T * said["volts_full_scale"],
        sample_rate=said.get("sample_rate", float(rate)),
        roles=tuple(Signal(role["quantity"], role["channel"]) for role in said["roles"]),
        supply=None
        if supply is None
        else SupplyTrace(np.array(supply["volts"]), _array_or_none(supply["amps"]), supply["sample_rate"]),
        temperature_c=said["temperature_c"],
        load_c=said.get("load_c"),
    )


def sha256_of(*paths: Path) -> str:
    """SHA-256 over files, one after the other."""
    digest = hashlib.sha256()
    for path in paths:
        for piece in _pieces(path):
            digest.update(piece)
    return digest.hexdigest()


def _pieces(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while piece := file.read(_PIECE):
            yield piece


def place(sha256: str, suffix: str) -> str:
    """Where in its folder a file lies, by the digest of its bytes."""
    return f"{sha256[:2]}/{sha256}{suffix}"


def sidecar(kept: KeptFile) -> str:
    """Where the JSON of a capture lies; before files were named by their bytes it lay beside its WAV."""
    if kept.described_sha256:
        return place(kept.described_sha256, ".json")
    return str(Path(kept.path).with_suffix(".json"))


def _sync_folder(folder: Path) -> None:
    """A rename is on disk only when its folder is."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _undated(wav: bytes) -> bytes:
    """A float WAV without the second at which it was written, which its PEAK chunk has: the same samples, one file."""
    at = wav.find(b"PEAK", 0, 128)
    return wav if at < 0 else wav[: at + 12] + bytes(4) + wav[at + 16 :]


def _describe(capture: Capture, full_scale: float) -> dict[str, Any]:
    supply = capture.supply
    return {
        "format": FORMAT,
        "volts_full_scale": full_scale,
        "sample_rate": capture.sample_rate,
        "roles": [{"quantity": role.quantity, "channel": role.channel} for role in capture.roles],
        "supply": None
        if supply is None
        else {
            "sample_rate": supply.sample_rate,
            "volts": [round(float(v), 4) for v in supply.volts],
            "amps": None if supply.amps is None else [round(float(a), 3) for a in supply.amps],
        },
        "temperature_c": capture.temperature_c,
        "load_c": capture.load_c,
    }


def _array_or_none(values: list[float] | None) -> np.ndarray | None:
    return None if values is None else np.array(values)
