"""Recorded files become attempts: taken in, laid out, read in the background, looked at, then kept or let go."""

import hashlib
import threading
from collections.abc import Callable, Mapping
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import structlog

from rulvek.core.errors import BadInput, Conflict, RulvekError
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.quantities import refuse_impossible_day, refuse_out_of_bounds
from rulvek.core.readings.point import Load, Point
from rulvek.core.readings.survey import find, survey
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt, Remark
from rulvek.core.records.campaigns import Campaign, Run
from rulvek.core.records.endings import ending_of, readings_of
from rulvek.core.records.instruments import InstrumentEntry, Instruments
from rulvek.core.records.outside import Origin, Outside
from rulvek.core.records.points import loads_data, point_data
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.recording import Recorded, read_recording
from rulvek.core.runs.settings import limit_ratio
from rulvek.services.campaigns import save_campaign
from rulvek.services.conclusions import Conclusions
from rulvek.services.outside.inbox import Arriving, Inbox, InboxFile, RecordingSetup
from rulvek.services.outside.kept import (
    NOBODY,
    OutsideCampaign,
    background,
    entry_named,
    now,
    outside_campaign,
    refuse_policy,
    taken_at,
)
from rulvek.services.views.outside import RecordingView, recording_view
from rulvek.store import audit, load, methods, save, seals
from rulvek.store.engine import Database
from rulvek.store.files import FileStore
from rulvek.store.formats.recorded_files import Layout, WavRecord, to_wav
from rulvek.store.seals import StepsDigest

log = structlog.get_logger()
EquipmentOf = Callable[[str | None], Equipment]
_CONVERTED = 0.6  # share of the work that rewriting a CSV is


class _StoppedError(Exception):
    """Somebody stopped the reading."""


