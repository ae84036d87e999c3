"""Answers about the gear."""

from datetime import date, datetime
from typing import Literal

from rulvek.services.views.base import View, view


@view
class InstrumentView(View):
    """An entry of the gear register; ``days_left`` until its calibration is due, null where it never is."""

    id: int
    role: str
    name: str
    serial: str
    accuracy: str
    calibrated_on: date | None
    due_on: date | None
    state: Literal["in use", "overdue", "replaced"]
    days_left: int | None
    entered_by: str
    entered_at: datetime


@view
class BoxView(View):
    """Dummy loads of one value."""

    ohms: float
    watts: float
    count: int


@view
class GearView(View):
    """The bench: what it has to offer, and what it reads with."""

    bench: str
    inputs: int
    supply_limit_amps: float
    bank_volts: float
    bank_milliohms: float
    cable: str
    boxes: list[BoxView]
    instruments: list[InstrumentView]
