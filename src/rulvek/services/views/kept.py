"""Answers about what is kept with models and units."""

from datetime import datetime
from typing import Any, Generic, TypeVar

from rulvek.core.electrical.moving_load import MovingLoad
from rulvek.core.quantities import field_names
from rulvek.core.records.audit_plans import AuditPlanEntry
from rulvek.core.records.documents import DocumentEntry, FileEntry
from rulvek.core.records.inside import InsideEntry, PhotographEntry
from rulvek.core.records.kept import Kept, title
from rulvek.core.records.listening import ListeningEntry, asks_for_ear_protection, best, load_of
from rulvek.core.records.revisions import LotEntry, RevisionEntry
from rulvek.services.views.base import View, view

E = TypeVar("E")


@view
class FileView(View):
    """A file that is kept; width and height of a picture in pixels."""

    sha256: str
    name: str
    media: str
    bytes: int
    width: int | None
    height: int | None


@view
class KeptView(View, Generic[E]):
    """Something that is kept with a model or a unit, with the number of the version that holds."""

    id: int
    of_id: int
    number: int
    title: str
    entry: E
    by: str
    at: datetime
    closed: bool


@view
class BestView(View):
    """The best that a sound level meter read, in dB."""

    meter: str
    decibels: float


@view
class ListeningView(KeptView[ListeningEntry]):
    """A listening record with what comes of it: the best of repeats by meter, the load at the wire."""

    entry: ListeningEntry
    best: list[BestView]
    load: MovingLoad | None
    ear_protection: bool
    compared: list[str]


RevisionView = KeptView[RevisionEntry]
LotView = KeptView[LotEntry]
AuditPlanView = KeptView[AuditPlanEntry]
DocumentView = KeptView[DocumentEntry]
InsideView = KeptView[InsideEntry]
PhotographView = KeptView[PhotographEntry]


@view
class WireView(View):
    """What was read from a recording at a loudspeaker's wire, and the load that it was."""

    volts: float
    amps: float
    watts: float
    tone_hz: float | None
    phase_degrees: float | None
    load: MovingLoad
    recording: str


def file_view(file: FileEntry) -> FileView:
    """A file, as people see it."""
    return FileView(**{name: getattr(file, name) for name in field_names(FileView)})


def kept_view(kept: Kept, number: int) -> KeptView[E]:
    """Something that is kept, as people see it."""
    return KeptView(**_fields(kept, number))


def listening_view(kept: Kept, number: int, serials: dict[int, str]) -> ListeningView:
    """A listening record, as people see it; ``serials`` name the units that it compares with."""
    entry: ListeningEntry = kept.entry
    return ListeningView(
        **_fields(kept, number),
        best=[
            BestView(meter=one.meter, decibels=best(one.decibels))
            for one in (entry.sound.meters if entry.sound else ())
        ],
        load=load_of(entry.wire) if entry.wire else None,
        ear_protection=asks_for_ear_protection(entry),
        compared=[
            f"{one.verdict.value} {'as' if one.verdict.value == 'alike' else 'than'}"
            f" {serials.get(one.than_unit, f'unit {one.than_unit}')}" + (f": {one.remark}" if one.remark else "")
            for one in entry.comparisons
        ],
    )


def _fields(kept: Kept, number: int) -> dict[str, Any]:
    return {
        "id": kept.id,
        "of_id": kept.of_id,
        "number": number,
        "title": title(kept.kind, kept.entry),
        "entry": kept.entry,
        "by": kept.by,
        "at": kept.at,
        "closed": kept.closed,
    }
