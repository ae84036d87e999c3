"""What else units tell beside their watts: halved loads, bass, volts, efficiency, channels, claims, price."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from rulvek.core.electrical.supply import efficiency
from rulvek.core.judgement.evidence import Evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.sample import RatedAt, SampleRow, sample_rows
from rulvek.core.ratings.value import PriceBasis, value_of
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.product import Model
from rulvek.core.runs.modes import ENDS, Mode
from rulvek.core.runs.spec import same_place
from rulvek.core.signals.power import ratio_db

SAME_VOLTS = 0.25
"""Loaded volts of two readings that are held against each other may differ by so much (ours): about 3 % of power."""


class Aspect(StrEnum):
    """What units are compared in."""

    HALVED_LOAD = "halved_load"
    """Power into half of the load over power into it, in dB; 3.01 where the output's volts hold."""
    BASS = "bass"
    """Power at 40 Hz over power at 1 kHz, in dB."""
    EXPONENT = "exponent"
    """n in P ∝ V^n of the supply."""
    EFFICIENCY = "efficiency"
    """Output of all channels over input, in percent."""
    CHANNELS = "channels"
    """The strongest channel over the weakest, in dB."""
    CLAIMED = "claimed"
    """Measured over the most that a document claims there, in percent."""
    PRICE = "price"
    """Money a measured watt of all channels, at the list price."""


@dataclass(frozen=True, slots=True)
class Told:
    """An aspect of a group: the mean over the units that can tell it, and between which they lie."""

    units: int
    mean: float
    low: float
    high: float
    currency: str = ""


Shown = tuple[Unit, Sequence[Evidence]]


def aspects_of(at: RatedAt, model: Model, shown: Sequence[Shown], method: MethodProfile) -> dict[Aspect, Told]:
    """What a group of units tells at some conditions; an aspect that none of them can tell is not there.

    Args:
        shown: The group's units, each with its evidence.
    """
    rows = {row.unit_id: row for row in sample_rows(at, shown, method) if _is_exact(row)}
    half = replace(at, load_ohms=at.load_ohms / 2)
    halved = {row.unit_id: row for row in sample_rows(half, shown, method) if _is_exact(row)}
    read = {
        unit.id: next((one for one in evidence if one.attempt_id == rows[unit.id].attempt_id), None)
        for unit, evidence in shown
        if unit.id in rows
    }
    readings = [one for one in read.values() if one is not None]
    found: dict[Aspect, Told | None] = {
        Aspect.HALVED_LOAD: _told(_gain(halved[one], rows[one]) for one in rows if one in halved),
        Aspect.BASS: _told(_bass(at, evidence) for _, evidence in shown),
        Aspect.EXPONENT: _told(one.fit.exponent for one in readings if one.fit and one.fit.exponent is not None),
        Aspect.EFFICIENCY: _told(_percent(one, model) for one in readings),
        Aspect.CHANNELS: _told(ratio_db(max(one.watts), min(one.watts)) for one in readings if len(one.watts) > 1),
        Aspect.CLAIMED: _claimed(at, model, rows.values()),
        Aspect.PRICE: _price(at, model, rows.values()),
    }
    return {aspect: told for aspect, told in found.items() if told is not None}


def _is_exact(row: SampleRow) -> bool:
    return row.counts and not row.censored and bool(row.watts)


def _told(values: Iterable[float | None], currency: str = "") -> Told | None:
    known = [one for one in values if one is not None and math.isfinite(one)]
    return Told(len(known), math.fsum(known) / len(known), min(known), max(known), currency) if known else None


def _gain(half: SampleRow, whole: SampleRow) -> float | None:
    return ratio_db(half.watts, whole.watts) if half.watts and whole.watts else None


def _bass(at: RatedAt, evidence: Sequence[Evidence]) -> float | None:
    """The latest certified readings near 40 Hz and near 1 kHz that were taken at about the same volts."""
    certified = [
        one
        for one in evidence
        if one.mode is Mode.CERTIFIED and ENDS[one.end].gave_all and one.stands and same_place(one.place, at.place)
    ]
    low = next((one for one in reversed(certified) if 35 <= one.tone_hz <= 55), None)
    mid = next((one for one in reversed(certified) if 700 <= one.tone_hz <= 1400), None)
    if low is None or mid is None or abs(low.supply_volts - mid.supply_volts) > SAME_VOLTS:
        return None
    return ratio_db(min(low.watts), min(mid.watts))


def _percent(one: Evidence, model: Model) -> float | None:
    """Only where the group is all of the amplifier: what others took is not known apart."""
    group = model.product.group(one.group)
    whole = frozenset(group.channels) == model.product.channels and one.all_driven
    if not whole or one.supply_amps is None or one.mode is Mode.BURST:
        return None
    share = efficiency(math.fsum(one.watts), one.supply_volts, one.supply_amps)
    return None if share is None else 100 * share


def _claimed(at: RatedAt, model: Model, rows: Iterable[SampleRow]) -> Told | None:
    claims = [
        one.each_watts for one in model.standing_claims if one.kind is at.kind and same_place(one.place, at.place)
    ]
    if not claims:
        return None
    return _told(100 * row.watts / max(claims) for row in rows if row.watts)


def _price(at: RatedAt, model: Model, rows: Iterable[SampleRow]) -> Told | None:
    values = [
        value
        for row in rows
        if row.watts and (value := value_of(model.facts, model.product, at, row.watts, PriceBasis.LIST))
    ]
    return _told((one.per_watt for one in values), values[0].currency) if values else None
