"""The archive read again: every stored waveform, by today's program or by another method, held against what stands.

Nothing on record is touched. Waveforms are read by several processes, here or elsewhere; what was read is kept in a
work file beside the records, so that a reading of the archive that was ended goes on where it was.
"""

import hashlib
import json
import multiprocessing
import os
import signal
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path
from threading import Event
from typing import Any

from rulvek import __version__
from rulvek.core.errors import BadCapture, BadInput, Conflict, RulvekError
from rulvek.core.judgement import reanalysis as core
from rulvek.core.judgement.reanalysis import Change, OtherVerdict, Reread, Wanted
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.life import RatingState
from rulvek.core.ratings.reread import moved
from rulvek.core.readings.point import Load
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import KeptFile, Reading
from rulvek.core.records.campaigns import Campaign, Unit
from rulvek.core.records.product import Model
from rulvek.services.outside.unseen import show_together, write_unseen
from rulvek.store import load, save
from rulvek.store import ratings as rating_store
from rulvek.store.engine import Database
from rulvek.store.files import capture_of, sidecar
from rulvek.store.queries import line as line_queries

AT_ONCE = 8
"""Waveforms of one task: enough that handing it over costs little, few enough that progress shows."""
CONNECT_SECONDS = 10
WAITING_TASKS = 4
"""Tasks that wait for each process."""
Tell = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class Task:
    """A waveform to read, where its two files lie, and what they hash to; of before, one hash is over both."""

    wanted: Wanted
    wav: str
    described: str
    sha256: str
    described_sha256: str


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


@contextmanager
def processes(count: int | None = None, scheduler: str | None = None) -> Iterator[tuple[Executor, int]]:
    """Who reads: processes of this machine, or the workers of a scheduler of dask.distributed; and how many they are.

    Raises:
        BadInput: a scheduler is asked for that cannot be reached, or what it takes is not installed.
    """
    if scheduler is None:
        count = count or os.cpu_count() or 1
        spawn = multiprocessing.get_context("spawn")
        with ProcessPoolExecutor(count, mp_context=spawn, initializer=_left_to_others) as pool:
            yield pool, count
        return
    try:
        from distributed import Client
    except ImportError:
        what = "A scheduler takes dask.distributed, which is not installed."
        raise BadInput(what, todo="pip install 'rulvek[cluster]'", field="scheduler") from None
    try:
        client = Client(scheduler, timeout=CONNECT_SECONDS)
    except (OSError, ValueError) as failure:
        raise BadInput(f"The scheduler {scheduler} cannot be reached: {failure}.", field="scheduler") from None
    with client:
        yield client.get_executor(), max(1, len(client.scheduler_info()["workers"]))


