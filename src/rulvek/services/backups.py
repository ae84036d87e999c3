"""Scheduled backups: taken when the latest has become too old, so many kept, shown with their age."""

import threading
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

import structlog

from rulvek.core.errors import Conflict, RulvekError
from rulvek.core.records.actor import Actor
from rulvek.services.views.backups import BackupsView, BackupView
from rulvek.store import audit
from rulvek.store.backup import back_up
from rulvek.store.engine import Database
from rulvek.store.files import FileStore

log = structlog.get_logger()
LOOKED_EVERY_SECONDS = 60.0
_NAME = "rulvek-%Y%m%d-%H%M%S.zip"


@dataclass(frozen=True, slots=True)
class Schedule:
    """Where backups go, how old the latest may become, and how many are kept."""

    folder: Path | None = None
    every: timedelta = timedelta(hours=24)
    keep: int = 14


class Backups:
    """Takes them one at a time. What fails is told to admins until one succeeds."""

    def __init__(self, database: Database, files: FileStore, schedule: Schedule) -> None:
        self._database, self._files, self._schedule = database, files, schedule
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._problem = ""
        self._done = self._of = 0

    def view(self) -> BackupsView:
        """All that are kept, the latest first; ``overdue`` where the latest is too old or there is none."""
        kept = self._kept()
        latest = kept[0][1] if kept else None
        overdue = self._schedule.folder is not None and (
            latest is None or datetime.now(UTC) - latest > self._schedule.every * 1.1
        )
        return BackupsView(
            folder=str(self._schedule.folder or ""),
            every_hours=self._schedule.every.total_seconds() / 3600,
            keep=self._schedule.keep,
            overdue=overdue,
            problem=self._problem,
            running=self._lock.locked(),
            done=self._done,
            of=self._of,
            backups=[BackupView(name=path.name, made_at=at, bytes=path.stat().st_size) for path, at in kept],
        )

    def take(self, actor: Actor) -> BackupsView:
        """Take one now, and let go of those that are too many.

        Raises:
            Conflict: one is being taken, no folder is set, or the records are damaged.
        """
        folder = self._schedule.folder
        if folder is None:
            raise Conflict("No folder for backups is set.", todo="Set RULVEK_BACKUP_FOLDER, and start again.")
        if not self._lock.acquire(blocking=False):
            raise Conflict("A backup is being taken already.")
        try:
            made = back_up(self._database, self._files, folder / datetime.now(UTC).strftime(_NAME), self._progress)
            self._problem = ""
            for path, _ in self._kept()[self._schedule.keep :]:
                path.unlink(missing_ok=True)
        except (RulvekError, OSError) as failure:
            self._problem = str(failure)
            log.error("backup failed", problem=self._problem)
            if isinstance(failure, OSError):
                raise Conflict(f"The backup could not be written: {failure.strerror}.") from failure
            raise
        finally:
            self._lock.release()
        with self._database.writing() as session:
            audit.note(session, actor, "took a backup", "backups", text=f"{len(made.manifest.files)} files")
        return self.view()

    def watch(self, actor: Actor) -> None:
        """Take one whenever the latest has become too old, until closed; does nothing without a folder."""
        if self._schedule.folder is not None:
            threading.Thread(target=self._watch, args=(actor,), name="backups", daemon=True).start()

    def close(self) -> None:
        """Take no more."""
        self._stop.set()

    def _watch(self, actor: Actor) -> None:
        while not self._stop.is_set():
            kept = self._kept()
            if not kept or datetime.now(UTC) - kept[0][1] >= self._schedule.every:
                try:
                    self.take(actor)
                except RulvekError as failure:
                    log.warning("scheduled backup", problem=failure.what)
            self._stop.wait(LOOKED_EVERY_SECONDS)

    def _progress(self, done: int, of: int) -> None:
        self._done, self._of = done, of

    def _kept(self) -> list[tuple[Path, datetime]]:
        if self._schedule.folder is None or not self._schedule.folder.is_dir():
            return []
        found = []
        for path in self._schedule.folder.glob("rulvek-*.zip"):
            try:
                found.append((path, datetime.strptime(path.name, _NAME).replace(tzinfo=UTC)))
            except ValueError:
                continue  # somebody's own
        return sorted(found, key=lambda one: one[1], reverse=True)
