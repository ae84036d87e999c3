"""Tables of earlier results: a mapping, a rehearsal that lists every row's problem, then all of it or nothing."""

import csv
import io
import math
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time
from typing import Any, Literal, get_args

from rulvek.core.errors import BadInput, RulvekError
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.steps import End, Mode
from rulvek.core.planning.plan import Wishes
from rulvek.core.planning.wiring import RunSpec
from rulvek.services.campaigns import Campaigns
from rulvek.services.checking import questioned_view
from rulvek.services.planner import plan_for
from rulvek.services.records import core_product
from rulvek.services.typed import TypedChannel, TypedReading, worked_out, write_typed
from rulvek.services.views.outside import EarlierColumnView, EarlierReadingView, EarlierView, RowProblemView, TableView
from rulvek.store import queries
from rulvek.store.database import Database, Session

MOST_ROWS = 5000
MOST_PROBLEMS = 200
Field = Literal[
    "serial",
    "mode",
    "group",
    "load_ohms",
    "bridged",
    "channel",
    "watts",
    "volts_rms",
    "thd_n_percent",
    "load_measured",
    "supply_volts",
    "start_volts",
    "loaded_volts",
    "amps",
    "end",
    "instrument",
    "date",
    "remark",
]
NEEDED: tuple[Field, ...] = ("serial", "mode", "load_ohms")
_KEY: tuple[Field, ...] = ("serial", "mode", "group", "load_ohms", "bridged", "date", "instrument", "remark")
_WORDS: Mapping[str, Field] = {
    "serial": "serial",
    "unit": "serial",
    "mode": "mode",
    "group": "group",
    "load measured": "load_measured",
    "load": "load_ohms",
    "bridged": "bridged",
    "channel": "channel",
    "power": "watts",
    "watts": "watts",
    "output": "volts_rms",
    "v rms": "volts_rms",
    "thd": "thd_n_percent",
    "supply before": "start_volts",
    "supply at": "loaded_volts",
    "loaded": "loaded_volts",
    "supply current": "amps",
    "amps": "amps",
    "end": "end",
    "instrument": "instrument",
    "read with": "instrument",
    "date": "date",
    "remark": "remark",
}
_YES, _NO = ("yes", "true", "1", "x", "bridged"), ("no", "false", "0", "", "single")


@dataclass(frozen=True, slots=True)
class Table:
    """A table and how it is to be taken: what each column (counted from 0) is, and the instrument of all rows."""

    file: str
    text: str
    mapping: Mapping[int, Field]
    instrument: str = ""
    accuracy_percent: float = 1.0


@dataclass(frozen=True, slots=True)
class _Read:
    """A reading put together from one row, or from one row a channel; ``row`` is the first, as people count.

    ``channels`` goes by the channel's number; where no column names it, by 0, −1, … in the order of the columns.
    """

    row: int
    serial: str
    day: date | None
    channels: Mapping[int, TypedChannel]
    typed: TypedReading


class _RolledBackError(Exception):
    """Ends a rehearsal's transaction; nothing of it stays."""


class Earlier:
    """Reads tables, and writes them down as typed attempts of origin "table"."""

    def __init__(self, database: Database, campaigns: Campaigns) -> None:
        self._database, self._campaigns = database, campaigns

    def inspect(self, file: str, text: str) -> TableView:
        """The columns of a table with what each is most likely to be.

        Raises:
            BadInput: no table, or too many rows.
        """
        heading, rows, _ = _parsed(file, text)
        taken: set[Field] = set()
        columns = []
        for index, name in enumerate(heading):
            likely = next((field for words, field in _WORDS.items() if words in name.lower()), None)
            field = likely if likely and likely not in taken else None
            if field:
                taken.add(field)
            columns.append(EarlierColumnView(name=name, example=rows[0][index] if rows else "", field=field or ""))
        return TableView(file=file, columns=columns, rows=len(rows), needed=list(NEEDED), fields=list(get_args(Field)))

    def rehearse(self, table: Table) -> EarlierView:
        """What would be kept, with its checks and its uncertainty, and every row's problem; nothing stays."""
        answer: list[EarlierView] = []
        with suppress(_RolledBackError), self._database.writing() as session:
            answer.append(self._written(session, table, "rehearsal"))
            raise _RolledBackError
        return answer[0]

    def keep(self, table: Table, person: str) -> EarlierView:
        """Put all of a table on record.

        Raises:
            BadInput: any row has a problem; then nothing of the table is kept.
        """
        with self._database.writing() as session:
            kept = self._written(session, table, person)
            if kept.problems:
                first = kept.problems[0]
                more = f" and {len(kept.problems) - 1} more problems" if len(kept.problems) > 1 else ""
                raise BadInput(
                    f"{table.file}, row {first.row}: {first.what}{more}. Nothing was kept.",
                    todo="Mend the rows, or the mapping.",
                    field="table",
                )
            return kept

    def _written(self, session: Session, table: Table, person: str) -> EarlierView:
        problems: list[RowProblemView] = []
        readings = [fitted for read in _readings(table, problems) if (fitted := _fitted(session, read, problems))]
        shown: list[EarlierReadingView] = []
        for serial in dict.fromkeys(read.serial for read in readings):
            mine = [read for read in readings if read.serial == serial]
            unit = queries.unit_by_serial(session, serial)
            specs = list(dict.fromkeys(read.typed.spec for read in mine))
            wishes = Wishes(modes=tuple(dict.fromkeys(spec.mode for spec in specs)))
            campaign = self._campaigns.create_in(session, unit.id, person, wishes, specs)
            for read in mine:
                run = campaign.runs[specs.index(read.typed.spec)]
                at = datetime.combine(read.day, time(12), UTC) if read.day else datetime.now(UTC)
                attempt = write_typed(
                    session, run.id, read.typed, worked_out(unit.model, read.typed), person, at, table.file
                )
                view = questioned_view(attempt, MethodProfile())
                shown.append(
                    EarlierReadingView(
                        row=read.row,
                        serial=serial,
                        mode=read.typed.spec.mode,
                        load_ohms=read.typed.spec.load_ohms,
                        bridged=read.typed.spec.bridged,
                        weakest_watts=view.weakest_watts or 0.0,
                        expanded_watts=view.expanded_watts,
                        findings=view.findings,
                        attempt_id=attempt.id if person != "rehearsal" else None,
                    )
                )
        return EarlierView(
            readings=shown,
            problems=sorted(problems, key=lambda p: p.row)[:MOST_PROBLEMS],
            more_problems=max(0, len(problems) - MOST_PROBLEMS),
        )


