"""A loudspeaker as a load, against circuit theory worked out elsewhere: complex impedance, power by time averages."""

import cmath
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.electrical.moving_load import moving_load
from rulvek.core.errors import BadCapture, BadInput
from rulvek.core.readings.speaker_wire import read_speaker_wire
from tests.examples import examples

RATE = 48_000.0


def test_a_series_circuit_of_a_handbook() -> None:
    """R = 3 Ω and X = 4 Ω in series: |Z| = 5 Ω, cos φ = 0.6 (the 3-4-5 triangle of every circuit textbook)."""
    z = complex(3, 4)
    volts = 50.0
    amps = volts / abs(z)
    load = moving_load(volts, amps, math.degrees(cmath.phase(z)))
    assert load.impedance_ohms == pytest.approx(5) and load.power_factor == pytest.approx(0.6)
    assert load.watts == pytest.approx(amps**2 * 3)  # only the resistance takes power
    assert (load.resistance_ohms, load.reactance_ohms) == (pytest.approx(3), pytest.approx(4))


def test_meters_alone_tell_no_real_power() -> None:
    load = moving_load(20.0, 5.0)
    assert (load.impedance_ohms, load.volt_amps) == (4.0, 100.0)
    assert load.watts is load.power_factor is load.resistance_ohms is None


@pytest.mark.parametrize(("volts", "amps"), [(0.0, 1.0), (1.0, 0.0), (-1.0, 1.0)])
def test_nothing_is_no_load(volts: float, amps: float) -> None:
    with pytest.raises(BadInput, match="above 0"):
        moving_load(volts, amps)


def wave(hz: float, volts: float, z: complex, seconds: float = 0.7) -> tuple[np.ndarray, np.ndarray]:
    """Volts of a sine and the amps that they drive through an impedance, cut off anywhere."""
    t = np.arange(int(RATE * seconds)) / RATE
    peak = volts * math.sqrt(2)
    u = peak * np.sin(2 * np.pi * hz * t + 0.3)
    i = peak / abs(z) * np.sin(2 * np.pi * hz * t + 0.3 - cmath.phase(z))
    return u, i


@examples(40)
@given(
    hz=st.floats(25, 2_000),
    ohms=st.floats(1.5, 12),
    degrees=st.floats(-75, 75),
    volts=st.floats(0.5, 60),
)
def test_a_recorded_tone_gives_back_what_drove_it(hz: float, ohms: float, degrees: float, volts: float) -> None:
    z = cmath.rect(ohms, math.radians(degrees))
    read = read_speaker_wire(*wave(hz, volts, z), RATE)
    assert read.volts == pytest.approx(volts, rel=0.02) and read.amps == pytest.approx(volts / ohms, rel=0.02)
    assert read.tone_hz == pytest.approx(hz, rel=1e-5)
    assert read.phase_degrees == pytest.approx(degrees, abs=0.05)
    assert read.watts == pytest.approx(volts**2 / ohms * math.cos(math.radians(degrees)), rel=0.01, abs=1e-3)


def test_a_clamp_that_is_the_wrong_way_round_shows() -> None:
    u, i = wave(60, 20, 4 + 0j)
    assert read_speaker_wire(u, -i, RATE).watts == pytest.approx(-100, rel=1e-3)


def test_music_has_power_but_no_phase() -> None:
    noise = np.random.default_rng(7).normal(size=48_000)
    read = read_speaker_wire(10 * noise, 2.5 * noise, RATE)
    assert read.tone_hz is None and read.phase_degrees is None
    assert read.watts == pytest.approx(read.volts * read.amps, rel=1e-3)  # a resistor
    assert read.volts / read.amps == pytest.approx(4.0)


def test_an_offset_of_the_clamp_is_no_current() -> None:
    u, i = wave(60, 20, 4 + 0j)
    assert read_speaker_wire(u, i + 3.0, RATE).amps == pytest.approx(5.0, rel=1e-3)


@pytest.mark.parametrize(("count", "scale"), [(2_000, 1.0), (48_000, 0.0), (48_000 * 21, 1.0)])
def test_what_cannot_be_read_is_refused(count: int, scale: float) -> None:
    t = np.arange(count) / RATE
    wave = scale * np.sin(2 * np.pi * 100 * t)
    with pytest.raises(BadCapture):
        read_speaker_wire(wave, wave, RATE)
