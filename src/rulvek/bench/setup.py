"""What the conductor needs of a run, from its campaign as it is on record."""

import math

from rulvek.bench.conductor import RunSetup
from rulvek.core.readings.point import Load
from rulvek.core.records.before_power import clamp_zero_amps, loads_were_measured
from rulvek.core.records.campaigns import Campaign, Run
from rulvek.core.records.product import Model
from rulvek.core.records.standing import certified_level_dbv
from rulvek.core.runs.modes import Mode


def run_setup(campaign: Campaign, run: Run, model: Model) -> RunSetup:
    """A planned run with what was seen to before power.

    Loads are measured afresh once somebody has measured them; nominal and doubtful where that was skipped.
    """
    method, spec, seen = campaign.method, run.spec, campaign.seen_to(run.wiring_key)
    doubtful = 2 * method.load_tolerance_percent / 100
    levels = {link.number: certified_level_dbv(campaign, link, spec.supply_volts) for link in run.companions}
    nominal = {link.number: Load(link.nominal_ohms, link.nominal_ohms, doubtful) for link in run.wired}
    return RunSetup(
        under_test=run.under_test,
        companions=run.companions,
        tone_hz=spec.tone_hz,
        # Companions of a bass group are full-range channels, and the other way round.
        companion_tone_hz=method.tone_of(not model.product.group(spec.group).bass),
        supply_volts=spec.supply_volts,
        sensitivity_dbv=20 * math.log10(model.sensitivity_volts),
        method=method,
        mode=spec.mode,
        burst=method.burst_named(spec.burst, spec.tone_hz) if spec.mode is Mode.BURST else None,
        policy=campaign.policy,
        target_watts=spec.watts,
        clamp_zero_amps=clamp_zero_amps(seen),
        loads=None if loads_were_measured(seen) else nominal,
        companion_levels_dbv={
            number: level - method.companion_below_db for number, level in levels.items() if level is not None
        },
    )
