"""Records of unknown content: what is found in them, against records whose content was put together here."""

import math
from dataclasses import dataclass, field

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture
from rulvek.core.readings.point import Load
from rulvek.core.readings.survey import Found, Kind, find, survey
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.recording import Recorded, read_recording
from rulvek.core.signals.capture import Signal
from rulvek.core.signals.distortion import Band
from tests.examples import examples

RATE = 48_000.0
BAND = Band(10.0, 20_000.0)


@dataclass
class Samples:
    """A record in memory."""

    rows: NDArray[np.float64]
    sample_rate: float = RATE
    roles: tuple[Signal, ...] = (Signal("output_volts", 1),)
    frames: int = field(init=False)

    def __post_init__(self) -> None:
        self.rows = np.atleast_2d(self.rows)
        self.frames = self.rows.shape[1]

    def read(self, start: int, stop: int) -> NDArray[np.float64]:
        return self.rows[:, start:stop]


def tone(hz: float, seconds: float, peak: float, rail: float = math.inf, rate: float = RATE) -> NDArray[np.float64]:
    t = np.arange(round(seconds * rate)) / rate
    return np.clip(peak * np.sin(2 * np.pi * hz * t + 0.4), -rail, rail)


def silence(seconds: float) -> NDArray[np.float64]:
    return np.random.default_rng(5).normal(0, 1e-4, round(seconds * RATE))


def found_in(source: Samples) -> Found:
    return find(source, survey(source))


def read(source: Samples, mode: Mode = Mode.CERTIFIED, ohms: float = 4.0, limit: float = 0.01) -> Recorded:
    seen = survey(source)
    channels = [role.channel for role in source.roles if role.quantity == "output_volts"]
    loads = {channel: Load(ohms, ohms) for channel in channels}
    return read_recording(source, seen, find(source, seen), mode=mode, loads=loads, band=BAND, limit=limit)


def sweep(levels_db: list[float], hz: float = 1000.0, seconds: float = 0.6, rail: float = 20.0) -> Samples:
    """A tone that is raised step by step into a hard limit of ``rail`` volts; 0 dB is the rail."""
    parts = [tone(hz, seconds, rail * 10 ** (level / 20), rail) for level in levels_db]
    return Samples(np.concatenate([silence(0.5), *parts, silence(0.5)]))


def test_a_steady_tone_between_silences_is_one_stretch_and_reads_its_own_power() -> None:
    source = Samples(np.concatenate([silence(0.7), tone(997.0, 3.0, 17.0), silence(0.4)]))
    found = found_in(source)
    assert (found.kind, len(found.sections)) == (Kind.STEADY, 1)
    assert found.sections[0].start / RATE == pytest.approx(0.7, abs=0.06)
    assert found.sections[0].stop / RATE == pytest.approx(3.7, abs=0.06)
    recorded = read(source)
    assert recorded.found.tone_hz == pytest.approx(997.0, abs=1e-4)
    reading = recorded.outcome.reading
    assert reading is not None
    # P = Vpk² / 2R of a sine
    assert reading.weakest_watts == pytest.approx(17.0**2 / 8, rel=1e-4)
    assert recorded.outcome.end is End.OPERATOR  # a clean tone was not taken at the limit


@pytest.mark.parametrize("hz", [40.0, 1000.0])
def test_every_step_of_a_sweep_is_found_and_the_last_one_under_the_limit_stands(hz: float) -> None:
    """The 1 % power of a hard-clipped sine is 1.0475 × that at the onset, at +0.2513 dB of drive (calculated from the
    definition), so the step of +0.2 dB is under the limit and the one of +0.3 dB over it."""
    levels = [-6.0, -4.0, -3.0, -2.0, -1.0, 0.0, 0.2, 0.3, 0.8]
    source = sweep(levels, hz, seconds=1.2 if hz < 100 else 0.6)
    recorded = read(source)
    assert recorded.found.kind is Kind.SWEEP
    assert len(recorded.found.sections) == len(levels)
    outcome = recorded.outcome
    assert outcome.end is End.LIMIT and recorded.chosen == levels.index(0.2)
    onset = 20.0**2 / 8
    assert outcome.reading is not None
    assert onset * 1.03 < outcome.reading.weakest_watts < onset * 1.0475
    assert outcome.bracket_db is not None and 0 < outcome.bracket_db < 0.1


