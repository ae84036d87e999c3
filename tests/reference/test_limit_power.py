"""The power at the THD+N limit, whatever the tone, against the closed form of a hard clipper; and on a free clock.

The Fourier coefficients of a sine clipped at ±1 are written out below from the integral, and the band ends at the
fifth harmonic above 4 kHz, at 20 kHz below.
"""

import math
from dataclasses import replace

import numpy as np
import pytest
from clipper import closed_form, harmonics

from rulvek.bench.conductor import RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.design import AmplifierDesign, GroupDesign
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.point import Load, read_point
from rulvek.core.runs.modes import End
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.distortion import Band, analyse_tone, band_for_tone

RAIL = 30.0
CLIPPER = GroupDesign(
    channels=(1,),
    topology="D",
    gain=20.0,
    rail_volts=RAIL,
    converter_ohms=1e-4,
    rail_farads=1.0,
    output_ohms=1e-3,
    trip_amps=1000.0,
    regulated_down_to=11.0,
    lost_volts=0.0,
    knee=4096,
    curvature=0.0,
    noise_volts=1e-5,
)
DESIGN = AmplifierDesign(
    groups=(CLIPPER,),
    gain_spread_db=0.0,
    offset_spread_volts=0.0,
    part_spread=0.0,
    sink_joules_per_kelvin=1e7,
    trip_input_amps=1e5,
)


def test_the_closed_form_is_the_known_one() -> None:
    assert closed_form(0.01, 999) == pytest.approx(1.0475, abs=2e-4)
    assert closed_form(0.10, 999) == pytest.approx(1.2889, abs=2e-4)


@pytest.mark.parametrize("hz", [20.0, 40.0, 1000.0, 3999.0, 5000.0, 7000.0, 10_000.0, 15_000.0, 20_000.0])
def test_limit_power_of_a_clipper_from_20_hz_to_20_khz(hz: float) -> None:
    method = MethodProfile(bracket_db=0.01)
    setup = RunSetup(
        under_test=(Connection((1,), 4.0),),
        companions=(),
        tone_hz=hz,
        companion_tone_hz=hz,
        supply_volts=14.4,
        sensitivity_dbv=CLIPPER.full_output_dbv,
        method=method,
        loads={1: Load(4.0, 4.0)},
    )
    bench = SimulatedBench(DESIGN, "clipper")
    outcome = conduct(bench, setup, lambda _event: None).outcome
    assert outcome.end is End.LIMIT and outcome.reading is not None
    reading = outcome.reading
    high = band_for_tone(method.band, hz).high_hz
    assert reading.band_high_hz is not None and reading.band_high_hz >= min(high, 3 * hz)
    last = math.floor(reading.band_high_hz / hz)
    volts = reading.channels[0].volts_rms  # the recorder's own gain is within 0.05 %
    assert volts**2 / (RAIL**2 / 2) == pytest.approx(closed_form(0.01, last), rel=5e-3)


def test_the_slope_at_the_limit_is_the_closed_forms() -> None:
    """d ln P / d ln THD+N between the reading and the next point over the limit."""
    setup = RunSetup((Connection((1,), 4.0),), (), 1000.0, 40.0, 14.4, 0.0, MethodProfile(bracket_db=0.01))
    outcome = conduct(SimulatedBench(DESIGN, "limit"), setup, lambda _event: None).outcome
    assert outcome.reading is not None and outcome.limit_slope is not None
    first = outcome.reading.worst_thd_n
    above = min(p.worst_thd_n for p in outcome.points if p.worst_thd_n > 1.1 * first)
    expected = math.log(closed_form(above, 19) / closed_form(first, 19)) / math.log(above / first)
    assert outcome.limit_slope == pytest.approx(expected, rel=0.1)


