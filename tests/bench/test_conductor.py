"""The conductor: reports every step, obeys off, survives a lost link, and leaves the bench safe."""

import math
from dataclasses import replace

import pytest

from rulvek.bench.conductor import Finished, LevelSet, PointRead, Prepared, RunEvent, RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import BenchClock, SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.switch import Switch
from rulvek.core.errors import BenchFault
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End
from rulvek.core.runs.requests import Outcome

QUICK = MethodProfile(settle_seconds=0.1, capture_seconds=0.05, dwell_seconds=0.2)
SETUP = RunSetup(
    under_test=tuple(Connection((c,), 4.0) for c in (1, 2, 3, 4)),
    companions=(Connection((5,), 4.0),),
    tone_hz=1000.0,
    companion_tone_hz=40.0,
    supply_volts=14.4,
    sensitivity_dbv=0.0,
    method=QUICK,
)


@pytest.fixture
def bench() -> SimulatedBench:
    return SimulatedBench(DESIGNS["five-d"], "C-1")


def is_safe(bench: SimulatedBench) -> bool:
    return not bench.amplifier.powered and bench.is_muted


def test_reports_from_preparation_to_the_end(bench: SimulatedBench) -> None:
    events: list[RunEvent] = []
    conducted = conduct(bench, SETUP, events.append)
    assert isinstance(events[0], Prepared) and isinstance(events[-1], Finished)
    assert events[0].start_volts == pytest.approx(14.4, abs=0.02)
    assert events[0].clamp_zero_amps == pytest.approx(1.7, abs=0.1)
    assert set(events[0].loads) == {1, 2, 3, 4, 5}
    points = [event.point for event in events if isinstance(event, PointRead)]
    assert tuple(points) == conducted.outcome.points
    levels = [event.level_dbv for event in events if isinstance(event, LevelSet)]
    assert levels == [point.level_dbv for point in points]
    times = [event.at for event in events]
    assert times == sorted(times)
    assert is_safe(bench)


def test_companions_stay_loaded_driven_and_in_the_efficiency(bench: SimulatedBench) -> None:
    reading = conduct(bench, SETUP, lambda _event: None).outcome.reading
    assert reading is not None and reading.efficiency is not None
    # 1 V less 9 dB, times the group's gain of 46, into 4 Ω.
    assert reading.companion_watts == pytest.approx((46 * 10 ** (-9 / 20)) ** 2 / 4, rel=0.06)
    assert len(reading.channels) == 4
    assert 0.75 < reading.efficiency < 0.92


def prepared_by(bench: SimulatedBench, setup: RunSetup) -> tuple[Prepared, Outcome]:
    events: list[RunEvent] = []
    outcome = conduct(bench, setup, events.append).outcome
    return next(event for event in events if isinstance(event, Prepared)), outcome


def test_like_channels_are_trimmed_to_give_alike() -> None:
    """Gains up to 0.16 dB apart of channels that clip alike: at the limit they give the same within 0.01 dB."""
    design = replace(DESIGNS["four-d"], part_spread=0.0)
    trimmed, plain = (SimulatedBench(design, "T-3") for _ in range(2))
    plain.level_per_channel = False
    setup = replace(SETUP, companions=(), method=replace(QUICK, capture_seconds=0.2))
    apart = {}
    for bench in (trimmed, plain):
        prepared, outcome = prepared_by(bench, setup)
        assert outcome.reading is not None
        below = max(
            (p for p in outcome.points if p.level_dbv < outcome.reading.level_dbv - 2.0), key=lambda p: p.level_dbv
        )
        volts = [20 * math.log10(channel.volts_rms) for channel in below.channels]
        apart[bench] = max(volts) - min(volts)
        assert bool(prepared.trims_db) is bench.level_per_channel
        watts = [channel.watts for channel in outcome.reading.channels]
        ohms = [prepared.loads[channel.channel].measured_ohms for channel in outcome.reading.channels]
        if bench is trimmed:
            spread = [w * o for w, o in zip(watts, ohms, strict=True)]
            assert 10 * math.log10(max(spread) / min(spread)) <= 0.02
    assert apart[trimmed] <= 0.01 < 0.03 < apart[plain]


