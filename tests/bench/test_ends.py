"""Every end of a run, reached on the simulated bench in the modes where it can happen; and how amplifiers differ."""

import threading
from collections.abc import Callable
from dataclasses import replace

import pytest

from rulvek.bench.conductor import Conducted, PointRead, RunEvent, RunSetup, StartDelayed, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.design import AmplifierDesign
from rulvek.bench.sim.supply import BankDesign, RegulatedDesign
from rulvek.bench.switch import Switch
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.burst_point import headroom_db
from rulvek.core.runs.modes import SWEEPS, End, Mode

QUICK = MethodProfile(settle_seconds=0.1, capture_seconds=0.05, dwell_seconds=0.2)
MODES = list(SWEEPS)
Report = Callable[[RunEvent], None]


def setup_of(
    mode: Mode, load: float, channels: tuple[int, ...], tone: float, method: MethodProfile = QUICK
) -> RunSetup:
    burst = method.burst_named("40 Hz" if tone < 100 else "1 kHz", tone) if mode is Mode.BURST else None
    links = tuple(Connection((channel,), load) for channel in channels)
    return RunSetup(links, (), tone, 1000.0, 14.4, 0.0, method, mode, burst)


def run(
    design: AmplifierDesign | str,
    mode: Mode,
    load: float = 4.0,
    *,
    tone: float = 1000.0,
    method: MethodProfile = QUICK,
    supply: RegulatedDesign | BankDesign | None = None,
    highest: float | None = None,
    report: Report = lambda _event: None,
    stop: Switch | None = None,
    break_after: int | None = None,
) -> Conducted:
    amplifier = DESIGNS[design] if isinstance(design, str) else design
    bench = SimulatedBench(amplifier, "E-1", supply=supply)
    if highest is not None:
        bench.highest_level_dbv = highest  # type: ignore[misc]
    points = 0

    def watched(event: RunEvent) -> None:
        nonlocal points
        points += isinstance(event, PointRead)
        if break_after is not None and points == break_after:
            bench.break_link()
        report(event)

    channels = tuple(c for c in amplifier.groups[0].channels)
    return conduct(bench, setup_of(mode, load, channels, tone, method), watched, stop)


def with_group(name: str, **changes: object) -> AmplifierDesign:
    design = DESIGNS[name]
    return replace(design, groups=(replace(design.groups[0], **changes), *design.groups[1:]))  # type: ignore[arg-type]


def watts(conducted: Conducted) -> float:
    assert conducted.outcome.reading is not None
    return conducted.outcome.reading.weakest_watts


@pytest.mark.parametrize(
    ("mode", "end"), [(Mode.CERTIFIED, End.LIMIT), (Mode.UNCERTIFIED, End.CLIP), (Mode.BURST, End.LIMIT)]
)
def test_each_mode_ends_as_it_should(mode: Mode, end: End) -> None:
    outcome = run("four-d", mode).outcome
    assert outcome.end is end and outcome.bracket_db is not None and outcome.bracket_db <= 0.05 + 1e-9
    limit = 0.10 if mode is Mode.UNCERTIFIED else 0.01
    assert outcome.reading is not None and 0.5 * limit < outcome.reading.worst_thd_n <= limit


def test_uncertified_gives_more_than_certified_and_the_clipper_says_how_much() -> None:
    """A hard clipper gives 1.2305 × the power at 10 % as at 1 % (from its definition); sagging rails give less, a soft
    knee moves it by a few percent."""
    stiff = with_group("four-d", converter_ohms=1e-4, knee=64, curvature=0.0)
    ratio = watts(run(stiff, Mode.UNCERTIFIED)) / watts(run(stiff, Mode.CERTIFIED))
    assert ratio == pytest.approx(1.2305, rel=0.03)


@pytest.mark.parametrize("mode", MODES)
def test_protection_ends_it_with_the_watts_at_which_it_tripped(mode: Mode) -> None:
    tripping = with_group("four-d", trip_amps=6.0)
    outcome = run(tripping, mode).outcome
    assert outcome.end is End.PROTECTED and outcome.tripped_watts is not None
    # 6 A peak into about 4 Ω: 6²·4/2 = 72 W; the level at which it tripped is up to a step of 1 dB higher
    assert 72 / 10**0.1 < outcome.tripped_watts < 72 * 10**0.15
    assert outcome.reading is not None and outcome.reading.weakest_watts <= outcome.tripped_watts * 1.001


