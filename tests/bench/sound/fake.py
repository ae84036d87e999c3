"""A PortAudio that there is not: the binding's own names, a wire from outputs to inputs, and what may go wrong on it.

What the wire does is a function, so an amplifier can stand in it; the clock runs as fast as it can.
"""

import threading
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from rulvek.bench.sound import devices

Wire = Callable[[NDArray[np.float32]], NDArray[np.float32]]
FRAMES, LATENCY = 1024, 2125


class PortAudioError(Exception):
    """As the binding's own."""


class FakePortAudio:
    """Stands in place of the module ``sounddevice``."""

    PortAudioError = PortAudioError

    def __init__(self, wire: Wire = lambda sent: sent, channels: int = 2) -> None:
        self.wire, self.channels = wire, channels
        self.rates: tuple[float, ...] = (48_000, 96_000)
        self.lose_at: int | None = None
        """Of which sample of the input none comes."""
        self.tell_lost_in = 0
        """In how many blocks frames are told lost."""
        self.stopped = False
        self.late = 0
        """By how many samples the round trip is longer than is told."""
        self.sent = np.zeros((0, channels), np.float32)
        """The latest block that went out."""

    def query_hostapis(self) -> list[dict[str, Any]]:
        return [{"name": "Simulated"}]

    def query_devices(self) -> list[dict[str, Any]]:
        both = {"hostapi": 0, "max_input_channels": self.channels, "max_output_channels": self.channels}
        return [{"name": "Loudspeaker alone", **both, "max_input_channels": 0}, {"name": "Interface", **both}]

    def Stream(self, **given: Any) -> "FakeStream":  # the binding's own name
        if given["samplerate"] not in self.rates:
            raise PortAudioError("Invalid sample rate")
        return FakeStream(self, given)


def put(monkeypatch: pytest.MonkeyPatch) -> FakePortAudio:
    """In PortAudio's place; returns what wires it."""
    made = FakePortAudio()
    monkeypatch.setattr(devices, "_portaudio", lambda: made)
    return made


class FakeStream:
    """Turns blocks in a thread of its own."""

    def __init__(self, card: FakePortAudio, given: dict[str, Any]) -> None:
        self._card, self._callback = card, given["callback"]
        self._inputs, self._outputs = given["channels"]
        self.latency = (LATENCY / given["samplerate"], 0.0)
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)

    def start(self) -> None:
        self._thread.start()

    def abort(self) -> None:
        self._ended.set()
        self._thread.join(5)

    def close(self) -> None:
        self._ended.set()

    def _run(self) -> None:
        card = self._card
        under_way = np.zeros((LATENCY + card.late, self._inputs), np.float32)
        while not self._ended.is_set():
            if card.stopped:
                time.sleep(0.01)
                continue
            goes = np.empty((FRAMES, self._outputs), np.float32)
            came, under_way = under_way[:FRAMES], under_way[FRAMES:]
            if len(came) < FRAMES:  # what was lost
                came = np.concatenate([came, np.zeros((FRAMES - len(came), self._inputs), np.float32)])
            told = "input overflow" if card.tell_lost_in > 0 else ""
            card.tell_lost_in -= bool(told)
            self._callback(came, goes, FRAMES, None, told)
            card.sent = goes.copy()
            back = card.wire(goes)
            if card.lose_at is not None:
                back, card.lose_at = np.delete(back, card.lose_at, axis=0), None
            under_way = np.concatenate([under_way, back])
            time.sleep(0.0005)
