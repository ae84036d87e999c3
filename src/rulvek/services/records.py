"""From rows to the core's own words, and to the figures that people see of an attempt."""

from collections.abc import Callable, Mapping, Sequence
from enum import StrEnum
from typing import Any, Literal

from rulvek.core.electrical.loads import Connection, bridged_equivalent, off_nominal, watts_at_nominal
from rulvek.core.electrical.supply import efficiency, sag
from rulvek.core.judgement.claims import Claim, ClaimKind
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.reading import ChannelReading, Point
from rulvek.core.measure.steps import End, Mode, reached
from rulvek.core.planning.equipment import SupplyPolicy
from rulvek.core.planning.plan import Loading, Wishes
from rulvek.core.planning.product import ChannelGroup, Product
from rulvek.core.planning.wiring import Order
from rulvek.services.views.attempt import (
    AttemptView,
    ChannelPointView,
    FindingView,
    PointView,
    PulsesView,
    ReadingView,
    RemarkView,
    StepView,
)
from rulvek.store import tables


class Cause(StrEnum):
    """Why a run is repeated."""

    STARTED_BADLY = "started_badly"
    SUPPLY_LOW = "supply_low"
    CONNECTION = "connection"
    GAINS = "gains"
    PROTECTION = "protection"
    OTHER = "other"


def core_group(row: tables.ChannelGroup) -> ChannelGroup:
    """A channel group as the planner knows it."""
    return ChannelGroup(row.name, tuple(row.channels), tuple(row.rated_loads), tuple(row.bridged_loads), row.bass)


def core_claim(row: tables.Claim) -> Claim:
    """A claim as the judge knows it."""
    return Claim(
        id=row.id,
        document=row.document,
        group=row.group,
        watts=row.watts,
        load_ohms=row.load_ohms,
        bridged=row.bridged,
        kind=ClaimKind(row.kind),
        supply_volts=row.supply_volts,
        thd_n_percent=row.thd_n_percent,
        band_low_hz=row.band_low_hz,
        band_high_hz=row.band_high_hz,
    )


def standing_claims(model: tables.Model) -> list[Claim]:
    """Claims that are not withdrawn."""
    return [core_claim(row) for row in model.claims if row.withdrawal is None]


def core_product(model: tables.Model) -> Product:
    """A model as the planner knows it."""
    return Product(
        groups=tuple(core_group(group) for group in model.groups),
        topology=model.topology,
        regulated=model.regulated,
        supply_range=(model.supply_low_volts, model.supply_high_volts),
        fuse_amps=tuple(model.fuse_amps),
    )


def wishes_data(wishes: Wishes) -> dict[str, Any]:
    """What a plan was made by, as it is stored."""
    return {
        "modes": [mode.value for mode in wishes.modes],
        "order": wishes.order.value,
        "loading": wishes.loading.value,
        "policy": wishes.policy.value,
        "held_volts": wishes.held_volts,
        "tones": dict(wishes.tones),
        "bursts": dict(wishes.bursts),
        "exploratory": wishes.exploratory,
    }


def wishes_from(data: Mapping[str, Any]) -> Wishes:
    """What a plan was made by; campaigns from before there was a choice ran certified at one voltage."""
    return Wishes(
        modes=tuple(Mode(mode) for mode in data.get("modes", ["certified"])),
        order=Order(data.get("order", Order.BY_LOAD)),
        loading=Loading(data.get("loading", Loading.EACH)),
        policy=SupplyPolicy(data.get("policy", SupplyPolicy.HELD)),
        held_volts=data.get("held_volts"),
        tones=dict(data.get("tones", {})),
        bursts=dict(data.get("bursts", {})),
        exploratory=bool(data.get("exploratory", False)),
    )


def policy_of(campaign: tables.Campaign) -> SupplyPolicy:
    """How the campaign uses its supply."""
    return wishes_from(campaign.wishes).policy


def under_test_of(run: tables.Run) -> tuple[Connection, ...]:
    """The connections that a run reads."""
    return tuple(
        Connection((channel, channel + 1) if run.bridged else (channel,), run.load_ohms) for channel in run.channels
    )


def companions_of(run: tables.Run) -> tuple[Connection, ...]:
    """The connections that a run only loads and drives."""
    return tuple(Connection(tuple(channels), float(ohms)) for channels, ohms in run.companions)


def method_of(campaign: tables.Campaign) -> MethodProfile:
    """The profile that was stored with a campaign."""
    return MethodProfile.from_data(campaign.method)


