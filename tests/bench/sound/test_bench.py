"""A bench whose source and recorder are an audio interface: what it sends, records and never gives."""

import math
import threading
import time

import numpy as np
import pytest

from rulvek.bench.conductor import LevelSet, RunEvent, RunSetup, conduct
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.switch import Switch
from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import BenchFault
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End, Mode
from rulvek.core.signals.bursts import PROFILES
from rulvek.core.signals.distortion import Band, analyse_tone
from tests.bench.sound.fake import FakePortAudio
from tests.reference.test_clipped_sine import clip_for, mean_square

TWO = (Connection((1,), 4.0), Connection((2,), 4.0))
METHOD = MethodProfile()
GAIN, CLIPS_AT, DIVIDER = 20.0, 28.0, 10.0
FULL_SCALE_PEAK = 4.0 * math.sqrt(2)


def clipper(sent: np.ndarray) -> np.ndarray:
    """An amplifier of some gain that clips hard, behind a divider, both ways at the interface's 4 V rms."""
    volts = np.clip(GAIN * FULL_SCALE_PEAK * sent.astype(np.float64), -CLIPS_AT, CLIPS_AT)
    return (volts / DIVIDER / FULL_SCALE_PEAK).astype(np.float32)


def closed_form(percent: float) -> float:
    """Watts into 4 Ω of a sine clipped hard at ``CLIPS_AT`` where THD is so many percent, by Fourier's integrals."""
    clip = clip_for(percent / 100, 20)
    return mean_square(clip) * (CLIPS_AT / clip) ** 2 / 4.0


def falls_silent(card: FakePortAudio) -> bool:
    """Within a few blocks; what fades over in one still sounds in it."""
    until = time.monotonic() + 5.0
    while np.any(card.sent) and time.monotonic() < until:
        time.sleep(0.001)
    return not np.any(card.sent)


def setup_of(mode: Mode) -> RunSetup:
    burst = METHOD.burst_of(bass=False) if mode is Mode.BURST else None
    return RunSetup(TWO, (), 1000.0, 40.0, 14.4, 0.0, METHOD, mode, burst)


@pytest.mark.parametrize("mode", [Mode.CERTIFIED, Mode.BURST])
def test_a_run_reads_the_watts_of_a_clipper(bench: InstrumentBench, card: FakePortAudio, mode: Mode) -> None:
    card.wire = clipper
    done = conduct(bench, setup_of(mode), lambda _: None)
    reading = done.outcome.reading
    assert done.outcome.end is End.LIMIT and reading
    watts = [one.watts for one in reading.channels]
    assert watts == pytest.approx([closed_form(1.0)] * 2, rel=0.01)
    assert falls_silent(card)
    assert bench.describe()["source"] == "simulated audio interface Interface, AC-coupled"


def test_a_sine_comes_back_as_it_went_out(bench: InstrumentBench) -> None:
    """1 V rms at the output, ten times that at the amplifier's by the divider; float32 leaves less than -130 dB."""
    bench.connect(TWO)
    bench.source.set_tone((1, 2), 997.0)
    bench.source.set_level((1,), 0.0)
    bench.source.set_level((2,), -20.0)
    taken = bench.recorder.capture(1.0)
    first = analyse_tone(taken.samples[0], taken.sample_rate, band=Band(20.0, 20_000.0), tone_hz=997.0)
    rms = np.sqrt(np.mean(np.square(taken.samples), axis=1))  # of whole cycles
    assert rms == pytest.approx([10.0, 1.0], rel=1e-6)
    assert 20 * math.log10(first.thd_n) < -130


def test_a_level_is_that_level_from_the_first_sample_of_a_record(bench: InstrumentBench) -> None:
    bench.connect(TWO)
    bench.source.set_tone((1, 2), 997.0)
    for level in (-40.0, 0.0, -20.0):
        bench.source.set_level((1, 2), level)
        parts = bench.recorder.capture(0.2).samples[0].reshape(10, -1)
        assert np.sqrt(np.mean(np.square(parts), axis=1)) == pytest.approx(10 ** (1 + level / 20), rel=0.05)


