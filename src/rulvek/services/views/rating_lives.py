"""Answers about a rating: what is promised, where it stands, on what it rests, how it is printed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from rulvek.core.ratings.basis import Basis, RatingTerms
from rulvek.core.ratings.life import Life, RatingState, Step, StepKind, next_steps, refused_by
from rulvek.core.ratings.links import SHOWABLE
from rulvek.core.ratings.printed import Printed, Says
from rulvek.core.ratings.texts import PrintedTexts, wording
from rulvek.core.ratings.unsettled import Cause, IndividualsChart, LotSince, Unsettling
from rulvek.core.records.product import Model
from rulvek.services.views.base import View, view
from rulvek.services.views.ratings import PopulationView


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
    """A unit on a chart of individuals; ``signal`` says why it speaks for a change, empty where it does not.

    ``moved`` is how far it is from the unit before, W; null for the first.
    """

    serial: str
    lot: str
    watts: float
    attempt_id: int | None
    since: bool
    signal: str
    moved: float | None


@view
class ChartView(View):
    """Units in the order in which they came, between the limits of the sample that the rating rests on; watts.

    ``mean_range`` and ``highest_range`` are of moving ranges.
    """

    centre: float
    low: float
    high: float
    mean_range: float
    highest_range: float
    points: list[ChartPointView]


@view
class LotView(View):
    """A lot that came since, accepted by variables or not; null where its units are too few to tell."""

    lot: str
    units: int
    mean: float | None
    quality: float | None
    k: float | None
    accepted: bool | None


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


@dataclass(frozen=True, slots=True)
class SinceSentBack:
    """The step that sent an earlier proposal back, and what is other than in it."""

    step: Step
    changes: tuple[str, ...]


@view
class SinceSentBackView(View):
    """Who sent an earlier proposal back, why, and what is other than in it."""

    by: str
    reason: str
    changes: list[str]


@view
class RatingView(View):
    """A rating: what is promised, where it stands, on what it rests.

    ``next`` are the steps that its state allows; ``hands`` had a hand in it and may not answer for it. ``before_id`` is
    the rating before it at the same conditions, ``changes`` what is other than there; ``since_sent_back`` stands in one
    that was proposed again.
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
    sent_back: RatingStepView | None
    next: list[StepKind]
    hands: list[str]
    population: PopulationView
    basis: BasisView | None
    chart: ChartView | None
    lots: list[LotView]
    unsettled: list[UnsettlingView]
    valid_until: date | None
    showable: bool
    printed: list[PrintedView]
    before_id: int | None
    changes: list[str]
    since_sent_back: SinceSentBackView | None
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
    since: SinceSentBack | None,
    chart: IndividualsChart | None,
    lots: Sequence[LotSince],
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
        steps=[_step_view(one) for one in life.steps],
        sent_back=_step_view(life.sent_back) if life.sent_back else None,
        next=sorted(next_steps(life) - {StepKind.SUPERSEDED}),
        hands=sorted(refused_by(life, basis.measured_by if basis else ())),
        population=population,
        basis=_basis_view(basis) if basis else None,
        chart=chart_view(chart) if chart else None,
        lots=[_lot_view(one) for one in lots],
        unsettled=[
            UnsettlingView(cause=one.cause, key=one.key, what=one.what, settle=one.settle, confirmable=one.confirmable)
            for one in against
        ],
        valid_until=valid_until,
        showable=life.state in SHOWABLE,
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
        since_sent_back=SinceSentBackView(by=since.step.by, reason=since.step.reason, changes=list(since.changes))
        if since
        else None,
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
class TextsView(View):
    """A published rating as others print it; ``lacks`` says what a reader would need and does not find in the line."""

    line: str
    lacks: list[str]
    data: dict[str, Any]
    linked: dict[str, Any]


def texts_view(texts: PrintedTexts) -> TextsView:
    """The texts without the label, which is a file of its own."""
    return TextsView(line=texts.line, lacks=list(texts.lacks), data=dict(texts.data), linked=dict(texts.linked))


def _step_view(one: Step) -> RatingStepView:
    return RatingStepView(number=one.number, kind=one.kind, by=one.by, at=one.at, reason=one.reason, digest=one.digest)


def _lot_view(one: LotSince) -> LotView:
    found = one.found
    return LotView(
        lot=one.lot,
        units=one.units,
        mean=found.mean if found else None,
        quality=found.quality if found else None,
        k=found.k if found else None,
        accepted=found.accepted if found else None,
    )


def chart_view(chart: IndividualsChart) -> ChartView:
    return ChartView(
        centre=chart.limits.centre,
        low=chart.limits.low,
        high=chart.limits.high,
        mean_range=chart.limits.mean_range,
        highest_range=chart.limits.highest_range,
        points=[
            ChartPointView(
                serial=one.row.serial,
                lot=one.row.lot,
                watts=one.watts,
                attempt_id=one.row.attempt_id,
                since=one.since,
                signal=one.signal.signal.value if one.signal else "",
                moved=one.moved,
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
