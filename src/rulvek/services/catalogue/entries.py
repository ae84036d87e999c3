"""What a lab maintains of its line: changed with versions, so that nobody overwrites what they have not seen."""

from collections.abc import Mapping
from typing import Any

from rulvek.core.records.actor import Actor
from rulvek.core.records.entered import ModelEntry, SeriesEntry, UnitEntry, unit_entry
from rulvek.services.catalogue import entering
from rulvek.services.catalogue.entering import differing
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.line import EntryView, VersionView
from rulvek.store import load, versions
from rulvek.store.engine import Database
from rulvek.store.queries import line as line_queries

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
            entry = line_queries.series_entry(session, series_id)
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
        """Change a series; see :func:`entering.change_series` for what is refused."""
        with self._database.writing() as session:
            number = entering.change_series(session, series_id, seen, entry, actor)
        return EntryView(number=number, entry=entry)

    def change_model(self, model_id: int, seen: int, entry: ModelEntry, actor: Actor) -> EntryView[ModelEntry]:
        """Change a model; what was concluded of it is drawn again.

        See :func:`entering.change_model` for what is refused.
        """
        with self._database.writing() as session:
            number = entering.change_model(session, model_id, seen, entry, actor)
            units = [unit.id for unit in line_queries.units_page(session, model_id, None, _UNITS_DRAWN)[0]]
        self._conclusions.changed(model_id, *units)
        return EntryView(number=number, entry=entry)

    def change_unit(self, unit_id: int, seen: int, entry: UnitEntry, actor: Actor) -> EntryView[UnitEntry]:
        """Change what is said of a unit; see :func:`entering.change_unit` for what is refused."""
        with self._database.writing() as session:
            number = entering.change_unit(session, unit_id, seen, entry, actor)
            model_id = load.unit(session, unit_id).model_id
        self._conclusions.changed(model_id, unit_id)
        return EntryView(number=number, entry=entry)

    def versions(self, subject: str) -> list[VersionView]:
        """All versions of a subject, the latest first, each with what it changed."""
        with self._database.reading() as session:
            found = versions.versions(session, subject)
        earlier: list[Mapping[str, Any]] = [*(one.data for one in found[1:]), {}][: len(found)]
        return [
            VersionView(
                number=one.number,
                by=one.by,
                at=one.at,
                data=dict(one.data),
                changed=differing(before, one.data),
            )
            for one, before in zip(found, earlier, strict=True)
        ]
