"""The pictures of a dossier: the sample on its scale, and how it scatters."""

from collections.abc import Mapping, Sequence

from reportlab.graphics.shapes import Circle, Drawing, Line, Rect, String

from rulvek.core.ratings.basis import Basis, SampledReading
from rulvek.core.ratings.normality import normal_scores
from rulvek.core.ratings.sample import SampleRow
from rulvek.reports.look import BOLD, INK, MARK, PLAIN, QUIET, RULE, WIDTH

BARS_EACH = 40
"""Units of one picture: as many as fit on a page."""


def strip(basis: Basis) -> Drawing:
    """Every unit on one scale of watts, a line a lot, with the bound and the figure."""
    rows = [row for row in basis.rows if row.watts is not None]
    marks = [row.watts or 0.0 for row in rows] + [basis.terms.watts]
    bound = basis.bound.bound_watts
    if bound is not None:
        marks.append(bound)
    low, high = min(marks), max(marks)
    low, high = low - 0.08 * ((high - low) or 1), high + 0.08 * ((high - low) or 1)
    lots = list(dict.fromkeys(row.lot for row in rows))
    left, line = 74.0, 22.0
    foot, top = 18.0, 18.0 + line * len(lots)
    drawing = Drawing(WIDTH, top + 22)

    def x(watts: float) -> float:
        return float(left + (watts - low) / (high - low) * (WIDTH - left - 8))

    for tick in _ticks(low, high):
        drawing.add(String(x(tick), 5, f"{tick:g}", fontName=PLAIN, fontSize=7.5, fillColor=QUIET, textAnchor="middle"))
    drawing.add(String(0, 5, "W", fontName=PLAIN, fontSize=7.5, fillColor=QUIET))
    for at, lot in enumerate(reversed(lots)):
        y = foot + at * line
        drawing.add(Line(left, y, WIDTH, y, strokeColor=RULE, strokeWidth=0.5))
        drawing.add(String(0, y + 3, f"lot {lot or 'not known'}", fontName=PLAIN, fontSize=8, fillColor=QUIET))
        for row in (one for one in rows if one.lot == lot):
            _unit(drawing, row, x(row.watts or 0.0), y + 6)
    named: list[tuple[float, str, tuple[int, int] | None]] = [(basis.terms.watts, "rating", (2, 2))]
    if bound is not None:
        named.append((bound, "bound", None))
    for watts, word, dash in named:
        drawing.add(Line(x(watts), foot, x(watts), top + 6, strokeColor=INK, strokeWidth=1.1, strokeDashArray=dash))
        up = top + (8 if word == "bound" else 15)
        drawing.add(String(x(watts) + 2, up, f"{word} {watts:.4g} W", fontName=BOLD, fontSize=7.5, fillColor=INK))
    return drawing


def _unit(drawing: Drawing, row: SampleRow, x: float, y: float) -> None:
    if row.left_out:
        drawing.add(Circle(x, y, 3, fillColor=None, strokeColor=QUIET, strokeWidth=0.8))
    elif row.censored:
        drawing.add(Rect(x - 3, y - 3, 6, 6, fillColor=MARK, strokeColor=None))
    else:
        drawing.add(Circle(x, y, 3.2, fillColor=MARK, strokeColor=None))


def reach_bars(basis: Basis) -> list[Drawing]:
    """A bar a unit as far as its weakest channel reaches, with ± U, and where the other channels lie; some a picture.

    Bars begin where the scale does, not at nothing: units of a model hardly differ.
    """
    units = [(row, row.watts) for row in basis.rows if row.watts is not None]
    readings = {one.attempt_id: one for one in basis.readings}
    marks = [basis.terms.watts, *(watts for _, watts in units)]
    for row, watts in units:
        found = readings.get(row.attempt_id or 0)
        if found is not None and found.watts:
            marks.append(watts * max(found.watts) / min(found.watts))
        marks += [watts - row.expanded_watts, watts + row.expanded_watts]
    low, high = min(marks), max(marks)
    pad = 0.06 * ((high - low) or 1)
    scale = (low - pad, high + pad)
    return [
        _bars(units[at : at + BARS_EACH], readings, basis.terms.watts, scale) for at in range(0, len(units), BARS_EACH)
    ]


