"""What is kept with a model or a unit: revisions, lots, documents, insides, photographs, listening."""

from typing import Any

import numpy as np
import soundfile

from rulvek import clock
from rulvek.core.electrical.moving_load import moving_load
from rulvek.core.errors import BadInput, Conflict
from rulvek.core.readings.speaker_wire import read_speaker_wire
from rulvek.core.records.actor import Actor
from rulvek.core.records.documents import FileEntry
from rulvek.core.records.inside import PhotographEntry
from rulvek.core.records.kept import NAMED, OF, Kept, Kind, files_of, refuse_unfit, title
from rulvek.core.records.listening import ListeningEntry
from rulvek.services.catalogue.entering import Change, keep_versions
from rulvek.services.views.kept import KeptView, ListeningView, WireView, kept_view, listening_view
from rulvek.store import audit, kept, load, versions
from rulvek.store.engine import Database, Session
from rulvek.store.files import FileStore
from rulvek.store.queries import line as line_queries


class Dossiers:
    """Every change is a version of its own; nothing that was entered is deleted, only closed."""

    def __init__(self, database: Database, files: FileStore) -> None:
        self._database, self._files = database, files

    def all_of(self, kind: Kind, of_id: int) -> list[Any]:
        """Everything of a kind that is kept with a model (or a unit), the closed ones too.

        Raises:
            NotFound: no such model or unit.
        """
        with self._database.reading() as session:
            _refuse_nobody(session, kind, of_id)
            return [_view(session, one) for one in kept.all_of(session, kind, [of_id])]

    def add(self, kind: Kind, of_id: int, entry: Any, actor: Actor) -> Any:
        """Put an entry on record.

        Raises:
            BadInput: a field by its name.
            Conflict: the model has one of that name.
            NotFound: no such model, unit or file.
        """
        refuse_unfit(kind, entry, clock.now().date())
        with self._database.writing() as session:
            _refuse_nobody(session, kind, of_id)
            _refuse_taken(session, kind, of_id, entry)
            _refuse_strange(session, entry, of_id)
            kept_id = kept.add(session, kind, of_id, entry, actor.name, clock.now())
            subject, of = f"{kind.value}/{kept_id}", f"{OF[kind]}/{of_id}"
            did, text = f"entered {_article(kind)}", title(kind, entry)
            audit.note(session, actor, did, subject, of=of, text=text, after=kept.data_of(kind, entry))
            return _view(session, kept.one(session, kind, kept_id))

    def change(self, kind: Kind, kept_id: int, seen: int, entry: Any, actor: Actor) -> Any:
        """Change an entry; ``seen`` is the version that it was made from.

        Raises:
            BadInput: a field by its name; the name of something that units or claims go by would be another.
            Conflict: the model has one of that name.
            Stale: somebody changed it meanwhile.
        """
        refuse_unfit(kind, entry, clock.now().date())
        with self._database.writing() as session:
            known = kept.one(session, kind, kept_id)
            if kind in NAMED and entry.name.strip() != known.entry.name:
                _refuse_named_by_others(session, known)
                if entry.name.strip().casefold() != known.entry.name.casefold():
                    _refuse_taken(session, kind, known.of_id, entry)
            if isinstance(entry, PhotographEntry) and entry.file != known.entry.file:
                raise BadInput("Another picture is another photograph.", field="file")
            _refuse_strange(session, entry, known.of_id)
            before, after = (kept.data_of(kind, one) for one in (known.entry, entry))
            keep_versions(session, [Change(kind.value, known.id, seen, before, after, entry)], actor)
            kept.change(session, kept_id, kind, entry)
            return _view(session, kept.one(session, kind, kept_id))

    def close(self, kind: Kind, kept_id: int, closed: bool, actor: Actor) -> Any:
        """Say that an entry is not used any more, or is again. It stays on record.

        Raises:
            Conflict: it is so already.
        """
        with self._database.writing() as session:
            known = kept.one(session, kind, kept_id)
            if known.closed == closed:
                raise Conflict("It is closed already." if closed else "It is open already.")
            kept.close(session, kept_id, closed)
            did = "closed" if closed else "opened again"
            audit.note(session, actor, f"{did} {_article(kind)}", known.subject, text=title(kind, known.entry))
            return _view(session, kept.one(session, kind, kept_id))

    def read_wire(self, sha256: str, volts_each: float, amps_each: float) -> WireView:
        """Read a two-channel recording of a loudspeaker's wire: the first channel volts, the second amps.

        Args:
            volts_each, amps_each: Volts and amps of a full-scale sample.

        Raises:
            BadInput: no recording, another number of channels, silence, or scales of nothing.
        """
        for field, scale in (("volts_each", volts_each), ("amps_each", amps_each)):
            if not 0 < abs(scale) <= 10_000:
                raise BadInput("The scale must be above 0.", field=field)
        with self._database.reading() as session:
            file = kept.file(session, sha256)
        samples, rate = self._samples(file)
        read = read_speaker_wire(samples[:, 0] * volts_each, samples[:, 1] * amps_each, rate)
        # Both go into a form, where people look at them: no recorder tells more digits.
        return WireView(
            volts=float(f"{read.volts:.6g}"),
            amps=float(f"{read.amps:.6g}"),
            watts=read.watts,
            tone_hz=read.tone_hz,
            phase_degrees=read.phase_degrees,
            load=moving_load(read.volts, read.amps, read.phase_degrees, read.watts),
            recording=sha256,
        )

    def _samples(self, file: FileEntry) -> tuple[np.ndarray, float]:
        if file.media != "audio/wav":
            raise BadInput("A recording of a wire is a WAV file.", field="recording")
        path = self._files.path(file.path)
        told = soundfile.info(str(path))
        if told.channels != 2:
            what = f"The recording has {told.channels} channel(s); it takes two: volts and amps."
            raise BadInput(what, field="recording")
        samples, rate = soundfile.read(path, dtype="float64", always_2d=True, frames=int(told.samplerate * 21))
        return samples, float(rate)


