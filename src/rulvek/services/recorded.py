"""Recorded files become attempts: taken in, laid out, read in the background, looked at, then kept or let go."""

import hashlib
import secrets
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from rulvek.core.errors import BadInput, Conflict, NotFound, RulvekError
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.reading import Load, Point
from rulvek.core.measure.recorded import Recorded, read_recording
from rulvek.core.measure.recording import find, survey
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.plan import Wishes
from rulvek.services.attempt_log import add_ending, loads_data, started_with
from rulvek.services.campaigns import Campaigns
from rulvek.services.checking import questioned_view
from rulvek.services.gear import due_on
from rulvek.services.records import point_data
from rulvek.services.views.attempt import AttemptView
from rulvek.services.views.outside import RecordingView
from rulvek.services.waiting import Setup, Waiting, waiting_view
from rulvek.store import audit, queries, tables
from rulvek.store.captures import CaptureFolder
from rulvek.store.database import Database, Session
from rulvek.store.recordings import Layout, WavSource, inspect, to_wav

MOST_BYTES = 500 * 2**20
MOST_WAITING = 8
_CONVERTED = 0.6  # share of the work that rewriting a CSV is


class _StoppedError(Exception):
    """Somebody stopped the reading."""


class _RolledBackError(Exception):
    """Ends a rehearsal's transaction; nothing of it stays."""


