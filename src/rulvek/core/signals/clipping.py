"""How much of a waveform sits at its extremes."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

NEAR_EXTREME = 0.005  # of half the peak-to-peak value


@dataclass(frozen=True, slots=True)
class Clipping:
    """Share of samples within 0.5 % of the extremes.

    A clean sine already spends ``arccos(0.995) / π`` = 3.2 % of its time near either extreme, 6.4 % near both;
    a flat-topped wave spends more.
    """

    upper_share: float
    lower_share: float

    @property
    def share(self) -> float:
        """Share of samples near either extreme, 0 to 1."""
        return self.upper_share + self.lower_share


SINE_SHARE = 2 * float(np.arccos(1 - NEAR_EXTREME)) / np.pi
"""What an undistorted sine reads as its share near both extremes: 0.0637."""


def clipping(volts: NDArray[np.float64]) -> Clipping:
    """Measure the flat tops of ``volts``, shape ``(n,)`` with ``n >= 1``; a constant reads 1 and 1."""
    top, bottom = float(np.max(volts)), float(np.min(volts))
    margin = NEAR_EXTREME * (top - bottom) / 2
    return Clipping(
        upper_share=float(np.count_nonzero(volts >= top - margin)) / volts.size,
        lower_share=float(np.count_nonzero(volts <= bottom + margin)) / volts.size,
    )
