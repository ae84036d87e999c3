"""A rating's dossier as PDF: the same dossier always gives the same bytes."""

import io
from collections.abc import Iterable, Mapping, Sequence
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import KeepTogether, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from rulvek.core.method.origins import ORIGINS
from rulvek.core.ratings.dossier import Dossier
from rulvek.core.ratings.life import WORDS, StepKind
from rulvek.core.ratings.population import Method
from rulvek.core.ratings.sample import SampleRow
from rulvek.core.rounding import with_u
from rulvek.reports.dossier_pictures import probability_plot, strip
from rulvek.reports.look import BOLD, INK, PLAIN, QUIET, RULE, WARN, WIDTH, use_fonts

NOT_SAID = "not stated"
PADDING = 6
"""Points that the library keeps free within a page's margins."""
SIMULATED = (
    "Simulated: every reading marked so comes from a simulated bench. No amplifier gave it, and it backs no figure"
    " that may be printed."
)
CAUTION = (
    "A rating states which power units of this model give under the conditions named. It is no approval of any kind:"
    " fuses, cables and installation follow local codes and the judgement of qualified people."
)
CHECK = (
    "“rulvek verify-dossier FILE” checks the signature, holds every digest against what it is of, and works the figures"
    " out again from this file alone. Whoever receives it compares the certificate’s fingerprint with the lab."
)


METHOD_WORDS: Mapping[Method, str] = {
    Method.NORMAL: "taken as normal",
    Method.LOTS: "lots taken as they differ",
    Method.DISTRIBUTION_FREE: "whatever their distribution",
    Method.CENSORED: "some at least so much",
}


def dossier_pdf(dossier: Dossier) -> bytes:
    """The report, not signed yet."""
    use_fonts()
    out = io.BytesIO()
    title = f"Dossier of rating {dossier.number}, {dossier.basis.model}"
    document = SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=18 * mm - PADDING,
        rightMargin=18 * mm - PADDING,
        topMargin=20 * mm,
        bottomMargin=18 * mm,
        title=title,
        author=dossier.lab or "Rulvek",
        subject=dossier.wording,
        invariant=1,
    )
    story = [
        *_promise(dossier),
        PageBreak(),
        *_sample(dossier),
        *_readings(dossier),
        *_statistics(dossier),
        *_budget(dossier),
        *_instruments(dossier),
        *_life(dossier),
        *_hashes(dossier),
        *_method(dossier),
    ]

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
                _frame(self, dossier, title, number, len(self._pages))
                super().showPage()
            super().save()

    document.build(story, canvasmaker=Pages)
    return out.getvalue()


def _style(name: str, size: float = 9.5, **more: Any) -> ParagraphStyle:
    more = {"fontName": PLAIN, "leading": size * 1.36, "textColor": INK} | more
    return ParagraphStyle(name, fontSize=size, **more)


BODY = _style("body")
NOTE = _style("note", textColor=QUIET)
CELL = _style("cell", 8.5)
FINE = _style("fine", 7.2, leading=9.2, textColor=QUIET)
FIGURE = _style("figure", 30, fontName=BOLD, leading=36)
SAYS = _style("says", 13, leading=18)
HEAD = _style("head", 12, fontName=BOLD, spaceBefore=16, spaceAfter=4)
ALERT = _style(
    "alert", 9.5, textColor=WARN, borderColor=WARN, borderWidth=0.8, borderPadding=5, spaceBefore=8, spaceAfter=8
)


def _frame(canvas: Canvas, dossier: Dossier, title: str, number: int, of: int) -> None:
    canvas.setFont(PLAIN, 8)
    canvas.setFillColor(QUIET)
    top, foot, right = A4[1] - 12 * mm, 10 * mm, A4[0] - 18 * mm
    canvas.drawString(18 * mm, top, title)
    canvas.drawRightString(right, top, dossier.lab)
    canvas.setStrokeColor(RULE)
    canvas.line(18 * mm, top - 2 * mm, right, top - 2 * mm)
    canvas.drawString(18 * mm, foot, f"Basis SHA-256 {dossier.digest[:16]}…")
    canvas.drawRightString(right, foot, f"{number} of {of}")


