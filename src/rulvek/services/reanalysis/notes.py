"""What was read of an archive, kept as it comes, so that a reading that was ended goes on where it was."""

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from rulvek.core.judgement.reanalysis import Reread
from rulvek.core.readings.point import Load
from rulvek.core.records.attempts import Reading


class Notes:
    """What was read of an archive, a line each, on disk as it comes."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.known: dict[str, Reread] = {}

    def __enter__(self) -> "Notes":
        with_end = 0
        if self.path.exists():
            with self.path.open("rb") as file:
                for line in file:
                    if not line.endswith(b"\n"):
                        break  # cut off by a kill
                    key, one = _told(json.loads(line))
                    self.known[key] = one
                    with_end += len(line)
        self.path.parent.mkdir(parents=True, exist_ok=True)
        self._file = self.path.open("ab")
        self._file.truncate(with_end)
        return self

    def __exit__(self, *_: object) -> None:
        self._file.close()

    def write(self, key: str, one: Reread) -> None:
        """Take one down."""
        figures = [[r.channel, r.watts, r.volts_rms, r.thd_n, r.thd, *_load(r)] for r in one.readings]
        line = {"key": key, "attempt": one.attempt_id, "readings": figures, "problem": one.problem}
        self._file.write(json.dumps(line, allow_nan=False).encode() + b"\n")

    def flush(self) -> None:
        """Everything that was taken down is on its way to the disk."""
        self._file.flush()


def _load(reading: Reading) -> tuple[float, float, float, float | None, float | None]:
    load = reading.load
    return load.nominal_ohms, load.measured_ohms, load.tolerance, load.inductance_uh, load.ppm_per_kelvin


def _told(line: Mapping[str, Any]) -> tuple[str, Reread]:
    readings = tuple(
        Reading(channel, watts, volts, thd_n, thd, Load(*load))
        for channel, watts, volts, thd_n, thd, *load in line["readings"]
    )
    return line["key"], Reread(line["attempt"], readings, line["problem"])
