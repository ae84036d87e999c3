"""Looks again and again whether kept captures are as they were kept: what rests on one that is not shows it."""

import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime

import structlog

from rulvek.core.errors import RulvekError
from rulvek.core.records.actor import PROGRAM
from rulvek.core.records.attempts import KeptFile
from rulvek.services.conclusions import Conclusions
from rulvek.store import audit, load, named, save
from rulvek.store.engine import Database
from rulvek.store.files import FileStore

log = structlog.get_logger()
FIRST_AFTER_SECONDS = 60.0
AGAIN_AFTER_SECONDS = 24 * 3600.0
RESTS_A_FILE = 4.0
"""Times as long as a file took, so that nobody at work waits for the disk."""


class IntactFiles:
    """Marks captures whose bytes changed or that are gone, and takes the mark back once they are as they were."""

    def __init__(self, database: Database, files: FileStore, conclusions: Conclusions) -> None:
        self._database, self._files, self._conclusions = database, files, conclusions
        self._stop = threading.Event()

    def look(self, rest: Callable[[float], object] = lambda _: None) -> list[int]:
        """Go through all of them once; returns the attempts for which that changed anything."""
        with self._database.reading() as session:
            kept, known = named.captures(session), named.found_changed(session)
        changed = []
        for attempt_id, one in kept:
            if self._stop.is_set():
                break
            begun = time.perf_counter()
            is_known = (attempt_id, one.sha256) in known
            if self._files.is_intact(one) == is_known:
                self._note(attempt_id, one, None if is_known else datetime.now(UTC))
                changed.append(attempt_id)
            rest(RESTS_A_FILE * (time.perf_counter() - begun))
        return changed

    def _note(self, attempt_id: int, kept: KeptFile, found: datetime | None) -> None:
        with self._database.writing() as session:
            campaign, _, _ = load.attempt(session, attempt_id)
            save.capture_found(session, campaign.id, attempt_id, kept.sha256, found)
            what = "found a file changed" if found else "found a file as it was kept"
            audit.note(session, PROGRAM, what, f"campaign/{campaign.id}", text=f"attempt {attempt_id}, {kept.path}")
        log.warning(what, attempt=attempt_id, path=kept.path)
        self._conclusions.changed(campaign.unit.model_id, campaign.unit.id)

    def changed(self) -> int:
        """How many files are known to be other than they were kept."""
        with self._database.reading() as session:
            return len(named.found_changed(session))

    def watch(self) -> None:
        """Look soon after the start and every day, until closed."""
        threading.Thread(target=self._watch, name="intact", daemon=True).start()

    def close(self) -> None:
        """Look no more."""
        self._stop.set()

    def _watch(self) -> None:
        wait = FIRST_AFTER_SECONDS
        while not self._stop.wait(wait):
            try:
                self.look(self._stop.wait)
            except (RulvekError, OSError) as failure:
                log.warning("files could not be looked at", problem=str(failure))
            wait = AGAIN_AFTER_SECONDS
