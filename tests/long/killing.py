"""A process that does one thing over and over on copies of the same records, and is killed each time somewhere else.

Run as ``python -m tests.long.killing WHAT FOLDER TRIALS SEED``; each line of its answer is one trial as JSON.
Forked children are killed (SIGKILL) at a point that is counted: before every statement, before and after every commit
and at every step of putting a file on disk. What was committed by then has been told to the parent. Another child then
starts on what is left, as ``rulvek serve`` does, and tells what it finds.
"""

import json
import math
import os
import shutil
import signal
import sqlite3
import sys
import tempfile
import traceback
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from random import Random
from typing import Any

from sqlalchemy import Engine, event

from rulvek.composition import Services, serving
from rulvek.core.records.bundles import Scope
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End
from rulvek.services.benches.unattended import conduct_all
from rulvek.settings import Settings
from rulvek.store import load, named
from rulvek.store.engine import Database
from rulvek.store.files import FileStore
from rulvek.store.verify import verify
from tests.conftest import CERTIFIED, JOREN, TAMSIN, conducted, services_in, write_line
from tests.pictures import drawn
from tests.store.first_version import of_the_first_version

COUNTED = ("audit_entry", "attempt", "step", "reading", "capture_file", "kept_entry", "brought_file", "campaign")
"""Tables to which rows are only added: what is counted once is there for good."""


def counts(records: Path) -> dict[str, int]:
    """How many rows there are, as anybody sees them who opens the file."""
    with closing(sqlite3.connect(records, timeout=30)) as connection:
        there = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        return {one: connection.execute(f"SELECT count(*) FROM {one}").fetchone()[0] for one in COUNTED if one in there}


class Hand:
    """Counts points, and kills this process at one of them."""

    def __init__(self, at: float) -> None:
        self.at, self.passed = at, 0

    def point(self, *_: Any, **__: Any) -> None:
        self.passed += 1
        if self.passed >= self.at:
            os.kill(os.getpid(), signal.SIGKILL)

    def arm(self, records: Path, tell: Callable[[dict[str, int]], None]) -> None:
        """Stand at every point from here on."""

        def before(function: Callable[..., Any]) -> Callable[..., Any]:
            def held(*args: Any, **kwargs: Any) -> Any:
                self.point()
                return function(*args, **kwargs)

            return held

        for name in ("fsync", "replace", "link", "unlink"):
            setattr(os, name, before(getattr(os, name)))
        event.listen(Engine, "before_cursor_execute", self.point)
        event.listen(Engine, "commit", self.point)
        writing = Database.writing

        @contextmanager
        def told(database: Database) -> Iterator[Any]:
            with writing(database) as session:
                yield session
            tell(counts(records))
            self.point()

        Database.writing = told  # type: ignore[method-assign]


def keeping(services: Services, folder: Path) -> None:
    """A photograph is brought."""
    services.kept_files.take(drawn((40, 30)), "A photograph.png", TAMSIN)


def conducting(services: Services, folder: Path) -> None:
    """A planned campaign is conducted; after a kill, what was cut off is repeated."""
    again = (Cause.OTHER, "The program was ended in the middle.")
    conduct_all(services.database, services.preparations, services.benches, 1, JOREN, again=again)


def importing(services: Services, folder: Path) -> None:
    """A bundle of another lab is taken in."""
    arriving = services.bundles.arriving("a.bundle.zip")
    arriving.write((folder / "their.bundle.zip").read_bytes())
    services.bundles.take_in(services.bundles.arrived(arriving).id, JOREN)


def migrating(folder: Path) -> None:
    """Records of the first version are brought up to date."""
    database = Database(f"sqlite:///{folder / 'rulvek.db'}")
    database.migrate()
    database.close()


DOES = {"keeping": keeping, "conducting": conducting, "importing": importing}


def prepared(what: str, folder: Path) -> None:
    """The records that every trial begins with."""
    if what == "migrating":
        of_the_first_version(folder / "rulvek.db").close()
        return
    services = services_in(folder)
    unit = write_line(services)
    campaign = services.campaigns.create(unit, TAMSIN, CERTIFIED)
    if what == "importing":
        conducted(services, campaign.id)
        services.kept_files.take(drawn((40, 30)), "A photograph.png", TAMSIN)
        bundle = services.bundles.pack(Scope.MODEL, 1, TAMSIN).path.read_bytes()
        services.close()
        shutil.rmtree(folder)
        folder.mkdir()
        services = services_in(folder)
        (folder / "their.bundle.zip").write_bytes(bundle)
    services.close()


def do(what: str, folder: Path, hand: Hand, tell: Callable[[dict[str, int]], None]) -> None:
    """What a trial is killed in."""
    if what == "migrating":
        hand.arm(folder / "rulvek.db", tell)
        migrating(folder)
        return
    services = services_in(folder)
    hand.arm(folder / "rulvek.db", tell)
    DOES[what](services, folder)
    services.close()


