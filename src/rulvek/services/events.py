"""Wakes those who watch: a thread says that something was written, and every open stream looks."""

import asyncio
import threading
from collections.abc import Iterator
from contextlib import contextmanager


class Hub:
    """Carries no data: watchers read what is new from the records, so nothing can be missed or come twice."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._watchers: set[tuple[asyncio.AbstractEventLoop, asyncio.Event]] = set()

    def wake(self) -> None:
        """Tell every watcher to look; callable from any thread."""
        with self._lock:
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
