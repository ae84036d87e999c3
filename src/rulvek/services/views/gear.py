"""Answers about the gear."""

from datetime import date, datetime
from typing import Literal

from rulvek.core.records.instruments import InstrumentEntry
from rulvek.services.views.base import View, view


@view
class InstrumentView(View):
    """An entry of the gear register; ``days_left`` until its calibration is due, null where it never is."""

    id: int
    entry: InstrumentEntry
    accuracy: str
    state: Literal["in use", "due soon", "overdue", "replaced"]
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


def instrument_view(
    identity: int, entry: InstrumentEntry, in_use: bool, day: date, entered_by: str, entered_at: datetime
) -> InstrumentView:
    """An entry of the register on a day, as people see it."""
    left = (entry.due_on - day).days if entry.due_on else None
    return InstrumentView(
        id=identity,
        entry=entry,
        accuracy=entry.specification.in_words,
        state="replaced" if not in_use else entry.calibration_on(day),
        days_left=left,
        entered_by=entered_by,
        entered_at=entered_at,
    )
