"""The room where the bench stands: one person, one unit and one run at a time."""

import math
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from rulvek.bench.conductor import Conducted, RunSetup, conduct
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.supply import BankDesign, RegulatedDesign
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.measure.reading import Load
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.equipment import SupplyPolicy
from rulvek.services.attempt_log import AttemptLog, close_lost
from rulvek.services.before_power import open_items, prepared_loads, prepared_zero, skipped_in_words
from rulvek.services.gear import snapshot
from rulvek.services.holding import BenchHold
from rulvek.services.hub import Hub
from rulvek.services.records import (
    Cause,
    companions_of,
    method_of,
    policy_of,
    under_test_of,
)
from rulvek.services.views.campaign import BenchView
from rulvek.store import audit, queries, tables
from rulvek.store.captures import CaptureFolder
from rulvek.store.database import Database

BENCH_NAME = "Bench 1"


@dataclass(slots=True)
class _Occupied:
    """What the bench is busy with; ``attempt_id`` is None while it is only being prepared."""

    campaign_id: int
    supply_volts: float
    unit_serial: str
    model_name: str
    person: str
    attempt_id: int | None = None
    stop: threading.Event = field(default_factory=threading.Event)
    hurry: threading.Event = field(default_factory=threading.Event)
    thread: threading.Thread | None = None


