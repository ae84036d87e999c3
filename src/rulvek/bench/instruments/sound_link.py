"""A role that an audio interface fills, to be worked as a connection to an instrument is."""

import math

import numpy as np
from numpy.typing import NDArray

from rulvek.bench.instruments.description import Description
from rulvek.bench.sound.duplex import Duplex, Sent
from rulvek.bench.sound.levels import HALF_TAPS, Levels
from rulvek.core.errors import BenchFault
from rulvek.core.signals.bursts import BurstProfile

SLACK_SECONDS = 0.05
"""By how much a burst may come earlier or later than the driver tells."""
PLAIN = 10.0
"""How many times the power outside of a burst that within must be, to tell where it begins."""


class SoundLink:
    """Source or recorder; both roles of one interface run on its one stream."""

    def __init__(self, description: Description, interface: Duplex, levels: Levels) -> None:
        self.description, self._interface, self._levels = description, interface, levels
        self._volts: dict[int, float] = {}

    @property
    def identity(self) -> str:
        """What is told to be on the bench: AC-coupled, so that no DC at an output shows."""
        kind = "simulated audio interface" if self.description.simulated else "audio interface"
        return f"{kind} {self._interface.name}, AC-coupled"

    def open(self) -> str:
        """Run it, silent.

        Raises:
            BenchFault: it cannot be had.
        """
        self._interface.open(self._interface.rate or self.description.rates_hz[0])
        return self.identity

    def close(self) -> None:
        """End it."""
        self._interface.close()

    def make_safe(self) -> None:
        """Fall silent."""
        self._volts = {}
        self._interface.mute()

    def act(self, name: str, **given: float) -> None:
        """Do something.

        Raises:
            BenchFault: more volts than it has, or a rate that cannot be had.
        """
        match name:
            case "set_rate":
                self._interface.open(given["hz"])
            case "mute":
                self.make_safe()
            case "set_tone":
                self._send(given["channel"], hz=given["hz"])
            case "set_level":
                self._volts[int(given["channel"])] = given["volts"]
                self._send(given["channel"])
            case "end_burst":
                self._send(given["channel"], steady=True)
            case "set_burst":
                self._send(given["channel"], burst=given)
            case _:
                raise BenchFault(f"{self.description.name} cannot {name.replace('_', ' ')}.")

    def _send(
        self, channel: float, hz: float | None = None, burst: dict[str, float] | None = None, steady: bool = False
    ) -> None:
        number = int(channel)
        if not 1 <= number <= self.description.channels:
            raise BenchFault(f"{self.description.name} has {self.description.channels} outputs, none number {number}.")
        was = self._interface.sent[number - 1]
        tone = was.hz if hz is None else hz
        profile = None if steady else was.burst
        if burst is not None:
            rest_db = burst["rest_db"] if burst["rest_db"] > -200 else -math.inf
            profile = BurstProfile(
                "sent", tone, burst["cycles"], burst["period_seconds"], rest_db, bool(burst["shaped"])
            )
        volts = self._volts.get(number, 0.0)
        amplitude = self._levels.amplitude(number, volts, tone) if volts else 0.0
        self._interface.send({number - 1: Sent(tone, amplitude, profile)})

    def block(self, name: str, rows: int, **given: float) -> NDArray[np.float64]:
        """A record in volts at the inputs, shape ``(rows, samples)``.

        Raises:
            BenchFault: the interface stopped, lost samples, or an input was over its range.
        """
        samples, rate = round(given["samples"]), self._interface.rate
        if name == "record":
            taken = self._interface.take(samples + 2 * HALF_TAPS)
        else:
            taken = self._triggered(samples, round(given["lead_seconds"] * rate))
        return self._levels.volts(taken[:rows], rate)

    def _triggered(self, samples: int, lead: int) -> NDArray[np.float32]:
        """A record around a burst: where it is expected, or where it is seen to begin if that is elsewhere."""
        burst = next((one.burst for one in self._interface.sent if one.amplitude and one.burst is not None), None)
        if burst is None:
            raise BenchFault("No burst is sent.")
        rate = self._interface.rate
        slack = round(SLACK_SECONDS * rate)
        before = lead + HALF_TAPS + slack
        taken = self._interface.take(samples + 2 * (HALF_TAPS + slack), burst, before)
        onset = _onset(taken, round(burst.on_seconds * rate))
        late = 0 if onset is None else onset - before
        if abs(late) < rate / burst.hz / 4:
            late = 0  # the driver tells it to the sample, what is seen less well
        if abs(late) > slack:
            raise BenchFault(f"The burst came {1000 * late / rate:.0f} ms after it was expected.")
        return taken[:, slack + late : slack + late + samples + 2 * HALF_TAPS]

    def number(self, name: str, **given: float) -> float:
        """Nothing is asked of it by number."""
        raise BenchFault(f"{self.description.name} cannot {name.replace('_', ' ')}.")


def _onset(taken: NDArray[np.float32], on: int) -> int | None:
    """Where a burst of so many samples begins: where most power is; None where none is seen."""
    row = taken[np.argmax(np.sum(np.square(taken), axis=1))].astype(np.float64)
    held = np.concatenate([[0.0], np.cumsum(np.square(row))])
    within = held[on:] - held[:-on]
    at = int(np.argmax(within))
    outside = (held[-1] - within[at]) / max(1, len(row) - on)
    return at if within[at] / on >= PLAIN * outside else None
