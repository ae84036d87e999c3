"""Readings from a recording: every stretch found in it is read as the bench reads, then one of them stands."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture
from rulvek.core.readings.burst_point import Quiet, read_burst_point
from rulvek.core.readings.point import DEAD_VOLTS, Load, Point, read_point
from rulvek.core.readings.survey import Found, Kind, LongRecord, Section, Survey, Tell
from rulvek.core.runs.modes import End, Mode, limit_end
from rulvek.core.runs.requests import Outcome
from rulvek.core.signals.capture import Capture, Signal, SupplyTrace
from rulvek.core.signals.distortion import Band, analyse_tone, recorded_band
from rulvek.core.signals.power import mean_square, power_from_current, ratio_db

AT_THE_LIMIT_FROM = 0.5  # of the limit: a lone reading above this was taken at the limit
QUIET_DB = 6.0  # a burst so far below another is one to compare it with
_IDLE_SECONDS = 0.05


@dataclass(frozen=True, slots=True)
class Recorded:
    """What a recording gives.

    Attributes:
        found: The sections, in order, with the tone's exact frequency.
        outcome: The end, the reading that stands (its level is the input's in dBV where that was recorded, the
            output's otherwise) and all points, one a section.
        chosen: Which section the reading is of.
        capture: That section's window, to be kept.
        loads: As they were measured: where output amps were recorded, from volts and amps of the reading.
        start_volts: The supply's before the first section; None where there is no idle stretch.
    """

    found: Found
    outcome: Outcome
    chosen: int
    capture: Capture
    loads: Mapping[int, Load]
    start_volts: float | None


def read_recording(
    source: LongRecord,
    seen: Survey,
    found: Found,
    *,
    mode: Mode,
    loads: Mapping[int, Load],
    band: Band,
    limit: float,
    tell: Tell = lambda _done: None,
) -> Recorded:
    """Read every section of a recording, and say which one is the run's reading.

    Args:
        loads: By the channel under test; each must be an output in the recording.
        limit: THD+N limit of the mode, a ratio. A burst is held against it within the burst.

    Raises:
        BadCapture: a channel that is not recorded, bursts where a steady tone is wanted or the reverse, or no section
            that is at or under the limit.
    """
    outputs = {role.channel for role in source.roles if role.quantity == "output_volts"}
    missing = sorted(set(loads) - outputs)
    if missing:
        raise BadCapture(f"Channel {missing[0]} is under test but no column is its output.", field="roles")
    if (mode is Mode.BURST) != (found.kind is Kind.BURSTS):
        holds = {Kind.BURSTS: "bursts", Kind.SWEEP: "a level sweep", Kind.STEADY: "a steady tone"}[found.kind]
        todo = "Take it as a burst run." if found.kind is Kind.BURSTS else "Take it as a certified or uncertified run."
        raise BadCapture(f"The recording holds {holds}, which is no {mode} run.", todo=todo, field="mode")
    found = _with_exact_tone(source, found, sorted(loads), band)
    points, measured = [], []
    for number, section in enumerate(found.sections, 1):
        capture = _capture(source, *section.window)
        own = _measured_loads(capture, loads)
        points.append(_point(capture, found, own, band))
        measured.append(own)
        tell(number / len(found.sections))
    points = [
        replace(point, level_dbv=_level(source, point, s)) for point, s in zip(points, found.sections, strict=True)
    ]
    if found.profile is not None:
        points = _against_the_quietest(source, found, points, measured, band)
    chosen, end, bracket = _standing(points, mode, found, limit)
    largest = max(points, key=lambda point: point.weakest_watts) if mode is Mode.BURST else None
    return Recorded(
        found=found,
        outcome=Outcome(end, points[chosen], bracket, None, tuple(points), largest),
        chosen=chosen,
        capture=_capture(source, *found.sections[chosen].window),
        loads=measured[chosen],
        start_volts=_idle_volts(source, seen, found.sections[0]),
    )


def _with_exact_tone(source: LongRecord, found: Found, channels: list[int], band: Band) -> Found:
    """The tone as the strongest section's own analysis has it; a coarse estimate where that fails."""
    section = found.sections[-1]
    capture = _capture(source, *section.window)
    volts = max((capture.outputs()[channel] for channel in channels), key=mean_square)
    if found.profile is not None:
        lead = section.start - section.window[0]
        volts = volts[lead : lead + section.stop - section.start]
        edge = volts.size // 10  # the burst's edges are known to half a cycle only
        volts = volts[edge : volts.size - edge]
    within = recorded_band(band, found.tone_hz, source.sample_rate)
    _refuse_outside(found.tone_hz, within)
    try:
        hz = analyse_tone(volts, source.sample_rate, band=within, tone_hz=found.tone_hz).fundamental_hz
    except BadCapture:
        hz = found.tone_hz
    _refuse_outside(hz, within)
    profile = found.profile
    if profile is not None:
        profile = replace(profile, hz=hz)
    return replace(found, tone_hz=hz, profile=profile)


def _refuse_outside(hz: float, band: Band) -> None:
    if not band.low_hz <= hz <= band.high_hz:
        raise BadCapture(
            f"The tone of {hz:.4g} Hz lies outside of the band of {band.low_hz:g} to {band.high_hz:g} Hz.", field="file"
        )


def _against_the_quietest(
    source: LongRecord, found: Found, points: list[Point], loads: list[dict[int, Load]], band: Band
) -> list[Point]:
    """Bursts read once more, against the quietest of them where it is far enough below."""
    least = min(range(len(points)), key=lambda i: points[i].level_dbv)
    quiet = Quiet(_capture(source, *found.sections[least].window), None)
    return [
        point
        if point.level_dbv < points[least].level_dbv + QUIET_DB
        else replace(_point(_capture(source, *section.window), found, own, band, quiet), level_dbv=point.level_dbv)
        for point, section, own in zip(points, found.sections, loads, strict=True)
    ]


def _point(capture: Capture, found: Found, loads: Mapping[int, Load], band: Band, quiet: Quiet | None = None) -> Point:
    if found.profile is not None:
        return read_burst_point(capture, level_dbv=0.0, loads=loads, profile=found.profile, band=band, quiet=quiet)
    return read_point(capture, level_dbv=0.0, loads=loads, tone_hz=found.tone_hz, band=band, coherent=False)


def _level(source: LongRecord, point: Point, section: Section) -> float:
    """dBV of the input where it was recorded, else of the strongest output."""
    inputs = [index for index, role in enumerate(source.roles) if role.quantity == "input_volts"]
    volts = max(channel.volts_rms for channel in point.channels)
    if inputs:
        row = source.read(*section.window)[inputs[0]]
        volts = math.sqrt(mean_square(row - row.mean()))
    return 20 * math.log10(max(volts, 1e-6))


def _standing(points: list[Point], mode: Mode, found: Found, limit: float) -> tuple[int, End, float | None]:
    """Which point is the reading, how the run ended, and the bracket in dB of output power.

    The highest level at or under the limit stands, as on the bench. Where nothing above it was recorded, a reading in
    the upper half of the limit counts as taken at it; below that, the recording stopped short.
    """
    alive = [i for i, point in enumerate(points) if all(c.volts_rms >= DEAD_VOLTS for c in point.channels)]
    under = [i for i in alive if points[i].worst_thd_n <= limit]
    if all(math.isinf(points[i].worst_thd_n) for i in alive):
        raise BadCapture("The recording holds no steady tone on every channel that could be followed.", field="file")
    if not under:
        raise BadCapture(
            f"Every stretch of the recording is over {100 * limit:g} % THD+N: it holds no {mode} reading.",
            todo="Record at a lower level too, or take it as another mode.",
            field="mode",
        )
    best = max(under, key=lambda i: points[i].level_dbv)
    over = [i for i in alive if points[i].worst_thd_n > limit and points[i].level_dbv > points[best].level_dbv]
    at_limit = limit_end(mode)
    if not over:
        # Hum and noise are no distortion: a quiet recording that holds much of both stopped short of the limit.
        distortion = max((c.thd_n if c.thd is None else c.thd) or 0.0 for c in points[best].channels)
        return best, at_limit if distortion >= AT_THE_LIMIT_FROM * limit else End.OPERATOR, None
    above = min((points[i] for i in over), key=lambda point: point.level_dbv)
    bracket = ratio_db(max(above.weakest_watts, points[best].weakest_watts), points[best].weakest_watts)
    return best, at_limit, bracket or None


def _measured_loads(capture: Capture, loads: Mapping[int, Load]) -> dict[int, Load]:
    """Loads as the recorded current tells them, ``V² / mean(v·i)``; as given where no current was recorded."""
    outputs = capture.outputs()
    amps = {role.channel: capture.samples[i] for i, role in enumerate(capture.roles) if role.quantity == "output_amps"}
    own = dict(loads)
    for channel, load in loads.items():
        if channel not in amps or not np.any(amps[channel]) or not np.any(outputs[channel]):
            continue
        watts = abs(power_from_current(outputs[channel], amps[channel]).watts)
        if watts > 0:
            own[channel] = replace(load, measured_ohms=mean_square(outputs[channel]) / watts)
    return own


def _capture(source: LongRecord, start: int, stop: int) -> Capture:
    """A stretch as a capture; the supply's columns become its supply trace."""
    rows = source.read(start, stop)
    supply: dict[str, NDArray[np.float64]] = {
        role.quantity: rows[index] for index, role in enumerate(source.roles) if role.quantity.startswith("supply")
    }
    kept: list[tuple[int, Signal]] = [
        (index, role) for index, role in enumerate(source.roles) if not role.quantity.startswith("supply")
    ]
    volts = supply.get("supply_volts")
    return Capture(
        samples=rows[[index for index, _ in kept]],
        sample_rate=source.sample_rate,
        roles=tuple(role for _, role in kept),
        supply=None if volts is None else SupplyTrace(volts, supply.get("supply_amps"), source.sample_rate),
    )


def _idle_volts(source: LongRecord, seen: Survey, first: Section) -> float | None:
    """The supply's mean over the last idle moments before the first section."""
    rows = [index for index, role in enumerate(source.roles) if role.quantity == "supply_volts"]
    stop = max(0, first.start - 2 * seen.cell)
    idle = round(_IDLE_SECONDS * source.sample_rate)
    if not rows or stop < idle:
        return None
    return float(source.read(stop - idle, stop)[rows[0]].mean())
