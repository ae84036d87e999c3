"""The line as a spreadsheet: out, and in again after a rehearsal that says of every row what would become of it."""

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any, Literal

from rulvek.core.errors import BadInput, Conflict, RulvekError
from rulvek.core.records import line_sheet as sheet
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.entered import ModelEntry, SeriesEntry, unit_entry
from rulvek.core.records.facts import differing
from rulvek.core.records.line_sheet import LineRow, LineSheets, Row
from rulvek.core.records.product import Model
from rulvek.services.catalogue import entering
from rulvek.services.catalogue.entering import Change
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.exchange import ExchangeRowView, ExchangeView
from rulvek.store import audit, load, versions
from rulvek.store.engine import Database, Session
from rulvek.store.formats.workbooks import read_workbook, write_workbook
from rulvek.store.queries import line as line_queries
from rulvek.store.queries import records as record_queries

TRIES = 3
"""How often what changed meanwhile is planned anew before nobody else may write."""
State = Literal["new", "changed", "same", "refused"]
_NAMED = {
    sheet.SERIES: "Name",
    sheet.MODELS: "Name",
    sheet.GROUPS: "Model",
    sheet.CLAIMS: "Model",
    sheet.UNITS: "Serial number",
}
"""The column that a row goes by."""


@dataclass
class _Plan:
    """What would become of the rows, and what is to be written for it; names are casefolded.

    Attributes:
        after: The latest entry of the audit chain that it was made after.
        touched: Models of which something else is said.
    """

    after: int
    rows: list[ExchangeRowView] = field(default_factory=list)
    series: dict[str, SeriesEntry] = field(default_factory=dict)
    models: dict[str, tuple[str, Model]] = field(default_factory=dict)
    claims: list[tuple[str, ClaimTerms]] = field(default_factory=list)
    units: list[tuple[str, Unit]] = field(default_factory=list)
    changes: list[Change] = field(default_factory=list)
    touched: set[str] = field(default_factory=set)

    def tell(self, row: LineRow, state: State, words: str = "", column: str = "") -> None:
        name = row.text(_NAMED[row.sheet])
        view = ExchangeRowView(sheet=row.sheet, row=row.number, name=name, state=state, words=words, column=column)
        self.rows.append(view)


class LineExchange:
    """Series, models with their groups, claims and units. Nothing is taken in while a row is refused."""

    def __init__(self, database: Database, conclusions: Conclusions) -> None:
        self._database, self._conclusions = database, conclusions

    def workbook(self) -> bytes:
        """The whole line as a workbook, each row with the version that it shows."""
        with self._database.reading() as session:
            rows = _Line(session).rows()
        sheets = {
            name: (sheet.headings(name), [list(row.values()) for row in rows.get(name, [])]) for name in sheet.SHEETS
        }
        return write_workbook(sheets)

    def rehearse(self, content: bytes, actor: Actor) -> ExchangeView:
        """What would become of each row; nothing is written.

        Raises:
            BadInput: no workbook, or none of its sheets is one of the line's.
        """
        sheets = sheets_of(content)
        with self._database.reading() as session:
            return _view(_planned(session, sheets))

    def take_in(self, content: bytes, actor: Actor) -> ExchangeView:
        """Take everything in, or nothing.

        What is to be written is worked out before: others wait only for the writing itself.

        Raises:
            BadInput: no workbook.
            Conflict: a row is refused.
        """
        view, touched = self._taken_in(sheets_of(content), actor)
        for model_id in touched:
            self._conclusions.changed(model_id)
        return view

    def _taken_in(self, sheets: LineSheets, actor: Actor) -> tuple[ExchangeView, set[int]]:
        for _ in range(TRIES):
            with self._database.reading() as session:
                plan = _planned(session, sheets)
            _refuse_refused(plan)
            with self._database.writing() as session:
                if record_queries.last_entry_id(session) == plan.after:
                    return _view(plan), _put(session, plan, actor)
        with self._database.writing() as session:  # in a lab that never rests they wait for all of it
            plan = _planned(session, sheets)
            _refuse_refused(plan)
            return _view(plan), _put(session, plan, actor)


def sheets_of(content: bytes) -> LineSheets:
    """The rows of a workbook by their headings; empty ones are passed over.

    Raises:
        BadInput: no workbook, none of the line's sheets in it, or a heading that no column has.
    """
    found: dict[str, list[LineRow]] = {}
    for name, rows in read_workbook(content).items():
        known = next((one for one in sheet.SHEETS if one.casefold() == name.strip().casefold()), None)
        if known is None or not rows:
            continue
        heads = [str(head or "").strip() for head in rows[0]]
        strange = [head for head in heads if head and head not in sheet.headings(known)]
        if strange:
            raise BadInput(f"The sheet “{known}” has no column “{strange[0][:40]}”.", field="file")
        found[known] = [
            LineRow(known, number, {head: cell for head, cell in zip(heads, row, strict=False) if head})
            for number, row in enumerate(rows[1:], start=2)
            if any(cell not in (None, "") for cell in row)
        ]
    if not found:
        raise BadInput(f"The spreadsheet has none of the sheets {', '.join(sheet.SHEETS)}.", field="file")
    return LineSheets(found)


