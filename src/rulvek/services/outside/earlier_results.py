"""Tables of earlier results: a mapping, a rehearsal that lists every row's problem, then the rows that can be taken."""

import csv
import io
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, get_args

import structlog

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput, RulvekError
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.planning.plan import refuse_impossible
from rulvek.core.quantities import refuse_impossible_day
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.campaigns import Campaign
from rulvek.core.records.instruments import InstrumentEntry
from rulvek.core.records.outside import HandChannel, HandReading, Vehicle
from rulvek.core.records.product import ChannelGroup
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End, Mode, limit_end
from rulvek.core.runs.spec import RunSpec
from rulvek.services.conclusions import Conclusions
from rulvek.services.outside.by_hand import hand_attempt, refuse_unlikely
from rulvek.services.outside.cells import factor_in, figure, words_of
from rulvek.services.outside.headings import Field, recognised
from rulvek.services.outside.kept import (
    NOBODY,
    Background,
    OutsideCampaign,
    backgrounds,
    entry_named,
    now,
    outside_campaign,
    taken_at,
)
from rulvek.services.outside.unseen import show_together, write_unseen
from rulvek.services.views.attempt import finding_views
from rulvek.services.views.outside import EarlierColumnView, EarlierReadingView, EarlierView, RowProblemView, TableView
from rulvek.store import load
from rulvek.store.engine import Database

log = structlog.get_logger()
EquipmentOf = Callable[[str | None], Equipment]
MOST_ROWS = 5000
MOST_PROBLEMS = 200
UNSAID_HZ = UNSAID_VOLTS = 0.0
"""Where no column says the tone or the volts: the method's follow when the unit is known."""
NEEDED: tuple[Field, ...] = ("serial", "mode", "load_ohms")
OUTPUTS: tuple[Field, ...] = ("watts", "volts_rms", "volts_peak")
"""What is read of a channel; one of them is enough."""
_KEY: tuple[Field, ...] = (
    *("serial", "mode", "group", "load_ohms", "bridged", "tone_hz", "burst"),
    *("date", "instrument", "supply", "reason", "remark"),
)
SIGNED: tuple[Field, ...] = ("amps", "idle_amps")
"""A clamp that was put on the wrong way round, or was not zeroed, indicates less than nothing."""
SUPPLIES: Mapping[str, tuple[SupplyPolicy, Vehicle | None]] = {
    **dict.fromkeys(("held", "regulated", "bench", "psu", "bench supply"), (SupplyPolicy.HELD, None)),
    **dict.fromkeys(("bank", "battery", "floating", "capacitors"), (SupplyPolicy.BANK, None)),
    **dict.fromkeys(("engine off", "vehicle"), (SupplyPolicy.BANK, Vehicle.ENGINE_OFF)),
    **dict.fromkeys(("engine running", "engine on", "alternator"), (SupplyPolicy.BANK, Vehicle.ENGINE_RUNNING)),
    **dict.fromkeys(("charger", "charger on", "charging"), (SupplyPolicy.BANK, Vehicle.CHARGER_ON)),
}
"""What fed the amplifier, as people write it."""
_YES, _NO = ("yes", "true", "1", "x", "bridged"), ("no", "false", "0", "", "single", "all")


@dataclass(frozen=True, slots=True)
class Table:
    """A table and how it is to be taken: what each column (counted from 0) is, and the instrument of all rows.

    ``whole`` asks for all of it or nothing; else a row that cannot be taken is named and left out.
    """

    file: str
    text: str
    mapping: Mapping[int, Field]
    instrument: str = ""
    accuracy_percent: float = 1.0
    whole: bool = False


@dataclass(frozen=True, slots=True)
class _Read:
    """A reading put together from one row, or from one row a channel; ``row`` is the first, as people count.

    ``channels`` goes by the channel's number; where no column names it, by 0, −1, … in the order of the columns.
    """

    row: int
    serial: str
    day: date | None
    channels: Mapping[int, HandChannel]
    hand: HandReading


@dataclass(frozen=True, slots=True)
class _Worked:
    """A unit's readings of a table as they would stand on record; ``rows`` go with the attempts in their order."""

    made: OutsideCampaign
    rows: tuple[_Read, ...]


