"""A stored waveform read once more: by today's program, and by another method where one is asked for.

Nothing of it counts by itself: what stands stands until a person decides otherwise.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from rulvek.core.errors import RulvekError
from rulvek.core.judgement.conclusion import conclude_unit
from rulvek.core.judgement.evidence import unit_evidence
from rulvek.core.judgement.verdict import DecisionRule, VerdictKind
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.burst_point import read_burst_point
from rulvek.core.readings.point import ChannelReading, Load, read_point
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt, Reading, Remark
from rulvek.core.records.campaigns import Campaign, Run, Unit
from rulvek.core.records.outside import Origin
from rulvek.core.records.product import Model
from rulvek.core.records.standing import standing_attempt
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.settings import limit_ratio
from rulvek.core.runs.spec import RunSpec
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.distortion import Band

SAME = 1e-5
"""Figures that differ by less are the same: waveforms are stored in 32 bits, which is 6 · 10⁻⁸ of full scale."""


@dataclass(frozen=True, slots=True)
class Reread:
    """What one attempt's waveform comes to now; ``problem`` says why it comes to nothing."""

    attempt_id: int
    readings: tuple[Reading, ...] = ()
    problem: str = ""


@dataclass(frozen=True, slots=True)
class Wanted:
    """An attempt whose waveform is to be read again, with what that takes.

    Attributes:
        coherent: Whether source and recorder shared a clock.
        limit: The method's THD+N limit of the mode, a ratio; a steady reading above it is none. None where there is
            no limit to keep.
    """

    attempt_id: int
    spec: RunSpec
    readings: tuple[Reading, ...]
    band: Band
    coherent: bool
    limit: float | None


def wanted(campaign: Campaign, run: Run, attempt: Attempt, method: MethodProfile | None) -> Wanted | None:
    """How an attempt is read again by a method, or by its campaign's own; None where it has nothing to be read."""
    if not attempt.readings or not attempt.captures or attempt.read_again:
        return None
    by = method or campaign.method
    keeps_limit = method is not None and run.spec.mode in (Mode.CERTIFIED, Mode.UNCERTIFIED)
    return Wanted(
        attempt_id=attempt.id,
        spec=run.spec,
        readings=attempt.readings,
        band=by.band,
        coherent=attempt.origin is Origin.BENCH,
        limit=limit_ratio(by, run.spec.mode) if keeps_limit else None,
    )


def reread(capture: Capture, asked: Wanted) -> Reread:
    """Read a waveform again.

    The distortion of a burst is told against a quieter one that was not stored: it stays as it was read.
    """
    loads: Mapping[int, Load] = {one.channel: one.load for one in asked.readings}
    spec = asked.spec
    try:
        if spec.mode is Mode.BURST:
            profile = MethodProfile.burst_named(spec.burst, spec.tone_hz)
            lead = profile.lead_seconds if asked.coherent else None
            channels = read_burst_point(
                capture, level_dbv=0.0, loads=loads, profile=profile, band=asked.band, lead_seconds=lead
            ).channels
        else:
            channels = read_point(
                capture, level_dbv=0.0, loads=loads, tone_hz=spec.tone_hz, band=asked.band, coherent=asked.coherent
            ).channels
    except RulvekError as refused:
        return Reread(asked.attempt_id, problem=refused.what)
    stood = {one.channel: one for one in asked.readings}
    readings = tuple(_as_reading(one, stood[one.channel], spec.mode is Mode.BURST) for one in channels)
    if asked.limit is not None and (over := [one.thd_n for one in readings if one.thd_n and one.thd_n > asked.limit]):
        problem = f"THD+N is {100 * max(over):.4g} %, over the limit of {100 * asked.limit:g} %."
        return Reread(asked.attempt_id, problem=problem)
    return Reread(asked.attempt_id, readings)


def _as_reading(now: ChannelReading, stood: Reading, is_burst: bool) -> Reading:
    thd_n, thd = (stood.thd_n, stood.thd) if is_burst else (now.thd_n, now.thd)
    return Reading(now.channel, now.watts, now.volts_rms, thd_n, thd, stood.load)


@dataclass(frozen=True, slots=True)
class Change:
    """An attempt that comes to something else: its weakest channel's watts, and the worst THD+N as a ratio."""

    attempt_id: int
    serial: str
    was_watts: float
    watts: float | None
    was_thd_n: float | None
    thd_n: float | None
    problem: str = ""

    @property
    def percent(self) -> float | None:
        """By how much the watts changed; None where there are none any more."""
        return None if self.watts is None else 100 * (self.watts / self.was_watts - 1)


