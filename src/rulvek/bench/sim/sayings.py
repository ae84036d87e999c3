"""What is often said of power, measured on simulated units that are sound."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import cache

from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.trial import Trial, conduct_trial, run_trial
from rulvek.core.practice.sayings import Measured, Saying
from rulvek.core.readings.point import Point
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.requests import Outcome

VOLTS = 14.4
FUSE_AMPS = (20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0, 125.0, 150.0)


@cache
def measured(saying: Saying) -> tuple[Measured, ...]:
    """The figures that tell whether a saying holds."""
    return _MEASURED[saying]()


def _point(outcome: Outcome) -> Point:
    point = outcome.largest or outcome.reading
    if point is None:
        raise ValueError("a sound unit has a reading")
    return point


def _watts(design: str, mode: Mode, ohms: float) -> float:
    return _point(run_trial(Trial(DESIGNS[design], mode, ohms))).weakest_watts


def _to_clipping() -> tuple[Measured, ...]:
    certified, clipped = (_watts("two-ab", mode, 4.0) for mode in (Mode.CERTIFIED, Mode.UNCERTIFIED))
    return (
        Measured("Certified, up to 1 % THD+N", certified, "W"),
        Measured("Uncertified, to clipping", clipped, "W"),
    )


def _fuses() -> tuple[Measured, ...]:
    point = _point(run_trial(Trial(DESIGNS["two-ab"], Mode.CERTIFIED, 4.0)))
    amps = point.supply_amps or 0.0
    fuse = next(one for one in FUSE_AMPS if one > amps)
    return (
        Measured("Amps while it gives its certified power", amps, "A"),
        Measured("Smallest fuse that carries them, times 14.4 V", fuse * VOLTS, "W"),
        Measured("Measured in the loads, all channels", sum(one.watts for one in point.channels), "W"),
    )


def _burst() -> tuple[Measured, ...]:
    done = conduct_trial(Trial(DESIGNS["mono-d"], Mode.BURST, 2.0, tone_hz=40.0))
    watts, capture = _point(done.outcome).weakest_watts, done.reading_capture
    if capture is None or capture.supply is None:
        raise ValueError("a burst is recorded with its supply")
    drawn = capture.supply.mean_volts * (capture.supply.mean_amps or 0.0)
    return (
        Measured("While the burst is on", watts, "W"),
        Measured("Mean of the supply over the record", drawn, "W"),
        Measured("One over the other", 100 * watts / drawn, "%"),
    )


def _half_load() -> tuple[Measured, ...]:
    at_four, at_two = (_watts("two-ab", Mode.CERTIFIED, ohms) for ohms in (4.0, 2.0))
    return (
        Measured("Certified at 4 Ω", at_four, "W"),
        Measured("Certified at 2 Ω", at_two, "W"),
        Measured("One over the other", at_two / at_four, "times"),
    )


def _one_alone() -> tuple[Measured, ...]:
    design = DESIGNS["two-ab"]
    (group,) = design.groups
    alone = replace(design, groups=(replace(group, channels=group.channels[:1]),))
    return (
        Measured("One channel alone", _point(run_trial(Trial(alone, Mode.CERTIFIED, 4.0))).weakest_watts, "W"),
        Measured("Each, both driven", _watts("two-ab", Mode.CERTIFIED, 4.0), "W"),
    )


def _weakest() -> tuple[Measured, ...]:
    point = _point(run_trial(Trial(DESIGNS["four-d"], Mode.CERTIFIED, 4.0, seed=3)))
    watts = [one.watts for one in point.channels]
    return (
        Measured("Mean of four channels", sum(watts) / len(watts), "W"),
        Measured("The weakest of them: what every channel gives", min(watts), "W"),
    )


def _decibels() -> tuple[Measured, ...]:
    points = run_trial(Trial(DESIGNS["four-d"], Mode.CERTIFIED, 4.0)).points
    first = points[0]
    higher = min(points, key=lambda one: abs(one.level_dbv - first.level_dbv - 3.0))
    return (
        Measured("More level", higher.level_dbv - first.level_dbv, "dB"),
        Measured("Times the power", higher.weakest_watts / first.weakest_watts, "times"),
    )


_MEASURED: Mapping[Saying, Callable[[], tuple[Measured, ...]]] = {
    Saying.CERTIFIED_TO_CLIPPING: _to_clipping,
    Saying.FUSES_TELL: _fuses,
    Saying.BURST_EFFICIENCY: _burst,
    Saying.HALF_LOAD_DOUBLE: _half_load,
    Saying.ONE_FOR_ALL: _one_alone,
    Saying.WEAKEST_BACKS: _weakest,
    Saying.THREE_DECIBELS: _decibels,
}
