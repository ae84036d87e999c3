"""Spreadsheets as files: read by openpyxl on its own, and what arrives is never trusted."""

import io
import zipfile
from datetime import date

import pytest
from openpyxl import Workbook, load_workbook

from rulvek.core.errors import BadInput
from rulvek.store.formats.workbooks import MOST_BYTES, read_workbook, write_workbook

ROWS = [["plain", 1.5, True, date(2026, 3, 31), None], ["=1+1", "+1", "-1", "@x", "\t=1"]]


def test_what_is_written_reads_as_it_was() -> None:
    content = write_workbook({"One": (["a", "b", "c", "d", "e"], ROWS), "Two": ([], [])})
    book = load_workbook(io.BytesIO(content))
    assert book.sheetnames == ["One", "Two"] and book["One"].freeze_panes == "A2"
    first, second = list(book["One"].iter_rows(min_row=2))
    assert [cell.value for cell in first][:3] == ["plain", 1.5, True] and first[3].value.date() == date(2026, 3, 31)
    assert [(cell.value, cell.data_type) for cell in second] == [(words, "s") for words in ROWS[1]]


def test_a_formula_counts_as_its_last_result() -> None:
    book = Workbook()
    book.active.append(["=1+1"])
    out = io.BytesIO()
    book.save(out)
    assert read_workbook(out.getvalue()) == {"Sheet": [[]]}  # it was never worked out


def test_wide_rows_are_cut_and_odd_cells_are_empty() -> None:
    book = Workbook()
    book.active.append(["x"] * 100)
    out = io.BytesIO()
    book.save(out)
    assert len(read_workbook(out.getvalue())["Sheet"][0]) == 60


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"PK\x03\x04 cut off", "no spreadsheet"),
        (bytes(MOST_BYTES + 1), "at most 8 MB"),
        (b"", "no spreadsheet"),
    ],
)
def test_what_is_none_is_refused_in_a_sentence(content: bytes, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        read_workbook(content)


def test_an_entity_that_unfolds_is_not_unfolded() -> None:
    """XML's own bomb ("billion laughs"), in the part that every workbook has."""
    laughs = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 10))
    bomb = f'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY l0 "ha">{laughs}]><workbook>&l9;</workbook>'
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        packed.writestr("[Content_Types].xml", bomb)
        packed.writestr("xl/workbook.xml", bomb)
    with pytest.raises(BadInput, match="no spreadsheet"):
        read_workbook(out.getvalue())
