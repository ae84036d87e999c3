"""Which figure a model's units bear at some conditions, and on which of them it rests."""

from collections.abc import Collection
from dataclasses import replace

from rulvek.core.errors import BadInput
from rulvek.core.judgement.evidence import unit_evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.quantities import refuse_out_of_bounds
from rulvek.core.ratings.population import Promise, bound_of
from rulvek.core.ratings.sample import RatedAt, counted, own_watts, sample_rows, shared_watts
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.ratings import PopulationView, population_view
from rulvek.store import load
from rulvek.store.engine import Database
from rulvek.store.queries import line as line_queries

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
            group = model.product.group(at.group)
            if at.bridged and len(group.channels) < 2:
                raise BadInput(f"The group “{at.group}” has one channel and cannot be bridged.", field="bridged")
            if (at.band_low_hz is None) != (at.band_high_hz is None):
                raise BadInput("A band needs both its limits, or neither.", field="band_high_hz")
            series = line_queries.series_entry(session, line_queries.series_of_model(session, model_id))
            method = self._conclusions.with_repeatability(session, MethodProfile())
            units = [load.unit(session, one) for one in line_queries.unit_ids(session, model_id)]
            shown = [
                (unit, unit_evidence(load.campaigns_of_unit(session, unit.id), model.product).evidence)
                for unit in units
            ]
        rows = sample_rows(at, shown, method, without)
        promise = replace(
            promise,
            systematic_watts=shared_watts(rows),
            individual_watts=own_watts(rows),
            step_watts=step_watts or series.rating_step_watts or DEFAULT_STEP_WATTS,
        )
        sample = counted(rows)
        return population_view(at, promise, rows, bound_of(sample, promise) if sample else None)
