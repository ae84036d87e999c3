"""The room where the bench stands: one run at a time, its steps kept as they happen, its watchers told."""

import math
import threading
import time
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from rulvek.bench.conductor import Conducted, Finished, LevelSet, PointRead, Prepared, RunEvent, RunSetup, conduct
from rulvek.bench.instruments import Connection
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.measure.reading import Point
from rulvek.core.measure.steps import End
from rulvek.services.hub import Hub
from rulvek.services.records import method_of, point_data, point_from
from rulvek.services.views import BenchView
from rulvek.store import audit, queries, tables
from rulvek.store.captures import CaptureFolder
from rulvek.store.database import Database, Session

BENCH_NAME = "Bench 1"


@dataclass(slots=True)
class _Running:
    attempt_id: int
    campaign_id: int
    supply_volts: float
    unit_serial: str
    model_name: str
    person: str
    stop: threading.Event
    thread: threading.Thread | None = None


class BenchRoom:
    """Starts, stops and recovers attempts. A thread conducts; every step is committed before watchers hear of it."""

    def __init__(self, database: Database, captures: Path, hub: Hub, speed: float = 1.0) -> None:
        self._database = database
        self._captures = CaptureFolder(captures)
        self._hub, self._speed = hub, speed
        self._door = threading.Lock()
        self._running: _Running | None = None
        self._benches: dict[str, tuple[SimulatedBench, float]] = {}

    def state(self) -> BenchView:
        """What the bench is doing now."""
        running = self._running
        return BenchView(
            name=BENCH_NAME,
            state="running" if running else "idle",
            supply_volts=running.supply_volts if running else None,
            campaign_id=running.campaign_id if running else None,
            attempt_id=running.attempt_id if running else None,
            unit_serial=running.unit_serial if running else None,
            model_name=running.model_name if running else None,
            person=running.person if running else None,
        )

    def start(self, run_id: int, person: str, reason: str = "") -> int:
        """Start an attempt at a run and return its id.

        Raises:
            Conflict: the bench is busy.
            BadInput: a repeat without a reason.
        """
        with self._door:
            if self._running is not None:
                raise Conflict(
                    f"{BENCH_NAME} is busy: {self._running.person} is running {self._running.unit_serial}.",
                    todo="Wait for the run to end, or stop it.",
                    code="bench-busy",
                )
            with self._database.writing() as session:
                run = queries.get(session, tables.Run, run_id)
                number = queries.next_attempt_number(session, run_id)
                if number > 1 and not reason.strip():
                    raise BadInput("Say why the run is repeated.", field="reason")
                attempt = queries.add(
                    session,
                    tables.Attempt(
                        run_id=run_id,
                        number=number,
                        reason=reason.strip(),
                        started_by=person,
                        started_at=datetime.now(UTC),
                    ),
                )
                unit = run.campaign.unit
                setup, design = _setup(run), unit.model.design
                if design not in DESIGNS:
                    raise NotFound(f"There is no simulated amplifier for {unit.model.name}.")
                running = _Running(
                    attempt.id,
                    run.campaign_id,
                    run.supply_volts,
                    unit.serial,
                    unit.model.name,
                    person,
                    threading.Event(),
                )
                text = f"{run.load_ohms:g} Ω {run.group}, attempt {number}" + (f": {reason.strip()}" if reason else "")
                audit.note(session, person, "started a run", f"campaign/{run.campaign_id}", text=text)
            bench = self._bench_for(unit.serial, design)
            running.thread = threading.Thread(
                target=self._conduct, args=(running, bench, setup), name=f"attempt-{attempt.id}", daemon=True
            )
            self._running = running
            running.thread.start()
            return attempt.id

    def stop(self, person: str) -> None:
        """Stop whatever is running; does nothing on an idle bench, because *off* must never fail."""
        running = self._running
        if running is None:
            return
        running.stop.set()
        with self._database.writing() as session:
            audit.note(session, person, "switched off", f"campaign/{running.campaign_id}", text=running.unit_serial)

    def wait(self, timeout: float | None = None) -> None:
        """Wait until the bench is idle."""
        running = self._running
        if running is not None and running.thread is not None:
            running.thread.join(timeout)

    def recover(self) -> int:
        """End every attempt that a crash left open as ``link_lost``, with the best reading it had; returns how many."""
        with self._database.writing() as session:
            lost = queries.open_attempts(session)
            for attempt in lost:
                _close_lost(session, attempt)
                text = f"attempt {attempt.number}: the server stopped in the middle of it"
                audit.note(session, "Rulvek", "ended a run", f"campaign/{attempt.run.campaign_id}", text=text)
        return len(lost)

    def close(self) -> None:
        """Stop what is running and wait for it; for an orderly shutdown."""
        running = self._running
        if running is not None:
            running.stop.set()
            self.wait(10)

    def _bench_for(self, serial: str, design: str) -> SimulatedBench:
        """The bench with this unit on it, cooled down for as long as it lay idle."""
        if serial in self._benches:
            bench, left_at = self._benches[serial]
            bench.amplifier.rest(max(0.0, time.monotonic() - left_at))
            return bench
        bench = SimulatedBench(DESIGNS[design], serial, speed=self._speed, name=BENCH_NAME)
        self._benches = {serial: (bench, time.monotonic())}  # one unit on the bench at a time
        return bench

    def _conduct(self, running: _Running, bench: SimulatedBench, setup: RunSetup) -> None:
        started = bench.now()
        keeper = _Keeper(self._database, self._hub, running, started)
        try:
            conducted = conduct(bench, setup, keeper.keep, running.stop)
            self._finish(running, keeper, conducted, bench.now() - started)
        except BaseException:
            # A fault of our own: what was measured is on record already; the attempt must not stay open.
            with suppress(Exception), self._database.writing() as session:
                _close_lost(session, queries.get(session, tables.Attempt, running.attempt_id))
            raise
        finally:
            self._benches[running.unit_serial] = (bench, time.monotonic())
            self._running = None
            self._hub.wake()

    def _finish(self, running: _Running, keeper: "_Keeper", conducted: Conducted, seconds: float) -> None:
        outcome, capture = conducted.outcome, conducted.reading_capture
        kept = None
        if capture is not None:  # the file is on disk before the records speak of it
            kept = self._captures.keep(f"{running.attempt_id:06d}-reading", capture)
        with self._database.writing() as session:
            if kept is not None:
                row = tables.CaptureFile(
                    attempt_id=running.attempt_id,
                    path=kept.path,
                    sha256=kept.sha256,
                    bytes=kept.bytes,
                    kept_at=datetime.now(UTC),
                )
                queries.add(session, row)
            _add_ending(
                session,
                running.attempt_id,
                end=outcome.end,
                fault=keeper.fault,
                seconds=seconds,
                reading=outcome.reading,
                prepared=keeper.prepared,
                bracket_db=outcome.bracket_db,
                tripped_watts=outcome.tripped_watts,
            )
            data = {"end": outcome.end.value, "fault": keeper.fault}
            queries.add(
                session,
                tables.Step(attempt_id=running.attempt_id, kind="finished", at_seconds=seconds, data=data),
            )
            text = f"{running.unit_serial}: {outcome.end.replace('_', ' ')}"
            if outcome.reading is not None:
                text += f", weakest channel {outcome.reading.weakest_watts:.1f} W"
            audit.note(session, running.person, "ended a run", f"campaign/{running.campaign_id}", text=text)