STOPPED_SHORT = {End.OPERATOR, End.LINK_LOST, End.SUPPLY_LOW, End.TOO_HOT}
"""Ends that say more about the day than about the unit; a run that ended so still waits to be done."""


def chosen_attempt(run: tables.Run) -> tables.Attempt | None:
    """The attempt that stands for a run: the one that somebody chose last, else the last valid one.

    Valid is one with a reading that nothing but the unit ended; failing that, any with a reading; failing that, the
    last that ended.
    """
    if run.choices:
        return next(attempt for attempt in run.attempts if attempt.id == run.choices[-1].attempt_id)
    ended = [attempt for attempt in reversed(run.attempts) if attempt.ending is not None]
    read = [attempt for attempt in ended if attempt.readings]
    valid = [attempt for attempt in read if attempt.ending and End(attempt.ending.end) not in STOPPED_SHORT]
    return next(iter(valid or read or ended), None)


def all_driven(run: tables.Run) -> bool:
    """Whether the run loads every channel of its model, itself or as companions."""
    loaded = {channel for link in (*under_test_of(run), *companions_of(run)) for channel in link.channels}
    everything = {channel for group in run.campaign.unit.model.groups for channel in group.channels}
    return everything <= loaded


def origin_of(attempt: tables.Attempt) -> Literal["bench", "typed", "recorded", "table"]:
    """Where an attempt's figures come from."""
    if attempt.recorded:
        return "recorded"
    if attempt.typed:
        return "table" if attempt.typed.get("file") else "typed"
    return "bench"


def said_of(attempt: tables.Attempt) -> dict[str, Any]:
    """What a person said of the conditions of a reading from outside; empty for the bench's own."""
    return attempt.recorded or attempt.typed


def attempt_view(
    attempt: tables.Attempt,
    expanded: Callable[[tables.Attempt, tables.Reading], float],
    findings: Sequence[FindingView] = (),
) -> AttemptView:
    """The figures of an attempt, worked out from what was stored."""
    ending = attempt.ending
    readings = [_reading_view(reading, expanded(attempt, reading)) for reading in attempt.readings]
    watts = [reading.watts for reading in readings]
    weakest = min(readings, key=lambda r: r.watts) if readings else None
    supply_volts = ending.supply_volts if ending else None
    start_volts = ending.start_volts if ending else None
    amps = ending.supply_amps if ending else None
    share = None
    if watts and ending and supply_volts is not None and amps is not None:
        share = efficiency(sum(watts) + (ending.companion_watts or 0.0), supply_volts, amps)
    return AttemptView(
        id=attempt.id,
        number=attempt.number,
        origin=origin_of(attempt),
        file=attempt.recorded.get("file", "") or attempt.typed.get("file", ""),
        instrument=attempt.instruments.get("output", {}).get("name", ""),
        cause=Cause(attempt.cause) if attempt.cause else None,
        reason=attempt.reason,
        skipped=[
            *attempt.skipped,
            *([f"started with {ending.start_outside}"] if ending and ending.start_outside else []),
        ],
        findings=list(findings),
        remarks=[RemarkView(text=remark.text, by=remark.by, at=remark.at) for remark in attempt.remarks],
        started_by=attempt.started_by,
        started_at=attempt.started_at,
        end=End(ending.end) if ending else None,
        at_limit=ending is not None and reached(Mode(attempt.run.mode), End(ending.end)) and bool(watts),
        fault=ending.fault if ending else "",
        seconds=ending.seconds if ending else None,
        readings=readings,
        weakest_watts=weakest.watts if weakest else None,
        average_watts=sum(watts) / len(watts) if watts else None,
        expanded_watts=weakest.expanded_watts if weakest else None,
        bracket_db=ending.bracket_db if ending else None,
        level_dbv=ending.level_dbv if ending else None,
        start_volts=start_volts,
        supply_volts=supply_volts,
        supply_lowest=ending.supply_lowest if ending else None,
        sag_volts=sag(start_volts, supply_volts) if start_volts is not None and supply_volts is not None else None,
        supply_amps=amps,
        efficiency_percent=None if share is None else share * 100,
        temperature_c=ending.temperature_c if ending else None,
        load_c=ending.load_c if ending else None,
        tripped_watts=ending.tripped_watts if ending else None,
        largest_watts=ending.largest_watts if ending else None,
        equivalent=_equivalent(attempt.run, weakest.watts if weakest else None),
    )


