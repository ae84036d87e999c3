"""What is asked of the records on somebody's behalf, so that what took long can say what it waited for."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import Engine, event

SHOWN = 3
"""Statements that are remembered by their words: the slowest ones."""
MOST_WORDS = 400


@dataclass
class Asked:
    """How many statements were sent, how long they took together, and the slowest ones (seconds, words)."""

    count: int = 0
    seconds: float = 0.0
    slowest: list[tuple[float, str]] = field(default_factory=list)

    def note(self, seconds: float, words: str) -> None:
        """Count one more."""
        self.count += 1
        self.seconds += seconds
        if len(self.slowest) < SHOWN or seconds > self.slowest[-1][0]:
            self.slowest = sorted([*self.slowest, (seconds, " ".join(words.split())[:MOST_WORDS])], reverse=True)[
                :SHOWN
            ]


_ASKED: ContextVar[Asked | None] = ContextVar("asked", default=None)


@contextmanager
def asked() -> Iterator[Asked]:
    """Count what the block asks, also in the threads that it waits for.

    Only the words of statements are kept, never the values in them.
    """
    found = Asked()
    before = _ASKED.set(found)
    try:
        yield found
    finally:
        _ASKED.reset(before)


def listen(engine: Engine) -> None:
    """Have an engine's statements counted."""
    event.listen(engine, "before_cursor_execute", _begun)
    event.listen(engine, "after_cursor_execute", _done)


def _begun(_c: object, _cursor: object, _statement: str, _p: object, context: Any, _many: bool) -> None:
    if context is not None and _ASKED.get() is not None:
        context.begun_at = time.perf_counter()


def _done(_c: object, _cursor: object, statement: str, _p: object, context: Any, _many: bool) -> None:
    found, begun = _ASKED.get(), getattr(context, "begun_at", None)
    if found is not None and begun is not None:
        found.note(time.perf_counter() - begun, statement)
