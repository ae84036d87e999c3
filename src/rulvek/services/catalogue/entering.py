"""Entering and changing the line within a caller's transaction: the one way for forms, scripts and spreadsheets."""

import math
from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime, time
from typing import Any

from pydantic import TypeAdapter

from rulvek import clock
from rulvek.core.errors import Conflict, NotFound, Stale
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.entered import (
    ModelEntry,
    SeriesEntry,
    UnitEntry,
    refuse_lost_ground,
    refuse_unfit_claim,
    refuse_unfit_unit,
    refuse_unnamed,
    unit_entry,
)
from rulvek.core.records.product import Model
from rulvek.core.runs.spec import same_place
from rulvek.services.catalogue.named import note_document, note_lot
from rulvek.store import audit, load, save, seals, versions
from rulvek.store.engine import Session
from rulvek.store.queries import line as line_queries

_SERIES, _MODEL, _UNIT = TypeAdapter(SeriesEntry), TypeAdapter(ModelEntry), TypeAdapter(UnitEntry)


def enter_series(session: Session, entry: SeriesEntry, actor: Actor) -> int:
    """Put a series on record; returns its id.

    Raises:
        BadInput: a field by its name.
        Conflict: there is one of that name.
    """
    refuse_unnamed(entry)
    entry = _plain_series(entry)
    _refuse_taken(session, "series", entry.name)
    series_id = save.series(session, entry)
    audit.note(session, actor, "entered a series", f"series/{series_id}", text=entry.name)
    return series_id


def change_series(session: Session, series_id: int, seen: int, entry: SeriesEntry, actor: Actor) -> int:
    """Change a series; returns the number of the version that it makes.

    Raises:
        BadInput: a field by its name.
        Conflict: another one has that name.
        Stale: somebody changed it meanwhile.
    """
    refuse_unnamed(entry)
    before, entry = line_queries.series_entry(session, series_id), _plain_series(entry)
    if entry.name.casefold() != before.name.casefold():
        _refuse_taken(session, "series", entry.name)
    save.changed_series(session, series_id, entry)
    return keep_version(session, f"series/{series_id}", seen, *_data(_SERIES, before, entry), actor)


def enter_model(session: Session, series_id: int, entry: ModelEntry, actor: Actor) -> int:
    """Put a model on record; returns its id.

    Raises:
        BadInput: a field by its name.
        NotFound: no such series.
        Conflict: there is a model of that name.
    """
    new = _described(Model(0, "", "", "", entry.product(), 0.0, (), ""), entry)
    if not line_queries.has_series(session, series_id):
        raise NotFound(f"There is no series number {series_id}.")
    _refuse_taken(session, "model", new.name)
    model_id = save.model(session, series_id, new)
    groups = ", ".join(f"{group.name} {len(group.channels)}" for group in new.product.groups)
    audit.note(session, actor, "entered a model", f"model/{model_id}", text=f"{new.name}: {groups}")
    return model_id


def change_model(session: Session, model_id: int, seen: int, entry: ModelEntry, actor: Actor) -> int:
    """Change a model; returns the number of the version that it makes.

    Raises:
        BadInput: a field by its name; a group that campaigns or claims speak of would be another.
        Conflict: another one has that name.
        Stale: somebody changed it meanwhile.
    """
    known = load.model(session, model_id)
    changed = _described(known, entry)
    refuse_lost_ground(known.product, changed.product, line_queries.groups_in_use(session, model_id))
    if changed.name.casefold() != known.name.casefold():
        _refuse_taken(session, "model", changed.name)
    save.changed_model(session, model_id, changed)
    before = ModelEntry.of(known)
    return keep_version(session, f"model/{model_id}", seen, *_data(_MODEL, before, entry), actor)


def enter_unit(session: Session, model: Model, entry: UnitEntry, actor: Actor, design: str = "") -> int:
    """Put a unit on record; returns its id. ``design`` names its own simulated amplifier, if not its model's.

    Raises:
        BadInput: a field by its name.
        Conflict: the serial number is on record.
    """
    today = clock.now()
    refuse_unfit_unit(entry, today.date())
    new = _came(Unit(0, model.id, "", "", "", "", today, design), entry)
    _refuse_taken(session, "unit", new.serial)
    unit_id = save.unit(session, new)
    note_lot(session, new, actor)
    audit.note(session, actor, "received a unit", f"unit/{unit_id}", text=f"{new.serial}, {model.name}")
    return unit_id


