"""A simulated bench with faults planted, for practice."""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rulvek.bench.sim.amplifier import seed_of
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.design import AmplifierDesign
from rulvek.bench.sim.supply import BankDesign, BankSupply, RegulatedDesign
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.practice.faults import Fault
from rulvek.core.practice.scenarios import Job, Scenario
from rulvek.core.signals.capture import SupplyTrace

CLAMP_AMPS = -9.0
BOOST_DB, BOOST_BELOW_HZ = 9.0, 70.0
WRONG_LOAD_SHARE = 0.5
CONTACT_OHMS, WORKED_CONTACT_OHMS = (0.25, 0.35), (0.55, 0.8)
CONTACT_WORKS_ABOVE_WATTS = 10.0
HOT_C = 74.0
FLAT_CHARGE, USED_CHARGE = 0.02, 0.97
CHARGER_AMPS = 14.0
THIN_CABLE_OHMS = 0.03
GAIN_APART_DB = -2.5
HUM_VOLTS = 0.11


class PlantedBench(SimulatedBench):
    """A simulated bench where something is wrong.

    It is on the supply that the job asks for unless another policy is told, and does not wait unless told to.
    """

    def __init__(
        self,
        scenario: Scenario,
        policy: SupplyPolicy | None = None,
        speed: float = math.inf,
        name: str = "Practice bench",
    ) -> None:
        job, faults = scenario.job, scenario.faults
        supply = _supply(policy or job.policy, faults)
        super().__init__(_design(job, faults, scenario.seed), scenario.serial, speed=speed, supply=supply, name=name)
        self._faults = frozenset(faults)
        self._bad_link = 1 + scenario.seed % len(scenario.links)  # a contact that nothing flows through gets no worse
        drawn = np.random.default_rng(seed_of("contact", scenario.serial))
        self._contact, self._worked = drawn.uniform(*CONTACT_OHMS), drawn.uniform(*WORKED_CONTACT_OHMS)
        self.amplifier.bridge_swapped = Fault.BRIDGE_SWAPPED in faults
        if isinstance(self._supply, BankSupply) and Fault.FLAT_BANK in faults:
            self._supply.charge = FLAT_CHARGE
        elif isinstance(self._supply, BankSupply):
            self._supply.charge = USED_CHARGE

    def heat(self) -> None:
        """A unit that somebody ran just before is hot."""
        if Fault.HOT_UNIT in self._faults:
            self.amplifier.temperature_c = HOT_C

    def ohms_now(self) -> dict[int, float]:
        """What the loads have: another value than is planned, or a contact in series that gets worse by working."""
        found = super().ohms_now()
        if Fault.WRONG_LOAD in self._faults:
            found = {number: ohms * WRONG_LOAD_SHARE for number, ohms in found.items()}
        if Fault.BAD_CONTACT in self._faults and self._bad_link in found:
            found[self._bad_link] += self._contact
        return found

    def _play(
        self, samples: int, times: int, goes_on: bool, recorded: bool = True
    ) -> tuple[NDArray[np.float64], SupplyTrace]:
        flat = self._levels
        if Fault.BOOST_ON in self._faults:
            pairs = zip(flat, self._tones, strict=True)
            self._levels = [level + BOOST_DB * (hz < BOOST_BELOW_HZ) for level, hz in pairs]
        try:
            return super()._play(samples, times, goes_on, recorded)
        finally:
            self._levels = flat
            if max(self._load_watts.values(), default=0.0) > CONTACT_WORKS_ABOVE_WATTS:
                self._contact = self._worked


def _design(job: Job, faults: Sequence[Fault], seed: int) -> AmplifierDesign:
    design = DESIGNS["mono-d-switching" if Fault.RAILS_SWITCH in faults else job.design]
    first, *others = design.groups
    if Fault.GAINS_APART in faults:
        apart = tuple(GAIN_APART_DB * (at == seed % len(first.channels)) for at in range(len(first.channels)))
        first = replace(first, gain_offsets_db=apart)
    if Fault.HUM in faults:
        first = replace(first, hum_volts=HUM_VOLTS)
    return replace(design, groups=(first, *others))


def _supply(policy: SupplyPolicy, faults: Sequence[Fault]) -> RegulatedDesign | BankDesign:
    supply: RegulatedDesign | BankDesign = RegulatedDesign()
    if policy is SupplyPolicy.BANK:
        charger = CHARGER_AMPS if Fault.CHARGER_ON in faults else 0.0
        supply = BankDesign(charger_amps=charger, charger_past_clamp=True)
    elif Fault.SENSED_AT_SUPPLY in faults:
        supply = RegulatedDesign(remote_sense=False, cable_ohms=THIN_CABLE_OHMS)
    return replace(supply, clamp_zero_amps=CLAMP_AMPS) if Fault.CLAMP_NOT_ZEROED in faults else supply
