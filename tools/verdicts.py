"""Whole simulated units, conducted and judged: how often is a verdict wrong? Part of ``make bench``.

Each unit is a clipper whose limit power has a closed form: 1 % THD+N at so many times the power of the full sine that
its rails allow. Rails, losses, output resistance, channels, tone, supply and claim are drawn at random.
"""

import math
import os
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from clipper import closed_form

from rulvek.bench.conductor import Prepared, RunEvent, RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.design import AmplifierDesign, GroupDesign
from rulvek.core.judgement.evidence import Evidence
from rulvek.core.judgement.uncertainty import Meters
from rulvek.core.judgement.verdict import Verdict, VerdictOutcome, judge
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim
from rulvek.core.records.instruments import Specification

METHOD = MethodProfile(settle_seconds=0.1, capture_seconds=0.05, dwell_seconds=0.1)
METERS = Meters(
    Specification("output", percent_of_reading=0.05),
    Specification("supply", percent_of_reading=0.1),
    Specification("loads", percent_of_reading=0.3),
)
"""What the simulated bench's instruments err by at the most."""
OHMS, RATED = 4.0, 14.4
AT_A_TIME = 25


@dataclass(frozen=True, slots=True)
class Judged:
    """One verdict beside the truth, in watts of the weakest channel at the claim's conditions."""

    truth: float
    claimed: float
    verdict: Verdict

    @property
    def wrong(self) -> bool:
        """Whether it says the opposite of the truth."""
        lies_below = self.truth < self.claimed
        return self.verdict.outcome is (VerdictOutcome.PASSES if lies_below else VerdictOutcome.FAILS)

    @property
    def backed_beyond_u(self) -> bool:
        """Whether it backs a claim that lies above the truth by more than U."""
        passes = self.verdict.outcome is VerdictOutcome.PASSES
        return passes and self.truth + (self.verdict.expanded_watts or 0.0) < self.claimed


def one(seed: int) -> Judged:
    """Draw a unit and a claim, conduct a run, judge the claim."""
    rng = np.random.default_rng(seed)
    regulated, channels = bool(rng.integers(2)), int(rng.integers(1, 3))
    rail, lost, output_ohms = rng.uniform(18, 45), rng.uniform(0, 3), rng.uniform(0.01, 0.25)
    group = GroupDesign(
        channels=tuple(range(1, channels + 1)),
        topology="AB",
        gain=20.0,
        rail_volts=rail,
        converter_ohms=1e-4,
        output_ohms=output_ohms,
        trip_amps=1000.0,
        regulated_down_to=11.0 if regulated else None,
        lost_volts=lost,
        knee=1024,
        curvature=0.0,
    )
    design = AmplifierDesign((group,), part_spread=0.0, trip_input_amps=1e5, sink_joules_per_kelvin=1e6)
    tone = float(rng.choice([40.0, 100.0, 1000.0, 3000.0]))
    volts = float(
        RATED + rng.choice([0.0, 0.0, rng.uniform(-0.09, 0.09), rng.uniform(-1.2, -0.2), rng.uniform(0.2, 0.8)])
    )
    peak = (rail - lost) * OHMS / (OHMS + output_ohms)
    truth = closed_form(0.01, min(999, math.floor(METHOD.band_high_hz / tone))) * peak**2 / 2 / OHMS
    setup = RunSetup(
        under_test=tuple(Connection((channel,), OHMS) for channel in group.channels),
        companions=(),
        tone_hz=tone,
        companion_tone_hz=40.0,
        supply_volts=volts,
        sensitivity_dbv=20 * math.log10(rail / math.sqrt(2) / 20.0),
        method=METHOD,
    )
    claim = Claim("Manual", "main", truth * (1 + 0.06 * rng.uniform(-1, 1)), OHMS, supply_volts=RATED, id=1)
    prepared: list[Prepared] = []

    def keep(event: RunEvent) -> None:
        if isinstance(event, Prepared):
            prepared.append(event)

    outcome = conduct(SimulatedBench(design, f"V-{seed}"), setup, keep).outcome
    reading = outcome.reading
    assert reading is not None and reading.supply_volts is not None
    weakest = min(reading.channels, key=lambda channel: channel.watts)
    evidence = Evidence(
        attempt_id=1,
        group="main",
        load_ohms=OHMS,
        bridged=False,
        tone_hz=tone,
        watts=tuple(channel.watts for channel in reading.channels),
        channel_thd_n=tuple(channel.thd_n for channel in reading.channels),
        supply_volts=reading.supply_volts,
        all_driven=True,
        end=outcome.end,
        thd_n=reading.worst_thd_n,
        bracket_db=outcome.bracket_db,
        load_tolerance=0.01,
        meters=METERS,
        measured_ohms=prepared[0].loads[weakest.channel].measured_ohms,
        method=METHOD,
    )
    return Judged(truth, claim.watts, judge(claim, [evidence], METHOD))


def several(seeds: Sequence[int]) -> list[Judged]:
    """One after the other."""
    return [one(seed) for seed in seeds]


def judged(count: int, first: int = 1) -> list[Judged]:
    """So many units, on all cores."""
    seeds = [range(at, min(at + AT_A_TIME, first + count)) for at in range(first, first + count, AT_A_TIME)]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        return [each for some in pool.map(several, seeds) for each in some]
