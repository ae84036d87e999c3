"""A rating's dossier as PDF: the same dossier always gives the same bytes."""

from collections.abc import Mapping
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, PageBreak, Spacer, Table, TableStyle

from rulvek.core.method.origins import ORIGINS
from rulvek.core.ratings.dossier import Dossier
from rulvek.core.ratings.life import WORDS, StepKind
from rulvek.core.ratings.population import Method
from rulvek.core.ratings.sample import SampleRow
from rulvek.core.rounding import with_u
from rulvek.reports.dossier_pictures import probability_plot, reach_bars, strip
from rulvek.reports.look import WIDTH, use_fonts
from rulvek.reports.pages import ALERT, BODY, FIGURE, FINE, HEAD, NOTE, SAYS, Running, printed, table, text

NOT_SAID = "not stated"
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

    title = f"Dossier of rating {dossier.number}, {dossier.basis.model}"
    return printed(story, Running(title, dossier.lab, f"Basis SHA-256 {dossier.digest[:16]}…", dossier.wording))


def _promise(dossier: Dossier) -> list[Any]:
    basis, terms = dossier.basis, dossier.basis.terms
    bound = basis.bound
    until = f", valid until {dossier.valid_until.isoformat()}" if dossier.valid_until else ""
    covered = ", ".join(sorted(basis.covered - {""}))
    story: list[Any] = [
        text(f"{terms.watts:g} W", FIGURE),
        text(basis.model, SAYS),
        text(dossier.wording, SAYS),
        Spacer(1, 3 * mm),
        text(f"{dossier.state.value.capitalize()}{until}.{f' Revision {covered}.' if covered else ''}"),
    ]
    if dossier.description:
        story.append(text(dossier.description, NOTE))
    if basis.simulated:
        story.append(text(SIMULATED, ALERT))
    story += [Spacer(1, 3 * mm), _signatures(dossier), text("What is promised", HEAD)]
    percent, sure = 100 * terms.share, 100 * terms.confidence
    story.append(
        text(f"{percent:g} % of all units of this model give {terms.watts:g} W or more, at {sure:g} % confidence.")
    )
    if bound.bound_watts is not None:
        off = basis.promise.taken_off_watts
        story.append(
            text(
                f"By {bound.n} units of {bound.lots} {'lot' if bound.lots == 1 else 'lots'}, {percent:g} % of all units"
                f" give {bound.bound_watts:.2f} W or more ({METHOD_WORDS[bound.method]}). What all readings share takes"
                f" {off:.2f} W off; down to a multiple of {basis.step_watts:g} W that leaves"
                f" {_watts(bound.proposal_watts)}.",
                NOTE,
            )
        )
    story += [text(note, NOTE) for note in bound.notes]
    story += [Spacer(1, 4 * mm), strip(dossier.basis), Spacer(1, 2 * mm), text(CAUTION, FINE)]
    return story


def _signatures(dossier: Dossier) -> Table:
    steps = {one.kind: one for one in dossier.steps}
    rows = []
    for kind, did in ((StepKind.PROPOSED, "Proposed"), (StepKind.SIGNED, "Signed"), (StepKind.PUBLISHED, "Published")):
        step = steps.get(kind)
        rows.append((did, step.by, _moment(step.at)) if step else (did, "–", ""))
    rows.insert(0, ("Measured", ", ".join(sorted(dossier.basis.measured_by)) or NOT_SAID, ""))
    return table(("", "By", "On"), rows, (18, 60, 40))


def _sample(dossier: Dossier) -> list[Any]:
    def row(one: SampleRow) -> tuple[str, ...]:
        watts = "–" if one.watts is None else f"{'≥ ' if one.censored else ''}{one.watts:.2f}"
        counts = one.left_out or ("yes, simulated" if one.simulated else "yes")
        return one.serial, one.lot or "–", one.revision or "–", watts, str(one.attempt_id or "–"), counts

    head = ("Unit", "Lot", "Revision", "Weakest, W", "Attempt", "Counts")
    words = (
        "As far as each unit’s weakest channel reaches, at the rating’s conditions; strokes are its channels, the line"
        " across is ± U of the figure at about 95 %. The scale does not begin at nothing."
    )
    return [
        text("Units", HEAD),
        text("One figure each, brought to the rating’s conditions: the weakest channel over all tones.", NOTE),
        Spacer(1, 1.5 * mm),
        table(head, map(row, dossier.basis.rows), (30, 16, 16, 26, 16, 60), right=(3, 4)),
        *(KeepTogether([Spacer(1, 3 * mm), picture]) for picture in reach_bars(dossier.basis)),
        text(words, FINE),
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
        text("Readings", HEAD),
        text(
            "Attempts by their numbers, as they were read, before they were brought to the rating’s conditions: U at"
            " 95 %, the loaded supply, the weakest channel’s load, the worst THD+N.",
            NOTE,
        ),
        Spacer(1, 1.5 * mm),
        table(head, rows, (9, 29, 31, 25, 27, 24, 12, 13, 15, 14), right=(5, 6, 7, 8)),
    ]
    if doubts:
        story += [Spacer(1, 2 * mm), text("What the checks doubt:", BODY), *(text(one, NOTE) for one in doubts)]
    else:
        story += [Spacer(1, 2 * mm), text("The checks doubt none of them.", NOTE)]
    return story


