"""The archive read again: every stored waveform, by today's program or by another method, held against what stands.

Nothing on record is touched until a person adopts what was found, and then nothing of what stood.
"""

import hashlib
import json
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import Executor
from dataclasses import asdict, dataclass
from pathlib import Path
from threading import Event
from typing import Any

from rulvek import __version__, clock
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.judgement import reanalysis as core
from rulvek.core.judgement.reanalysis import Change, OtherVerdict, Reread, Wanted
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.life import RatingState
from rulvek.core.ratings.reread import moved
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import KeptFile
from rulvek.core.records.campaigns import Campaign, Unit
from rulvek.core.records.product import Model
from rulvek.services.outside.unseen import show_together, write_unseen
from rulvek.services.reanalysis.notes import Notes
from rulvek.services.reanalysis.reading import Task, in_turn
from rulvek.store import load, methods, save
from rulvek.store import ratings as rating_store
from rulvek.store.engine import Database, Session
from rulvek.store.files import sidecar
from rulvek.store.queries import line as line_queries

Tell = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class MovedRating:
    """A published or signed rating that would rest on other figures."""

    rating_id: int
    model: str
    promised_watts: float
    units: int
    was_watts: float | None
    bound_watts: float | None
    holds: bool


@dataclass(frozen=True, slots=True)
class Reanalysis:
    """What the archive comes to now, beside what stands.

    Attributes:
        method: By which it was read; None for each campaign's own.
        waveforms: How many there are.
        rereads: What was read of them, now or before it was ended, by attempts.
    """

    method: MethodProfile | None
    waveforms: int
    rereads: Mapping[int, Reread]
    changes: tuple[Change, ...]
    verdicts: tuple[OtherVerdict, ...]
    ratings: tuple[MovedRating, ...]

    @property
    def by(self) -> str:
        """By which method, in words."""
        return self.method.name if self.method else "each campaign's own method"

    @property
    def read(self) -> int:
        """How many waveforms were read."""
        return len(self.rereads)

    @property
    def complete(self) -> bool:
        """Whether every waveform was read."""
        return self.read == self.waveforms


def as_data(found: Reanalysis) -> dict[str, Any]:
    """All of it as plain values."""
    return {
        "method": found.by,
        "waveforms": found.waveforms,
        "read": found.read,
        "complete": found.complete,
        "changes": [asdict(one) | {"percent": one.percent} for one in found.changes],
        "verdicts": [asdict(one) for one in found.verdicts],
        "ratings": [asdict(one) for one in found.ratings],
    }