class BenchRoom:
    """Starts, stops and recovers attempts. A thread conducts; every step is committed before watchers hear of it."""

    def __init__(self, database: Database, captures: Path, hub: Hub, speed: float = 1.0) -> None:
        self._database = database
        self._captures = CaptureFolder(captures)
        self._hub, self._speed = hub, speed
        self._door = threading.Lock()
        self._occupied: _Occupied | None = None
        self._standing: tuple[str, SupplyPolicy, SimulatedBench, float] | None = None
        self.hold = BenchHold()

    def state(self) -> BenchView:
        """What the bench is doing now, and who holds it."""
        busy = self._occupied
        holding = self.hold.state(busy is not None)
        doing = "idle" if busy is None else "preparing" if busy.attempt_id is None else "running"
        return BenchView(
            name=BENCH_NAME,
            state=doing,  # type: ignore[arg-type]  # one of the three words above
            supply_volts=busy.supply_volts if busy else None,
            campaign_id=busy.campaign_id if busy else None,
            attempt_id=busy.attempt_id if busy else None,
            unit_serial=busy.unit_serial if busy else None,
            model_name=busy.model_name if busy else None,
            person=busy.person if busy else None,
            holder=holding.holder,
            asked_by=holding.asked_by,
            asked_seconds_left=holding.seconds_left,
        )

    def start(self, run_id: int, person: str, cause: Cause | None = None, reason: str = "") -> int:
        """Start an attempt at a run and return its id.

        Raises:
            Conflict: the bench is busy or held by somebody else, or something before power is still open.
            BadInput: a repeat without a reason.
        """
        with self._door:
            self._refuse_busy()
            with self._database.writing() as session:
                run = queries.get(session, tables.Run, run_id)
                campaign, unit = run.campaign, run.campaign.unit
                number = queries.next_attempt_number(session, run_id)
                _check_repeat(number, cause, reason)
                left = open_items(campaign, run.wiring_key)
                if left:
                    raise Conflict(
                        f"Before power: {', '.join(left)} still to be seen to for wiring {run.wiring}.",
                        todo="See to it, or skip it with a reason.",
                        code="before-power-open",
                    )
                self.hold.require(person)
                attempt = queries.add(
                    session,
                    tables.Attempt(
                        run_id=run_id,
                        number=number,
                        reason=reason.strip(),
                        cause=cause.value if cause else "",
                        started_by=person,
                        started_at=datetime.now(UTC),
                        skipped=skipped_in_words(campaign, run.wiring_key),
                        instruments=snapshot(session),
                    ),
                )
                setup, bench = run_setup(run), self._bench_for(unit, policy_of(campaign))
                occupied = _occupied_by(run, person)
                occupied.attempt_id = attempt.id
                text = f"{run.mode}, {run.load_ohms:g} Ω {run.group}, attempt {number}"
                text += f": {reason.strip()}" if reason.strip() else ""
                audit.note(session, person, "started a run", f"campaign/{run.campaign_id}", text=text)
            occupied.thread = threading.Thread(
                target=self._conduct,
                args=(occupied, attempt.id, bench, setup),
                name=f"attempt-{attempt.id}",
                daemon=True,
            )
            self._occupied = occupied
            occupied.thread.start()
            return attempt.id

    @contextmanager
    def borrowed(self, run: tables.Run, person: str) -> Iterator[SimulatedBench]:
        """The bench with the run's unit on it, for preparing; safe again afterwards.

        Raises:
            Conflict: the bench is busy, or held by somebody else.
        """
        with self._door:
            self._refuse_busy()
            self.hold.require(person)
            bench = self._bench_for(run.campaign.unit, policy_of(run.campaign))
            self._occupied = _occupied_by(run, person)
        self._hub.wake()
        try:
            yield bench
        finally:
            bench.source.make_safe()
            bench.supply.make_safe()
            self._leave(bench)

    def stop(self, person: str) -> None:
        """Stop whatever is running; does nothing on an idle bench, because *off* must never fail."""
        busy = self._occupied
        if busy is None:
            return
        busy.stop.set()
        with self._database.writing() as session:
            audit.note(session, person, "switched off", f"campaign/{busy.campaign_id}", text=busy.unit_serial)

    def hurry(self, person: str, reason: str) -> None:
        """Start the waiting run although its start window is not met.

        Raises:
            BadInput: no reason.
            Conflict: nothing is running.
        """
        if not reason.strip():
            raise BadInput("Say why the run need not wait.", field="reason")
        busy = self._occupied
        if busy is None or busy.attempt_id is None:
            raise Conflict("No run is waiting.")
        self.hold.require(person, busy=True)
        with self._database.writing() as session:
            text = f"{busy.unit_serial}: {reason.strip()}"
            audit.note(session, person, "did not wait", f"campaign/{busy.campaign_id}", text=text)
            remark = tables.Remark(
                attempt_id=busy.attempt_id,
                text=f"Started outside of its window: {reason.strip()}",
                by=person,
                at=datetime.now(UTC),
            )
            queries.add(session, remark)
        busy.hurry.set()

    def wait(self, timeout: float | None = None) -> None:
        """Wait until the bench is idle."""
        busy = self._occupied
        if busy is not None and busy.thread is not None:
            busy.thread.join(timeout)

    def recover(self) -> int:
        """End every attempt that a crash left open as ``link_lost``, with the best reading it had; returns how many."""
        with self._database.writing() as session:
            lost = queries.open_attempts(session)
            for attempt in lost:
                close_lost(session, attempt)
                text = f"attempt {attempt.number}: the server stopped in the middle of it"
                audit.note(session, "Rulvek", "ended a run", f"campaign/{attempt.run.campaign_id}", text=text)
        return len(lost)

    def close(self) -> None:
        """Stop what is running and wait for it; for an orderly shutdown."""
        busy = self._occupied
        if busy is not None:
            busy.stop.set()
            self.wait(10)

    def _refuse_busy(self) -> None:
        busy = self._occupied
        if busy is not None:
            doing = "preparing" if busy.attempt_id is None else "running"
            raise Conflict(
                f"{BENCH_NAME} is busy: {busy.person} is {doing} {busy.unit_serial}.",
                todo="Wait until it is done, or stop it.",
                code="bench-busy",
            )

    def _bench_for(self, unit: tables.Unit, policy: SupplyPolicy) -> SimulatedBench:
        """The bench with this unit and supply on it, cooled down and recovered for as long as it lay idle."""
        design = unit.design or unit.model.design
        if design not in DESIGNS:
            raise NotFound(f"There is no simulated amplifier for {unit.model.name}.")
        kind = SupplyPolicy.BANK if policy is SupplyPolicy.BANK else SupplyPolicy.HELD
        if self._standing is not None and self._standing[:2] == (unit.serial, kind):
            _, _, bench, left_at = self._standing
            idle = time.monotonic() - left_at
            bench.lie_idle(idle * self._speed if math.isfinite(self._speed) else idle)
            return bench
        supply = BankDesign() if kind is SupplyPolicy.BANK else RegulatedDesign()
        bench = SimulatedBench(DESIGNS[design], unit.serial, speed=self._speed, name=BENCH_NAME, supply=supply)
        for channel, by_db in _gains_as_left(unit).items():
            bench.turn_gain(channel, by_db)
        self._standing = (unit.serial, kind, bench, time.monotonic())  # one unit on the bench at a time
        return bench

    def _conduct(self, occupied: _Occupied, attempt_id: int, bench: SimulatedBench, setup: RunSetup) -> None:
        started = bench.now()
        log = AttemptLog(self._database, self._hub, attempt_id, started)
        try:
            conducted = conduct(bench, setup, log.keep, occupied.stop, occupied.hurry)
            self._finish(occupied, log, conducted, bench.now() - started)
        except BaseException:
            # A fault of our own: what was measured is on record already; the attempt must not stay open.
            with suppress(Exception), self._database.writing() as session:
                close_lost(session, queries.get(session, tables.Attempt, attempt_id))
            raise
        finally:
            self._leave(bench)

    def _leave(self, bench: SimulatedBench) -> None:
        if self._standing is not None and self._standing[2] is bench:
            self._standing = (*self._standing[:3], time.monotonic())
        self._occupied = None
        self._hub.wake()

    def _finish(self, occupied: _Occupied, log: AttemptLog, conducted: Conducted, seconds: float) -> None:
        outcome, capture = conducted.outcome, conducted.reading_capture
        kept = None
        if capture is not None:  # the file is on disk before the records speak of it
            kept = self._captures.keep(f"{log.attempt_id:06d}-reading", capture)
        with self._database.writing() as session:
            if kept is not None:
                row = tables.CaptureFile(
                    attempt_id=log.attempt_id,
                    path=kept.path,
                    sha256=kept.sha256,
                    bytes=kept.bytes,
                    kept_at=datetime.now(UTC),
                )
                queries.add(session, row)
            log.end(session, outcome, seconds)
            text = f"{occupied.unit_serial}: {outcome.end.replace('_', ' ')}"
            if outcome.reading is not None:
                text += f", weakest channel {outcome.reading.weakest_watts:.1f} W"
            audit.note(session, occupied.person, "ended a run", f"campaign/{occupied.campaign_id}", text=text)


