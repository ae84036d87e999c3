"""What a lab maintains of its line: changed with versions, so that nobody overwrites what they have not seen."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime, time
from typing import Any

from pydantic import TypeAdapter

from rulvek.core.errors import Conflict, NotFound, Stale
from rulvek.core.quantities import refuse_impossible_day
from rulvek.core.records.actor import Actor
from rulvek.core.records.entered import (
    ModelEntry,
    SeriesEntry,
    UnitEntry,
    refuse_lost_ground,
    refuse_unnamed,
    unit_entry,
)
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.line import EntryView, VersionView
from rulvek.store import audit, load, save, versions
from rulvek.store.engine import Database, Session
from rulvek.store.queries import line as line_queries

_SERIES, _MODEL, _UNIT = TypeAdapter(SeriesEntry), TypeAdapter(ModelEntry), TypeAdapter(UnitEntry)
_UNITS_DRAWN = 50
"""Units whose conclusions are drawn at once after a change; those of the others when somebody looks."""


class Entries:
    """Series, models and units as they were entered, each with its versions.

    A change carries the number of the version it was made from. Where that is not the one that holds, somebody changed
    it meanwhile: it is refused, and both texts can be looked at side by side.
    """

    def __init__(self, database: Database, conclusions: Conclusions) -> None:
        self._database, self._conclusions = database, conclusions

    def series(self, series_id: int) -> EntryView[SeriesEntry]:
        """A series as it is entered, with its version."""
        with self._database.reading() as session:
            entry = SeriesEntry(*line_queries.series_entry(session, series_id))
            return EntryView(number=versions.current(session, f"series/{series_id}"), entry=entry)

    def model(self, model_id: int) -> EntryView[ModelEntry]:
        """A model as it is entered, with its version."""
        with self._database.reading() as session:
            entry = ModelEntry.of(load.model(session, model_id))
            return EntryView(number=versions.current(session, f"model/{model_id}"), entry=entry)

    def unit(self, unit_id: int) -> EntryView[UnitEntry]:
        """A unit as it is entered, with its version."""
        with self._database.reading() as session:
            entry = unit_entry(load.unit(session, unit_id))
            return EntryView(number=versions.current(session, f"unit/{unit_id}"), entry=entry)

    def change_series(self, series_id: int, seen: int, entry: SeriesEntry, actor: Actor) -> EntryView[SeriesEntry]:
        """Change a series.

        Raises:
            BadInput: no name.
            Conflict: another one has that name.
            Stale: somebody changed it meanwhile.
        """
        refuse_unnamed(entry)
        with self._database.writing() as session:
            before = SeriesEntry(*line_queries.series_entry(session, series_id))
            if entry.name.strip().casefold() != before.name.casefold():
                _refuse_taken(session, "series", entry.name.strip())
            save.changed_series(session, series_id, entry.name.strip(), entry.purpose.strip())
            number = _kept(session, f"series/{series_id}", seen, _SERIES, before, entry, actor)
        return EntryView(number=number, entry=entry)

    def change_model(self, model_id: int, seen: int, entry: ModelEntry, actor: Actor) -> EntryView[ModelEntry]:
        """Change a model; what was concluded of it is drawn again.

        Raises:
            BadInput: a field by its name; a group that campaigns or claims speak of would be another.
            Conflict: another one has that name.
            Stale: somebody changed it meanwhile.
        """
        product = entry.product()
        with self._database.writing() as session:
            known = load.model(session, model_id)
            before = ModelEntry.of(known)
            refuse_lost_ground(known.product, product, line_queries.groups_in_use(session, model_id))
            if entry.name.strip().casefold() != before.name.casefold():
                _refuse_taken(session, "model", entry.name.strip())
            changed = replace(
                known,
                name=entry.name.strip(),
                description=entry.description.strip(),
                product=product,
                sensitivity_volts=entry.sensitivity_volts,
                test_controls=tuple(control.strip() for control in entry.test_controls if control.strip()),
            )
            save.changed_model(session, model_id, changed)
            number = _kept(session, f"model/{model_id}", seen, _MODEL, before, entry, actor)
            units = [unit.id for unit in line_queries.units_page(session, model_id, None, _UNITS_DRAWN)[0]]
        self._conclusions.changed(model_id, *units)
        return EntryView(number=number, entry=entry)

    def change_unit(self, unit_id: int, seen: int, entry: UnitEntry, actor: Actor) -> EntryView[UnitEntry]:
        """Change what is said of a unit.

        Raises:
            BadInput: no serial number, or a day that cannot be.
            Conflict: another one has that serial number.
            Stale: somebody changed it meanwhile.
        """
        refuse_unnamed(entry)
        if entry.received_on is not None:
            refuse_impossible_day(entry.received_on, datetime.now(UTC).date(), "received_on")
        with self._database.writing() as session:
            known = load.unit(session, unit_id)
            before = unit_entry(known)
            if entry.serial.strip().casefold() != before.serial.casefold():
                _refuse_taken(session, "unit", entry.serial.strip())
            day = entry.received_on
            received = known.received_at if day in (None, before.received_on) else datetime.combine(day, time(12), UTC)
            changed = replace(
                known,
                serial=entry.serial.strip(),
                lot=entry.lot.strip(),
                revision=entry.revision.strip(),
                origin=entry.origin.strip(),
                received_at=received,
            )
            save.changed_unit(session, unit_id, changed)
            number = _kept(session, f"unit/{unit_id}", seen, _UNIT, before, entry, actor)
        self._conclusions.changed(known.model_id, unit_id)
        return EntryView(number=number, entry=entry)

    def versions(self, subject: str) -> list[VersionView]:
        """All versions of a subject, the latest first, each with what it changed."""
        with self._database.reading() as session:
            found = versions.versions(session, subject)
        earlier: list[Mapping[str, Any]] = [*(one.data for one in found[1:]), {}][: len(found)]
        return [
            VersionView(
                number=one.number, by=one.by, at=one.at, data=dict(one.data), changed=_differing(before, one.data)
            )
            for one, before in zip(found, earlier, strict=True)
        ]


def _refuse_taken(session: Session, kind: Any, name: str) -> None:
    if line_queries.is_named(session, kind, name):
        raise Conflict(f"There is a {kind} “{name}” already.", todo="Choose another name.")


def _kept(
    session: Session, subject: str, seen: int, shape: TypeAdapter[Any], before: Any, after: Any, actor: Actor
) -> int:
    """Keep a change as a version of its own, and in the audit chain with before and after."""
    holds = versions.current(session, subject)
    if seen > holds:
        raise NotFound(f"There is no version {seen}.")
    if seen < holds:
        by = next(one.by for one in versions.versions(session, subject))
        raise Stale(f"{by or 'Somebody'} changed it meanwhile.", todo="Look at both, and decide.")
    old, new = shape.dump_python(before, mode="json"), shape.dump_python(after, mode="json")
    fields = _differing(old, new)
    if not fields:
        return holds
    now = datetime.now(UTC)
    versions.keep(session, subject, old, versions.Version(holds + 1, new, actor.name, now))
    was, became = ({name: data.get(name) for name in fields} for data in (old, new))
    text = ", ".join(name.replace("_", " ") for name in fields)
    audit.note(session, actor, f"changed a {subject.split('/')[0]}", subject, (), text=text, before=was, after=became)
    return holds + 1


def _differing(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    return [name for name in after if before and before.get(name) != after[name]]