def test_uncertified_stands_at_ten_percent() -> None:
    """10 % THD+N of a hard-clipped sine: 1.2889 × the power at the onset (calculated from the definition)."""
    recorded = read(sweep([-3.0, 0.0, 1.0, 1.5, 1.8, 2.0, 2.2, 2.4]), Mode.UNCERTIFIED, limit=0.10)
    assert recorded.outcome.end is End.CLIP and recorded.outcome.reading is not None
    assert 1.2 < recorded.outcome.reading.weakest_watts / 50.0 <= 1.2889


def test_a_ramp_is_read_in_short_pieces() -> None:
    t = np.arange(round(4 * RATE)) / RATE
    source = Samples(20 * 10 ** ((t - 4) * 6 / 20) * np.sin(2 * np.pi * 1000 * t))
    found = found_in(source)
    assert found.kind is Kind.SWEEP and len(found.sections) > 30


def bursts(levels_db: list[float], hz: float = 1000.0, cycles: int = 20, rest_db: float = -20.0) -> Samples:
    """20 ms on, 480 ms at −20 dB (IHF-A-202, from memory), each at its own level into a limit of 20 V."""
    parts = []
    for level in levels_db:
        peak = 20.0 * 10 ** (level / 20)
        on, off = cycles / hz, max(0.48, 4 * cycles / hz)
        parts += [tone(hz, off, peak * 10 ** (rest_db / 20)), tone(hz, on, peak, 20.0)]
    return Samples(np.concatenate([*parts, tone(hz, 0.4, peak * 10 ** (rest_db / 20))]))


def test_rising_bursts_are_found_one_by_one_and_read_at_the_onset_of_clipping() -> None:
    levels = [-9.0, -6.0, -3.0, -1.0, 0.0, 1.0, 3.0]
    recorded = read(bursts(levels), Mode.BURST)
    found = recorded.found
    assert found.kind is Kind.BURSTS and len(found.sections) == len(levels)
    assert found.profile is not None and found.profile.on_cycles == 20
    assert found.tone_hz == pytest.approx(1000.0, rel=1e-3)
    assert recorded.chosen == 4 and recorded.outcome.end is End.LIMIT
    assert recorded.outcome.reading is not None and recorded.outcome.largest is not None
    assert recorded.outcome.reading.weakest_watts == pytest.approx(50.0, rel=5e-3)
    assert recorded.outcome.largest.weakest_watts > 60.0


@pytest.mark.parametrize(("hz", "cycles", "rest"), [(40.0, 8, -20.0), (63.0, 6, -80.0), (1000.0, 8, -80.0)])
def test_bursts_of_other_profiles(hz: float, cycles: int, rest: float) -> None:
    found = found_in(bursts([-6.0, -3.0, -1.0], hz, cycles, rest))
    assert found.kind is Kind.BURSTS and len(found.sections) == 3
    assert found.profile is not None and found.profile.on_cycles == pytest.approx(cycles, abs=1)


def test_the_supply_and_the_current_that_were_recorded_alongside() -> None:
    volts = np.concatenate([silence(0.5), tone(1000.0, 1.0, 20.0), silence(0.3)])
    loaded = np.abs(volts) > 0
    source = Samples(
        np.array([volts, volts / 3.9, np.where(np.arange(volts.size) < 0.5 * RATE, 14.4, 13.8), 30.0 * loaded]),
        roles=(
            Signal("output_volts", 1),
            Signal("output_amps", 1),
            Signal("supply_volts", 0),
            Signal("supply_amps", 0),
        ),
    )
    recorded = read(source)
    reading = recorded.outcome.reading
    assert reading is not None
    assert recorded.start_volts == pytest.approx(14.4) and reading.supply_volts == pytest.approx(13.8)
    assert reading.supply_amps == pytest.approx(30.0)
    # The load is what the current says it is: mean(v·i) = V²/3.9 Ω.
    assert recorded.loads[1].measured_ohms == pytest.approx(3.9, rel=1e-6)
    assert reading.weakest_watts == pytest.approx(20.0**2 / 2 / 3.9, rel=1e-4)
    assert [role.quantity for role in recorded.capture.roles] == ["output_volts", "output_amps"]


