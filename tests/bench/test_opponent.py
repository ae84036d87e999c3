"""What the simulated amplifier does wrong on purpose, each against its closed form."""

import math
from dataclasses import replace

import numpy as np
import pytest

from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.design import AmplifierDesign, GroupDesign
from rulvek.core.readings.point import Load, Point, read_point
from rulvek.core.signals.distortion import Band, analyse_tone

PLAIN = GroupDesign(
    channels=(1,),
    topology="AB",
    gain=20.0,
    rail_volts=40.0,
    converter_ohms=1e-4,
    output_ohms=1e-4,
    trip_amps=1000.0,
    regulated_down_to=11.0,
    lost_volts=0.0,
    knee=1024,
    curvature=0.0,
    noise_volts=1e-6,
)
LOAD = {1: Load(4.0, 4.0)}


def captured(volts_rms: float, hz: float = 1000.0, **changes: object):  # type: ignore[no-untyped-def]
    """0.2 s of a tone of so many volts from a plain stage with something wrong."""
    design = AmplifierDesign((replace(PLAIN, **changes),), gain_spread_db=0.0, offset_spread_volts=0.0)  # type: ignore[arg-type]
    bench = SimulatedBench(design, "opponent")
    bench.connect([Connection((1,), 4.0)])
    bench.supply.switch_on()
    bench.set_tone([1], hz)
    bench.set_level([1], 20 * math.log10(volts_rms / 20.0))
    bench.wait(0.1)
    return bench.capture(0.2)


def point(volts_rms: float, **changes: object) -> Point:
    capture = captured(volts_rms, **changes)
    return read_point(capture, level_dbv=0.0, loads=LOAD, tone_hz=1000.0, band=Band())


def test_a_plain_stage_adds_nothing() -> None:
    assert point(10.0).worst_thd_n < 2e-5
    assert point(10.0).weakest_watts == pytest.approx(25.0, rel=2e-3)


@pytest.mark.parametrize("volts", [1.0, 4.0])
def test_crossover_is_the_closed_form_of_a_dead_zone_and_worst_at_low_levels(volts: float) -> None:
    """A sine less its part within ± d, integrated on a grid of its own."""
    dead = 0.05
    sine = math.sqrt(2) * volts * np.sin(2 * np.pi * np.arange(65536) / 65536)
    bent = sine - np.clip(sine, -dead, dead)
    spectrum = np.abs(np.fft.rfft(bent))[1:21]  # within 20 kHz
    expected = math.sqrt(float(np.sum(spectrum[1:] ** 2) / np.sum(spectrum**2)))
    found = point(volts, crossover_volts=dead)
    assert found.worst_thd_n == pytest.approx(expected, rel=0.02)
    assert found.worst_thd_n > point(2 * volts, crossover_volts=dead).worst_thd_n


def test_a_second_order_bend_gives_the_second_harmonic() -> None:
    """v + e·v²/r of a sine of peak p: a second harmonic of e·p/(2r) of the fundamental (trigonometry)."""
    capture = captured(10.0, even=0.01)
    tone = analyse_tone(capture.outputs()[1], capture.sample_rate, tone_hz=1000.0, coherent=True)
    assert tone.harmonics[0] / tone.fundamental_volts == pytest.approx(0.01 * 10 * math.sqrt(2) / 40 / 2, rel=0.01)


def test_hum_is_noise_and_no_distortion() -> None:
    found = point(2.83, hum_volts=0.0283)
    channel = found.channels[0]
    assert channel.thd_n == pytest.approx(0.01, rel=0.01) and channel.thd is not None and channel.thd < 2e-4


def test_a_carriers_residue_is_outside_of_the_band() -> None:
    found = point(2.0, carrier_volts=1.0)
    assert found.weakest_watts == pytest.approx(1.0, rel=3e-3)
    assert found.channels[0].outside_share == pytest.approx(0.2, rel=0.01)


@pytest.mark.parametrize("hz", [20.0, 40.0, 1000.0])
def test_a_coupling_capacitor_is_a_first_order_high_pass(hz: float) -> None:
    """|H| = 1/√(1 + (fc/f)²) (textbook)."""
    capture = captured(10.0, hz, coupling_hz=20.0)
    volts = analyse_tone(capture.outputs()[1], capture.sample_rate, tone_hz=hz).fundamental_volts
    assert volts == pytest.approx(10.0 / math.sqrt(1 + (20.0 / hz) ** 2), rel=2e-3)


@pytest.mark.parametrize("flat", [2.0, 4.0, 8.0])
@pytest.mark.parametrize("hz", [1000.0, 10_000.0, 20_000.0])
def test_an_output_filter_is_of_second_order_and_its_peak_depends_on_the_load(hz: float, flat: float) -> None:
    """|H| = 1/√((1 − x²)² + (x/Q)²) with x = f/fc and Q = R/(R_flat·√2) (textbook)."""
    capture = captured(10.0, hz, filter_hz=40_000.0, filter_ohms=flat)
    volts = analyse_tone(capture.outputs()[1], capture.sample_rate, tone_hz=hz).fundamental_volts
    x, quality = hz / 40_000.0, 4.0 / flat / math.sqrt(2)
    assert volts == pytest.approx(10.0 / math.hypot(1 - x**2, x / quality), rel=0.01)


@pytest.mark.parametrize("hz", [1000.0, 20_000.0])
def test_a_wound_load_takes_less_than_its_volts_say(hz: float) -> None:
    """P = V²·R/(R² + (ωL)²) (textbook): at 20 kHz 10 µH in series with 4 Ω take 9 % off what V²/R says."""
    design = AmplifierDesign((PLAIN,), gain_spread_db=0.0, offset_spread_volts=0.0)
    heat = []
    for henries in (0.0, 10e-6):
        bench = SimulatedBench(design, "opponent", load_henries=henries)
        bench.connect([Connection((1,), 4.0)])
        bench.supply.switch_on()
        bench.set_tone([1], hz)
        bench.set_level([1], 20 * math.log10(10.0 / 20.0))
        bench.capture(0.2)
        heat.append(bench.load_watts(1))
        ohms = bench.measured()[1].measured_ohms
    reactance = 2 * math.pi * hz * 10e-6
    assert heat[1] / heat[0] == pytest.approx(ohms**2 / (ohms**2 + reactance**2), rel=1e-3)


def test_contacts_vary_from_one_look_to_the_next() -> None:
    """Uniform between 0 and what they have at the most: mean a half, standard deviation 1/√12 of it."""
    design = AmplifierDesign((PLAIN,), gain_spread_db=0.0, offset_spread_volts=0.0)
    good, bad = (SimulatedBench(design, "opponent", contact_ohms=ohms) for ohms in (0.0, 0.2))
    read = []
    for bench in (good, bad):
        bench.connect([Connection((1,), 2.0)])
        read.append(np.array([bench.measured()[1].measured_ohms for _ in range(400)]))
    assert np.mean(read[1]) - np.mean(read[0]) == pytest.approx(0.1, abs=0.01)
    assert math.sqrt(np.var(read[1]) - np.var(read[0])) == pytest.approx(0.2 / math.sqrt(12), rel=0.1)