def _left_to_others() -> None:
    """Ctrl+C reaches every process of a terminal: whoever started this one ends it, once what it reads is kept."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def read_all(tasks: Sequence[Task]) -> list[Reread]:
    """Read some waveforms, in whatever process."""
    return [_read(one) for one in tasks]


def _read(task: Task) -> Reread:
    try:
        wav, described = (_bytes(one) for one in (task.wav, task.described))
    except OSError:
        return Reread(task.wanted.attempt_id, problem="Its waveform is gone from the folder of captures.")
    parts = {task.sha256: wav, task.described_sha256: described}
    if not task.described_sha256:
        parts = {task.sha256: wav + described}
    if any(hashlib.sha256(part).hexdigest() != digest for digest, part in parts.items()):
        return Reread(task.wanted.attempt_id, problem="Its waveform is not the one that was kept.")
    try:
        return core.reread(capture_of(wav, described, Path(task.wav).name), task.wanted)
    except (BadCapture, ValueError, KeyError) as failure:
        what = failure.what if isinstance(failure, RulvekError) else "Its waveform is not described as it should be."
        return Reread(task.wanted.attempt_id, problem=what)


def _bytes(url: str) -> bytes:
    if "://" not in url:
        return Path(url).read_bytes()
    import fsspec  # takes long to load, and most archives are a folder

    with fsspec.open(url, "rb") as file:
        content: bytes = file.read()
    return content


class Archive:
    """The stored waveforms of some records."""

    def __init__(self, database: Database, captures: str, work: Path) -> None:
        """``captures`` is their folder, or an address that fsspec knows; ``work`` a folder for what was read."""
        self._database, self._captures, self._work = database, captures.rstrip("/"), work

    def read_again(
        self,
        executor: Executor,
        workers: int,
        method: MethodProfile | None = None,
        tell: Tell = lambda done, of: None,
        stop: Event | None = None,
    ) -> Reanalysis:
        """Read every waveform and hold it all against what stands; after ``stop``, what was read until then.

        Args:
            executor: Who reads, how many at a time by ``workers``.
            method: Another method; each campaign's own where None.
            tell: Hears how many are read, of how many.
            stop: Ends it early; the next time it goes on from there.
        """
        tasks = list(self._tasks(method))
        with _Notes(self._work / f"reread-{_mark(method)}.jsonl") as notes:
            found = {task.wanted.attempt_id: one for task in tasks if (one := notes.known.get(_key(task))) is not None}
            tell(len(found), len(tasks))
            left = iter([task for task in tasks if task.wanted.attempt_id not in found])
            for done in _in_turn(executor, workers, left, stop or Event()):
                for task, one in done:
                    notes.write(_key(task), one)
                    found[one.attempt_id] = one
                notes.flush()
                tell(len(found), len(tasks))
        whole = len(found) == len(tasks)
        if whole:
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
        made, at = [], datetime.now(UTC)
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

    def _tasks(self, method: MethodProfile | None) -> Iterator[Task]:
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
            after: int | None = None
            while True:
                page, after = line_queries.series_page(session, after, 50)
                for model in load.models(session, [one for series in page for one in series.models]):
                    for unit_id in line_queries.unit_ids(session, model.id):
                        yield load.unit(session, unit_id), model, load.campaigns_of_unit(session, unit_id)
                if after is None:
                    return

    def _compared(self, found: Mapping[int, Reread], method: MethodProfile | None, of: int) -> Reanalysis:
        changes: list[Change] = []
        verdicts: list[OtherVerdict] = []
        for unit, model, campaigns in self._units():
            mine = core.changes(campaigns, found)
            changes += mine
            if mine or method is not None:
                anew = [core.again(one, found, method) for one in campaigns]
                verdicts += core.other_verdicts(unit, model, campaigns, anew, DecisionRule.AS_STORED)
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


def _in_turn(
    executor: Executor, workers: int, left: Iterator[Task], stop: Event
) -> Iterator[list[tuple[Task, Reread]]]:
    """Hand tasks out so that nobody waits and little is under way; what has come, as it comes."""
    under_way: dict[Future[list[Reread]], list[Task]] = {}
    while True:
        while len(under_way) < workers * WAITING_TASKS and not stop.is_set():
            some = list(islice(left, AT_ONCE))
            if not some:
                break
            under_way[executor.submit(read_all, some)] = some
        if not under_way:
            return
        done, _ = wait(under_way, return_when=FIRST_COMPLETED)
        for one in done:
            yield list(zip(under_way.pop(one), one.result(), strict=True))


class _Notes:
    """What was read of an archive, a line each, on disk as it comes."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.known: dict[str, Reread] = {}

    def __enter__(self) -> "_Notes":
        with_end = 0
        if self.path.exists():
            with self.path.open("rb") as file:
                for line in file:
                    if not line.endswith(b"\n"):
                        break  # cut off by a kill
                    key, one = _told(json.loads(line))
                    self.known[key] = one
                    with_end += len(line)
        self.path.parent.mkdir(parents=True, exist_ok=True)
        self._file = self.path.open("ab")
        self._file.truncate(with_end)
        return self

    def __exit__(self, *_: object) -> None:
        self._file.close()

    def write(self, key: str, one: Reread) -> None:
        """Take one down."""
        figures = [[r.channel, r.watts, r.volts_rms, r.thd_n, r.thd, *_load(r)] for r in one.readings]
        line = {"key": key, "attempt": one.attempt_id, "readings": figures, "problem": one.problem}
        self._file.write(json.dumps(line, allow_nan=False).encode() + b"\n")

    def flush(self) -> None:
        """Everything that was taken down is on its way to the disk."""
        self._file.flush()


def _load(reading: Reading) -> tuple[float, float, float]:
    return reading.load.nominal_ohms, reading.load.measured_ohms, reading.load.tolerance


def _told(line: Mapping[str, Any]) -> tuple[str, Reread]:
    readings = tuple(
        Reading(channel, watts, volts, thd_n, thd, Load(*load))
        for channel, watts, volts, thd_n, thd, *load in line["readings"]
    )
    return line["key"], Reread(line["attempt"], readings, line["problem"])


def _key(task: Task) -> str:
    return f"{task.wanted.attempt_id} {task.wav}"


def _mark(method: MethodProfile | None) -> str:
    """The same for the same program and method, so that only what is alike goes on."""
    said = json.dumps([__version__, method.as_data() if method else None], sort_keys=True)
    return hashlib.sha256(said.encode()).hexdigest()[:12]
