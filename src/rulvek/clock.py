"""The moment that goes on record: the machine's clock, or one that was set back for whoever acts in the past.

The demo's first units were measured weeks ago; their bench works then, and everything that it writes says so. What
keeps servers and people apart (leases, sessions, tokens, backups) is never set back.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime, timedelta

_SET_BACK: ContextVar[timedelta] = ContextVar("set_back", default=timedelta(0))


def now() -> datetime:
    """The moment, in UTC.

    >>> with set_back(timedelta(days=40)):
    ...     then = now()
    >>> (now() - then).days
    40
    """
    return datetime.now(UTC) - _SET_BACK.get()


@contextmanager
def set_back(by: timedelta) -> Iterator[None]:
    """Act in the past, for what is done in this block and for the runs that are started in it."""
    token = _SET_BACK.set(by)
    try:
        yield
    finally:
        _SET_BACK.reset(token)
