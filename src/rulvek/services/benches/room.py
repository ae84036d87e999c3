"""The room where one bench stands: one person, one unit and one run at a time."""

import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import copy_context
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

import structlog

from rulvek import clock
from rulvek.bench.benches import BenchKind, StandingBench, UnitUnderTest
from rulvek.bench.conductor import RunSetup, conduct
from rulvek.bench.protocols import Bench
from rulvek.bench.setup import run_setup
from rulvek.bench.switch import Guarded, Switch, make_safe
from rulvek.core.errors import BadInput, BenchFault, Conflict
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt, Remark
from rulvek.core.records.before_power import ITEM_NAMES, Preparation, gains_turned, open_items, skips
from rulvek.core.records.before_power import Item as BeforePower
from rulvek.core.records.benches import Looked, SelfTest
from rulvek.core.records.campaigns import Campaign, Run
from rulvek.core.records.product import Model
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End
from rulvek.services.before_power import standing_preparations
from rulvek.services.benches.attempt_log import AttemptLog, Logged
from rulvek.services.benches.hold import BenchHold
from rulvek.services.benches.made import question_view
from rulvek.services.conclusions import Conclusions
from rulvek.services.events import Hub
from rulvek.services.later import Later
from rulvek.services.views.campaign import BenchView
from rulvek.store import audit, leases, load, save
from rulvek.store.engine import Database, Session
from rulvek.store.files import FileStore
from rulvek.store.leases import Lease
from rulvek.store.queries import campaigns as queries
from rulvek.store.queries import records as record_queries

log = structlog.get_logger()
LEASE_SECONDS = 10.0
RENEW_SECONDS = 1.0
LONGEST_NOTE = 160


@dataclass(frozen=True, slots=True)
class House:
    """What all rooms share: the records (by connections of the benches' own), the files, who hears of news."""

    database: Database
    files: FileStore
    hub: Hub
    later: Later
    conclusions: Conclusions
    server: str


@dataclass(slots=True)
class _Occupied:
    """What the bench is busy with; ``attempt_id`` is None while it is only being prepared or started.

    Of no campaign it is while the bench itself is looked at.
    """

    campaign: Campaign | None
    supply_volts: float | None
    model_name: str | None
    actor: Actor
    switch: Switch = field(default_factory=Switch)
    attempt_id: int | None = None
    hurry: threading.Event = field(default_factory=threading.Event)
    thread: threading.Thread | None = None

    @property
    def doing(self) -> str:
        return "testing" if self.campaign is None else "preparing" if self.attempt_id is None else "running"

    @property
    def campaign_id(self) -> int | None:
        return self.campaign.id if self.campaign else None

    @property
    def serial(self) -> str | None:
        return self.campaign.unit.serial if self.campaign else None


