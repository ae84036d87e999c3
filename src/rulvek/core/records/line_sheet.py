"""The line as rows of cells, to go out into a spreadsheet and come back: what stands in which column.

A cell is text, a number, a day, or empty. Several values of one cell are parted by “;”.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from enum import StrEnum
from typing import TypeVar

from rulvek.core.errors import BadInput
from rulvek.core.quantities import typed_number
from rulvek.core.records.claims import ClaimKind, ClaimTerms
from rulvek.core.records.entered import GroupEntry, ModelEntry, SeriesEntry, UnitEntry
from rulvek.core.records.facts import Came, Life, ModelFacts, Price, UnitFacts, UnitState

Cell = str | float | int | bool | date | None
Row = Mapping[str, Cell]
SERIES, MODELS, GROUPS, CLAIMS, UNITS = SHEETS = ("Series", "Models", "Groups", "Claims", "Units")
VERSION = "Version"
W = TypeVar("W", bound=StrEnum)
_PRICE = re.compile(r"([0-9]+(?:[.,][0-9]+)?) *([A-Za-z]{3})(?: +([0-9]{4}-[0-9]{2}-[0-9]{2}))?")


@dataclass(frozen=True, slots=True)
class LineRow:
    """A row as it came: which sheet, which row of it (the headings are row 1), its cells by their headings."""

    sheet: str
    number: int
    cells: Row

    def over(self, known: Row) -> "LineRow":
        """The same row over what is known: a column that the sheet does not have changes nothing."""
        return replace(self, cells={**known, **self.cells})

    def text(self, head: str) -> str:
        """Text of a cell; a number is written as people write it."""
        value = self.cells.get(head)
        if isinstance(value, float):
            return f"{value:g}"
        return "" if value is None else str(value).strip()

    def number_of(self, head: str) -> float | None:
        """A number; None of an empty cell.

        Raises:
            BadInput: it is none.
        """
        value = self.cells.get(head)
        if value is None or value == "":
            return None
        if isinstance(value, bool) or not isinstance(value, int | float):
            try:
                return typed_number(str(value))
            except ValueError:
                raise BadInput(f"“{str(value)[:40]}” is no number.", field=head) from None
        return float(value)

    def required(self, head: str) -> float:
        """A number that must be there.

        Raises:
            BadInput: it is missing, or none.
        """
        found = self.number_of(head)
        if found is None:
            raise BadInput(f"{head} is missing.", field=head)
        return found

    def whole(self, head: str) -> int | None:
        """A whole number; None of an empty cell.

        Raises:
            BadInput: it is none.
        """
        found = self.number_of(head)
        if found is not None and found != int(found):
            raise BadInput(f"{head} is a whole number, not {found:g}.", field=head)
        return None if found is None else int(found)

    def numbers(self, head: str) -> tuple[float, ...]:
        """Several numbers, parted by “;” or blanks.

        Raises:
            BadInput: one of them is none.
        """
        value = self.cells.get(head)
        if isinstance(value, int | float) and not isinstance(value, bool):
            return (float(value),)
        parts = self.text(head).replace(";", " ").split()
        try:
            return tuple(typed_number(part) for part in parts)
        except ValueError:
            raise BadInput(f"“{self.text(head)[:40]}” are no numbers parted by “;”.", field=head) from None

    def price(self, head: str) -> Price | None:
        """A price as “199.50 EUR 2026-03-31”, the day where it is known; None of an empty cell.

        Raises:
            BadInput: it is none.
        """
        text = self.text(head)
        if not text:
            return None
        found = _PRICE.fullmatch(text)
        if found is None:
            raise BadInput(f"“{text[:40]}” is no price, as 199.50 EUR 2026-03-31; the day may be left out.", field=head)
        try:
            day = date.fromisoformat(found[3]) if found[3] else None
        except ValueError:
            raise BadInput(f"“{found[3]}” is no day, as 2026-03-31.", field=head) from None
        return Price(typed_number(found[1]), found[2].upper(), day)

    def yes(self, head: str, unsaid: bool = False) -> bool:
        """Yes or no; ``unsaid`` of an empty cell.

        Raises:
            BadInput: it is neither.
        """
        value = self.text(head).casefold()
        if value in ("yes", "true", "x", "1"):
            return True
        if value in ("no", "false", "0"):
            return False
        if not value:
            return unsaid
        raise BadInput(f"“{value[:40]}” is neither yes nor no.", field=head)

    def day(self, head: str) -> date | None:
        """A day; None of an empty cell.

        Raises:
            BadInput: it is none.
        """
        value = self.cells.get(head)
        if isinstance(value, datetime):
            return value.date()
        if isinstance(value, date):
            return value
        if not self.text(head):
            return None
        try:
            return date.fromisoformat(self.text(head))
        except ValueError:
            raise BadInput(f"“{self.text(head)[:40]}” is no day, as 2026-03-31.", field=head) from None

    def word(self, head: str, kind: type[W], unsaid: W) -> W:
        """One of some words; ``unsaid`` of an empty cell.

        Raises:
            BadInput: it is another one.
        """
        value = self.text(head).casefold()
        if not value:
            return unsaid
        try:
            return kind(value)
        except ValueError:
            raise BadInput(f"“{value[:40]}” is none of {', '.join(kind)}.", field=head) from None

    def one_of(self, head: str, known: Sequence[str], unsaid: str) -> str:
        """One of some texts, in whatever case.

        Raises:
            BadInput: it is another one.
        """
        value = self.text(head) or unsaid
        found = next((one for one in known if one.casefold() == value.casefold()), None)
        if found is None:
            raise BadInput(f"“{value[:40]}” is none of {', '.join(filter(None, known))}.", field=head)
        return found


def _list(values: Sequence[float]) -> str:
    return "; ".join(f"{value:g}" for value in values)


def _price(price: Price | None) -> str:
    if price is None:
        return ""
    return f"{price.amount:.12g} {price.currency}{f' {price.day.isoformat()}' if price.day else ''}"


def _yes(value: bool) -> str:
    return "yes" if value else "no"


def series_cells(entry: SeriesEntry, version: int) -> Row:
    """A series as it goes out."""
    return {
        "Name": entry.name,
        "Purpose": entry.purpose,
        "Ratings in steps of (W)": entry.rating_step_watts,
        "Currency": entry.currency,
        VERSION: version,
    }


def series_of(row: LineRow, known: SeriesEntry | None = None) -> SeriesEntry:
    """A series as it came; what no column tells stays as it is known.

    Raises:
        BadInput: a cell by its heading.
    """
    if known is not None:
        row = row.over(series_cells(known, 1))
    step = row.number_of("Ratings in steps of (W)")
    return SeriesEntry(row.text("Name"), row.text("Purpose"), step, row.text("Currency"))


def model_cells(series: str, entry: ModelEntry, version: int) -> Row:
    """A model as it goes out, without its groups."""
    facts = entry.facts
    regulated = "not known" if not facts.regulation_known else _yes(entry.regulated)
    return {
        "Series": series,
        "Name": entry.name,
        "What it is": entry.description,
        "Class": entry.topology,
        "Regulated": regulated,
        "Supply from (V)": entry.supply_low_volts,
        "Supply to (V)": entry.supply_high_volts,
        "Input for full output (V)": entry.sensitivity_volts,
        "Fuses (A)": _list(entry.fuse_amps),
        "Controls in test position": "; ".join(entry.test_controls),
        "Intended use": facts.intended_use,
        "Life": facts.life.value,
        "Length (mm)": facts.length_mm,
        "Width (mm)": facts.width_mm,
        "Height (mm)": facts.height_mm,
        "Weight (kg)": facts.weight_kg,
        "List price": _price(facts.list_price),
        "Street price": _price(facts.street_price),
        VERSION: version,
    }


def model_of(row: LineRow, groups: Sequence[LineRow], known: ModelEntry | None) -> ModelEntry:
    """A model as it came, with the rows of its groups; what no column tells stays as it is known.

    Raises:
        BadInput: a cell by its heading.
    """
    old = known or ModelEntry(row.text("Name"), ())
    if known is not None:
        row = row.over(model_cells("", known, 1))
    before = {group.name.casefold(): group_cells("", group) for group in old.groups}
    groups = [group.over(before.get(group.text("Group").casefold(), {})) for group in groups]
    regulated = row.one_of("Regulated", ("yes", "no", "not known"), "no")
    facts = replace(
        old.facts if known else ModelFacts(),
        regulation_known=regulated != "not known",
        intended_use=row.text("Intended use"),
        life=row.word("Life", Life, Life.CURRENT),
        length_mm=row.number_of("Length (mm)"),
        width_mm=row.number_of("Width (mm)"),
        height_mm=row.number_of("Height (mm)"),
        weight_kg=row.number_of("Weight (kg)"),
        list_price=row.price("List price"),
        street_price=row.price("Street price"),
    )
    topology = row.one_of("Class", ("AB", "D"), "D")
    return replace(
        old,
        name=row.text("Name"),
        description=row.text("What it is"),
        topology="AB" if topology == "AB" else "D",
        regulated=regulated == "yes",
        supply_low_volts=_or(row.number_of("Supply from (V)"), 10.5),
        supply_high_volts=_or(row.number_of("Supply to (V)"), 16.0),
        sensitivity_volts=_or(row.number_of("Input for full output (V)"), 1.0),
        fuse_amps=row.numbers("Fuses (A)"),
        test_controls=tuple(filter(None, (one.strip() for one in row.text("Controls in test position").split(";")))),
        groups=tuple(group_of(group) for group in groups) if groups else old.groups,
        facts=facts,
    )


def group_cells(model: str, entry: GroupEntry) -> Row:
    """A channel group as it goes out."""
    return {
        "Model": model,
        "Group": entry.name,
        "Channels": entry.channels,
        "Rated loads (Ω)": _list(entry.rated_loads),
        "Bridged loads (Ω)": _list(entry.bridged_loads),
        "Bass only": _yes(entry.bass),
        "Class": entry.topology,
        "Band from (Hz)": entry.band_low_hz,
        "Band to (Hz)": entry.band_high_hz,
    }


def group_of(row: LineRow) -> GroupEntry:
    """A channel group as it came.

    Raises:
        BadInput: a cell by its heading.
    """
    topology = row.one_of("Class", ("", "AB", "D"), "")
    return GroupEntry(
        row.text("Group"),
        int(row.whole("Channels") or 0),
        row.numbers("Rated loads (Ω)"),
        row.numbers("Bridged loads (Ω)"),
        row.yes("Bass only"),
        "AB" if topology == "AB" else "D" if topology == "D" else "",
        row.number_of("Band from (Hz)"),
        row.number_of("Band to (Hz)"),
    )


def claim_cells(model: str, terms: ClaimTerms) -> Row:
    """A claim as it goes out; there is no changing one, only withdrawing it."""
    return {
        "Model": model,
        "Document": terms.document,
        "Where in it": terms.stands_at,
        "Group": terms.group,
        "Power (W)": terms.watts,
        "Load (Ω)": terms.load_ohms,
        "Bridged": _yes(terms.bridged),
        "Kind": terms.kind.value,
        "Supply (V)": terms.supply_volts,
        "Supply to (V)": terms.supply_high_volts,
        "THD+N limit (%)": terms.thd_n_percent,
        "Band from (Hz)": terms.band_low_hz,
        "Band to (Hz)": terms.band_high_hz,
        "In total of (channels)": terms.total_of,
        "Driven (channels)": terms.driven_channels,
        "Load stated": _yes(terms.load_stated),
        "Linked units": _yes(terms.linked),
    }


def claim_of(row: LineRow) -> ClaimTerms:
    """A claim as it came.

    Raises:
        BadInput: a cell by its heading.
    """
    return ClaimTerms(
        document=row.text("Document"),
        group=row.text("Group"),
        watts=row.required("Power (W)"),
        load_ohms=row.required("Load (Ω)"),
        bridged=row.yes("Bridged"),
        kind=row.word("Kind", ClaimKind, ClaimKind.CONTINUOUS),
        supply_volts=row.number_of("Supply (V)"),
        supply_high_volts=row.number_of("Supply to (V)"),
        thd_n_percent=row.number_of("THD+N limit (%)"),
        band_low_hz=row.number_of("Band from (Hz)"),
        band_high_hz=row.number_of("Band to (Hz)"),
        total_of=row.whole("In total of (channels)"),
        driven_channels=row.whole("Driven (channels)"),
        load_stated=row.yes("Load stated", unsaid=True),
        linked=row.yes("Linked units"),
        stands_at=row.text("Where in it") or None,
    )


def unit_cells(model: str, entry: UnitEntry, version: int) -> Row:
    """A unit as it goes out."""
    facts = entry.facts
    return {
        "Model": model,
        "Serial number": entry.serial,
        "Lot": entry.lot,
        "Revision": entry.revision,
        "How it came": facts.came.value if facts.came else "",
        "From whom": facts.from_whom,
        "Remark": entry.origin,
        "Received on": entry.received_on,
        "State": facts.state.value,
        "Where it is": facts.whereabouts,
        VERSION: version,
    }


def unit_of(row: LineRow, known: UnitEntry | None) -> UnitEntry:
    """A unit as it came; what no column tells stays as it is known.

    Raises:
        BadInput: a cell by its heading.
    """
    if known is not None:
        row = row.over(unit_cells("", known, 1))
    came = row.text("How it came")
    facts = replace(
        known.facts if known else UnitFacts(),
        came=row.word("How it came", Came, Came.SAMPLE) if came else None,
        from_whom=row.text("From whom"),
        state=row.word("State", UnitState, UnitState.WAITING),
        whereabouts=row.text("Where it is"),
    )
    day = row.day("Received on")
    received = known.received_on if known and day is None else day
    return UnitEntry(
        row.text("Serial number"), row.text("Lot"), row.text("Revision"), row.text("Remark"), received, facts
    )


def _or(value: float | None, unsaid: float) -> float:
    return unsaid if value is None else value


_EXAMPLES: Mapping[str, Callable[[], Row]] = {
    SERIES: lambda: series_cells(SeriesEntry(""), 1),
    MODELS: lambda: model_cells("", ModelEntry("", ()), 1),
    GROUPS: lambda: group_cells("", GroupEntry("", 1, ())),
    CLAIMS: lambda: claim_cells("", ClaimTerms("", "", 1.0, 1.0)),
    UNITS: lambda: unit_cells("", UnitEntry(""), 1),
}


def headings(sheet: str) -> tuple[str, ...]:
    """The columns of a sheet, in their order.

    >>> headings("Series")
    ('Name', 'Purpose', 'Ratings in steps of (W)', 'Currency', 'Version')
    """
    return tuple(_EXAMPLES[sheet]())


@dataclass(frozen=True, slots=True)
class LineSheets:
    """The whole line as rows, by the sheet that they stand on."""

    rows: Mapping[str, Sequence[LineRow]] = field(default_factory=dict)

    def of(self, sheet: str) -> Sequence[LineRow]:
        """The rows of a sheet, none where it is not there."""
        return self.rows.get(sheet, ())
