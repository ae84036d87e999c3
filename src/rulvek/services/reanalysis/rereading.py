"""The archive read again within a server: one reading at a time, beside everything else, for people to look at."""

import math
import os
import time
from collections.abc import Callable, Iterator
from concurrent.futures import BrokenExecutor, Executor
from contextlib import AbstractContextManager, contextmanager
from dataclasses import asdict, dataclass, field
from datetime import datetime
from pathlib import Path
from threading import Event, Lock, Thread

import structlog

from rulvek import clock
from rulvek.core.errors import Conflict, NotFound, RulvekError
from rulvek.core.judgement.reanalysis import Change
from rulvek.core.method.versions import MethodVersion
from rulvek.core.records.actor import Actor
from rulvek.services.reanalysis.archive import Archive, Reanalysis
from rulvek.services.reanalysis.reading import processes
from rulvek.services.views.attempt import percent
from rulvek.services.views.reanalysis import ChangedAttemptView, MovedRatingView, OtherVerdictView, ReanalysisView
from rulvek.store import methods as method_store
from rulvek.store.engine import Database
from rulvek.store.queries import line as line_queries

log = structlog.get_logger()
LISTED = 100
"""Attempts and verdicts that are listed; how many there are is told."""
GIVE_WAY = 10
"""By how much the processes that read stand back for the server and its benches."""
Readers = Callable[[], AbstractContextManager[tuple[Executor, int]]]


@dataclass(slots=True)
class _Asked:
    """A reading, from when it was asked for until the next one is."""

    version: MethodVersion | None
    model: str
    by: str
    at: datetime
    stop: Event = field(default_factory=Event)
    begun: float = field(default_factory=time.monotonic)
    known: int | None = None
    done: int = 0
    of: int = 0
    running: bool = True
    problem: str = ""
    found: Reanalysis | None = None
    adopted: list[int] = field(default_factory=list)

    def tell(self, done: int, of: int) -> None:
        """So many are read by now."""
        if self.known is None:
            self.known, self.begun = done, time.monotonic()
        self.done, self.of = done, of

    @property
    def seconds_left(self) -> float | None:
        """By how fast it went since it was begun; None where that cannot be told."""
        read = self.done - (self.known or 0)
        if not self.running or not read:
            return None
        return (self.of - self.done) * (time.monotonic() - self.begun) / read


@contextmanager
def beside() -> Iterator[tuple[Executor, int]]:
    """Processes that leave a core to the server, and stand back for whoever else wants one."""
    with processes(max(1, (os.cpu_count() or 1) - 1), give_way=GIVE_WAY) as made:
        yield made


