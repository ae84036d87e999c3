"""Answers about the whole line's ratings."""

from datetime import date

from rulvek.core.ratings.board import TO_DO, Cell, Standing
from rulvek.core.ratings.life import RatingState
from rulvek.core.ratings.value import PriceBasis, Value, value_of
from rulvek.core.records.claims import ClaimKind
from rulvek.core.records.product import Model
from rulvek.services.views.base import View, view


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
    rests_on: str
    ends_on: date | None
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
        rests_on=cell.rating.rests_on if cell.rating and published else "",
        ends_on=cell.rating.ends_on if cell.rating and published else None,
        open_id=cell.open.id if cell.open else None,
        open_watts=cell.open.terms.watts if cell.open else None,
        simulated=any(one.simulated for one in (cell.rating, cell.open) if one),
        value=value_of(model.facts, model.product, cell.rating.terms.at, cell.rating.terms.watts, basis)
        if cell.rating and published
        else None,
    )