class Recordings:
    """The files that wait in one folder, which belongs to this process; what it finds there at first is left over."""

    def __init__(self, database: Database, campaigns: Campaigns, folder: Path, captures: Path) -> None:
        self._database, self._campaigns = database, campaigns
        self._folder, self._captures = folder, CaptureFolder(captures)
        self._waiting: dict[str, Waiting] = {}
        self._door = threading.Lock()

    def clear(self) -> None:
        """Delete what an earlier process left behind."""
        for file in self._folder.glob("*"):
            file.unlink()

    def close(self) -> None:
        """Let every waiting file go, and the folder with them."""
        for identity in list(self._waiting):
            self.let_go(identity)
        if self._folder.is_dir():
            self._folder.rmdir()

    def arriving(self, name: str) -> "Arriving":
        """Begin to take a file in."""
        self._folder.mkdir(parents=True, exist_ok=True)
        return Arriving(self, self._folder / secrets.token_hex(8), Path(name).name[:120] or "recording")

    def arrived(self, path: Path, name: str) -> RecordingView:
        """Lay a complete file out; it waits under its own id until it is kept or let go.

        Raises:
            BadCapture: neither WAV nor a table of numbers; the file is gone then.
        """
        try:
            layout = inspect(path, name)
        except RulvekError:
            path.unlink(missing_ok=True)
            raise
        with self._door:
            oldest = list(self._waiting)[: max(0, len(self._waiting) - MOST_WAITING + 1)]
        for other in oldest:
            self.let_go(other)
        waiting = Waiting(path.name, name, path, layout)
        self._waiting[waiting.id] = waiting
        return waiting_view(waiting)

    def view(self, identity: str) -> RecordingView:
        """How far a recording has come."""
        return waiting_view(self._known(identity))

    def layout(self, identity: str) -> Layout:
        """How a waiting file's numbers are laid out."""
        return self._known(identity).layout

    def read(self, identity: str, unit_id: int, setup: Setup) -> RecordingView:
        """Begin to read a recording in the background; see :meth:`view` for what comes of it.

        Raises:
            Conflict: it is being read already.
            BadInput: columns or a run that cannot be.
        """
        waiting = self._known(identity)
        _check(setup)
        with self._database.reading() as session:
            queries.get(session, tables.Unit, unit_id)
        with self._door:
            if waiting.thread is not None and waiting.thread.is_alive():
                raise Conflict(f"{waiting.name} is being read already.", todo="Stop it first, or wait.")
            waiting.setup, waiting.unit_id, waiting.attempt, waiting.recorded = setup, unit_id, None, None
            waiting.state, waiting.doing, waiting.done, waiting.problem = "reading", "Opening the file", 0.0, ""
            waiting.stopping.clear()
            waiting.thread = threading.Thread(target=self._work, args=(waiting,), daemon=True)
            waiting.thread.start()
        return waiting_view(waiting)

    def wait(self, identity: str) -> RecordingView:
        """Wait until a reading has ended, one way or another."""
        waiting = self._known(identity)
        if waiting.thread is not None:
            waiting.thread.join()
        return waiting_view(waiting)

    def stop(self, identity: str) -> RecordingView:
        """Stop a reading; the file stays and can be read again."""
        waiting = self._known(identity)
        waiting.stopping.set()
        return self.wait(identity)

    def let_go(self, identity: str) -> None:
        """Stop, and delete the file."""
        waiting = self._known(identity)
        waiting.stopping.set()
        if waiting.thread is not None:
            waiting.thread.join()
        self._waiting.pop(identity, None)
        waiting.path.unlink(missing_ok=True)

    def keep(self, identity: str, person: str) -> int:
        """Put what was read on record as an attempt of a campaign of its own; returns the attempt's id.

        The file itself moves to the captures, by its fingerprint.

        Raises:
            BadInput: it has not been read, or no instrument is named.
        """
        waiting = self._known(identity)
        if waiting.recorded is None or waiting.setup is None or waiting.unit_id is None:
            raise BadInput(f"{waiting.name} has not been read yet.", field="recording")
        if not waiting.setup.instrument.strip():
            raise BadInput("Name the instrument that recorded it.", field="instrument")
        original = Path("originals") / f"{waiting.sha256[:16]}{_suffix(waiting.name)}"
        with self._database.writing() as session:
            attempt = self._write(session, waiting, person, str(original))
            capture = self._captures.keep(f"{attempt.id:06d}-reading", waiting.recorded.capture)
            row = tables.CaptureFile(attempt_id=attempt.id, kept_at=datetime.now(UTC), **asdict(capture))
            queries.add(session, row)
            target = self._captures.root / original
            target.parent.mkdir(parents=True, exist_ok=True)
            waiting.path.replace(target)
            kept = attempt.id
        self._waiting.pop(identity, None)
        return kept

    def _known(self, identity: str) -> Waiting:
        if identity not in self._waiting:
            raise NotFound("There is no such recording waiting.", todo="Drop the file again.")
        return self._waiting[identity]

    def _work(self, waiting: Waiting) -> None:
        """Read a file in the background; whatever happens ends as a state."""
        try:
            self._read(waiting)
            waiting.state, waiting.done = "read", 1.0
        except _StoppedError:
            waiting.state = "stopped"
        except RulvekError as error:
            waiting.state, waiting.problem = "failed", f"{error.what} {error.todo}".strip()
        except Exception:
            waiting.state, waiting.problem = "failed", f"{waiting.name} could not be read."
            raise

    def _read(self, waiting: Waiting) -> None:
        setup = waiting.setup
        assert setup is not None
        layout = replace(
            waiting.layout,
            time_column=setup.time_column,
            sample_rate=setup.sample_rate or waiting.layout.sample_rate,
        )

        def telling(doing: str, start: float, share: float) -> Callable[[float], None]:
            def tell(done: float) -> None:
                if waiting.stopping.is_set():
                    raise _StoppedError
                waiting.doing, waiting.done = doing, start + share * done

            return tell

        rewritten = waiting.path.with_suffix(".wav.part")
        try:
            path, rows, rate, begun = waiting.path, setup.rows, layout.sample_rate, 0.0
            if layout.kind == "csv":
                columns = [row.column for row in rows]
                rate = to_wav(path, layout, columns, rewritten, telling("Reading the table", 0.0, _CONVERTED))
                path, begun = rewritten, _CONVERTED
                rows = tuple(replace(row, column=index) for index, row in enumerate(rows))
            source = WavSource(path, rows, rate)
            try:
                left = 1 - begun
                waiting.seen = survey(source, telling("Going through the wave", begun, 0.7 * left))
                found = find(source, waiting.seen)
                method = MethodProfile()
                clipping = setup.spec.mode is Mode.UNCERTIFIED
                limit = method.uncertified_limit_percent if clipping else method.thd_n_limit_percent
                recorded = read_recording(
                    source,
                    waiting.seen,
                    found,
                    mode=setup.spec.mode,
                    loads=_loads(setup, method),
                    band=method.band,
                    limit=limit / 100,
                    tell=telling("Reading what was found", begun + 0.7 * left, 0.25 * left),
                )
            finally:
                source.close()
            waiting.recorded = _with_what_was_said(recorded, setup)
            waiting.sha256 = _sha256(waiting.path, telling("Taking the fingerprint", 0.97, 0.03))
            waiting.attempt = self._rehearsed(waiting)
        except BaseException:
            waiting.recorded = None
            raise
        finally:
            rewritten.unlink(missing_ok=True)

    def _rehearsed(self, waiting: Waiting) -> AttemptView:
        """The attempt as it would stand on record, with its checks and its uncertainty; then all of it is undone."""
        view: list[AttemptView] = []
        with suppress(_RolledBackError), self._database.writing() as session:
            attempt = self._write(session, waiting, "rehearsal", "")
            view.append(questioned_view(attempt, MethodProfile()))
            raise _RolledBackError
        return view[0]

    def _write(self, session: Session, waiting: Waiting, person: str, original: str) -> tables.Attempt:
        setup, recorded, unit_id = waiting.setup, waiting.recorded, waiting.unit_id
        assert setup is not None and recorded is not None and unit_id is not None
        # The tone that was played is the one that was found.
        spec, now = replace(setup.spec, tone_hz=round(recorded.found.tone_hz, 6)), datetime.now(UTC)
        wishes = Wishes(modes=(spec.mode,), held_volts=spec.supply_volts)
        run = self._campaigns.create_in(session, unit_id, person, wishes, [spec]).runs[0]
        _check_channels(run, recorded)
        attempt = queries.add(
            session,
            tables.Attempt(
                run_id=run.id,
                number=queries.next_attempt_number(session, run.id),
                reason="",
                started_by=person,
                started_at=now,
                instruments={
                    "output": {
                        "name": setup.instrument.strip(),
                        "specification": {"percent_of_reading": setup.accuracy_percent},
                        "due_on": due_on(session, setup.instrument),
                    }
                },
                recorded=_as_recorded(waiting, setup, recorded, original),
            ),
        )

        def step(kind: str, at: float, data: dict[str, Any]) -> None:
            queries.add(session, tables.Step(attempt_id=attempt.id, kind=kind, at_seconds=at, data=data))

        prepared, outcome = _prepared(setup, recorded), recorded.outcome
        step("prepared", 0.0, prepared)
        rate = recorded.capture.sample_rate
        for point, section in zip(outcome.points, recorded.found.sections, strict=True):
            over = point.level_dbv > outcome.reading.level_dbv if outcome.reading else True
            step("point", section.stop / rate, point_data(point, "rising", over))
        assert waiting.seen is not None
        add_ending(
            session,
            attempt.id,
            end=outcome.end,
            fault="",
            seconds=waiting.seen.seconds,
            reading=outcome.reading,
            prepared=prepared,
            bracket_db=outcome.bracket_db,
            largest_watts=outcome.largest.weakest_watts if outcome.largest else None,
            start_watts=started_with(outcome),
        )
        if setup.remark.strip():
            queries.add(session, tables.Remark(attempt_id=attempt.id, text=setup.remark.strip(), by=person, at=now))
        text = f"{waiting.name}, SHA-256 {waiting.sha256[:16]}…: {spec.mode}, {spec.load_ohms:g} Ω {spec.group}"
        audit.note(session, person, "took a recording in", f"campaign/{run.campaign_id}", text=text)
        session.flush()
        session.refresh(attempt)
        return attempt


