"""Writes down what happens in an attempt, as it happens, and how it ended, on a thread of its own.

The conductor never waits for the records: while it reports, the bench is powered. Every step is committed before
watchers hear of it. Steps that cannot be committed end the attempt, and are committed with its ending as soon as the
records can be written again.
"""

import queue
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import structlog

from rulvek import clock
from rulvek.bench.before_power import OutOfWindow
from rulvek.bench.conductor import Conducted, Finished, LevelSet, PointRead, Prepared, RunEvent, StartDelayed
from rulvek.core.errors import Conflict, NoRoom
from rulvek.core.readings.burst_point import Pulses
from rulvek.core.readings.point import Point
from rulvek.core.records.actor import PROGRAM, Actor
from rulvek.core.records.attempts import Ending, KeptFile, Reading, Remark
from rulvek.core.records.endings import ending_of, readings_of, with_reading
from rulvek.core.records.points import loads_data, loads_from, point_data, point_from
from rulvek.core.runs.modes import End
from rulvek.core.runs.requests import Outcome
from rulvek.services.events import Hub
from rulvek.store import audit, save, seals
from rulvek.store.engine import Database, Session
from rulvek.store.files import FileStore
from rulvek.store.queries import campaigns as queries
from rulvek.store.seals import StepsDigest

log = structlog.get_logger()
RETRY_SECONDS = 0.5
CLOCK_WENT_BACK = (
    "The server's clock was set back during this run: by it the run ended before it began. "
    "What took how long was told by the bench's own clock."
)
Step = tuple[str, float, dict[str, Any]]


@dataclass(frozen=True, slots=True)
class Logged:
    """Which attempt is written down, and for whom."""

    attempt_id: int
    campaign_id: int
    unit_serial: str
    actor: Actor


class AttemptLog:
    """The log of one attempt, from its first step to its ending."""

    def __init__(
        self,
        database: Database,
        files: FileStore,
        hub: Hub,
        logged: Logged,
        started: float,
        failed: Callable[[str], None],
    ) -> None:
        """``failed`` hears why steps cannot be committed, and again with nothing once they can."""
        self._database, self._files, self._hub = database, files, hub
        self._logged, self._started, self._failed = logged, started, failed
        self._queue: queue.SimpleQueue[Step | None] = queue.SimpleQueue()
        self._pending: list[Step] = []
        self._digest = StepsDigest()
        self._prepared: Prepared | None = None
        self._best: Point | None = None
        self._fault = ""
        self._broken = ""
        self._waits = False
        self._thread = threading.Thread(target=self._write_steps, name=f"log-{logged.attempt_id}", daemon=True)
        self._thread.start()

    def keep(self, event: RunEvent) -> None:
        """Take one event of the conductor down; returns at once."""
        match event:
            case StartDelayed(at=at, outside=outside):
                self._take("waiting", at, {"waiting": outside_in_words(outside)})
            case Prepared(at=at):
                self._prepared = event
                self._take("prepared", at, prepared_data(event))
            case LevelSet(at=at, level_dbv=level):
                self._take("level", at, {"level_dbv": level})
            case PointRead(at=at, point=point, phase=phase, over_limit=over_limit, pulses=pulses):
                drawn = {} if pulses is None else {"pulses": _pulses_data(pulses)}
                self._take("point", at, point_data(point, phase, over_limit) | drawn)
                if not over_limit and (self._best is None or point.level_dbv >= self._best.level_dbv):
                    self._best = point
            case Finished(fault=fault):
                self._fault = fault

    def _take(self, kind: str, at: float, data: dict[str, Any]) -> None:
        self._queue.put((kind, at - self._started, data))

    def _write_steps(self) -> None:
        """Commit what has come, all of it together, until the run is over or a commit fails for good."""
        while (first := self._queue.get()) is not None:
            batch: list[Step] = [first]
            over = False
            while not self._queue.empty():
                more = self._queue.get()
                if more is None:
                    over = True
                    break
                batch.append(more)
            self._commit(batch)
            if over:
                return

    def _commit(self, batch: list[Step]) -> None:
        self._pending += batch
        for step in batch:
            self._digest.add(*step)
        if self._broken:
            return  # it goes with the ending
        try:
            with self._database.writing() as session:
                save.steps(session, self._logged.attempt_id, self._pending)
        except Exception as error:
            log.exception("steps could not be committed", attempt=self._logged.attempt_id, steps=len(self._pending))
            self._broken = f"The records could not be written: {_reason(error)}."
            self._failed(self._broken)
        else:
            self._pending.clear()
            self._hub.wake()

    def salvaged(self, error: Exception) -> Conducted:
        """What there is of a run in which the program itself failed: its best point so far, and what went wrong."""
        self._fault = f"The program failed in the middle of the run: {_reason(error)}."
        return Conducted(Outcome(End.LINK_LOST, self._best, None, None, ()), None)

    def finish(self, conducted: Conducted, seconds: float) -> None:
        """Write how the attempt ended, and come back once that is on record; the bench is safe by now."""
        self._queue.put(None)
        self._thread.join()
        kept, fault = self._keep_capture(conducted)
        outcome = conducted.outcome
        end = End.NOT_RECORDED if fault or self._broken else outcome.end
        prepared = self._prepared
        ending = ending_of(
            outcome,
            clock.now(),
            seconds,
            end=end,
            fault=fault or self._broken or self._fault,
            start_volts=prepared.start_volts if prepared else None,
            start_sink_c=prepared.sink_c if prepared else None,
            start_outside=outside_in_words(prepared.outside) if prepared and prepared.outside else "",
            companions_full=prepared.companions_full if prepared else None,
        )
        readings = readings_of(outcome.reading, self._prepared.loads if self._prepared else None)
        while not self._try_to_end(ending, readings, kept, outcome.reading):
            time.sleep(RETRY_SECONDS)
        if self._broken:
            self._failed("")
        self._hub.wake()

    def _keep_capture(self, conducted: Conducted) -> tuple[KeptFile | None, str]:
        """The file is on disk before the records speak of it."""
        if conducted.reading_capture is None:
            return None, ""
        try:
            return self._files.keep_capture(conducted.reading_capture), ""
        except Exception as error:
            log.exception("a capture could not be kept", attempt=self._logged.attempt_id)
            return None, f"The capture could not be kept: {_reason(error)}."

    def _try_to_end(
        self, ending: Ending, readings: Sequence[Reading], kept: KeptFile | None, reading: Point | None
    ) -> bool:
        try:
            with self._database.writing() as session:
                if queries.has_ended(session, self._logged.attempt_id):
                    return True
                save.steps(session, self._logged.attempt_id, self._pending)
                if kept is not None:
                    save.captures(session, [(self._logged.attempt_id, kept)])
                end_attempt(session, self._logged, ending, readings, reading, self._digest)
        except Exception as error:
            if not self._waits:
                log.exception("an ending could not be committed yet", attempt=self._logged.attempt_id)
            self._waits = True
            self._broken = self._broken or f"The records could not be written: {_reason(error)}."
            self._failed(self._broken)
            return False
        log.info("attempt ended", attempt=self._logged.attempt_id, end=ending.end.value, fault=ending.fault)
        self._pending.clear()
        return True


