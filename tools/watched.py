"""A day in a busy lab: twenty watch a run, ten go through the pages, and somebody presses Off.

The server is as it is served, its bench in real time; everybody else is in other processes.
"""

import json
import statistics
import subprocess
import sys
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from random import Random
from typing import Any

import httpx
import uvicorn
from demo_person import ENGINEER
from growth import PAGES, pages
from instrument_speed import assembled
from sqlalchemy import select

from rulvek import logs
from rulvek.api.app import app_for
from rulvek.api.patience import PatientProtocol
from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.bench.instruments.bench import OFF_AMPS
from rulvek.bench.instruments.description import BenchRole
from rulvek.bench.instruments.link import Link
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.composition import Services, answer_promptly, make_services
from rulvek.core.records.actor import Actor
from rulvek.core.records.before_power import Item
from rulvek.services.benches.attempt_log import AttemptLog
from rulvek.services.benches.rooms import TOGETHER_SECONDS
from rulvek.store import tables
from rulvek.store.engine import Database

Report = Callable[[str, float, float], None]
WATCHERS, PEOPLE, OFFS = 20, 10, 40
ASKED_EVERY_SECONDS = 0.8  # as the front end asks what goes on (web/src/api/now.ts)
READ_SECONDS = (1.0, 5.0)
"""How long somebody looks at a page before asking for the next one."""
BUSY_SECONDS = 60.0
PAGE_MS, BENCH_MS, EVENT_MS, OFF_MS = 200.0, 50.0, 100.0, 150.0
CAUSE = {"cause": "other", "reason": "Measuring how busy it may be"}


def p95(values: Sequence[float]) -> float:
    """What nineteen of twenty stay below."""
    return statistics.quantiles(values, n=20)[18] if len(values) > 1 else values[0]


class Others:
    """What another process does until it is told to end, and what it has to tell then, as JSON."""

    def __init__(self, *words: str) -> None:
        self._process = subprocess.Popen(
            [sys.executable, __file__, *words], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )

    def told(self) -> Any:
        """End it."""
        out, _ = self._process.communicate("over\n")
        return json.loads(out)


def watch(address: str, token: str, campaign: str) -> None:
    """Follow a campaign as twenty browsers do; tells when each step came to the last of them."""
    last: dict[int, float] = {}
    count: dict[int, int] = defaultdict(int)
    lock = threading.Lock()

    def follow() -> None:
        with _http(address, token) as http, http.stream("GET", f"/campaigns/{campaign}/events") as feed:
            for line in feed.iter_lines():
                if line.startswith("id:"):
                    with lock:
                        last[step := int(line[3:])] = time.monotonic()
                        count[step] += 1

    def ask() -> None:
        with _http(address, token) as http:
            while True:
                http.get("/now")
                time.sleep(ASKED_EVERY_SECONDS)

    for _ in range(WATCHERS):
        threading.Thread(target=follow, daemon=True).start()
        threading.Thread(target=ask, daemon=True).start()
    sys.stdin.read()
    with lock:
        print(json.dumps(sorted((step, at) for step, at in last.items() if count[step] == WATCHERS)), flush=True)


def go_through_pages(address: str, token: str) -> None:
    """Ten people, each of whom reads a page and asks for another; tells how long each page took, in ms."""
    taken: dict[str, list[float]] = defaultdict(list)

    def read(who: int) -> None:
        at = Random(who)
        with _http(address, token) as http:
            paths = pages(http.get("/audits"))
            while True:
                time.sleep(at.uniform(*READ_SECONDS))
                name = at.choice(list(paths))
                start = time.perf_counter()
                http.get(paths[name]).raise_for_status()
                taken[name].append(1000 * (time.perf_counter() - start))

    for who in range(PEOPLE):
        threading.Thread(target=read, args=(who,), daemon=True).start()
    sys.stdin.read()
    print(json.dumps(dict(taken)), flush=True)


def conduct_and_look(address: str, token: str, run: str) -> None:
    """One run after the other, and the state of the bench while it goes on; tells how long that took, in ms."""
    taken: list[float] = []

    def look() -> None:
        with _http(address, token) as http:
            while True:
                if not http.get("/bench").json()["attempt_id"]:
                    http.post(f"/runs/{run}/attempts", json=CAUSE)
                start = time.perf_counter()
                http.get("/bench").raise_for_status()
                taken.append(1000 * (time.perf_counter() - start))
                time.sleep(0.3)

    threading.Thread(target=look, daemon=True).start()
    sys.stdin.read()
    print(json.dumps(taken), flush=True)


def _http(address: str, token: str) -> httpx.Client:
    return httpx.Client(base_url=f"{address}/api", headers={"Authorization": f"Bearer {token}"}, timeout=60)


@contextmanager
def served(services: Services) -> Iterator[str]:
    """The application as ``rulvek serve`` has it."""
    server = uvicorn.Server(
        uvicorn.Config(app_for(services), http=PatientProtocol, port=0, lifespan="off", log_level="warning")
    )
    server.config.timeout_graceful_shutdown = 1
    answer_promptly()
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    try:
        yield f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join()


@contextmanager
def steps_taken() -> Iterator[list[float]]:
    """When each step of a run happened, in the order of their numbers."""
    moments: list[float] = []
    take = AttemptLog._take

    def remembering(self: AttemptLog, kind: str, at: float, data: dict[str, Any]) -> None:
        moments.append(time.monotonic())
        take(self, kind, at, data)

    AttemptLog._take = remembering  # type: ignore[method-assign]
    try:
        yield moments
    finally:
        AttemptLog._take = take  # type: ignore[method-assign]


