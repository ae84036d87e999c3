"""Capture files in the open: float32 WAV in volts re a full scale, with a JSON beside it that tells the rest."""

import hashlib
import json
import os
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from rulvek.core.errors import BadCapture, NotFound
from rulvek.core.measure.capture import Capture, Role, SupplyTrace

FORMAT = "rulvek-capture-1"


@dataclass(frozen=True, slots=True)
class KeptFile:
    """A file that was written: path relative to the folder, SHA-256 over WAV and JSON, size of the WAV."""

    path: str
    sha256: str
    bytes: int


class CaptureFolder:
    """The folder of captures."""

    def __init__(self, root: Path) -> None:
        self.root = root

    def keep(self, name: str, capture: Capture) -> KeptFile:
        """Write a capture as ``name``.wav and ``name``.json; nothing is overwritten, and both are on disk on return."""
        wav, sidecar = self.root / f"{name}.wav", self.root / f"{name}.json"
        wav.parent.mkdir(parents=True, exist_ok=True)
        full_scale = float(2 ** np.ceil(np.log2(max(1e-3, float(np.max(np.abs(capture.samples)))))))
        scaled = (capture.samples.T / full_scale).astype(np.float32)
        partial = wav.with_suffix(".part")
        soundfile.write(partial, scaled, round(capture.sample_rate), subtype="FLOAT", format="WAV")
        described = _describe(capture, full_scale)
        sidecar_text = json.dumps(described, indent=1, allow_nan=False)
        _write_through(sidecar, sidecar_text.encode())
        with partial.open("rb+") as file:
            os.fsync(file.fileno())
        partial.rename(wav)
        return KeptFile(f"{name}.wav", self.fingerprint(f"{name}.wav"), wav.stat().st_size)

    def fingerprint(self, path: str) -> str:
        """SHA-256 over the WAV and its JSON, in that order."""
        wav = self.root / path
        digest = hashlib.sha256()
        for part in (wav, wav.with_suffix(".json")):
            if not part.is_file():
                raise NotFound(f"The capture file {part.name} is gone from the folder of captures.")
            digest.update(part.read_bytes())
        return digest.hexdigest()

    def load(self, path: str) -> Capture:
        """Read a kept capture back, in volts.

        Raises:
            NotFound: the file or its JSON is gone.
            BadCapture: the JSON does not describe a capture.
        """
        wav = self.root / path
        self.fingerprint(path)
        described = json.loads(wav.with_suffix(".json").read_text())
        if described.get("format") != FORMAT:
            raise BadCapture(f"{wav.name} is not described as {FORMAT}.", field="format")
        samples, rate = soundfile.read(wav, dtype="float64", always_2d=True)
        supply = described["supply"]
        return Capture(
            samples=samples.T * described["volts_full_scale"],
            sample_rate=float(rate),
            roles=tuple(Role(role["quantity"], role["channel"]) for role in described["roles"]),
            supply=None
            if supply is None
            else SupplyTrace(np.array(supply["volts"]), _array_or_none(supply["amps"]), supply["sample_rate"]),
            temperature_c=described["temperature_c"],
        )


def _describe(capture: Capture, full_scale: float) -> dict[str, object]:
    supply = capture.supply
    return {
        "format": FORMAT,
        "volts_full_scale": full_scale,
        "roles": [{"quantity": role.quantity, "channel": role.channel} for role in capture.roles],
        "supply": None
        if supply is None
        else {
            "sample_rate": supply.sample_rate,
            "volts": [round(float(v), 4) for v in supply.volts],
            "amps": None if supply.amps is None else [round(float(a), 3) for a in supply.amps],
        },
        "temperature_c": capture.temperature_c,
    }


def _array_or_none(values: list[float] | None) -> np.ndarray | None:
    return None if values is None else np.array(values)


def _write_through(path: Path, content: bytes) -> None:
    with path.open("xb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())