@pytest.mark.parametrize("ppm", [-50.0, 1.0, 50.0])
def test_a_clean_sine_is_clean_on_a_free_clock(ppm: float) -> None:
    rate, seconds = 48_000.0, 30.0
    at = np.arange(round(seconds * rate)) / (rate * (1 + ppm * 1e-6))
    capture = Capture(np.atleast_2d(20 * np.sin(2 * np.pi * 1000.0 * at)), rate)
    point = read_point(capture, level_dbv=0.0, loads={1: Load(4.0, 4.0)}, tone_hz=1000.0, band=Band(), coherent=False)
    assert point.worst_thd_n < 1e-5
    assert point.weakest_watts == pytest.approx(50.0, rel=1e-6)


@pytest.mark.parametrize("ppm", [1.0, 50.0])
def test_a_bench_says_whether_its_clock_is_shared(ppm: float) -> None:
    setup = RunSetup(
        under_test=(Connection((1,), 4.0),),
        companions=(),
        tone_hz=1000.0,
        companion_tone_hz=1000.0,
        supply_volts=14.4,
        sensitivity_dbv=CLIPPER.full_output_dbv,
        method=replace(MethodProfile(), dwell_seconds=3.0),
        loads={1: Load(4.0, 4.0)},
    )
    readings = []
    for bench in (SimulatedBench(DESIGN, "clipper"), SimulatedBench(DESIGN, "clipper", clock_ppm=ppm)):
        outcome = conduct(bench, setup, lambda _event: None).outcome
        assert outcome.end is End.LIMIT and outcome.reading is not None
        readings.append(outcome.reading.weakest_watts)
    assert readings[1] == pytest.approx(readings[0], rel=2e-3)


def test_noise_is_no_harmonic() -> None:
    """White noise alone gave a THD: power that falls on the harmonics' places."""
    at = np.arange(19_200) / 96_000.0
    noise = np.random.default_rng(3).normal(0, 0.02, at.size)
    tone = analyse_tone(np.sin(2 * np.pi * 1000 * at) + noise, 96_000.0, tone_hz=1000.0, coherent=True)
    assert tone.thd < 2e-4
    third = 1e-3 * np.sin(2 * np.pi * 3000 * at)
    bent = analyse_tone(np.sin(2 * np.pi * 1000 * at) + third + noise / 50, 96_000.0, tone_hz=1000.0, coherent=True)
    assert bent.thd == pytest.approx(1e-3, rel=0.02)


def test_carrier_residue_is_no_output() -> None:
    at = np.arange(19_200) / 96_000.0
    volts = 2 * np.sqrt(2) * np.sin(2 * np.pi * 1000 * at) + np.sqrt(2) * np.sin(2 * np.pi * 40_000 * at)
    point = read_point(
        Capture(np.atleast_2d(volts), 96_000.0), level_dbv=0.0, loads={1: Load(4.0, 4.0)}, tone_hz=1000.0, band=Band()
    )
    assert point.weakest_watts == pytest.approx(1.0, rel=1e-4)
    assert point.channels[0].outside_share == pytest.approx(0.2, abs=1e-4)  # 0.25 W of 1.25 W


@pytest.mark.parametrize("drive", [0.9, 1.15])
@pytest.mark.parametrize("hz", [pytest.param(40.0, marks=pytest.mark.long), 997.0, 1000.0])
def test_short_records_that_are_cut_off_anywhere(drive: float, hz: float) -> None:
    """2 to 20 cycles of a clipped sine from its Fourier series (closed form, above): power within 0.02 %."""
    rate = 48_000.0
    peaks = [drive] if drive < 1 else harmonics(drive, int(20_000 / hz))
    expected = sum(peak**2 for peak in peaks) / 2
    orders = [2 * k + 1 for k in range(len(peaks))]
    # Records of a low tone are long, and so take their time: as many phases of the cut, fewer lengths.
    for number, cycles in enumerate(np.linspace(2.0, 20.0, 20 if hz < 100 else 55)):
        turn = 2 * np.pi * hz / rate * np.arange(round(cycles * rate / hz)) + number
        wave = 0.3 + sum(peak * np.sin(order * turn) for peak, order in zip(peaks, orders, strict=True))
        if wave.size < 64:
            continue
        found = analyse_tone(wave, rate, tone_hz=hz).band_volts ** 2
        assert found == pytest.approx(expected, rel=2e-4), f"{cycles:.2f} cycles"
