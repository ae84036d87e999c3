"""Readings by hand."""

from fastapi import APIRouter

from rulvek.api.asking import Person, Use
from rulvek.api.schemas import Id
from rulvek.core.records.outside import HandReading
from rulvek.services.views.outside import HandView, KeptView

router = APIRouter(tags=["by hand"])


@router.post("/units/{unit_id}/typed/preview")
def preview(unit_id: Id, body: HandReading, use: Use) -> HandView:
    """Work a reading out as it is typed; nothing is kept."""
    return use.by_hand.preview(unit_id, body)


@router.post("/units/{unit_id}/typed", status_code=201)
def keep(unit_id: Id, body: HandReading, use: Use, person: Person) -> KeptView:
    """Put a reading by hand on record."""
    return KeptView(attempt_id=use.by_hand.keep(unit_id, body, person))
