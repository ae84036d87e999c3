"""The board of ratings: the whole line in one look."""

from datetime import date
from typing import TYPE_CHECKING

from rulvek import clock
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.ratings.board import Rated, cells_of
from rulvek.core.ratings.life import RatingState
from rulvek.core.ratings.unsettled import ends_soon, unsettled, valid_until
from rulvek.core.ratings.value import PriceBasis
from rulvek.core.records.claims import ClaimKind
from rulvek.services.conclusions import Conclusions
from rulvek.services.ratings.watch import RatingWatch
from rulvek.services.views.rating_board import BoardModelView, BoardSeriesView, BoardView, CellView, cell_view
from rulvek.store import load, methods, ratings
from rulvek.store.engine import Database, Session
from rulvek.store.formats.workbooks import write_workbook
from rulvek.store.queries import line as line_queries
from rulvek.store.ratings import RatingRow

if TYPE_CHECKING:
    from rulvek.reports.line_pdf import Paper, SheetRow

HEADS = (
    *("Series", "Model", "Group", "Load (Ω)", "Bridged", "Kind", "Published (W)", "Basis", "Standing", "Why"),
    *("Printed (W)", "Documents", "Rating", "Simulated", "Price a watt", "Currency"),
)


class RatingBoard:
    """Puts claims, verdicts and ratings of every model side by side."""

    def __init__(self, database: Database, conclusions: Conclusions, watch: RatingWatch, lab: str = "") -> None:
        self._database, self._conclusions, self._watch, self._lab = database, conclusions, watch, lab

    def workbook(self, basis: PriceBasis = PriceBasis.LIST) -> bytes:
        """The sheet of the line: every load with what is published, its basis in a line, and what a watt costs."""
        rows = [
            (
                *(series.name, model.name, cell.group, cell.load_ohms, "yes" if cell.bridged else "", cell.kind.value),
                *(cell.rated_watts, cell.rests_on, cell.standing.value.replace("_", " "), cell.why),
                *(cell.printed_watts, ", ".join(cell.documents), cell.rating_id, cell.simulated),
                *((cell.value.per_watt, cell.value.currency) if cell.value else (None, "")),
            )
            for series in self.board(basis).series
            for model in series.models
            for cell in model.cells
        ]
        return write_workbook({"Ratings": (HEADS, rows)})

    def printed(self, basis: PriceBasis = PriceBasis.LIST, day: date | None = None, paper: "Paper" = "a4") -> bytes:
        """The same on paper."""
        from rulvek.reports.line_pdf import LineSheet, SheetSeries, line_pdf  # what draws pages takes long to load

        series = tuple(
            SheetSeries(one.name, tuple(_sheet_row(model.name, cell) for model in one.models for cell in model.cells))
            for one in self.board(basis).series
        )
        return line_pdf(LineSheet(self._lab, day or clock.now().date(), basis.value, series, paper))

    def board(self, basis: PriceBasis = PriceBasis.LIST) -> BoardView:
        """Every model, by series; ``basis`` says which price a watt is paid by."""
        with self._database.reading() as session:
            page, _ = line_queries.series_page(session, None, line_queries.EVERYTHING)
            models = {one.id: one for one in load.models(session, [one for series in page for one in series.models])}
            drawn = self._conclusions.models(session, list(models.values()), DecisionRule.AS_STORED)
            rated = self._rated(session, ratings.everything(session))
        cells = {one: cells_of(models[one], drawn[one].verdicts, rated.get(one, [])) for one in models}
        return BoardView(
            series=[
                BoardSeriesView(
                    id=series.id,
                    name=series.name,
                    models=[
                        BoardModelView(
                            id=one,
                            name=models[one].name,
                            cells=[cell_view(cell, models[one], basis) for cell in cells[one]],
                        )
                        for one in series.models
                    ],
                )
                for series in page
            ]
        )

    def _rated(self, session: Session, rows: list[RatingRow]) -> dict[int, list[Rated]]:
        """Ratings by their models; those that are over are not looked at any more."""
        bases = ratings.bases_of(session, rows)
        watched = [row for row in rows if row.id in bases and row.life.state is RatingState.PUBLISHED]
        today = self._watch.today(session, watched)
        reference, day = methods.usual(session).reference_volts, clock.now().date()
        found: dict[int, list[Rated]] = {}
        for row in rows:
            basis = bases.get(row.id)
            against = unsettled(basis, row.life, today[row.id]) if basis and row.id in today else ()
            volts = basis.reference_volts if basis else reference
            told = (basis.simulated, basis.in_a_line) if basis else (False, "")
            until = valid_until(basis, row.life) if basis else None
            soon = until if ends_soon(until, day) else None
            one = Rated(row.id, row.terms, row.life, volts, against, *told, soon)
            found.setdefault(row.model_id, []).append(one)
        return found


def _sheet_row(model: str, cell: CellView) -> "SheetRow":
    from rulvek.reports.line_pdf import SheetRow

    price = f"{cell.value.per_watt:.2f} {cell.value.currency}" if cell.value else ""
    return SheetRow(
        model=model,
        load=f"{cell.group}, {cell.load_ohms:g} Ω{' bridged' if cell.bridged else ''}",
        kind="" if cell.kind is ClaimKind.CONTINUOUS else cell.kind.value,
        rated_watts=cell.rated_watts,
        printed_watts=cell.printed_watts,
        standing=cell.standing.value.replace("_", " "),
        to_do=cell.to_do,
        rests_on=cell.rests_on or cell.why,
        price=price,
        simulated=cell.simulated,
    )
