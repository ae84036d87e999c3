"""Wakes those who watch: a thread says that something was written, and every open stream looks."""

import asyncio
import threading
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

T = TypeVar("T")


class Hub:
    """Carries no data: watchers read what is new from the records, so nothing can be missed or come twice."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._watchers: set[tuple[asyncio.AbstractEventLoop, asyncio.Event]] = set()
        self._wakes = 0
        self._readings: dict[Hashable, asyncio.Task[Any]] = {}

    def wake(self) -> None:
        """Tell every watcher to look; callable from any thread."""
        with self._lock:
            self._wakes += 1
            watchers = list(self._watchers)
        for loop, event in watchers:
            if not loop.is_closed():
                loop.call_soon_threadsafe(event.set)

    @property
    def watched(self) -> int:
        """How many watch."""
        with self._lock:
            return len(self._watchers)

    @contextmanager
    def watching(self) -> Iterator[asyncio.Event]:
        """An event that is set whenever something may be new; to be cleared by the watcher."""
        watcher = (asyncio.get_running_loop(), asyncio.Event())
        with self._lock:
            self._watchers.add(watcher)
        try:
            yield watcher[1]
        finally:
            with self._lock:
                self._watchers.discard(watcher)

    async def read_together(self, what: Hashable, read: Callable[[], T]) -> T:
        """What all who were woken together want to read alike, read once, in a thread.

        Only a reading that began after the latest wake is shared: an earlier one may miss what was written.

        Args:
            what: Tells one reading from another.
            read: Does it; for all of them.
        """
        with self._lock:
            key = (asyncio.get_running_loop(), self._wakes, what)
            if (reading := self._readings.get(key)) is None:
                reading = self._readings[key] = asyncio.create_task(asyncio.to_thread(read))
                reading.add_done_callback(lambda _: self._readings.pop(key, None))
        # One who leaves does not take the reading from the others.
        found: T = await asyncio.shield(reading)
        return found