class Rereading:
    """Reads in the background, and keeps what the last reading came to until the next is asked for.

    What was read is noted on disk as it comes: a reading that was ended, by a person or by a kill, goes on from there.
    """

    def __init__(self, database: Database, captures: Path, work: Path, readers: Readers = beside) -> None:
        self._database, self._captures, self._work, self._readers = database, captures, work, readers
        self._lock, self._adopting = Lock(), Lock()
        self._asked: _Asked | None = None
        self._thread: Thread | None = None

    def view(self) -> ReanalysisView:
        """How it stands."""
        with self._lock:
            asked = self._asked
        return _view(asked, self._in_the_way(asked))

    def begin(self, version_id: int | None, model: str, actor: Actor) -> ReanalysisView:
        """Read the archive again; nothing on record changes by it.

        Args:
            version_id: Of which of the lab's methods, approved or not; None for each campaign's own method.
            model: The name of the one model that is read; empty for all.
            actor: Who asks for it.

        Raises:
            NotFound: no such version or model.
            Conflict: one is under way.
        """
        name = model.strip()
        with self._database.reading() as session:
            version = None if version_id is None else method_store.version(session, version_id)
            if name and line_queries.model_named(session, name) is None:
                raise NotFound(f"There is no model “{name}” on record.", field="model")
        with self._lock:
            if self._asked is not None and self._asked.running:
                raise Conflict("The archive is being read already.", todo="Wait for it, or stop it.")
            asked = self._asked = _Asked(version, name, actor.name, clock.now())
            self._thread = Thread(target=self._read, args=(asked,), name="rereading", daemon=True)
            self._thread.start()
        return self.view()

    def stop(self) -> ReanalysisView:
        """End it; the next of the same kind goes on from there."""
        with self._lock:
            if self._asked is not None:
                self._asked.stop.set()
        return self.view()

    def adopt(self, reason: str, actor: Actor) -> ReanalysisView:
        """Put on record what comes to other figures, beside what stands.

        Raises:
            Conflict: there is nothing to adopt, or it was not read to its end, or by a method that nobody approved.
            BadInput: no reason.
        """
        with self._adopting:
            with self._lock:
                asked = self._asked
            if because := self._in_the_way(asked):
                raise Conflict(because)
            assert asked is not None and asked.found is not None
            asked.adopted += self._archive(asked).adopt(asked.found, actor, reason)
        return self.view()

    def close(self) -> None:
        """End what is under way, and wait for it."""
        self.stop()
        if self._thread is not None:
            self._thread.join(10)

    def _read(self, asked: _Asked) -> None:
        method = asked.version.profile if asked.version else None
        try:
            with self._readers() as (executor, workers):
                asked.found = self._archive(asked).read_again(
                    executor, workers, method, asked.tell, asked.stop, keep_notes=True
                )
        except (RulvekError, OSError, BrokenExecutor) as failure:
            asked.problem = failure.what if isinstance(failure, RulvekError) else f"It ended by itself: {failure}"
            log.exception("reading the archive again failed")
        finally:
            asked.running = False

    def _archive(self, asked: _Asked) -> Archive:
        return Archive(self._database, str(self._captures.resolve()), self._work, asked.model)

    def _in_the_way(self, asked: _Asked | None) -> str:
        """Why what was read cannot be adopted; empty where it can."""
        if asked is None or asked.found is None or not asked.found.complete:
            return "The archive was not read to its end."
        if not asked.found.changes:
            return "Everything comes to what stands."
        if asked.adopted:
            return "It was adopted."
        if asked.version is not None:
            with self._database.reading() as session:
                if method_store.version(session, asked.version.id).approved_at is None:
                    return f"{asked.version.title} is not approved: what it comes to is for looking at."
        return ""


def _view(asked: _Asked | None, in_the_way: str) -> ReanalysisView:
    found = asked.found if asked else None
    return ReanalysisView(
        asked_by=asked.by if asked else "",
        asked_at=asked.at if asked else None,
        method=asked.version.title if asked and asked.version else "",
        version_id=asked.version.id if asked and asked.version else None,
        model=asked.model if asked else "",
        running=asked is not None and asked.running,
        done=asked.done if asked else 0,
        of=asked.of if asked else 0,
        seconds_left=asked.seconds_left if asked else None,
        complete=found is not None and found.complete,
        problem=asked.problem if asked else "",
        changed=len(found.changes) if found else 0,
        changes=[_change_view(one) for one in sorted(found.changes, key=_least_first)[:LISTED]] if found else [],
        verdicts_changed=len(found.verdicts) if found else 0,
        verdicts=[OtherVerdictView(**asdict(one)) for one in found.verdicts[:LISTED]] if found else [],
        ratings=[MovedRatingView(**asdict(one)) for one in found.ratings] if found else [],
        not_adopted_because=in_the_way,
        adopted=list(asked.adopted) if asked else [],
    )


def _least_first(one: Change) -> float:
    """What comes to nothing first, then what loses most."""
    return -math.inf if one.percent is None else one.percent


def _change_view(one: Change) -> ChangedAttemptView:
    return ChangedAttemptView(
        attempt_id=one.attempt_id,
        serial=one.serial,
        was_watts=one.was_watts,
        watts=one.watts,
        percent=one.percent,
        was_thd_n_percent=percent(one.was_thd_n),
        thd_n_percent=percent(one.thd_n),
        problem=one.problem,
    )