@pytest.mark.parametrize("late", [0, 700, -300])
def test_a_burst_is_recorded_from_its_lead_on(bench: InstrumentBench, card: FakePortAudio, late: int) -> None:
    """Also where the round trip is longer, or shorter, than the driver tells."""
    card.late = late
    bench.close()
    bench.open()
    profile = PROFILES["1 kHz"]
    bench.connect(TWO)
    bench.source.set_tone((1, 2), profile.hz)
    bench.source.set_burst((1, 2), profile)
    bench.source.set_level((1, 2), 0.0)
    taken = bench.recorder.capture(profile.triggered_seconds, profile.lead_seconds)
    moments = np.arange(taken.samples.shape[1]) / taken.sample_rate - profile.lead_seconds
    sent = 10 * math.sqrt(2) * profile.envelope(moments) * np.sin(2 * np.pi * profile.hz * moments)
    share = np.dot(sent, taken.samples[0]) / math.sqrt(np.dot(sent, sent) * np.dot(taken.samples[0], taken.samples[0]))
    assert share > (0.999999 if late == 0 else 0.98)


def test_a_slip_is_no_reading(bench: InstrumentBench, card: FakePortAudio) -> None:
    """No frame is told lost; one sample is missing all the same."""
    card.wire = clipper
    lost = threading.Event()

    def lose(event: RunEvent) -> None:
        if isinstance(event, LevelSet) and event.level_dbv > -12 and not lost.is_set():
            lost.set()
            threading.Timer(0.01, lambda: setattr(card, "lose_at", 500)).start()

    done = conduct(bench, setup_of(Mode.CERTIFIED), lose)
    if done.outcome.end is not End.LINK_LOST:  # it fell between two records: then there is nothing wrong with any
        assert done.outcome.end is End.LIMIT
    bench.connect(TWO)
    bench.source.set_tone((1, 2), 997.0)
    bench.source.set_level((1, 2), -20.0)
    bench.recorder.capture(0.1)
    threading.Timer(0.02, lambda: setattr(card, "lose_at", 500)).start()
    with pytest.raises(BenchFault, match="lost 1 of its samples"):
        bench.recorder.capture(4.0)


def test_frames_that_are_told_lost_are_recorded_again(bench: InstrumentBench, card: FakePortAudio) -> None:
    bench.connect(TWO)
    card.tell_lost_in = 1
    assert bench.recorder.capture(0.1).samples.shape[1] == round(0.1 * bench.recorder.capture(0.1).sample_rate)
    card.tell_lost_in = 10_000
    with pytest.raises(BenchFault, match="Interface loses samples: input overflow"):
        bench.recorder.capture(0.1)


def test_an_unplugged_interface_ends_a_record_and_off_works(bench: InstrumentBench, card: FakePortAudio) -> None:
    bench.connect(TWO)
    bench.source.set_level((1, 2), 0.0)
    bench.recorder.capture(0.1)
    card.stopped = True
    began = time.monotonic()
    assert bench.make_all_safe() == ""  # the stream is ended, and what was sent with it
    assert time.monotonic() - began < 2.0
    with pytest.raises(BenchFault, match="does not run"):
        bench.recorder.capture(0.1)


def test_off_silences_it_within_a_block(bench: InstrumentBench, card: FakePortAudio) -> None:
    card.wire = clipper
    switch, late = Switch(), []

    def off(event: RunEvent) -> None:
        if isinstance(event, LevelSet) and event.level_dbv > -20 and not late:
            began = time.monotonic()
            switch.throw()
            late.append(time.monotonic() - began)
            assert falls_silent(card)

    assert conduct(bench, setup_of(Mode.CERTIFIED), off, switch).outcome.end is End.OPERATOR
    assert late[0] < 5.0  # 0.15 s is asked


def test_an_input_over_its_range_is_no_reading(bench: InstrumentBench, card: FakePortAudio) -> None:
    card.wire = lambda sent: np.clip(4 * sent, -1, 1)
    bench.connect(TWO)
    bench.source.set_tone((1, 2), 997.0)
    bench.source.set_level((1,), 9.0)
    with pytest.raises(BenchFault, match="Input 1 of the interface is over its range"):
        bench.recorder.capture(0.1)


def test_more_than_it_gives_is_refused_and_not_clipped(bench: InstrumentBench) -> None:
    assert bench.source.highest_level_dbv == pytest.approx(20 * math.log10(4.0))
    with pytest.raises(BenchFault, match="gives 4 V at 1000 Hz, not 5"):
        bench.source.set_level((1,), 14.0)
