"""The line as a spreadsheet: out, and in again after a rehearsal that says of every row what would become of it."""

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any, Literal

from rulvek.core.errors import BadInput, Conflict, RulvekError
from rulvek.core.records import line_sheet as sheet
from rulvek.core.records.actor import Actor
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.entered import ModelEntry, unit_entry
from rulvek.core.records.facts import differing
from rulvek.core.records.line_sheet import LineRow, LineSheets, Row
from rulvek.core.records.product import Model
from rulvek.services.catalogue import entering
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.exchange import ExchangeRowView, ExchangeView
from rulvek.store import audit, load, versions
from rulvek.store.engine import Database, Session
from rulvek.store.formats.workbooks import read_workbook, write_workbook
from rulvek.store.queries import line as line_queries

State = Literal["new", "changed", "same", "refused"]
_NAMED = {
    sheet.SERIES: "Name",
    sheet.MODELS: "Name",
    sheet.GROUPS: "Model",
    sheet.CLAIMS: "Model",
    sheet.UNITS: "Serial number",
}
"""The column that a row goes by."""


class _Rehearsed(Exception):
    """Ends a rehearsal's transaction without a trace."""


@dataclass
class _Outcome:
    """What became of the rows so far, and what was touched."""

    rows: list[ExchangeRowView] = field(default_factory=list)
    models: set[int] = field(default_factory=set)

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
        """What would become of each row, without storing anything.

        Raises:
            BadInput: no workbook, or none of its sheets is one of the line's.
        """
        sheets = sheets_of(content)
        outcome = _Outcome()
        try:
            with self._database.writing() as session:
                _take_in(session, sheets, actor, outcome)
                raise _Rehearsed
        except _Rehearsed:
            return _view(outcome)

    def take_in(self, content: bytes, actor: Actor) -> ExchangeView:
        """Take everything in, or nothing.

        Raises:
            BadInput: no workbook.
            Conflict: a row is refused.
        """
        sheets = sheets_of(content)
        outcome = _Outcome()
        with self._database.writing() as session:
            _take_in(session, sheets, actor, outcome)
            view = _view(outcome)
            if view.refused:
                what = f"{view.refused} row(s) are refused, so that none was taken in."
                raise Conflict(what, todo="Mend them in the spreadsheet and send it again.")
            text = f"{view.new} new, {view.changed} changed"
            audit.note(session, actor, "took in a spreadsheet of the line", "line/1", text=text)
        for model_id in outcome.models:
            self._conclusions.changed(model_id)
        return view


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
        self.numbers = versions.all_current(session)
        self.claimed: dict[int, list[ClaimTerms]] = defaultdict(list)
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


def _take_in(session: Session, sheets: LineSheets, actor: Actor, outcome: _Outcome) -> None:
    with audit.gathered(session):
        _take_rows(session, sheets, actor, outcome)


def _take_rows(session: Session, sheets: LineSheets, actor: Actor, outcome: _Outcome) -> None:
    line = _Line(session)
    series = {entry.name.casefold(): identity for identity, entry in line.series.items()}
    for row in sheets.of(sheet.SERIES):
        _one(outcome, row, partial(_series, session, line, row, series, actor))
    models = {model.name.casefold(): model.id for model in line.models.values()}
    groups: dict[str, list[LineRow]] = defaultdict(list)
    for row in sheets.of(sheet.GROUPS):
        groups[row.text("Model").casefold()].append(row)
    for row in sheets.of(sheet.MODELS):
        own = groups.pop(row.text("Name").casefold(), [])
        _one(outcome, row, partial(_model, session, line, row, own, series, models, outcome, actor))
    entered = [identity for identity in models.values() if identity not in line.models]
    line.models |= {model.id: model for model in load.models(session, entered)}
    for rows in groups.values():
        outcome.tell(rows[0], "refused", f"The sheet “Models” has no row for “{rows[0].text('Model')}”.", "Model")
    for row in sheets.of(sheet.CLAIMS):
        _one(outcome, row, partial(_claim, session, line, row, models, outcome, actor))
    units = {unit.serial.casefold(): unit for unit in line_queries.all_units(session)}
    for row in sheets.of(sheet.UNITS):
        _one(outcome, row, partial(_unit, session, line, row, models, units, outcome, actor))


def _one(outcome: _Outcome, row: LineRow, take: Callable[[], tuple[State, str]]) -> None:
    """Take one row in. What is refused is told by row; it leaves nothing, as each is refused before it is written."""
    try:
        outcome.tell(row, *take())
    except RulvekError as refused:
        outcome.tell(row, "refused", refused.what, refused.field or "")


