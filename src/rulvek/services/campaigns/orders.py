"""Orders that were found for what waits: shown at once, at the times of now, while a better one is looked for."""

import math
import threading
import time
from collections import OrderedDict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass

from rulvek.core.planning.queue import Job, Queue, Standing, planned, still
from rulvek.services.later import Later

LOOK_AGAIN_SECONDS = 60.0
FIRST_LOOKS = 6_000
"""While somebody waits for it; who asks once more has the best one looked for."""
MOST = 8
"""A run that is on is none that waits: the same few come again and again."""


@dataclass(slots=True)
class _Found:
    order: Queue
    again_at: float
    looking: bool = False


class Orders:
    """Finds an order quickly where there is none to go by; better ones are looked for aside, with nobody waiting."""

    def __init__(self, later: Later, people: int | None = None) -> None:
        """``people`` can set up benches at the same time; enough where None."""
        self._later, self._people = later, people
        self._found: OrderedDict[Hashable, _Found] = OrderedDict()
        self._lock, self._looking = threading.Lock(), threading.Lock()

    def proposed(self, wanted: Hashable, jobs: Sequence[Job], standings: Sequence[Standing]) -> Queue:
        """The order to show.

        Args:
            wanted: What people want of what waits: an order is gone by only where that is as it was.
            jobs: What waits.
            standings: The benches that there are.
        """
        if (held := self._held(wanted, jobs, standings)) is not None:
            return held
        with self._looking:  # who comes meanwhile waits for it instead of working it out as well
            if (held := self._held(wanted, jobs, standings)) is not None:
                return held
            return self._keep(wanted, planned(jobs, standings, FIRST_LOOKS, self._people), -math.inf)

    def _held(self, wanted: Hashable, jobs: Sequence[Job], standings: Sequence[Standing]) -> Queue | None:
        with self._lock:
            found = self._found.get(wanted)
        order = still(found.order, jobs, standings, self._people) if found is not None else None
        if found is None or order is None:
            return None
        with self._lock:
            again = not found.looking and time.monotonic() > found.again_at
            found.looking |= again
        if again:
            self._later.do(lambda: self._look_again(wanted, found, jobs, standings))
        return order

    def _keep(self, wanted: Hashable, order: Queue, again_at: float) -> Queue:
        with self._lock:
            self._found[wanted] = _Found(order, again_at)
            self._found.move_to_end(wanted)
            if len(self._found) > MOST:
                self._found.popitem(last=False)
        return order

    def _look_again(self, wanted: Hashable, found: _Found, jobs: Sequence[Job], standings: Sequence[Standing]) -> None:
        try:
            self._keep(wanted, planned(jobs, standings, people=self._people), time.monotonic() + LOOK_AGAIN_SECONDS)
        finally:
            found.looking = False
