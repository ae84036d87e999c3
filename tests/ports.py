"""Ports for servers that are told theirs before they start."""

import random
import socket
from contextlib import suppress

# Below those that a system gives to whoever asks for any (from 32768 on Linux): tests side by side ask for hundreds,
# and one of them would have the port that was free a moment ago.
CHOSEN = range(20_000, 32_000)
TRIES = 100


def free_port() -> int:
    """A port that nobody listens at just now, and that nobody is given without asking for it.

    Raises
    ------
    OSError
        All that were tried are taken.
    """
    anywhere = random.SystemRandom()
    for port in anywhere.sample(CHOSEN, TRIES):
        with socket.socket() as probe, suppress(OSError):
            probe.bind(("127.0.0.1", port))
            return port
    raise OSError(f"none of {TRIES} ports is free")
