"""Answers about bundles."""

from datetime import datetime
from typing import Literal

from rulvek.services.views.base import View, view


@view
class BundlePartView(View):
    """What would become of a part of a bundle, and in words why."""

    kind: str
    name: str
    state: Literal["new", "there", "kept as here", "clash"]
    words: str


@view
class BundleView(View):
    """A bundle that waits, and what would become of it; ``parts`` leaves out those that are on record as they are."""

    id: str
    lab: str
    scope: Literal["model", "unit", "campaign"]
    of: str
    packed_by: str
    packed_at: datetime
    bytes: int
    files: int
    parts: list[BundlePartView]
    new: int
    there: int
    kept_as_here: int
    clashes: int


@view
class TakenInView(View):
    """What was taken in."""

    model_id: int
    unit_ids: list[int]
    campaign_ids: list[int]
    attempts: int
    files: int
