"""Input power, efficiency, sag, and what a reading says about another supply voltage."""

import math

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
