"""The certified search, with all its ends, against paper amplifiers."""

import itertools
import math
from collections.abc import Callable
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.point import Point
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.procedures import burst, certified, uncertified
from rulvek.core.runs.requests import Interrupted, Measured, Outcome, Restart, SetLevel, TakeCapture
from rulvek.core.runs.search import SearchSettings
from rulvek.core.runs.settings import search_settings
from rulvek.core.signals.capture import Capture
from tests.core.amplifiers import EMPTY, PaperAmplifier, answer
from tests.examples import examples


def between(low_dbv: float, high_dbv: float, mode: Mode = Mode.CERTIFIED, **method: bool) -> SearchSettings:
    """The standard method's search of a steady 1 kHz between two source levels."""
    return search_settings(MethodProfile(**method), mode, low_dbv, high_dbv, 1000.0, None)  # type: ignore[arg-type]


SETTINGS = between(-20.0, 12.0)


def run(amplifier: PaperAmplifier, settings: SearchSettings = SETTINGS, **faults):  # type: ignore[no-untyped-def]
    return answer(certified(settings, amplifier.point), amplifier, **faults)


@examples(60)
@given(limit_volts=st.floats(2.0, 35.0), channels=st.integers(1, 5))
def test_finds_the_highest_level_under_the_limit_to_the_bracket(limit_volts: float, channels: int) -> None:
    """A wall at a known voltage: the loudest channel must stand within one bracket below it, on a measured point."""
    amplifier = PaperAmplifier(thd_n=lambda v: 0.001 if v < limit_volts else 0.2, channels=channels)
    outcome, _ = run(amplifier)
    assert outcome.end is End.LIMIT and outcome.reading is not None
    loudest = max(c.volts_rms for c in outcome.reading.channels)
    assert limit_volts * 10 ** (-SETTINGS.bracket_db / 20) <= loudest < limit_volts
    assert outcome.bracket_db is not None and 0 < outcome.bracket_db <= SETTINGS.bracket_db
    assert outcome.reading in outcome.points


def test_the_first_channel_at_the_limit_ends_it_and_all_are_read_there() -> None:
    outcome, _ = run(PaperAmplifier(channels=3))
    assert outcome.reading is not None
    volts = [c.volts_rms for c in outcome.reading.channels]
    assert volts[2] == pytest.approx(volts[0] * 1.02**2)
    assert volts[2] < 20 <= volts[2] * 10 ** (0.05 / 20)


def test_rises_by_one_decibel_then_bisects_and_dwells() -> None:
    _, steps = run(PaperAmplifier())
    levels = [s.level_dbv for s in steps if isinstance(s, SetLevel)]
    phases = [s.phase for s in steps if isinstance(s, Measured)]
    rising = levels[: phases.count("rising")]
    assert levels[0] == -20.0
    assert [b - a for a, b in itertools.pairwise(rising)] == pytest.approx([1.0] * (len(rising) - 1))
    # 1 dB halved until it is at most 0.05 dB, then the level over it again: it is a leap.
    assert phases.count("closing_in") == 5 + 1
    assert phases[-1] == "dwell"
    lengths = [s.seconds for s in steps if isinstance(s, TakeCapture)]
    assert lengths[-1] == SETTINGS.dwell_seconds and set(lengths[:-1]) == {SETTINGS.capture_seconds}


def test_gives_way_when_the_dwell_passes_the_limit() -> None:
    """Heat pushes THD+N up with every reading at the same level; the reading must be under the limit all the same."""
    seen: list[float] = []
    _, cold = run(PaperAmplifier())
    before_dwell = 2 * (sum(isinstance(s, Measured) for s in cold) - 1)

    def warming(volts: float) -> float:
        seen.append(volts)
        return 0.001 if volts < (20 if len(seen) <= before_dwell else 19.8) else 0.2

    outcome, steps = run(PaperAmplifier(thd_n=warming, channels=2))
    assert outcome.end is End.LIMIT and outcome.reading is not None
    assert outcome.reading.worst_thd_n <= 0.01
    assert sum(isinstance(s, Measured) and s.phase == "dwell" for s in steps) >= 2


