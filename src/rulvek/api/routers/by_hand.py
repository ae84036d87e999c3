"""Readings by hand."""

from typing import Annotated

from fastapi import Body

from rulvek.api.asking import Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Id
from rulvek.core.records.outside import HandReading
from rulvek.services.views.outside import HandView, KeptSheetView, KeptView, SheetView

router = Calls("by hand")
Sheet = Annotated[list[HandReading], Body(min_length=1, max_length=40)]
"""More than any unit has loads by modes."""


@router.post("/units/{unit_id}/typed/preview")
def preview(unit_id: Id, body: HandReading, use: Use) -> HandView:
    """Work a reading out as it is typed; nothing is kept."""
    return use.by_hand.preview(unit_id, body)


@router.post("/units/{unit_id}/typed", status_code=201)
def keep(unit_id: Id, body: HandReading, use: Use, person: Person) -> KeptView:
    """Put a reading by hand on record."""
    return KeptView(attempt_id=use.by_hand.keep(unit_id, body, person))


@router.post("/units/{unit_id}/sheet/preview")
def preview_sheet(unit_id: Id, body: Sheet, use: Use) -> SheetView:
    """Work a unit's readings out together, each held against the others; nothing is kept."""
    return use.by_hand.preview_sheet(unit_id, body)


@router.post("/units/{unit_id}/sheet", status_code=201)
def keep_sheet(unit_id: Id, body: Sheet, use: Use, person: Person) -> KeptSheetView:
    """Put a unit's readings on record as one campaign."""
    return KeptSheetView(campaign_id=use.by_hand.keep_sheet(unit_id, body, person))