def found(what: str, folder: Path) -> dict[str, Any]:
    """What the next start finds, and whether what was killed can be done now."""
    services = serving(Settings(data_folder=folder, bench_speed=math.inf, backup_folder=None))
    after = counts(folder / "rulvek.db")
    lost = []
    for (identity,) in _rows(folder, "SELECT id FROM attempt"):
        with services.database.reading() as session:
            ending = load.attempt(session, identity)[2].ending
        if ending is None or (ending.end is End.LINK_LOST and "stopped in the middle" not in ending.fault):
            lost.append(identity)
    orphans = _orphans(services, folder)
    again = "done"
    try:
        if what == "importing" and after["campaign"]:
            again = "it was taken in already"
        elif what != "migrating":
            DOES[what](services, folder)
    except Exception:
        again = traceback.format_exc(limit=-2)
    services.close()
    database = Database(f"sqlite:///{folder / 'rulvek.db'}")
    faults = verify(database, FileStore(folder / "captures")).faults
    database.close()
    left = [path.name for pattern in ("arriving-*", ".in-use-*", "*.part") for path in folder.rglob(pattern)]
    return {"after": after, "untrue": lost, "orphans": orphans, "again": again, "faults": faults, "left": left}


def _orphans(services: Services, folder: Path) -> list[str]:
    root = folder / "captures"
    with services.database.reading() as session:
        spoken_of = set(named.paths(session))
    return sorted({str(path.relative_to(root)) for path in root.rglob("*") if path.is_file()} - spoken_of)


def _rows(folder: Path, question: str) -> list[tuple[Any, ...]]:
    with closing(sqlite3.connect(folder / "rulvek.db")) as connection:
        return connection.execute(question).fetchall()


def in_a_child(work: Callable[[Callable[[Any], None]], None]) -> tuple[int, list[Any]]:
    """Do something in a forked process: how it ended, and all that it told."""
    reads, writes = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(reads)
        try:
            work(lambda told: os.write(writes, (json.dumps(told) + "\n").encode()) and None)
            os._exit(0)
        except BaseException:
            os.write(writes, (json.dumps({"failed": traceback.format_exc()}) + "\n").encode())
            os._exit(1)
    os.close(writes)
    with os.fdopen(reads) as told:
        lines = [json.loads(line) for line in told]
    _, status = os.waitpid(child, 0)
    return status, lines


def trial(what: str, base: Path, at: float) -> dict[str, Any]:
    """Do it on a copy, be killed at a point, start again."""
    with tempfile.TemporaryDirectory(prefix="killed-") as made:
        folder = Path(made) / "data"
        shutil.copytree(base, folder)
        hand = Hand(at)

        def work(tell: Callable[[Any], None]) -> None:
            do(what, folder, hand, tell)
            tell({"points": hand.passed})

        status, told = in_a_child(work)
        points = next((one["points"] for one in told if "points" in one), None)
        failed = next((one["failed"] for one in told if "failed" in one), "")
        acknowledged = [one for one in told if "points" not in one and "failed" not in one]
        ended, then = in_a_child(lambda tell: tell(found(what, folder)))
        return {
            "at": at if math.isfinite(at) else 0,
            "killed": status == signal.SIGKILL,
            "points": points,
            "failed": failed or (then[-1].get("failed", "") if ended else ""),
            "acknowledged": acknowledged[-1] if acknowledged else {},
            **(then[-1] if then and not ended else {}),
        }


def main(what: str, folder: Path, trials: int, seed: int) -> None:
    """One trial that nobody ends, then as many as are asked, at every point or at points drawn by the seed."""
    base = folder / "base"
    base.mkdir()
    of_the_first_version(folder / "warm.db").close()  # what is imported for it is there in every child
    ended, told = in_a_child(lambda _: prepared(what, base))
    if ended:
        raise SystemExit(told[-1]["failed"])
    whole = trial(what, base, math.inf)
    print(json.dumps(whole), flush=True)
    points = list(range(1, (whole["points"] or 0) + 1))
    drawn_points = points * (trials // len(points)) if points and trials >= len(points) else []
    draw = Random(seed)
    drawn_points += draw.sample(points, trials - len(drawn_points))
    for at in drawn_points:
        one = trial(what, base, at)
        print(json.dumps(one), flush=True)
        # Threads that commit in larger pieces pass fewer points: it is done again, at one that was reached.
        while not one["killed"] and one["points"]:
            one = trial(what, base, draw.randint(1, one["points"]))
            print(json.dumps(one), flush=True)


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]), int(sys.argv[3]), int(sys.argv[4]))