def test_input_exhausted_keeps_what_it_had() -> None:
    outcome, steps = run(PaperAmplifier(thd_n=lambda v: 0.001))
    assert outcome.end is End.INPUT_EXHAUSTED and outcome.reading is not None
    assert outcome.reading.level_dbv == SETTINGS.highest_level_dbv
    assert max(s.level_dbv for s in steps if isinstance(s, SetLevel)) == SETTINGS.highest_level_dbv
    assert outcome.bracket_db is None


def test_no_more_output_of_a_limiter() -> None:
    outcome, _ = run(PaperAmplifier(thd_n=lambda v: 0.002, loudest=15.0))
    assert outcome.end is End.NO_MORE_OUTPUT and outcome.reading is not None
    assert outcome.reading.channels[0].volts_rms == pytest.approx(15.0)


def test_visible_clipping_ends_it_where_the_method_says_so() -> None:
    flat = between(-20.0, 12.0, stop_at_clipping=True)
    outcome, _ = run(PaperAmplifier(thd_n=lambda v: 0.002), flat)
    assert outcome.end is End.CLIP and outcome.reading is not None
    assert outcome.reading.worst_thd_n == 0.002  # it keeps its own THD+N


@pytest.mark.parametrize("recovers", [False, True])
@pytest.mark.parametrize("trips_at", [8.0, 12.0, 19.9])
def test_the_reading_is_within_a_tenth_of_a_decibel_of_where_protection_acts(trips_at: float, recovers: bool) -> None:
    amplifier = PaperAmplifier(thd_n=lambda v: 0.001, trips_at=trips_at, recovers=recovers, channels=1)
    outcome, steps = run(amplifier)
    assert outcome.end is (End.RECOVERING if recovers else End.PROTECTED)
    assert outcome.reading is not None and outcome.held and outcome.bracket_db is not None
    volts = outcome.reading.channels[0].volts_rms
    assert trips_at * 10 ** (-0.15 / 20) < volts < trips_at
    assert outcome.bracket_db <= 0.1 + 1e-9
    # The watts at the trip are those of the level that was set.
    assert outcome.tripped_watts == pytest.approx(trips_at**2 / 4, rel=0.025)
    restarts = sum(isinstance(s, Restart) for s in steps)
    assert restarts == 0 if recovers else 1 <= restarts <= 2
    trips = sum(isinstance(s, Measured) and s.point.weakest_watts == 0 for s in steps)
    assert trips <= (3 if recovers else 2)


def test_a_method_may_forbid_more_trips() -> None:
    gentle = replace(SETTINGS, more_trips=0)
    outcome, steps = run(PaperAmplifier(thd_n=lambda v: 0.001, trips_at=12.0, channels=1), gentle)
    assert outcome.end is End.PROTECTED and outcome.reading is not None and not outcome.held
    assert outcome.bracket_db == pytest.approx(1.0)
    assert not any(isinstance(s, Restart) for s in steps)


def test_a_limit_just_below_the_trip_is_still_the_limit() -> None:
    """The coarse step leapt over the limit to where protection acts."""
    outcome, _ = run(PaperAmplifier(thd_n=lambda v: 0.001 if v < 11.6 else 0.02, trips_at=12.0, channels=1))
    assert outcome.end is End.LIMIT and outcome.reading is not None and outcome.held
    assert 11.6 * 10 ** (-0.05 / 20) <= outcome.reading.channels[0].volts_rms < 11.6


def test_the_dwell_gives_way_twice_as_far_each_time() -> None:
    """A discharging bank: what could be had for a moment cannot be held; 3 dB below it can."""
    amplifier = PaperAmplifier(channels=1)
    dwells: list[float] = []

    def read(capture: Capture, level: float) -> Point:
        point = amplifier.point(capture, level)
        if dwelling and point.channels[0].volts_rms > 20 * 10 ** (-3 / 20):
            point = replace(point, channels=(replace(point.channels[0], thd_n=0.03),))
        return point

    dwelling = False
    procedure, reply = certified(SETTINGS, read), None
    while True:
        try:
            step = procedure.send(reply)
        except StopIteration as done:
            outcome: Outcome = done.value
            break
        reply = None
        if isinstance(step, TakeCapture):
            dwelling, reply = step.seconds == SETTINGS.dwell_seconds, EMPTY
        if isinstance(step, Measured) and step.phase == "dwell":
            dwells.append(step.point.level_dbv)
    backs = [before - after for before, after in itertools.pairwise(dwells)]
    assert backs == pytest.approx([SETTINGS.bracket_db * 2**n for n in range(len(backs))])
    assert outcome.held and outcome.reading is not None and outcome.reading.level_dbv == dwells[-1]
    assert outcome.bracket_db == pytest.approx(backs[-1])