def prepared_run(http: httpx.Client, bench: str | None = None) -> tuple[int, int]:
    """A campaign of a unit on record, seen to up to power; and its first run."""
    body = {"unit_id": 1, "plan": {"modes": ["certified"], "bench": bench}}
    campaign = http.post("/campaigns", json=body).raise_for_status().json()
    for item in Item:
        body = {"item": item, "ticked": campaign["test_controls"], "turn": True}
        http.post(f"/campaigns/{campaign['id']}/wirings/1/preparations", json=body).raise_for_status()
    return campaign["id"], campaign["runs"][0]["id"]


def switched_off(
    services: Services, http: httpx.Client, run: int, powered: Callable[[], bool], bench: str | None = None
) -> list[float]:
    """How long each Off took from its request until the supply was off, in ms."""
    taken = []
    for _ in range(OFFS):
        time.sleep(TOGETHER_SECONDS)
        threading.Thread(target=http.post, args=(f"/runs/{run}/attempts",), kwargs={"json": CAUSE}).start()
        _until(powered)
        time.sleep(0.2)
        start = time.perf_counter()
        asking = threading.Thread(target=http.post, args=("/bench/off",))
        asking.start()
        _until(lambda: not powered())
        taken.append(1000 * (time.perf_counter() - start))
        asking.join()
        _until(lambda: not services.benches.room(bench).busy)
    return taken


def _powered(services: Services) -> bool:
    bench = services.benches.room().standing.current
    return isinstance(bench, SimulatedBench) and bench.amplifier.powered


def _until(true: Callable[[], bool]) -> None:
    end = time.monotonic() + 30
    while not true() and time.monotonic() < end:
        time.sleep(0.002)


def watched(report: Report, database: Path, captures: Path) -> None:
    """A busy minute on some records, then an Off after the other."""
    logs.configure(least="error")
    services = make_services(Database(f"sqlite:///{database}"), captures, 1.0)
    services.benches.watch()
    person = next(one for one in services.accounts.everybody() if one.name == ENGINEER)
    token = services.accounts.give_token(person.id, "watched", person.roles, 1, Actor(ENGINEER)).token
    with served(services) as address, _http(address, token) as http, steps_taken() as moments:
        campaign, run = prepared_run(http)
        for page in PAGES.values():  # what a server works out once is not charged to whoever comes first
            http.get(page).raise_for_status()
        watchers = Others("watch", address, token, str(campaign))
        _until(lambda: services.hub.watched >= WATCHERS)
        people, conducting = (
            Others("go_through_pages", address, token),
            Others("conduct_and_look", address, token, str(run)),
        )
        time.sleep(BUSY_SECONDS)
        read, bench = people.told(), conducting.told()
        _until(lambda: not services.benches.room().busy)
        offs = switched_off(services, http, run, lambda: _powered(services))
        came = watchers.told()
    with services.database.reading() as session:
        # How a run finished is written with its ending, not as it comes.
        written = session.scalars(
            select(tables.Step.id)
            .where(tables.Step.kind != "finished")
            .order_by(tables.Step.id.desc())
            .limit(len(moments))
        ).all()
    services.close()
    happened = dict(zip(reversed(written), moments, strict=True))
    late = [1000 * (at - happened[step]) for step, at in came if step in happened]
    for name, taken in sorted(read.items()):
        report(f"{name}, p95, ms", p95(taken), PAGE_MS)
    report("all pages, p95, ms", p95([one for taken in read.values() for one in taken]), PAGE_MS)
    report(f"state of the bench ({len(bench)}), p95, ms", p95(bench), BENCH_MS)
    report(f"a step ({len(late)}) to the last of {WATCHERS} watchers, p95, ms", p95(late), EVENT_MS)
    report(f"Off ({len(offs)}), p95, ms", p95(offs), OFF_MS)


def watched_instruments(report: Report, database: Path, captures: Path) -> None:
    """An Off after the other at a bench of simulated instruments, in a server that is watched and read from.

    They are a process of their own; that the supply is off is asked of the current probe, over a connection of its own.
    """
    logs.configure(least="error")
    services = make_services(Database(f"sqlite:///{database}"), captures, 1.0)
    person = next(one for one in services.accounts.everybody() if one.name == ENGINEER)
    token = services.accounts.give_token(person.id, "watched", person.roles, 1, Actor(ENGINEER)).token
    name = "Bench of instruments"
    with assembled() as assembly, served(services) as address, _http(address, token) as http:
        made = services.benches.add(name, OF_INSTRUMENTS, Actor(ENGINEER), assembly.as_json())
        http.post(f"/benches/{made.id}/selftest", json={"channels": 4}).raise_for_status()
        _until(lambda: http.get(f"/benches/{made.id}").json()["testing"] is None)
        campaign, run = prepared_run(http, name)
        probe = Link(assembly.stations[BenchRole.CURRENT].description, assembly.stations[BenchRole.CURRENT].address)
        probe.open()
        zero = probe.number("read_amps")
        watchers = Others("watch", address, token, str(campaign))
        people = Others("go_through_pages", address, token)
        _until(lambda: services.hub.watched >= WATCHERS)
        offs = switched_off(services, http, run, lambda: probe.number("read_amps") - zero > OFF_AMPS, name)
        for others in (watchers, people):
            others.told()
        probe.close()
    services.close()
    report(f"Off at a bench of instruments ({len(offs)}), p95, ms", p95(offs), OFF_MS)


if __name__ == "__main__":
    if len(sys.argv) == 3:
        for look in (watched, watched_instruments):
            look(
                lambda what, value, most: print(f"    {what}: {value:.1f} ({most:g})"),
                Path(sys.argv[1]),
                Path(sys.argv[2]),
            )
    else:
        {"watch": watch, "go_through_pages": go_through_pages, "conduct_and_look": conduct_and_look}[sys.argv[1]](
            *sys.argv[2:]
        )