def change_unit(session: Session, unit_id: int, seen: int, entry: UnitEntry, actor: Actor) -> int:
    """Change what is said of a unit; returns the number of the version that it makes.

    Raises:
        BadInput: a field by its name.
        Conflict: another one has that serial number.
        Stale: somebody changed it meanwhile.
    """
    refuse_unfit_unit(entry, clock.now().date())
    known = load.unit(session, unit_id)
    changed = _came(known, entry)
    if changed.serial.casefold() != known.serial.casefold():
        _refuse_taken(session, "unit", changed.serial)
    save.changed_unit(session, unit_id, changed)
    note_lot(session, changed, actor)
    return keep_version(session, f"unit/{unit_id}", seen, *_data(_UNIT, unit_entry(known), entry), actor)


def enter_claim(session: Session, model: Model, terms: ClaimTerms, actor: Actor) -> int:
    """Put a published figure on record; returns its id.

    Raises:
        BadInput: a group that the model does not have, or conditions that contradict themselves.
        Conflict: the same document already states a figure for the same conditions.
    """
    refuse_unfit_claim(terms, model.product)
    if any(is_same_claim(claim, terms) for claim in model.standing_claims):
        raise Conflict("This claim is already on record.", todo="Withdraw the old one first if it changed.")
    note_document(session, model.id, terms.document, actor)
    claim_id = save.claim(session, model.id, terms, actor.name, clock.now())
    where = f"{terms.watts:g} W at {terms.load_ohms:g} Ω, {terms.document}"
    seal = seals.claim_seal(session, claim_id)
    sealed = [seal] if seal else []
    audit.note(session, actor, "added a claim", f"model/{model.id}", seals=sealed, claim=claim_id, text=where)
    return claim_id


def is_same_claim(claim: ClaimTerms, terms: ClaimTerms) -> bool:
    """Whether a document states the same figure for the same load, kind and volts again."""
    alike = same_place(claim.place, terms.place) and (claim.kind, claim.supply_volts, claim.document) == (
        terms.kind,
        terms.supply_volts,
        terms.document,
    )
    return alike and math.isclose(claim.watts, terms.watts)


def keep_version(
    session: Session, subject: str, seen: int, before: Mapping[str, Any], after: Mapping[str, Any], actor: Actor
) -> int:
    """Keep a change as a version of its own, and in the audit chain with before and after; returns its number.

    Args:
        seen: The version that the change was made from.

    Raises:
        Stale: somebody changed it meanwhile.
    """
    holds = versions.current(session, subject)
    if seen > holds:
        raise NotFound(f"There is no version {seen}.")
    if seen < holds:
        by = next(one.by for one in versions.versions(session, subject))
        raise Stale(f"{by or 'Somebody'} changed it meanwhile.", todo="Look at both, and decide.")
    fields = differing(before, after)
    if not fields:
        return holds
    now = clock.now()
    versions.keep(session, subject, before, versions.Version(holds + 1, after, actor.name, now))
    was, became = ({name: data.get(name) for name in fields} for data in (before, after))
    text = ", ".join(name.replace("_", " ") for name in fields)
    audit.note(session, actor, f"changed a {subject.split('/')[0]}", subject, (), text=text, before=was, after=became)
    return holds + 1


def differing(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """Fields that are others than before; none of what had no before."""
    return [name for name in after if before and before.get(name) != after[name]]


def _plain_series(entry: SeriesEntry) -> SeriesEntry:
    return replace(entry, name=entry.name.strip(), purpose=entry.purpose.strip())


def _described(model: Model, entry: ModelEntry) -> Model:
    return replace(
        model,
        name=entry.name.strip(),
        description=entry.description.strip(),
        product=entry.product(),
        sensitivity_volts=entry.sensitivity_volts,
        test_controls=tuple(control.strip() for control in entry.test_controls if control.strip()),
        facts=entry.facts,
    )


def _came(unit: Unit, entry: UnitEntry) -> Unit:
    day = entry.received_on
    received = unit.received_at if day in (None, unit.received_at.date()) else datetime.combine(day, time(12), UTC)
    return replace(
        unit,
        serial=entry.serial.strip(),
        lot=entry.lot.strip(),
        revision=entry.revision.strip(),
        origin=entry.origin.strip(),
        received_at=received,
        facts=entry.facts,
    )


def _refuse_taken(session: Session, kind: Any, name: str) -> None:
    if line_queries.is_named(session, kind, name):
        if kind == "unit":
            raise Conflict(f"The serial number {name} is on record already.")
        raise Conflict(f"There is a {kind} “{name}” already.", todo="Choose another name.")


def _data(shape: TypeAdapter[Any], before: Any, after: Any) -> tuple[dict[str, Any], dict[str, Any]]:
    return shape.dump_python(before, mode="json"), shape.dump_python(after, mode="json")