def _parsed(file: str, text: str) -> tuple[list[str], list[list[str]], str]:
    """Heading, rows (all as wide as the heading) and the decimal sign."""
    lines = text.lstrip("\ufeff").splitlines()
    if len(lines) < 2:
        raise BadInput(f"{file} holds no table: a heading and at least one row are needed.", field="table")
    separator = max((";", "\t", ","), key=lines[0].count)
    try:
        rows = [row for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=separator) if any(row)]
    except csv.Error:
        raise BadInput(f"{file} is not a CSV table that can be read.", field="table") from None
    if len(rows) < 2 or len(rows[0]) < 2:
        raise BadInput(f"{file} holds no table: a heading and at least one row are needed.", field="table")
    if len(rows) - 1 > MOST_ROWS:
        raise BadInput(f"{file} has {len(rows) - 1} rows; at most {MOST_ROWS} are taken at once.", field="table")
    wide = len(rows[0])
    cells = [[*(cell.strip() for cell in row), *[""] * wide][:wide] for row in rows]
    commas = separator != "," and sum("," in c for row in cells[1:] for c in row) > sum(
        "." in c for row in cells[1:] for c in row
    )
    return cells[0], cells[1:], "," if commas else "."


def _readings(table: Table, problems: list[RowProblemView]) -> list[_Read]:
    """Readings row by row; rows of one reading's channels, which follow each other, are put together."""
    heading, rows, decimal = _parsed(table.file, table.text)
    outside = [index for index in table.mapping if not 0 <= index < len(heading)]
    if outside:
        raise BadInput(f"The table has no column {outside[0] + 1}.", field="mapping")
    fields = list(table.mapping.values())
    missing = next((field for field in NEEDED if field not in fields), None)
    if missing or not {"watts", "volts_rms"} & set(fields):
        raise BadInput(f"Say which column is the {(missing or 'watts').replace('_', ' ')}.", field="mapping")
    many = () if "channel" in fields else ("watts", "volts_rms")
    twice = next((field for field in fields if fields.count(field) > 1 and field not in many), None)
    if twice:
        raise BadInput(f"Two columns are the {twice.replace('_', ' ')}.", field="mapping")
    found: list[_Read] = []
    before: tuple[str, ...] = ()
    for number, row in enumerate(rows, 2):
        cells = {field: row[index] for index, field in sorted(table.mapping.items(), reverse=True)}
        try:
            read = _reading(number, cells, decimal, table)
            if "channel" not in fields:
                read = replace(read, channels=_in_turn(table, row, decimal))
        except BadInput as error:
            problems.append(RowProblemView(row=number, what=error.what.removesuffix(".")))
            before = ()
            continue
        key = tuple(cells.get(field, "") for field in _KEY)
        if key == before and "channel" in fields and not set(read.channels) & set(found[-1].channels):
            found[-1] = replace(found[-1], channels={**found[-1].channels, **read.channels})
        else:
            found.append(read)
        before = key
    return found


def _figure(field: Field, text: str, decimal: str) -> float | None:
    if text == "":
        return None
    try:
        value = float(text.replace(decimal, "."))
    except ValueError:
        value = math.nan
    if not (math.isfinite(value) and value >= 0):
        raise BadInput(f"“{text[:40]}” is no {field.replace('_', ' ')}.", field=field)
    return value