def changes(campaigns: Iterable[Campaign], found: Mapping[int, Reread]) -> list[Change]:
    """Which attempts come to other figures than the ones that stand, in the order in which they were begun."""
    changed = []
    for campaign in campaigns:
        for run in campaign.runs:
            for attempt in run.attempts:
                again = found.get(attempt.id)
                if again is not None and not _alike(attempt.readings, again.readings):
                    changed.append(_change(attempt, campaign.unit.serial, again))
    return changed


def _change(attempt: Attempt, serial: str, again: Reread) -> Change:
    return Change(
        attempt_id=attempt.id,
        serial=serial,
        was_watts=min(one.watts for one in attempt.readings),
        watts=min((one.watts for one in again.readings), default=None),
        was_thd_n=_worst(attempt.readings),
        thd_n=_worst(again.readings),
        problem=again.problem,
    )


def _alike(stood: Sequence[Reading], now: Sequence[Reading]) -> bool:
    return len(stood) == len(now) and all(
        _same(one.watts, other.watts) and _same(one.thd_n, other.thd_n) for one, other in zip(stood, now, strict=True)
    )


def _same(one: float | None, other: float | None) -> bool:
    if one is None or other is None:
        return one is other
    return abs(one - other) <= SAME * max(abs(one), abs(other))


def _worst(readings: Sequence[Reading]) -> float | None:
    return max((one.thd_n for one in readings if one.thd_n is not None), default=None)


def again(campaign: Campaign, found: Mapping[int, Reread], method: MethodProfile | None) -> Campaign:
    """A campaign as it would stand with the readings of now, by the method; what was not read again stays."""

    def with_readings(attempt: Attempt) -> Attempt:
        return replace(attempt, readings=found[attempt.id].readings) if attempt.id in found else attempt

    runs = tuple(replace(run, attempts=tuple(with_readings(one) for one in run.attempts)) for run in campaign.runs)
    return replace(campaign, runs=runs, method=method or campaign.method)


def adopted(
    campaign: Campaign,
    found: Mapping[int, Reread],
    method: MethodProfile | None,
    label: str,
    actor: Actor,
    at: datetime,
) -> Campaign | None:
    """A campaign of what stands in another one, with the figures of now: as it would go on record beside it.

    Only what comes to other figures and to some is taken over, of each run the attempt that stands. When it was
    measured, with what and on which bench stays; who adopted it made the campaign.

    Args:
        label: By what it was read, as “Strict, Rulvek 1.2”.

    Returns:
        None where there is nothing to take over.
    """
    runs: list[Run] = []
    for run in campaign.runs:
        attempt = standing_attempt(run)
        anew = found.get(attempt.id) if attempt is not None else None
        if attempt is None or anew is None or not anew.readings or _alike(attempt.readings, anew.readings):
            continue
        position = len(runs) + 1
        text = f"attempt {attempt.id}, by {label}"
        taken = replace(
            attempt,
            id=position,
            number=1,
            cause=None,
            reason="",
            readings=anew.readings,
            read_again=text,
            remarks=(Remark(f"Read again: {text}.", actor.name, at),),
            set_aside=(),
            seconds=(),
            withdrawals=(),
        )
        runs.append(replace(run, id=position, position=position, attempts=(taken,), choices=()))
    if not runs:
        return None
    by = method or campaign.method
    return replace(campaign, id=0, method=by, runs=tuple(runs), created_by=actor.name, created_at=at)


@dataclass(frozen=True, slots=True)
class OtherVerdict:
    """A claim on which a unit's verdict would be another one."""

    claim_id: int
    document: str
    group: str
    load_ohms: float
    claimed_watts: float
    unit_id: int
    serial: str
    was: VerdictKind
    now: VerdictKind


def other_verdicts(
    unit: Unit,
    model: Model,
    stands: Sequence[Campaign],
    anew: Sequence[Campaign],
    method: MethodProfile,
    rule: DecisionRule,
) -> list[OtherVerdict]:
    """Which verdicts on a unit would be others."""
    before, after = (
        conclude_unit(unit, unit_evidence(campaigns, model.product), model, method, rule).verdicts
        for campaigns in (stands, anew)
    )
    return [
        OtherVerdict(
            claim_id=claim.id,
            document=claim.document,
            group=claim.group,
            load_ohms=claim.load_ohms,
            claimed_watts=claim.watts,
            unit_id=unit.id,
            serial=unit.serial,
            was=one.kind,
            now=other.kind,
        )
        for claim, one, other in zip(model.standing_claims, before, after, strict=True)
        if one.kind is not other.kind
    ]
