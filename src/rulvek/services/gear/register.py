"""The gear register: what the bench reads with, how accurate it is, and until when its calibration holds."""

from collections.abc import Callable
from datetime import date

from rulvek import clock
from rulvek.core.errors import BadInput, NotFound, Stale
from rulvek.core.planning.equipment import Equipment
from rulvek.core.quantities import refuse_impossible_day, refuse_out_of_bounds
from rulvek.core.records.actor import Actor
from rulvek.core.records.calibrations import histories, judged
from rulvek.core.records.instruments import InstrumentEntry
from rulvek.services.views.gear import GearView, box_view, calibrations_view, instrument_view
from rulvek.store import audit, kept, save
from rulvek.store.engine import Database, Session
from rulvek.store.queries import records as queries


class Gear:
    """Reads the register and adds to it. The latest entry of a role counts; earlier readings keep what they had."""

    def __init__(self, database: Database, equipment_of: Callable[[str | None], Equipment]) -> None:
        self._database, self._equipment_of = database, equipment_of

    def view(self, today: date | None = None) -> GearView:
        """The bench and all entries, the latest first."""
        day = today or clock.now().date()
        with self._database.reading() as session:
            rows = queries.register(session)
        current = {row.entry.role: row.id for row in rows}
        equipment = self._equipment_of(None)
        return GearView(
            bench=equipment.name,
            inputs=equipment.inputs,
            supply_limit_amps=equipment.supply_limit_amps,
            bank_volts=equipment.bank_volts,
            bank_milliohms=1000 * (equipment.bank_ohms + equipment.cable.ohms),
            cable=f"{equipment.cable.metres:g} m of {equipment.cable.gauge} AWG, there and back",
            boxes=[box_view(box) for box in equipment.boxes],
            calibrations=[calibrations_view(one) for one in histories(row.entry for row in rows)],
            instruments=[
                instrument_view(
                    row.id, row.entry, current[row.entry.role] == row.id, day, row.entered_by, row.entered_at
                )
                for row in reversed(rows)
            ],
        )

    def enter(self, new: InstrumentEntry, actor: Actor, seen: int | None = None) -> GearView:
        """Put an instrument on the register; from now on it is what its role is read with.

        An entry is never changed: the next one takes its place, and the earlier ones stay as its versions.

        Args:
            seen: The entry that it takes the place of, 0 for none; None where nobody looked.

        Raises:
            BadInput: no name, a calibration that has not been made yet, or one that is due before it was made, or
                whose figures say otherwise; a certificate that was not sent.
            Stale: somebody entered another one for the role meanwhile.
        """
        refuse_out_of_bounds(new)
        if not new.name.strip():
            raise BadInput("Name the instrument.", field="name")
        if new.calibrated_on:
            refuse_impossible_day(new.calibrated_on, clock.now().date(), "calibrated_on")
        if new.calibrated_on and new.due_on and new.due_on <= new.calibrated_on:
            raise BadInput("The next calibration must be due after the last one.", field="due_on")
        new = judged(new)
        with self._database.writing() as session:
            if new.certificate_file is not None:
                _refuse_unsent(session, new.certificate_file)
            holds = next((row for row in reversed(queries.register(session)) if row.entry.role is new.role), None)
            if seen is not None and seen != (holds.id if holds else 0):
                raise Stale(_entered_meanwhile(holds), todo="Look at both, and decide.")
            save.instrument(session, new, actor.name, clock.now())
            text = f"{new.full_name}, reads {new.role}, due {new.due_on or 'never'}"
            audit.note(session, actor, "entered an instrument", "gear", text=text)
        return self.view()


def _refuse_unsent(session: Session, sha256: str) -> None:
    try:
        kept.file(session, sha256)
    except NotFound as missing:
        raise BadInput(missing.what, todo="Send the file first.", field="certificate_file") from None


def _entered_meanwhile(holds: queries.Registered | None) -> str:
    if holds is None:
        return "There is no such entry."
    return f"{holds.entered_by or 'Somebody'} entered {holds.entry.full_name} for it meanwhile."