def test_what_could_never_be_held_is_kept_and_says_so() -> None:
    supply = PaperAmplifier(channels=1)

    def read(capture: Capture, level: float) -> Point:
        point = supply.point(capture, level)
        return replace(point, supply_volts=9.9) if len(seen) else point

    seen: list[bool] = []
    procedure, reply = certified(SETTINGS, read), None
    while True:
        try:
            step = procedure.send(reply)
        except StopIteration as done:
            outcome: Outcome = done.value
            break
        reply = EMPTY if isinstance(step, TakeCapture) else None
        if isinstance(step, TakeCapture) and step.seconds == SETTINGS.dwell_seconds:
            seen.append(True)
    assert outcome.end is End.SUPPLY_LOW and outcome.reading is not None
    assert outcome.reading.weakest_watts == pytest.approx(100.0, rel=0.02)


def faulty(amplifier: PaperAmplifier, at: int, **changes: float | None) -> Callable[[Capture, float], Point]:
    """Reads as the amplifier does, but for one capture in which a channel is read wrong."""
    count = itertools.count(1)

    def read(capture: Capture, level: float) -> Point:
        point = amplifier.point(capture, level)
        if next(count) == at:
            first, *others = point.channels
            return replace(point, channels=(replace(first, **changes), *others))
        return point

    return read


@pytest.mark.parametrize("at", [3, 10, 20, 24])
@pytest.mark.parametrize("changes", [{"thd_n": 0.03}, {"thd_n": None, "weakest_part": 0.0}])
def test_one_bad_capture_sets_no_limit(at: int, changes: dict[str, float | None]) -> None:
    amplifier = PaperAmplifier(thd_n=lambda v: 0.0005 * 10 ** max(0.0, (v - 18) / 2), channels=2)
    good, _ = run(amplifier)
    bad, _ = answer(certified(SETTINGS, faulty(amplifier, at, **changes)), amplifier)
    assert good.reading is not None and bad.reading is not None
    assert bad.end is End.LIMIT
    assert bad.reading.level_dbv == pytest.approx(good.reading.level_dbv, abs=SETTINGS.bracket_db)


def test_a_hump_below_the_limit_ends_it_and_the_highest_level_within_is_kept() -> None:
    def humped(volts: float) -> float:
        return 0.015 if 4 < volts < 6 else 0.002 if volts < 20 else 0.1

    outcome, _ = run(PaperAmplifier(thd_n=humped, channels=1))
    assert outcome.end is End.LIMIT and outcome.reading is not None and outcome.beyond is not None
    assert 4 * 10 ** (-0.05 / 20) <= outcome.reading.channels[0].volts_rms <= 4
    assert 20 / 1.13 < outcome.beyond.channels[0].volts_rms < 20


def test_without_a_hump_there_is_nothing_beyond() -> None:
    outcome, _ = run(PaperAmplifier())
    assert outcome.beyond is None


@pytest.mark.parametrize("floor_volts", [0.05, 0.5])
def test_noise_above_the_limit_at_low_levels_is_passed(floor_volts: float) -> None:
    """Noise, or crossover distortion: THD+N falls as the level rises, until it clips."""

    def noisy(volts: float) -> float:
        return floor_volts / volts if volts < 20 else 0.1

    outcome, _ = run(PaperAmplifier(thd_n=noisy, channels=1), between(-40.0, 12.0))
    highest = floor_volts / 20 <= 0.01
    assert outcome.end is End.LIMIT and (outcome.reading is not None) == highest
    if outcome.reading is not None:
        assert 20 * 10 ** (-0.05 / 20) <= outcome.reading.channels[0].volts_rms < 20