class Archive:
    """The stored waveforms of some records."""

    def __init__(self, database: Database, captures: str, work: Path, model: str = "") -> None:
        """``captures`` is their folder, or an address that fsspec knows; ``work`` a folder for what was read.

        With ``model``, a name, it is the waveforms of that model alone.
        """
        self._database, self._captures, self._work = database, captures.rstrip("/"), work
        self._model = model.strip()

    def read_again(
        self,
        executor: Executor,
        workers: int,
        method: MethodProfile | None = None,
        tell: Tell = lambda done, of: None,
        stop: Event | None = None,
        keep_notes: bool = False,
    ) -> Reanalysis:
        """Read every waveform and hold it all against what stands; after ``stop``, what was read until then.

        Args:
            executor: Who reads, how many at a time by ``workers``.
            method: Another method; each campaign's own where None.
            tell: Hears how many are read, of how many.
            stop: Ends it early; the next time it goes on from there.
            keep_notes: Whether what was read is kept when all was, so that the next time nothing is read twice.
        """
        tasks = list(self.tasks(method))
        with Notes(self._work / f"reread-{_mark(method, self._model)}.jsonl") as notes:
            found = {task.wanted.attempt_id: one for task in tasks if (one := notes.known.get(_key(task))) is not None}
            tell(len(found), len(tasks))
            left = iter([task for task in tasks if task.wanted.attempt_id not in found])
            for done in in_turn(executor, workers, left, stop or Event()):
                for task, one in done:
                    notes.write(_key(task), one)
                    found[one.attempt_id] = one
                notes.flush()
                tell(len(found), len(tasks))
        whole = len(found) == len(tasks)
        if whole and not keep_notes:
            notes.path.unlink()
        return self._compared(found, method, len(tasks))

    def adopt(self, found: Reanalysis, actor: Actor, reason: str) -> list[int]:
        """Put on record what comes to other figures, as campaigns of their own; what stood stays beside them.

        Returns:
            The campaigns' numbers.

        Raises:
            Conflict: the archive was not read to its end, or there is nothing new to adopt.
            BadInput: no reason.
        """
        reason = reason.strip()
        if not reason:
            raise BadInput("Say why it is adopted.", field="reason")
        if not found.complete:
            raise Conflict("The archive was not read to its end.", todo="Read it to its end first.")
        label = f"{found.method.name if found.method else 'its own method'}, Rulvek {__version__}"
        made, at = [], clock.now()
        for _, _, campaigns in self._units():
            there = {attempt.read_again for one in campaigns for _, attempt in one.attempts()}
            for campaign in campaigns:
                left = {key: one for key, one in found.rereads.items() if f"attempt {key}, by {label}" not in there}
                anew = core.adopted(campaign, left, found.method, label, actor, at)
                if anew is not None:
                    made.append((campaign.id, anew))
        if not made:
            raise Conflict("Nothing comes to other figures that was not adopted already.")
        written = []
        for _, anew in made:
            unseen = write_unseen(self._database, anew)
            kept = [(one, anew.runs[place].attempts[0].captures[0]) for place, one in enumerate(unseen.attempt_ids)]
            with self._database.writing() as session:
                save.captures(session, kept)
            written.append(unseen)
        texts = [f"campaign {source} read again by {label}: {reason}" for source, _ in made]
        show_together(self._database, written, texts, "adopted what was read again", actor)
        return [one.campaign_id for one in written]

    def tasks(self, method: MethodProfile | None) -> Iterator[Task]:
        """Every waveform that can be read again, by a method or by its campaign's own."""
        for _, _, campaigns in self._units():
            for campaign in campaigns:
                for run in campaign.runs:
                    for attempt in run.attempts:
                        asked = core.wanted(campaign, run, attempt, method)
                        if asked is not None:
                            yield self._task(asked, attempt.captures[0])

    def _task(self, asked: Wanted, kept: KeptFile) -> Task:
        wav, described = f"{self._captures}/{kept.path}", f"{self._captures}/{sidecar(kept)}"
        return Task(asked, wav, described, kept.sha256, kept.described_sha256)

    def _units(self) -> Iterator[tuple[Unit, Model, list[Campaign]]]:
        """Every unit with its model and its campaigns, one after the other: an archive is larger than a memory."""
        with self._database.reading() as session:
            if self._model:
                model_id = line_queries.model_named(session, self._model)
                if model_id is None:
                    raise NotFound(f"There is no model “{self._model}” on record.", field="model")
                yield from self._of_model(session, load.model(session, model_id))
                return
            after: int | None = None
            while True:
                page, after = line_queries.series_page(session, after, 50)
                for model in load.models(session, [one for series in page for one in series.models]):
                    yield from self._of_model(session, model)
                if after is None:
                    return

    @staticmethod
    def _of_model(session: Session, model: Model) -> Iterator[tuple[Unit, Model, list[Campaign]]]:
        for unit_id in line_queries.unit_ids(session, model.id):
            yield load.unit(session, unit_id), model, load.campaigns_of_unit(session, unit_id)

    def _compared(self, found: Mapping[int, Reread], method: MethodProfile | None, of: int) -> Reanalysis:
        with self._database.reading() as session:
            usual = methods.usual(session)
        changes: list[Change] = []
        verdicts: list[OtherVerdict] = []
        for unit, model, campaigns in self._units():
            mine = core.changes(campaigns, found)
            changes += mine
            if mine or method is not None:
                anew = [core.again(one, found, method) for one in campaigns]
                verdicts += core.other_verdicts(unit, model, campaigns, anew, usual, DecisionRule.AS_STORED)
        return Reanalysis(
            method=method,
            waveforms=of,
            rereads=found,
            changes=tuple(changes),
            verdicts=tuple(verdicts),
            ratings=tuple(self._moved({one.attempt_id: one for one in changes})),
        )

    def _moved(self, changes: Mapping[int, Change]) -> Iterator[MovedRating]:
        ratios = {key: None if one.watts is None else one.watts / one.was_watts for key, one in changes.items()}
        with self._database.reading() as session:
            rows = rating_store.everything(session)
            alive = [one for one in rows if one.life.state in (RatingState.SIGNED, RatingState.PUBLISHED)]
            bases = rating_store.bases_of(session, alive)
        for rating in alive:
            basis = bases.get(rating.id)
            now = moved(basis, ratios) if basis else None
            if basis is not None and now is not None:
                promised = basis.terms.watts
                yield MovedRating(
                    rating.id, basis.model, promised, now.units, now.was_watts, now.bound_watts, now.holds(promised)
                )


def _key(task: Task) -> str:
    return f"{task.wanted.attempt_id} {task.wav}"


def _mark(method: MethodProfile | None, model: str) -> str:
    """The same for the same program, method and model, so that only what is alike goes on."""
    said = json.dumps([__version__, method.as_data() if method else None, model.casefold()], sort_keys=True)
    return hashlib.sha256(said.encode()).hexdigest()[:12]
