"""The watchdog of a supply that has one: fed while the amplifier is on, it switches off by itself when nobody feeds it.

It is the last line, beyond the keeper: it needs nothing of this machine, not even that it still runs.
"""

import contextlib
import threading

from rulvek.bench.instruments.link import Link
from rulvek.core.errors import BenchFault

WATCHDOG_SECONDS = 1.0
"""Who cannot feed it for so long could not switch the bench off either."""
FED_EVERY_SECONDS = 0.2


class Watchdog:
    """Arms and feeds it, over a connection of its own: neither a query of a run nor Off waits for it."""

    def __init__(self, link: Link) -> None:
        self._link = link
        self._fed: threading.Event | None = None

    def wake(self) -> None:
        """See that it still answers, before anything is begun."""
        self._link.wake()

    def arm(self) -> None:
        """Arm it before power comes on, and feed it from then on.

        Raises:
            BenchFault: it could not be told; nothing may be powered then.
        """
        self._leave_off()
        self._link.act("arm_watchdog", seconds=WATCHDOG_SECONDS)
        self._fed = over = threading.Event()
        threading.Thread(target=self._feed, args=(over,), name="watchdog", daemon=True).start()

    def disarm(self) -> None:
        """Let it be, as the supply is off. One that cannot be told is not fed any more, which is as good."""
        if self._leave_off():
            with contextlib.suppress(BenchFault):
                self._link.act("disarm_watchdog")

    def close(self) -> None:
        """Hang up."""
        self._leave_off()
        self._link.close()

    def _leave_off(self) -> bool:
        fed, self._fed = self._fed, None
        if fed is not None:
            fed.set()
        return fed is not None

    def _feed(self, over: threading.Event) -> None:
        while not over.wait(FED_EVERY_SECONDS):
            # A supply that is not reached for a moment is tried again: it counts on its own.
            with contextlib.suppress(BenchFault):
                self._link.act("feed_watchdog")
