"""The certified search, with all its ends, against paper amplifiers."""

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.procedures import burst, certified, uncertified
from rulvek.core.runs.requests import Interrupted, Measured, SetLevel, TakeCapture
from rulvek.core.runs.search import SearchSettings
from rulvek.core.runs.settings import search_settings
from tests.core.amplifiers import PaperAmplifier, answer
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
    assert phases.count("closing_in") == 5  # 1 dB halved until it is at most 0.05 dB
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


def test_protection_keeps_the_watts_at_which_it_tripped() -> None:
    outcome, steps = run(PaperAmplifier(thd_n=lambda v: 0.001, trips_at=12.0, channels=1))
    assert outcome.end is End.PROTECTED and outcome.reading is not None
    assert outcome.reading.channels[0].volts_rms < 12.0
    assert outcome.tripped_watts == outcome.reading.weakest_watts
    assert outcome.points[-1].channels[0].volts_rms == 0
    levels = [s.level_dbv for s in steps if isinstance(s, SetLevel)]
    assert levels[-1] == pytest.approx(levels[-2] - 10)  # whether it comes back is tried at a harmless level


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
