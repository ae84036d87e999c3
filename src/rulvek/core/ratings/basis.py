"""What a rating rests on, frozen when it is proposed: enough to work its figures out again without any records."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Le, Len

from rulvek.core.errors import BadInput, Conflict
from rulvek.core.judgement.evidence import Evidence
from rulvek.core.quantities import ENTERED, Identity, Reason, Watts, refuse_out_of_bounds
from rulvek.core.ratings.population import Bound, Promise, Share, bound_of, rounded_down
from rulvek.core.ratings.sample import RatedAt, SampleRow, counted, own_watts, shared_watts, weakest_of
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.claims import Claim
from rulvek.core.rounding import told_apart
from rulvek.core.runs.modes import End

VALID_MONTHS = 24
SAME = 1e-9
"""Relative difference up to which two machines work out the same figure."""


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A unit that the rating leaves out, and why."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    unit_id: Identity
    reason: Reason


@dataclass(frozen=True, slots=True)
class RatingTerms:
    """What somebody wants to promise, as it is drafted.

    Attributes:
        watts: Of each channel (of each pair where bridged).
        valid_months: For how long after somebody answered for it.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    at: RatedAt
    watts: Watts
    share: Share = 0.95
    confidence: Share = 0.95
    valid_months: Annotated[int, Ge(1), Le(120)] = VALID_MONTHS
    left_out: Annotated[tuple[LeftOut, ...], Len(0, 500)] = ()

    @property
    def without(self) -> Mapping[int, str]:
        """Why units are left out, by their ids."""
        return {one.unit_id: one.reason.strip() for one in self.left_out}

    @property
    def as_claim(self) -> Claim:
        """The same as a document would state it."""
        return replace(self.at.as_claim, watts=self.watts)


@dataclass(frozen=True, slots=True)
class SampledReading:
    """A reading in the sample: who took it when and with what, and the digests that find it again unchanged.

    Attributes:
        seal: What the audit chain has of the attempt.
        files: SHA-256 of its captures.
        watts: Of each channel (of each pair where bridged), as they were read.
        expanded_watts: U of the weakest, at 95 %.
        supply_volts: Loaded, at the reading.
        measured_ohms: Of the weakest channel's load; None for its nominal value.
        thd_n_percent: The worst of the channels; None where nobody read it.
        doubts: What the checks doubt in it.
    """

    attempt_id: int
    taken_by: str
    taken_at: datetime
    instruments: tuple[str, ...] = ()
    files: tuple[str, ...] = ()
    seal: str = ""
    watts: tuple[float, ...] = ()
    expanded_watts: float | None = None
    supply_volts: float | None = None
    measured_ohms: float | None = None
    thd_n_percent: float | None = None
    end: End | None = None
    doubts: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class BudgetLine:
    """A line of the budget of the reading that decides; ``watts`` is what it contributes, one standard deviation."""

    name: str
    value: float
    unit: str
    distribution: str
    half_width: float
    watts: float
    shared: bool


@dataclass(frozen=True, slots=True)
class Basis:
    """What a rating rests on.

    Attributes:
        rows: Every unit there was, those that do not count with the reason.
        readings: Of those that count.
        revisions: Of the model, as they were known then.
        reference_volts: What the reference voltage was.
        step_watts: To which the line rounds its figures.
        program: The version that worked it out.
        bound: What the sample bears.
        budget: Of the weakest unit's reading, the largest contribution first.
    """

    model: str
    terms: RatingTerms
    rows: tuple[SampleRow, ...]
    readings: tuple[SampledReading, ...]
    revisions: tuple[str, ...]
    reference_volts: float
    step_watts: float
    method: Mapping[str, Any]
    program: str
    bound: Bound
    budget: tuple[BudgetLine, ...] = ()

    @property
    def promise(self) -> Promise:
        """What the figure means."""
        return promise_of(self.terms, self.rows, self.step_watts)

    @property
    def simulated(self) -> bool:
        """Whether any of it comes from a simulated bench."""
        return any(row.simulated for row in self.rows if row.counts)

    @property
    def measured_by(self) -> frozenset[str]:
        """Everyone who took a reading of it."""
        return frozenset(one.taken_by for one in self.readings)

    @property
    def in_a_line(self) -> str:
        """“12 units of 3 lots, 95 % of production at 95 % confidence, read 2026-09-02 to 2026-11-30”."""
        found, terms = self.bound, self.terms
        units = "1 unit" if found.n == 1 else f"{found.n} units"
        lots = "1 lot" if found.lots == 1 else f"{found.lots} lots"
        days = sorted(one.taken_at.date().isoformat() for one in self.readings)
        read = f", read {days[0]}" + (f" to {days[-1]}" if days[-1] != days[0] else "") if days else ""
        return (
            f"{units} of {lots}, {100 * terms.share:g} % of production at {100 * terms.confidence:g} % confidence{read}"
        )

    @property
    def covered(self) -> frozenset[str]:
        """Revisions that it speaks for."""
        return frozenset(self.terms.at.revisions or (*self.revisions, *(row.revision for row in self.rows)))


