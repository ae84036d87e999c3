"""Who holds the bench: one person at a time; others watch, and may ask to take over."""

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

from rulvek.core.errors import Conflict

ANSWER_SECONDS = 60.0
LEFT_ALONE_SECONDS = 20 * 60.0


@dataclass(frozen=True, slots=True)
class Holding:
    """Who holds the bench and who asks for it; ``seconds_left`` until an unanswered request is granted."""

    holder: str | None
    asked_by: str | None
    seconds_left: float | None


class BenchHold:
    """A bench is held by whoever worked at it last, until they leave it, hand it over, or leave it alone for long.

    Kept in memory only: after a restart nothing runs, and the bench is free.
    """

    def __init__(self, now: Callable[[], float] = time.monotonic) -> None:
        self._now = now
        self._lock = threading.Lock()
        self._holder: str | None = None
        self._active_at = 0.0
        self._asked_by: str | None = None
        self._asked_at = 0.0

    def state(self, busy: bool) -> Holding:
        """Who holds it now; while it is ``busy`` no request is granted by mere silence."""
        with self._lock:
            self._settle(busy)
            left = None
            if self._asked_by is not None:
                left = max(0.0, ANSWER_SECONDS - (self._now() - self._asked_at))
            return Holding(self._holder, self._asked_by, left)

    def require(self, person: str, busy: bool = False) -> None:
        """Take the bench if it is free.

        Raises:
            Conflict: somebody else holds it.
        """
        with self._lock:
            self._settle(busy)
            if self._holder not in (None, person):
                raise Conflict(
                    f"{self._holder} is working at the bench.",
                    todo="Watch along, or ask to take over.",
                    code="bench-held",
                )
            self._holder, self._active_at = person, self._now()

    def ask(self, person: str, busy: bool) -> None:
        """Ask to take over; a free bench is taken at once."""
        with self._lock:
            self._settle(busy)
            if self._holder in (None, person):
                self._holder, self._active_at = person, self._now()
            elif self._asked_by is None:
                self._asked_by, self._asked_at = person, self._now()
            elif self._asked_by != person:
                raise Conflict(f"{self._asked_by} has asked already.", todo="Wait for the answer.", code="bench-asked")

    def answer(self, person: str, grant: bool) -> str:
        """The holder hands over, or keeps the bench; returns who had asked.

        Raises:
            Conflict: nobody asked, or somebody else than the holder answers.
        """
        with self._lock:
            if self._asked_by is None:
                raise Conflict("Nobody is asking to take over.")
            if person != self._holder:
                raise Conflict(f"Only {self._holder} can answer.")
            asked_by, self._asked_by = self._asked_by, None
            if grant:
                self._holder = asked_by
            self._active_at = self._now()
            return asked_by

    def leave(self, person: str) -> None:
        """Leave the bench free, or to the one who asks for it."""
        with self._lock:
            if self._holder == person:
                self._holder, self._asked_by, self._active_at = self._asked_by, None, self._now()

    def _settle(self, busy: bool) -> None:
        now = self._now()
        if busy:
            self._active_at = now
            return
        if self._asked_by is not None and now - self._asked_at >= ANSWER_SECONDS:
            self._holder, self._asked_by, self._active_at = self._asked_by, None, now
        if now - self._active_at >= LEFT_ALONE_SECONDS:
            self._holder = None
