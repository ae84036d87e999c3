"""Practice jobs conducted: planted faults, run by the conductor that runs everything else, and sayings measured."""

import math
import threading
from collections.abc import Mapping, Sequence

import numpy as np

from rulvek.bench.before_power import match_gains, measure_loads, zero_clamp
from rulvek.bench.conductor import Conducted, PointRead, Prepared, RunEvent, RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.planted import PlantedBench
from rulvek.bench.sim.sayings import measured
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.method.profile import MethodProfile
from rulvek.core.practice.faults import Fault
from rulvek.core.practice.scenarios import Job, Scenario
from rulvek.core.practice.sheet import Before, Claim, ReadBy, RunSheet, Sheet, SweepPoint
from rulvek.core.readings.point import Load
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.settings import limit_ratio

__all__ = ["conducted", "measured"]

LEVEL_UP_DB = 18.0
BESIDE_HZ: Mapping[bool, float] = {True: 100.0, False: 315.0}
"""Where gains are looked at besides the test's tone: for bass, and for the full range."""
FUSES = (10.0, 15.0, 20.0, 25.0, 30.0, 40.0)
FUSED_FOR_EFFICIENCY = 0.8
LEAST_CLAIM_WATTS = 20.0


def conducted(scenario: Scenario) -> Sheet:
    """Conduct a job, and put down what somebody sees of it."""
    job, faults, links = scenario.job, scenario.faults, scenario.links
    bench, method = PlantedBench(scenario), MethodProfile()
    wired = tuple(Connection(tuple(one), job.load_ohms) for one in links)
    indicated = zero_clamp(bench, wired)
    loads = measure_loads(bench, wired)
    gains, beside = (_gains(bench, job, method, hz) for hz in (job.tone_hz, BESIDE_HZ[job.is_bass]))
    bench.heat()
    zero = 0.0 if Fault.CLAMP_NOT_ZEROED in faults else indicated
    runs, begins = [], []
    for mode in job.modes:
        done, events = _run(bench, scenario, method, mode, wired, loads, zero)
        begins += [event for event in events if isinstance(event, Prepared)]
        runs.append(_sheet_of(done, events, mode, job, links, Fault.CLIPPED_PEAK in faults))
    before = Before(
        clamp_indicates=indicated,
        clamp_zero=zero,
        loads=loads,
        loads_after=bench.loads.measured(),
        tone_hz=job.tone_hz,
        gains_db=gains,
        beside_hz=BESIDE_HZ[job.is_bass],
        beside_db=beside,
        start_volts=begins[0].start_volts,
        sink_c=begins[0].sink_c,
    )
    claim = _claim(scenario, runs[0])
    fuses = _fuses(runs[0], job)
    return Sheet(claim, _note(scenario, fuses, claim), fuses, before, tuple(runs))


def _gains(bench: PlantedBench, job: Job, method: MethodProfile, hz: float) -> dict[int, float]:
    """Channel by channel, also of those that are bridged or not driven later."""
    group = DESIGNS[job.design].groups[0]
    single = tuple(Connection((channel,), job.load_ohms) for channel in group.channels)
    found = match_gains(
        bench,
        single,
        single,
        hz=hz,
        sensitivity_dbv=group.full_output_dbv,
        supply_volts=job.supply_volts,
        policy=job.policy,
        method=method,
    )
    return found.gains_db


def _run(
    bench: PlantedBench,
    scenario: Scenario,
    method: MethodProfile,
    mode: Mode,
    wired: tuple[Connection, ...],
    loads: dict[int, Load],
    zero: float,
) -> tuple[Conducted, list[RunEvent]]:
    job = scenario.job
    up = LEVEL_UP_DB if Fault.LEVEL_UP in scenario.faults else 0.0
    setup = RunSetup(
        under_test=wired,
        companions=(),
        tone_hz=job.tone_hz,
        companion_tone_hz=job.tone_hz,
        supply_volts=job.supply_volts,
        sensitivity_dbv=DESIGNS[job.design].groups[0].full_output_dbv + up,
        method=method,
        mode=mode,
        burst=method.burst_of(job.is_bass) if mode is Mode.BURST else None,
        policy=job.policy,
        clamp_zero_amps=zero,
        loads=loads,
    )
    events: list[RunEvent] = []
    at_once = threading.Event()  # who practises does not wait for anything to cool
    at_once.set()
    return conduct(bench, setup, events.append, hurry=at_once), events


def _sheet_of(
    done: Conducted, events: Sequence[RunEvent], mode: Mode, job: Job, links: Sequence[tuple[int, ...]], by_peak: bool
) -> RunSheet:
    outcome, capture = done.outcome, done.reading_capture
    reading = (outcome.largest if mode is Mode.BURST else None) or outcome.reading
    channels = reading.channels if reading else ()
    outputs = capture.outputs() if capture is not None else {}
    peaks = {one.channel: float(np.abs(outputs[one.channel]).max()) for one in channels if one.channel in outputs}
    watts = {one.channel: one.watts for one in channels}
    if by_peak:
        watts = {number: peak**2 / (2 * job.load_ohms) for number, peak in peaks.items()}
    return RunSheet(
        mode=mode,
        sweep=tuple(SweepPoint(e.point, e.phase, e.over_limit) for e in events if isinstance(e, PointRead)),
        tone_hz=job.tone_hz,
        driven=tuple(channel for link in links for channel in link),
        outcome=outcome,
        capture=capture,
        read_by=ReadBy.PEAK if by_peak else ReadBy.RMS,
        read_watts=watts,
        peak_volts=peaks,
        limit_percent=100 * limit_ratio(MethodProfile(), mode),
    )


def _claim(scenario: Scenario, run: RunSheet) -> Claim:
    job = scenario.job
    watts = _rounded(max(LEAST_CLAIM_WATTS, scenario.claim_share * min(run.read_watts.values(), default=0.0)))
    if Fault.MAXIMUM_QUOTED in scenario.faults:
        most = _rounded(watts * len(job.links) * 2)
        return Claim(f"{most:g} W MAX", most, None)
    each = "per pair" if job.bridged else "per channel"
    percent = 100 * limit_ratio(MethodProfile(), job.modes[0])
    at = "on a bank" if job.policy is SupplyPolicy.BANK else f"at {job.supply_volts:g} V"
    words = f"{watts:g} W {each} into {job.load_ohms:g} Ω {at}, {percent:g} % THD+N, all channels driven"
    return Claim(words, watts, job.load_ohms)


def _rounded(watts: float) -> float:
    """To two digits, as documents have it."""
    digits = 1 - math.floor(math.log10(watts))
    return round(watts, digits)


def _fuses(run: RunSheet, job: Job) -> tuple[float, ...]:
    """Two alike that carry what such a unit draws."""
    point = run.reading
    watts = sum(one.watts for one in point.channels) if point else 0.0
    amps = watts / FUSED_FOR_EFFICIENCY / job.supply_volts
    return (next((one for one in FUSES if 2 * one >= amps), FUSES[-1]),) * 2


def _note(scenario: Scenario, fuses: Sequence[float], claim: Claim) -> str:
    if Fault.FUSES_FOR_POWER not in scenario.faults:
        return ""
    amps, volts = sum(fuses), scenario.job.supply_volts
    return f"Late shift: {amps:g} A of fuses × {volts:g} V are {amps * volts:.0f} W, so {claim.watts:g} W are backed."
