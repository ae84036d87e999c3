"""Which figure a model's units bear at some conditions, and on which of them it rests."""

from collections.abc import Collection, Iterable
from dataclasses import replace

from rulvek.core.quantities import refuse_out_of_bounds
from rulvek.core.ratings.aspects import aspects_of
from rulvek.core.ratings.basis import Basis, moved_rows
from rulvek.core.ratings.compare import Asked, GroupOf, difference
from rulvek.core.ratings.population import Promise, SampledUnit, bound_of
from rulvek.core.ratings.sample import (
    TRIED_WITHOUT,
    RatedAt,
    SampleRow,
    counted,
    own_watts,
    sample_rows,
    shared_watts,
    weakest_of,
)
from rulvek.services.conclusions import Conclusions
from rulvek.services.ratings.samples import refuse_unfit_conditions, sampled, shown_units
from rulvek.services.views.comparison import ComparedGroup, ComparedView, compared_view
from rulvek.services.views.ratings import PopulationView, population_view
from rulvek.store import load
from rulvek.store.engine import Database, Session
from rulvek.store.queries import line as line_queries
from rulvek.store.queries import records as record_queries

DEFAULT_STEP_WATTS = 1.0


class Ratings:
    """Works ratings out from what is on record."""

    def __init__(self, database: Database, conclusions: Conclusions) -> None:
        self._database, self._conclusions = database, conclusions

    def population(
        self,
        model_id: int,
        at: RatedAt,
        promise: Promise,
        step_watts: float | None = None,
        without: Collection[int] = (),
    ) -> PopulationView:
        """What a model's units say of its production, at a rating's conditions.

        The systematic part is that of the readings themselves. The step is the series' where none is told.
        ``without`` leaves units out, by their ids.

        Raises:
            NotFound: no such model.
            BadInput: conditions that the model cannot have.
        """
        refuse_out_of_bounds(at)
        with self._database.reading() as session:
            model = load.model(session, model_id)
            step = step_watts or step_of(session, model_id)
            left_out = dict.fromkeys(without, TRIED_WITHOUT)
            rows = sampled(session, self._conclusions, model_id, model.product, at, left_out).rows
        promise = replace(
            promise,
            systematic_watts=shared_watts(rows),
            individual_watts=own_watts(rows),
            step_watts=step,
            channels=weakest_of(rows),
        )
        sample = counted(rows)
        return population_view(at, promise, rows, bound_of(sample, promise) if sample else None)

    def compared(self, at: RatedAt, first: GroupOf, second: GroupOf, asked: Asked) -> ComparedView:
        """Two groups of units at the same conditions, and how they differ.

        Raises:
            NotFound: no such model.
            BadInput: conditions that a model cannot have, or a group of too few units.
        """
        refuse_out_of_bounds(at)
        one, other = self._group(at, first), self._group(at, second)
        found = difference(_exact(one.rows), _exact(other.rows), asked)
        return compared_view(asked, one, other, found)

    def _group(self, at: RatedAt, of: GroupOf) -> ComparedGroup:
        lots = {lot.casefold() for lot in of.lots}
        with self._database.reading() as session:
            model = load.model(session, of.model_id)
            refuse_unfit_conditions(model.product, at)
            method = self._conclusions.method_today(session)
            everything = shown_units(session, of.model_id, model.product)
        shown = [(unit, evidence) for unit, evidence in everything.units if not lots or unit.lot.casefold() in lots]
        name = f"{model.name}, lot {', '.join(of.lots)}" if of.lots else model.name
        rows = sample_rows(at, shown, method, taken_back=everything.taken_back)
        return ComparedGroup(name, rows, aspects_of(at, model, shown, method))

    def held_against(self, model_id: int, basis: Basis) -> tuple[str, ...]:
        """How a basis of other records differs from what these records come to, a sentence a fault.

        Raises:
            NotFound: no such model.
        """
        named = {row.unit_id: row.serial.casefold() for row in basis.rows}
        reasons = {named[one]: reason for one, reason in basis.terms.without.items() if one in named}
        with self._database.reading() as session:
            model = load.model(session, model_id)
            ids = {load.unit(session, one).serial.casefold(): one for one in line_queries.unit_ids(session, model_id)}
            without = {ids[serial]: reason for serial, reason in reasons.items() if serial in ids}
            # What was read again after the basis was frozen says nothing of what it rests on.
            first_read = {row.serial.casefold() for row in basis.rows if not row.read_again}
            first = {one for serial, one in ids.items() if serial in first_read}
            rows = sampled(session, self._conclusions, model_id, model.product, basis.terms.at, without, first).rows
            kept = record_queries.capture_digests(session)
        missing = [
            f"The waveform {digest[:12]}… of attempt {one.attempt_id} is not among these records."
            for one in basis.readings
            for digest in one.files
            if digest not in kept
        ]
        return (*moved_rows(basis, rows), *missing)


def _exact(rows: Iterable[SampleRow]) -> list[SampledUnit]:
    """Units that reached their limit: of others only a lower limit is known, which cannot be compared."""
    return [unit for unit in counted(rows) if not unit.censored]


def step_of(session: Session, model_id: int) -> float:
    """To which a model's series rounds its figures, W."""
    series = line_queries.series_entry(session, line_queries.series_of_model(session, model_id))
    return series.rating_step_watts or DEFAULT_STEP_WATTS
