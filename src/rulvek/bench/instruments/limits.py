"""What a bench of instruments can stand, held to each request and to each record: whoever is over it ends the run.

A description that is wrong, or a divider that nobody told of, shows here before anything burns.
"""

import math
from collections.abc import Sequence

import numpy as np

from rulvek.bench.instruments.assembly import Limits
from rulvek.core.electrical.loads import Connection
from rulvek.core.electrical.networks import LoadNetwork
from rulvek.core.errors import BenchFault
from rulvek.core.signals.capture import SupplyTrace

OVER = 1.05
"""By how much a record may be over a limit: no meter is better here, and a load stands more for a moment."""


class LimitsKept:
    """Limits of one bench while it is powered."""

    def __init__(self, limits: Limits) -> None:
        self._limits = limits
        self._made: dict[float, LoadNetwork | None] = {}
        self._on_since: float | None = None
        self._felt: dict[Connection, float] = {}
        self._felt_at: float | None = None

    @property
    def supply_amps(self) -> float:
        """The most that the supply may give."""
        return self._limits.supply_amps

    def refuse_volts(self, volts: float) -> None:
        """Hold what the supply is set to.

        Raises:
            BenchFault: more than the bench may have.
        """
        most = self._limits.supply_volts
        if volts > most:
            raise BenchFault(f"The supply was to be set to {volts:g} V: this bench has at most {most:g} V.")

    def switched_on(self, now: float) -> None:
        """It is powered from now on, in seconds of bench time; until now loads gave away what they felt."""
        if self._felt_at is not None:
            for one, felt in self._felt.items():
                if (made := self._network(one.nominal_ohms)) is not None:
                    self._felt[one] = felt * _left(made, now - self._felt_at)
        self._on_since = self._felt_at = now

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
        """Hold a record: volts at each load and what they come to in time, amps of the supply, how long it is on.

        Args:
            samples: Volts, one row a connection.
            supply: Alongside, where it was recorded.
            steady: Whether it is of a steady tone; of bursts only what many of them come to counts.
            now: Bench time, s.

        Raises:
            BenchFault: something is over its limit.
        """
        amps = 0.0 if supply is None or supply.amps is None else float(np.mean(supply.amps))
        if amps > OVER * self._limits.supply_amps:
            raise BenchFault(f"The supply gives {amps:.4g} A: this bench stands {self._limits.supply_amps:g} A.")
        if self._on_since is not None and now - self._on_since > self._limits.run_seconds:
            raise BenchFault(f"The amplifier has been on for more than {self._limits.run_seconds:g} s.")
        apart, self._felt_at = 0.0 if self._felt_at is None else max(0.0, now - self._felt_at), now
        for row, one in zip(samples, connections, strict=True):
            made = self._network(one.nominal_ohms)
            if made is None:
                continue
            watts = float(np.mean(np.square(row))) / one.nominal_ohms
            where = f"Channel {one.number} gives {watts:.4g} W into {one.nominal_ohms:g} Ω"
            if steady and watts > OVER * made.watts:
                raise BenchFault(f"{where}: its load stands {made.watts:g} W.")
            felt = self._felt_by(one, made, watts, apart)
            if felt > OVER * made.steady_watts:
                what = f"{where} for so long that its load is as warm as by {felt:.4g} W: {made.steady_watts:g} W."
                raise BenchFault(what)

    def refuse_heat(self, load_c: float | None) -> None:
        """Hold what the hottest load's thermometer reads.

        Raises:
            BenchFault: it is too hot.
        """
        if load_c is not None and load_c > self._limits.load_c:
            raise BenchFault(f"The hottest load is at {load_c:.0f} °C: this bench stands {self._limits.load_c:g} °C.")

    def _felt_by(self, one: Connection, made: LoadNetwork, watts: float, apart: float) -> float:
        """The steady watts that would have warmed a load as much by now: energy counts, and what it gave away since."""
        felt = self._felt[one] = watts + (self._felt.get(one, 0.0) - watts) * _left(made, apart)
        return felt

    def _network(self, ohms: float) -> LoadNetwork | None:
        """What the planner makes of the boxes for a load; None where it makes none."""
        if ohms not in self._made:
            self._made[ohms] = self._limits.network(ohms)
        return self._made[ohms]


def _left(made: LoadNetwork, seconds: float) -> float:
    """The share of what a load felt that is left after some time, by its slowest box."""
    return math.exp(-max(0.0, seconds) / max(box.time_constant for box in made.boxes))
