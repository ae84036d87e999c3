"""Dummy loads: what they stand for, how warm they get, and how boxes are combined to a wanted value."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations_with_replacement


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
    """A dummy load: nominal Ω, continuous watts, how many there are, and its heat path to the air."""

    ohms: float
    watts: float
    count: int = 1
    kelvin_per_watt: float = 0.25
    joules_per_kelvin: float = 900.0

    @property
    def time_constant(self) -> float:
        """Seconds to cool to 1/e of the excess."""
        return self.kelvin_per_watt * self.joules_per_kelvin

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


@dataclass(frozen=True, slots=True)
class LoadNetwork:
    """Boxes combined to one load. ``watts`` is what the whole stands before its first box is at its limit."""

    ohms: float
    watts: float
    boxes: tuple[LoadBox, ...]
    how: str

    @property
    def pieces(self) -> int:
        """How many boxes it takes."""
        return len(self.boxes)


SAME_OHMS = 0.01  # a network within 1 % of the wanted value is that value


def networks(boxes: Sequence[LoadBox], ohms: float) -> list[LoadNetwork]:
    """Ways to make ``ohms`` of one, two or three boxes, in series or in parallel: fewest pieces first, then watts."""
    found = []
    for pieces in (1, 2, 3):
        for chosen in combinations_with_replacement(boxes, pieces):
            if any(chosen.count(box) > box.count for box in chosen):
                continue
            for network in (_in_series(chosen), _in_parallel(chosen)):
                if abs(network.ohms / ohms - 1) <= SAME_OHMS and (pieces > 1 or network.how == "single"):
                    found.append(network)
    unique = {(network.pieces, network.how, network.boxes): network for network in found}
    return sorted(unique.values(), key=lambda network: (network.pieces, -network.watts))


def _in_series(boxes: tuple[LoadBox, ...]) -> LoadNetwork:
    total = sum(box.ohms for box in boxes)
    watts = min(box.watts * total / box.ohms for box in boxes)  # the current is common: each takes R / total
    names = " + ".join(f"{box.ohms:g} Ω" for box in boxes)
    return LoadNetwork(total, watts, boxes, f"{names} in series" if len(boxes) > 1 else "single")


def _in_parallel(boxes: tuple[LoadBox, ...]) -> LoadNetwork:
    total = 1 / sum(1 / box.ohms for box in boxes)
    watts = min(box.watts * box.ohms / total for box in boxes)  # the voltage is common: each takes total / R
    names = " + ".join(f"{box.ohms:g} Ω" for box in boxes)
    return LoadNetwork(total, watts, boxes, f"{names} in parallel" if len(boxes) > 1 else "single")