class EarlierResults:
    """Reads tables, rehearses them without storing anything, and writes them down as attempts of origin "table"."""

    def __init__(self, database: Database, conclusions: Conclusions, equipment_of: EquipmentOf) -> None:
        self._database, self._conclusions, self._equipment_of = database, conclusions, equipment_of

    def inspect(self, file: str, text: str) -> TableView:
        """The columns of a table with what each is most likely to be.

        Raises:
            BadInput: no table, or too many rows.
        """
        heading, rows, _ = _parsed(file, text)
        columns = [
            EarlierColumnView(name=name, example=rows[0][index] if rows else "", field=field or "")
            for index, (name, field) in enumerate(zip(heading, recognised(heading), strict=True))
        ]
        for place, column in enumerate(columns):
            # “Supply” heads volts as often as what it was; what stands below it tells.
            if column.field == "supply_volts" and column.example and not any(c.isdigit() for c in column.example):
                columns[place] = replace(column, field="supply")
        return TableView(file=file, columns=columns, rows=len(rows), needed=list(NEEDED), fields=list(get_args(Field)))

    def rehearse(self, table: Table) -> EarlierView:
        """What would be kept, with its checks and its uncertainty, and every row's problem; nothing is stored."""
        worked, problems = self._worked_out(table, NOBODY)
        return _view(worked, problems, None)

    def keep(self, table: Table, actor: Actor) -> EarlierView:
        """Put a table on record. It is written in small pieces that nobody sees, then shown at once.

        Raises:
            BadInput: a row has a problem where the whole table was asked for, or every row has one; nothing is kept.
        """
        worked, problems = self._worked_out(table, actor)
        if problems and (table.whole or not worked):
            first = problems[0]
            more = f" and {len(problems) - 1} more problems" if len(problems) > 1 else ""
            raise BadInput(
                f"{table.file}, row {first.row}: {first.what}{more}. Nothing was kept.",
                todo="Mend the rows, or the mapping.",
                field="table",
            )
        kept = [write_unseen(self._database, one.made.campaign) for one in worked]
        texts = [
            f"{table.file}: {len(one.attempt_ids)} readings of {of.made.campaign.unit.serial}"
            for one, of in zip(kept, worked, strict=True)
        ]
        show_together(self._database, kept, texts, "took a table in", actor)
        for model_id in dict.fromkeys(one.made.model.id for one in worked):
            units = {one.made.campaign.unit.id for one in worked if one.made.model.id == model_id}
            self._conclusions.changed(model_id, *sorted(units))
        return _view(worked, problems, [one for campaign in kept for one in campaign.attempt_ids])

    def _worked_out(self, table: Table, actor: Actor) -> tuple[list[_Worked], list[RowProblemView]]:
        problems: list[RowProblemView] = []
        found = _readings(table, problems)
        with self._database.reading() as session:
            units = load.units_by_serial(session, {read.serial for read in found})
            found_of = backgrounds(session, self._conclusions, list(units.values()))
            behind = {serial: found_of[unit.id] for serial, unit in units.items()}
            entries = {name: entry_named(session, name) for name in {read.hand.instrument for read in found}}
        readings = [fitted for read in found if (fitted := _fitted(behind, read, problems))]
        worked = []
        # What was held and what floated are campaigns of their own: a campaign has one supply policy.
        for serial, policy in dict.fromkeys((read.serial, read.hand.policy) for read in readings):
            mine = tuple(read for read in readings if (read.serial, read.hand.policy) == (serial, policy))
            worked.append(self._of_unit(behind[serial], mine, entries, actor, table.file))
        return worked, sorted(problems, key=lambda p: p.row)

    def _of_unit(
        self,
        behind: Background,
        mine: tuple[_Read, ...],
        entries: Mapping[str, InstrumentEntry | None],
        actor: Actor,
        file: str,
    ) -> _Worked:
        specs = list(dict.fromkeys(read.hand.run for read in mine))
        positions = {spec: position for position, spec in enumerate(specs, 1)}

        def attempts(planned: Campaign) -> list[tuple[int, Attempt]]:
            names = {run.position: run.channels for run in planned.runs}
            return [
                (
                    positions[read.hand.run],
                    hand_attempt(
                        read.hand,
                        names[positions[read.hand.run]],
                        entries[read.hand.instrument],
                        behind.method,
                        actor,
                        taken_at(read.day),
                        file,
                    ),
                )
                for read in mine
            ]

        policy = mine[0].hand.policy
        return _Worked(outside_campaign(behind, specs, attempts, actor, self._equipment_of(None), policy), mine)


