"""Supplies: a capacitor bank against the closed form, a battery bank's recovery, a charger past the clamp."""

import math

import pytest

from rulvek.bench.conductor import RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS, equipment
from rulvek.bench.sim.supply import BankDesign, BankSupply, RegulatedDesign, RegulatedSupply, capacitor_bank
from rulvek.core.electrical.cables import Cable
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.point import Point
from rulvek.core.runs.modes import End

QUICK = MethodProfile(settle_seconds=0.1, capture_seconds=0.05, dwell_seconds=0.2)


def test_a_capacitor_bank_at_constant_current() -> None:
    """V(t) = V0 − I·t/C − I·R (definition of capacitance)."""
    bank = BankSupply(capacitor_bank(500.0, 15.0, 0.002))
    for _ in range(1000):
        bank.step(100.0, 0.01)
    assert bank.terminal_volts(100.0) == pytest.approx(15.0 - 100 * 10 / 500 - 100 * 0.002)
    assert bank.terminal_volts(0.0) == pytest.approx(13.0)


def test_a_capacitor_bank_through_a_resistor() -> None:
    """V(t) = V0·exp(−t / RC), the closed form of an RC discharge."""
    farads, ohms, seconds, step = 200.0, 0.15, 20.0, 0.002
    bank = BankSupply(capacitor_bank(farads, 15.0, 0.0))
    for _ in range(round(seconds / step)):
        bank.step(bank.terminal_volts(0.0) / ohms, step)
    assert bank.terminal_volts(0.0) == pytest.approx(15.0 * math.exp(-seconds / (ohms * farads)), rel=1e-4)


def test_a_battery_bank_sags_at_once_then_slowly_and_recovers() -> None:
    design = BankDesign(cable=Cable("2/0", 1.5))
    bank = BankSupply(design)
    rested = bank.terminal_volts(0.0)
    assert rested == pytest.approx(15.0)
    at_once = rested - bank.terminal_volts(100.0)
    assert at_once == pytest.approx(100 * (design.internal_ohms + design.cable.ohms))
    bank.step(100.0, 1000 * design.slow_seconds)
    assert bank.charge == 0  # 100 A for 8000 s are far more than it holds
    assert bank.open_circuit_volts() == pytest.approx(12.6)
    bank = BankSupply(design)
    bank.step(100.0, 3 * design.slow_seconds)
    sagged = bank.terminal_volts(100.0)
    charge_drop = 15.0 - bank.open_circuit_volts()
    slow = 100 * design.slow_ohms * (1 - math.exp(-3))
    assert sagged == pytest.approx(15.0 - charge_drop - slow - at_once)
    bank.step(0.0, 10 * design.slow_seconds)
    assert bank.terminal_volts(0.0) == pytest.approx(15.0 - charge_drop, abs=1e-3)  # what is drawn stays drawn


def test_open_circuit_volts_follow_the_state_of_charge() -> None:
    bank = BankSupply(BankDesign(open_volts=((0.0, 11.0), (0.5, 12.5), (1.0, 13.0)), coulombs=1000.0))
    for charge, volts in ((1.0, 13.0), (0.75, 12.75), (0.25, 11.75), (0.0, 11.0)):
        bank.charge = charge
        assert bank.open_circuit_volts() == pytest.approx(volts)
    bank.set_volts(14.4)
    assert bank.open_circuit_volts() == pytest.approx(11.0)  # there is nothing to set


def test_a_charger_past_the_clamp_makes_it_read_too_low() -> None:
    fed = BankSupply(BankDesign(charger_amps=30.0, charger_past_clamp=True))
    assert fed.clamp_amps(100.0) == 100.0  # a full bank takes no charge
    fed.step(100.0, 1.0)
    assert fed.clamp_amps(100.0) == 70.0
    honest = BankSupply(BankDesign(charger_amps=30.0))
    honest.step(100.0, 1.0)
    assert honest.clamp_amps(100.0) == 100.0
    alone = BankSupply(BankDesign())
    alone.step(100.0, 1.0)
    gained = honest.terminal_volts(100.0) - alone.terminal_volts(100.0)
    assert gained == pytest.approx(30 * alone.source_ohms)  # both took the same out; the charger carries 30 A now
    for _ in range(10_000):
        honest.step(0.0, 1.0)
    assert honest.charge == 1.0


def test_cables_only_count_where_nothing_senses_past_them() -> None:
    sensed = RegulatedSupply(RegulatedDesign(internal_ohms=0.001, cable_ohms=0.003))
    blind = RegulatedSupply(RegulatedDesign(internal_ohms=0.001, cable_ohms=0.003, remote_sense=False))
    assert sensed.terminal_volts(100.0) - blind.terminal_volts(100.0) == pytest.approx(0.3)
    assert "sensed at the supply" in blind.name and "remote sense" in sensed.name
    assert "floating bank" in BankSupply().name


def conducted(supply: BankDesign, policy: SupplyPolicy = SupplyPolicy.BANK) -> tuple[End, Point | None, float]:
    bench = SimulatedBench(DESIGNS["four-d"], "S-1", supply=supply)
    links = tuple(Connection((channel,), 2.0) for channel in (1, 2, 3, 4))
    setup = RunSetup(links, (), 1000.0, 40.0, 15.0, 0.0, QUICK, policy=policy)
    starts: list[float] = []
    outcome = conduct(
        bench, setup, lambda e: starts.append(e.start_volts) if hasattr(e, "start_volts") else None
    ).outcome
    return outcome.end, outcome.reading, starts[0]


def test_a_run_on_a_bank_records_volts_before_at_the_reading_and_lowest() -> None:
    end, reading, before = conducted(BankDesign())
    assert end is End.LIMIT and reading is not None
    assert reading.supply_volts is not None and reading.supply_lowest is not None and reading.supply_amps is not None
    assert before == pytest.approx(15.0, abs=0.05)
    assert reading.supply_lowest <= reading.supply_volts < before
    ohms = (before - reading.supply_volts) / reading.supply_amps
    assert (
        equipment("Bench 1").cable.ohms + BankDesign().internal_ohms
        < ohms
        < 3 * (equipment("Bench 1").bank_ohms + equipment("Bench 1").cable.ohms)
    )


def test_a_small_bank_runs_the_supply_low() -> None:
    end, reading, _ = conducted(BankDesign(open_volts=((0.0, 12.2), (1.0, 12.4)), internal_ohms=0.06))
    assert end is End.SUPPLY_LOW
    assert reading is not None and reading.supply_volts is not None and reading.supply_volts < 12.0
