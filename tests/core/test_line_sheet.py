"""The line as rows: whatever can be entered goes out and comes back as it was."""

from datetime import date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput
from rulvek.core.records import line_sheet as sheet
from rulvek.core.records.claims import ClaimKind, ClaimTerms
from rulvek.core.records.entered import GroupEntry, ModelEntry, SeriesEntry, UnitEntry
from rulvek.core.records.facts import Came, Life, ModelFacts, UnitFacts, UnitState
from rulvek.core.records.line_sheet import LineRow
from tests.examples import examples

WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1, max_size=20)
TEXTS = st.one_of(st.just(""), WORDS)
# What a cell shows is six digits; more is nobody's claim.
NUMBERS = st.decimals(1, 20, places=3).map(float)
LOADS = st.lists(st.sampled_from((8.0, 4.0, 2.67, 2.0, 1.0)), min_size=1, max_size=4, unique=True).map(tuple)


def as_row(name: str, cells: sheet.Row) -> LineRow:
    return LineRow(name, 2, cells)


@given(st.builds(SeriesEntry, WORDS, TEXTS, st.none() | NUMBERS, st.sampled_from(("", "EUR", "USD"))))
@examples(60)
def test_a_series_comes_back_as_it_went(entry: SeriesEntry) -> None:
    assert sheet.series_of(as_row(sheet.SERIES, sheet.series_cells(entry, 1))) == entry


GROUPS = st.builds(
    GroupEntry,
    WORDS,
    st.integers(1, 16),
    LOADS,
    st.one_of(st.just(()), LOADS),
    st.booleans(),
    st.sampled_from(("", "AB", "D")),
    st.none() | NUMBERS,
    st.none() | NUMBERS,
)
FACTS = st.builds(
    ModelFacts,
    intended_use=TEXTS,
    life=st.sampled_from(Life),
    regulation_known=st.booleans(),
    length_mm=st.none() | NUMBERS,
    width_mm=st.none() | NUMBERS,
    height_mm=st.none() | NUMBERS,
    weight_kg=st.none() | NUMBERS,
    fan=st.none() | st.booleans(),
)
MODELS = st.builds(
    ModelEntry,
    WORDS,
    st.lists(GROUPS, min_size=1, max_size=3).map(tuple),
    TEXTS,
    st.sampled_from(("AB", "D")),
    st.booleans(),
    NUMBERS,
    NUMBERS,
    NUMBERS,
    st.lists(WORDS.filter(lambda one: ";" not in one), max_size=3).map(tuple),
    st.lists(st.sampled_from((20.0, 30.0, 40.0)), max_size=3).map(tuple),
    FACTS,
)


@given(MODELS)
@examples(60)
def test_a_model_comes_back_as_it_went_with_what_no_column_tells(entry: ModelEntry) -> None:
    if not entry.facts.regulation_known and entry.regulated:
        return  # what is not known to be regulated is not said to be
    cells = sheet.model_cells("Tern", entry, 3)
    groups = [as_row(sheet.GROUPS, sheet.group_cells(entry.name, group)) for group in entry.groups]
    row = as_row(sheet.MODELS, cells)
    assert sheet.model_of(row, groups, entry) == entry
    assert row.whole(sheet.VERSION) == 3 and row.text("Series") == "Tern"
    # Of a new one the fan is not known: no column tells it.
    assert sheet.model_of(row, groups, None).facts.fan is None


CLAIMS = st.builds(
    ClaimTerms,
    document=WORDS,
    group=WORDS,
    watts=NUMBERS,
    load_ohms=NUMBERS,
    bridged=st.booleans(),
    kind=st.sampled_from(ClaimKind),
    supply_volts=st.none() | NUMBERS,
    thd_n_percent=st.none() | NUMBERS,
    band_low_hz=st.none() | NUMBERS,
    band_high_hz=st.none() | NUMBERS,
    supply_high_volts=st.none() | NUMBERS,
    total_of=st.none() | st.integers(1, 8),
    driven_channels=st.none() | st.integers(1, 8),
    load_stated=st.booleans(),
    linked=st.booleans(),
    stands_at=st.none() | WORDS,
)


@given(CLAIMS)
@examples(60)
def test_a_claim_comes_back_as_it_went(terms: ClaimTerms) -> None:
    assert sheet.claim_of(as_row(sheet.CLAIMS, sheet.claim_cells("Tern 2", terms))) == terms


UNITS = st.builds(
    UnitEntry,
    WORDS,
    TEXTS,
    TEXTS,
    TEXTS,
    st.dates(date(2000, 1, 1), date(2026, 1, 1)),
    st.builds(
        UnitFacts,
        came=st.none() | st.sampled_from(Came),
        from_whom=TEXTS,
        missing=TEXTS,
        state=st.sampled_from(UnitState),
        whereabouts=TEXTS,
    ),
)


@given(UNITS)
@examples(60)
def test_a_unit_comes_back_as_it_went(entry: UnitEntry) -> None:
    assert sheet.unit_of(as_row(sheet.UNITS, sheet.unit_cells("Tern 2", entry, 1)), entry) == entry


@pytest.mark.parametrize("name", sheet.SHEETS)
def test_every_sheet_has_headings_of_its_own(name: str) -> None:
    heads = sheet.headings(name)
    assert len(set(heads)) == len(heads) > 4


def test_cells_are_read_as_people_write_them() -> None:
    row = LineRow(
        sheet.MODELS,
        2,
        {
            "a": "14,4",
            "b": " YES ",
            "c": datetime(2026, 3, 31, 12),
            "d": "2026-03-31",
            "e": 4,
            "f": "4; 2,67 2",
            "g": "",
            "h": None,
            "i": 2611.0,
            "j": True,
        },
    )
    assert row.number_of("a") == 14.4 and row.yes("b") and row.yes("j")
    assert row.day("c") == row.day("d") == date(2026, 3, 31)
    assert row.numbers("e") == (4.0,) and row.numbers("f") == (4.0, 2.67, 2.0)
    assert row.number_of("g") is row.number_of("h") is row.day("h") is None and row.numbers("g") == ()
    assert row.text("i") == "2611"  # a lot that a spreadsheet took for a number
    assert not row.yes("g") and row.yes("g", unsaid=True)


@pytest.mark.parametrize(
    ("head", "value", "read"),
    [
        ("x", "1.2.3", "number_of"),
        ("x", True, "number_of"),
        ("x", "", "required"),
        ("x", 2.5, "whole"),
        ("x", "4 ohms", "numbers"),
        ("x", "perhaps", "yes"),
        ("x", "31.3.2026", "day"),
    ],
)
def test_what_a_cell_cannot_be_is_told_by_its_heading(head: str, value: sheet.Cell, read: str) -> None:
    with pytest.raises(BadInput) as refused:
        getattr(LineRow(sheet.MODELS, 2, {head: value}), read)(head)
    assert refused.value.field == head and refused.value.what.endswith(".")