def _text(words: str, style: ParagraphStyle = BODY) -> Paragraph:
    """Words of anybody's, never as markup."""
    return Paragraph(escape(words), style)


def _table(
    head: Sequence[str], rows: Iterable[Sequence[Any]], widths: Sequence[float], right: Sequence[int] = ()
) -> Table:
    """A table over the whole width; ``widths`` are shares of it, ``right`` the columns of figures."""
    cells: list[list[Any]] = []
    if any(head):
        cells.append([_text(one, _BOLD_RIGHT if at in right else _BOLD) for at, one in enumerate(head)])
    for row in rows:
        cells.append([_text(str(one), _RIGHT if at in right else CELL) for at, one in enumerate(row)])
    total = sum(widths)
    return Table(
        cells,
        colWidths=[WIDTH * one / total for one in widths],
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


_BOLD = _style("cell head", 8.5, fontName=BOLD)
_BOLD_RIGHT = _style("cell head, figures", 8.5, fontName=BOLD, alignment=2)
_RIGHT = _style("cell, figures", 8.5, alignment=2)


def _promise(dossier: Dossier) -> list[Any]:
    basis, terms = dossier.basis, dossier.basis.terms
    bound = basis.bound
    until = f", valid until {dossier.valid_until.isoformat()}" if dossier.valid_until else ""
    covered = ", ".join(sorted(basis.covered - {""}))
    story: list[Any] = [
        _text(f"{terms.watts:g} W", FIGURE),
        _text(basis.model, SAYS),
        _text(dossier.wording, SAYS),
        Spacer(1, 3 * mm),
        _text(f"{dossier.state.value.capitalize()}{until}.{f' Revision {covered}.' if covered else ''}"),
    ]
    if dossier.description:
        story.append(_text(dossier.description, NOTE))
    if basis.simulated:
        story.append(_text(SIMULATED, ALERT))
    story += [Spacer(1, 3 * mm), _signatures(dossier), _text("What is promised", HEAD)]
    percent, sure = 100 * terms.share, 100 * terms.confidence
    story.append(
        _text(f"{percent:g} % of all units of this model give {terms.watts:g} W or more, at {sure:g} % confidence.")
    )
    if bound.bound_watts is not None:
        off = basis.promise.taken_off_watts
        story.append(
            _text(
                f"By {bound.n} units of {bound.lots} {'lot' if bound.lots == 1 else 'lots'}, {percent:g} % of all units"
                f" give {bound.bound_watts:.2f} W or more ({METHOD_WORDS[bound.method]}). What all readings share takes"
                f" {off:.2f} W off; down to a multiple of {basis.step_watts:g} W that leaves"
                f" {_watts(bound.proposal_watts)}.",
                NOTE,
            )
        )
    story += [_text(note, NOTE) for note in bound.notes]
    story += [Spacer(1, 4 * mm), strip(dossier.basis), Spacer(1, 2 * mm), _text(CAUTION, FINE)]
    return story


def _signatures(dossier: Dossier) -> Table:
    steps = {one.kind: one for one in dossier.steps}
    rows = []
    for kind, did in ((StepKind.PROPOSED, "Proposed"), (StepKind.SIGNED, "Signed"), (StepKind.PUBLISHED, "Published")):
        step = steps.get(kind)
        rows.append((did, step.by, _moment(step.at)) if step else (did, "–", ""))
    rows.insert(0, ("Measured", ", ".join(sorted(dossier.basis.measured_by)) or NOT_SAID, ""))
    return _table(("", "By", "On"), rows, (18, 60, 40))


def _sample(dossier: Dossier) -> list[Any]:
    def row(one: SampleRow) -> tuple[str, ...]:
        watts = "–" if one.watts is None else f"{'≥ ' if one.censored else ''}{one.watts:.2f}"
        counts = one.left_out or ("yes, simulated" if one.simulated else "yes")
        return one.serial, one.lot or "–", one.revision or "–", watts, str(one.attempt_id or "–"), counts

    head = ("Unit", "Lot", "Revision", "Weakest, W", "Attempt", "Counts")
    return [
        _text("Units", HEAD),
        _text("One figure each, brought to the rating’s conditions: the weakest channel over all tones.", NOTE),
        Spacer(1, 1.5 * mm),
        _table(head, map(row, dossier.basis.rows), (30, 16, 16, 26, 16, 60), right=(3, 4)),
    ]


def _readings(dossier: Dossier) -> list[Any]:
    serials = {row.attempt_id: row.serial for row in dossier.basis.rows}
    rows, doubts = [], []
    for one in dossier.basis.readings:
        weakest = with_u(min(one.watts), one.expanded_watts, "").strip() if one.watts and one.expanded_watts else "–"
        rows.append(
            (
                one.attempt_id,
                serials.get(one.attempt_id, ""),
                _moment(one.taken_at),
                one.taken_by,
                " / ".join(f"{watts:.1f}" for watts in one.watts),
                f"{weakest}",
                "–" if one.supply_volts is None else f"{one.supply_volts:.2f}",
                "–" if one.measured_ohms is None else f"{one.measured_ohms:.3f}",
                "–" if one.thd_n_percent is None else f"{one.thd_n_percent:.2f}",
                one.end.value.replace("_", " ") if one.end else "",
            )
        )
        doubts += [f"Attempt {one.attempt_id}: {doubt}" for doubt in one.doubts]
    head = ("No.", "Unit", "Taken", "By", "Channels, W", "Weakest ± U, W", "V", "Ω", "THD+N, %", "End")
    story: list[Any] = [
        _text("Readings", HEAD),
        _text(
            "Attempts by their numbers, as they were read, before they were brought to the rating’s conditions: U at"
            " 95 %, the loaded supply, the weakest channel’s load, the worst THD+N.",
            NOTE,
        ),
        Spacer(1, 1.5 * mm),
        _table(head, rows, (9, 29, 31, 25, 27, 24, 12, 13, 15, 14), right=(5, 6, 7, 8)),
    ]
    if doubts:
        story += [Spacer(1, 2 * mm), _text("What the checks doubt:", BODY), *(_text(one, NOTE) for one in doubts)]
    else:
        story += [Spacer(1, 2 * mm), _text("The checks doubt none of them.", NOTE)]
    return story


def _statistics(dossier: Dossier) -> list[Any]:
    basis, bound = dossier.basis, dossier.basis.bound
    rows = [
        ("Units, lots", f"{bound.n}, {bound.lots}"),
        ("Method", METHOD_WORDS[bound.method]),
        ("Mean", _watts(bound.mean)),
        ("Spread (standard deviation)", _watts(bound.spread)),
        *([("Between lots, within them", f"{_watts(bound.between)}, {_watts(bound.within)}")] if bound.between else []),
        ("k", "–" if bound.k is None else f"{bound.k:.4f}"),
        ("Lower bound", _watts(bound.bound_watts)),
        ("Shared by all readings, one standard deviation", _watts(basis.promise.systematic_watts)),
        ("Each reading’s own, one standard deviation", _watts(basis.promise.individual_watts)),
        ("Taken off, k = 1.645 one-sided", _watts(basis.promise.taken_off_watts)),
        ("Proposal, down to a multiple of the step", _watts(bound.proposal_watts)),
    ]
    if bound.normality is not None:
        rows.append(("Anderson–Darling A², p", f"{bound.normality.statistic:.3f}, {bound.normality.p:.3f}"))
    story: list[Any] = [_text("Statistics", HEAD), _table(("", ""), rows, (60, 60))]
    plot = probability_plot(basis.rows, bound.mean, bound.spread)
    if plot is not None:
        words = "Units in rising order over where normal ones would be expected; the line is what these would lie on."
        story.append(KeepTogether([Spacer(1, 4 * mm), plot, _text(words, FINE)]))
    return story


def _budget(dossier: Dossier) -> list[Any]:
    if not dossier.basis.budget:
        return []
    rows = [
        (
            one.name,
            f"{one.value:.4g} {one.unit}",
            one.distribution,
            f"{one.half_width:.3g} {one.unit}",
            f"{one.watts:.3f}",
            "all readings" if one.shared else "this one",
        )
        for one in dossier.basis.budget
    ]
    head = ("What is uncertain", "Estimate", "Distribution", "Half-width", "Contributes, W", "Common to")
    words = "Of the weakest unit’s reading, after the GUM: each line’s contribution is one standard deviation."
    table = _table(head, rows, (38, 22, 22, 24, 20, 22), right=(1, 3, 4))
    return [_text("Uncertainty", HEAD), _text(words, NOTE), Spacer(1, 1.5 * mm), table]


def _instruments(dossier: Dossier) -> list[Any]:
    rows = [
        (
            one.full_name,
            one.role.value,
            one.specification.in_words,
            one.calibrated_on.isoformat() if one.calibrated_on else NOT_SAID,
            one.due_on.isoformat() if one.due_on else "–",
        )
        for one in dossier.instruments
    ]
    if not rows:
        return [_text("Instruments", HEAD), _text("None is stated with these readings.", NOTE)]
    head = ("Instrument", "Reads", "Limits, by its maker", "Calibrated", "Due")
    return [_text("Instruments", HEAD), _table(head, rows, (50, 16, 52, 22, 22))]


def _life(dossier: Dossier) -> list[Any]:
    rows = [(one.number, _moment(one.at), one.by, WORDS[one.kind], one.reason) for one in dossier.steps]
    story: list[Any] = [
        _text("Who did what", HEAD),
        _table(("", "When", "Who", "What", "Why"), rows, (6, 30, 34, 20, 70)),
    ]
    if dossier.printed:
        printed = [(name, at or "–", f"{watts:g}") for name, at, watts in dossier.printed]
        story += [
            _text("Where it is printed", HEAD),
            _table(("Document", "Place", "States, W"), printed, (60, 50, 20), right=(2,)),
        ]
    return story


def _hashes(dossier: Dossier) -> list[Any]:
    rows = []
    for one in dossier.basis.readings:
        rows.append((f"Attempt {one.attempt_id}, as sealed", one.seal or NOT_SAID))
        rows += [(f"Attempt {one.attempt_id}, waveform {at}", file) for at, file in enumerate(one.files, 1)]
    number, seal = dossier.chain
    rows += [("The frozen basis", dossier.digest), (f"Audit chain, entry {number}", seal)]
    cells = [[_text(name, FINE), _text(digest, FINE)] for name, digest in rows]
    padding = [("TOPPADDING", (0, 0), (-1, -1), 0.6), ("BOTTOMPADDING", (0, 0), (-1, -1), 0.6)]
    table = Table(
        cells,
        colWidths=[WIDTH * 0.34, WIDTH * 0.66],
        style=TableStyle([*padding, ("LEFTPADDING", (0, 0), (-1, -1), 2)]),
    )
    return [_text("Digests (SHA-256)", HEAD), _text(CHECK, NOTE), Spacer(1, 1.5 * mm), table]


def _method(dossier: Dossier) -> list[Any]:
    rows = [
        (name.replace("_", " "), _value(value), ORIGINS.get(name, ""))
        for name, value in dossier.basis.method.items()
        if name in ORIGINS
    ]
    words = f"“{dossier.basis.method.get('name', '')}”, worked out by Rulvek {dossier.basis.program}."
    table = _table(("Number of the procedure", "Value", "Where it comes from"), rows, (46, 24, 90))
    return [_text("Method", HEAD), _text(words, NOTE), Spacer(1, 1.5 * mm), table]


def _value(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.6g}"
    if isinstance(value, list | tuple):
        return ", ".join(map(_value, value)) or "–"
    return str(value)


def _watts(value: float | None) -> str:
    return "–" if value is None else f"{value:.2f} W"


def _moment(at: Any) -> str:
    return f"{at:%Y-%m-%d %H:%M}"
