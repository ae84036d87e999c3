"""Tone bursts: their profiles, by name, and the shape of their envelopes."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

SHORTEST_PERIOD = 0.5
LEAD_CYCLES = 2


@dataclass(frozen=True, slots=True)
class BurstProfile:
    """A burst of ``on_cycles`` at full level, then rest at ``rest_db`` until the period is over.

    Burst and period are whole cycles, so that level changes at zero crossings. A ``shaped`` burst swells and fades
    under a raised cosine.
    """

    name: str
    hz: float
    on_cycles: float
    period_seconds: float
    rest_db: float = -20.0
    shaped: bool = False

    def __post_init__(self) -> None:
        if not (self.hz > 0 and self.on_cycles >= 1 and self.period_seconds > self.on_seconds):
            raise ValueError(f"a burst needs a tone, a cycle and a rest, got {self}")
        whole = math.ceil(self.period_seconds * self.hz - 1e-9) / self.hz
        object.__setattr__(self, "period_seconds", whole)

    @property
    def on_seconds(self) -> float:
        """Length of the burst."""
        return self.on_cycles / self.hz

    @property
    def capture_seconds(self) -> float:
        """A record of this length holds a whole burst, whenever it begins."""
        return self.period_seconds + self.on_seconds + 2 / self.hz

    @property
    def triggered_seconds(self) -> float:
        """Length of a record that a burst triggers: a little rest on either side of it."""
        return self.on_seconds + 2 * self.lead_seconds

    @property
    def lead_seconds(self) -> float:
        """How long before the burst a triggered record begins."""
        return LEAD_CYCLES / self.hz

    def envelope(self, seconds: NDArray[np.float64]) -> NDArray[np.float64]:
        """Relative amplitude at some moments, 1 within the burst; a burst begins at 0 s."""
        within = np.mod(seconds, self.period_seconds)
        rest = 0.0 if self.rest_db == -math.inf else 10 ** (self.rest_db / 20)
        # Moments come from sample counts; a hair of tolerance keeps the last sample of a burst in it.
        on = within < self.on_seconds - 1e-9
        if not self.shaped:
            return np.where(on, 1.0, rest)
        swell = 0.5 - 0.5 * np.cos(2 * np.pi * within / self.on_seconds)
        return np.where(on, np.maximum(swell, rest), rest)


CYCLES: Mapping[str, int] = {"20 cycles": 20, "8 cycles": 8, "1 cycle": 1}
"""Bursts of so many cycles of any tone, by name (common practice, no source)."""


def cycles_profile(hz: float, cycles: int) -> BurstProfile:
    """So many cycles on, rest to 500 ms or four times the burst, whichever is longer (common practice, no source)."""
    return BurstProfile(
        "1 cycle" if cycles == 1 else f"{cycles} cycles", hz, cycles, max(SHORTEST_PERIOD, 5 * cycles / hz)
    )


PROFILES: Mapping[str, BurstProfile] = {
    # IHF-A-202 (1978) / EIA RS-490, from memory
    "1 kHz": BurstProfile("1 kHz", 1000.0, 20, 0.5),
    # common practice, no source
    "40 Hz": BurstProfile("40 Hz", 40.0, 8, 1.0),
    # CTA-2010, from memory
    "shaped": BurstProfile("shaped", 63.0, 6.5, 1.0, rest_db=-math.inf, shaped=True),
}
BURSTS = (*PROFILES, *CYCLES)
"""What a burst profile can be called."""