def _in_turn(table: Table, row: Sequence[str], decimal: str) -> dict[int, TypedChannel]:
    """Several columns of watts (or volts) are the channels in the order of the columns."""
    figures: dict[Field, list[float | None]] = {"watts": [], "volts_rms": []}
    for index, field in sorted(table.mapping.items()):
        if field in figures:
            figures[field].append(_figure(field, row[index], decimal))
    watts, volts = figures["watts"], figures["volts_rms"]
    count = max(len(watts), len(volts))
    watts, volts = ([*values, *[None] * count][:count] for values in (watts, volts))
    pairs = [(w, v) for w, v in zip(watts, volts, strict=True) if w is not None or v is not None]
    return {-place: TypedChannel(watts=w, volts_rms=v) for place, (w, v) in enumerate(pairs)}


def _reading(number: int, cells: Mapping[Field, str], decimal: str, table: Table) -> _Read:
    def figure(field: Field) -> float | None:
        return _figure(field, cells.get(field, ""), decimal)

    def needed(field: Field) -> float:
        value = figure(field)
        if not value:
            raise BadInput(f"The {field.replace('_', ' ')} is missing.", field=field)
        return value

    mode = _one_of(Mode, cells["mode"], "mode")
    at_limit = End.CLIP if mode is Mode.UNCERTIFIED else End.LIMIT
    end = _one_of(End, cells["end"], "end") if cells.get("end") else at_limit
    bridged = cells.get("bridged", "").lower()
    if bridged not in (*_YES, *_NO):
        raise BadInput(f"“{bridged[:40]}” is neither yes nor no for bridged.", field="bridged")
    instrument = cells.get("instrument") or table.instrument
    if not instrument.strip():
        raise BadInput("No instrument is named.", field="instrument")
    watts, volts = figure("watts"), figure("volts_rms")
    if watts is None and volts is None:
        raise BadInput("There are neither watts nor volts.", field="watts")
    if not cells["serial"]:
        raise BadInput("The serial number is missing.", field="serial")
    channel = figure("channel")
    typed = TypedReading(
        spec=RunSpec(
            mode,
            cells.get("group", ""),
            needed("load_ohms"),
            bridged in _YES,
            0.0,
            figure("supply_volts") or MethodProfile().reference_volts,
        ),
        channels=(),
        instrument=instrument,
        accuracy_percent=table.accuracy_percent,
        load_measured=figure("load_measured"),
        start_volts=figure("start_volts"),
        loaded_volts=figure("loaded_volts"),
        amps=figure("amps"),
        thd_n_percent=figure("thd_n_percent"),
        end=end,
        remark=cells.get("remark", ""),
    )
    read = TypedChannel(watts=watts, volts_rms=volts)
    return _Read(number, cells["serial"], _day(cells.get("date", "")), {int(channel or 0): read}, typed)


def _one_of(kind: Any, text: str, field: str) -> Any:
    try:
        return kind(text.strip().lower().replace(" ", "_"))
    except ValueError:
        known = ", ".join(str(one.value).replace("_", " ") for one in kind)
        raise BadInput(f"“{text[:40]}” is no {field}; there is {known}.", field=field) from None


def _day(text: str) -> date | None:
    if not text:
        return None
    try:
        return date.fromisoformat(text[:10])
    except ValueError:
        raise BadInput(f"“{text[:40]}” is no date; write it as 2026-03-31.", field="date") from None


def _fitted(session: Session, read: _Read, problems: list[RowProblemView]) -> _Read | None:
    """Complete a reading by what its model is; None and a problem where it cannot be one of its runs."""
    try:
        unit = queries.unit_by_serial(session, read.serial)
        groups = {group.name: group for group in unit.model.groups}
        name = read.typed.spec.group or next(iter(groups))
        if name not in groups:
            raise BadInput(f"{unit.model.name} has no channel group “{name}”.")
        group, method, mode = groups[name], MethodProfile(), read.typed.spec.mode
        burst = method.burst_of(group.bass) if mode is Mode.BURST else None
        tone = burst.hz if burst else method.tone_of(group.bass)
        spec = replace(read.typed.spec, group=name, tone_hz=tone, burst=burst.name if burst else "")
        channels = core_product(unit.model).group(name).channels[:: 2 if spec.bridged else 1]
        given = dict(read.channels)
        if min(given) <= 0:
            given = {channels[-at] if -at < len(channels) else 1 - at: value for at, value in given.items()}
        absent = [channel for channel in channels if channel not in given]
        stray = [channel for channel in given if channel not in channels]
        if absent or stray:
            what = f"channel {absent[0]} is missing" if absent else f"there is no channel {stray[0]} in this run"
            raise BadInput(f"{what[:1].upper()}{what[1:]}.")
        plan_for(session, unit, Wishes(modes=(mode,)), [spec], method)
    except RulvekError as error:
        problems.append(RowProblemView(row=read.row, what=error.what.removesuffix(".")))
        return None
    return replace(read, typed=replace(read.typed, spec=spec, channels=tuple(given[c] for c in channels)))
