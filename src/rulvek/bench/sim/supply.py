"""Supplies as the amplifier's terminals see them: a regulated one with a current limit, and a floating bank."""

import math
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Protocol

from rulvek.core.electrical.cables import Cable


class SimulatedSupply(Protocol):
    """What the simulated amplifier draws from. Amps are those that it takes."""

    @property
    def name(self) -> str:
        """What it is, in words, for the evidence."""

    @property
    def clamp_zero_amps(self) -> float:
        """What the clamp indicates when nothing flows."""

    @property
    def source_ohms(self) -> float:
        """What lies between the point that holds its voltage and the terminals."""

    def set_volts(self, volts: float) -> None:
        """Set the output where there is anything to set."""

    def terminal_volts(self, amps: float) -> float:
        """Volts at the amplifier's terminals while it draws ``amps``."""

    def clamp_amps(self, amps: float) -> float:
        """What flows through the clamp while the amplifier draws ``amps``; its zero is not in it."""

    def is_even(self, amps: float) -> bool:
        """Whether nothing in it acts within hundredths of a second at about that current."""

    def step(self, amps: float, seconds: float) -> None:
        """Let ``seconds`` pass at a current."""


_NEAR_LIMIT = 0.9


@dataclass(frozen=True, slots=True)
class RegulatedDesign:
    """The supply's limit in A, its own and both cables' resistance in Ω, the clamp's zero in A."""

    limit_amps: float = 250.0
    internal_ohms: float = 0.0008
    cable_ohms: float = 0.0012
    clamp_zero_amps: float = 1.7
    remote_sense: bool = True


class RegulatedSupply:
    """With remote sense the regulator holds the terminals and only what it cannot follow at once shows as resistance;
    without it the cable's full drop does. Over the limit the voltage folds back."""

    def __init__(self, design: RegulatedDesign | None = None) -> None:
        self.design = design or RegulatedDesign()
        self.source_ohms = self.design.internal_ohms
        if not self.design.remote_sense:
            self.source_ohms += self.design.cable_ohms
        self._volts = 14.4
        self._folded = 0.0

    @property
    def name(self) -> str:
        sense = "remote sense" if self.design.remote_sense else "sensed at the supply"
        return f"simulated, regulated, {sense}, {self.design.limit_amps:g} A"

    @property
    def clamp_zero_amps(self) -> float:
        return self.design.clamp_zero_amps

    def set_volts(self, volts: float) -> None:
        self._volts = volts

    def terminal_volts(self, amps: float) -> float:
        return max(0.5, self._volts - self._folded - amps * self.source_ohms)

    def clamp_amps(self, amps: float) -> float:
        return amps

    def is_even(self, amps: float) -> bool:
        return self._folded == 0.0 and amps < _NEAR_LIMIT * self.design.limit_amps

    def step(self, amps: float, seconds: float) -> None:
        """Let the limiter act: it folds the voltage back by 20 V/s per ampere of excess and lets go as fast."""
        self._folded = max(0.0, self._folded + 20.0 * (amps - self.design.limit_amps) * seconds)


@dataclass(frozen=True, slots=True)
class BankDesign:
    """A bank of batteries or capacitors behind cables.

    Attributes:
        open_volts: Open-circuit volts by state of charge, ascending from (0, …) to (1, …).
        coulombs: From empty to full.
        internal_ohms: What follows the current at once.
        slow_ohms: What follows it with ``slow_seconds``, and recovers as slowly; 0 for capacitors.
        charger_amps: What a charger adds while the bank is not full; 0 without one.
        charger_past_clamp: Whether it feeds the amplifier's side of the clamp, which then reads too low.
    """

    open_volts: tuple[tuple[float, float], ...] = ((0.0, 12.6), (0.1, 13.6), (0.8, 14.7), (1.0, 15.0))
    coulombs: float = 90_000.0
    internal_ohms: float = 0.0018
    slow_ohms: float = 0.0012
    slow_seconds: float = 8.0
    cable: Cable = field(default_factory=lambda: Cable("2/0", 1.5))
    clamp_zero_amps: float = -2.3
    charger_amps: float = 0.0
    charger_past_clamp: bool = False


def capacitor_bank(farads: float, full_volts: float, ohms: float) -> BankDesign:
    """A bank of capacitors charged to ``full_volts``, with the resistance of all of it in one place."""
    return BankDesign(
        open_volts=((0.0, 0.0), (1.0, full_volts)),
        coulombs=farads * full_volts,
        internal_ohms=ohms,
        slow_ohms=0.0,
        cable=Cable("4/0", 0.0),
    )


class BankSupply:
    """A floating bank: nothing holds its voltage. It starts full."""

    def __init__(self, design: BankDesign | None = None) -> None:
        self.design = design or BankDesign()
        self.charge = 1.0
        self.source_ohms = self.design.internal_ohms + self.design.cable.ohms
        self._slow_volts = 0.0

    @property
    def name(self) -> str:
        charger = f", charger {self.design.charger_amps:g} A" if self.design.charger_amps else ", no charger"
        cable = self.design.cable
        return f"simulated, floating bank{charger}, {cable.metres:g} m of {cable.gauge} AWG"

    @property
    def clamp_zero_amps(self) -> float:
        return self.design.clamp_zero_amps

    def set_volts(self, volts: float) -> None:
        """Nothing to set: a bank gives what it has."""

    def open_circuit_volts(self) -> float:
        """Volts at this state of charge when nothing was drawn for long."""
        points = self.design.open_volts
        for (low, low_volts), (high, high_volts) in pairwise(points):
            if self.charge <= high:
                return low_volts + (high_volts - low_volts) * (self.charge - low) / (high - low)
        return points[-1][1]

    def terminal_volts(self, amps: float) -> float:
        net = amps - self._charger()
        return max(0.5, self.open_circuit_volts() - self._slow_volts - net * self.source_ohms)

    def clamp_amps(self, amps: float) -> float:
        return amps - self._charger() if self.design.charger_past_clamp else amps

    def is_even(self, amps: float) -> bool:
        return True

    def step(self, amps: float, seconds: float) -> None:
        """Take charge out, and let the slow part of the resistance follow the current."""
        net = amps - self._charger()
        self.charge = min(1.0, max(0.0, self.charge - net * seconds / self.design.coulombs))
        target = max(0.0, net) * self.design.slow_ohms
        self._slow_volts = target + (self._slow_volts - target) * math.exp(-seconds / self.design.slow_seconds)

    def _charger(self) -> float:
        return self.design.charger_amps if self.charge < 1.0 else 0.0