def test_trips_and_recovers_again_and_again() -> None:
    amplifier = PaperAmplifier(thd_n=lambda v: 0.001, trips_at=12.0, recovers=True, channels=1)
    outcome, _ = run(amplifier)
    assert outcome.end is End.RECOVERING
    assert outcome.tripped_watts is not None
    assert SETTINGS.recovery_seconds in amplifier.settled


def test_a_single_trip_does_not_end_the_run() -> None:
    """It tripped once, came back and then stood the same level: the run goes on."""
    once = PaperAmplifier(trips_at=12.0, recovers=True, channels=1)
    read = once.point

    def forgiving(capture, level):  # type: ignore[no-untyped-def]
        point = read(capture, level)
        if once.muted:
            once.trips_at = math.inf
        return point

    outcome, _ = answer(certified(SETTINGS, forgiving), once)
    assert outcome.end is End.LIMIT and outcome.tripped_watts is not None


def test_a_supply_that_gives_in() -> None:
    outcome, _ = run(PaperAmplifier(supply=lambda v: 14.4 if v < 10 else 10.2))
    assert outcome.end is End.SUPPLY_LOW and outcome.reading is not None


def test_too_hot() -> None:
    outcome, _ = run(PaperAmplifier(heat=lambda v: 40.0 if v < 10 else 95.0))
    assert outcome.end is End.TOO_HOT


@pytest.mark.parametrize("end", [End.OPERATOR, End.LINK_LOST])
def test_interruptions_keep_the_best_point_so_far(end: End) -> None:
    outcome, _ = run(PaperAmplifier(), interrupt_at=6, interruption=Interrupted(end))  # type: ignore[arg-type]
    assert outcome.end is end and outcome.reading is not None
    assert len(outcome.points) == 5
    assert outcome.reading is outcome.points[-1]


def test_a_start_that_is_too_high_goes_down_first() -> None:
    high = between(10.0, 12.0)
    outcome, steps = run(PaperAmplifier(), high)
    assert outcome.end is End.LIMIT and outcome.reading is not None
    levels = [s.level_dbv for s in steps if isinstance(s, SetLevel)]
    assert levels[:2] == [10.0, 4.0]
    assert max(c.volts_rms for c in outcome.reading.channels) == pytest.approx(20.0, rel=0.006)


def test_noise_at_a_low_level_is_not_the_limit() -> None:
    noisy = PaperAmplifier(thd_n=lambda v: max(0.03 / v, 0.001) if v < 20 else 0.2)
    outcome, _ = run(noisy)
    assert outcome.end is End.LIMIT and outcome.reading is not None
    assert max(c.volts_rms for c in outcome.reading.channels) > 19.8


def test_an_amplifier_over_the_limit_everywhere_has_no_reading() -> None:
    outcome, _ = run(PaperAmplifier(thd_n=lambda v: 0.05 + v / 1000))
    assert (outcome.end, outcome.reading, outcome.bracket_db) == (End.LIMIT, None, None)


@pytest.mark.parametrize("cleanest", [17.0, 17.5, 18.1, 18.6])
def test_a_narrow_window_within_the_limit_is_found_between_coarse_steps(cleanest: float) -> None:
    """Crossover distortion falls until clipping begins; between both there may be less than a step of 1 dB."""

    def thd_n(volts: float) -> float:
        return 0.0098 * cleanest / volts if volts < cleanest else 0.0098 * (volts / cleanest) ** 12

    outcome, _ = run(PaperAmplifier(thd_n=thd_n, channels=1, loudest=25.0))
    assert outcome.end is End.LIMIT and outcome.reading is not None
    assert outcome.reading.channels[0].volts_rms == pytest.approx(cleanest, rel=0.02)
    assert outcome.why_none == ""


def test_what_is_within_the_limit_nowhere_says_where_it_was_least() -> None:
    outcome, _ = run(PaperAmplifier(thd_n=lambda v: 0.4 / v if v < 20 else 0.02 * v / 20, channels=1, loudest=25.0))
    assert outcome.reading is None
    assert outcome.why_none.startswith("No level was within the limit: THD+N was least at ")
    assert outcome.why_none.endswith("2 %.")
    stopped = Outcome(End.OPERATOR, None, None, None, outcome.points)
    assert stopped.why_none == ""  # nobody knows what the levels that were left would have been
    tripped, _ = run(PaperAmplifier(trips_at=0.5))
    assert tripped.why_none == ""  # its end says why