def _check_repeat(number: int, cause: Cause | None, reason: str) -> None:
    if number > 1 and cause is None:
        raise BadInput("Say why the run is repeated.", field="cause")
    if cause is Cause.OTHER and not reason.strip():
        raise BadInput("Say in words why the run is repeated.", field="reason")


def _occupied_by(run: tables.Run, person: str) -> _Occupied:
    unit = run.campaign.unit
    return _Occupied(run.campaign_id, run.supply_volts, unit.serial, unit.model.name, person)


def _gains_as_left(unit: tables.Unit) -> dict[int, float]:
    """How far the unit's gain controls were turned in all, in dB by channel: they stay where they were left."""
    turned: dict[int, float] = {}
    for campaign in unit.campaigns:
        for preparation in campaign.preparations:
            for channel, by_db in preparation.data.get("turned_db", {}).items():
                turned[int(channel)] = turned.get(int(channel), 0.0) + by_db
    return turned


def run_setup(run: tables.Run) -> RunSetup:
    """What the conductor needs, from a planned run and what was seen to before power."""
    method, model = method_of(run.campaign), run.campaign.unit.model
    group = next(group for group in model.groups if group.name == run.group)
    mode = Mode(run.mode)
    return RunSetup(
        under_test=under_test_of(run),
        companions=companions_of(run),
        tone_hz=run.tone_hz,
        # Companions of a bass group are full-range channels, and the other way round.
        companion_tone_hz=method.full_range_tone_hz if group.bass else method.bass_tone_hz,
        supply_volts=run.supply_volts,
        sensitivity_dbv=20 * math.log10(model.sensitivity_volts),
        method=method,
        mode=mode,
        burst=method.burst_named(run.burst, run.tone_hz) if mode is Mode.BURST else None,
        policy=policy_of(run.campaign),
        clamp_zero_amps=prepared_zero(run.campaign, run.wiring_key),
        loads=_loads(run),
    )


def _loads(run: tables.Run) -> dict[int, Load] | None:
    """None, to be measured afresh, once somebody has measured them; nominal and doubtful where that was skipped."""
    if prepared_loads(run.campaign, run.wiring_key):
        return None
    tolerance = 2 * method_of(run.campaign).load_tolerance_percent / 100
    links = (*under_test_of(run), *companions_of(run))
    return {link.number: Load(link.nominal_ohms, link.nominal_ohms, tolerance) for link in links}
