"""A regulated bench supply with a current limit, behind cables."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class SupplyDesign:
    """The supply's limit in A, its own and both cables' resistance in Ω, the clamp's zero in A."""

    limit_amps: float = 250.0
    internal_ohms: float = 0.0008
    cable_ohms: float = 0.0012
    clamp_zero_amps: float = 1.7
    remote_sense: bool = True


class SimulatedSupply:
    """The supply as the amplifier's terminals see it.

    With remote sense the regulator holds the terminals and only what it cannot follow at once shows as resistance;
    without it the cable's full drop does. Over the limit the voltage folds back.
    """

    def __init__(self, design: SupplyDesign | None = None) -> None:
        self.design = design or SupplyDesign()
        self.set_volts = 14.4
        self._folded = 0.0

    @property
    def source_ohms(self) -> float:
        """What lies between the regulated point and the terminals."""
        return (
            self.design.internal_ohms
            if self.design.remote_sense
            else (self.design.internal_ohms + self.design.cable_ohms)
        )

    def terminal_volts(self, amps: float) -> float:
        """Volts at the amplifier's terminals while it draws ``amps``."""
        return max(0.5, self.set_volts - self._folded - amps * self.source_ohms)

    def step(self, amps: float, seconds: float) -> None:
        """Let the limiter act: it folds the voltage back by 20 V/s per ampere of excess and lets go as fast."""
        self._folded = max(0.0, self._folded + 20.0 * (amps - self.design.limit_amps) * seconds)
