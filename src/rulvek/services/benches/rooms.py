"""All benches on record: a room for each, the leases that keep servers apart, and what a crash left behind."""

import math
import secrets
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

import structlog

from rulvek import clock
from rulvek.bench.benches import OF_INSTRUMENTS, kind_of
from rulvek.core.errors import BadInput, Conflict, NotFound, Stale
from rulvek.core.planning.equipment import Equipment
from rulvek.core.records.actor import Actor
from rulvek.services.benches.attempt_log import close_lost
from rulvek.services.benches.heating import LoadHeating
from rulvek.services.benches.room import LEASE_SECONDS, RENEW_SECONDS, BenchRoom, House
from rulvek.services.conclusions import Conclusions
from rulvek.services.events import Hub
from rulvek.services.later import Later
from rulvek.services.views.campaign import BenchView
from rulvek.store import audit, leases, load, save
from rulvek.store.engine import Database
from rulvek.store.files import FileStore
from rulvek.store.queries import campaigns as queries
from rulvek.store.queries import records as record_queries

log = structlog.get_logger()
TOGETHER_SECONDS = 0.25
"""Requests that were sent within so long of each other may arrive in either order."""
TICK_SECONDS = 0.2
"""How long an Off that another server was asked for waits at most until it is seen."""


@dataclass(frozen=True, slots=True)
class Arrival:
    """How often Off had been pressed when a request came in, and when that was (seconds of a monotonic clock)."""

    offs: int
    at: float


