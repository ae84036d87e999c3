"""What a process that was killed leaves behind, and its end at the next start.

A file is on disk before the record that speaks of it: a kill in between leaves one that nobody will ever look for.
Whoever works with a folder of records leaves a mark in it and holds a lock, which ends with the process whatever ends
it. A mark without a lock is a dead one's; only then, and only while nobody else is there, is anything swept away.
"""

import fcntl
import re
import secrets
import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from rulvek.store import named
from rulvek.store.engine import Database
from rulvek.store.files import FileStore

LOCK, MARKS = ".in-use", ".in-use-*"
OF_A_PROCESS = ("arriving-*", "practice-*")
"""Folders that are of no use to anybody once the process that made them has ended."""
_OURS = re.compile(r"[0-9a-f]{64}\.")
"""Nothing else is ever swept away: what somebody laid there by hand stays."""


def occupy(folder: Path) -> Callable[[], None]:
    """Say that this process works with a folder of records, until what is returned is called or the process ends."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        held = (folder / LOCK).open("a")
        fcntl.flock(held, fcntl.LOCK_SH)
        mark = folder / f"{LOCK}-{secrets.token_hex(4)}"
        mark.touch()
    except OSError:  # a folder that cannot be written to has nothing that could be left in it
        return lambda: None

    def leave() -> None:
        mark.unlink(missing_ok=True)
        held.close()

    return leave


def sweep(database: Database, files: FileStore, folder: Path) -> int:
    """Remove what killed processes left in a folder of records, unless somebody is at work in it.

    Returns:
        How many files went.
    """
    with _alone(folder) as alone:
        marks = list(folder.glob(MARKS))
        if not alone or not marks:
            return 0
        with database.reading() as session:
            spoken_of = set(named.paths(session))
        gone = 0
        for path in _ours(files.root):
            if str(path.relative_to(files.root)) not in spoken_of:
                path.unlink(missing_ok=True)
                gone += 1
        for left in (one for pattern in OF_A_PROCESS for one in folder.glob(pattern)):
            shutil.rmtree(left, ignore_errors=True)
        for mark in marks:
            mark.unlink(missing_ok=True)
        return gone


def _ours(root: Path) -> Iterator[Path]:
    return (path for path in root.glob("[0-9a-f][0-9a-f]/*") if _OURS.match(path.name))


@contextmanager
def _alone(folder: Path) -> Iterator[bool]:
    """Whether nobody else works with a folder; nobody begins to while this lasts."""
    with suppress(OSError), (folder / LOCK).open("a") as held:
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            yield False
        else:
            yield True
        return
    yield False