class Arriving:
    """A file while it is being sent; whatever goes wrong, nothing of it stays."""

    def __init__(self, room: Recordings, path: Path, name: str) -> None:
        self._room, self._path, self._name = room, path, name
        self._file = path.open("xb")
        self._bytes = 0

    def write(self, part: bytes) -> None:
        """Add a part.

        Raises:
            BadInput: the file grows beyond what is taken.
        """
        self._bytes += len(part)
        if self._bytes > MOST_BYTES:
            raise BadInput(
                f"{self._name} is larger than {MOST_BYTES // 2**20} MB.",
                todo="Cut it into shorter recordings.",
                field="file",
            )
        self._file.write(part)

    def finish(self) -> RecordingView:
        """The file is complete."""
        self._file.close()
        return self._room.arrived(self._path, self._name)

    def abandon(self) -> None:
        """The file will not be complete."""
        self._file.close()
        self._path.unlink(missing_ok=True)


def _check(setup: Setup) -> None:
    outputs = [row.role.channel for row in setup.rows if row.role.quantity == "output_volts"]
    if not outputs:
        raise BadInput("Say which column is the output of a channel.", field="rows")
    roles = [row.role for row in setup.rows]
    twice = next((role for role in roles if roles.count(role) > 1), None)
    if twice is not None:
        what = twice.quantity.replace("_", " ")
        raise BadInput(f"Two columns are the {what} of channel {twice.channel}.", field="rows")


