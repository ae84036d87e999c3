"""Answers about things that stand side by side."""

from rulvek.services.views.base import View, view


@view
class SubjectView(View):
    """One of the things; ``of`` says what it belongs to."""

    id: int
    name: str
    of: str


@view
class DifferenceView(View):
    """What each of the things says under one label, in their order; empty where it says nothing."""

    section: str
    label: str
    values: list[str]
    same: bool


@view
class SideBySideView(View):
    """Several things in one table of differences."""

    subjects: list[SubjectView]
    rows: list[DifferenceView]
