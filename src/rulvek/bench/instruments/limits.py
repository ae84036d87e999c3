"""What a bench of instruments can stand, held to each request and to each record: whoever is over it ends the run.

A description that is wrong, or a divider that nobody told of, shows here before anything burns.
"""

from collections.abc import Sequence

import numpy as np

from rulvek.bench.instruments.assembly import Limits
from rulvek.core.electrical.loads import Connection
from rulvek.core.electrical.networks import networks
from rulvek.core.errors import BenchFault
from rulvek.core.signals.capture import SupplyTrace

OVER = 1.05
"""By how much a record may be over a limit: no meter is better here, and a load stands more for a moment."""


class LimitsKept:
    """Limits of one bench while it is powered."""

    def __init__(self, limits: Limits) -> None:
        self._limits = limits
        self._most_watts: dict[float, float | None] = {}
        self._on_since: float | None = None

    def refuse_volts(self, volts: float) -> None:
        """Hold what the supply is set to.

        Raises:
            BenchFault: more than the bench may have.
        """
        most = self._limits.supply_volts
        if volts > most:
            raise BenchFault(f"The supply was to be set to {volts:g} V: this bench has at most {most:g} V.")

    def switched_on(self, now: float) -> None:
        """It is powered from now on, in seconds of bench time."""
        self._on_since = now

    def switched_off(self) -> None:
        """It is not powered any more."""
        self._on_since = None

    def refuse_record(
        self,
        samples: np.ndarray,
        connections: Sequence[Connection],
        supply: SupplyTrace | None,
        steady: bool,
        now: float,
    ) -> None:
        """Hold a record: volts at each load, amps of the supply, how long it is on.

        Args:
            samples: Volts, one row a connection.
            steady: Whether it is of a steady tone; a burst heats no load for long.

        Raises:
            BenchFault: something is over its limit.
        """
        amps = 0.0 if supply is None or supply.amps is None else float(np.mean(supply.amps))
        if amps > OVER * self._limits.supply_amps:
            raise BenchFault(f"The supply gives {amps:.4g} A: this bench stands {self._limits.supply_amps:g} A.")
        if self._on_since is not None and now - self._on_since > self._limits.run_seconds:
            raise BenchFault(f"The amplifier has been on for more than {self._limits.run_seconds:g} s.")
        for row, one in zip(samples, connections, strict=True):
            most = self._stands(one.nominal_ohms) if steady else None
            watts = float(np.mean(np.square(row))) / one.nominal_ohms
            if most is not None and watts > OVER * most:
                raise BenchFault(
                    f"Channel {one.number} gives {watts:.4g} W into {one.nominal_ohms:g} Ω: its load stands {most:g} W."
                )

    def _stands(self, ohms: float) -> float | None:
        """Continuous watts of what the planner makes of the boxes for a load; None where it makes none."""
        if ohms not in self._most_watts:
            made = networks(self._limits.boxes, ohms)
            self._most_watts[ohms] = made[0].watts if made else None
        return self._most_watts[ohms]
