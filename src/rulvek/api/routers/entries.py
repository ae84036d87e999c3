"""What a lab maintains of its line, changed with versions: a change says which version it was made from."""

from rulvek.api.asking import Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Id, Seen, version_seen
from rulvek.core.records.entered import ModelEntry, SeriesEntry, UnitEntry
from rulvek.services.views.line import EntryView, VersionView

router = Calls("line")


@router.get("/series/{series_id}/entry")
def get_series_entry(series_id: Id, use: Use) -> EntryView[SeriesEntry]:
    """A series as it is entered, with its version."""
    return use.entries.series(series_id)


@router.put("/series/{series_id}/entry")
def change_series(series_id: Id, body: SeriesEntry, use: Use, person: Person, seen: Seen) -> EntryView[SeriesEntry]:
    """Change a series."""
    return use.entries.change_series(series_id, version_seen(seen), body, person)


@router.get("/series/{series_id}/versions")
def list_series_versions(series_id: Id, use: Use) -> list[VersionView]:
    """All versions of a series, the latest first; none of what was never changed."""
    return use.entries.versions(f"series/{series_id}")


@router.get("/models/{model_id}/entry")
def get_model_entry(model_id: Id, use: Use) -> EntryView[ModelEntry]:
    """A model as it is entered, with its version."""
    return use.entries.model(model_id)


@router.put("/models/{model_id}/entry")
def change_model(model_id: Id, body: ModelEntry, use: Use, person: Person, seen: Seen) -> EntryView[ModelEntry]:
    """Change a model; groups that campaigns or claims speak of keep their names and channels."""
    return use.entries.change_model(model_id, version_seen(seen), body, person)


@router.get("/models/{model_id}/versions")
def list_model_versions(model_id: Id, use: Use) -> list[VersionView]:
    """All versions of a model, the latest first; none of what was never changed."""
    return use.entries.versions(f"model/{model_id}")


@router.get("/units/{unit_id}/entry")
def get_unit_entry(unit_id: Id, use: Use) -> EntryView[UnitEntry]:
    """A unit as it is entered, with its version."""
    return use.entries.unit(unit_id)


@router.put("/units/{unit_id}/entry")
def change_unit(unit_id: Id, body: UnitEntry, use: Use, person: Person, seen: Seen) -> EntryView[UnitEntry]:
    """Change what is said of a unit."""
    return use.entries.change_unit(unit_id, version_seen(seen), body, person)


@router.get("/units/{unit_id}/versions")
def list_unit_versions(unit_id: Id, use: Use) -> list[VersionView]:
    """All versions of a unit, the latest first; none of what was never changed."""
    return use.entries.versions(f"unit/{unit_id}")