def test_a_capture_step_must_be_answered() -> None:
    search = certified(SETTINGS, PaperAmplifier().point)
    step = next(search)
    while not isinstance(step, TakeCapture):
        step = search.send(None)
    with pytest.raises(TypeError, match="answered with a capture"):
        search.send(None)


def test_a_channel_without_a_tone_is_over_any_limit() -> None:
    point = PaperAmplifier(muted=True).point(None, 0.0)  # type: ignore[arg-type]
    assert point.worst_thd_n == math.inf and point.weakest_watts == 0


CLIPPING = between(-20.0, 12.0, Mode.UNCERTIFIED)


def softly_clipping(volts: float) -> float:
    """THD+N rises from 1 % at 20 V to 10 % at 24 V of drive-independent output."""
    return 0.001 if volts < 19.5 else 0.01 + max(0.0, volts - 20.0) * 0.0225


def test_uncertified_goes_on_to_its_own_limit_in_fine_steps() -> None:
    amplifier = PaperAmplifier(thd_n=softly_clipping, channels=1)
    outcome, steps = answer(uncertified(CLIPPING, amplifier.point), amplifier)
    assert outcome.end is End.CLIP and outcome.reading is not None
    assert outcome.reading.channels[0].volts_rms == pytest.approx(24.0, rel=0.006)
    levels = [s.level_dbv for s in steps if isinstance(s, SetLevel)]
    past = [b - a for a, b in itertools.pairwise(levels) if 10 * 10 ** (a / 20) > 20.1 and b > a + 0.4]
    assert past and max(past) == pytest.approx(0.5)


def test_uncertified_ends_where_no_more_comes_out() -> None:
    amplifier = PaperAmplifier(thd_n=lambda v: 0.05, loudest=22.0, channels=1)
    outcome, _ = answer(uncertified(CLIPPING, amplifier.point), amplifier)
    assert outcome.end is End.NO_MORE_OUTPUT and outcome.reading is not None
    assert outcome.reading.channels[0].volts_rms == 22.0


def test_burst_reads_the_onset_and_pushes_on_to_the_largest() -> None:
    amplifier = PaperAmplifier(thd_n=lambda v: 0.001 if v < 20 else 0.05, loudest=26.0, channels=1)
    outcome, steps = answer(burst(SETTINGS, amplifier.point), amplifier)
    assert outcome.end is End.LIMIT and outcome.reading is not None and outcome.largest is not None
    assert outcome.reading.channels[0].volts_rms == pytest.approx(20.0, rel=0.006)
    assert outcome.largest.channels[0].volts_rms == 26.0
    assert outcome.bracket_db is not None and outcome.bracket_db <= SETTINGS.bracket_db
    assert [s.phase for s in steps if isinstance(s, Measured)][-1] == "pushing_on"


def test_a_trip_while_pushing_on_does_not_take_the_onset_away() -> None:
    amplifier = PaperAmplifier(thd_n=lambda v: 0.001 if v < 20 else 0.05, trips_at=24.0, channels=1)
    outcome, _ = answer(burst(SETTINGS, amplifier.point), amplifier)
    assert outcome.end is End.LIMIT and outcome.reading is not None and outcome.largest is not None
    assert outcome.reading.channels[0].volts_rms < 20.0 < outcome.largest.channels[0].volts_rms < 24.0
    assert outcome.tripped_watts is not None


def test_pushing_on_ends_with_the_source_and_with_the_operator() -> None:
    short = between(-20.0, 6.3)
    amplifier = PaperAmplifier(thd_n=lambda v: 0.001 if v < 20 else 0.05, channels=1)
    outcome, steps = answer(burst(short, amplifier.point), amplifier)
    assert outcome.end is End.LIMIT
    assert max(s.level_dbv for s in steps if isinstance(s, SetLevel)) <= 6.3
    captures = sum(isinstance(s, TakeCapture) for s in steps)
    again = PaperAmplifier(thd_n=lambda v: 0.001 if v < 20 else 0.05, channels=1)
    stopped, _ = answer(burst(short, again.point), again, interrupt_at=captures, interruption=Interrupted(End.OPERATOR))
    assert stopped.end is End.OPERATOR and stopped.reading is not None
