"""Networks of dummy loads: by circuit theory, each once, and none forgotten."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.electrical.loads import LoadBox
from rulvek.core.electrical.networks import LoadNetwork, networks
from tests.examples import examples


def test_boxes_are_combined_by_circuit_theory() -> None:
    eight, four, two = LoadBox(8.0, 500.0, 2), LoadBox(4.0, 600.0, 3), LoadBox(2.0, 900.0, 1)
    best = networks([eight, four, two], 4.0)
    assert best[0].boxes == (four,) and best[0].how == "single"
    parallel = next(n for n in best if n.boxes == (eight, eight))
    assert parallel.ohms == pytest.approx(4.0) and parallel.watts == pytest.approx(1000.0)
    third = networks([eight, four, two], 8 / 3)[0]
    assert third.ohms == pytest.approx(8 / 3) and third.how == "8 Ω + 4 Ω in parallel"
    # The common voltage heats the lower resistance more: 4 Ω takes two thirds, so 600 W of it stand for 900 W.
    assert third.watts == pytest.approx(900.0)
    series = next(n for n in networks([four, two], 6.0) if n.how == "4 Ω + 2 Ω in series")
    assert series.watts == pytest.approx(600 * 6 / 4)
    assert networks([two], 1.0) == []  # there is only one of it
    assert networks([eight, four, two], 0.37) == []


def test_mixed_networks_share_the_power_by_circuit_theory() -> None:
    """Two 4 Ω in series (8 Ω) beside 8 Ω: 4 Ω; the pair takes half of the power, each of it a quarter."""
    four, eight = LoadBox(4.0, 100.0, 2), LoadBox(8.0, 300.0, 1)
    mixed = next(n for n in networks([four, eight], 4.0, 3) if n.pieces == 3)
    assert mixed.how == "8 Ω + (4 Ω + 4 Ω in series) in parallel"
    assert dict(mixed.shares(200.0)) == {eight: 100.0, four: 50.0}
    assert mixed.watts == pytest.approx(400.0)  # the 4 Ω boxes are at 100 W each then


@pytest.mark.parametrize(("pieces", "count"), [(1, 1), (2, 2), (3, 4), (4, 10), (5, 24)])
def test_of_equal_resistors_there_are_as_many_networks_as_the_handbooks_count(pieces: int, count: int) -> None:
    """Unlabelled series-parallel networks of n equal resistors: 1, 2, 4, 10, 24 (OEIS A000084, from memory)."""
    shelf = [LoadBox(1.0, 10.0, pieces)]
    found = [n for n in networks(shelf, 1.0, pieces, tolerance=1e9) if n.pieces == pieces]
    assert len(found) == count


@given(
    values=st.lists(st.tuples(st.sampled_from([1.0, 2.0, 4.0, 8.0]), st.floats(50, 500)), min_size=1, max_size=3),
    watts=st.floats(1, 1000),
)
@examples(40)
def test_no_box_is_over_its_limit_and_no_power_is_lost(values: list[tuple[float, float]], watts: float) -> None:
    shelf = [LoadBox(ohms, limit, 2) for ohms, limit in values]
    for network in networks(shelf, 4.0, 3, tolerance=10.0):
        assert sum(share for _, share in network.shares(watts)) == pytest.approx(watts)
        full = network.shares(network.watts)
        assert max(share / box.watts for box, share in full) == pytest.approx(1.0)
        assert resistance(network) == pytest.approx(network.ohms)


def resistance(network: LoadNetwork) -> float:
    """From the currents at 1 V, by Kirchhoff's laws over the tree."""
    if network.box is not None:
        return network.box.ohms
    parts = [resistance(part) for part in network.parts]
    return sum(parts) if network.kind == "series" else 1 / sum(1 / part for part in parts)


def test_a_search_has_its_limits() -> None:
    with pytest.raises(ValueError, match="pieces"):
        networks([LoadBox(4.0, 100.0)], 4.0, 6)


def impedance(network: LoadNetwork, omega: float) -> complex:
    """Of the whole, by complex numbers; each box is its ohms with its inductance in series."""
    if network.box is not None:
        return complex(network.box.ohms, omega * 1e-6 * (network.box.inductance_uh or 0.0))
    parts = [impedance(part, omega) for part in network.parts]
    return sum(parts) if network.kind == "series" else 1 / sum(1 / part for part in parts)


@pytest.mark.parametrize("wanted", [16.0, 8.0, 4.0, 8 / 3, 6.0, 5.0])
def test_the_inductance_of_a_network_is_that_of_its_impedance(wanted: float) -> None:
    """At 1 kHz, where ωL is a thousandth of R or so: what is left out is of its square."""
    shelf = [LoadBox(8.0, 500.0, 2, inductance_uh=9.0), LoadBox(4.0, 600.0, 2, inductance_uh=2.0)]
    omega = 2 * math.pi * 1000.0
    found = networks(shelf, wanted, 4, tolerance=0.3)
    assert found
    for network in found:
        assert network.inductance_uh == pytest.approx(1e6 * impedance(network, omega).imag / omega, rel=1e-3)
    unknown = [*shelf[:1], LoadBox(4.0, 600.0, 2)]
    assert {n.inductance_uh for n in networks(unknown, 12.0)} == {None}  # of one box nobody knows it


@pytest.mark.parametrize("wanted", [16.0, 8.0, 4.0, 8 / 3, 6.0, 5.0])
def test_a_network_drifts_as_its_warm_boxes_make_up(wanted: float) -> None:
    """Beside the same network put together of the boxes as they measure 100 K warmer."""
    shelf = [
        LoadBox(8.0, 500.0, 2, cold_ohms=8.0, warm_ohms=8.024, warm_c=123.0),
        LoadBox(4.0, 600.0, 2, cold_ohms=4.0, warm_ohms=3.996, warm_c=123.0),
    ]

    def warm(network: LoadNetwork) -> float:
        if network.box is not None:
            assert network.box.warm_ohms is not None
            return network.box.warm_ohms
        parts = [warm(part) for part in network.parts]
        return sum(parts) if network.kind == "series" else 1 / sum(1 / part for part in parts)

    found = networks(shelf, wanted, 4, tolerance=0.3)
    assert found
    for network in found:
        drift = 1e6 * (warm(network) / network.ohms - 1) / (123.0 - 23.0)
        assert network.ppm_per_kelvin == pytest.approx(drift, abs=0.1)  # of 30 and -10
    unknown = [*shelf[:1], LoadBox(4.0, 600.0, 2, cold_ohms=4.0)]
    assert {n.ppm_per_kelvin for n in networks(unknown, 12.0)} == {None}  # of one box nobody knows it


def test_a_network_takes_for_ever_what_its_duty_leaves() -> None:
    """8 Ω and 4 Ω in parallel take a third and two thirds; the 4 Ω may be at its 600 W for a tenth of the time."""
    shelf = [LoadBox(8.0, 500.0, 1), LoadBox(4.0, 600.0, 1, duty=0.1)]
    third = networks(shelf, 8 / 3)[0]
    assert (third.watts, third.steady_watts) == (pytest.approx(900.0), pytest.approx(90.0))