def sampled_reading(reading: Evidence, attempt: Attempt, seal: str) -> SampledReading:
    """A reading as it goes into a basis."""
    names = {used.specification.name for used in attempt.instruments.by_role.values()}
    return SampledReading(
        attempt_id=attempt.id,
        taken_by=attempt.started_by,
        taken_at=attempt.started_at,
        instruments=tuple(sorted(names)),
        files=tuple(one.sha256 for one in attempt.captures),
        seal=seal,
        watts=reading.watts,
        expanded_watts=reading.budget.expanded,
        supply_volts=reading.supply_volts,
        measured_ohms=reading.measured_ohms,
        thd_n_percent=100 * reading.thd_n if math.isfinite(reading.thd_n) else None,
        end=reading.end,
        doubts=tuple(doubt.text for doubt in reading.doubts),
    )


def budget_lines(reading: Evidence) -> tuple[BudgetLine, ...]:
    """A reading's budget, line by line."""
    return tuple(
        BudgetLine(one.name, one.value, one.unit, one.distribution, one.half_width, one.watts, one.shared)
        for one in reading.budget.components
    )


def promise_of(terms: RatingTerms, rows: tuple[SampleRow, ...], step_watts: float) -> Promise:
    """What a figure means, with what its readings share and scatter by."""
    return Promise(
        share=terms.share,
        confidence=terms.confidence,
        systematic_watts=shared_watts(rows),
        individual_watts=own_watts(rows),
        step_watts=step_watts,
        wanted_watts=terms.watts,
        channels=weakest_of(rows),
    )


@lru_cache(maxsize=2048)  # a board asks of every rating, each time, whether it still comes to the same
def worked_out(rows: tuple[SampleRow, ...], promise: Promise) -> Bound:
    """What a sample bears.

    Raises:
        Conflict: no unit counts.
    """
    sample = counted(rows)
    if not sample:
        raise Conflict("No unit has a figure at these conditions.", todo="Run one there.")
    return bound_of(sample, promise)


def refuse_unfit_terms(terms: RatingTerms) -> None:
    """Hold what is drafted to its bounds.

    Raises:
        BadInput: a field by its name; a unit that is left out twice, or without a reason.
    """
    refuse_out_of_bounds(terms)
    seen: set[int] = set()
    for at, one in enumerate(terms.left_out):
        if not one.reason.strip():
            raise BadInput("Leaving a unit out needs a reason.", field=f"left_out.{at}.reason")
        if one.unit_id in seen:
            raise BadInput("This unit is left out twice.", field=f"left_out.{at}.unit_id")
        seen.add(one.unit_id)


def refuse_unborne(watts: float, bound: Bound, promise: Promise) -> None:
    """Hold a figure to what its units bear.

    Raises:
        Conflict: they bear less, or nothing.
    """
    if bound.bound_watts is None or bound.proposal_watts is None:
        reason = bound.notes[-1] if bound.notes else ""
        raise Conflict(f"These units bear no figure. {reason}".strip(), todo="Measure more of them.")
    borne = bound.bound_watts - promise.taken_off_watts
    if watts > borne * (1 + SAME):
        raise Conflict(
            f"These units bear {rounded_down(borne, 0.01):g} W: {watts:g} W cannot be proposed.",
            todo=f"Propose {bound.proposal_watts:g} W, or measure more units.",
        )


def changed_figures(basis: Basis) -> tuple[str, ...]:
    """Which figures come out otherwise when they are worked out again from the sample alone; none should.

    >>> from dataclasses import replace
    >>> changed_figures(_example()), changed_figures(replace(_example(), step_watts=0.5))
    ((), ('proposal_watts',))
    """
    again = worked_out(basis.rows, basis.promise)
    names = ("n", "lots", "method", "mean", "spread", "between", "within", "k", "bound_watts", "proposal_watts")
    return tuple(name for name in names if not _same(getattr(again, name), getattr(basis.bound, name)))


def moved_rows(basis: Basis, rows: Iterable[SampleRow]) -> tuple[str, ...]:
    """How a sample that was worked out again from readings differs from the one in a basis, a sentence a unit.

    Units are told by their serial numbers: in other records they go by other ids.
    """
    again = {row.serial.casefold(): row for row in rows}
    found = []
    for row in basis.rows:
        if not row.counts:
            continue
        other = again.get(row.serial.casefold())
        if other is None or not other.counts:
            found.append(f"Unit {row.serial} does not count by these records.")
        elif not _same(row.watts, other.watts) or row.censored != other.censored:
            was, comes = told_apart(row.watts or 0.0, other.watts or 0.0)
            found.append(f"Unit {row.serial} comes to {comes} W by these records, not to {was} W.")
    known = {row.serial.casefold() for row in basis.rows}
    found += [f"Unit {row.serial} is not in the basis." for row in again.values() if row.serial.casefold() not in known]
    return tuple(found)


def _same(one: Any, other: Any) -> bool:
    if isinstance(one, float) and isinstance(other, float):
        return math.isclose(one, other, rel_tol=SAME)
    return bool(one == other)


def _example() -> Basis:
    """A basis of ten units, for examples."""
    watts = (104.1, 106.3, 103.0, 105.2, 107.4, 104.8, 105.9, 103.7, 106.6, 105.0)
    rows = tuple(SampleRow(at, f"U{at}", "A", "1", watts=one, attempt_id=at) for at, one in enumerate(watts, 1))
    terms = RatingTerms(RatedAt("Full range", 4.0), 100.0)
    bound = worked_out(rows, promise_of(terms, rows, 5.0))
    return Basis("Example", terms, rows, (), ("1",), 14.4, 5.0, {}, "0", bound)
