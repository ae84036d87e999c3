"""A model's units at a rating's conditions, as they are on record today."""

import threading
from collections import OrderedDict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from rulvek.core.errors import BadInput
from rulvek.core.judgement.evidence import Evidence, unit_evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.basis import BudgetLine, SampledReading, budget_lines, sampled_reading
from rulvek.core.ratings.sample import RatedAt, SampleRow, TakenBack, sample_rows
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.campaigns import Campaign, Unit
from rulvek.core.records.product import Product
from rulvek.services.conclusions import Conclusions
from rulvek.store import conclusions, load, seals
from rulvek.store.engine import Session
from rulvek.store.queries import line as line_queries


@dataclass(frozen=True, slots=True)
class Sampled:
    """A sample with the readings that it is made of."""

    rows: tuple[SampleRow, ...]
    readings: tuple[SampledReading, ...]
    budget: tuple[BudgetLine, ...]
    method: MethodProfile


@dataclass(frozen=True, slots=True)
class Shown:
    """Every unit of a model with its evidence, all attempts by their ids, and by unit what was withdrawn."""

    units: list[tuple[Unit, tuple[Evidence, ...]]]
    attempts: dict[int, Attempt]
    taken_back: dict[int, list[TakenBack]]


def shown_units(
    session: Session, model_id: int, product: Product, as_first_read: Collection[int] = frozenset()
) -> Shown:
    """What the units of a model have shown; of some, by their ids, before any waveform was read again."""
    found = Shown([], {}, {})
    units = line_queries.units_of_model(session, model_id)
    for unit, campaigns in zip(units, load.campaigns_by_unit(session, [unit.id for unit in units]), strict=True):
        found.units.append((unit, unit_evidence(campaigns, product, unit.id in as_first_read).evidence))
        found.taken_back[unit.id] = _taken_back(campaigns)
        for run in (run for campaign in campaigns for run in campaign.runs):
            found.attempts.update((one.id, one) for one in run.attempts)
    return found


_Seen = tuple[tuple[Evidence, ...], list[TakenBack]]


class UnitsSeen:
    """What units showed when they were looked at last: only those whose evidence changed since are read again.

    Kept for the process, of so many units as fit; what it answers is what :func:`shown_units` does, without attempts.
    """

    MOST = 1_000

    def __init__(self) -> None:
        self._held: OrderedDict[int, tuple[str, Product, _Seen]] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, session: Session, model_id: int, product: Product) -> Shown:
        """The units of a model with their evidence, and what was withdrawn."""
        units = line_queries.units_of_model(session, model_id)
        versions = conclusions.unit_versions(session, [unit.id for unit in units])
        seen = self._held_of(versions, product)
        stale = [unit.id for unit in units if unit.id not in seen]
        for unit_id, campaigns in zip(stale, load.campaigns_by_unit(session, stale), strict=True):
            shown = (unit_evidence(campaigns, product).evidence, _taken_back(campaigns))
            seen[unit_id] = self._hold(unit_id, versions[unit_id], product, shown)
        found = Shown([], {}, {})
        for unit in units:
            evidence, back = seen[unit.id]
            found.units.append((unit, evidence))
            if back:
                found.taken_back[unit.id] = back
        return found

    def _held_of(self, versions: Mapping[int, str], product: Product) -> dict[int, _Seen]:
        with self._lock:
            held = ((one, self._held.get(one)) for one in versions)
            found = {one: of[2] for one, of in held if of is not None and of[:2] == (versions[one], product)}
            for one in found:
                self._held.move_to_end(one)
        return found

    def _hold(self, unit_id: int, version: str, product: Product, shown: _Seen) -> _Seen:
        with self._lock:
            self._held[unit_id] = (version, product, shown)
            self._held.move_to_end(unit_id)
            while len(self._held) > self.MOST:
                self._held.popitem(last=False)
        return shown


def _taken_back(campaigns: Sequence[Campaign]) -> list[TakenBack]:
    attempts = ((run.spec.place, one) for campaign in campaigns for run in campaign.runs for one in run.attempts)
    return [TakenBack(place, one.withdrawn.reason) for place, one in attempts if one.withdrawn is not None]


def sampled(
    session: Session,
    drawn: Conclusions,
    model_id: int,
    product: Product,
    at: RatedAt,
    without: Mapping[int, str],
    as_first_read: Collection[int] = frozenset(),
) -> Sampled:
    """Look at every unit of a model; it takes some milliseconds a unit. See :func:`shown_units`.

    Raises:
        BadInput: conditions that the model cannot have.
    """
    refuse_unfit_conditions(product, at)
    method = drawn.method_today(session)
    shown = shown_units(session, model_id, product, as_first_read)
    rows = sample_rows(at, shown.units, method, without, shown.taken_back)
    counted = [row.attempt_id for row in rows if row.counts and row.attempt_id is not None]
    sealed = {seal.id: seal.sha256 for seal in seals.attempt_seals(session, counted)}
    evidence = {one.attempt_id: one for _, own in shown.units for one in own}
    readings = tuple(sampled_reading(evidence[one], shown.attempts[one], sealed.get(one, "")) for one in counted)
    weakest = min((row for row in rows if row.counts), key=lambda row: row.watts or 0.0, default=None)
    budget = budget_lines(evidence[weakest.attempt_id]) if weakest and weakest.attempt_id else ()
    return Sampled(rows, readings, budget, method)


def refuse_unfit_conditions(product: Product, at: RatedAt) -> None:
    """Hold a rating's conditions to what the model can be loaded with.

    Raises:
        BadInput: a field by its name.
    """
    group = product.group(at.group)
    if at.bridged and len(group.channels) < 2:
        raise BadInput(f"The group “{at.group}” has one channel and cannot be bridged.", field="bridged")
    if (at.band_low_hz is None) != (at.band_high_hz is None):
        raise BadInput("A band needs both its limits, or neither.", field="band_high_hz")
