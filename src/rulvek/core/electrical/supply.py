"""Input power, efficiency, sag, and what a reading says about another supply voltage."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

LARGEST_EXPONENT = 2.3
"""Upper end of the voltage exponents seen in practice; an ideal unregulated supply gives 2 (common practice)."""


def input_watts(volts: float, amps: float) -> float:
    """Power taken from the supply; ``amps`` with the clamp's zero taken off."""
    return volts * amps


def efficiency(output_watts: float, volts: float, amps: float) -> float | None:
    """Ratio of all channels' output to the input, of a *steady* mode; None where no current was measured.

    A burst's amps from an averaging clamp must never come here: they are averaged over the silence too.
    """
    taken = input_watts(volts, amps)
    return output_watts / taken if taken > 0 else None


def sag(start_volts: float, loaded_volts: float) -> float:
    """Volts lost at the amplifier's terminals between rest and the reading."""
    return start_volts - loaded_volts


def power_at_voltage(watts: float, volts: float, wanted_volts: float) -> tuple[float, float]:
    """Bounds of what the unit would give at ``wanted_volts``, when its voltage exponent is not known.

    ``P · (V_wanted / V)^n`` for n from 0 (regulated) to 2.3; an estimate, never evidence.

    Raises:
        ValueError: volts that are not above 0.
    """
    if not (volts > 0 and wanted_volts > 0 and math.isfinite(volts) and math.isfinite(wanted_volts)):
        raise ValueError(f"volts must be above 0, got {volts} and {wanted_volts}")
    other = watts * (wanted_volts / volts) ** LARGEST_EXPONENT
    return min(watts, other), max(watts, other)


FEWEST_VOLTAGES = 3
SMALLEST_SPAN_VOLTS = 1.0
_NORMAL_95 = 1.959964


@dataclass(frozen=True, slots=True)
class VoltageFit:
    """Power against supply voltage, ``P = P₀·(V/V₀)^n``, fitted to runs of one unit at one load, mode and tone.

    ``exponent`` is None where the runs cannot tell it: then ``low`` to ``high`` is all that is seen in practice.
    """

    exponent: float | None
    low: float
    high: float
    volts: tuple[float, ...]
    watts: tuple[float, ...]
    _spread: float = 0.0
    _quantile: float = 0.0

    @property
    def character(self) -> Literal["regulated", "unregulated", ""]:
        """What the whole confidence interval of the exponent says of the supply; empty where it says neither.

        0.5 and 1.5 part what hardly follows the supply from what goes with about its square (ours).
        """
        if self.exponent is None:
            return ""
        return "regulated" if self.high < 0.5 else "unregulated" if self.low > 1.5 else ""

    def estimate(self, volts: float) -> tuple[float, float, float]:
        """Watts to be expected at ``volts``, with the bounds of the 95 % confidence band of the fitted line.

        An estimate, never evidence.

        Raises:
            ValueError: volts not above 0.
        """
        if not (volts > 0 and math.isfinite(volts)):
            raise ValueError(f"volts must be above 0, got {volts}")
        if self.exponent is None:
            nearest = min(range(len(self.volts)), key=lambda i: abs(self.volts[i] - volts))
            low, high = power_at_voltage(self.watts[nearest], self.volts[nearest], volts)
            return math.sqrt(low * high), low, high
        x, y = np.log(self.volts), np.log(self.watts)
        away = math.log(volts) - float(x.mean())
        middle = float(y.mean()) + self.exponent * away
        square = 1 / x.size + away**2 / float(np.sum((x - x.mean()) ** 2))
        half = self._quantile * self._spread * math.sqrt(square)
        return math.exp(middle), math.exp(middle - half), math.exp(middle + half)


def supply_amps(watts: float, volts: float, efficiency: float) -> float:
    """What the supply must give for so much output, ``P / (V · η)``; ``efficiency`` is a ratio above 0.

    >>> round(supply_amps(3000.0, 14.4, 0.82), 1)
    254.1
    """
    return watts / volts / efficiency


def exponent_for(fit: VoltageFit | None) -> float:
    """The size of the exponent that an uncertainty goes by: the fitted one, the largest where none is known."""
    return LARGEST_EXPONENT if fit is None or fit.exponent is None else abs(fit.exponent)


def fit_voltage(runs: Sequence[tuple[float, float]], doubt: float = 0.0) -> VoltageFit:
    """Fit the voltage exponent: least squares of ln P on ln V, with its 95 % confidence interval (Student's t).

    Args:
        runs: Loaded volts and watts of each run.
        doubt: Relative standard uncertainty that is each run's own. Runs that happen to lie closer to a line than that
            say no more than it allows: the interval is no smaller than this doubt makes it.

    The exponent and its interval are bounded to what is seen in practice, 0 to 2.3. With fewer than three voltages, or
    less than 1 V between the lowest and the highest, it is not known and the interval is all of that.

    Raises:
        ValueError: no runs, or a value that is not above 0.
    """
    if not runs or any(not (value > 0 and math.isfinite(value)) for run in runs for value in run):
        raise ValueError("a fit needs runs with volts and watts above 0")
    volts, watts = tuple(v for v, _ in runs), tuple(p for _, p in runs)
    distinct = {round(v, 2) for v in volts}
    if len(distinct) < FEWEST_VOLTAGES or max(volts) - min(volts) < SMALLEST_SPAN_VOLTS - 1e-9:
        return VoltageFit(None, 0.0, LARGEST_EXPONENT, volts, watts)
    from scipy.stats import t

    x, y = np.log(volts), np.log(watts)
    about = x - x.mean()
    slope = float(about @ y / (about @ about))
    left = y - y.mean() - slope * about
    freedom = len(volts) - 2
    told = math.sqrt(float(left @ left) / freedom), float(t.ppf(0.975, freedom))
    spread, quantile = max(told, (doubt, _NORMAL_95), key=math.prod)
    half = quantile * spread / math.sqrt(float(about @ about))
    exponent, low, high = (min(max(n, 0.0), LARGEST_EXPONENT) for n in (slope, slope - half, slope + half))
    return VoltageFit(exponent, low, high, volts, watts, spread, quantile)