class BenchRoom:
    """Starts, stops and lends one bench. A thread conducts, another writes; Off goes past both."""

    def __init__(self, bench_id: int, name: str, kind: BenchKind, house: House, speed: float = 1.0) -> None:
        self.id, self.name, self.kind = bench_id, name, kind
        self._house = house
        self.standing = StandingBench(name, kind, speed, house.hub.wake)
        self._door = threading.Lock()
        self._occupied: _Occupied | None = None
        self._problem = ""
        self._off_by: str | None = None
        self._elsewhere: Lease | None = None
        self.hold = BenchHold()
        self.looked: list[Looked] = []
        self.version = 0

    def refuse_change(self, actor: Actor) -> None:
        """Hold a change of what the bench is made of to nobody working at it.

        Raises:
            Conflict: it is busy or held by somebody else, here or at another server, or is no bench of instruments.
        """
        if self.kind.assembly is None:
            raise Conflict(f"{self.name} is no bench of instruments: there is nothing to change.")
        with self._door:
            self._refuse_busy()
            self.hold.require(actor.name)
        if self.is_elsewhere:
            raise Conflict(f"{self.name} is in use at another server.", todo="Wait until it is free.")

    def rebuild(self, kind: BenchKind, version: int) -> None:
        """Be made of something else from now on; what goes on ends on what it began with."""
        with self._door:
            if self._occupied is not None:
                return  # the next look at the records finds it again
            self.standing.replace(kind)
            self.kind, self.version, self.looked = kind, version, []

    def has(self, address: str) -> bool:
        """Whether something of it answers at an address."""
        made = self.kind.assembly
        return made is not None and any(one.address == address for one in made.stations.values())

    def let_go(self) -> bool:
        """Hang up on all that it is made of, until it is worked at again; whether it could, as it was idle."""
        with self._door:
            if self._occupied is None:
                self.standing.replace(self.kind)
            return self._occupied is None

    @property
    def is_elsewhere(self) -> bool:
        """Whether another server has the bench."""
        return self._elsewhere is not None and self._elsewhere.is_alive()

    @property
    def busy(self) -> bool:
        """Whether something is going on."""
        return self._occupied is not None

    def state(self) -> BenchView:
        """What the bench is doing now, and who holds it; asks nothing but memory."""
        busy = self._occupied
        if busy is None and self.is_elsewhere and self._elsewhere is not None:
            return self._seen_elsewhere(self._elsewhere)
        holding = self.hold.state(busy is not None)
        doing = "idle" if busy is None else busy.doing
        return BenchView(
            id=self.id,
            name=self.name,
            simulated=self.kind.simulated,
            state=doing,  # type: ignore[arg-type]  # one of its words
            supply_volts=busy.supply_volts if busy else None,
            campaign_id=busy.campaign_id if busy else None,
            attempt_id=busy.attempt_id if busy else None,
            unit_serial=busy.serial if busy else None,
            model_name=busy.model_name if busy else None,
            person=busy.actor.words if busy else None,
            holder=holding.holder,
            asked_by=holding.asked_by,
            asked_seconds_left=holding.seconds_left,
            elsewhere=False,
            problem=self._problem,
            off_by=self._off_by,
            question=question_view(self.standing.asking.question),
        )

    def answer(self, question: int, value: float | None, actor: Actor) -> BenchView:
        """What whoever stands at the bench says to what it asks.

        Raises:
            Conflict: somebody else holds the bench, or that is not asked any more.
            BadInput: no number where one is asked for, or one out of its limits.
        """
        self.hold.require(actor.name, busy=self.busy)
        self.standing.asking.answer(question, value)
        return self.state()

    def _seen_elsewhere(self, lease: Lease) -> BenchView:
        return BenchView(
            id=self.id,
            name=self.name,
            simulated=self.kind.simulated,
            state=lease.doing,  # type: ignore[arg-type]  # what a server put there
            supply_volts=None,
            campaign_id=lease.campaign_id,
            attempt_id=lease.attempt_id,
            unit_serial=None,
            model_name=None,
            person=lease.person,
            holder=lease.holder,
            asked_by=lease.asked_by,
            asked_seconds_left=None,
            elsewhere=True,
            problem="",
        )

    def start(
        self,
        run_id: int,
        actor: Actor,
        cause: Cause | None = None,
        reason: str = "",
        overtaken: Callable[[], bool] = lambda: False,
    ) -> int:
        """Start an attempt at a run and return its id.

        Args:
            overtaken: Whether an Off came after the start was asked for; it wins.

        Raises:
            Conflict: the bench is busy or held by somebody else, something before power is still open, or the bench
                was switched off meanwhile.
            BadInput: a repeat without a reason.
        """
        house = self._house
        with house.database.reading() as session:
            campaign, run = load.campaign_of_run(session, run_id)
            model = load.model(session, campaign.unit.model_id)
            number = queries.next_attempt_number(session, run_id)
            instruments = record_queries.instruments_in_use(session)
            unit = _unit_under_test(session, campaign, model)
            holds = standing_preparations(session, campaign)[run.wiring_key]
            self._refuse_unlooked(session, campaign.method.self_test_hours)
        with self._door:
            self._refuse_busy()
            _check_repeat(number, cause, reason)
            seen = holds.seen
            _refuse_open(open_items(seen), holds.lapsed, run)
            self.hold.require(actor.name)
            occupied = _Occupied(campaign, run.spec.supply_volts, model.name, actor)
            self._occupied, self._off_by = occupied, None
        try:
            if overtaken():  # from here on an Off finds the switch
                occupied.switch.throw()
            bench = self.standing.with_unit(unit, campaign.policy)
            attempt = Attempt(
                id=0,
                number=number,
                started_by=actor.name,
                started_at=clock.now(),
                cause=cause,
                reason=reason.strip(),
                skipped=skips(seen),
                instruments=instruments,
                simulated=self.kind.simulated,
            )
            occupied.attempt_id = self._begin(occupied, run, attempt)
        except BaseException:
            self._leave(occupied)
            raise
        # A run goes on in the time of whoever started it.
        occupied.thread = threading.Thread(
            target=copy_context().run,
            args=(self._conduct, occupied, bench, run_setup(campaign, run, model)),
            name=f"attempt-{occupied.attempt_id}",
            daemon=True,
        )
        occupied.thread.start()
        return occupied.attempt_id

    def look(self, channels: int, powered: bool, actor: Actor, looped: bool = False) -> None:
        """Begin to look at the bench itself: who answers, loads, supply, silence, and with power whether Off works.

        What is found so far is ``looked``; at the end it is put on record.

        Raises:
            Conflict: the bench is busy or held by somebody else, or nothing of it can be looked at.
        """
        if self.kind.assembly is None:
            raise Conflict(f"{self.name} is no bench of instruments: there is nothing to look at.")
        with self._door:
            self._refuse_busy()
            self.hold.require(actor.name)
            occupied = _Occupied(None, None, None, actor)
            self._occupied, self._off_by = occupied, None
        try:
            with self._house.database.writing() as session:
                self._take_lease(session, occupied, None)
        except BaseException:
            self._leave(occupied)
            raise
        self.looked = []
        self._house.hub.wake()
        occupied.thread = threading.Thread(
            target=copy_context().run,
            args=(self._look, occupied, channels, powered, looped),
            name=f"look-{self.id}",
            daemon=True,
        )
        occupied.thread.start()

    def _look(self, occupied: _Occupied, channels: int, powered: bool, looped: bool) -> None:
        try:
            for one in self.standing.look(channels, powered, occupied.switch, looped):
                self.looked = [*self.looked, one]
        except Exception as error:
            log.exception("a bench could not be looked at", bench=self.name)
            self.looked = [*self.looked, Looked("the rest", f"{type(error).__name__}: {error}", False)]
        made = SelfTest(0, self.id, clock.now(), occupied.actor.name, channels, powered, tuple(self.looked))
        try:
            with self._house.database.writing() as session:
                save.self_test(session, made)
                text = f"{self.name}: {made.in_words}"[:LONGEST_NOTE]
                audit.note(session, occupied.actor, "looked at a bench", f"bench/{self.id}", text=text)
        except Exception:
            log.exception("what was found of a bench could not be kept", bench=self.name)
        self._leave(occupied)

    def _begin(self, occupied: _Occupied, run: Run, attempt: Attempt) -> int:
        campaign, actor = occupied.campaign, occupied.actor
        assert campaign is not None
        with self._house.database.writing() as session:
            if not queries.is_planned(session, run.id):  # since it was looked at
                raise Conflict("This run is planned here no more: its wiring was taken to another bench.", code="moved")
            attempt_id = save.attempt(session, campaign.id, run.id, attempt)
            self._take_lease(session, occupied, attempt_id)
            text = f"{run.spec.mode}, {run.spec.load_ohms:g} Ω {run.spec.group}, attempt {attempt.number}"
            text += f": {attempt.reason}" if attempt.reason else ""
            audit.note(session, actor, "started a run", f"campaign/{campaign.id}", text=text)
            if occupied.switch.thrown:
                raise Conflict("The bench was switched off before the run began.", code="switched-off")
        log.info("attempt started", attempt=attempt_id, campaign=campaign.id, bench=self.name)
        return attempt_id

    @contextmanager
    def borrowed(self, campaign: Campaign, run: Run, actor: Actor) -> Iterator[Bench]:
        """The bench with a campaign's unit on it, for preparing; safe again afterwards.

        Raises:
            Conflict: the bench is busy, or held by somebody else.
        """
        house = self._house
        with house.database.reading() as session:
            model = load.model(session, campaign.unit.model_id)
            unit = _unit_under_test(session, campaign, model)
        with self._door:
            self._refuse_busy()
            self.hold.require(actor.name)
            occupied = _Occupied(campaign, run.spec.supply_volts, model.name, actor)
            self._occupied, self._off_by = occupied, None
        try:
            with house.database.writing() as session:
                self._take_lease(session, occupied, None)
            house.hub.wake()
            bench = self.standing.with_unit(unit, campaign.policy)
            occupied.switch.attach(bench)
            try:
                yield Guarded(bench, occupied.switch)
            finally:
                unsafe = make_safe(bench)
            if unsafe:
                raise BenchFault(unsafe)
        finally:
            self._leave(occupied)

    def off(self, actor: Actor) -> None:
        """Switch off whatever is going on, now; needs no records and never fails. It is recorded a moment later."""
        self.standing.asking.give_up()
        busy, standing = self._occupied, self.standing.current
        if busy is not None:
            busy.switch.throw()
            self._off_by = actor.words
            self._house.later.do(lambda: self._note_off(busy, actor))
        elif standing is not None:
            self._problem = make_safe(standing)
        elif self.is_elsewhere:
            self._house.later.do(lambda: self._ask_off_elsewhere(actor))

    def _note_off(self, busy: _Occupied, actor: Actor) -> None:
        with self._house.database.writing() as session:
            subject = f"campaign/{busy.campaign_id}" if busy.campaign else f"bench/{self.id}"
            audit.note(session, actor, "switched off", subject, text=busy.serial or self.name)

    def _ask_off_elsewhere(self, actor: Actor) -> None:
        with self._house.database.writing() as session:
            leases.ask_off(session, self.id, actor.words)

    def hurry(self, actor: Actor, reason: str) -> None:
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
        self.hold.require(actor.name, busy=True)
        with self._house.database.writing() as session:
            text = f"{busy.serial}: {reason.strip()}"
            audit.note(session, actor, "did not wait", f"campaign/{busy.campaign_id}", text=text)
            words = f"Started outside of its window: {reason.strip()}"
            save.remark(session, busy.attempt_id, Remark(words, actor.name, clock.now()))
        busy.hurry.set()

    def wait(self, timeout: float | None = None) -> None:
        """Wait until the bench is idle."""
        busy = self._occupied
        if busy is not None and busy.thread is not None:
            busy.thread.join(timeout)

    def close(self) -> None:
        """Stop what is running and wait for it; for an orderly shutdown."""
        busy = self._occupied
        if busy is not None:
            busy.switch.throw()
            self.wait(10)

    def tick(self, lease: Lease | None) -> None:
        """Look after the lease: renew it while somebody is here, give it back when nobody is; hear an Off from afar."""
        mine = lease is not None and lease.server == self._house.server
        busy = self._occupied
        if not mine and not (busy and busy.attempt_id):
            self._elsewhere = lease
            return
        if lease is not None and mine and not lease.off_asked_by and self._is_fresh(lease):
            return
        with self._house.database.writing() as session:
            now = leases.get(session, self.id)  # again: what another server wrote meanwhile must not be overwritten
            if now is None or now.server != self._house.server:
                self._elsewhere = now
                taken = now is not None and now.is_alive()
            else:
                self._elsewhere, taken = None, False
                if now.off_asked_by and busy is not None:
                    busy.switch.throw()
                if self.busy or self.hold.state(False).holder is not None:
                    leases.put(session, self._lease(self._occupied))
                else:
                    leases.drop(session, self.id, self._house.server)
        if taken and busy is not None:
            busy.switch.throw(End.NOT_RECORDED, "Another server has taken the bench.")

    def lost_lease(self) -> None:
        """The lease could not be renewed in time: another server may have the bench by now."""
        busy = self._occupied
        if busy is not None:
            busy.switch.throw(End.NOT_RECORDED, "The records could not be reached to keep the bench.")

    def _take_lease(self, session: Session, occupied: _Occupied, attempt_id: int | None) -> None:
        lease = leases.get(session, self.id)
        if lease is not None and lease.server != self._house.server and lease.is_alive():
            raise Conflict(
                f"{self.name} is run by another server: {lease.person or lease.holder or 'somebody'} has it.",
                todo="Work there, or wait until it is free.",
                code="bench-elsewhere",
            )
        leases.put(session, self._lease(occupied, attempt_id))

    @staticmethod
    def _is_fresh(lease: Lease) -> bool:
        """Whether a lease was renewed so short a while ago that it need not be again."""
        return lease.expires_at - datetime.now(UTC) > timedelta(seconds=LEASE_SECONDS - RENEW_SECONDS)

    def _lease(self, busy: _Occupied | None, attempt_id: int | None = None) -> Lease:
        holding = self.hold.state(busy is not None)
        attempt = attempt_id or (busy.attempt_id if busy else None)
        return Lease(
            bench_id=self.id,
            server=self._house.server,
            host=leases.this_host(),
            process=leases.process_mark(),
            expires_at=datetime.now(UTC) + timedelta(seconds=LEASE_SECONDS),
            doing="idle" if busy is None else "running" if attempt else busy.doing,
            campaign_id=busy.campaign_id if busy else None,
            attempt_id=attempt,
            person=busy.actor.words if busy else None,
            holder=holding.holder,
            asked_by=holding.asked_by,
        )

    def _refuse_unlooked(self, session: Session, hours: float) -> None:
        """Hold a bench of instruments to having been looked at since it can be trusted; 0 hours ask for nothing."""
        if self.kind.assembly is None or hours <= 0:
            return
        last = next(iter(record_queries.self_tests(session, self.id, 1)), None)
        changed = record_queries.bench_changed_at(session, self.id)
        if last is not None and changed is not None and last.at <= changed:
            last = None  # that was another bench
        if last is None or not last.holds(clock.now(), hours):
            found = f"The last look found: {last.in_words}." if last and not last.passed else ""
            raise Conflict(
                f"{self.name} was not looked at and found in order within the last {hours:g} hours. {found}".strip(),
                todo="Look at it on its page under Gear.",
                code="bench-unlooked",
            )

    def _refuse_busy(self) -> None:
        busy = self._occupied
        if busy is not None:
            raise Conflict(
                f"{self.name} is busy: {busy.actor.words} is {busy.doing} {busy.serial or 'it'}.",
                todo="Wait until it is done, or stop it.",
                code="bench-busy",
            )

    def _conduct(self, occupied: _Occupied, bench: Bench, setup: RunSetup) -> None:
        assert occupied.attempt_id is not None and occupied.campaign is not None
        campaign, started = occupied.campaign, bench.now()
        logged = Logged(occupied.attempt_id, campaign.id, campaign.unit.serial, occupied.actor)

        def failed(problem: str) -> None:
            self._problem = problem
            if problem:
                occupied.switch.throw(End.NOT_RECORDED, problem)

        house = self._house
        writer = AttemptLog(house.database, house.files, house.hub, logged, started, failed)
        try:
            conducted = conduct(bench, setup, writer.keep, occupied.switch, occupied.hurry)
        except Exception as error:
            # A fault of our own: what was measured is on its way to the records; the attempt must not stay open.
            log.exception("a run failed", attempt=occupied.attempt_id)
            conducted = writer.salvaged(error)
        writer.finish(conducted, bench.now() - started)
        house.conclusions.changed(campaign.unit.model_id, campaign.unit.id)
        self._leave(occupied)

    def _leave(self, occupied: _Occupied) -> None:
        self.standing.leave()
        if self._occupied is occupied:
            self._occupied = None
        self._problem = ""
        self._house.later.do(self._idle_lease)
        self._house.hub.wake()

    def _idle_lease(self) -> None:
        """The lease says that nothing is going on any more; it stays while somebody holds the bench."""
        with self._house.database.writing() as session:
            lease = leases.get(session, self.id)
            if lease is not None and lease.server == self._house.server:
                leases.put(session, self._lease(self._occupied))


def _unit_under_test(session: Session, campaign: Campaign, model: Model) -> UnitUnderTest:
    unit = campaign.unit
    turned = queries.gains_turned(session, unit.id)
    preparations = [
        Preparation(key, BeforePower.GAINS, True, "", "", campaign.created_at, data) for key, data in turned
    ]
    described = "" if unit.design else model.described_design
    return UnitUnderTest(unit.serial, model.name, unit.design or model.design, gains_turned(preparations), described)


def _check_repeat(number: int, cause: Cause | None, reason: str) -> None:
    if number > 1 and cause is None:
        raise BadInput("Say why the run is repeated.", field="cause")
    if cause is Cause.OTHER and not reason.strip():
        raise BadInput("Say in words why the run is repeated.", field="reason")


def _refuse_open(left: list[BeforePower], lapsed: Mapping[BeforePower, str], run: Run) -> None:
    if left:
        names = ", ".join(ITEM_NAMES[item] + (f" ({lapsed[item]})" if item in lapsed else "") for item in left)
        raise Conflict(
            f"Before power: {names} still to be seen to for wiring {run.wiring}.",
            todo="See to it, or skip it with a reason.",
            code="before-power-open",
        )