def test_trips_and_recovers() -> None:
    again = replace(with_group("four-d", trip_amps=6.0), recovers_after=1.0)
    outcome = run(again, Mode.CERTIFIED).outcome
    assert outcome.end is End.RECOVERING and outcome.tripped_watts is not None


@pytest.mark.parametrize("mode", MODES)
def test_a_source_that_has_no_more(mode: Mode) -> None:
    outcome = run("four-d", mode, highest=-9.0).outcome
    assert outcome.end is End.INPUT_EXHAUSTED
    assert outcome.reading is not None and outcome.reading.worst_thd_n < 0.01


def test_an_output_that_has_no_more() -> None:
    limited = with_group("four-d", limiter_volts=18.0)
    outcome = run(limited, Mode.UNCERTIFIED).outcome
    assert outcome.end is End.NO_MORE_OUTPUT
    # The limiter holds 18 V peak behind the output resistance: 18²/2/4 = 40 W at most.
    assert watts(run(limited, Mode.UNCERTIFIED)) == pytest.approx(40.0, rel=0.05)


@pytest.mark.parametrize("mode", [Mode.CERTIFIED, Mode.UNCERTIFIED])
def test_too_hot(mode: Mode) -> None:
    outcome = run("two-ab", mode, 2.0, method=replace(QUICK, temperature_maximum_c=23.3)).outcome
    assert outcome.end is End.TOO_HOT


@pytest.mark.parametrize("mode", MODES)
def test_operator_and_lost_link(mode: Mode) -> None:
    stop = Switch()
    seen = 0

    def report(event: RunEvent) -> None:
        nonlocal seen
        seen += isinstance(event, PointRead)
        if seen == 5:
            stop.throw()

    assert run("four-d", mode, report=report, stop=stop).outcome.end is End.OPERATOR
    lost = run("four-d", mode, break_after=5).outcome
    assert lost.end is End.LINK_LOST and len(lost.points) == 5


def test_rails_that_switch_under_surge_make_the_burst_fall_far_below_certified() -> None:
    certified = watts(run("mono-d-switching", Mode.CERTIFIED, 1.0, tone=40.0))
    burst = watts(run("mono-d-switching", Mode.BURST, 1.0, tone=40.0))
    assert headroom_db(burst, certified) < -1.5
    sound = watts(run("mono-d", Mode.BURST, 1.0, tone=40.0))
    assert abs(headroom_db(sound, watts(run("mono-d", Mode.CERTIFIED, 1.0, tone=40.0)))) < 0.3


@pytest.mark.long
def test_on_a_soft_supply_only_rails_that_follow_have_headroom() -> None:
    """A strongly regulated amplifier gives in bursts about what it gives steadily (common practice)."""
    soft = BankDesign(internal_ohms=0.0005, slow_ohms=0.04, slow_seconds=0.5)
    gains = {}
    for name in ("four-ab-regulated", "four-d"):
        certified, burst = (watts(run(name, mode, supply=soft)) for mode in (Mode.CERTIFIED, Mode.BURST))
        gains[name] = headroom_db(burst, certified)
    assert gains["four-ab-regulated"] < 0.25
    assert gains["four-d"] > gains["four-ab-regulated"] + 0.4
    burst = run("four-ab-regulated", Mode.BURST).outcome
    uncertified = watts(run("four-ab-regulated", Mode.UNCERTIFIED))
    assert burst.largest is not None and burst.reading is not None and burst.largest_bracket_db is not None
    # It goes on until no more comes out, past 10 % THD+N; a square wave has twice the power of the sine that just fits.
    assert uncertified * 0.99 < burst.largest.weakest_watts < 2 * burst.reading.weakest_watts
    assert burst.largest_bracket_db <= 0.1


def test_bridged_pairs_give_twice_what_each_channel_gives_into_half_the_load() -> None:
    """An ideal bridge: a pair into 2R is two channels into R each (circuit theory)."""
    ideal = with_group("four-d", converter_ohms=1e-4, output_ohms=1e-4)
    ideal = replace(ideal, gain_spread_db=0.0, offset_spread_volts=0.0, part_spread=0.0)
    each = run(ideal, Mode.CERTIFIED, 2.0)
    bench = SimulatedBench(ideal, "E-1")
    pairs = RunSetup((Connection((1, 2), 4.0), Connection((3, 4), 4.0)), (), 1000.0, 40.0, 14.4, 0.0, QUICK)
    bridged = conduct(bench, pairs, lambda _event: None)
    # Load boxes come out up to about 1 % apart, and the bracket is 0.05 dB.
    assert watts(bridged) == pytest.approx(2 * watts(each), rel=0.03)


