"""A small process beside a bench of instruments: if whoever works the bench dies, it makes the bench safe.

It is given what the bench is made of, connects to what can power something, and waits. Its input ends when the other
process is gone, however that went: then it says all that makes the bench safe, and ends. Whoever leaves in good order
says so first.
"""

import contextlib
import signal
import subprocess
import sys

from rulvek.bench.instruments.assembly import kept_assembly
from rulvek.bench.instruments.description import BenchRole, Description
from rulvek.bench.instruments.link import Link
from rulvek.core.errors import BenchFault

READY, LEAVE = "ready", "leave"
STARTING_SECONDS = 20.0


class Keeper:
    """A keeper of one bench, from this side."""

    def __init__(self, assembly: str) -> None:
        """Start it, and come back once it is ready.

        Raises:
            BenchFault: it cannot connect; nothing may be powered then.
        """
        self._process = subprocess.Popen(
            [sys.executable, "-m", "rulvek.bench.instruments.keeper"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            start_new_session=True,  # Ctrl+C is for the one that it looks after
        )
        assert self._process.stdin is not None and self._process.stdout is not None
        self._process.stdin.write(assembly + "\n")
        self._process.stdin.flush()
        said = self._process.stdout.readline().strip()
        if said != READY:
            self.leave()
            raise BenchFault(f"Nobody can look after the bench: {said or 'its keeper ended'}.")

    def leave(self) -> None:
        """Let it go, as the bench is safe."""
        with contextlib.suppress(OSError, ValueError):
            assert self._process.stdin is not None
            self._process.stdin.write(LEAVE + "\n")
            self._process.stdin.close()
        with contextlib.suppress(subprocess.TimeoutExpired):
            self._process.wait(STARTING_SECONDS)


def keep() -> None:
    """Look after the bench that the first line of the input describes."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_IGN)  # whoever ends the server ends its keeper, once all is safe
    assembly = kept_assembly(sys.stdin.readline())
    links = [
        Link(assembly.stations[role].description, assembly.stations[role].address)
        for role in (BenchRole.SUPPLY, BenchRole.OFF, BenchRole.SOURCE)
        if role in assembly.stations and _can_be_told(assembly.stations[role].description)
    ]
    try:
        for link in links:
            link.open()
    except BenchFault as fault:
        print(fault.what, flush=True)
        return
    print(READY, flush=True)
    if sys.stdin.readline().strip() != LEAVE:
        for link in links:
            with contextlib.suppress(BenchFault):
                link.make_safe()
    for link in links:
        link.close()


def _can_be_told(description: Description) -> bool:
    """Whether this process can: not a person, and an audio interface falls silent with the process that feeds it."""
    return not (description.by_hand or description.sound)


if __name__ == "__main__":
    keep()