class _Keeper:
    """Writes each step down as it is reported. The last one is left to the ending, to be one transaction with it."""

    def __init__(self, database: Database, hub: Hub, running: _Running, started: float) -> None:
        self._database, self._hub, self._running, self._started = database, hub, running, started
        self.prepared: dict[str, Any] | None = None
        self.fault = ""

    def keep(self, event: RunEvent) -> None:
        kind, data = "", {}
        match event:
            case Prepared():
                kind, data = "prepared", _prepared_data(event)
                self.prepared = data
            case LevelSet(level_dbv=level):
                kind, data = "level", {"level_dbv": level}
            case PointRead(point=point, phase=phase, over_limit=over_limit):
                kind, data = "point", point_data(point, phase, over_limit)
            case Finished(fault=fault):
                self.fault = fault
                return
        with self._database.writing() as session:
            at = event.at - self._started
            queries.add(session, tables.Step(attempt_id=self._running.attempt_id, kind=kind, at_seconds=at, data=data))
        self._hub.wake()


def _prepared_data(event: Prepared) -> dict[str, Any]:
    return {
        "start_volts": event.start_volts,
        "clamp_zero_amps": event.clamp_zero_amps,
        "loads": {
            str(number): {"nominal": load.nominal_ohms, "measured": load.measured_ohms, "tolerance": load.tolerance}
            for number, load in event.loads.items()
        },
        "bench": event.bench,
    }


