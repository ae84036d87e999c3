"""The gear register: what the bench reads with, how accurate it is, and until when its calibration holds."""

from dataclasses import dataclass
from datetime import UTC, date, datetime
from enum import StrEnum
from typing import Any

from rulvek.bench.sim.catalogue import EQUIPMENT, INSTRUMENTS
from rulvek.core.errors import BadInput
from rulvek.core.judgement.uncertainty import Instruments, Specification
from rulvek.services.views.gear import BoxView, GearView, InstrumentView
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database, Session


class Role(StrEnum):
    """What an instrument reads on the bench."""

    OUTPUT = "output"
    SUPPLY = "supply"
    CLAMP = "clamp"
    LOADS = "loads"


@dataclass(frozen=True, slots=True)
class NewInstrument:
    """An instrument, or the same one after a calibration, as somebody enters it."""

    role: Role
    name: str
    serial: str = ""
    percent_of_reading: float = 0.0
    percent_of_range: float = 0.0
    full_range: float = 0.0
    digits: float = 0.0
    resolution: float = 0.0
    calibrated_on: date | None = None
    due_on: date | None = None


class Gear:
    """Reads the register and adds to it. The latest entry of a role counts; earlier readings keep what they had."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def view(self, today: date | None = None) -> GearView:
        """The bench and all entries, the latest first."""
        day = today or datetime.now(UTC).date()
        with self._database.reading() as session:
            rows = queries.instruments(session)
        current = {row.role: row.id for row in rows}
        return GearView(
            bench=EQUIPMENT.name,
            inputs=EQUIPMENT.inputs,
            supply_limit_amps=EQUIPMENT.supply_limit_amps,
            bank_volts=EQUIPMENT.bank_volts,
            bank_milliohms=1000 * (EQUIPMENT.bank_ohms + EQUIPMENT.cable.ohms),
            cable=f"{EQUIPMENT.cable.metres:g} m of {EQUIPMENT.cable.gauge} AWG, there and back",
            boxes=[BoxView(ohms=box.ohms, watts=box.watts, count=box.count) for box in EQUIPMENT.boxes],
            instruments=[_view(row, current[row.role] == row.id, day) for row in reversed(rows)],
        )

    def enter(self, new: NewInstrument, person: str) -> GearView:
        """Put an instrument on the register; from now on it is what its role is read with.

        Raises:
            BadInput: no name, or a calibration that is due before it was made.
        """
        if not new.name.strip():
            raise BadInput("Name the instrument.", field="name")
        if new.calibrated_on and new.due_on and new.due_on <= new.calibrated_on:
            raise BadInput("The next calibration must be due after the last one.", field="due_on")
        with self._database.writing() as session:
            row = tables.Instrument(
                role=new.role.value,
                name=new.name.strip(),
                serial=new.serial.strip(),
                percent_of_reading=new.percent_of_reading,
                percent_of_range=new.percent_of_range,
                full_range=new.full_range,
                digits=new.digits,
                resolution=new.resolution,
                calibrated_on=new.calibrated_on,
                due_on=new.due_on,
                entered_by=person,
                entered_at=datetime.now(UTC),
            )
            queries.add(session, row)
            text = f"{row.name} {row.serial}, reads {row.role}, due {row.due_on or 'never'}"
            audit.note(session, person, "entered an instrument", "gear", text=text)
        return self.view()


def snapshot(session: Session) -> dict[str, Any]:
    """What each role is read with now, as it is stored with an attempt."""
    return {
        row.role: {
            "name": f"{row.name} {row.serial}".strip(),
            "specification": {
                "percent_of_reading": row.percent_of_reading,
                "percent_of_range": row.percent_of_range,
                "full_range": row.full_range,
                "digits": row.digits,
                "resolution": row.resolution,
            },
            "due_on": row.due_on.isoformat() if row.due_on else None,
        }
        for row in queries.instruments(session)  # the latest of a role comes last and stays
    }


def due_on(session: Session, name: str) -> str | None:
    """When the calibration of an instrument named by hand is due; None where it is not on the register, or never."""
    wanted = name.strip().lower()
    known = [
        row for row in queries.instruments(session) if wanted in (row.name.lower(), f"{row.name} {row.serial}".lower())
    ]
    return known[-1].due_on.isoformat() if known and known[-1].due_on else None


def instruments_of(attempt: tables.Attempt) -> Instruments:
    """What an attempt was read with; the simulated bench's own where nothing was on the register."""
    return Instruments(
        volts=_specification(attempt, Role.OUTPUT) or INSTRUMENTS.volts,
        supply=_specification(attempt, Role.SUPPLY) or INSTRUMENTS.supply,
        loads=_specification(attempt, Role.LOADS) or INSTRUMENTS.loads,
    )


def overdue(attempt: tables.Attempt) -> tuple[str, ...]:
    """Instruments whose calibration had run out on the day of an attempt."""
    day = attempt.started_at.date()
    return tuple(
        kept["name"]
        for kept in attempt.instruments.values()
        if kept["due_on"] is not None and date.fromisoformat(kept["due_on"]) < day
    )


def _specification(attempt: tables.Attempt, role: Role) -> Specification | None:
    kept = attempt.instruments.get(role.value)
    return Specification(kept["name"], **kept["specification"]) if kept else None


def _view(row: tables.Instrument, in_use: bool, day: date) -> InstrumentView:
    left = (row.due_on - day).days if row.due_on else None
    return InstrumentView(
        id=row.id,
        role=row.role,
        name=row.name,
        serial=row.serial,
        accuracy=accuracy_in_words(row),
        calibrated_on=row.calibrated_on,
        due_on=row.due_on,
        state="replaced" if not in_use else "overdue" if left is not None and left < 0 else "in use",
        days_left=left,
        entered_by=row.entered_by,
        entered_at=row.entered_at,
    )


def accuracy_in_words(row: tables.Instrument) -> str:
    """“± (0.3 % of reading + 0.05 % of 60 + 2 digits)”."""
    parts = [f"{row.percent_of_reading:g} % of reading"] if row.percent_of_reading else []
    parts += [f"{row.percent_of_range:g} % of {row.full_range:g}"] if row.percent_of_range else []
    parts += [f"{row.digits:g} × {row.resolution:g}"] if row.digits else []
    return f"± ({' + '.join(parts)})" if parts else "not stated"