def _bars(
    units: Sequence[tuple[SampleRow, float]],
    readings: Mapping[int, SampledReading],
    rated: float,
    scale: tuple[float, float],
) -> Drawing:
    left, line, foot = 96.0, 12.0, 16.0
    height = foot + line * len(units)
    drawing = Drawing(WIDTH, height + 14)
    low, high = scale

    def x(watts: float) -> float:
        return float(left + (watts - low) / (high - low) * (WIDTH - left - 46))

    for tick in _ticks(low, high):
        drawing.add(String(x(tick), 4, f"{tick:g}", fontName=PLAIN, fontSize=7.5, fillColor=QUIET, textAnchor="middle"))
    drawing.add(String(0, 4, "W", fontName=PLAIN, fontSize=7.5, fillColor=QUIET))
    for at, (row, watts) in enumerate(units):
        y = height - (at + 0.5) * line
        quiet = bool(row.left_out)
        drawing.add(String(0, y - 3, row.serial[:18], fontName=PLAIN, fontSize=7.5, fillColor=QUIET if quiet else INK))
        bar = Rect(
            left, y - 3, x(watts) - left, 6, fillColor=None if quiet else RULE, strokeColor=QUIET, strokeWidth=0.4
        )
        drawing.add(bar)
        found = readings.get(row.attempt_id or 0)
        if found is not None and found.watts:
            for channel in found.watts:
                at_x = x(watts * channel / min(found.watts))
                drawing.add(Line(at_x, y - 4, at_x, y + 4, strokeColor=MARK, strokeWidth=1.1))
        if row.expanded_watts:
            ends = (x(watts - row.expanded_watts), y, x(watts + row.expanded_watts), y)
            drawing.add(Line(*ends, strokeColor=INK, strokeWidth=0.8))
        words = f"{'≥ ' if row.censored else ''}{watts:.2f}"
        drawing.add(String(WIDTH, y - 3, words, fontName=PLAIN, fontSize=7.5, fillColor=INK, textAnchor="end"))
    drawing.add(Line(x(rated), foot, x(rated), height + 3, strokeColor=INK, strokeWidth=1.1, strokeDashArray=(2, 2)))
    drawing.add(String(x(rated) + 2, height + 5, f"rating {rated:.4g} W", fontName=BOLD, fontSize=7.5, fillColor=INK))
    return drawing


def probability_plot(rows: Sequence[SampleRow], mean: float | None, spread: float | None) -> Drawing | None:
    """Units over where normal ones would be expected; None where they are too few to look at."""
    values = sorted(row.watts for row in rows if row.counts and not row.censored and row.watts)
    if len(values) < 3:
        return None
    width, height, left, foot = WIDTH * 0.62, 130.0, 34.0, 20.0
    scores = normal_scores(len(values))
    reach = 1.2 * max(1.0, abs(scores[0]))
    low, high = values[0], values[-1]
    if mean is not None and spread:
        low, high = min(low, mean - reach * spread), max(high, mean + reach * spread)
    pad = 0.05 * ((high - low) or 1)
    low, high = low - pad, high + pad
    drawing = Drawing(width, height)

    def x(watts: float) -> float:
        return float(left + (watts - low) / (high - low) * (width - left - 4))

    def y(score: float) -> float:
        return float(foot + (score + reach) / (2 * reach) * (height - foot - 4))

    for line in (-2, -1, 0, 1, 2):
        if abs(line) <= reach:
            drawing.add(Line(left, y(line), width, y(line), strokeColor=RULE, strokeWidth=0.4))
            drawing.add(
                String(
                    left - 4,
                    y(line) - 3,
                    f"{line:+d}" if line else "0",
                    fontName=PLAIN,
                    fontSize=7.5,
                    fillColor=QUIET,
                    textAnchor="end",
                )
            )
    if mean is not None and spread:
        ends = (x(mean - reach * spread), y(-reach), x(mean + reach * spread), y(reach))
        drawing.add(Line(*ends, strokeColor=QUIET, strokeWidth=0.8, strokeDashArray=(4, 3)))
    for watts, score in zip(values, scores, strict=True):
        drawing.add(Circle(x(watts), y(score), 2.8, fillColor=MARK, strokeColor=None))
    for tick in _ticks(low, high):
        drawing.add(String(x(tick), 7, f"{tick:g}", fontName=PLAIN, fontSize=7.5, fillColor=QUIET, textAnchor="middle"))
    drawing.add(String(left - 4, 7, "W", fontName=PLAIN, fontSize=7.5, fillColor=QUIET, textAnchor="end"))
    return drawing


def _ticks(low: float, high: float) -> list[float]:
    """Four to eight round numbers within a range."""
    span = high - low
    step = 10.0 ** len(str(int(span))) if span >= 1 else 1.0
    for _ in range(40):
        for part in (1.0, 0.5, 0.2):
            if span / (step * part) >= 4:
                first = int(low / (step * part)) + 1
                count = int((high - first * step * part) / (step * part)) + 1
                return [round((first + at) * step * part, 9) for at in range(max(0, count))]
        step /= 10
    return []
