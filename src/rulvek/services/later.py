"""What can be written a moment later, without anybody waiting for it: one thread, short transactions, in order."""

import queue
import threading
from collections.abc import Callable

import structlog

log = structlog.get_logger()
TRIES = 5


class Later:
    """Does work in the background, one piece after the other; a piece that fails is tried again, then logged."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._queue: queue.Queue[Callable[[], object] | None] = queue.Queue()
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def do(self, work: Callable[[], object]) -> None:
        """Take a piece of work; returns at once."""
        self._queue.put(work)
        with self._lock:
            if self._thread is None or not self._thread.is_alive():
                self._thread = threading.Thread(target=self._run, name=self._name, daemon=True)
                self._thread.start()

    @property
    def waiting(self) -> int:
        """How many pieces are not begun."""
        return self._queue.qsize()

    def flush(self) -> None:
        """Wait until everything that was taken so far is done."""
        self._queue.join()

    def close(self) -> None:
        """Finish what was taken, and stop."""
        with self._lock:
            thread, self._thread = self._thread, None
        if thread is not None and thread.is_alive():
            self._queue.put(None)
            thread.join(10)

    def _run(self) -> None:
        while (work := self._queue.get()) is not None:
            try:
                self._try(work)
            finally:
                self._queue.task_done()
        self._queue.task_done()

    def _try(self, work: Callable[[], object]) -> None:
        for attempt in range(1, TRIES + 1):
            try:
                work()
            except Exception:
                log.exception("work in the background failed", worker=self._name, attempt=attempt)
            else:
                return