class Benches:
    """The rooms of this server. Benches stand in the records; which of them a server has is a lease there."""

    def __init__(
        self,
        database: Database,
        files: FileStore,
        hub: Hub,
        later: Later,
        conclusions: Conclusions,
        speed: float = 1.0,
    ) -> None:
        self._database = database
        self._house = House(database, files, hub, later, conclusions, secrets.token_hex(8))
        self.speed = speed
        self._heating = LoadHeating(database)
        self._rooms: dict[str, BenchRoom] = {}
        self._lock = threading.Lock()
        self._ticking: threading.Thread | None = None
        self._closed = threading.Event()
        self._offs = 0
        self._off_at = -math.inf

    @property
    def any_elsewhere(self) -> bool:
        """Whether another server has a bench."""
        return any(room.is_elsewhere for room in self._rooms.values())

    def rooms(self) -> Sequence[BenchRoom]:
        """All rooms, in the order in which the benches came."""
        with self._database.reading() as session:
            rows = record_queries.benches(session)
        with self._lock:
            for row in rows:
                if row.name not in self._rooms:
                    room = BenchRoom(row.id, row.name, kind_of(row.kind, row.assembly), self._house, self.speed)
                    room.version = row.version
                    self._rooms[row.name] = room
                elif row.version != self._rooms[row.name].version:  # another server changed it
                    self._rooms[row.name].rebuild(kind_of(row.kind, row.assembly), row.version)
            return [self._rooms[row.name] for row in rows]

    def known_rooms(self) -> Sequence[BenchRoom]:
        """Rooms that were asked for before; asks nothing but memory."""
        return list(self._rooms.values()) or self.rooms()

    def room(self, name: str | None = None) -> BenchRoom:
        """A bench's room by its name; by None, the first one's.

        Raises:
            NotFound: there is no such bench.
        """
        if name is not None and name in self._rooms:
            return self._rooms[name]
        rooms = self.rooms()
        for room in rooms:
            if name in (None, room.name):
                return room
        raise NotFound(f"There is no bench “{name}”." if name else "There is no bench yet.")

    def room_by_id(self, bench_id: int | None = None) -> BenchRoom:
        """A bench's room by its number; by None, the first one's.

        Raises:
            NotFound: there is no such bench.
        """
        for room in self.known_rooms() or self.rooms():
            if bench_id in (None, room.id):
                return room
        for room in self.rooms():
            if bench_id == room.id:
                return room
        raise NotFound(f"There is no bench number {bench_id}.")

    def room_of_campaign(self, campaign_id: int) -> BenchRoom:
        """The room of the bench that a campaign is planned for."""
        with self._database.reading() as session:
            campaign = load.campaign(session, campaign_id)
        return self.room(campaign.bench)

    def room_of_run(self, run_id: int) -> BenchRoom:
        """The room of the bench that a run is planned for."""
        with self._database.reading() as session:
            campaign, _ = load.campaign_of_run(session, run_id)
        return self.room(campaign.bench)

    def equipment(self, name: str | None = None) -> Equipment:
        """What a bench has to offer; of one of instruments, its loads as its runs found them."""
        room = self.room(name)
        equipment = room.kind.equipment(room.name)
        return equipment if room.kind.assembly is None else self._heating.fitted(equipment)

    def add(self, name: str, kind: str, actor: Actor, assembly: str = "") -> BenchRoom:
        """Put a bench on record; of one of instruments with what it is made of, descriptions included.

        Raises:
            NotFound: a sort of bench that this program does not know.
            BadInput: no name, or what it is made of is no bench.
            Conflict: there is a bench of that name.
        """
        name = name.strip()
        if not name:
            raise BadInput("Give the bench a name.", field="name")
        kind_of(kind, assembly)
        if name in {room.name for room in self.rooms()}:
            raise Conflict(f"There is a bench “{name}” already.")
        with self._database.writing() as session:
            bench_id = save.bench(session, name, kind, assembly)
            audit.note(session, actor, "added a bench", f"bench/{bench_id}", text=f"{name}, {kind}")
        return self.room(name)

    def change(self, bench_id: int, assembly: str, seen: int, actor: Actor) -> BenchRoom:
        """Put a bench together otherwise; whatever was found of it before counts no more.

        Raises:
            NotFound: no such bench.
            BadInput: what it is made of is no bench.
            Conflict: it is busy or held by somebody else, or is no bench of instruments.
            Stale: somebody changed it since it was ``seen``.
        """
        room = self.room_by_id(bench_id)
        kind = kind_of(OF_INSTRUMENTS, assembly)
        room.refuse_change(actor)
        with self._database.writing() as session:
            if not save.changed_bench(session, bench_id, assembly, seen, clock.now()):
                raise Stale(f"{room.name} was changed meanwhile.", todo="Look at what it is made of now.")
            audit.note(session, actor, "changed a bench", f"bench/{bench_id}", text=room.name)
        room.rebuild(kind, seen + 1)
        return room

    def let_go_of(self, address: str) -> None:
        """Have no bench of this server hold on to what answers at an address.

        Raises:
            Conflict: one works with it.
        """
        for room in self.rooms():
            if room.has(address) and not room.let_go():
                raise Conflict(f"{room.name} works with it.", todo="Wait until it is idle.")

    def busy_with(self) -> dict[str, int]:
        """Which campaign each bench is busy with, by the benches' names."""
        return {one.name: one.campaign_id for one in self.states() if one.campaign_id is not None}

    def states(self) -> list[BenchView]:
        """What every bench is doing."""
        return [room.state() for room in self.known_rooms()]

    def arrival(self) -> Arrival:
        """The moment at which somebody's request came in, to tell later whether an Off came after it."""
        return Arrival(self._offs, time.monotonic())

    def overtaken(self, arrival: Arrival) -> bool:
        """Whether an Off was pressed after a request, or together with it: then the Off wins."""
        return self._offs != arrival.offs or arrival.at - self._off_at < TOGETHER_SECONDS

    def off(self, actor: Actor, bench_id: int | None = None) -> list[BenchView]:
        """Switch one bench off, or every one; needs no records."""
        self._offs += 1
        self._off_at = time.monotonic()
        rooms = [room for room in self._rooms.values() if bench_id in (None, room.id)]
        for room in rooms:
            room.off(actor)
        return [room.state() for room in rooms]

    def watch(self) -> None:
        """Begin to look after the leases; a server does, a command that only reads does not."""
        self.rooms()
        with self._lock:
            if self._ticking is None:
                self._ticking = threading.Thread(target=self._tick, name="leases", daemon=True)
                self._ticking.start()

    def _tick(self) -> None:
        renewed, told = time.monotonic(), False
        while not self._closed.wait(TICK_SECONDS):
            try:
                self.look()
                renewed, told = time.monotonic(), False
            except Exception:
                if not told:  # once, not at each tick of what may last for hours
                    log.exception("the leases could not be looked after")
                told = True
                if time.monotonic() - renewed > LEASE_SECONDS - 2 * RENEW_SECONDS:
                    for room in self.known_rooms():
                        room.lost_lease()

    def look(self) -> None:
        """Look after every lease once, and after benches whose server is gone."""
        with self._database.reading() as session:
            known = leases.everyone(session)
        for room in self.rooms():
            room.tick(known.get(room.id))
        if any(not lease.is_alive() for lease in known.values()):
            self.recover()

    def recover(self) -> int:
        """End every attempt that a crash left open as ``link_lost``, with the best reading it had; returns how many.

        Attempts on a bench that another server has are not touched.
        """
        with self._database.reading() as session:
            opened = queries.open_attempts(session)
        mine = {room.state().attempt_id for room in self._rooms.values()}
        closed = 0
        for lost in opened:
            if lost.attempt_id not in mine and self._close(lost):
                closed += 1
        with self._database.writing() as session:
            for lease in leases.everyone(session).values():
                if not lease.is_alive():
                    leases.drop(session, lease.bench_id, lease.server)
        return closed

    def _close(self, lost: queries.OpenAttempt) -> bool:
        now = datetime.now(UTC)
        with self._database.reading() as session:
            steps = queries.steps(session, lost.attempt_id)
        with self._database.writing() as session:
            if queries.has_ended(session, lost.attempt_id):
                return False
            holders = {row.name: row.id for row in record_queries.benches(session)}
            lease = leases.get(session, holders.get(lost.bench, 0))
            if lease is not None and lease.is_alive(now):
                return False
            close_lost(session, lost, steps)
        log.warning("a run was lost", attempt=lost.attempt_id, campaign=lost.campaign_id, bench=lost.bench)
        with self._database.reading() as session:
            campaign = load.campaign(session, lost.campaign_id)
        self._house.conclusions.changed(campaign.unit.model_id, campaign.unit.id)
        return True

    def wait(self, timeout: float | None = None) -> None:
        """Wait until every bench is idle."""
        for room in list(self._rooms.values()):
            room.wait(timeout)

    def close(self) -> None:
        """Stop what is running, and give the leases back."""
        self._closed.set()
        for room in list(self._rooms.values()):
            room.close()
        self._house.later.flush()
        try:
            with self._database.writing() as session:
                for room in self._rooms.values():
                    leases.drop(session, room.id, self._house.server)
        except Exception:
            log.exception("the leases could not be given back")