def _equivalent(run: tables.Run, pair_watts: float | None) -> str | None:
    """What a bridged reading stands for per channel, "4 × 98.2 W at 2 Ω"."""
    if not run.bridged or pair_watts is None:
        return None
    watts, ohms = bridged_equivalent(pair_watts, run.load_ohms)
    return f"{2 * len(run.channels)} × {watts:.1f} W at {ohms:g} Ω"


def _reading_view(reading: tables.Reading, expanded_watts: float) -> ReadingView:
    return ReadingView(
        channel=reading.channel,
        watts=reading.watts,
        volts_rms=reading.volts_rms,
        thd_n_percent=percent(reading.thd_n),
        thd_percent=percent(reading.thd),
        load_nominal=reading.load_nominal,
        load_measured=reading.load_measured,
        nominal_watts=watts_at_nominal(reading.watts, reading.load_measured, reading.load_nominal),
        load_off_percent=100 * off_nominal(reading.load_nominal, reading.load_measured),
        expanded_watts=expanded_watts,
    )


def percent(ratio: float | None) -> float | None:
    """A ratio in percent."""
    return None if ratio is None else 100 * ratio


def point_data(point: Point, phase: str, over_limit: bool) -> dict[str, Any]:
    """A point as it is stored in a step: everything, in SI units and ratios."""
    return {
        "level_dbv": point.level_dbv,
        "phase": phase,
        "over_limit": over_limit,
        "channels": [
            {
                "channel": c.channel,
                "volts_rms": c.volts_rms,
                "watts": c.watts,
                "watts_at_start": c.watts_at_start,
                "thd_n": c.thd_n,
                "thd": c.thd,
                "clipped_share": c.clipped_share,
                "kept_up": c.kept_up,
            }
            for c in point.channels
        ],
        "supply_volts": point.supply_volts,
        "supply_lowest": point.supply_lowest,
        "supply_amps": point.supply_amps,
        "temperature_c": point.temperature_c,
        "companion_watts": point.companion_watts,
        "load_c": point.load_c,
    }


def point_from(data: dict[str, Any]) -> Point:
    """A stored point, as the core knows it."""
    return Point(
        level_dbv=data["level_dbv"],
        channels=tuple(ChannelReading(**channel) for channel in data["channels"]),
        supply_volts=data["supply_volts"],
        supply_lowest=data["supply_lowest"],
        supply_amps=data["supply_amps"],
        temperature_c=data["temperature_c"],
        companion_watts=data["companion_watts"],
        load_c=data.get("load_c"),
    )


def point_view(data: dict[str, Any]) -> PointView:
    """A stored point, as people see it."""
    point = point_from(data)
    tones = [channel.thd_n for channel in point.channels]
    return PointView(
        level_dbv=point.level_dbv,
        phase=data["phase"],
        over_limit=data["over_limit"],
        channels=[
            ChannelPointView(
                channel=c.channel,
                watts=c.watts,
                volts_rms=c.volts_rms,
                thd_n_percent=percent(c.thd_n),
                clipped_share=c.clipped_share,
            )
            for c in point.channels
        ],
        weakest_watts=point.weakest_watts,
        average_watts=point.average_watts,
        worst_thd_n_percent=None if None in tones else 100 * point.worst_thd_n,
        supply_volts=point.supply_volts,
        supply_lowest=point.supply_lowest,
        supply_amps=point.supply_amps,
        efficiency_percent=percent(point.efficiency),
        temperature_c=point.temperature_c,
        load_c=point.load_c,
    )


def _pulses_view(data: dict[str, Any]) -> PulsesView:
    return PulsesView(
        channel=data["channel"],
        milliseconds=1000 * data["seconds"],
        volts=data["volts"],
        windows_ms=[[1000 * start, 1000 * stop] for start, stop in data["windows"]],
    )


def step_view(step: tables.Step) -> StepView:
    """A stored step, as watchers see it."""
    data = step.data
    return StepView(
        id=step.id,
        attempt_id=step.attempt_id,
        kind=step.kind,  # type: ignore[arg-type]  # only the attempt log writes steps, of these kinds
        at_seconds=step.at_seconds,
        level_dbv=data.get("level_dbv"),
        waiting=data.get("waiting", ""),
        start_volts=data.get("start_volts"),
        clamp_zero_amps=data.get("clamp_zero_amps"),
        point=point_view(data) if step.kind == "point" else None,
        pulses=_pulses_view(data["pulses"]) if "pulses" in data else None,
        end=End(data["end"]) if step.kind == "finished" else None,
        fault=data.get("fault", ""),
    )
