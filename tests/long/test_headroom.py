"""What the simulated amplifiers have in reserve, as practice finds it (common practice, no source)."""

from dataclasses import replace

import pytest

from rulvek.bench.conductor import RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.design import AmplifierDesign
from rulvek.bench.sim.supply import BankDesign
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import SWEEPS, Mode
from rulvek.core.signals.power import ratio_db

pytestmark = pytest.mark.long
WEAK = BankDesign(internal_ohms=0.003, slow_ohms=0.015, slow_seconds=4.0)
"""Batteries that give way over seconds: what a burst is over before."""
METHOD = MethodProfile()


def weakest(design: AmplifierDesign, mode: Mode, ohms: float, supply: BankDesign | None = WEAK) -> float:
    group = design.groups[0]
    hz = 40.0 if len(group.channels) == 1 else 1000.0
    setup = RunSetup(
        under_test=tuple(Connection((channel,), ohms) for channel in group.channels),
        companions=(),
        tone_hz=hz,
        companion_tone_hz=40.0,
        supply_volts=14.4,
        sensitivity_dbv=0.0,
        mode=mode,
        burst=METHOD.burst_of(hz < 100) if mode is Mode.BURST else None,
        policy=SupplyPolicy.BANK if supply is WEAK else SupplyPolicy.HELD,
    )
    outcome = conduct(SimulatedBench(design, "H-1", supply=supply), setup, lambda _event: None).outcome
    assert outcome.reading is not None
    return outcome.reading.weakest_watts


@pytest.mark.parametrize("name", ["two-ab", "four-d", "mono-d", "five-d", "four-ab-regulated"])
def test_headroom_on_a_weak_supply(name: str) -> None:
    regulated = DESIGNS[name].groups[0].regulated_down_to is not None
    headroom = []
    for ohms in (4.0, 2.0):
        certified, uncertified, burst = (weakest(DESIGNS[name], mode, ohms) for mode in SWEEPS)
        assert 0.5 <= ratio_db(uncertified, certified) <= 1.5
        headroom.append(ratio_db(burst, certified))
    assert headroom[1] > headroom[0]
    if regulated:
        assert max(headroom) <= 0.1
    else:
        assert all(0.18 <= db <= 1.9 for db in headroom)


SOFT = [("two-ab", 0.9, 0.01), ("four-d", 0.4, 0.02), ("mono-d", 0.5, 0.3)]


@pytest.mark.parametrize(("name", "ohms", "farads"), SOFT)
def test_a_soft_converter_has_headroom_on_a_stiff_supply_too(name: str, ohms: float, farads: float) -> None:
    """Its rails fall under a steady tone whatever the battery does; a burst is over before they do."""
    whole = DESIGNS[name]
    group = replace(whole.groups[0], converter_ohms=ohms, rail_farads=farads)
    soft = replace(whole, groups=(group, *whole.groups[1:]))
    headroom = [
        ratio_db(weakest(soft, Mode.BURST, load, None), weakest(soft, Mode.CERTIFIED, load, None))
        for load in (4.0, 2.0)
    ]
    assert 0.2 <= headroom[0] < headroom[1] <= 1.9