def _statistics(dossier: Dossier) -> list[Any]:
    basis, bound = dossier.basis, dossier.basis.bound
    channels = basis.promise.channels
    of = f"each unit its weakest of {channels} channels" if channels > 1 else "one channel a unit"
    rows = [
        ("Units, lots", f"{bound.n}, {bound.lots}"),
        ("Method", METHOD_WORDS[bound.method]),
        ("Mean", _watts(bound.mean)),
        ("Spread (standard deviation)", _watts(bound.spread)),
        *([("Between lots, within them", f"{_watts(bound.between)}, {_watts(bound.within)}")] if bound.between else []),
        (f"k, {of}", "–" if bound.k is None else f"{bound.k:.4f}"),
        ("Lower bound", _watts(bound.bound_watts)),
        ("Shared by all readings, one standard deviation", _watts(basis.promise.systematic_watts)),
        ("Each reading’s own, one standard deviation", _watts(basis.promise.individual_watts)),
        ("Taken off, k = 1.645 one-sided", _watts(basis.promise.taken_off_watts)),
        ("Proposal, down to a multiple of the step", _watts(bound.proposal_watts)),
    ]
    if bound.normality is not None:
        rows.append(("Anderson–Darling A², p", f"{bound.normality.statistic:.3f}, {bound.normality.p:.3f}"))
    story: list[Any] = [text("Statistics", HEAD), table(("", ""), rows, (60, 60))]
    plot = probability_plot(basis.rows, bound.mean, bound.spread)
    if plot is not None:
        words = "Units in rising order over where normal ones would be expected; the line is what these would lie on."
        story.append(KeepTogether([Spacer(1, 4 * mm), plot, text(words, FINE)]))
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
    found = table(head, rows, (38, 22, 22, 24, 20, 22), right=(1, 3, 4))
    return [text("Uncertainty", HEAD), text(words, NOTE), Spacer(1, 1.5 * mm), found]


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
        return [text("Instruments", HEAD), text("None is stated with these readings.", NOTE)]
    head = ("Instrument", "Reads", "Limits, by its maker", "Calibrated", "Due")
    return [text("Instruments", HEAD), table(head, rows, (50, 16, 52, 22, 22))]


def _life(dossier: Dossier) -> list[Any]:
    rows = [(one.number, _moment(one.at), one.by, WORDS[one.kind], one.reason) for one in dossier.steps]
    story: list[Any] = [
        text("Who did what", HEAD),
        table(("", "When", "Who", "What", "Why"), rows, (6, 30, 34, 20, 70)),
    ]
    if dossier.printed:
        stated = [(name, at or "–", f"{watts:g}") for name, at, watts in dossier.printed]
        story += [
            text("Where it is printed", HEAD),
            table(("Document", "Place", "States, W"), stated, (60, 50, 20), right=(2,)),
        ]
    return story


def _hashes(dossier: Dossier) -> list[Any]:
    rows = []
    for one in dossier.basis.readings:
        rows.append((f"Attempt {one.attempt_id}, as sealed", one.seal or NOT_SAID))
        rows += [(f"Attempt {one.attempt_id}, waveform {at}", file) for at, file in enumerate(one.files, 1)]
    number, seal = dossier.chain
    rows += [("The frozen basis", dossier.digest), (f"Audit chain, entry {number}", seal)]
    cells = [[text(name, FINE), text(digest, FINE)] for name, digest in rows]
    padding = [("TOPPADDING", (0, 0), (-1, -1), 0.6), ("BOTTOMPADDING", (0, 0), (-1, -1), 0.6)]
    found = Table(
        cells,
        colWidths=[WIDTH * 0.34, WIDTH * 0.66],
        style=TableStyle([*padding, ("LEFTPADDING", (0, 0), (-1, -1), 2)]),
    )
    return [text("Digests (SHA-256)", HEAD), text(CHECK, NOTE), Spacer(1, 1.5 * mm), found]


def _method(dossier: Dossier) -> list[Any]:
    rows = [
        (name.replace("_", " "), _value(value), ORIGINS.get(name, ""))
        for name, value in dossier.basis.method.items()
        if name in ORIGINS
    ]
    words = f"“{dossier.basis.method.get('name', '')}”, worked out by Rulvek {dossier.basis.program}."
    found = table(("Number of the procedure", "Value", "Where it comes from"), rows, (46, 24, 90))
    return [text("Method", HEAD), text(words, NOTE), Spacer(1, 1.5 * mm), found]


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
