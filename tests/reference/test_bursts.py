"""Bursts of every profile and rate against closed forms: a clipper's onset, and what no linear system may show.

The power at 1 % THD+N of a hard clipper is computed here from the definition, on a grid of its own.
"""

import math

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.signal import bessel, butter, lfilter

from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.burst_point import Quiet, read_burst_point
from rulvek.core.readings.point import Load, Point
from rulvek.core.signals.bursts import CYCLES, PROFILES, BurstProfile, cycles_profile
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.distortion import Band

RATES = (44_100.0, 48_000.0, 96_000.0, 192_000.0)
LOADS = {1: Load(4.0, 4.0)}
RAIL = 20.0
FINE = 4096  # a cycle, for the closed form


def profiles() -> list[BurstProfile]:
    rated = [cycles_profile(hz, cycles) for hz in (40.0, 45.0, 50.0, 1000.0) for cycles in CYCLES.values()]
    return [*PROFILES.values(), *rated]


EACH = pytest.mark.parametrize("profile", profiles(), ids=lambda one: f"{one.name}, {one.hz:g} Hz")


def sent(profile: BurstProfile, rate: float, peak: float) -> NDArray[np.float64]:
    """What the source plays, from the lead before a burst on."""
    seconds = np.arange(round(profile.triggered_seconds * rate)) / rate - profile.lead_seconds
    wave = np.sin(2 * np.pi * profile.hz * seconds) * profile.envelope(np.mod(seconds, profile.period_seconds))
    return np.asarray(peak * wave)


def read(volts: NDArray[np.float64], quiet: NDArray[np.float64], profile: BurstProfile, rate: float) -> Point:
    return read_burst_point(
        Capture(np.atleast_2d(volts), rate),
        level_dbv=0.0,
        loads=LOADS,
        profile=profile,
        band=Band(),
        lead_seconds=profile.lead_seconds,
        quiet=Quiet(Capture(np.atleast_2d(quiet), rate), profile.lead_seconds),
    )


def onset_watts(profile: BurstProfile, limit: float) -> float:
    """Strongest whole cycle of a hard clipper whose counted cycles hold so much that is not the burst itself."""
    cycles = math.floor(profile.on_cycles)
    counted = cycles - 2 if cycles >= 4 else cycles
    margin = (profile.on_cycles - counted) / 2
    turns = np.arange(round(profile.on_cycles * FINE)) / FINE
    shape = np.sin(2 * np.pi * turns)
    if profile.shaped:
        shape = shape * (0.5 - 0.5 * np.cos(2 * np.pi * turns / profile.on_cycles))
    within = slice(round(margin * FINE), round((margin + counted) * FINE))

    def clipped(drive: float) -> NDArray[np.float64]:
        return np.clip(drive * shape, -1.0, 1.0)

    def over(drive: float) -> float:
        wave, own = clipped(drive)[within], shape[within]
        residual = wave - (wave @ own) / (own @ own) * own
        return float(np.sqrt(np.mean(residual**2) / np.mean(wave**2))) - limit

    power = clipped(float(brentq(over, 1.0, 3.0, xtol=1e-9)))[within] ** 2
    sums = np.concatenate([[0.0], np.cumsum(power)])
    return float(RAIL**2 * np.max(sums[FINE:] - sums[:-FINE]) / FINE / 4.0)


@EACH
@pytest.mark.parametrize(
    "rate", [pytest.param(one, marks=pytest.mark.long) for one in RATES[1:3]] + [RATES[0], RATES[3]]
)
def test_the_onset_of_a_clipper(profile: BurstProfile, rate: float) -> None:
    quiet = sent(profile, rate, 1.0)

    def point(peak: float) -> Point:
        return read(np.clip(sent(profile, rate, peak), -RAIL, RAIL), quiet, profile, rate)

    peak = brentq(lambda volts: point(volts).worst_thd_n - 0.01, RAIL, 1.5 * RAIL, xtol=1e-4)
    assert point(float(peak)).weakest_watts == pytest.approx(onset_watts(profile, 0.01), rel=5e-3)


LINEAR = {
    "coupling, 5 Hz": lambda rate: butter(1, 5.0, "high", fs=rate),
    "coupling of second order, 10 Hz": lambda rate: butter(2, 10.0, "high", fs=rate),
    "output filter, 20 kHz": lambda rate: butter(1, 20_000.0, fs=rate),
    "bass filter, 120 Hz": lambda rate: bessel(2, 120.0, fs=rate),
}
# 40 dB below the band of a bass filter there is more noise than distortion.
PASSED = [(one, system) for one in profiles() for system in LINEAR if one.hz < 200 or not system.startswith("bass")]


@pytest.mark.parametrize(("profile", "system"), PASSED, ids=str)
def test_what_is_linear_shows_no_distortion(profile: BurstProfile, system: str) -> None:
    rate = 96_000.0
    numerator, denominator = LINEAR[system](rate)
    noise = np.random.default_rng(1).normal(0, 1e-4, (2, round(profile.triggered_seconds * rate)))
    loud, quiet = (
        lfilter(numerator, denominator, sent(profile, rate, peak)) + noise[row]
        for row, peak in enumerate((RAIL, RAIL / 10))
    )
    assert read(loud, quiet, profile, rate).worst_thd_n < 1e-3


@pytest.mark.parametrize("part", [-0.4, 0.17, 0.5])
def test_two_records_need_not_share_their_sampling_instants(part: float) -> None:
    profile, rate = cycles_profile(1000.0, 8), 44_100.0
    seconds = (np.arange(round(profile.triggered_seconds * rate)) + part) / rate - profile.lead_seconds
    later = RAIL * np.sin(2 * np.pi * 1000.0 * seconds) * profile.envelope(np.mod(seconds, profile.period_seconds))
    assert read(later, sent(profile, rate, 1.0), profile, rate).worst_thd_n < 1e-3


def test_the_profiles_of_the_method_are_among_them() -> None:
    method = MethodProfile()
    assert {method.burst_full_range, method.burst_bass} <= {profile.name for profile in profiles()}
