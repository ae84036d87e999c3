"""Run beside a JACK server of a name: looks at PortAudio on it, in a process of its own, as PortAudio asks once."""

import subprocess
import sys

import numpy as np
from numpy.typing import NDArray

from rulvek.bench.sound.duplex import Duplex, Sent
from rulvek.bench.sound.loopback import look_at

RATE = 48_000
LONG = 3 * RATE


class Losing:
    """Gives what came one sample later, then at once, then later: one is lost, or comes twice, in each long record."""

    def __init__(self, interface: Duplex) -> None:
        self.interface, self.turn = interface, interface._turn
        self.held, self.lost = np.zeros((1, 2), np.float32), False
        self.done: object = None

    def __call__(self, came: NDArray[np.float32], goes: NDArray[np.float32], told: str) -> None:
        record = self.interface._record
        if record is not None and record is not self.done and record.taken[:, LONG // 2 : LONG].any():
            self.lost, self.done = not self.lost, record
        later = np.concatenate([self.held, came[:-1]])
        self.held = came[-1:].copy()
        self.turn(came if self.lost else later, goes, told)


def opened(interface: Duplex, server: str) -> None:
    """Run it, with its outputs on its inputs, whatever PortAudio calls them this time."""
    interface.open(RATE)
    ports = subprocess.run(["jack_lsp", "-s", server], check=True, capture_output=True, text=True).stdout.split()
    sends, takes = (sorted(one for one in ports if f":{way}_" in one) for way in ("out", "in"))
    for one, other in zip(sends, takes, strict=True):
        subprocess.run(["jack_connect", "-s", server, one, other], check=True)


def main(server: str) -> None:
    interface = Duplex("system", 2, 2)
    opened(interface, server)
    sent = {0: Sent(997.0, 0.5), 1: Sent(1000.0, 0.25)}
    interface.send(sent)
    taken = interface.take(RATE)
    record = interface._record
    assert record is not None
    moments = record.first - interface.latency + np.arange(RATE)
    same = [np.array_equal(one.wave(moments, RATE).astype(np.float32), taken[at]) for at, one in sent.items()]
    print("bit by bit", same)
    for looked in look_at(interface, 3.0):
        print("looked", looked.passed, looked.at, looked.found)
    interface.close()

    interface._turn = Losing(interface)  # type: ignore[method-assign]
    opened(interface, server)
    looks = look_at(interface, 3.0)
    for _ in range(4):
        next(looks)
    looked = next(looks)
    print("lost", looked.passed, looked.found)
    interface.close()


if __name__ == "__main__":
    main(sys.argv[1])
