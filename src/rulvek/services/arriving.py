"""A file while it is being sent: it grows in a folder of its own until it is complete, or nothing of it stays."""

import secrets
from pathlib import Path

from rulvek.core.errors import BadInput


class ArrivingFile:
    """A file that somebody is sending; ``what`` is what people call it, ``todo`` helps where it is too large."""

    def __init__(self, folder: Path, name: str, most_bytes: int, what: str, todo: str = "") -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.path = folder / secrets.token_hex(8)
        self.name = Path(name).name[:120] or what
        self._most, self._todo = most_bytes, todo
        self._file = self.path.open("xb")
        self._bytes = 0

    def write(self, part: bytes) -> None:
        """Add a part.

        Raises:
            BadInput: the file grows beyond what is taken.
        """
        self._bytes += len(part)
        if self._bytes > self._most:
            raise BadInput(f"{self.name} is larger than {self._most // 2**20} MB.", todo=self._todo, field="file")
        self._file.write(part)

    def complete(self) -> Path:
        """All of it is there."""
        self._file.close()
        return self.path

    def abandon(self) -> None:
        """It will not be complete."""
        self._file.close()
        self.path.unlink(missing_ok=True)