def _view(worked: Sequence[_Worked], problems: Sequence[RowProblemView], kept: Sequence[int] | None) -> EarlierView:
    ids = iter(kept or ())
    return EarlierView(
        readings=[
            EarlierReadingView(
                row=read.row,
                serial=read.serial,
                mode=read.hand.run.mode,
                load_ohms=read.hand.run.load_ohms,
                bridged=read.hand.run.bridged,
                weakest_watts=judged.attempt.weakest_watts or 0.0,
                expanded_watts=judged.weakest_expanded,
                findings=finding_views(judged.question),
                attempt_id=None if kept is None else next(ids),
            )
            for one in worked
            for read, judged in zip(one.rows, one.made.judged(), strict=True)
        ],
        problems=list(problems[:MOST_PROBLEMS]),
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
    if missing or not set(OUTPUTS) & set(fields):
        raise BadInput(f"Say which column is the {(missing or 'watts').replace('_', ' ')}.", field="mapping")
    many = () if "channel" in fields else OUTPUTS
    twice = next((field for field in fields if fields.count(field) > 1 and field not in many), None)
    if twice:
        raise BadInput(f"Two columns are the {twice.replace('_', ' ')}.", field="mapping")
    factors = {index: factor_in(heading[index], field) for index, field in table.mapping.items()}
    of_field = {field: factors[index] for index, field in sorted(table.mapping.items(), reverse=True)}
    found: list[_Read] = []
    before: tuple[str, ...] = ()
    for number, row in enumerate(rows, 2):
        cells = {field: row[index] for index, field in sorted(table.mapping.items(), reverse=True)}
        try:
            read = _reading(number, cells, decimal, table, of_field)
            if "channel" not in fields:
                read = replace(read, channels=_in_turn(table, row, decimal, factors))
            if all(channel == HandChannel() for channel in read.channels.values()):
                raise BadInput("There are neither watts nor volts.", field="watts")
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


def _figure(field: Field, text: str, decimal: str, factor: float) -> float | None:
    value = figure(field, text, decimal, factor)
    if value is not None and value < 0 and field not in SIGNED:
        raise BadInput(f"“{text[:40]}” is less than nothing.", field=field)
    return value


def _in_turn(table: Table, row: Sequence[str], decimal: str, factors: Mapping[int, float]) -> dict[int, HandChannel]:
    """Several columns of watts (or volts) are the channels in the order of the columns."""
    figures: dict[Field, list[float | None]] = {field: [] for field in OUTPUTS}
    for index, field in sorted(table.mapping.items()):
        if field in figures:
            figures[field].append(_figure(field, row[index], decimal, factors[index]))
    count = max(len(values) for values in figures.values())
    columns = [[*figures[field], *[None] * count][:count] for field in OUTPUTS]
    read = [HandChannel(*values) for values in zip(*columns, strict=True)]
    # An empty column keeps its place: what stands in the second is not the first channel's.
    return {-place: channel for place, channel in enumerate(read) if channel != HandChannel()}


def _reading(
    number: int, cells: Mapping[Field, str], decimal: str, table: Table, factors: Mapping[Field, float]
) -> _Read:
    def cell(field: Field) -> float | None:
        return _figure(field, cells.get(field, ""), decimal, factors.get(field, 1.0))

    def needed(field: Field) -> float:
        value = cell(field)
        if not value:
            raise BadInput(f"The {words_of(field)} is missing.", field=field)
        return value

    mode = _one_of(Mode, cells["mode"], "mode")
    end = _one_of(End, cells["end"], "end") if cells.get("end") else limit_end(mode)
    policy, vehicle = _supply(cells.get("supply", ""))
    # A bank is on the run by the volts that it started from.
    volts = cell("supply_volts" if policy is SupplyPolicy.HELD else "start_volts") or cell("supply_volts")
    if policy is SupplyPolicy.BANK and volts is None:
        raise BadInput("Say from how many volts the bank started.", field="start_volts")
    instrument = cells.get("instrument") or table.instrument
    if not instrument.strip():
        raise BadInput("No instrument is named.", field="instrument")
    channel_read = HandChannel(*(cell(field) for field in OUTPUTS))
    if not cells["serial"]:
        raise BadInput("The serial number is missing.", field="serial")
    channel = cell("channel")
    hand = HandReading(
        run=RunSpec(
            mode,
            cells.get("group", ""),
            needed("load_ohms"),
            cell("tone_hz") or UNSAID_HZ,
            volts or UNSAID_VOLTS,
            _yes(cells, "bridged"),
            cells.get("burst", ""),
        ),
        channels=(),
        instrument=instrument,
        accuracy_percent=table.accuracy_percent,
        load_measured=cell("load_measured"),
        start_volts=cell("start_volts"),
        loaded_volts=cell("loaded_volts"),
        amps=cell("amps"),
        idle_amps=cell("idle_amps"),
        charger_amps=cell("charger_amps"),
        tripped_watts=cell("tripped_watts"),
        thd_n_percent=cell("thd_n_percent"),
        end=end,
        policy=policy,
        vehicle=vehicle,
        others_unread=_yes(cells, "others_unread"),
        reason=cells.get("reason", ""),
        cause=_cause(cells.get("reason", "")),
        remark=cells.get("remark", ""),
    )
    return _Read(number, cells["serial"], _day(cells.get("date", "")), {int(channel or 0): channel_read}, hand)


def _yes(cells: Mapping[Field, str], field: Field) -> bool:
    said = cells.get(field, "").lower()
    if said not in (*_YES, *_NO, field.replace("_", " ")):
        raise BadInput(f"“{said[:40]}” is neither yes nor no for {field.replace('_', ' ')}.", field=field)
    return said not in _NO


def _supply(said: str) -> tuple[SupplyPolicy, Vehicle | None]:
    """What fed the amplifier: held at its volts where nobody says."""
    words = " ".join(said.lower().replace("_", " ").replace(",", " ").removeprefix("vehicle").split()) or said.lower()
    if words and words not in SUPPLIES:
        known = ", ".join(SUPPLIES)
        raise BadInput(f"“{said[:40]}” is no supply; there is {known}.", field="supply")
    return SUPPLIES.get(words, (SupplyPolicy.HELD, None))


def _cause(reason: str) -> Cause | None:
    """A reason in the words of the causes is that cause; any other is one of its own."""
    words = reason.strip().lower().replace(" ", "_")
    return Cause(words) if words in set(Cause) else Cause.OTHER if words else None


def _one_of(kind: Any, text: str, field: str) -> Any:
    try:
        return kind(text.strip().lower().replace(" ", "_"))
    except ValueError:
        known = ", ".join(str(one.value).replace("_", " ") for one in kind)
        raise BadInput(f"“{text[:40]}” is no {field}; there is {known}.", field=field) from None


def _day(text: str) -> date | None:
    if not text:
        return None
    # With points between, the day is first wherever it is written so; with strokes it is not said which is first.
    turned = re.fullmatch(r"(\d{1,2})\.(\d{1,2})\.(\d{4})", text)
    try:
        day = date(int(turned[3]), int(turned[2]), int(turned[1])) if turned else date.fromisoformat(text[:10])
    except ValueError:
        raise BadInput(f"“{text[:40]}” is no date; write it as 2026-03-31.", field="date") from None
    refuse_impossible_day(day, now().date(), "date")
    return day


def _signal(run: RunSpec, group: ChannelGroup, method: MethodProfile) -> dict[str, Any]:
    """The tone and the burst: as the table says, else as the method has them for the group."""
    if run.mode is not Mode.BURST:
        return {"tone_hz": method.tone_of(group.bass) if run.tone_hz == UNSAID_HZ else run.tone_hz, "burst": ""}
    usual = method.burst_of(group.bass)
    hz = usual.hz if run.tone_hz == UNSAID_HZ else run.tone_hz
    burst = method.burst_named(run.burst, hz) if run.burst else usual
    return {"tone_hz": burst.hz, "burst": burst.name}


def _fitted(behind: Mapping[str, Background], read: _Read, problems: list[RowProblemView]) -> _Read | None:
    """Complete a reading by what its model is; None and a problem where it cannot be one of its runs."""
    try:
        if read.serial not in behind:
            raise BadInput(f"There is no unit with the serial number “{read.serial}”.")
        product, method = behind[read.serial].model.product, behind[read.serial].method
        group = product.group(read.hand.run.group or product.groups[0].name)
        volts = read.hand.run.supply_volts or method.reference_volts
        run = replace(read.hand.run, group=group.name, supply_volts=volts, **_signal(read.hand.run, group, method))
        refuse_impossible(run, product, method, read_already=True)
        channels = tuple(channels[0] for channels in group.read(run.bridged))
        given = dict(read.channels)
        if min(given) <= 0:
            given = {channels[-at] if -at < len(channels) else 1 - at: value for at, value in given.items()}
        if read.hand.others_unread:
            given = {channel: HandChannel() for channel in channels} | given
        absent = [channel for channel in channels if channel not in given]
        stray = [channel for channel in given if channel not in channels]
        if absent or stray:
            what = f"channel {absent[0]} is missing" if absent else f"there is no channel {stray[0]} in this run"
            raise BadInput(f"{what[:1].upper()}{what[1:]}.")
        hand = replace(read.hand, run=run, channels=tuple(given[c] for c in channels))
        refuse_unlikely(hand)
    except RulvekError as error:
        problems.append(RowProblemView(row=read.row, what=error.what.removesuffix(".")))
        return None
    return replace(read, hand=hand)
