"""Paper amplifiers for the search: they answer levels with points, without a device or a clock."""

import math
from collections.abc import Callable, Generator
from dataclasses import dataclass, field

import numpy as np

from rulvek.core.readings.point import ChannelReading, Point
from rulvek.core.runs.requests import (
    Answer,
    Interrupted,
    Measured,
    Outcome,
    Request,
    Restart,
    SetLevel,
    Settle,
    TakeCapture,
)
from rulvek.core.signals.capture import Capture

EMPTY = Capture(np.zeros((1, 1)), 1.0)


@dataclass
class PaperAmplifier:
    """10 V per volt into 4 Ω, THD+N by a function of the output volts, and faults on demand."""

    thd_n: Callable[[float], float] = lambda volts: 0.0005 if volts < 20 else 0.1
    loudest: float = math.inf  # volts beyond which no more comes out
    trips_at: float = math.inf  # volts at which it mutes
    recovers: bool = False  # whether it comes back by itself
    channels: int = 2
    spread: float = 1.02  # gain of each channel over the one before
    supply: Callable[[float], float] = lambda volts: 14.4
    heat: Callable[[float], float] = lambda volts: 30.0
    muted: bool = False
    level: float = -math.inf
    settled: list[float] = field(default_factory=list)

    def point(self, _capture: Capture, level: float) -> Point:
        """What the bench would read at this level."""
        volts = [min(10 * 10 ** (level / 20) * self.spread**i, self.loudest) for i in range(self.channels)]
        if max(volts) >= self.trips_at and not self.muted:
            self.muted = True
        alive = 0.0 if self.muted else 1.0
        return Point(
            level_dbv=level,
            channels=tuple(
                ChannelReading(
                    channel=i + 1,
                    volts_rms=v * alive,
                    watts=v * v / 4 * alive,
                    watts_at_start=v * v / 4 * alive,
                    thd_n=self.thd_n(v) if alive else None,
                    thd=0.0,
                    clipped_share=0.3 if v > 18 else 0.06,
                    kept_up=1.0,
                )
                for i, v in enumerate(volts)
            ),
            supply_volts=self.supply(max(volts)),
            supply_lowest=None,
            supply_amps=10.0,
            temperature_c=self.heat(max(volts)),
        )


def answer(
    search: Generator[Request, Answer, Outcome],
    amplifier: PaperAmplifier,
    interrupt_at: int | None = None,
    interruption: Interrupted | None = None,
) -> tuple[Outcome, list[Request]]:
    """Drive a search against a paper amplifier; returns its outcome and all its steps."""
    steps: list[Request] = []
    reply: Answer = None
    captures = 0
    while True:
        try:
            step = search.send(reply)
        except StopIteration as done:
            return done.value, steps
        steps.append(step)
        reply = None
        match step:
            case SetLevel(level_dbv=level):
                amplifier.level = level
            case Settle(seconds):
                amplifier.settled.append(seconds)
                if amplifier.recovers and amplifier.muted and seconds >= 1:
                    amplifier.muted = False
            case TakeCapture():
                captures += 1
                reply = interruption if captures == interrupt_at else EMPTY
            case Restart():
                amplifier.muted = False
            case Measured():
                pass