def test_gains_that_are_far_apart_are_not_trimmed_out() -> None:
    design = replace(DESIGNS["four-d"], gain_spread_db=0.0)
    (group,) = design.groups
    bench = SimulatedBench(replace(design, groups=(replace(group, gain_offsets_db=(0.0, 1.5, 0.0, 0.0)),)), "T-4")
    prepared, _ = prepared_by(bench, replace(SETUP, companions=()))
    assert prepared.trims_db == {}


def test_companions_give_what_they_certify_where_that_is_known(bench: SimulatedBench) -> None:
    alone = replace(SETUP, under_test=SETUP.companions, companions=(), tone_hz=40.0)
    own = conduct(bench, alone, lambda _event: None).outcome.reading
    assert own is not None
    again = SimulatedBench(DESIGNS["five-d"], "C-1")
    known = replace(SETUP, companion_levels_dbv={5: own.level_dbv - 0.5})
    prepared, outcome = prepared_by(again, known)
    assert prepared.companions_full is True and outcome.reading is not None
    # 0.5 dB below its limit a clipper gives 0.5 dB less, but for what is clipped off and the supply's sag.
    expected = own.channels[0].watts * 10 ** (-0.05)
    assert outcome.reading.companion_watts == pytest.approx(expected, rel=0.03)
    low, _ = prepared_by(SimulatedBench(DESIGNS["five-d"], "C-1"), SETUP)
    assert low.companions_full is False


def test_the_kept_capture_is_the_readings_own(bench: SimulatedBench) -> None:
    conducted = conduct(bench, SETUP, lambda _event: None)
    assert conducted.reading_capture is not None and conducted.outcome.reading is not None
    assert conducted.reading_capture.seconds == pytest.approx(QUICK.dwell_seconds)
    volts = conducted.reading_capture.outputs()[1]
    assert (volts**2).mean() ** 0.5 == pytest.approx(conducted.outcome.reading.channels[0].volts_rms, rel=1e-3)


def test_off_ends_it_at_once_and_safely(bench: SimulatedBench) -> None:
    stop = Switch()
    points = 0

    def report(event: RunEvent) -> None:
        nonlocal points
        points += isinstance(event, PointRead)
        if points == 4:
            stop.throw()

    outcome = conduct(bench, SETUP, report, stop).outcome
    assert outcome.end is End.OPERATOR and len(outcome.points) == 4 and outcome.reading is not None
    assert is_safe(bench)


@pytest.mark.parametrize("after", [0, 1, 6])
def test_a_lost_link_keeps_what_was_measured(bench: SimulatedBench, after: int) -> None:
    events: list[RunEvent] = []
    if after == 0:
        bench.break_link()

    def report(event: RunEvent) -> None:
        events.append(event)
        if sum(isinstance(e, PointRead) for e in events) == after and isinstance(event, PointRead):
            bench.break_link()

    outcome = conduct(bench, SETUP, report).outcome
    assert outcome.end is End.LINK_LOST
    assert len(outcome.points) == after
    assert isinstance(events[-1], Finished) and "does not answer" in events[-1].fault
    assert is_safe(bench)


def test_a_watcher_that_fails_does_not_leave_the_bench_live(bench: SimulatedBench) -> None:
    def report(event: RunEvent) -> None:
        if isinstance(event, PointRead):
            raise OSError("disk full")

    with pytest.raises(OSError, match="disk full"):
        conduct(bench, SETUP, report)
    assert is_safe(bench)


def test_loads_are_not_wired_under_power(bench: SimulatedBench) -> None:
    bench.set_level([1], -20.0)
    with pytest.raises(BenchFault, match="muted"):
        bench.connect([Connection((1,), 4.0)])


def test_instruments_refuse_what_they_cannot_do(bench: SimulatedBench) -> None:
    with pytest.raises(ValueError, match="above the source"):
        bench.set_level([1], 30.0)
    with pytest.raises(ValueError, match="1 to 20 V"):
        bench.supply.set_volts(48.0)


def test_clock_sleeps_off_what_computing_left_and_may_run_fast() -> None:
    slept: list[float] = []
    real = BenchClock(1.0, slept.append)
    real.advance(10.0)
    assert real.now() == 10.0 and slept[0] == pytest.approx(10.0, abs=0.6)
    fast = BenchClock(float("inf"), slept.append)
    fast.advance(1000.0)
    assert fast.now() == 1000.0 and len(slept) == 1
    with pytest.raises(ValueError, match="above 0"):
        BenchClock(0.0)
