"""Entering and changing the line within a caller's transaction: the one way for forms, scripts and spreadsheets."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
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
from rulvek.core.records.product import Model, Product
from rulvek.core.runs.spec import same_place
from rulvek.services.catalogue.named import note_documents, note_lots
from rulvek.store import audit, load, save, seals, versions
from rulvek.store.engine import Session
from rulvek.store.queries import line as line_queries

_SERIES, _MODEL, _UNIT = TypeAdapter(SeriesEntry), TypeAdapter(ModelEntry), TypeAdapter(UnitEntry)


@dataclass(frozen=True, slots=True)
class Change:
    """Something that is to be changed: the version that it was made from, its fields before and after, and itself."""

    kind: str
    id: int
    seen: int
    before: Mapping[str, Any]
    after: Mapping[str, Any]
    became: Any

    @property
    def subject(self) -> str:
        """As the audit chain names it."""
        return f"{self.kind}/{self.id}"


def fit_series(entry: SeriesEntry) -> SeriesEntry:
    """A series as it goes on record.

    Raises:
        BadInput: a field by its name.
    """
    refuse_unnamed(entry)
    return replace(entry, name=entry.name.strip(), purpose=entry.purpose.strip())


def put_series(session: Session, new: Sequence[SeriesEntry], actor: Actor) -> list[int]:
    """Put series on record that are fit, and whose names nobody has; returns their ids, in order."""
    ids = save.all_series(session, new)
    for series_id, entry in zip(ids, new, strict=True):
        audit.note(session, actor, "entered a series", f"series/{series_id}", text=entry.name)
    return ids


def enter_series(session: Session, entry: SeriesEntry, actor: Actor) -> int:
    """Put a series on record; returns its id.

    Raises:
        BadInput: a field by its name.
        Conflict: there is one of that name.
    """
    new = fit_series(entry)
    _refuse_taken(session, "series", new.name)
    return put_series(session, [new], actor)[0]


def fit_series_change(session: Session, series_id: int, seen: int, entry: SeriesEntry) -> Change:
    """What would change of a series, which writes nothing.

    Raises:
        BadInput: a field by its name.
        Conflict: another one has that name.
    """
    before, became = line_queries.series_entry(session, series_id), fit_series(entry)
    if became.name.casefold() != before.name.casefold():
        _refuse_taken(session, "series", became.name)
    return Change("series", series_id, seen, *_data(_SERIES, before, became), became)


def change_series(session: Session, series_id: int, seen: int, entry: SeriesEntry, actor: Actor) -> int:
    """Change a series; returns the number of the version that it makes.

    Raises:
        Stale: somebody changed it meanwhile; and all that :func:`fit_series_change` refuses.
    """
    return keep_all(session, [fit_series_change(session, series_id, seen, entry)], actor)[0]


def fit_model(entry: ModelEntry) -> Model:
    """A model as it goes on record.

    Raises:
        BadInput: a field by its name.
    """
    return _described(Model(0, "", "", "", entry.product(), 0.0, (), ""), entry)


def put_models(session: Session, new: Sequence[tuple[int, Model]], actor: Actor) -> list[int]:
    """Put models on record, each of a series, that are fit and whose names nobody has; returns their ids, in order."""
    ids = save.models(session, new)
    for model_id, (_, model) in zip(ids, new, strict=True):
        groups = ", ".join(f"{group.name} {len(group.channels)}" for group in model.product.groups)
        audit.note(session, actor, "entered a model", f"model/{model_id}", text=f"{model.name}: {groups}")
    return ids


def enter_model(session: Session, series_id: int, entry: ModelEntry, actor: Actor) -> int:
    """Put a model on record; returns its id.

    Raises:
        BadInput: a field by its name.
        NotFound: no such series.
        Conflict: there is a model of that name.
    """
    new = fit_model(entry)
    if not line_queries.has_series(session, series_id):
        raise NotFound(f"There is no series number {series_id}.")
    _refuse_taken(session, "model", new.name)
    return put_models(session, [(series_id, new)], actor)[0]


def fit_model_change(session: Session, model_id: int, seen: int, entry: ModelEntry) -> Change:
    """What would change of a model, which writes nothing.

    Raises:
        BadInput: a field by its name; a group that campaigns or claims speak of would be another.
        Conflict: another one has that name.
    """
    known = load.model(session, model_id)
    became = _described(known, entry)
    refuse_lost_ground(known.product, became.product, line_queries.groups_in_use(session, model_id))
    if became.name.casefold() != known.name.casefold():
        _refuse_taken(session, "model", became.name)
    return Change("model", model_id, seen, *_data(_MODEL, ModelEntry.of(known), entry), became)


def change_model(session: Session, model_id: int, seen: int, entry: ModelEntry, actor: Actor) -> int:
    """Change a model; returns the number of the version that it makes.

    Raises:
        Stale: somebody changed it meanwhile; and all that :func:`fit_model_change` refuses.
    """
    return keep_all(session, [fit_model_change(session, model_id, seen, entry)], actor)[0]


def fit_unit(model_id: int, entry: UnitEntry, design: str = "") -> Unit:
    """A unit as it goes on record. ``design`` names its own simulated amplifier, if not its model's.

    Raises:
        BadInput: a field by its name.
    """
    today = clock.now()
    refuse_unfit_unit(entry, today.date())
    return _came(Unit(0, model_id, "", "", "", "", today, design), entry)


def put_units(session: Session, new: Sequence[Unit], models: Mapping[int, str], actor: Actor) -> list[int]:
    """Put units on record that are fit, and whose serial numbers are new; returns their ids, in order.

    Args:
        models: The names of their models, by id.
    """
    ids = save.units(session, new)
    note_lots(session, new, actor)
    for unit_id, unit in zip(ids, new, strict=True):
        text = f"{unit.serial}, {models[unit.model_id]}"
        audit.note(session, actor, "received a unit", f"unit/{unit_id}", text=text)
    return ids


def enter_unit(session: Session, model: Model, entry: UnitEntry, actor: Actor, design: str = "") -> int:
    """Put a unit on record; returns its id. ``design`` names its own simulated amplifier, if not its model's.

    Raises:
        BadInput: a field by its name.
        Conflict: the serial number is on record.
    """
    new = fit_unit(model.id, entry, design)
    _refuse_taken(session, "unit", new.serial)
    return put_units(session, [new], {model.id: model.name}, actor)[0]


def fit_unit_change(session: Session, unit_id: int, seen: int, entry: UnitEntry) -> Change:
    """What would change of a unit, which writes nothing.

    Raises:
        BadInput: a field by its name.
        Conflict: another one has that serial number.
    """
    refuse_unfit_unit(entry, clock.now().date())
    known = load.unit(session, unit_id)
    became = _came(known, entry)
    if became.serial.casefold() != known.serial.casefold():
        _refuse_taken(session, "unit", became.serial)
    return Change("unit", unit_id, seen, *_data(_UNIT, unit_entry(known), entry), became)


def change_unit(session: Session, unit_id: int, seen: int, entry: UnitEntry, actor: Actor) -> int:
    """Change what is said of a unit; returns the number of the version that it makes.

    Raises:
        Stale: somebody changed it meanwhile; and all that :func:`fit_unit_change` refuses.
    """
    return keep_all(session, [fit_unit_change(session, unit_id, seen, entry)], actor)[0]


def keep_all(session: Session, changes: Sequence[Change], actor: Actor) -> list[int]:
    """Keep changes to the line; returns the numbers of the versions that they make, in order.

    Raises:
        Stale: somebody changed one of them meanwhile.
    """
    numbers = keep_versions(session, changes, actor)
    by_kind: dict[str, dict[int, Any]] = {"series": {}, "model": {}, "unit": {}}
    for change in changes:
        by_kind[change.kind][change.id] = change.became
    save.changed_series(session, by_kind["series"])
    save.changed_models(session, by_kind["model"])
    save.changed_units(session, by_kind["unit"])
    note_lots(session, list(by_kind["unit"].values()), actor)
    return numbers


def fit_claim(product: Product, standing: Iterable[ClaimTerms], terms: ClaimTerms) -> None:
    """Refuse a published figure that a model cannot have, or that its standing claims have already.

    Raises:
        BadInput: a group that the model does not have, or conditions that contradict themselves.
        Conflict: the same document already states a figure for the same conditions.
    """
    refuse_unfit_claim(terms, product)
    if any(is_same_claim(claim, terms) for claim in standing):
        raise Conflict("This claim is already on record.", todo="Withdraw the old one first if it changed.")


def put_claims(session: Session, new: Sequence[tuple[int, ClaimTerms]], actor: Actor) -> list[int]:
    """Put published figures on record, each of a model, that are fit; returns their ids, in order."""
    note_documents(session, [(model_id, terms.document) for model_id, terms in new], actor)
    ids = save.claims(session, new, actor.name, clock.now())
    sealed = {seal.id: seal for seal in seals.claim_seals(session, ids)}
    for claim_id, (model_id, terms) in zip(ids, new, strict=True):
        where = f"{terms.watts:g} W at {terms.load_ohms:g} Ω, {terms.document}"
        seal = sealed[claim_id]
        audit.note(session, actor, "added a claim", f"model/{model_id}", seals=[seal], claim=claim_id, text=where)
    return ids


def enter_claim(session: Session, model: Model, terms: ClaimTerms, actor: Actor) -> int:
    """Put a published figure on record; returns its id. :func:`fit_claim` says what is refused."""
    fit_claim(model.product, model.standing_claims, terms)
    return put_claims(session, [(model.id, terms)], actor)[0]


def is_same_claim(claim: ClaimTerms, terms: ClaimTerms) -> bool:
    """Whether a document states the same figure for the same load, kind and volts again."""
    alike = same_place(claim.place, terms.place) and (claim.kind, claim.supply_volts, claim.document) == (
        terms.kind,
        terms.supply_volts,
        terms.document,
    )
    return alike and math.isclose(claim.watts, terms.watts)


def keep_versions(session: Session, changes: Sequence[Change], actor: Actor) -> list[int]:
    """Keep changes as versions of their own, and in the audit chain with before and after; returns their numbers.

    Raises:
        Stale: somebody changed one of them meanwhile.
    """
    now, held = clock.now(), versions.numbers(session, [change.subject for change in changes])
    kept: dict[str, tuple[Mapping[str, Any], versions.Version]] = {}
    numbers = []
    for change in changes:
        subject, holds = change.subject, held.get(change.subject, 1)
        refuse_stale(session, subject, change.seen, holds)
        fields = differing(change.before, change.after)
        numbers.append(holds + 1 if fields else holds)
        if not fields:
            continue
        kept[subject] = change.before, versions.Version(holds + 1, change.after, actor.name, now)
        was, became = ({name: data.get(name) for name in fields} for data in (change.before, change.after))
        text = ", ".join(name.replace("_", " ") for name in fields)
        audit.note(session, actor, f"changed a {change.kind}", subject, (), text=text, before=was, after=became)
    versions.keep(session, kept)
    return numbers


def refuse_stale(session: Session, subject: str, seen: int, holds: int) -> None:
    """Refuse a change that was made from another version than the one that holds.

    Raises:
        Stale: somebody changed it meanwhile.
        NotFound: there is no such version yet.
    """
    if seen > holds:
        raise NotFound(f"There is no version {seen}.")
    if seen < holds:
        by = next(one.by for one in versions.versions(session, subject))
        raise Stale(f"{by or 'Somebody'} changed it meanwhile.", todo="Look at both, and decide.")


def differing(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """Fields that are others than before; none of what had no before."""
    return [name for name in after if before and before.get(name) != after[name]]


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
