"""Answers of the desk."""

from typing import Literal

from rulvek.services.views.base import View, view


@view
class FieldView(View):
    """A number that a calculator asks for."""

    name: str
    words: str
    example: float


@view
class NetworkView(View):
    """A network of dummy loads as a tree: one resistor, or parts in series or in parallel.

    ``watts`` is what it takes of the wanted power, ``most_watts`` what it stands.
    """

    kind: Literal["one", "series", "parallel"]
    how: str
    ohms: float
    most_watts: float
    watts: float
    parts: list["NetworkView"]


@view
class ComposedView(View):
    """The best networks for a wanted load; ``too_weak`` more have the value but not the power.

    ``shelf`` is what they are made of.
    """

    networks: list[NetworkView]
    too_weak: int
    shelf: str


@view
class CalculatorView(View):
    """A calculator of the desk."""

    name: str
    title: str
    formula: str
    source: str
    caution: str
    fields: list[FieldView]


@view
class ResultView(View):
    """One line that a calculator answers with."""

    words: str
    value: str
