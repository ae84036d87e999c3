"""Copper cables: gauge to resistance, and what a current loses on the way there and back."""

import math
from dataclasses import dataclass

from rulvek.core.errors import BadInput

RESISTIVITY_20C = 1.7241e-8  # Ω·m of annealed copper at 20 °C, 100 % IACS (IEC 60028)
PER_KELVIN = 0.00393  # temperature coefficient of the same copper at 20 °C (IEC 60028)
_AUGHTS = {"1/0": 0, "2/0": -1, "3/0": -2, "4/0": -3}


def gauge_number(gauge: str) -> int:
    """AWG as a number: "10" is 10, "1/0" is 0, "4/0" is −3.

    Raises:
        BadInput: not a gauge from 4/0 to 40.
    """
    text = gauge.strip()
    number = _AUGHTS.get(text, int(text) if text.isdigit() else None)
    if number is None or not -3 <= number <= 40:
        raise BadInput(f"“{gauge}” is no AWG gauge from 4/0 to 40.", field="gauge")
    return number


def awg_diameter_mm(gauge: str) -> float:
    """Diameter of the solid wire, mm: 0.127·92^((36 − n)/39) (ASTM B258).

    >>> round(awg_diameter_mm("4/0"), 3), round(awg_diameter_mm("10"), 3)
    (11.684, 2.588)
    """
    return float(0.127 * 92 ** ((36 - gauge_number(gauge)) / 39))


@dataclass(frozen=True, slots=True)
class Cable:
    """A pair of leads of ``metres`` each, of ``strands`` equal wires in parallel, at ``celsius``."""

    gauge: str
    metres: float
    celsius: float = 20.0
    strands: int = 1

    def __post_init__(self) -> None:
        gauge_number(self.gauge)
        if not (self.metres >= 0 and self.strands >= 1 and math.isfinite(self.metres)):
            raise BadInput(f"A cable needs a length from 0 m and a wire, got {self.metres} m.", field="metres")

    @property
    def ohms(self) -> float:
        """Resistance of the loop, there and back."""
        area = math.pi * (awg_diameter_mm(self.gauge) / 2000) ** 2 * self.strands
        return 2 * self.metres * RESISTIVITY_20C * (1 + PER_KELVIN * (self.celsius - 20)) / area

    def drop(self, amps: float) -> float:
        """Volts lost on the loop."""
        return amps * self.ohms

    def loss(self, amps: float) -> float:
        """Watts that heat the loop."""
        return amps * amps * self.ohms
