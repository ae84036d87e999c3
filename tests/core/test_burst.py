"""Bursts: profiles, windows, readings; energies by direct integration of the wave that was sent."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture
from rulvek.core.readings.burst_point import burst_windows, headroom_db, read_burst_point
from rulvek.core.readings.point import Load
from rulvek.core.signals.bursts import PROFILES, BurstProfile, cycles_profile
from rulvek.core.signals.capture import Capture, SupplyTrace
from rulvek.core.signals.distortion import Band
from tests.examples import examples

RATE = 96_000.0
BAND = Band()
LOADS = {1: Load(4.0, 4.0)}


def sent(profile: BurstProfile, seconds: float, start: float = 0.0, peak: float = 20.0) -> NDArray[np.float64]:
    """The profile's wave from ``start`` seconds into its period on."""
    at = start + np.arange(round(seconds * RATE)) / RATE
    return np.asarray(peak * np.sin(2 * np.pi * profile.hz * at) * profile.envelope(at))


def read(volts: NDArray[np.float64], profile: BurstProfile, supply: SupplyTrace | None = None):  # type: ignore[no-untyped-def]
    capture = Capture(volts, RATE, supply=supply)
    return read_burst_point(capture, level_dbv=0.0, loads=LOADS, profile=profile, band=BAND)


@pytest.mark.parametrize(
    ("name", "on_seconds", "period", "share"),
    [("1 kHz", 0.020, 0.5, 0.04), ("40 Hz", 0.200, 1.0, 0.2)],
)
def test_profiles_have_the_stated_times_and_energy(name: str, on_seconds: float, period: float, share: float) -> None:
    """20 ms in 500 ms and 8 cycles of 40 Hz in 1 s, the rest at −20 dB: a hundredth of the power."""
    profile = PROFILES[name]
    assert profile.on_seconds == pytest.approx(on_seconds)
    assert profile.period_seconds == pytest.approx(period)
    wave = sent(profile, period)
    # Joules per period into 1 Ω, by summing the wave itself.
    joules = float(np.sum(wave**2)) / RATE
    assert joules == pytest.approx(200 * period * (share + (1 - share) * 0.01), rel=1e-3)


@pytest.mark.parametrize(
    ("hz", "cycles", "period"), [(1000.0, 20, 0.5), (40.0, 8, 1.0), (50.0, 20, 2.0), (40.0, 1, 0.5)]
)
def test_cycle_profiles_rest_to_half_a_second_or_four_times_as_long(hz: float, cycles: int, period: float) -> None:
    assert cycles_profile(hz, cycles).period_seconds == pytest.approx(period)


def test_periods_are_whole_cycles_so_that_levels_change_at_zero() -> None:
    profile = BurstProfile("odd", 63.0, 6, 0.5)
    assert profile.period_seconds * 63.0 == pytest.approx(round(profile.period_seconds * 63.0))
    assert profile.period_seconds >= 0.5
    wave = sent(profile, profile.period_seconds)
    change = round(profile.on_seconds * RATE)
    assert abs(wave[change]) < 20 * 2 * math.pi * 63 / RATE  # within one sample's rise of zero


def test_a_shaped_burst_swells_and_fades() -> None:
    profile = PROFILES["shaped"]
    at = np.linspace(0, profile.on_seconds, 101)[:-1]
    envelope = profile.envelope(at)
    assert envelope[0] == 0 and envelope[50] == pytest.approx(1.0)
    assert np.all(np.diff(envelope[:50]) > 0) and np.all(np.diff(envelope[51:]) < 0)


@pytest.mark.parametrize("wrong", [(0.0, 8, 1.0), (40.0, 0.5, 1.0), (40.0, 40, 1.0)])
def test_refuses_bursts_that_are_none(wrong: tuple[float, float, float]) -> None:
    with pytest.raises(ValueError, match="burst needs"):
        BurstProfile("wrong", *wrong)