class _Line:
    """What is on record, as the rows speak of it."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.series = {row.id: line_queries.series_entry(session, row.id) for row in line_queries.all_series(session)}
        self.models: dict[int, Model] = {one.id: one for one in load.models(session, line_queries.model_ids(session))}
        self.series_ids = {entry.name.casefold(): identity for identity, entry in self.series.items()}
        self.model_ids = {model.name.casefold(): identity for identity, model in self.models.items()}
        self.numbers = versions.all_current(session)
        self.claimed: dict[str, list[ClaimTerms]] = defaultdict(list)
        self.told: set[tuple[str, str]] = set()

    def version(self, subject: str) -> int:
        return self.numbers.get(subject, 1)

    def rows(self) -> dict[str, list[Row]]:
        """Everything as it goes out."""
        found: dict[str, list[Row]] = defaultdict(list)
        for series_id, series in self.series.items():
            found[sheet.SERIES].append(sheet.series_cells(series, self.version(f"series/{series_id}")))
        for model in self.models.values():
            entry = ModelEntry.of(model)
            found[sheet.MODELS].append(sheet.model_cells(model.series_name, entry, self.version(f"model/{model.id}")))
            found[sheet.GROUPS] += [sheet.group_cells(model.name, group) for group in entry.groups]
            found[sheet.CLAIMS] += [sheet.claim_cells(model.name, claim) for claim in model.standing_claims]
        for unit in line_queries.all_units(self.session):
            name = self.models[unit.model_id].name
            found[sheet.UNITS].append(sheet.unit_cells(name, unit_entry(unit), self.version(f"unit/{unit.id}")))
        return found


def _planned(session: Session, sheets: LineSheets) -> _Plan:
    """What would become of each row; it only reads."""
    plan = _Plan(record_queries.last_entry_id(session))
    line = _Line(session)
    for row in sheets.of(sheet.SERIES):
        _one(plan, row, partial(_series, line, row, plan))
    groups: dict[str, list[LineRow]] = defaultdict(list)
    for row in sheets.of(sheet.GROUPS):
        groups[row.text("Model").casefold()].append(row)
    for row in sheets.of(sheet.MODELS):
        own = groups.pop(row.text("Name").casefold(), [])
        _one(plan, row, partial(_model, line, row, own, plan))
    for rows in groups.values():
        plan.tell(rows[0], "refused", f"The sheet “Models” has no row for “{rows[0].text('Model')}”.", "Model")
    for row in sheets.of(sheet.CLAIMS):
        _one(plan, row, partial(_claim, line, row, plan))
    units = {unit.serial.casefold(): unit for unit in line_queries.all_units(session)}
    for row in sheets.of(sheet.UNITS):
        _one(plan, row, partial(_unit, line, row, units, plan))
    return plan


def _put(session: Session, plan: _Plan, actor: Actor) -> set[int]:
    """Write what was planned; returns the ids of the models of which something else is said."""
    with audit.gathered(session):
        series = {name.casefold(): identity for identity, name in line_queries.series_names(session).items()}
        series |= dict(zip(plan.series, entering.put_series(session, list(plan.series.values()), actor), strict=True))
        entering.put_models(session, [(series[of], model) for of, model in plan.models.values()], actor)
        names = line_queries.model_names(session)
        models = {name.casefold(): identity for identity, name in names.items()}
        entering.put_claims(session, [(models[name], terms) for name, terms in plan.claims], actor)
        units = [replace(unit, model_id=models[name]) for name, unit in plan.units]
        entering.put_units(session, units, names, actor)
        entering.keep_all(session, plan.changes, actor)
        told = _view(plan)
        text = f"{told.new} new, {told.changed} changed"
        audit.note(session, actor, "took in a spreadsheet of the line", "line/1", text=text)
    return {models[name] for name in plan.touched}


def _one(plan: _Plan, row: LineRow, take: Callable[[], tuple[State, str]]) -> None:
    """Plan one row. What is refused is told by row."""
    try:
        plan.tell(row, *take())
    except RulvekError as refused:
        plan.tell(row, "refused", refused.what, refused.field or "")


def _series(line: _Line, row: LineRow, plan: _Plan) -> tuple[State, str]:
    name = row.text("Name").casefold()
    _refuse_twice(line, row, name, "series")
    identity = line.series_ids.get(name)
    if identity is None:
        entry = entering.fit_series(sheet.series_of(row))
        plan.series[entry.name.casefold()] = entry
        return "new", ""
    before = line.series[identity]
    entry = sheet.series_of(row, before)
    if entry == before:
        return "same", ""
    _change(
        line, plan, entering.fit_series_change(line.session, identity, _seen(line, row, f"series/{identity}"), entry)
    )
    return "changed", _words(before, entry)


def _model(line: _Line, row: LineRow, groups: Sequence[LineRow], plan: _Plan) -> tuple[State, str]:
    name = row.text("Name").casefold()
    _refuse_twice(line, row, name, "model")
    identity = line.model_ids.get(name)
    if identity is None:
        of = row.text("Series").casefold()
        if of not in plan.series and of not in line.series_ids:
            raise BadInput(f"There is no series “{row.text('Series')}”.", field="Series")
        model = entering.fit_model(sheet.model_of(row, groups, None))
        plan.models[model.name.casefold()] = of, model
        return "new", ""
    known = line.models[identity]
    before = ModelEntry.of(known)
    if row.text("Series").casefold() != known.series_name.casefold():
        raise BadInput("A model stays in its series.", field="Series")
    entry = sheet.model_of(row, groups, before)
    if entry == before:
        return "same", ""
    seen = _seen(line, row, f"model/{identity}")
    _change(line, plan, entering.fit_model_change(line.session, identity, seen, entry))
    plan.touched.add(name)
    return "changed", _words(before, entry)


def _claim(line: _Line, row: LineRow, plan: _Plan) -> tuple[State, str]:
    name, model = _model_named(line, row, plan)
    terms = sheet.claim_of(row)
    if any(entering.is_same_claim(claim, terms) for claim in model.standing_claims):
        return "same", ""
    if any(entering.is_same_claim(claim, terms) for claim in line.claimed[name]):
        raise Conflict("The spreadsheet has this claim twice.")
    entering.fit_claim(model.product, model.standing_claims, terms)
    line.claimed[name].append(terms)
    plan.claims.append((name, terms))
    plan.touched.add(name)
    return "new", ""


def _unit(line: _Line, row: LineRow, known: dict[str, Unit], plan: _Plan) -> tuple[State, str]:
    _refuse_twice(line, row, row.text("Serial number").casefold(), "unit")
    name, model = _model_named(line, row, plan)
    unit = known.get(row.text("Serial number").casefold())
    if unit is None:
        plan.units.append((name, entering.fit_unit(model.id, sheet.unit_of(row, None))))
        plan.touched.add(name)
        return "new", ""
    if unit.model_id != model.id:
        raise BadInput("A unit stays one of its model.", field="Model")
    before = unit_entry(unit)
    entry = sheet.unit_of(row, before)
    if entry == before:
        return "same", ""
    seen = _seen(line, row, f"unit/{unit.id}")
    _change(line, plan, entering.fit_unit_change(line.session, unit.id, seen, entry))
    plan.touched.add(name)
    return "changed", _words(before, entry)


def _change(line: _Line, plan: _Plan, change: Change) -> None:
    entering.refuse_stale(line.session, change.subject, change.seen, line.version(change.subject))
    plan.changes.append(change)


def _refuse_twice(line: _Line, row: LineRow, name: str, kind: str) -> None:
    """A second row of the same thing would quietly undo the first one."""
    if (kind, name) in line.told:
        raise Conflict(f"The spreadsheet has this {kind} twice.", field=_NAMED[row.sheet])
    line.told.add((kind, name))


def _model_named(line: _Line, row: LineRow, plan: _Plan) -> tuple[str, Model]:
    """The name of a row's model, and the model, which may be a new one."""
    name = row.text("Model").casefold()
    if name in plan.models:
        return name, plan.models[name][1]
    identity = line.model_ids.get(name)
    if identity is None:
        raise BadInput(f"There is no model “{row.text('Model')}”.", field="Model")
    return name, line.models[identity]


def _seen(line: _Line, row: LineRow, subject: str) -> int:
    """The version that a row was made from; of one that does not say, the one that holds."""
    return row.whole(sheet.VERSION) or line.version(subject)


def _words(before: Any, after: Any) -> str:
    return ", ".join(differing(before, after))


def _view(plan: _Plan) -> ExchangeView:
    count = {state: sum(row.state == state for row in plan.rows) for state in ("new", "changed", "same", "refused")}
    told = [row for row in plan.rows if row.state != "same"]
    return ExchangeView(rows=told, **count)


def _refuse_refused(plan: _Plan) -> None:
    refused = _view(plan).refused
    if refused:
        what = f"{refused} row(s) are refused, so that none was taken in."
        raise Conflict(what, todo="Mend them in the spreadsheet and send it again.")
