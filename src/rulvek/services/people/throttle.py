"""Who must wait before trying to sign in again: by name and by address, longer each time."""

from datetime import datetime, timedelta

from rulvek.core.errors import TooSoon
from rulvek.services.tokens import digest
from rulvek.store import people
from rulvek.store.engine import Database

FREE = {"name": 3, "address": 10}
"""Failures that cost nothing: of one name, and of one address, behind which there may be a whole lab."""
LONGEST_SECONDS = 300.0
FORGOTTEN = timedelta(minutes=30)
"""So long after its last wait a failure counts no more."""


class Throttle:
    """Counts each try before its password is looked at, so that a hundred at once are a hundred."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def take(self, name: str, address: str, at: datetime) -> None:
        """Count a try of a name from an address.

        Raises:
            TooSoon: one of the two must wait; the try is not counted.
        """
        with self._database.writing() as session:
            keys = _keys(name, address)
            known = people.waits(session, keys.values())
            waiting = max((until for _, until in known.values()), default=at)
            if waiting > at:
                seconds = (waiting - at).total_seconds()
                raise TooSoon(f"That was tried too often. Try again in {_spoken(seconds)}.", seconds)
            for kind, key in keys.items():
                failures, until = known.get(key, (0, at))
                failures = 1 if at - until > FORGOTTEN else failures + 1
                people.set_wait(session, key, failures, at + timedelta(seconds=wait_seconds(failures, FREE[kind])))

    def succeeded(self, name: str, address: str) -> None:
        """Forget the failures of a name; of the address only this try: one good account buys no others."""
        with self._database.writing() as session:
            keys = _keys(name, address)
            people.forget_wait(session, keys["name"])
            failures, until = people.waits(session, [keys["address"]]).get(keys["address"], (0, None))
            if until is not None:
                people.set_wait(session, keys["address"], max(0, failures - 1), until)


def wait_seconds(failures: int, free: int) -> float:
    """How long to wait after so many failures: nothing, then 1, 2, 4 … seconds.

    >>> [wait_seconds(failures, 3) for failures in (2, 3, 4, 5, 30)]
    [0.0, 1.0, 2.0, 4.0, 300.0]
    """
    return 0.0 if failures < free else float(min(LONGEST_SECONDS, 2.0 ** min(failures - free, 20)))


def _keys(name: str, address: str) -> dict[str, str]:
    """What is counted; a name only as its hash, as somebody may have typed a password there."""
    return {"name": f"name {digest(people.folded(name))}", "address": f"address {address[:100]}"}


def _spoken(seconds: float) -> str:
    return f"{max(1, round(seconds))} s" if seconds < 90 else f"{round(seconds / 60)} minutes"