def _check_channels(run: tables.Run, recorded: Recorded) -> None:
    missing = sorted(set(run.channels) - set(recorded.loads))
    extra = sorted(set(recorded.loads) - set(run.channels))
    if missing:
        raise BadInput(f"The run reads channel {missing[0]}, which no column is the output of.", field="rows")
    if extra:
        raise BadInput(f"Channel {extra[0]} is not read in this run.", field="rows")


def _loads(setup: Setup, method: MethodProfile) -> dict[int, Load]:
    """By channel; a load that nobody measured is nominal, and as doubtful as loads come."""
    amps = {row.role.channel for row in setup.rows if row.role.quantity == "output_amps"}
    nominal = setup.spec.load_ohms
    doubtful = 2 * method.load_tolerance_percent / 100
    return {
        row.role.channel: Load(
            nominal,
            setup.load_measured or nominal,
            0.01 if setup.load_measured else setup.accuracy_percent / 100 if row.role.channel in amps else doubtful,
        )
        for row in setup.rows
        if row.role.quantity == "output_volts"
    }


def _with_what_was_said(recorded: Recorded, setup: Setup) -> Recorded:
    """Supply figures that a person read, where no column tells them."""

    def told(point: Point) -> Point:
        amps = setup.amps if setup.spec.mode is not Mode.BURST else None
        return replace(
            point,
            supply_volts=point.supply_volts if point.supply_volts is not None else setup.loaded_volts,
            supply_amps=point.supply_amps if point.supply_amps is not None else amps,
        )

    outcome = recorded.outcome
    reading = told(outcome.reading) if outcome.reading else None
    start = recorded.start_volts if recorded.start_volts is not None else setup.start_volts
    return replace(recorded, outcome=replace(outcome, reading=reading), start_volts=start)


def _prepared(setup: Setup, recorded: Recorded) -> dict[str, Any]:
    return {
        "start_volts": recorded.start_volts,
        "clamp_zero_amps": None,
        "loads": loads_data(dict(recorded.loads)),
        "bench": {"Recorded with": setup.instrument.strip()},
        "sink_c": None,
        "load_c": None,
        "outside": "",
    }


def _as_recorded(waiting: Waiting, setup: Setup, recorded: Recorded, original: str) -> dict[str, Any]:
    found, rate = recorded.found, recorded.capture.sample_rate
    return {
        "file": waiting.name,
        "original": original,
        "sha256": waiting.sha256,
        "kind": found.kind.value,
        "tone_hz": found.tone_hz,
        "chosen": recorded.chosen,
        "sections": [[section.start / rate, section.stop / rate] for section in found.sections],
        "rows": [asdict(row) for row in setup.rows],
        "clamp_zeroed": setup.clamp_zeroed,
        "controls_in_position": setup.controls_in_position,
        "all_loaded": setup.all_loaded,
    }


def _suffix(name: str) -> str:
    suffix = Path(name).suffix.lower()
    return suffix if suffix in (".wav", ".csv", ".txt", ".tsv") else ".dat"


def _sha256(path: Path, tell: Callable[[float], None]) -> str:
    digest, size, done = hashlib.sha256(), max(1, path.stat().st_size), 0
    with path.open("rb") as file:
        while part := file.read(1 << 20):
            digest.update(part)
            done += len(part)
            tell(done / size)
    return digest.hexdigest()