@pytest.mark.parametrize(
    ("source", "mode", "words"),
    [
        (Samples(np.zeros(48_000)), Mode.CERTIFIED, "silent"),
        (Samples(np.full(4800, np.nan)), Mode.CERTIFIED, "no number at sample 0"),
        (Samples(tone(1000, 1, 5), roles=(Signal("input_volts", 1),)), Mode.CERTIFIED, "output of a channel"),
        (Samples(tone(1000, 1, 5)), Mode.BURST, "which is no burst run"),
        (bursts([-3.0, -1.0]), Mode.CERTIFIED, "bursts"),
        (Samples(tone(1000, 1, 30, 20)), Mode.CERTIFIED, "over 1 % THD\\+N"),
        (Samples(np.ones(1)), Mode.CERTIFIED, "empty"),
        (Samples(tone(1000, 0.001, 5)), Mode.CERTIFIED, "48 samples"),
    ],
)
def test_what_cannot_be_read_is_said_in_one_sentence(source: Samples, mode: Mode, words: str) -> None:
    with pytest.raises(BadCapture, match=words) as refused:
        read(source, mode)
    assert refused.value.what.endswith(".") and "\n" not in refused.value.what


@given(
    hz=st.floats(20.0, 7900.0),  # above, 48 kHz do not hold the third harmonic
    peak=st.floats(0.5, 60.0),
    offset=st.floats(-2.0, 2.0),
    before=st.floats(0.0, 1.0),
)
@examples(8)
def test_any_tone_is_found_where_it_is(hz: float, peak: float, offset: float, before: float) -> None:
    source = Samples(np.concatenate([silence(before), tone(hz, 1.5, peak), silence(0.3)]) + offset)
    recorded = read(source)
    assert recorded.found.kind is Kind.STEADY
    assert recorded.found.tone_hz == pytest.approx(hz, rel=1e-4)
    reading = recorded.outcome.reading
    assert reading is not None
    assert reading.weakest_watts == pytest.approx(peak**2 / 2 / 4, rel=2e-3)
    # DC heats the load too, but is no output.
    outside = offset**2 / (offset**2 + peak**2 / 2)
    assert reading.channels[0].outside_share == pytest.approx(outside, abs=5e-3)


@pytest.mark.parametrize("hz", [8100.0, 15_000.0])
def test_a_tone_whose_third_harmonic_was_not_recorded_gives_no_reading(hz: float) -> None:
    with pytest.raises(BadCapture, match="third harmonic"):
        read(Samples(np.concatenate([silence(0.3), tone(hz, 1.5, 20.0), silence(0.3)])))


def test_a_survey_holds_the_extremes_of_every_part() -> None:
    source = sweep([-20.0, -10.0, 0.0])
    seen = survey(source)
    assert seen.highs.max() == source.rows.max() and seen.lows.min() == source.rows.min()
    assert np.all(seen.highs >= seen.lows) and seen.lows.shape == (1, 1000)


def test_a_survey_can_be_stopped() -> None:
    class Stop(Exception):
        pass

    def tell(done: float) -> None:
        assert 0 < done <= 1
        raise Stop

    with pytest.raises(Stop):
        survey(sweep([-3.0, 0.0]), tell)


@given(
    steps=st.lists(st.floats(0.3, 4.0), min_size=2, max_size=8),
    hz=st.sampled_from([50.0, 400.0, 997.0, 3000.0]),
    rate=st.sampled_from([22_050.0, 44_100.0, 96_000.0]),
    noise=st.floats(0.0, 0.002),
)
@examples(12)
def test_every_step_is_a_stretch_of_its_own_whatever_the_rate_and_the_noise(
    steps: list[float], hz: float, rate: float, noise: float
) -> None:
    levels = np.cumsum([-30.0, *steps])
    assume(abs(levels[-1] - levels[0] - 1.0) > 0.05)  # at 1 dB itself a sweep ends and one drifting level begins
    parts = [tone(hz, 1.0, 10 ** (level / 20), rate=rate) for level in levels]
    wave = np.concatenate(parts)
    wave = wave + np.random.default_rng(3).normal(0, noise * 10 ** (levels[0] / 20), wave.size)
    found = found_in(Samples(wave, rate))
    span = float(levels[-1] - levels[0])
    assert len(found.sections) == (len(levels) if span >= 1.0 else 1)
    if span >= 1.0:
        starts = [section.start / rate for section in found.sections]
        assert starts == pytest.approx(range(len(levels)), abs=0.11)


def test_the_level_is_the_inputs_where_it_was_recorded() -> None:
    """Drive of −20, −18 and −17 dB re 1 V peak; rms is 3.01 dB less."""
    drives = [-20.0, -18.0, -17.0]
    drive = np.concatenate([tone(1000.0, 0.6, 10 ** (level / 20)) for level in drives])
    roles = (Signal("output_volts", 1), Signal("input_volts", 0))
    recorded = read(Samples(np.array([30 * drive, drive]), roles=roles))
    shown = [point.level_dbv for point in recorded.outcome.points]
    assert shown == pytest.approx([level - 3.0103 for level in drives], abs=1e-3)