def _view(session: Session, one: Kept) -> KeptView[Any] | ListeningView:
    number = versions.current(session, one.subject)
    if isinstance(one.entry, ListeningEntry):
        others = [compared.than_unit for compared in one.entry.comparisons]
        return listening_view(one, number, line_queries.serials(session, others))
    return kept_view(one, number)


def _article(kind: Kind) -> str:
    others = {Kind.INSIDE: "the inside", Kind.LISTENING: "a listening record", Kind.AUDIT_PLAN: "an audit plan"}
    return others.get(kind, f"a {kind.value}")


def _refuse_nobody(session: Session, kind: Kind, of_id: int) -> None:
    load.unit(session, of_id) if OF[kind] == "unit" else load.model(session, of_id)


def _refuse_taken(session: Session, kind: Kind, of_id: int, entry: Any) -> None:
    if kind not in NAMED:
        return
    name = entry.name.strip().casefold()
    if any(one.entry.name.casefold() == name for one in kept.all_of(session, kind, [of_id])):
        raise Conflict(f"There is a {kind.value} “{entry.name.strip()}” already.", todo="Choose another name.")


def _refuse_strange(session: Session, entry: Any, of_id: int) -> None:
    """Files must be on record, pictures must be pictures, and units that are compared with must be others."""
    for sha256 in files_of(entry):
        file = kept.file(session, sha256)
        if isinstance(entry, PhotographEntry) and file.width is None:
            raise BadInput("A photograph is a picture.", field="file")
    if isinstance(entry, ListeningEntry):
        known = line_queries.serials(session, [one.than_unit for one in entry.comparisons])
        for at, one in enumerate(entry.comparisons):
            if one.than_unit not in known:
                raise BadInput(f"There is no unit number {one.than_unit}.", field=f"comparisons.{at}.than_unit")
            if one.than_unit == of_id:
                raise BadInput("A unit is compared with another one.", field=f"comparisons.{at}.than_unit")


def _refuse_named_by_others(session: Session, known: Kept) -> None:
    """What units or claims go by keeps its name: a claim is sealed with it."""
    if line_queries.is_gone_by(session, known.kind, known.of_id, known.entry.name):
        whose = "Claims" if known.kind is Kind.DOCUMENT else "Units"
        what = f"{whose} go by “{known.entry.name}”: it keeps its name."
        raise BadInput(what, field="name", code="in-use")
