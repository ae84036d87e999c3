"""Answers about a spreadsheet of the line."""

from typing import Literal

from rulvek.services.views.base import View, view


@view
class ExchangeRowView(View):
    """What becomes of a row: which fields change, or why it is refused, and in which column."""

    sheet: str
    row: int
    name: str
    state: Literal["new", "changed", "same", "refused"]
    words: str
    column: str


@view
class ExchangeView(View):
    """What becomes of a spreadsheet; ``rows`` leaves out those that stay as they are."""

    rows: list[ExchangeRowView]
    new: int
    changed: int
    same: int
    refused: int
