"""Captures check and freeze themselves."""

import numpy as np
import pytest

from rulvek.core.errors import BadCapture
from rulvek.core.signals.capture import Capture, Signal, SupplyTrace


def test_is_frozen_and_copied() -> None:
    samples = np.ones((2, 8))
    capture = Capture(samples, 48_000.0)
    samples[0, 0] = 99.0
    assert capture.samples[0, 0] == 1.0
    with pytest.raises(ValueError, match="read-only"):
        capture.samples[0, 0] = 2.0


def test_outputs_go_by_channel_number() -> None:
    roles = (Signal("output_volts", 3), Signal("output_amps", 3), Signal("output_volts", 1))
    capture = Capture(np.array([[3.0] * 4, [0.5] * 4, [1.0] * 4]), 48_000.0, roles)
    assert {number: row[0] for number, row in capture.outputs().items()} == {3: 3.0, 1: 1.0}
    assert capture.seconds == 4 / 48_000


def test_supply_trace_speaks_of_means_and_lowest() -> None:
    trace = SupplyTrace(np.array([14.4, 14.0, 13.9]), np.array([0.0, 30.0, 60.0]), 1000.0)
    assert (trace.mean_volts, trace.lowest_volts, trace.mean_amps) == (pytest.approx(14.1), 13.9, 30.0)


@pytest.mark.parametrize(
    ("samples", "rate", "roles", "field"),
    [
        (np.zeros((1, 0)), 48_000.0, (), "samples"),
        (np.array([[0.0, np.nan]]), 48_000.0, (), "samples"),
        (np.zeros((1, 4)), 0.0, (), "sample_rate"),
        (np.zeros((2, 4)), 48_000.0, (Signal("output_volts", 1),), "roles"),
        (np.zeros((2, 2, 2)), 48_000.0, (), "samples"),
    ],
)
def test_refuses_bad_ones(samples, rate, roles, field) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(BadCapture) as refused:
        Capture(samples, rate, roles)
    assert refused.value.field == field