def test_loads_warm_with_what_they_take_and_drift() -> None:
    bench = SimulatedBench(DESIGNS["mono-d"], "H-1")
    assert bench.temperatures().load_c == pytest.approx(23.0, abs=0.5)
    conduct(bench, setup_of(Mode.UNCERTIFIED, 1.0, (1,), 40.0), lambda _event: None)
    warm = bench.temperatures()
    assert warm.load_c > 30 and warm.sink_c > 23.5
    warm_ohms = bench.ohms_now()[1]
    bench.lie_idle(3600.0)
    assert warm_ohms == pytest.approx(bench.ohms_now()[1] * (1 + 100e-6 * (warm.load_c - 23)), rel=1e-4)
    cool = bench.temperatures()
    assert cool.load_c == pytest.approx(23.0, abs=0.5) and cool.sink_c < 24


def test_a_run_waits_until_it_is_cool_enough_and_says_so() -> None:
    bench = SimulatedBench(DESIGNS["two-ab"], "W-1")
    bench.amplifier.temperature_c = 53.0
    events: list[RunEvent] = []
    conduct(bench, setup_of(Mode.CERTIFIED, 4.0, (1, 2), 1000.0), events.append)
    waits = [event.outside for event in events if isinstance(event, StartDelayed)]
    assert len(waits) > 5 and {w.what for w in waits} == {"sink"} and waits[0].high == 50.0
    assert waits[0].value > waits[-1].value > 50.0 - 0.5
    assert getattr(events[len(waits)], "sink_c", 99.0) <= 50.5  # then the run is prepared, and no sooner


def test_somebody_may_choose_not_to_wait() -> None:
    bench = SimulatedBench(DESIGNS["two-ab"], "W-1")
    bench.amplifier.temperature_c = 70.0
    hurry = threading.Event()
    hurry.set()
    events: list[RunEvent] = []
    conduct(bench, setup_of(Mode.CERTIFIED, 4.0, (1, 2), 1000.0), events.append, None, hurry)
    assert not any(isinstance(event, StartDelayed) for event in events)
    outside = getattr(events[0], "outside", None)
    assert outside is not None and outside.what == "sink" and outside.value > 60


@pytest.mark.parametrize("hz", [20.0, 1000.0, 20_000.0])
def test_a_proof_holds_what_is_claimed_and_is_quick(hz: float) -> None:
    """Within 0.1 dB over the watts that were asked for, in fewer than half the captures of a search for the limit."""
    bench = SimulatedBench(DESIGNS["four-d"], "E-1")
    setup = replace(setup_of(Mode.CERTIFIED, 4.0, (1, 2, 3, 4), hz), mode=Mode.PROOF, target_watts=60.0)
    outcome = conduct(bench, setup, lambda _event: None).outcome
    assert outcome.end is End.HELD and outcome.held and outcome.reading is not None
    assert 60.0 <= outcome.reading.weakest_watts <= 60.0 * 10**0.01
    assert outcome.reading.worst_thd_n < 0.01
    whole = conduct(
        SimulatedBench(DESIGNS["four-d"], "E-1"),
        replace(setup, mode=Mode.CERTIFIED, target_watts=None),
        lambda _event: None,
    )
    assert len(outcome.points) < len(whole.outcome.points) / 2
    assert outcome.reading.weakest_watts < (whole.outcome.reading or outcome.reading).weakest_watts


def test_a_proof_that_fails_says_how_far_the_unit_goes() -> None:
    asked = replace(setup_of(Mode.CERTIFIED, 4.0, (1, 2, 3, 4), 1000.0), mode=Mode.PROOF, target_watts=400.0)
    failed = conduct(SimulatedBench(DESIGNS["four-d"], "E-1"), asked, lambda _event: None).outcome
    search = replace(asked, mode=Mode.CERTIFIED, target_watts=None)
    whole = conduct(SimulatedBench(DESIGNS["four-d"], "E-1"), search, lambda _event: None).outcome
    assert failed.end is End.LIMIT and failed.reading is not None and whole.reading is not None
    assert failed.reading.weakest_watts == pytest.approx(whole.reading.weakest_watts, rel=0.012)  # one bracket
