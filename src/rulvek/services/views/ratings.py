"""Answers about what a sample bears."""

from collections.abc import Sequence
from datetime import date, datetime
from typing import Any

from rulvek.core.ratings.basis import Basis, RatingTerms
from rulvek.core.ratings.board import TO_DO, Cell, Standing
from rulvek.core.ratings.compare import Asked, Difference
from rulvek.core.ratings.life import Life, RatingState, StepKind, next_steps, refused_by
from rulvek.core.ratings.normality import normal_scores
from rulvek.core.ratings.population import Bound, Method, Promise
from rulvek.core.ratings.printed import Printed, Says
from rulvek.core.ratings.sample import RatedAt, SampleRow
from rulvek.core.ratings.texts import PrintedTexts, wording
from rulvek.core.ratings.unsettled import Cause, IndividualsChart, Unsettling
from rulvek.core.ratings.value import PriceBasis, Value, value_of
from rulvek.core.records.claims import ClaimKind
from rulvek.core.records.product import Model
from rulvek.services.views.base import View, view


@view
class SampledView(View):
    """A unit in a sample, or why it is not; ``watts`` is its weakest channel at the rating's conditions.

    ``score`` is where it would be expected among normal units, in standard deviations; None where it is none of those.
    """

    unit_id: int
    serial: str
    lot: str
    revision: str
    watts: float | None
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
    """What a model's units say of its production at some conditions; ``bound`` is None where no unit counts."""

    at: RatedAt
    share: float
    confidence: float
    systematic_watts: float
    taken_off_watts: float
    step_watts: float
    wanted_watts: float | None
    rows: list[SampledView]
    bound: BoundView | None
    simulated: bool


@view
class RatingStepView(View):
    """A step in a rating's life; ``digest`` is of the basis that it is about."""

    number: int
    kind: StepKind
    by: str
    at: datetime
    reason: str
    digest: str


@view
class UnsettlingView(View):
    """Something that unsettles a rating, and what would settle it."""

    cause: Cause
    key: str
    what: str
    settle: str
    confirmable: bool


@view
class PrintedView(View):
    """A figure in a document at a rating's conditions."""

    claim_id: int
    document: str
    stands_at: str
    watts: float
    says: Says


@view
class ChartPointView(View):
    """A unit on a chart of individuals; ``signal`` says why it speaks for a change, empty where it does not."""

    serial: str
    lot: str
    watts: float
    attempt_id: int | None
    since: bool
    signal: str


@view
class ChartView(View):
    """Units in the order in which they came, between the limits of the sample that the rating rests on; watts."""

    centre: float
    low: float
    high: float
    points: list[ChartPointView]


@view
class BasisView(View):
    """What a proposal rests on besides its units."""

    program: str
    method: str
    revisions: list[str]
    instruments: list[str]
    measured_by: list[str]
    first_reading: datetime | None
    last_reading: datetime | None


@view
class RatingView(View):
    """A rating: what is promised, where it stands, on what it rests.

    ``next`` are the steps that its state allows; ``hands`` had a hand in it and may not answer for it. ``before_id`` is
    the rating before it at the same conditions, ``changes`` what is other than there.
    """

    id: int
    model_id: int
    model: str
    wording: str
    state: RatingState
    seen: int
    digest: str
    terms: RatingTerms
    reference_volts: float
    steps: list[RatingStepView]
    next: list[StepKind]
    hands: list[str]
    population: PopulationView
    basis: BasisView | None
    chart: ChartView | None
    unsettled: list[UnsettlingView]
    valid_until: date | None
    printed: list[PrintedView]
    before_id: int | None
    changes: list[str]
    simulated: bool


def rating_view(
    rating_id: int,
    model: Model,
    life: Life,
    terms: RatingTerms,
    population: PopulationView,
    basis: Basis | None,
    reference_volts: float,
    against: Sequence[Unsettling],
    valid_until: date | None,
    printed: Sequence[Printed],
    before_id: int | None,
    changes: Sequence[str],
    chart: IndividualsChart | None,
) -> RatingView:
    """A rating as its page shows it."""
    proposal = life.proposal
    return RatingView(
        id=rating_id,
        model_id=model.id,
        model=model.name,
        wording=wording(terms, model.product.group(terms.at.group), reference_volts),
        state=life.state,
        seen=life.seen,
        digest=proposal.digest if proposal else "",
        terms=terms,
        reference_volts=reference_volts,
        steps=[
            RatingStepView(number=one.number, kind=one.kind, by=one.by, at=one.at, reason=one.reason, digest=one.digest)
            for one in life.steps
        ],
        next=sorted(next_steps(life) - {StepKind.SUPERSEDED}),
        hands=sorted(refused_by(life, basis.measured_by if basis else ())),
        population=population,
        basis=_basis_view(basis) if basis else None,
        chart=_chart_view(chart) if chart else None,
        unsettled=[
            UnsettlingView(cause=one.cause, key=one.key, what=one.what, settle=one.settle, confirmable=one.confirmable)
            for one in against
        ],
        valid_until=valid_until,
        printed=[
            PrintedView(
                claim_id=one.claim.id,
                document=one.claim.document,
                stands_at=one.claim.stands_at or "",
                watts=one.claim.each_watts,
                says=one.says,
            )
            for one in printed
        ],
        before_id=before_id,
        changes=list(changes),
        simulated=population.simulated,
    )


@view
class SeriesProposalView(View):
    """What became of a load when a whole series was proposed; ``why`` says so where nothing was."""

    model_id: int
    model: str
    group: str
    load_ohms: float
    bridged: bool
    watts: float | None
    rating_id: int | None
    why: str


