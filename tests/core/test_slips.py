"""Samples that are missing from a record: found where they are, and nowhere else."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.core.electrical.loads import Connection
from rulvek.core.signals.slips import slipped
from tests.examples import examples


def tone(hz: float, rate: float, seconds: float, noise: float = 1e-4, clip: float = np.inf) -> np.ndarray:
    moments = np.arange(round(seconds * rate)) / rate
    drawn = np.random.default_rng(7).normal(0, noise, len(moments))
    return np.clip(np.sin(2 * np.pi * hz * moments + 0.3), -clip, clip) + drawn


@pytest.mark.parametrize("hz", [40.0, 997.0, 1000.0, 7000.0])
@pytest.mark.parametrize("rate", [48_000.0, 96_000.0])
@pytest.mark.parametrize("lost", [1, 2, 5])
def test_lost_samples_are_counted(hz: float, rate: float, lost: int) -> None:
    record = tone(hz, rate, max(0.2, 20 / hz), clip=0.97)
    assert slipped(record, rate, hz) == 0
    for at in (len(record) // 3, len(record) // 2 + 17):
        fewer, more = np.delete(record, range(at, at + lost)), np.insert(record, at, record[at - lost : at])
        found = slipped(fewer, rate, hz), slipped(more, rate, hz)
        assert found == (lost, -lost) if 2 * lost < rate / hz else all(found)


@examples(60)
@given(
    hz=st.floats(30, 7_000),
    noise=st.floats(0, 0.05),
    clip=st.floats(0.5, 1.0),
    off=st.floats(-1e-4, 1e-4),
    sway=st.floats(0, 0.002),
)
def test_what_lost_none_is_told_none(hz: float, noise: float, clip: float, off: float, sway: float) -> None:
    """Noise, clipping, a clock that is off by 0.01 %, and a phase that sways with the supply's hum at 100 Hz."""
    rate = 96_000.0
    moments = np.arange(round(max(0.2, 20 / hz) * rate)) / rate
    phase = 2 * np.pi * hz * (1 + off) * moments + sway * np.sin(2 * np.pi * 100 * moments)
    record = np.clip(np.sin(phase), -clip, clip) + np.random.default_rng(3).normal(0, noise, len(moments))
    assert slipped(record, rate, hz) == 0


@pytest.mark.parametrize("design", ["four-d", "four-ab-regulated", "two-ab"])
def test_amplifiers_lose_none(design: str) -> None:
    """Up to far beyond clipping, on a supply that sags."""
    bench = SimulatedBench(DESIGNS[design], "S-0001")
    bench.connect((Connection((1,), 4.0),))
    bench.supply.set_volts(14.4)
    bench.supply.switch_on()
    for hz in (40.0, 1000.0):
        bench.recorder.set_bandwidth(20_000.0)
        bench.source.set_tone((1,), hz)
        for level in np.arange(-40.0, 12.0, 2.0):
            bench.source.set_level((1,), float(level))
            bench.wait(0.1)
            taken = bench.recorder.capture(max(0.2, 20 / hz))
            assert slipped(taken.samples[0], taken.sample_rate, hz) == 0, (hz, level)


def test_too_short_or_silent_says_nothing() -> None:
    assert slipped(np.zeros(9_600), 48_000, 997) == 0
    assert slipped(tone(40.0, 48_000, 0.1), 48_000, 40.0) == 0


@pytest.mark.parametrize("hz", [997.0, 1000.0, 40.0])
def test_where_no_tone_is_left_nothing_is_lost(hz: float) -> None:
    """As after Off, or of an amplifier that tripped: phases of noise wander as far as those of many samples lost."""
    drawn = np.random.default_rng(3)
    told = [slipped(drawn.normal(0, 1e-3, 24_000), 48_000, hz) for _ in range(400)]
    assert told == [0] * 400
