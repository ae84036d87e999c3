"""Power against closed forms."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.electrical.supply import supply_amps
from rulvek.core.signals.power import (
    input_for_full_output,
    mean_square,
    power_from_current,
    rms_watts,
    unclipped_sine_watts,
    volts_of,
)


@given(
    hz=st.floats(20.0, 5000.0),
    phase=st.floats(0.0, 6.28),
    offset=st.floats(-2.0, 2.0),
    cycles=st.floats(40.0, 400.0),
)
def test_within_a_hundredth_of_a_percent_at_any_length_phase_and_offset(
    hz: float, phase: float, offset: float, cycles: float
) -> None:
    rate = 20 * hz * 1.0137
    t = np.arange(round(cycles / hz * rate)) / rate
    volts = 20 * np.sin(2 * np.pi * hz * t + phase) + offset
    # A sine of amplitude a and an offset d heat a resistor with (a²/2 + d²) / R.
    assert mean_square(volts) / 4 == pytest.approx((200 + offset**2) / 4, rel=1e-4)


def test_a_lone_sample_is_its_own_mean() -> None:
    assert mean_square(np.array([3.0])) == 9.0


def test_reactive_load_by_phase() -> None:
    """v·i averages to Vrms·Irms·cos φ (circuit theory)."""
    t = np.arange(48_000) / 48_000
    volts, amps = 20 * np.sin(2 * np.pi * 100 * t), 5 * np.sin(2 * np.pi * 100 * t - np.pi / 3)
    found = power_from_current(volts, amps)
    assert found.watts == pytest.approx(50 * 0.5, rel=1e-6)
    assert found.volt_amps == pytest.approx(50, rel=1e-6)
    assert found.power_factor == pytest.approx(0.5, rel=1e-6)
    assert found.impedance_ohms == pytest.approx(4.0, rel=1e-6)


def test_impedance_needs_a_current() -> None:
    with pytest.raises(ValueError, match="all zero"):
        power_from_current(np.ones(4), np.zeros(4))
    with pytest.raises(ValueError, match="same samples"):
        power_from_current(np.ones(4), np.ones(5))


def test_scope_peak_of_the_job_document() -> None:
    """41.6 V peak into 8 Ω stands for 108 W (common practice, no source)."""
    assert unclipped_sine_watts(41.6, 8.0) == pytest.approx(108.16)
    with pytest.raises(ValueError, match="load"):
        unclipped_sine_watts(10.0, 0.0)


def test_levels_for_gain_matching_and_supply_current() -> None:
    """6.02 dB are a factor of 2 in volts; 3000 W at 82 % from 14.4 V draw 254 A (P / (V·η))."""
    assert input_for_full_output(4.0, 20 * math.log10(2)) == pytest.approx(2.0)
    assert input_for_full_output(4.0, 0.0) == 4.0
    assert volts_of(rms_watts(17.0, 4.0), 4.0) == pytest.approx(17.0)
    assert supply_amps(3000.0, 14.4, 0.82) == pytest.approx(254.07, abs=0.01)
