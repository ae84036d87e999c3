"""One run on a simulated amplifier that somebody describes, without records."""

import re
from dataclasses import dataclass, field
from typing import Any

from rulvek.bench.conductor import Conducted, RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.design import AmplifierDesign
from rulvek.bench.sim.supply import BankDesign, RegulatedDesign, capacitor_bank
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.point import Point
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.requests import Outcome

CAPACITOR_OHMS = 0.002
AH_COULOMBS = 3600.0
FINE_BRACKET_DB = 0.01  # nobody waits for these steps, and the usual 0.05 dB may keep half a percent of a reading


@dataclass(frozen=True, slots=True)
class Trial:
    """What is tried: a group of a design in a mode, at a load per channel, or across pairs where ``bridged``.

    A proof holds ``watts``. ``bank`` is a capacitor bank ("2 F") or a battery bank ("100 Ah") that starts full; else
    ``supply_volts`` are held.
    """

    design: AmplifierDesign
    mode: Mode
    load_ohms: float
    group: int = 1
    bridged: bool = False
    tone_hz: float = 1000.0
    burst: str = ""
    supply_volts: float = 14.4
    bank: str = ""
    seed: int = 1
    watts: float | None = None
    method: MethodProfile = field(default_factory=lambda: MethodProfile(bracket_db=FINE_BRACKET_DB))


def run_trial(trial: Trial) -> Outcome:
    """What comes of it; raises as :func:`conduct_trial` does."""
    return conduct_trial(trial).outcome


def conduct_trial(trial: Trial) -> Conducted:
    """Conduct it on a bench that does not wait, whose instruments are exact: what is asked about is the amplifier.

    Raises:
        BadInput: no such group or burst, a group that cannot be bridged, a bank that is none, a proof of nothing.
    """
    groups = trial.design.groups
    if not 1 <= trial.group <= len(groups):
        raise BadInput(f"There is no group {trial.group}; the amplifier has {len(groups)}.", field="group")
    group = groups[trial.group - 1]
    supply = _bank(trial.bank, trial.supply_volts) if trial.bank else RegulatedDesign()
    bench = SimulatedBench(trial.design, f"trial {trial.seed}", supply=supply, exact=True)
    channels = group.channels
    if trial.bridged and len(channels) % 2:
        raise BadInput(f"A group of {len(channels)} cannot be bridged in pairs.", field="bridged")
    tested = list(zip(channels[::2], channels[1::2], strict=True)) if trial.bridged else [(one,) for one in channels]
    if (trial.mode is Mode.PROOF) != (trial.watts is not None):
        raise BadInput("A proof needs the watts to be held, and only a proof has them.", field="watts")
    method = trial.method
    burst = None
    if trial.mode is Mode.BURST:
        burst = method.burst_named(trial.burst, trial.tone_hz) if trial.burst else method.burst_of(trial.tone_hz < 200)
    setup = RunSetup(
        under_test=tuple(Connection(tuple(pair), trial.load_ohms) for pair in tested),
        companions=(),
        tone_hz=trial.tone_hz,
        companion_tone_hz=trial.tone_hz,
        supply_volts=trial.supply_volts,
        sensitivity_dbv=group.full_output_dbv,
        method=method,
        mode=trial.mode,
        burst=burst,
        target_watts=trial.watts,
        policy=SupplyPolicy.BANK if trial.bank else SupplyPolicy.HELD,
    )
    return conduct(bench, setup, lambda _event: None)


def _bank(words: str, volts: float) -> BankDesign:
    found = re.fullmatch(r"\s*([0-9]+(?:\.[0-9]+)?)\s*(F|Ah)\s*", words)
    if found is None or float(found[1]) <= 0:
        raise BadInput(
            f"A bank is so many farads or ampere-hours, like “2 F” or “100 Ah”, not “{words}”.", field="bank"
        )
    if found[2] == "F":
        return capacitor_bank(float(found[1]), volts, CAPACITOR_OHMS)
    return BankDesign(coulombs=float(found[1]) * AH_COULOMBS)


def outcome_data(outcome: Outcome) -> dict[str, Any]:
    """An outcome as plain values: watts and percent by channel, volts, amps, dB."""
    reading = outcome.reading
    return {
        "end": outcome.end.value,
        "watts": [one.watts for one in reading.channels] if reading else [],
        "thd_n_percent": [_percent(one.thd_n) for one in reading.channels] if reading else [],
        "no_reading": outcome.why_none,
        "band_high_hz": reading.band_high_hz if reading else None,
        "bracket_db": outcome.bracket_db,
        "supply_volts": reading.supply_volts if reading else None,
        "supply_amps": reading.supply_amps if reading else None,
        "tripped_watts": outcome.tripped_watts,
        "largest_watts": outcome.largest.weakest_watts if outcome.largest else None,
        "onset_watts": reading.weakest_watts if reading and outcome.largest else None,
        "points": [_point_data(point) for point in outcome.points],
    }


def _point_data(point: Point) -> dict[str, Any]:
    return {
        "level_dbv": point.level_dbv,
        "watts": [one.watts for one in point.channels],
        "thd_n_percent": [_percent(one.thd_n) for one in point.channels],
        "supply_volts": point.supply_volts,
        "supply_amps": point.supply_amps,
    }


def _percent(ratio: float | None) -> float | None:
    return None if ratio is None else 100 * ratio
