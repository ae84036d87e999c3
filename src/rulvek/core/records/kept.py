"""What is kept with a model or a unit: of which kinds, each in which shape, and what it is called."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from typing import Any, Literal

from rulvek.core.errors import BadInput
from rulvek.core.quantities import refuse_impossible_day, refuse_out_of_bounds
from rulvek.core.records.audit_plans import AuditPlanEntry, refuse_far_off
from rulvek.core.records.documents import DocumentEntry
from rulvek.core.records.inside import InsideEntry, PhotographEntry, refuse_unsafe
from rulvek.core.records.listening import ListeningEntry, refuse_silent
from rulvek.core.records.revisions import LotEntry, RevisionEntry


class Kind(StrEnum):
    """What sort of thing is kept with a model or a unit."""

    REVISION = "revision"
    LOT = "lot"
    DOCUMENT = "document"
    INSIDE = "inside"
    PHOTOGRAPH = "photograph"
    LISTENING = "listening"
    AUDIT_PLAN = "audit_plan"


SHAPES: Mapping[Kind, type[Any]] = {
    Kind.REVISION: RevisionEntry,
    Kind.LOT: LotEntry,
    Kind.DOCUMENT: DocumentEntry,
    Kind.INSIDE: InsideEntry,
    Kind.PHOTOGRAPH: PhotographEntry,
    Kind.LISTENING: ListeningEntry,
    Kind.AUDIT_PLAN: AuditPlanEntry,
}
OF: Mapping[Kind, Literal["model", "unit"]] = {
    Kind.REVISION: "model",
    Kind.LOT: "model",
    Kind.DOCUMENT: "model",
    Kind.INSIDE: "unit",
    Kind.PHOTOGRAPH: "unit",
    Kind.LISTENING: "unit",
    Kind.AUDIT_PLAN: "model",
}
NAMED = frozenset({Kind.REVISION, Kind.LOT, Kind.DOCUMENT})
"""Kinds whose entries have a name, which no other one of the same model has."""
_DAYS = ("since", "made_on", "dated", "opened_on", "on")


@dataclass(frozen=True, slots=True)
class Kept:
    """Something that is kept with a model or a unit, by whom first; one that is closed is not used any more."""

    id: int
    kind: Kind
    of_id: int
    entry: Any
    by: str
    at: datetime
    closed: bool = False

    @property
    def subject(self) -> str:
        """As the audit chain names it."""
        return f"{self.kind.value}/{self.id}"


def title(kind: Kind, entry: Any) -> str:
    """What an entry is called.

    >>> title(Kind.LOT, LotEntry("2604")), title(Kind.INSIDE, InsideEntry(True, date(2026, 5, 1)))
    ('lot 2604', 'inside, 2026-05-01')
    """
    match entry:
        case RevisionEntry() | LotEntry():
            return f"{kind.value} {entry.name}"
        case DocumentEntry():
            return str(entry.name)
        case InsideEntry(opened_on=day) if day:
            return f"inside, {day.isoformat()}"
        case ListeningEntry(on=day):
            return f"listening, {day.isoformat()}"
        case AuditPlanEntry():
            return f"audit, {entry.words}"
        case PhotographEntry():
            return f"photograph {entry.caption or entry.place}".strip()
        case _:
            return kind.value


def refuse_unfit(kind: Kind, entry: Any, today: date) -> None:
    """Hold an entry to its bounds, and to what can be.

    Raises:
        BadInput: a field by its name.
    """
    refuse_out_of_bounds(entry)
    if kind in NAMED and not entry.name.strip():
        raise BadInput(f"Give the {kind.value} a name.", field="name")
    for field in _DAYS:
        day = getattr(entry, field, None)
        if isinstance(day, date):
            refuse_impossible_day(day, today, field)
    if isinstance(entry, AuditPlanEntry):
        refuse_far_off(entry, today)
    if isinstance(entry, InsideEntry):
        refuse_unsafe(entry)
    if isinstance(entry, ListeningEntry):
        refuse_silent(entry)


def files_of(entry: Any) -> tuple[str, ...]:
    """Digests of the files that an entry speaks of."""
    found = [getattr(entry, "file", None)]
    if isinstance(entry, ListeningEntry) and entry.wire:
        found.append(entry.wire.recording)
    return tuple(one for one in found if one)
