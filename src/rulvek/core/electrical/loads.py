"""Dummy loads: what they stand for and how warm they get."""

import math
from dataclasses import dataclass

ROOM_C = 23.0
"""In what a load lies that is cold: as the laboratories that calibrate go by."""


def bridged_equivalent(pair_watts: float, load_ohms: float) -> tuple[float, float]:
    """Return watts and ohms per channel that a bridged pair into ``load_ohms`` stands for.

    Each channel of the pair sees half the load and gives half the power (circuit theory: the load's midpoint
    stays at 0 V).

    >>> bridged_equivalent(400.0, 8.0)
    (200.0, 4.0)
    """
    return pair_watts / 2, load_ohms / 2


def off_nominal(nominal_ohms: float, measured_ohms: float) -> float:
    """Relative deviation of a warm load from its nominal value; positive when it reads high."""
    return measured_ohms / nominal_ohms - 1


def watts_at_nominal(watts: float, measured_ohms: float, nominal_ohms: float) -> float:
    """What a voltage-limited amplifier would give into the nominal load: ``P · R_actual / R_nominal``, an estimate.

    >>> round(watts_at_nominal(82.0, 3.9, 4.0), 2)
    79.95
    """
    return watts * measured_ohms / nominal_ohms


@dataclass(frozen=True, slots=True)
class Connection:
    """A dummy load at one channel, or across a bridged pair (two channel numbers, the pair driven in antiphase)."""

    channels: tuple[int, ...]
    nominal_ohms: float

    @property
    def number(self) -> int:
        """The channel by which the connection is known in captures: its first."""
        return self.channels[0]

    @property
    def bridged(self) -> bool:
        """Whether it lies across a pair."""
        return len(self.channels) == 2


@dataclass(frozen=True, slots=True)
class LoadBox:
    """A dummy load: nominal Ω, the watts that it takes, how many there are, and its heat path to the air.

    Attributes:
        fitted_to_runs: How many runs the heat path is fitted to; none where it is what loads are planned with that
            nobody measured.
        cold_ohms: As it measured when it was put on the register, cold; None where nobody did.
        warm_ohms: The same at ``warm_c``, °C: by both it is known how it drifts.
        inductance_uh: Of it with its leads; None where nobody measured it.
        duty: The share of the time for which it may take its watts, 0 < duty ≤ 1; 1 of a continuous rating.
    """

    ohms: float
    watts: float
    count: int = 1
    kelvin_per_watt: float = 0.25
    joules_per_kelvin: float = 900.0
    fitted_to_runs: int = 0
    cold_ohms: float | None = None
    warm_ohms: float | None = None
    warm_c: float | None = None
    inductance_uh: float | None = None
    duty: float = 1.0

    @property
    def ppm_per_kelvin(self) -> float | None:
        """How it drifts with its temperature, relative to cold; None where it was not measured warm as well.

        >>> round(LoadBox(4.0, 500.0, cold_ohms=4.0, warm_ohms=4.04, warm_c=123.0).ppm_per_kelvin)
        100
        """
        if self.cold_ohms is None or self.warm_ohms is None or self.warm_c is None:
            return None
        return 1e6 * off_nominal(self.cold_ohms, self.warm_ohms) / (self.warm_c - ROOM_C)

    @property
    def time_constant(self) -> float:
        """Seconds to cool to 1/e of the excess."""
        return self.kelvin_per_watt * self.joules_per_kelvin

    @property
    def steady_watts(self) -> float:
        """What it takes for as long as one likes."""
        return self.watts * self.duty

    def resting_seconds(self, watts: float, seconds: float) -> float:
        """Seconds without power after so many watts for so long, until they come to what it takes for ever.

        >>> LoadBox(4.0, 500.0, duty=0.25).resting_seconds(500.0, 10.0)
        30.0
        """
        return max(0.0, seconds * (watts / self.steady_watts - 1))

    def after(self, start_c: float, watts: float, seconds: float, ambient_c: float) -> float:
        """Temperature in °C after so many watts for so long, from ``start_c`` on: a first-order heat path."""
        settled = ambient_c + watts * self.kelvin_per_watt
        return settled + (start_c - settled) * math.exp(-seconds / self.time_constant)

    def cooling_seconds(self, from_c: float, to_c: float, ambient_c: float) -> float:
        """Seconds without power until it is down to ``to_c``; infinite where that is not above ambient."""
        if from_c <= to_c:
            return 0.0
        if to_c <= ambient_c:
            return math.inf
        return self.time_constant * math.log((from_c - ambient_c) / (to_c - ambient_c))