@view
class ComparedUnitView(View):
    """A unit of a group; ``watts`` is null where it does not count, which ``left_out`` explains."""

    unit_id: int
    serial: str
    lot: str
    watts: float | None
    left_out: str
    attempt_id: int | None
    simulated: bool


@view
class ComparedGroupView(View):
    """A group of units that is compared."""

    name: str
    mean: float
    units: list[ComparedUnitView]


@view
class ComparedView(View):
    """Two groups, and how the second differs from the first; watts."""

    confidence: float
    first: ComparedGroupView
    second: ComparedGroupView
    by_pairs: bool
    watts: float
    db: float
    low: float
    high: float
    p: float
    matters_watts: float
    matters: bool | None
    notes: list[str]


def compared_view(
    asked: Asked,
    first: tuple[str, Sequence[SampleRow]],
    second: tuple[str, Sequence[SampleRow]],
    found: Difference,
) -> ComparedView:
    """Two groups with their difference."""
    return ComparedView(
        confidence=asked.confidence,
        first=_group_view(*first),
        second=_group_view(*second),
        by_pairs=found.by_pairs,
        watts=found.watts,
        db=found.db,
        low=found.low,
        high=found.high,
        p=found.p,
        matters_watts=found.matters_watts,
        matters=found.matters,
        notes=list(found.notes),
    )


def _group_view(name: str, rows: Sequence[SampleRow]) -> ComparedGroupView:
    units = [
        ComparedUnitView(
            unit_id=row.unit_id,
            serial=row.serial,
            lot=row.lot,
            watts=row.watts if row.counts and not row.censored else None,
            left_out=row.left_out or ("Only a lower limit is known." if row.censored else ""),
            attempt_id=row.attempt_id,
            simulated=row.simulated,
        )
        for row in rows
    ]
    read = [one.watts for one in units if one.watts is not None]
    return ComparedGroupView(name=name, mean=sum(read) / len(read), units=units)


@view
class TextsView(View):
    """A published rating as others print it; ``lacks`` says what a reader would need and does not find in the line."""

    line: str
    lacks: list[str]
    data: dict[str, Any]
    linked: dict[str, Any]


def texts_view(texts: PrintedTexts) -> TextsView:
    """The texts without the label, which is a file of its own."""
    return TextsView(line=texts.line, lacks=list(texts.lacks), data=dict(texts.data), linked=dict(texts.linked))


@view
class CellView(View):
    """A load of a model on the board; watts are of each channel.

    ``printed_watts`` is the largest that a document states there. ``rating_id`` is published, or was the last that was;
    ``open_id`` is on its way.
    """

    group: str
    load_ohms: float
    bridged: bool
    kind: ClaimKind
    standing: Standing
    to_do: bool
    why: str
    printed_watts: float | None
    documents: list[str]
    rating_id: int | None
    rated_watts: float | None
    open_id: int | None
    open_watts: float | None
    simulated: bool
    value: Value | None


@view
class BoardModelView(View):
    """A model's loads."""

    id: int
    name: str
    cells: list[CellView]


@view
class BoardSeriesView(View):
    """A series on the board."""

    id: int
    name: str
    models: list[BoardModelView]


@view
class BoardView(View):
    """The whole line."""

    series: list[BoardSeriesView]


def cell_view(cell: Cell, model: Model, basis: PriceBasis) -> CellView:
    """A load as the board shows it, with what a published watt costs."""
    group, load_ohms, bridged = cell.place
    published = cell.rating is not None and cell.rating.life.state is RatingState.PUBLISHED
    return CellView(
        group=group,
        load_ohms=load_ohms,
        bridged=bridged,
        kind=cell.kind,
        standing=cell.standing,
        to_do=cell.standing in TO_DO,
        why=cell.why,
        printed_watts=max((one.each_watts for one in cell.printed), default=None),
        documents=list(dict.fromkeys(one.document for one in cell.printed)),
        rating_id=cell.rating.id if cell.rating else None,
        rated_watts=cell.rating.terms.watts if cell.rating and published else None,
        open_id=cell.open.id if cell.open else None,
        open_watts=cell.open.terms.watts if cell.open else None,
        simulated=any(one.simulated for one in (cell.rating, cell.open) if one),
        value=value_of(model.facts, model.product, cell.rating.terms.at, cell.rating.terms.watts, basis)
        if cell.rating and published
        else None,
    )


def _chart_view(chart: IndividualsChart) -> ChartView:
    return ChartView(
        centre=chart.limits.centre,
        low=chart.limits.low,
        high=chart.limits.high,
        points=[
            ChartPointView(
                serial=one.row.serial,
                lot=one.row.lot,
                watts=one.watts,
                attempt_id=one.row.attempt_id,
                since=one.since,
                signal=one.signal.signal.value if one.signal else "",
            )
            for one in chart.points
        ],
    )


def _basis_view(basis: Basis) -> BasisView:
    taken = sorted(one.taken_at for one in basis.readings)
    return BasisView(
        program=basis.program,
        method=str(basis.method.get("name", "")),
        revisions=sorted(basis.covered - {""}),
        instruments=sorted({name for one in basis.readings for name in one.instruments}),
        measured_by=sorted(basis.measured_by),
        first_reading=taken[0] if taken else None,
        last_reading=taken[-1] if taken else None,
    )


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
        rows=[
            SampledView(
                unit_id=row.unit_id,
                serial=row.serial,
                lot=row.lot,
                revision=row.revision,
                watts=row.watts,
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