def _setup(run: tables.Run) -> RunSetup:
    """What the conductor needs, from a planned run."""
    method, model = method_of(run.campaign), run.campaign.unit.model
    under_test = tuple(
        Connection((channel, channel + 1) if run.bridged else (channel,), run.load_ohms) for channel in run.channels
    )
    companions = tuple(Connection((int(channel),), float(ohms)) for channel, ohms in run.companions)
    group = next(group for group in model.groups if group.name == run.group)
    return RunSetup(
        under_test=under_test,
        companions=companions,
        tone_hz=run.tone_hz,
        # Companions of a bass group are full-range channels, and the other way round.
        companion_tone_hz=method.full_range_tone_hz if group.bass else method.bass_tone_hz,
        supply_volts=run.supply_volts,
        sensitivity_dbv=20 * math.log10(model.sensitivity_volts),
        method=method,
    )


def _close_lost(session: Session, attempt: tables.Attempt) -> None:
    """End an attempt from its own steps: the best point under the limit is its reading, short of the limit."""
    steps = queries.steps(session, attempt.id)
    prepared = next((step.data for step in steps if step.kind == "prepared"), None)
    under = [step.data for step in steps if step.kind == "point" and not step.data["over_limit"]]
    best = max(under, key=lambda data: float(data["level_dbv"]), default=None)
    seconds = steps[-1].at_seconds if steps else 0.0
    fault = "The server stopped in the middle of the run."
    _add_ending(
        session,
        attempt.id,
        end=End.LINK_LOST,
        fault=fault,
        seconds=seconds,
        reading=point_from(best) if best else None,
        prepared=prepared,
    )
    queries.add(
        session,
        tables.Step(
            attempt_id=attempt.id,
            kind="finished",
            at_seconds=seconds,
            data={"end": End.LINK_LOST.value, "fault": fault},
        ),
    )


def _add_ending(
    session: Session,
    attempt_id: int,
    *,
    end: End,
    fault: str,
    seconds: float,
    reading: Point | None,
    prepared: dict[str, Any] | None,
    bracket_db: float | None = None,
    tripped_watts: float | None = None,
) -> None:
    """Write how an attempt ended, with the readings of its best point."""
    queries.add(
        session,
        tables.AttemptEnding(
            attempt_id=attempt_id,
            end=end.value,
            fault=fault,
            ended_at=datetime.now(UTC),
            seconds=seconds,
            start_volts=prepared["start_volts"] if prepared else None,
            level_dbv=reading.level_dbv if reading else None,
            bracket_db=bracket_db,
            supply_volts=reading.supply_volts if reading else None,
            supply_lowest=reading.supply_lowest if reading else None,
            supply_amps=reading.supply_amps if reading else None,
            temperature_c=reading.temperature_c if reading else None,
            companion_watts=reading.companion_watts if reading else None,
            tripped_watts=tripped_watts,
        ),
    )
    if reading is None or prepared is None:
        return
    for channel in reading.channels:
        load = prepared["loads"][str(channel.channel)]
        queries.add(
            session,
            tables.Reading(
                attempt_id=attempt_id,
                channel=channel.channel,
                watts=channel.watts,
                volts_rms=channel.volts_rms,
                thd_n=channel.thd_n,
                thd=channel.thd,
                load_nominal=load["nominal"],
                load_measured=load["measured"],
                load_tolerance=load["tolerance"],
            ),
        )
