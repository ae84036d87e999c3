"""Conclusions that hold no more, drawn anew beside the server that shows them: after an update, under a new method."""

import gc
import multiprocessing
import threading
from collections.abc import Callable
from dataclasses import replace

import structlog

from rulvek.services.beside import stand_back
from rulvek.services.conclusions import Conclusions
from rulvek.services.later import Later
from rulvek.services.ratings import RatingBoard, RatingWatch
from rulvek.services.views.now import WorkView
from rulvek.store.engine import Database

log = structlog.get_logger()

FEW = 4
"""Models that a server draws by itself: to begin a process takes longer."""
LOOKS_SECONDS = 1.0
COLLECT_AFTER = 10_000
"""Objects: records are read by the thousand, and looking for garbage among them took half of the time."""
WORK = WorkView(
    what="Verdicts are drawn anew, as the program or its method changed",
    done=0,
    of=0,
    things="models",
    note="A page that shows others takes longer until then.",
    problem="",
)


class DrawingAnew:
    """Has a process of its own draw what is stale, where that is much; tells how far it is."""

    def __init__(self, database: Database, conclusions: Conclusions) -> None:
        self._database, self._conclusions = database, conclusions
        self._process: multiprocessing.process.BaseProcess | None = None

    def begin(self, tell: Callable[[WorkView | None], None]) -> None:
        """Draw everything that is stale, for the start of a server; returns at once.

        Args:
            tell: Takes what is to be shown of it, None once it is done.
        """
        stale, of = self._conclusions.stale()
        if stale <= FEW or not self._database.is_kept:
            self._conclusions.warm()
            return
        tell(replace(WORK, done=of - stale, of=of))
        # It is spawned, not forked: threads of this process may hold locks that nobody would give up there.
        self._process = multiprocessing.get_context("spawn").Process(
            target=draw_all, args=(self._database.url,), name="drawing anew", daemon=True
        )
        self._process.start()
        threading.Thread(target=self._watch, args=(self._process, tell), name="drawing anew", daemon=True).start()

    def close(self) -> None:
        """End it, wherever it is: what was drawn is kept."""
        if self._process is not None and self._process.is_alive():
            self._process.terminate()
            self._process.join(5)

    def _watch(self, process: multiprocessing.process.BaseProcess, tell: Callable[[WorkView | None], None]) -> None:
        while process.is_alive():
            stale, of = self._conclusions.stale()
            tell(replace(WORK, done=of - stale, of=of))
            process.join(LOOKS_SECONDS)
        if process.exitcode not in (0, -15):
            log.error("conclusions could not be drawn beside", exit_code=process.exitcode)
        tell(None)


def draw_all(url: str) -> None:
    """Draw everything on record that is stale, with the samples of all ratings; a process of its own."""
    stand_back()
    gc.set_threshold(COLLECT_AFTER, 10, 10)
    database, later = Database(url), Later("conclusions")
    conclusions = Conclusions(database, later)
    conclusions.warm()
    conclusions.flush()
    RatingBoard(database, conclusions, RatingWatch(database, conclusions, later)).board()
    later.close()
    database.close()
