"""What goes out of an audio interface and what comes in, sample by sample in one clock."""

import math
import threading
import time
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rulvek.bench.sound.devices import Stream, open_stream
from rulvek.core.errors import BenchFault
from rulvek.core.signals.bursts import BurstProfile

LATE_SECONDS = 2.0
"""How long beyond its length a record may take: an interface that was unplugged gives nothing any more."""
SETTLES_SECONDS = 0.02
"""After a change has arrived, until a record of it begins: filters of the converters ring."""
MUTES_SECONDS = 0.1
LONGEST_BLOCK = 8_192
"""Taken for its length until the first one came."""
ONCE_MORE = 2
"""How often a record in which frames are told lost is taken again."""


@dataclass(frozen=True, slots=True)
class Sent:
    """What one output sends: a sine of some digital amplitude, steadily or in bursts."""

    hz: float = 1000.0
    amplitude: float = 0.0
    burst: BurstProfile | None = None

    def wave(self, at: NDArray[np.int64], rate: float) -> NDArray[np.float64]:
        """Its samples at some moments, counted since the stream began.

        Bursts begin at whole periods since then, at all outputs alike, each with a rising zero crossing.
        """
        if self.amplitude == 0.0:
            return np.zeros(len(at))
        if self.burst is None:
            return np.asarray(self.amplitude * np.sin(2 * np.pi * np.mod(at * (self.hz / rate), 1.0)))
        within = np.mod(at / rate, self.burst.period_seconds)
        return np.asarray(self.amplitude * self.burst.envelope(within) * np.sin(2 * np.pi * self.hz * within))


class _Record:
    """Samples that somebody waits for."""

    def __init__(self, first: int, samples: int, inputs: int) -> None:
        self.first, self.taken = first, np.zeros((inputs, samples), np.float32)
        self.lost = ""
        self.whole = threading.Event()

    def take(self, at: int, came: NDArray[np.float32], lost: str) -> None:
        """What came in from the sample ``at`` on, as far as it belongs here."""
        samples = self.taken.shape[1]
        begin, end = max(self.first, at), min(self.first + samples, at + len(came))
        if begin < end:
            self.taken[:, begin - self.first : end - self.first] = came[begin - at : end - at].T
            self.lost = self.lost or lost
        if at + len(came) >= self.first + samples:
            self.whole.set()


class Duplex:
    """An interface that runs from when it is opened until it is closed, silent where nothing was asked for."""

    def __init__(self, name: str, inputs: int, outputs: int) -> None:
        self.name, self.inputs, self.outputs = name, inputs, outputs
        self.rate = 0.0
        self._stream: Stream | None = None
        self._told = threading.Lock()
        self._sent = [Sent()] * outputs
        self._wanted = list(self._sent)
        self._at = 0
        self._changed_at = 0
        self._block = LONGEST_BLOCK
        self._record: _Record | None = None

    def open(self, rate: float) -> None:
        """Run at a rate, from silence; one that runs at it already goes on.

        Raises:
            BenchFault: it cannot be had.
        """
        if self._stream is not None and rate == self.rate:
            return
        self.close()
        self.rate, self._at, self._changed_at = rate, 0, 0
        self._sent = [replace(one, amplitude=0.0) for one in self._wanted]
        self._stream = open_stream(self.name, rate, self.inputs, self.outputs, self._turn)

    def close(self) -> None:
        """End it; may be called twice."""
        stream, self._stream = self._stream, None
        if stream is not None:
            stream.close()

    @property
    def latency(self) -> int:
        """Samples from an output to an input, as the driver tells."""
        return 0 if self._stream is None else round(self._stream.latency_seconds * self.rate)

    def send(self, changed: Mapping[int, Sent]) -> None:
        """Send something else from some outputs, counted from 0, from the next block on; fades over within it."""
        with self._told:
            for output, sent in changed.items():
                self._wanted[output] = sent

    @property
    def sent(self) -> tuple[Sent, ...]:
        """What each output sends, or will with the next block."""
        return tuple(self._wanted)

    def mute(self) -> None:
        """Send nothing; a stream that does not do so within 0.1 s is ended, which silences it as well."""
        with self._told:
            self._wanted = [replace(one, amplitude=0.0) for one in self._wanted]
        until = time.monotonic() + MUTES_SECONDS
        while self._stream is not None and self._sent != self._wanted:
            if time.monotonic() > until:
                self.close()
            time.sleep(0.001)

    def take(self, samples: int, burst: BurstProfile | None = None, before: int = 0) -> NDArray[np.float32]:
        """Record all inputs, once what was asked for last has arrived; float32 of shape ``(inputs, samples)``.

        Args:
            burst: Begin ``before`` samples before one of these arrives; else as soon as may be.

        Raises:
            BenchFault: the interface does not run any more, or loses samples.
        """
        for _ in range(1 + ONCE_MORE):
            record = self._take(samples, burst, before)
            if not record.lost:
                return record.taken
        raise BenchFault(
            f"{self.name} loses samples: {record.lost}.", todo="Give it a longer buffer, and the machine less to do."
        )

    def _take(self, samples: int, burst: BurstProfile | None, before: int) -> _Record:
        with self._told:
            if self._stream is None:
                raise BenchFault(f"{self.name} does not run.")
            # A block that is being made now may not have what was asked for yet: then the next one fades over.
            settled = self._changed_at if self._sent == self._wanted else self._at + 2 * self._block
            first = max(self._at, settled + self.latency + math.ceil(SETTLES_SECONDS * self.rate))
            if burst is not None:
                period = burst.period_seconds * self.rate
                turns = math.ceil((first + before - self.latency) / period)
                first = round(turns * period) + self.latency - before
            self._record = record = _Record(first, samples, self.inputs)
            seconds = (first + samples - self._at) / self.rate
        if not record.whole.wait(seconds + LATE_SECONDS):
            raise BenchFault(f"{self.name} does not run any more.", todo="See whether it is still plugged in.")
        return record

    def _turn(self, came: NDArray[np.float32], goes: NDArray[np.float32], lost: str) -> None:
        """One block, in the thread of the interface."""
        frames = len(goes)
        with self._told:
            wanted, record, begin = list(self._wanted), self._record, self._at
        moments = begin + np.arange(frames)
        fade = (1 + np.arange(frames)) / frames
        for output, (was, will) in enumerate(zip(self._sent, wanted, strict=True)):
            wave = will.wave(moments, self.rate)
            goes[:, output] = wave if was == will else (1 - fade) * was.wave(moments, self.rate) + fade * wave
        if record is not None:
            record.take(begin, came, lost)
        with self._told:
            self._block = frames
            self._changed_at = begin + frames if self._sent != wanted else self._changed_at
            self._sent, self._at = wanted, begin + frames
