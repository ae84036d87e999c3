"""The ways a supply can be used."""

from enum import StrEnum


class SupplyPolicy(StrEnum):
    """The three schools of supplying an amplifier under test."""

    HELD = "held"
    """A regulated supply holds the terminals at a voltage."""
    BANK = "bank"
    """A battery or capacitor bank floats; the loaded voltage is recorded."""
    THREE_POINTS = "three_points"
    """Held at 12.5, 13.8 and 14.4 V in turn, to see whether the unit is regulated."""


THREE_POINTS = (12.5, 13.8, 14.4)
"""Volts of the three-point policy (common practice, no source)."""