@examples(40)
@given(start=st.floats(0.0, 1.0), name=st.sampled_from(["1 kHz", "40 Hz"]))
def test_a_burst_is_found_and_read_whenever_the_record_begins(start: float, name: str) -> None:
    profile = PROFILES[name]
    volts = sent(profile, profile.capture_seconds, start=start)
    windows = burst_windows(volts, RATE, profile)
    assert len(windows) >= 1
    cycle = RATE / profile.hz
    for window in windows:
        assert abs((window.stop - window.start) - profile.on_cycles * cycle) <= cycle
    channel = read(volts, profile).channels[0]
    # A clean sine of 20 V peak: 50 W into 4 Ω, and nothing but the sine in it.
    assert channel.watts == pytest.approx(50.0, rel=2e-3)
    assert channel.thd_n is not None and channel.thd_n < 1e-3
    assert channel.kept_up == pytest.approx(1.0, abs=2e-3)


def test_the_strongest_whole_cycle_counts_and_sag_shows() -> None:
    """A burst that sags from 20 V to 16 V: its first counted cycle gives the power, the rest tells of the sag."""
    profile = PROFILES["40 Hz"]
    volts = sent(profile, profile.capture_seconds, start=0.5)
    on = round(0.5 * RATE)  # the burst begins after the half period of rest
    length = round(profile.on_seconds * RATE)
    volts[on : on + length] *= np.linspace(1.0, 0.8, length)
    channel = read(volts, profile).channels[0]
    cycle = length // 8
    second = volts[on + cycle : on + 2 * cycle]
    assert channel.watts == pytest.approx(float(np.mean(second**2)) / 4, rel=0.02)
    assert 0.82 < channel.kept_up < 0.9


def test_clipping_within_the_burst_is_its_distortion() -> None:
    profile = PROFILES["1 kHz"]
    volts = np.clip(sent(profile, profile.capture_seconds, start=0.3), -18.0, 18.0)
    steady = np.clip(20 * np.sin(2 * np.pi * 1000 * np.arange(96_000) / RATE), -18.0, 18.0)
    from rulvek.core.signals.distortion import analyse_tone

    expected = analyse_tone(steady, RATE)
    channel = read(volts, profile).channels[0]
    assert channel.thd_n == pytest.approx(expected.thd_n, rel=0.01)
    assert channel.volts_rms == pytest.approx(expected.rms_volts, rel=1e-3)


def test_one_cycle_bursts_can_be_read() -> None:
    profile = cycles_profile(40.0, 1)
    channel = read(sent(profile, profile.capture_seconds, start=0.2), profile).channels[0]
    assert channel.watts == pytest.approx(50.0, rel=0.05)
    assert channel.thd_n is not None and channel.thd_n < 0.1


def test_amps_are_never_read_and_volts_are_those_of_the_bursts() -> None:
    """An averaging clamp over the silence would make an efficiency of hundreds of percent (common practice)."""
    profile = PROFILES["40 Hz"]
    seconds = profile.capture_seconds
    at = 0.5 + np.arange(round(seconds * 1000)) / 1000
    on = np.mod(at, 1.0) < profile.on_seconds
    supply = SupplyTrace(np.where(on, 12.8, 14.4), np.where(on, 90.0, 2.0), 1000.0)
    point = read(sent(profile, seconds, start=0.5), profile, supply)
    assert point.supply_amps is None and point.efficiency is None
    assert point.supply_volts == pytest.approx(12.8, abs=0.1)
    assert point.supply_lowest == pytest.approx(12.8)


def test_silence_and_cut_off_outputs_read_as_dead() -> None:
    profile = PROFILES["1 kHz"]
    quiet = read(np.full(round(profile.capture_seconds * RATE), 1e-4), profile).channels[0]
    assert quiet.thd_n is None and quiet.kept_up == 0 and quiet.watts < 1e-6
    assert burst_windows(np.zeros(10), RATE, profile) == []
    with pytest.raises(BadCapture, match="Channel 2 is loaded"):
        missing = {2: LOADS[1]}
        read_burst_point(Capture(np.ones((1, 9600)), RATE), level_dbv=0.0, loads=missing, profile=profile, band=BAND)


def test_headroom_in_decibels() -> None:
    """10·log10 of the power ratio: twice the power is 3.01 dB."""
    assert headroom_db(200.0, 100.0) == pytest.approx(3.0103, abs=1e-4)
    assert headroom_db(100.0, 100.0) == 0
    with pytest.raises(ValueError, match="above 0 W"):
        headroom_db(0.0, 100.0)