class Recordings:
    """Reads the files of an inbox, and keeps what was read."""

    def __init__(
        self, database: Database, conclusions: Conclusions, equipment_of: EquipmentOf, folder: Path, files: FileStore
    ) -> None:
        self._database, self._conclusions, self._equipment_of = database, conclusions, equipment_of
        self._inbox, self._files = Inbox(folder), files

    def clear(self) -> None:
        """Delete what an earlier process left behind."""
        self._inbox.clear()

    def close(self) -> None:
        """Let every waiting file go, and the folder with them."""
        for file in self._inbox.everything():
            self.let_go(file.id)
        if self._inbox.folder.is_dir():
            self._inbox.folder.rmdir()

    def arriving(self, name: str, actor: Actor) -> Arriving:
        """Begin to take a file in."""
        return self._inbox.arriving(name, actor.name)

    def view(self, identity: str) -> RecordingView:
        """How far a recording has come."""
        return view_of(self._inbox.file(identity))

    def layout(self, identity: str) -> Layout:
        """How a waiting file's numbers are laid out."""
        return self._inbox.file(identity).layout

    def read(self, identity: str, unit_id: int, setup: RecordingSetup) -> RecordingView:
        """Begin to read a recording in the background; see :meth:`view` for what comes of it.

        Raises:
            Conflict: it is being read already.
            BadInput: columns or a run that cannot be.
        """
        file = self._inbox.file(identity)
        _check(setup)
        with self._database.reading() as session:
            load.unit(session, unit_id)
        with file.keeping:
            if file.is_being_read:
                raise Conflict(f"{file.name} is being read already.", todo="Stop it first, or wait.")
            if file.kept_as is not None:
                raise Conflict(f"{file.name} was kept as attempt {file.kept_as}.")
            file.setup, file.unit_id, file.judged, file.recorded = setup, unit_id, None, None
            file.state, file.doing, file.done, file.problem = "reading", "Opening the file", 0.0, ""
            file.stopping.clear()
            file.thread = threading.Thread(target=self._work, args=(file,), daemon=True)
            file.thread.start()
        return view_of(file)

    def wait(self, identity: str) -> RecordingView:
        """Wait until a reading has ended, one way or another."""
        file = self._inbox.file(identity)
        if file.thread is not None:
            file.thread.join()
        return view_of(file)

    def stop(self, identity: str) -> RecordingView:
        """Stop a reading; the file stays and can be read again."""
        self._inbox.file(identity).stopping.set()
        return self.wait(identity)

    def let_go(self, identity: str) -> None:
        """Stop, and delete the file."""
        file = self._inbox.file(identity)
        file.stopping.set()
        if file.thread is not None:
            file.thread.join()
        self._inbox.forget(identity)
        file.path.unlink(missing_ok=True)

    def keep(self, identity: str, actor: Actor) -> int:
        """Put what was read on record as an attempt of a campaign of its own; returns the attempt's id.

        The file itself moves to the captures, by its fingerprint. Keeping it once more answers with the same attempt.

        Raises:
            BadInput: it has not been read, or no instrument is named.
        """
        file = self._inbox.file(identity)
        with file.keeping:
            if file.kept_as is None:
                file.kept_as = self._keep(file, actor)
                file.path.unlink(missing_ok=True)
        self._inbox.forget(identity)
        return file.kept_as

    def _keep(self, file: InboxFile, actor: Actor) -> int:
        setup, recorded = file.setup, file.recorded
        if recorded is None or setup is None or file.unit_id is None:
            raise BadInput(f"{file.name} has not been read yet.", field="recording")
        if not setup.instrument.strip():
            raise BadInput("Name the instrument that recorded it.", field="instrument")
        original = self._files.take(file.path, file.sha256, _suffix(file.name))
        capture = self._files.keep_capture(recorded.capture)
        made = self._made(file, actor, original.path)
        attempt = made.campaign.runs[0].attempts[0]
        steps = _steps(setup, recorded)
        digest = StepsDigest(steps)
        with self._database.writing() as session:
            campaign_id, (run_id,) = save_campaign(session, made.campaign)
            attempt_id = save.attempt(session, campaign_id, run_id, attempt)
            save.captures(session, [(attempt_id, capture)])
            save.steps(session, attempt_id, steps)
            run = setup.run
            text = f"{file.name}, SHA-256 {file.sha256[:16]}…: {run.mode}, {run.load_ohms:g} Ω {run.group}"
            session.flush()
            sealed = seals.attempt_seals(session, [attempt_id], {attempt_id: digest})
            audit.note(session, actor, "took a recording in", f"campaign/{campaign_id}", seals=sealed, text=text)
        self._conclusions.changed(made.model.id, made.campaign.unit.id)
        return attempt_id

    def _work(self, file: InboxFile) -> None:
        """Read a file in the background; whatever happens ends as a state."""
        try:
            self._read(file)
            file.state, file.done = "read", 1.0
        except _StoppedError:
            file.state = "stopped"
        except RulvekError as error:
            file.state, file.problem = "failed", f"{error.what} {error.todo}".strip()
        except Exception:
            log.exception("a recording could not be read", file=file.name)
            file.state, file.problem = "failed", f"{file.name} could not be read."

    def _read(self, file: InboxFile) -> None:
        setup = file.setup
        assert setup is not None
        layout = replace(
            file.layout,
            time_column=setup.time_column,
            sample_rate=setup.sample_rate or file.layout.sample_rate,
        )

        def telling(doing: str, start: float, share: float) -> Callable[[float], None]:
            def tell(done: float) -> None:
                if file.stopping.is_set():
                    raise _StoppedError
                file.doing, file.done = doing, start + share * done

            return tell

        rewritten = file.path.with_suffix(".wav.part")
        try:
            path, rows, rate, begun = file.path, setup.rows, layout.sample_rate, 0.0
            if layout.kind == "csv":
                columns = [row.column for row in rows]
                rate = to_wav(path, layout, columns, rewritten, telling("Reading the table", 0.0, _CONVERTED))
                path, begun = rewritten, _CONVERTED
                rows = tuple(replace(row, column=index) for index, row in enumerate(rows))
            source = WavRecord(path, rows, rate)
            try:
                left = 1 - begun
                file.seen = survey(source, telling("Going through the wave", begun, 0.7 * left))
                found = find(source, file.seen)
                with self._database.reading() as session:
                    method = methods.usual(session)
                recorded = read_recording(
                    source,
                    file.seen,
                    found,
                    mode=setup.run.mode,
                    loads=_loads(setup, method),
                    band=method.band,
                    limit=limit_ratio(method, setup.run.mode),
                    tell=telling("Reading what was found", begun + 0.7 * left, 0.25 * left),
                )
            finally:
                source.close()
            file.recorded = _with_what_was_said(recorded, setup)
            file.sha256 = _sha256(file.path, telling("Taking the fingerprint", 0.97, 0.03))
            file.judged = self._made(file, NOBODY, "").judged()[0]
        except BaseException:
            file.recorded = None
            raise
        finally:
            rewritten.unlink(missing_ok=True)

    def _made(self, file: InboxFile, actor: Actor, original: str) -> OutsideCampaign:
        """The attempt as it would stand on record."""
        setup, recorded = file.setup, file.recorded
        assert setup is not None and recorded is not None and file.unit_id is not None
        with self._database.reading() as session:
            behind = background(session, self._conclusions, file.unit_id)
            entry = entry_named(session, setup.instrument)
        # The tone that was played is the one that was found.
        spec = replace(setup.run, tone_hz=round(recorded.found.tone_hz, 6))

        def attempts(planned: Campaign) -> list[tuple[int, Attempt]]:
            _check_channels(planned.runs[0], recorded)
            return [(1, _attempt(file, setup, recorded, entry, actor, original))]

        return outside_campaign(behind, [spec], attempts, actor, self._equipment_of(None), setup.policy)


def view_of(file: InboxFile) -> RecordingView:
    """How far a file has come, and what was found, as people see it."""
    size = file.path.stat().st_size if file.path.exists() else 0
    return recording_view(
        file.id,
        file.name,
        size,
        file.state,
        (file.doing, file.done, file.problem),
        asdict(file.layout),
        file.seen if file.state == "read" else None,
        file.recorded if file.state == "read" else None,
        file.judged if file.state == "read" else None,
    )


