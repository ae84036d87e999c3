"""Before power: the clamp's zero, the loads, the gains and their source level, the start window."""

import math

import pytest

from rulvek.bench.before_power import match_gains, measure_loads, out_of_window, power_up, zero_clamp
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.supply import BankDesign
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.method.profile import MethodProfile

METHOD = MethodProfile()
LINKS = (Connection((1,), 4.0), Connection((2,), 4.0))


def gains(bench: SimulatedBench):  # type: ignore[no-untyped-def]
    return match_gains(
        bench,
        LINKS,
        LINKS,
        hz=1000.0,
        sensitivity_dbv=0.0,
        supply_volts=14.4,
        policy=SupplyPolicy.HELD,
        method=METHOD,
    )


def test_gains_apart_are_found_and_turned() -> None:
    bench = SimulatedBench(DESIGNS["two-ab-mismatched"], "G-1")
    found = gains(bench)
    # 0.9 dB between the controls, and up to 0.08 dB either way between the parts (both from the design)
    assert found.worst_db == pytest.approx(0.9, abs=0.18)
    assert sum(found.deviations_db.values()) == pytest.approx(0.0, abs=1e-9)
    for channel, deviation in found.deviations_db.items():
        bench.turn_gain(channel, -deviation)
    assert gains(bench).worst_db < 0.02
    assert not bench.amplifier.powered and bench.is_muted


def test_the_source_level_for_full_output_and_an_overlap() -> None:
    """17 V into 4 Ω is 72 W (common practice); a gain of 25.5 needs 17 / 25.5 V, −3.52 dBV, and the overlap on top."""
    found = gains(SimulatedBench(DESIGNS["two-ab"], "G-2"))
    loudest = max(found.gains_db.values())
    assert loudest == pytest.approx(20 * math.log10(25.5), abs=0.25)  # less what the output resistance takes
    assert found.source_dbv(17.0, 0.0) == pytest.approx(20 * math.log10(17.0) - loudest)
    assert found.source_dbv(17.0, 10.0) - found.source_dbv(17.0, 0.0) == pytest.approx(10.0)


def test_the_clamp_is_zeroed_on_the_connected_idle_bench() -> None:
    bench = SimulatedBench(DESIGNS["two-ab"], "C-1", supply=BankDesign(clamp_zero_amps=-2.3))
    assert zero_clamp(bench, LINKS) == pytest.approx(-2.3, abs=0.1)
    loads = measure_loads(bench, LINKS)
    assert set(loads) == {1, 2} and all(abs(load.measured_ohms / 4.0 - 1) < 0.02 for load in loads.values())


def test_start_windows_of_a_held_supply_and_of_a_bank() -> None:
    held = SimulatedBench(DESIGNS["two-ab"], "V-1")
    held.connect(LINKS)
    power_up(held, 14.4, SupplyPolicy.HELD)
    assert out_of_window(held, 14.4, SupplyPolicy.HELD, METHOD) is None
    outside = out_of_window(held, 13.8, SupplyPolicy.HELD, METHOD)
    assert outside is not None and outside.what == "supply" and outside.value == pytest.approx(14.4, abs=0.05)
    floating = SimulatedBench(DESIGNS["two-ab"], "V-2", supply=BankDesign(open_volts=((0.0, 15.7), (1.0, 15.8))))
    floating.connect(LINKS)
    power_up(floating, 15.0, SupplyPolicy.BANK)
    high = out_of_window(floating, 15.0, SupplyPolicy.BANK, METHOD)
    assert high is not None and (high.low, high.high) == (12.0, 15.5)  # common practice for 12 V class units