def test_the_weakest_of_all_channels_counts_and_the_first_at_the_limit_ends_it() -> None:
    """The second channel clips 1 dB earlier: at +0.25 dB of its own drive it passes 1 % (see above)."""
    levels = [-4.0, -2.0, -1.0, -0.5, 0.5]
    drives = [tone(1000.0, 0.6, 20 * 10 ** (level / 20)) for level in levels]
    rows = [np.concatenate([np.clip(drive, -rail, rail) for drive in drives]) for rail in (20.0, 20 * 10 ** (-1 / 20))]
    recorded = read(Samples(np.array(rows), roles=(Signal("output_volts", 1), Signal("output_volts", 2))))
    assert recorded.chosen == levels.index(-1.0)
    assert recorded.outcome.reading is not None
    both = [channel.watts for channel in recorded.outcome.reading.channels]
    assert both == pytest.approx([50.0 * 10 ** (-1 / 10)] * 2, rel=1e-3)


def test_a_record_longer_than_its_cells_has_longer_cells(monkeypatch: pytest.MonkeyPatch) -> None:
    source = sweep([-6.0, -3.0, 0.0])
    fine = survey(source)
    monkeypatch.setattr("rulvek.core.readings.survey.MOST_CELLS", 500)
    coarse = survey(source)
    assert fine.cell == 48 and coarse.powers.size <= 500 and coarse.cell > 48
    assert len(find(source, coarse).sections) == 3
    assert float(np.sum(coarse.powers) * coarse.cell) == pytest.approx(float(np.sum(fine.powers) * fine.cell), rel=1e-3)


def test_a_burst_that_an_end_of_the_record_cuts_off_does_not_count() -> None:
    whole = bursts([-6.0, -3.0, -1.0])
    cut = Samples(whole.rows[:, round(0.49 * RATE) : -round(0.41 * RATE)])  # begins and ends inside a burst
    found = found_in(cut)
    assert found.kind is Kind.BURSTS and len(found.sections) == 1


@given(
    parts=st.lists(
        st.tuples(
            st.sampled_from(["tone", "noise", "click", "silence", "offset"]),
            st.floats(0.002, 0.3),
            st.floats(1e-4, 50.0),
            st.floats(5.0, 15_000.0),
        ),
        min_size=1,
        max_size=6,
    ),
    mode=st.sampled_from(Mode),
)
@examples(6)
def test_whatever_was_recorded_is_read_or_refused_in_one_sentence(
    parts: list[tuple[str, float, float, float]], mode: Mode
) -> None:
    def made(sort: str, seconds: float, size: float, hz: float) -> NDArray[np.float64]:
        count = max(1, round(seconds * RATE))
        if sort == "tone":
            return tone(hz, count / RATE, size)
        if sort == "noise":
            return np.random.default_rng(count).normal(0, size, count)
        wave = np.full(count, size if sort == "offset" else 0.0)
        if sort == "click":
            wave[count // 2] = size
        return wave

    try:
        recorded = read(Samples(np.concatenate([made(*part) for part in parts])), mode)
    except BadCapture as refused:
        assert "\n" not in refused.what and refused.what.endswith(".")
        return
    reading = recorded.outcome.reading
    assert reading is not None and math.isfinite(reading.weakest_watts) and reading.weakest_watts > 0
    assert reading.worst_thd_n <= 0.01


@pytest.mark.parametrize(("mode", "end"), [(Mode.CERTIFIED, End.LIMIT), (Mode.PROOF, End.HELD)])
def test_a_steady_tone_at_the_limit_ends_as_its_mode_is_meant_to(mode: Mode, end: End) -> None:
    wave = tone(1000.0, 0.5, 10.0)
    wave += 0.0095 * tone(3000.0, 0.5, 10.0)
    recorded = read(Samples(wave), mode)
    assert recorded.outcome.end is end


@pytest.mark.parametrize("tail", [40, 100, 200, 300, 500])
def test_a_record_that_is_loud_past_its_last_whole_frame_only(tail: int) -> None:
    """Quiet to the end, then a switch-off thump: read or refused in a sentence, with a section to show for it."""
    noise = np.random.default_rng(1)
    volts = np.concatenate([1e-4 * noise.normal(size=13_200), 2.0 * noise.normal(size=tail)])
    source = Samples(volts)
    assert find(source, survey(source)).sections
    try:
        read(source, Mode.UNCERTIFIED)
    except BadCapture as refused:
        assert refused.what