def end_attempt(
    session: Session,
    logged: Logged,
    ending: Ending,
    readings: Sequence[Reading],
    reading: Point | None,
    steps: StepsDigest,
) -> None:
    """Write an attempt's ending, its readings and its last step, and seal all of it in the audit chain.

    ``steps`` is of those that were written before: nothing is read again while others wait.
    """
    save.ending(session, logged.campaign_id, logged.attempt_id, ending, readings)
    data = {"end": ending.end.value, "fault": ending.fault}
    save.steps(session, logged.attempt_id, [("finished", ending.seconds, data)])
    if ending.ended_at < queries.started_at(session, logged.attempt_id):
        save.remark(session, logged.attempt_id, Remark(CLOCK_WENT_BACK, PROGRAM.words, ending.ended_at))
    text = f"{logged.unit_serial}: {ending.end.replace('_', ' ')}"
    if reading is not None:
        text += f", weakest channel {reading.weakest_watts:.1f} W"
    session.flush()
    sealed = seals.attempt_seals(session, [logged.attempt_id], {logged.attempt_id: steps})
    audit.note(session, logged.actor, "ended a run", f"campaign/{logged.campaign_id}", seals=sealed, text=text)


def close_lost(session: Session, lost: queries.OpenAttempt, steps: Sequence[queries.StepRow]) -> None:
    """End an attempt from its own steps: the best point under the limit is its reading, short of the limit."""
    prepared = next((step.data for step in steps if step.kind == "prepared"), None)
    under = [step.data for step in steps if step.kind == "point" and not step.data["over_limit"]]
    best = max(under, key=lambda data: float(data["level_dbv"]), default=None)
    reading = point_from(best) if best else None
    ending = with_reading(
        Ending(
            end=End.LINK_LOST,
            fault="The server stopped in the middle of the run.",
            ended_at=clock.now(),
            seconds=steps[-1].at_seconds if steps else 0.0,
            start_volts=prepared["start_volts"] if prepared else None,
            start_sink_c=prepared.get("sink_c") if prepared else None,
            start_outside=prepared.get("outside", "") if prepared else "",
            companions_full=prepared.get("companions_full") if prepared else None,
        ),
        reading,
    )
    loads = loads_from(prepared["loads"]) if prepared else None
    logged = Logged(lost.attempt_id, lost.campaign_id, f"attempt {lost.number}", PROGRAM)
    digest = StepsDigest((step.kind, step.at_seconds, step.data) for step in steps)
    end_attempt(session, logged, ending, readings_of(reading, loads), reading, digest)


def outside_in_words(outside: OutOfWindow) -> str:
    """“heat sink at 61.2 °C, at most 50 °C”."""
    if outside.what == "supply":
        return f"supply at {outside.value:.2f} V, wanted {outside.low:.2f} to {outside.high:.2f} V"
    name = {"sink": "heat sink", "load": "hottest load"}[outside.what]
    return f"{name} at {outside.value:.1f} °C, at most {outside.high:g} °C"


def prepared_data(event: Prepared) -> dict[str, Any]:
    """How a run began, as it is kept."""
    return {
        "start_volts": event.start_volts,
        "clamp_zero_amps": event.clamp_zero_amps,
        "loads": loads_data(event.loads),
        "bench": event.bench,
        "sink_c": event.sink_c,
        "load_c": event.load_c,
        "outside": outside_in_words(event.outside) if event.outside is not None else "",
        "trims_db": {str(number): trim for number, trim in event.trims_db.items()},
        "companions_full": event.companions_full,
    }


def _pulses_data(pulses: Pulses) -> dict[str, Any]:
    """Rounded to what a screen can show."""
    data = asdict(pulses)
    data["volts"] = [round(volts, 2) for volts in pulses.volts]
    data["windows"] = [[round(start, 5), round(stop, 5)] for start, stop in pulses.windows]
    return data


def _reason(error: Exception) -> str:
    """What a database or a disk says, in its own words, without what it was asked."""
    if isinstance(error, NoRoom):
        return "there is no room left on their disk"
    if isinstance(error, Conflict):
        return "somebody else has been writing to them for long"
    return str(getattr(error, "orig", None) or error).strip().rstrip(".")
