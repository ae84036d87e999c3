"""The sheet of the line as PDF: every load with what is published, on what it rests, and what a watt costs."""

from dataclasses import dataclass
from datetime import date
from typing import Literal

from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.units import mm
from reportlab.platypus import Spacer

from rulvek.reports.look import use_fonts
from rulvek.reports.pages import ALERT, FINE, HEAD, MARGIN, NOTE, Running, printed, table, text

Paper = Literal["a4", "a3"]
PAGES = {"a4": landscape(A4), "a3": landscape(A3)}
SIMULATED = "Figures marked “simulated” come from a simulated bench: no amplifier gave them."
CAUTION = (
    "The figure is what is published, of each channel (of each pair where bridged). It is no approval of any kind:"
    " fuses, cables and installation follow local codes and the judgement of qualified people."
)


@dataclass(frozen=True, slots=True)
class SheetRow:
    """A load of a model. ``standing`` is a word; ``rests_on`` the basis in a line, or what is missing."""

    model: str
    load: str
    kind: str
    rated_watts: float | None
    printed_watts: float | None
    standing: str
    to_do: bool
    rests_on: str
    price: str
    simulated: bool


@dataclass(frozen=True, slots=True)
class SheetSeries:
    """A series with its rows, models one after the other."""

    name: str
    rows: tuple[SheetRow, ...]


@dataclass(frozen=True, slots=True)
class LineSheet:
    """The whole line on a day; ``price`` says which one a watt is paid by, ``paper`` is laid across."""

    lab: str
    day: date
    price: str
    series: tuple[SheetSeries, ...]
    paper: Paper = "a4"


def line_pdf(sheet: LineSheet) -> bytes:
    """The same sheet always gives the same bytes."""
    use_fonts()
    page = PAGES[sheet.paper]
    rows = [row for series in sheet.series for row in series.rows]
    published, due = sum(row.rated_watts is not None for row in rows), sum(row.to_do for row in rows)
    story = [
        text(f"Power ratings, {sheet.day.isoformat()}", HEAD),
        text(f"{published} of {len(rows)} loads have a published figure; something is to be done about {due}.", NOTE),
    ]
    if any(row.simulated for row in rows):
        story.append(text(SIMULATED, ALERT))
    head = (
        "Model",
        "Load",
        "Published, W",
        "Printed, W",
        "Standing",
        "Basis, or what is missing",
        f"Price a watt, {sheet.price}",
    )
    for series in sheet.series:
        if series.rows:
            cells = [
                (
                    row.model if at == 0 or series.rows[at - 1].model != row.model else "",
                    f"{row.load}, {row.kind}" if row.kind else row.load,
                    "–" if row.rated_watts is None else f"{row.rated_watts:g}",
                    "–" if row.printed_watts is None else f"{row.printed_watts:g}",
                    f"{row.standing}, simulated" if row.simulated else row.standing,
                    row.rests_on,
                    row.price or "–",
                )
                for at, row in enumerate(series.rows)
            ]
            found = table(head, cells, (34, 32, 20, 18, 32, 96, 24), right=(2, 3, 6), over=page[0] - 2 * MARGIN)
            story += [text(series.name, HEAD), found]
    story += [Spacer(1, 4 * mm), text(CAUTION, FINE)]
    return printed(story, Running("Power ratings", sheet.lab, sheet.day.isoformat(), page=page))