def _attempt(
    file: InboxFile,
    setup: RecordingSetup,
    recorded: Recorded,
    entry: InstrumentEntry | None,
    actor: Actor,
    original: str,
) -> Attempt:
    at, name, remark = taken_at(setup.read_on), setup.instrument.strip(), setup.remark.strip()
    assert file.seen is not None
    return Attempt(
        id=0,
        number=1,
        started_by=actor.name,
        started_at=at,
        instruments=Instruments.named(name, setup.accuracy_percent, entry.due_on if entry else None),
        outside=Outside(
            origin=Origin.RECORDING,
            file=file.name,
            original=original,
            original_sha256=file.sha256,
            clamp_zeroed=setup.clamp_zeroed,
            controls_in_position=setup.controls_in_position,
            all_loaded=setup.all_loaded,
        ),
        ending=ending_of(recorded.outcome, at, file.seen.seconds, start_volts=recorded.start_volts),
        readings=readings_of(recorded.outcome.reading, recorded.loads),
        remarks=(Remark(remark, actor.name, at),) if remark else (),
    )


def _steps(setup: RecordingSetup, recorded: Recorded) -> list[tuple[str, float, dict[str, Any]]]:
    """What a watcher of the run would have seen."""
    prepared = {
        "start_volts": recorded.start_volts,
        "clamp_zero_amps": None,
        "loads": loads_data(recorded.loads),
        "bench": {"Recorded with": setup.instrument.strip()},
        "sink_c": None,
        "load_c": None,
        "outside": "",
    }
    outcome, rate = recorded.outcome, recorded.capture.sample_rate
    steps: list[tuple[str, float, dict[str, Any]]] = [("prepared", 0.0, prepared)]
    for point, section in zip(outcome.points, recorded.found.sections, strict=True):
        over = point.level_dbv > outcome.reading.level_dbv if outcome.reading else True
        steps.append(("point", section.stop / rate, point_data(point, "rising", over)))
    steps.append(("finished", steps[-1][1], {"end": outcome.end.value, "fault": ""}))
    return steps


def _check(setup: RecordingSetup) -> None:
    refuse_out_of_bounds(setup)
    refuse_policy(setup.policy)
    if setup.read_on is not None:
        refuse_impossible_day(setup.read_on, now().date(), "read_on")
    outputs = [row.signal.channel for row in setup.rows if row.signal.quantity == "output_volts"]
    if not outputs:
        raise BadInput("Say which column is the output of a channel.", field="rows")
    if any(row.factor == 0 for row in setup.rows):
        raise BadInput("A factor of 0 makes nothing of a column.", field="rows")
    signals = [row.signal for row in setup.rows]
    twice = next((signal for signal in signals if signals.count(signal) > 1), None)
    if twice is not None:
        what = twice.quantity.replace("_", " ")
        raise BadInput(f"Two columns are the {what} of channel {twice.channel}.", field="rows")


def _check_channels(run: Run, recorded: Recorded) -> None:
    missing = sorted(set(run.channels) - set(recorded.loads))
    extra = sorted(set(recorded.loads) - set(run.channels))
    if missing:
        raise BadInput(f"The run reads channel {missing[0]}, which no column is the output of.", field="rows")
    if extra:
        raise BadInput(f"Channel {extra[0]} is not read in this run.", field="rows")


def _loads(setup: RecordingSetup, method: MethodProfile) -> Mapping[int, Load]:
    """By channel; a load that nobody measured is nominal, and as doubtful as loads come."""
    amps = {row.signal.channel for row in setup.rows if row.signal.quantity == "output_amps"}
    nominal = setup.run.load_ohms
    doubtful = 2 * method.load_tolerance_percent / 100
    return {
        row.signal.channel: Load(
            nominal,
            setup.load_measured or nominal,
            0.01 if setup.load_measured else setup.accuracy_percent / 100 if row.signal.channel in amps else doubtful,
        )
        for row in setup.rows
        if row.signal.quantity == "output_volts"
    }


def _with_what_was_said(recorded: Recorded, setup: RecordingSetup) -> Recorded:
    """How the run ended, and supply figures that a person read, where no column tells them."""

    def told(point: Point) -> Point:
        amps = setup.amps if setup.run.mode is not Mode.BURST else None
        return replace(
            point,
            supply_volts=point.supply_volts if point.supply_volts is not None else setup.loaded_volts,
            supply_amps=point.supply_amps if point.supply_amps is not None else amps,
        )

    outcome = replace(recorded.outcome, end=setup.end or recorded.outcome.end)
    reading = told(outcome.reading) if outcome.reading else None
    start = recorded.start_volts if recorded.start_volts is not None else setup.start_volts
    return replace(recorded, outcome=replace(outcome, reading=reading), start_volts=start)


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