def _series(session: Session, line: _Line, row: LineRow, known: dict[str, int], actor: Actor) -> tuple[State, str]:
    name = row.text("Name").casefold()
    _refuse_twice(line, row, name, "series")
    identity = known.get(name)
    if identity is None:
        known[name] = entering.enter_series(session, sheet.series_of(row), actor)
        return "new", ""
    before = line.series[identity]
    entry = sheet.series_of(row, before)
    if entry == before:
        return "same", ""
    entering.change_series(session, identity, _seen(line, row, f"series/{identity}"), entry, actor)
    return "changed", _words(before, entry)


def _model(
    session: Session,
    line: _Line,
    row: LineRow,
    groups: Sequence[LineRow],
    series: dict[str, int],
    known: dict[str, int],
    outcome: _Outcome,
    actor: Actor,
) -> tuple[State, str]:
    _refuse_twice(line, row, row.text("Name").casefold(), "model")
    identity = known.get(row.text("Name").casefold())
    if identity is None:
        of = series.get(row.text("Series").casefold())
        if of is None:
            raise BadInput(f"There is no series “{row.text('Series')}”.", field="Series")
        known[row.text("Name").casefold()] = entering.enter_model(session, of, sheet.model_of(row, groups, None), actor)
        return "new", ""
    before = ModelEntry.of(line.models[identity])
    if row.text("Series").casefold() != line.models[identity].series_name.casefold():
        raise BadInput("A model stays in its series.", field="Series")
    entry = sheet.model_of(row, groups, before)
    if entry == before:
        return "same", ""
    entering.change_model(session, identity, _seen(line, row, f"model/{identity}"), entry, actor)
    outcome.models.add(identity)
    return "changed", _words(before, entry)


def _claim(
    session: Session, line: _Line, row: LineRow, models: dict[str, int], outcome: _Outcome, actor: Actor
) -> tuple[State, str]:
    model_id = _model_named(row, models)
    terms = sheet.claim_of(row)
    if any(entering.is_same_claim(claim, terms) for claim in line.models[model_id].standing_claims):
        return "same", ""
    if any(entering.is_same_claim(claim, terms) for claim in line.claimed[model_id]):
        raise Conflict("The spreadsheet has this claim twice.")
    entering.enter_claim(session, line.models[model_id], terms, actor)
    line.claimed[model_id].append(terms)
    outcome.models.add(model_id)
    return "new", ""


def _unit(
    session: Session,
    line: _Line,
    row: LineRow,
    models: dict[str, int],
    known: dict[str, Any],
    outcome: _Outcome,
    actor: Actor,
) -> tuple[State, str]:
    _refuse_twice(line, row, row.text("Serial number").casefold(), "unit")
    model_id = _model_named(row, models)
    unit = known.get(row.text("Serial number").casefold())
    if unit is None:
        entering.enter_unit(session, line.models[model_id], sheet.unit_of(row, None), actor)
        outcome.models.add(model_id)
        return "new", ""
    if unit.model_id != model_id:
        raise BadInput("A unit stays one of its model.", field="Model")
    before = unit_entry(unit)
    entry = sheet.unit_of(row, before)
    if entry == before:
        return "same", ""
    entering.change_unit(session, unit.id, _seen(line, row, f"unit/{unit.id}"), entry, actor)
    outcome.models.add(model_id)
    return "changed", _words(before, entry)


def _refuse_twice(line: _Line, row: LineRow, name: str, kind: str) -> None:
    """A second row of the same thing would quietly undo the first one."""
    if (kind, name) in line.told:
        raise Conflict(f"The spreadsheet has this {kind} twice.", field=_NAMED[row.sheet])
    line.told.add((kind, name))


def _model_named(row: LineRow, models: dict[str, int]) -> int:
    found = models.get(row.text("Model").casefold())
    if found is None:
        raise BadInput(f"There is no model “{row.text('Model')}”.", field="Model")
    return found


def _seen(line: _Line, row: LineRow, subject: str) -> int:
    """The version that a row was made from; of one that does not say, the one that holds."""
    return row.whole(sheet.VERSION) or line.version(subject)


def _words(before: Any, after: Any) -> str:
    return ", ".join(differing(before, after))


def _view(outcome: _Outcome) -> ExchangeView:
    count = {state: sum(row.state == state for row in outcome.rows) for state in ("new", "changed", "same", "refused")}
    told = [row for row in outcome.rows if row.state != "same"]
    return ExchangeView(rows=told, **count)
