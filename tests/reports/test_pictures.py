"""Pictures and pages of reports, by what was drawn where."""

import re
from dataclasses import replace
from datetime import date

import pytest
from reportlab.graphics.shapes import Drawing, Line, Rect, String

from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.sample import RatedAt, SampleRow
from rulvek.reports.dossier_pictures import BARS_EACH, reach_bars
from rulvek.reports.line_pdf import LineSheet, SheetRow, SheetSeries, line_pdf
from rulvek.reports.look import RULE
from tests.core.test_unsettled import frozen, unit

WATTS = (100.0, 104.0, 108.0)


def bars_of(drawing: Drawing) -> list[Rect]:
    return [one for one in drawing.contents if isinstance(one, Rect)]


def rows(count: int) -> tuple[SampleRow, ...]:
    return tuple(unit(at, WATTS[at % 3]) for at in range(1, count + 1))


def basis_of(sample: tuple[SampleRow, ...]):  # type: ignore[no-untyped-def]
    made = frozen(RatingTerms(RatedAt("main", 4.0), 96.0), sample)
    readings = tuple(replace(one, watts=(104.0, 106.08)) if at == 0 else one for at, one in enumerate(made.readings))
    return replace(made, readings=readings)


def test_a_bar_is_as_long_as_its_watts() -> None:
    """Equal steps of watts are equal steps on paper, and the rating stands where its watts are."""
    sample = (unit(1, 104.0, shared_watts=0.25, own_watts=0.6), unit(2, 100.0), unit(3, 108.0))
    (drawing,) = reach_bars(basis_of(sample))
    middle, short, long = (one.x + one.width for one in bars_of(drawing))
    assert long - middle == pytest.approx(middle - short)
    (dashed,) = [one for one in drawing.contents if isinstance(one, Line) and one.strokeDashArray]
    assert middle - dashed.x1 == pytest.approx(2 * (long - middle))  # 8 W below 104 W
    # The other channel's stroke lies 2 % above the weakest, and U reaches 1.3 W to either side.
    across = [one for one in drawing.contents if isinstance(one, Line) and one.y1 == one.y2 and one.x1 < one.x2]
    (spread,) = across
    assert spread.x2 - spread.x1 == pytest.approx(2.6 / 4 * (long - middle))
    strokes = sorted(one.x1 for one in drawing.contents if isinstance(one, Line) and one.y2 - one.y1 == 8)
    assert strokes == pytest.approx([middle, middle + 2.08 / 4 * (long - middle)])


def test_units_that_do_not_count_or_gave_at_least_so_much_are_told_apart() -> None:
    sample = (unit(1, 104.0), unit(2, 100.0, left_out="It was returned."), unit(3, 108.0, censored=True))
    (drawing,) = reach_bars(basis_of(sample))
    assert [one.fillColor for one in bars_of(drawing)] == [RULE, None, RULE]
    assert "≥ 108.00" in [one.text for one in drawing.contents if isinstance(one, String)]


def test_many_units_take_several_pictures_on_one_scale() -> None:
    pictures = reach_bars(basis_of(rows(2 * BARS_EACH + 3)))
    assert [len(bars_of(one)) for one in pictures] == [BARS_EACH, BARS_EACH, 3]
    ends = {round(bar.width, 6) for one in pictures for bar in bars_of(one)}
    assert len(ends) == 3  # as many as there are different watts


ROW = SheetRow("T2", "main, 4 Ω", "", 80.0, 75.0, "backed", False, "12 units of 3 lots", "2.13 EUR", False)


def test_the_sheet_of_the_line_is_the_same_bytes_for_the_same_line() -> None:
    sheet = LineSheet(
        "Brack lab", date(2026, 11, 30), "list", (SheetSeries("Thornmere", (ROW, replace(ROW, load="2 Ω"))),)
    )
    assert line_pdf(sheet) == line_pdf(sheet)
    assert line_pdf(sheet) != line_pdf(replace(sheet, day=date(2026, 12, 1)))
    long = replace(sheet, series=tuple(SheetSeries(f"S{at}", (ROW,) * 60) for at in range(3)))
    assert line_pdf(long).count(b"/Type /Page\n") >= 6
    wall = line_pdf(replace(long, paper="a3"))
    assert wall.count(b"/Type /Page\n") < line_pdf(long).count(b"/Type /Page\n")
    # ISO 216 in points of 1/72 inch: 420 mm by 297 mm, and 297 mm by 210 mm.
    for made, width, height in ((wall, 420, 297), (line_pdf(long), 297, 210)):
        size = re.search(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", made)
        assert size is not None
        assert [float(one) for one in size.groups()] == pytest.approx([width * 72 / 25.4, height * 72 / 25.4], abs=0.1)
    assert line_pdf(replace(sheet, series=())).startswith(b"%PDF")  # an empty line has a sheet, too
