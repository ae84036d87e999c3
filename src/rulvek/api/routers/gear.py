"""The gear register."""

from fastapi import APIRouter

from rulvek.api.asking import Person, Use
from rulvek.core.records.instruments import InstrumentEntry
from rulvek.services.views.gear import GearView

router = APIRouter(tags=["gear"])


@router.get("/gear")
def get_gear(use: Use) -> GearView:
    """The bench, its loads and its instruments."""
    return use.gear.view()


@router.post("/gear/instruments", status_code=201)
def enter_instrument(body: InstrumentEntry, use: Use, person: Person) -> GearView:
    """Put an instrument on the register; from now on it is what its role is read with."""
    return use.gear.enter(body, person)
