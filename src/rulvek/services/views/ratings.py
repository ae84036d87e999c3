"""Answers about what a sample bears."""

from collections.abc import Sequence

from rulvek.core.ratings.normality import normal_scores
from rulvek.core.ratings.population import Bound, Method, Promise
from rulvek.core.ratings.sample import RatedAt, SampleRow
from rulvek.services.views.base import View, view


@view
class SampledView(View):
    """A unit in a sample, or why it is not; ``watts`` is its weakest channel at the rating's conditions.

    ``expanded_watts`` is U of it. ``score`` is where it would be expected among normal units, in standard deviations;
    None where it is none of those.
    """

    unit_id: int
    serial: str
    lot: str
    revision: str
    watts: float | None
    expanded_watts: float | None
    censored: bool
    left_out: str
    attempt_id: int | None
    simulated: bool
    score: float | None


@view
class ChanceView(View):
    """How likely so many units would bear the wanted figure."""

    units: int
    chance: float


@view
class BoundView(View):
    """What a sample bears; watts."""

    n: int
    lots: int
    method: Method
    mean: float | None
    spread: float | None
    between: float | None
    within: float | None
    k: float | None
    bound_watts: float | None
    proposal_watts: float | None
    normality_p: float | None
    more_units: int | None
    chances: list[ChanceView]
    notes: list[str]


@view
class PopulationView(View):
    """What a model's units say of its production at some conditions; ``bound`` is None where no unit counts.

    Each unit's figure is that of the weakest of its ``channels``.
    """

    at: RatedAt
    share: float
    confidence: float
    systematic_watts: float
    taken_off_watts: float
    step_watts: float
    wanted_watts: float | None
    channels: int
    rows: list[SampledView]
    bound: BoundView | None
    simulated: bool


def population_view(at: RatedAt, promise: Promise, rows: Sequence[SampleRow], bound: Bound | None) -> PopulationView:
    """The sample with what it bears."""
    exact = sorted((row for row in rows if row.counts and not row.censored), key=lambda row: row.watts or 0.0)
    scores = dict(zip((row.unit_id for row in exact), normal_scores(len(exact)), strict=True))
    return PopulationView(
        at=at,
        share=promise.share,
        confidence=promise.confidence,
        systematic_watts=promise.systematic_watts,
        taken_off_watts=promise.taken_off_watts,
        step_watts=promise.step_watts,
        wanted_watts=promise.wanted_watts,
        channels=promise.channels,
        rows=[
            SampledView(
                unit_id=row.unit_id,
                serial=row.serial,
                lot=row.lot,
                revision=row.revision,
                watts=row.watts,
                expanded_watts=row.expanded_watts if row.watts is not None else None,
                censored=row.censored,
                left_out=row.left_out,
                attempt_id=row.attempt_id,
                simulated=row.simulated,
                score=scores.get(row.unit_id),
            )
            for row in rows
        ],
        bound=_bound_view(bound) if bound else None,
        simulated=any(row.simulated for row in rows if row.counts),
    )


def _bound_view(bound: Bound) -> BoundView:
    return BoundView(
        n=bound.n,
        lots=bound.lots,
        method=bound.method,
        mean=bound.mean,
        spread=bound.spread,
        between=bound.between,
        within=bound.within,
        k=bound.k,
        bound_watts=bound.bound_watts,
        proposal_watts=bound.proposal_watts,
        normality_p=bound.normality.p if bound.normality else None,
        more_units=bound.more_units,
        chances=[ChanceView(units=one.units, chance=one.chance) for one in bound.chances],
        notes=list(bound.notes),
    )
