"""One figure a unit for a rating's conditions: what stands on record of it, or why the unit does not count."""

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Annotated, Any, ClassVar

from annotated_types import Len

from rulvek.core.judgement.evidence import Evidence
from rulvek.core.judgement.verdict import band_edges, judge
from rulvek.core.method.profile import MethodProfile
from rulvek.core.quantities import ENTERED, BandHertz, Name, Ohms, Percent, SupplyVolts
from rulvek.core.ratings.population import SampledUnit
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.facts import Came
from rulvek.core.rounding import hertz
from rulvek.core.runs.modes import ENDS, End, Mode
from rulvek.core.runs.spec import Place, same_place

LEAST_WATTS = 0.001
TRIED_WITHOUT = "Left out to see what that changes."
LEFT_OUT = {
    Came.RETURNED: "It was returned.",
    Came.REFURBISHED: "It was refurbished.",
    Came.SAMPLE: "It is an engineering sample.",
}
"""Units that do not speak for production, by how they came."""


@dataclass(frozen=True, slots=True)
class RatedAt:
    """The conditions of a rating: all but its watts.

    Attributes:
        supply_volts: None for the method's reference.
        thd_n_percent: Of a burst None for the largest past the onset of clipping.
        band_low_hz, band_high_hz: The same for one tone; None for any that was run. Units count whose edges were run,
            to their limit or as a proof.
        revisions: That it covers; all where none is named.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    group: Name
    load_ohms: Ohms
    bridged: bool = False
    kind: ClaimKind = ClaimKind.CONTINUOUS
    supply_volts: SupplyVolts | None = None
    thd_n_percent: Percent | None = 1.0
    band_low_hz: BandHertz | None = None
    band_high_hz: BandHertz | None = None
    revisions: Annotated[tuple[Name, ...], Len(0, 40)] = ()

    @property
    def place(self) -> Place:
        """How the group is loaded."""
        return self.group, self.load_ohms, self.bridged

    @property
    def as_claim(self) -> Claim:
        """A claim of next to nothing: whatever backs it is a unit's figure at these conditions, by the same rules."""
        return Claim(
            document="rating",
            group=self.group,
            watts=LEAST_WATTS,
            load_ohms=self.load_ohms,
            bridged=self.bridged,
            kind=self.kind,
            supply_volts=self.supply_volts,
            thd_n_percent=self.thd_n_percent,
            band_low_hz=self.band_low_hz,
            band_high_hz=self.band_high_hz,
            id=0,
        )


@dataclass(frozen=True, slots=True)
class TakenBack:
    """A reading that was withdrawn: where it was taken, and why it counts no more."""

    place: Place
    reason: str


@dataclass(frozen=True, slots=True)
class SampleRow:
    """A unit in a rating's sample.

    Attributes:
        watts: Its weakest channel over all tones, at the rating's conditions; None where it has no such figure.
        censored: Whether it gives at least so much: it never reached its limit, or was read at fewer volts, or at more
            and brought down by the least that is possible.
        left_out: Why it does not count; empty where it does.
        shared_watts: The standard uncertainty that readings with the same gear have in common.
        own_watts: The rest of it, which is each reading's own.
        attempt_id: Which reading it is.
        read_again: Whether it is an earlier reading's waveform, read once more.
        channels: Of which its figure is the weakest (pairs where bridged).
    """

    unit_id: int
    serial: str
    lot: str
    revision: str
    watts: float | None = None
    censored: bool = False
    left_out: str = ""
    shared_watts: float = 0.0
    own_watts: float = 0.0
    attempt_id: int | None = None
    simulated: bool = False
    read_again: bool = False
    channels: int = 1

    @property
    def expanded_watts(self) -> float:
        """U of its figure, k = 2."""
        return 2 * math.hypot(self.shared_watts, self.own_watts)

    @property
    def counts(self) -> bool:
        """Whether it is one of the sample."""
        return not self.left_out and self.watts is not None


def sample_rows(
    at: RatedAt,
    units: Iterable[tuple[Unit, Sequence[Evidence]]],
    method: MethodProfile,
    without: Mapping[int, str] = MappingProxyType({}),
    taken_back: Mapping[int, Sequence[TakenBack]] = MappingProxyType({}),
) -> tuple[SampleRow, ...]:
    """A row a unit.

    Args:
        units: Each with its evidence, the latest last.
        method: For what a reading does not bring along.
        without: Units by their ids that somebody leaves out, each with the reason.
        taken_back: Readings that were withdrawn, by their units: why a unit without another one has no figure.
    """
    claim = at.as_claim
    rows = (_row(claim, unit, evidence, method, at.revisions, taken_back.get(unit.id, ())) for unit, evidence in units)
    return tuple(
        replace(row, left_out=without[row.unit_id]) if row.counts and row.unit_id in without else row for row in rows
    )


