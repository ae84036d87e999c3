"""What printed pages have in common: styles of text, tables, and a head and a foot on each of numbered pages."""

import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Paragraph, SimpleDocTemplate, Table, TableStyle

from rulvek.reports.look import BOLD, INK, PLAIN, QUIET, RULE, WARN, WIDTH, use_fonts

PADDING = 6
"""Points that the library keeps free within a page's margins."""
MARGIN = 18 * mm


@dataclass(frozen=True, slots=True)
class Running:
    """What stands on every page: its head at the left and at the right, and its foot."""

    title: str
    by: str
    foot: str
    subject: str = ""
    page: tuple[float, float] = A4


def printed(story: Sequence[Any], running: Running) -> bytes:
    """Pages with the same bytes for the same story."""
    use_fonts()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out,
        pagesize=running.page,
        leftMargin=MARGIN - PADDING,
        rightMargin=MARGIN - PADDING,
        topMargin=20 * mm,
        bottomMargin=18 * mm,
        title=running.title,
        author=running.by or "Rulvek",
        subject=running.subject,
        invariant=1,
    )

    class Pages(Canvas):
        """Writes the head and the foot of every page once it is known how many there are."""

        def __init__(self, *args: Any, **more: Any) -> None:
            super().__init__(*args, **more)
            self._pages: list[dict[str, Any]] = []

        def showPage(self) -> None:  # noqa: N802  # as the library calls it
            """Keep the page for later."""
            self._pages.append(dict(self.__dict__))
            self._startPage()

        def save(self) -> None:
            """Write all of them."""
            for number, page in enumerate(self._pages, 1):
                self.__dict__.update(page)
                _frame(self, running, number, len(self._pages))
                super().showPage()
            super().save()

    document.build(list(story), canvasmaker=Pages)
    return out.getvalue()


def style(name: str, size: float = 9.5, **more: Any) -> ParagraphStyle:
    """A style of text in our fonts."""
    more = {"fontName": PLAIN, "leading": size * 1.36, "textColor": INK} | more
    return ParagraphStyle(name, fontSize=size, **more)


BODY = style("body")
NOTE = style("note", textColor=QUIET)
CELL = style("cell", 8.5)
FINE = style("fine", 7.2, leading=9.2, textColor=QUIET)
FIGURE = style("figure", 30, fontName=BOLD, leading=36)
SAYS = style("says", 13, leading=18)
HEAD = style("head", 12, fontName=BOLD, spaceBefore=16, spaceAfter=4)
ALERT = style(
    "alert", 9.5, textColor=WARN, borderColor=WARN, borderWidth=0.8, borderPadding=5, spaceBefore=8, spaceAfter=8
)


def _frame(canvas: Canvas, running: Running, number: int, of: int) -> None:
    canvas.setFont(PLAIN, 8)
    canvas.setFillColor(QUIET)
    width, height = running.page
    top, foot, right = height - 12 * mm, 10 * mm, width - MARGIN
    canvas.drawString(MARGIN, top, running.title)
    canvas.drawRightString(right, top, running.by)
    canvas.setStrokeColor(RULE)
    canvas.line(MARGIN, top - 2 * mm, right, top - 2 * mm)
    canvas.drawString(MARGIN, foot, running.foot)
    canvas.drawRightString(right, foot, f"{number} of {of}")


def text(words: str, style: ParagraphStyle = BODY) -> Paragraph:
    """Words of anybody's, never as markup."""
    return Paragraph(escape(words), style)


def table(
    head: Sequence[str],
    rows: Iterable[Sequence[Any]],
    widths: Sequence[float],
    right: Sequence[int] = (),
    over: float = WIDTH,
) -> Table:
    """A table ``over`` a width of points; ``widths`` are shares of it, ``right`` the columns of figures."""
    cells: list[list[Any]] = []
    if any(head):
        cells.append([text(one, _BOLD_RIGHT if at in right else _BOLD) for at, one in enumerate(head)])
    for row in rows:
        cells.append([text(str(one), _RIGHT if at in right else CELL) for at, one in enumerate(row)])
    total = sum(widths)
    return Table(
        cells,
        colWidths=[over * one / total for one in widths],
        repeatRows=1 if any(head) else 0,
        style=TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LEFTPADDING", (0, 0), (-1, -1), 2),
                ("RIGHTPADDING", (0, 0), (-1, -1), 6),
                ("TOPPADDING", (0, 0), (-1, -1), 2.2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2.2),
                ("LINEBELOW", (0, 0), (-1, -1), 0.3, RULE),
                *([("LINEBELOW", (0, 0), (-1, 0), 0.8, INK)] if any(head) else []),
            ]
        ),
    )


_BOLD = style("cell head", 8.5, fontName=BOLD)
_BOLD_RIGHT = style("cell head, figures", 8.5, fontName=BOLD, alignment=2)
_RIGHT = style("cell, figures", 8.5, alignment=2)
