"""Heat paths of loads fitted to their runs, beside what they were planted with and an integrator of scipy."""

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rulvek.core.electrical.heating import WITHIN, HeatedRun, HeatTrace, fitted, heat_path_of
from rulvek.core.electrical.loads import LoadBox

AIR_C, NOISE_C = 22.0, 0.1


def run(
    kelvin_per_watt: float,
    joules_per_kelvin: float,
    start_c: float,
    seed: int,
    full: float = 150.0,
    dwell: float = 60.0,
) -> HeatTrace:
    """A run as a search has it: a step up every half second, then a dwell; integrated by scipy, read with noise."""
    levels = np.geomspace(1.0, full, 20)
    times = np.concatenate([np.arange(20) * 0.5, 9.5 + np.arange(1, 13) * dwell / 12])
    watts = np.concatenate([levels, np.full(12, full)])
    celsius = [start_c]
    for before, at, power in zip(times, times[1:], watts[1:], strict=False):

        def warms(_: float, c: np.ndarray, power: float = power) -> np.ndarray:
            return (power - (c - AIR_C) / kelvin_per_watt) / joules_per_kelvin

        solved = solve_ivp(warms, (before, at), [celsius[-1]], rtol=1e-9, atol=1e-9)
        celsius.append(float(solved.y[0, -1]))
    read = np.array(celsius) + np.random.default_rng(seed).normal(0.0, NOISE_C, len(celsius))
    return HeatTrace(tuple(times), tuple(watts), tuple(read))


@pytest.mark.parametrize(("kelvin_per_watt", "joules_per_kelvin"), [(0.25, 900.0), (0.5, 400.0), (0.12, 2500.0)])
def test_planted_constants_come_back_within_what_is_told(kelvin_per_watt: float, joules_per_kelvin: float) -> None:
    off = []
    for seed in range(12):
        runs = [run(kelvin_per_watt, joules_per_kelvin, start, 10 * seed + at) for at, start in enumerate((22, 50, 60))]
        found = heat_path_of(runs, AIR_C)
        assert found is not None and found.runs == 3
        off += [
            (found.kelvin_per_watt / kelvin_per_watt - 1) / found.kelvin_per_watt_within,
            (found.joules_per_kelvin / joules_per_kelvin - 1) / found.joules_per_kelvin_within,
        ]
    # Twenty-four values of about a standard normal: chi-square of 24 is within 7 to 56 in all but one of a thousand.
    assert 7 < float(np.sum(np.square(off))) < 56


def test_what_the_runs_do_not_tell_is_not_told() -> None:
    assert heat_path_of([], AIR_C) is None
    cold = run(0.25, 900.0, AIR_C, 1, full=8.0, dwell=1.0)  # a tenth of a kelvin, in as much noise
    assert heat_path_of([cold], AIR_C) is None
    short = run(0.25, 900.0, AIR_C, 2, full=150.0, dwell=5.0)  # how fast it warms, and not how warm it would become
    assert heat_path_of([short], AIR_C) is None
    never_read = HeatTrace((0.0,), (0.0,), (22.0,))
    assert heat_path_of([never_read] * 20, AIR_C) is None


def test_it_is_told_to_a_fifth_or_not_at_all() -> None:
    found = heat_path_of([run(0.25, 900.0, start, seed) for seed, start in enumerate((22.0, 45.0))], AIR_C)
    assert found is not None
    assert 0 < max(found.kelvin_per_watt_within, found.joules_per_kelvin_within) <= WITHIN


def test_what_is_planned_with_them_is_what_was_seen() -> None:
    """After the time constant 63.2 % of the way, 1 - 1/e, as for any first-order system."""
    found = heat_path_of([run(0.4, 500.0, start, 3) for start in (22.0, 70.0)], AIR_C)
    assert found is not None
    box = LoadBox(4.0, 500.0, 1, found.kelvin_per_watt, found.joules_per_kelvin, found.runs)
    warm = box.after(AIR_C, 100.0, box.time_constant, AIR_C)
    assert warm - AIR_C == pytest.approx(0.632 * 100.0 * 0.4, rel=0.1)


def test_only_runs_with_one_box_at_each_channel_tell_of_it() -> None:
    boxes = (LoadBox(4.0, 500.0, 2), LoadBox(2.0, 900.0, 2))
    runs = [HeatedRun((4.0, 4.0), run(0.4, 500.0, start, 5)) for start in (22.0, 60.0)]
    four, two = fitted(boxes, runs, AIR_C)
    assert four.fitted_to_runs == 2 and four.kelvin_per_watt == pytest.approx(0.4, rel=0.1)
    assert two == boxes[1]
    others = [HeatedRun(ohms, one.trace) for one in runs for ohms in ((4.0, 2.0), (4.0, 4.0, 4.0), (8.0,), ())]
    assert fitted(boxes, others, AIR_C) == boxes