def counted(rows: Iterable[SampleRow]) -> list[SampledUnit]:
    """The sample as its statistics take it."""
    return [SampledUnit(row.serial, row.watts, row.lot, row.censored) for row in rows if row.counts and row.watts]


def shared_watts(rows: Iterable[SampleRow]) -> float:
    """The largest of what the readings of a sample have in common."""
    return max((row.shared_watts for row in rows if row.counts), default=0.0)


def weakest_of(rows: Iterable[SampleRow]) -> int:
    """The most channels of which a sample's figures are the weakest."""
    return max((row.channels for row in rows if row.counts), default=1)


def own_watts(rows: Iterable[SampleRow]) -> float:
    """How much the readings of a sample scatter by themselves, on an average of squares."""
    own = [row.own_watts for row in rows if row.counts]
    return math.sqrt(math.fsum(one**2 for one in own) / len(own)) if own else 0.0


def _row(
    claim: Claim,
    unit: Unit,
    evidence: Sequence[Evidence],
    method: MethodProfile,
    revisions: Collection[str],
    taken_back: Sequence[TakenBack],
) -> SampleRow:
    row = SampleRow(unit.id, unit.serial, unit.lot, unit.revision)
    verdict = judge(claim, evidence, method)
    reading = next((one for one in evidence if one.attempt_id == verdict.attempt_id), None)
    if verdict.watts is None or reading is None:
        here = [one for one in taken_back if same_place(one.place, claim.place)]
        why = f"Its reading was withdrawn: {here[-1].reason}" if here else verdict.reason
        return replace(row, left_out=why)
    watts, at_least = verdict.watts, not ENDS[reading.end].gave_all
    if verdict.interval is not None:
        watts, at_least = verdict.interval[0], True
    elif reading.supply_volts < _volts(claim, reading, method) - (reading.method or method).reference_volts_tolerance:
        at_least = True
    capped, missing = _over_the_band(claim, evidence, reading, method)
    if capped is not None and capped < watts:
        watts, at_least = capped, True
    budget = reading.brought_to(reading.supply_volts, claim.load_ohms)
    return replace(
        row,
        watts=watts,
        censored=at_least,
        left_out=_why_not(unit, revisions) or missing,
        shared_watts=budget.shared * watts / budget.estimate,
        own_watts=budget.individual * watts / budget.estimate,
        attempt_id=reading.attempt_id,
        simulated=reading.simulated,
        read_again=reading.read_again,
        channels=len(reading.watts),
    )


def _over_the_band(
    claim: Claim, evidence: Sequence[Evidence], reading: Evidence, method: MethodProfile
) -> tuple[float | None, str]:
    """What the edges of a band leave of a unit's figure: the least that it held there, and which was never run.

    An edge that was run to the unit's limit has a say in the figure already: over tones the weakest decides.
    """
    most = _volts(claim, reading, method) + (reading.method or method).reference_volts_tolerance
    here = [
        one
        for one in evidence
        if same_place(one.place, claim.place) and one.mode is not Mode.BURST and one.stands and one.supply_volts <= most
    ]
    held: list[float] = []
    for edge in band_edges(claim, method, [one.tone_hz for one in here if ENDS[one.end].gave_all]):
        there = [one for one in here if one.end is End.HELD and edge not in band_edges(claim, method, [one.tone_hz])]
        if not there:
            return None, f"Nothing was run at {hertz(edge)}, an edge of the band."
        held.append(max(min(one.watts) for one in there))
    return min(held, default=None), ""


def _volts(claim: Claim, reading: Evidence, method: MethodProfile) -> float:
    return claim.supply_volts if claim.supply_volts is not None else (reading.method or method).reference_volts


def _why_not(unit: Unit, revisions: Collection[str]) -> str:
    if revisions and unit.revision not in revisions:
        return f"Revision {unit.revision or 'not known'} is not covered."
    return LEFT_OUT.get(unit.facts.came, "") if unit.facts.came is not None else ""
