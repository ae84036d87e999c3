"""The gear register over HTTP."""

from datetime import date
from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from rulvek.api.context import Person, Use
from rulvek.api.line import Body
from rulvek.services.gear import NewInstrument, Role
from rulvek.services.views.gear import GearView

router = APIRouter(tags=["gear"])
Share = Annotated[float, Field(ge=0, le=100)]
Size = Annotated[float, Field(ge=0, le=1e6)]


class InstrumentIn(Body):
    """An instrument, or the same one after a calibration."""

    role: Role
    name: str = Field(max_length=120)
    serial: str = Field("", max_length=80)
    percent_of_reading: Share = 0.0
    percent_of_range: Share = 0.0
    full_range: Size = 0.0
    digits: Size = 0.0
    resolution: Size = 0.0
    calibrated_on: date | None = None
    due_on: date | None = None


@router.get("/gear")
def get_gear(use: Use) -> GearView:
    """The bench, its loads and its instruments."""
    return use.gear.view()


@router.post("/gear/instruments", status_code=201)
def enter_instrument(body: InstrumentIn, use: Use, person: Person) -> GearView:
    """Put an instrument on the register; from now on it is what its role is read with."""
    return use.gear.enter(NewInstrument(**body.model_dump()), person)
