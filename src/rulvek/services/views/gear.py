"""Answers about the gear."""

from datetime import date, datetime
from typing import Literal

from rulvek.core.electrical.loads import LoadBox
from rulvek.core.records.calibrations import CalibrationHistory
from rulvek.core.records.instruments import AsFound, InstrumentEntry, InstrumentRole
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
    """Dummy loads of one value: each is ``kelvin_per_watt`` over the air in the end, 63 % of that after ``seconds``.

    Both are fitted to so many of the bench's runs, and assumed where that is 0.
    """

    ohms: float
    watts: float
    count: int
    kelvin_per_watt: float
    seconds: float
    fitted_to_runs: int
    cold_ohms: float | None
    ppm_per_kelvin: float | None
    inductance_uh: float | None
    duty_percent: float


def box_view(box: LoadBox) -> BoxView:
    """Dummy loads, as people see them."""
    return BoxView(
        ohms=box.ohms,
        watts=box.watts,
        count=box.count,
        kelvin_per_watt=box.kelvin_per_watt,
        seconds=box.time_constant,
        fitted_to_runs=box.fitted_to_runs,
        cold_ohms=box.cold_ohms,
        ppm_per_kelvin=box.ppm_per_kelvin,
        inductance_uh=box.inductance_uh,
        duty_percent=100 * box.duty,
    )


@view
class CalibrationPointView(View):
    """One calibration: the errors that were found and left, and the limits, in percent of what was checked."""

    on: date
    certificate: str
    found_percent: float | None
    left_percent: float | None
    limit_percent: float
    out: bool


@view
class CalibrationsView(View):
    """An instrument's calibrations that told a figure, the oldest first."""

    role: InstrumentRole
    name: str
    points: list[CalibrationPointView]


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
    calibrations: list[CalibrationsView]


def calibrations_view(one: CalibrationHistory) -> CalibrationsView:
    """An instrument's calibrations, as people see them."""
    return CalibrationsView(
        role=one.role,
        name=one.name,
        points=[
            CalibrationPointView(
                on=point.on,
                certificate=point.certificate,
                found_percent=point.found_percent,
                left_percent=point.left_percent,
                limit_percent=point.limit_percent,
                out=point.as_found is AsFound.OUT,
            )
            for point in one.points
        ],
    )


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
