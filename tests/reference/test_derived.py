"""U of what is worked out, against a Monte Carlo run of the same measurement (JCGM 101, from memory)."""

import math

import numpy as np
import pytest

from rulvek.core.judgement.derived import (
    average_expanded,
    efficiency_expanded,
    headroom_expanded,
    sag_expanded,
)
from rulvek.core.judgement.uncertainty import Allowances, Budget, Meters, reading_budget
from rulvek.core.records.instruments import Specification

DRAWS = 200_000
VOLTS = Specification("volts", percent_of_reading=0.5)
SUPPLY = Specification("supply", percent_of_reading=0.3, digits=1, resolution=0.01)
CLAMP = Specification("clamp", percent_of_reading=2.0)
REPEAT = 0.004


def budget(watts: float, bracket_db: float | None = 0.05) -> Budget:
    return reading_budget(watts, 4.0, 0.0, Meters(VOLTS), bracket_db, allowances=Allowances(repeatability=REPEAT))


class World:
    """What one drawing of all errors gives: the meters' are the same in every reading, scatter is each one's own."""

    def __init__(self, seed: int) -> None:
        self.random = np.random.default_rng(seed)
        self.gain = self.flat(0.005)

    def flat(self, half: float) -> np.ndarray:
        return self.random.uniform(-half, half, DRAWS)

    def read(self, watts: float) -> np.ndarray:
        """True watts by a reading that says so many: the limit lies anywhere in the bracket above."""
        bracket = watts * (10**0.005 - 1) * self.random.uniform(0, 1, DRAWS)
        own = watts * self.random.normal(0, REPEAT, DRAWS)
        return np.asarray((watts + bracket + own) * (1 + self.gain) ** 2)


def half_of(values: np.ndarray) -> float:
    """Half of what holds the middle 95 %."""
    low, high = np.quantile(values, [0.025, 0.975])
    return float(high - low) / 2


def test_the_average_of_channels() -> None:
    world = World(1)
    watts = [98.0, 100.0, 101.0, 103.0]
    true = sum(world.read(one) for one in watts) / 4
    found = average_expanded([budget(one) for one in watts])
    assert found == pytest.approx(half_of(true), rel=0.12)
    alone = budget(100.0).expanded
    assert found is not None and found < alone  # scatter averages out,
    assert found > alone / 2  # the meter does not
    assert average_expanded([]) is None


def test_efficiency() -> None:
    world = World(2)
    true = world.read(400.0) / (14.38 * (1 + world.flat(0.003)) + world.flat(0.01)) / (50.0 * (1 + world.flat(0.02)))
    share = 400.0 / 14.38 / 50.0
    found = efficiency_expanded(share, budget(400.0), 14.38, 50.0, SUPPLY, CLAMP)
    assert found == pytest.approx(half_of(true), rel=0.12)


def test_sag() -> None:
    world = World(3)
    gain = 1 + world.flat(0.003)
    true = (14.40 * gain + world.flat(0.01)) - (13.85 * gain + world.flat(0.01))
    # Two rectangles make a triangle, whose 95 % are nearer than 1.96 standard deviations.
    assert sag_expanded(0.55, SUPPLY) == pytest.approx(half_of(true), rel=0.15)


def test_headroom_knows_no_meter() -> None:
    world = World(4)
    true = 10 * np.log10(world.read(140.0) / world.read(100.0))
    found = headroom_expanded(budget(140.0), budget(100.0))
    assert found == pytest.approx(half_of(true), rel=0.12)
    coarse = Meters(Specification("volts", percent_of_reading=5.0))
    same = [
        reading_budget(w, 4.0, 0.0, coarse, 0.05, allowances=Allowances(repeatability=REPEAT)) for w in (140.0, 100.0)
    ]
    assert headroom_expanded(*same) == pytest.approx(found, rel=0.01)
    assert math.isfinite(found)
