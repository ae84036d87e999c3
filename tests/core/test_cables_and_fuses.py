"""Cables against ASTM B258 and handbook values, fuses against the tabled bands, loads against circuit theory."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.electrical.cables import Cable, awg_diameter_mm, gauge_number
from rulvek.core.electrical.fuses import BANDS, opens_between, stress
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.errors import BadInput


@pytest.mark.parametrize(
    ("gauge", "millimetres", "ohms_per_km"),
    [
        # ASTM B258 nominal diameters; resistance of solid annealed copper at 20 °C from wire tables, both from memory
        ("4/0", 11.684, 0.1608),
        ("1/0", 8.251, 0.3224),
        ("4", 5.189, 0.8152),
        ("10", 2.588, 3.277),
        ("18", 1.024, 20.95),
    ],
)
def test_wire_tables(gauge: str, millimetres: float, ohms_per_km: float) -> None:
    assert awg_diameter_mm(gauge) == pytest.approx(millimetres, abs=0.0008)
    one_way = Cable(gauge, 1000.0).ohms / 2
    assert one_way == pytest.approx(ohms_per_km, rel=2e-3)


def test_a_cable_counts_both_ways_and_warms() -> None:
    cold, warm = Cable("1/0", 2.0), Cable("1/0", 2.0, celsius=70.0)
    assert cold.ohms == pytest.approx(4 * 0.3224e-3, rel=2e-3)
    assert warm.ohms / cold.ohms == pytest.approx(1 + 0.00393 * 50)  # copper, per kelvin at 20 °C (IEC 60028)
    assert cold.drop(240.0) == pytest.approx(240 * cold.ohms)
    assert cold.loss(240.0) == pytest.approx(240 * cold.drop(240.0))
    assert Cable("1/0", 2.0, strands=2).ohms == pytest.approx(cold.ohms / 2)


@pytest.mark.parametrize("gauge", ["5/0", "", "-1", "41", "0"])
def test_gauges_that_are_none(gauge: str) -> None:
    if gauge == "0":
        assert gauge_number(gauge) == gauge_number("1/0")
        return
    with pytest.raises(BadInput, match="no AWG gauge"):
        gauge_number(gauge)
    with pytest.raises(BadInput, match="length"):
        Cable("4", -1.0)


@pytest.mark.parametrize(("ratio", "earliest", "latest"), BANDS)
def test_fuse_bands_at_their_tabled_multiples(ratio: float, earliest: float, latest: float) -> None:
    assert opens_between(ratio) == pytest.approx((earliest, latest))


@given(st.floats(1.36, 8.0), st.floats(1.001, 1.5))
def test_more_current_never_opens_a_fuse_later(ratio: float, more: float) -> None:
    slower, faster = opens_between(ratio), opens_between(ratio * more)
    assert faster[0] <= slower[0] * (1 + 1e-9) and faster[1] <= slower[1] * (1 + 1e-9)
    assert slower[0] <= slower[1]


def test_a_fuse_says_little_of_power() -> None:
    """80 A of fuses carry 120 A at 1.5 times for seconds: “fuse × volts” would be off by half (common practice)."""
    assert opens_between(1.0) == (math.inf, math.inf)
    assert stress(80.0, 3600.0, 80.0) == 0.0
    earliest, latest = opens_between(1.5)
    assert 0.25 < earliest < 0.75 and 50 < latest < 600
    assert stress(120.0, earliest / 2, 80.0) == pytest.approx(0.5)
    with pytest.raises(ValueError, match="above 0"):
        stress(10.0, 1.0, 0.0)


def test_a_load_warms_towards_watts_times_thermal_resistance_and_cools_again() -> None:
    box = LoadBox(4.0, 500.0, kelvin_per_watt=0.25, joules_per_kelvin=900.0)
    assert box.time_constant == 225.0
    assert box.after(23.0, 400.0, 1e6, 23.0) == pytest.approx(123.0)
    assert box.after(23.0, 400.0, 225.0, 23.0) == pytest.approx(23 + 100 * (1 - math.exp(-1)))
    cooled = box.cooling_seconds(123.0, 60.0, 23.0)
    assert box.after(123.0, 0.0, cooled, 23.0) == pytest.approx(60.0)
    assert box.cooling_seconds(50.0, 60.0, 23.0) == 0.0
    assert math.isinf(box.cooling_seconds(50.0, 20.0, 23.0))
