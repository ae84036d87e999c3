"""Spreadsheets (Office Open XML): written so that text stays text, read without unfolding more than was sent."""

import io
import zipfile
from collections.abc import Mapping, Sequence
from datetime import date
from typing import TYPE_CHECKING, Any

from rulvek.core.errors import BadInput

if TYPE_CHECKING:  # the library is loaded with the first spreadsheet: it takes long, and few starts see one
    from openpyxl.cell import WriteOnlyCell

MOST_BYTES = 8 * 2**20
MOST_UNFOLDED = 120 * 2**20
MOST_ROWS = 20_000
MOST_COLUMNS = 60
Cell = str | float | int | bool | date | None


def write_workbook(sheets: Mapping[str, tuple[Sequence[str], Sequence[Sequence[Cell]]]]) -> bytes:
    """A workbook of these sheets: headings, which stay in view, and rows.

    Text that begins as a formula would is written as text: nothing in a file that leaves here is carried out.
    """
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    for name, (heads, rows) in sheets.items():
        sheet = book.create_sheet(name)
        sheet.freeze_panes = "A2"
        for at, head in enumerate(heads):
            sheet.column_dimensions[_letter(at)].width = max(10, min(40, len(head) + 4))
        sheet.append([_cell(sheet, head, bold=True) for head in heads])
        for row in rows:
            sheet.append([_cell(sheet, value) for value in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def read_workbook(content: bytes) -> dict[str, list[list[Cell]]]:
    """The sheets of a workbook as rows of cells, the headings first; a formula counts as its last result.

    Raises:
        BadInput: no workbook, or one that is too large.
    """
    from openpyxl import load_workbook

    if len(content) > MOST_BYTES:
        raise BadInput(f"A spreadsheet has at most {MOST_BYTES // 2**20} MB.", field="file")
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            unfolded = sum(one.file_size for one in packed.infolist())
        if unfolded > MOST_UNFOLDED:
            raise BadInput("The spreadsheet unfolds to more than can be read here.", field="file")
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True, keep_links=False)
        try:
            return {sheet.title: _rows(sheet) for sheet in book.worksheets}
        finally:
            book.close()
    except BadInput:
        raise
    except Exception:  # a reader meets anything in a damaged file
        raise BadInput("This is no spreadsheet (.xlsx), or it is damaged.", field="file") from None


def _rows(sheet: Any) -> list[list[Cell]]:
    found: list[list[Cell]] = []
    for row in sheet.iter_rows(values_only=True, max_col=MOST_COLUMNS):
        if len(found) > MOST_ROWS:
            raise BadInput(f"A sheet has at most {MOST_ROWS} rows.", field="file")
        cells = [one if isinstance(one, str | float | int | bool | date) else None for one in row]
        while cells and cells[-1] is None:
            cells.pop()
        found.append(cells)
    return found


def _cell(sheet: Any, value: Cell, bold: bool = False) -> "WriteOnlyCell":
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Alignment, Font

    cell = WriteOnlyCell(sheet, None)
    cell.value = value
    if isinstance(value, str):
        cell.data_type = "s"  # whatever it begins with
        cell.quotePrefix = value.startswith(("=", "+", "-", "@"))
    if bold:
        cell.font, cell.alignment = Font(bold=True), Alignment(wrap_text=True, vertical="top")
    return cell


def _letter(at: int) -> str:
    return chr(ord("A") + at) if at < 26 else f"A{chr(ord('A') + at - 26)}"
