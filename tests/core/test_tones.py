"""Tones are whole cycles from zero crossing to zero crossing."""

import numpy as np
import pytest

from rulvek.core.errors import BadInput
from rulvek.core.signals.bursts import PROFILES
from rulvek.core.signals.tones import bursts, sine, stepped_sweep, whole_cycles


@pytest.mark.parametrize(("hz", "seconds", "rate"), [(1000.0, 0.37, 44_100), (40.0, 0.2, 48_000), (997.3, 1.0, 96_000)])
def test_ends_where_a_cycle_ends(hz: float, seconds: float, rate: float) -> None:
    count = whole_cycles(hz, seconds, rate)
    turns = hz * count / rate
    assert abs(turns - round(turns)) <= 0.5 * hz / rate  # no nearer sample exists
    assert count / rate == pytest.approx(seconds, abs=0.5 / hz + 1 / rate)


def test_sine_starts_rising_at_zero_and_keeps_its_level() -> None:
    wave = sine(1000.0, 0.1, 48_000, level_dbfs=-6.0)
    assert wave[0] == 0 and wave[1] > 0
    assert np.max(wave) == pytest.approx(10 ** (-6 / 20), rel=1e-4)
    assert np.sqrt(np.mean(wave**2)) == pytest.approx(10 ** (-6 / 20) / np.sqrt(2), rel=1e-9)


def test_sweep_changes_level_only_at_zero_crossings() -> None:
    wave = stepped_sweep(1000.0, [-20.0, -10.0, 0.0], 0.01, 48_000)
    assert wave.size == 3 * 480
    for change in (480, 960):
        assert abs(wave[change]) < 1e-9
    peaks = [np.max(np.abs(wave[i * 480 : (i + 1) * 480])) for i in range(3)]
    assert peaks == pytest.approx([0.1, 10**-0.5, 1.0], rel=1e-6)


@pytest.mark.parametrize(
    ("call", "field"),
    [
        (lambda: sine(30_000.0, 1.0, 48_000), "hz"),
        (lambda: sine(float("nan"), 1.0, 48_000), "hz"),
        (lambda: sine(1000.0, 0.0, 48_000), "seconds"),
        (lambda: sine(1000.0, 1.0, 0), "sample_rate"),
        (lambda: sine(1000.0, 1.0, 48_000, level_dbfs=1.0), "level_dbfs"),
        (lambda: stepped_sweep(1000.0, [], 1.0, 48_000), "levels_dbfs"),
    ],
)
def test_refuses_what_cannot_be_played(call, field: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(BadInput) as refused:
        call()
    assert refused.value.field == field


@pytest.mark.parametrize("name", ["1 kHz", "40 Hz"])
def test_bursts_are_as_loud_and_as_long_as_their_profile_says(name: str) -> None:
    """20 ms of 500 ms at 1 kHz (IHF-A-202, from memory), 200 ms of 1 s at 40 Hz (common practice); −20 dB of rest."""
    profile = PROFILES[name]
    wave = bursts(profile, 2, 48_000, level_dbfs=-6.0206)
    assert wave.size == round(2 * profile.period_seconds * 48_000)
    on = round(profile.on_seconds * 48_000)
    assert float(np.sqrt(np.mean(wave[:on] ** 2))) == pytest.approx(0.5 / np.sqrt(2), rel=1e-4)
    rest = wave[on : round(profile.period_seconds * 48_000)]
    assert float(np.sqrt(np.mean(rest**2))) == pytest.approx(0.05 / np.sqrt(2), rel=1e-3)
    assert abs(wave[on]) < 1e-6  # the level changes at a zero crossing


def test_no_burst_is_no_tone() -> None:
    with pytest.raises(BadInput, match="At least one burst"):
        bursts(PROFILES["1 kHz"], 0, 48_000)
