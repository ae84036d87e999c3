"""Off, a thousand times, as a browser asks for it: under locks, among readers, with a full disk, upon a start."""

import os
import socket
import sqlite3
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack, closing, contextmanager, nullcontext
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from typing import Any
from urllib.parse import urlsplit

import httpx
import pytest

from rulvek.bench.sim.bench import SimulatedBench
from rulvek.composition import Services, make_services
from rulvek.services.benches.rooms import TOGETHER_SECONDS
from tests.conftest import CERTIFIED_PLAN, PERSON, TAMSIN, certified_campaign, migrated, prepare_over_http, write_line
from tests.long.watchers import WATCHERS
from tests.people import admit
from tests.ports import free_port
from tests.serving import serve, served

pytestmark = [pytest.mark.long, pytest.mark.bench_speed(40.0)]
TRIALS = round(500 * float(os.environ.get("RULVEK_OFFS", "0.25")))
"""Of each of two tests, so that both cores have one; RULVEK_OFFS=1 makes them a thousand in all."""
WATCHED_TRIALS = 60
STUCK = 100
ENDED_SECONDS = 1.5
"""Less than what the server grants those who still send, on whatever machine."""
LIMITS = httpx.Limits(keepalive_expiry=1.0)  # before the server hangs up on a connection that nobody used for 5 s
READERS = 3
OF_A_CAMPAIGN = 40
AT_MOST_SECONDS = 0.5
"""Half of all trials at least, on whatever machine; `make bench` tells of the slowest in a hundred on a quiet one."""
FULL = "CREATE TRIGGER full BEFORE INSERT ON {} BEGIN SELECT RAISE(ABORT, 'database or disk is full'); END"
RECORDS_OF_A_RUN = ("step", "attempt_ending")


@pytest.fixture
def address(services: Services) -> Iterator[str]:
    """The application served as it is to browsers."""
    with served(services) as url:
        yield f"{url}/api"


@contextmanager
def locked(path: Path, seconds: float) -> Iterator[None]:
    """Another program writes for a while."""
    held = threading.Event()

    def hold() -> None:
        with closing(sqlite3.connect(path, isolation_level=None, timeout=30)) as connection:
            connection.execute("BEGIN IMMEDIATE")
            held.set()
            time.sleep(seconds)
            connection.execute("ROLLBACK")

    thread = threading.Thread(target=hold)
    thread.start()
    held.wait(30)
    yield
    thread.join()


@contextmanager
def full_disk(path: Path) -> Iterator[None]:
    """Nothing of a run can be written any more; whoever opens the disk again is not the bench."""

    def execute(*statements: str) -> None:
        with closing(sqlite3.connect(path, isolation_level=None, timeout=30)) as connection:
            for statement in statements:
                connection.execute(statement)

    execute(*(FULL.format(table).replace("full", f"full_{table}", 1) for table in RECORDS_OF_A_RUN))
    try:
        yield
    finally:
        execute(*(f"DROP TRIGGER full_{table}" for table in RECORDS_OF_A_RUN))


class Trials:
    """Starts runs and switches them off, over and over; remembers how long each took."""

    def __init__(self, services: Services, address: str, path: Path, seed: int) -> None:
        self.services, self.path, self.random = services, path, Random(seed)
        self.runs: list[int] = []
        self.http = httpx.Client(base_url=address, headers=PERSON, timeout=60, limits=LIMITS)
        self.seconds: list[float] = []
        self.lost: list[str] = []

    def bench(self) -> SimulatedBench | None:
        """What stands on the bench."""
        bench = self.services.benches.room().standing.current
        assert bench is None or isinstance(bench, SimulatedBench)
        return bench

    def powered(self) -> bool:
        """Whether the amplifier is on."""
        bench = self.bench()
        return bench is not None and bench.amplifier.powered

    def start(self) -> None:
        """Start some run; repeats say why."""
        self.http.post(f"/runs/{self.random.choice(self.runs)}/attempts", json={"cause": "other", "reason": "A trial"})

    def off(self) -> None:
        """From the request to the supply off."""
        began = time.perf_counter()
        answer = self.http.post("/bench/off")
        while self.powered() and time.perf_counter() - began < 10:
            time.sleep(0.001)
        self.seconds.append(time.perf_counter() - began)
        assert answer.status_code == 200, answer.text

    def trial(self, number: int) -> None:
        """One start and one Off in one of the circumstances."""
        sort = ("plain", "locked before", "locked after", "full disk", "at once")[number % 5]
        time.sleep(TOGETHER_SECONDS)  # a start right after the last Off would be taken for one that it came with
        starting = threading.Thread(target=self.start)
        lock = 0.3 * self.random.random()
        with locked(self.path, lock) if sort == "locked before" else nullcontext():
            starting.start()
            if sort != "at once":
                self.until(lambda: self.powered() or not starting.is_alive(), 1.0)
                time.sleep(0.2 * self.random.random())
            around: Any = nullcontext()
            if sort == "locked after":
                around = locked(self.path, lock)
            elif sort == "full disk":
                around = full_disk(self.path)
            with around:
                self.off()
                if self.stays_powered():
                    self.lost.append(f"{number}: {sort}")
        starting.join()
        self.until(lambda: not self.services.benches.room().busy, 30)

    def stays_powered(self) -> bool:
        """Whether anything powers the bench again after an Off that came after the start."""
        for _ in range(10):
            if self.powered():
                return True
            time.sleep(0.005)
        return False

    def until(self, true: Callable[[], bool], seconds: float) -> None:
        """Wait for something for a while."""
        end = time.perf_counter() + seconds
        while not true() and time.perf_counter() < end:
            time.sleep(0.002)


@pytest.mark.parametrize("seed", [1, 2])
def test_a_thousand_offs(services: Services, unit_id: int, address: str, tmp_path: Path, seed: int) -> None:
    services.benches.watch()
    campaigns = [certified_campaign(services, unit_id).id]
    over = threading.Event()

    def read() -> None:
        with httpx.Client(base_url=address, headers=PERSON, timeout=60, limits=LIMITS) as http:
            while not over.is_set():
                for page in ("/line", f"/units/{unit_id}", "/attempts", f"/campaigns/{campaigns[-1]}"):
                    http.get(page)
                over.wait(0.5)

    readers = [threading.Thread(target=read) for _ in range(READERS)]
    for reader in readers:
        reader.start()
    trials = Trials(services, address, tmp_path / "rulvek.db", seed)
    try:
        for number in range(TRIALS):
            if number % OF_A_CAMPAIGN == 0:
                campaigns.append(certified_campaign(services, unit_id).id)
                trials.runs = [services.campaigns.get(campaigns[-1]).runs[0].id]  # the wiring that is seen to
            trials.trial(number)
    finally:
        over.set()
        for reader in readers:
            reader.join()
    quantiles = statistics.quantiles(trials.seconds, n=100)
    print(f"Off: p50 {quantiles[49]:.3f} s, p99 {quantiles[98]:.3f} s, most {max(trials.seconds):.3f} s")
    assert trials.lost == []
    assert quantiles[49] <= AT_MOST_SECONDS
    runs = [run for one in campaigns for run in services.campaigns.get(one).runs]
    ends = [attempt.end for run in runs for attempt in run.attempts]
    assert None not in ends and len(ends) > TRIALS / 3
    assert TAMSIN.name in {attempt.started_by for run in runs for attempt in run.attempts}


def test_off_while_twenty_watch(services: Services, unit_id: int, address: str, tmp_path: Path) -> None:
    services.benches.watch()
    campaign = certified_campaign(services, unit_id)
    trials = Trials(services, address, tmp_path / "rulvek.db", 3)
    trials.runs = [campaign.runs[0].id]
    watchers = subprocess.Popen(
        [sys.executable, "-m", "tests.long.watchers", address, str(campaign.id)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
    )
    try:
        assert watchers.stdout is not None and watchers.stdout.readline() == b"watching\n"
        trials.until(lambda: services.hub.watched >= WATCHERS, 30)
        assert services.hub.watched >= WATCHERS
        for number in range(WATCHED_TRIALS):
            trials.trial(5 * number)  # nothing else in the way
        assert services.hub.watched >= WATCHERS  # they saw it all
    finally:
        watchers.kill()
        watchers.communicate()
    quantiles = statistics.quantiles(trials.seconds, n=100)
    print(f"Off, twenty watching: p50 {quantiles[49]:.3f} s, p95 {quantiles[94]:.3f} s")
    assert trials.lost == []
    assert quantiles[49] <= AT_MOST_SECONDS


def test_off_among_a_hundred_who_do_not_read_and_files_that_come(
    services: Services, unit_id: int, address: str, tmp_path: Path
) -> None:
    """Watchers whose line is stuck, and a burst of uploads, each of 4 MB."""
    services.benches.watch()
    campaign = certified_campaign(services, unit_id)
    trials = Trials(services, address, tmp_path / "rulvek.db", 4)
    trials.runs = [campaign.runs[0].id]
    host, port = urlsplit(address).hostname or "", urlsplit(address).port or 0
    ask = f"GET /api/campaigns/{campaign.id}/events HTTP/1.1\r\nHost: {host}\r\n"
    ask += _as_lines(PERSON) + "\r\n"
    over = threading.Event()

    def upload() -> None:
        with httpx.Client(base_url=address, headers=PERSON, timeout=60, limits=LIMITS) as http:
            while not over.is_set():
                http.post("/recordings", params={"name": "no-recording.wav"}, content=b"\0" * 4_000_000)
                over.wait(0.1)

    uploads = [threading.Thread(target=upload) for _ in range(3)]
    with ExitStack() as lines:
        for _ in range(STUCK):
            line = socket.socket()
            line.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 2048)
            lines.enter_context(closing(line)).connect((host, port))
            line.sendall(ask.encode())
        trials.until(lambda: services.hub.watched >= STUCK, 60)
        assert services.hub.watched >= STUCK
        for one in uploads:
            one.start()
        try:
            for number in range(WATCHED_TRIALS):
                trials.trial(5 * number)
        finally:
            over.set()
            for one in uploads:
                one.join()
    quantiles = statistics.quantiles(trials.seconds, n=100)
    print(f"Off, a hundred stuck, uploads: p50 {quantiles[49]:.3f} s, p95 {quantiles[94]:.3f} s")
    assert trials.lost == []
    assert quantiles[49] <= AT_MOST_SECONDS


def test_a_server_that_is_told_to_end_switches_off_first(tmp_path: Path) -> None:
    """SIGTERM in a run, while a file is on its way that the server waits for."""
    database = migrated(tmp_path)
    admit(database, TAMSIN.name)
    write_line(made := make_services(database, tmp_path / "captures", 1.0))
    made.close()
    port = free_port()
    server = serve(tmp_path, port, 4.0)
    with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", headers=PERSON, timeout=20) as http:
        campaign = http.post("/campaigns", json={"unit_id": 1, "plan": CERTIFIED_PLAN}).json()
        prepare_over_http(http, campaign, base="")
        assert http.post(f"/runs/{campaign['runs'][0]['id']}/attempts", json={}).status_code == 201
        while len(http.get("/attempts/1/steps").json()) < 5:
            time.sleep(0.05)
        with closing(socket.create_connection(("127.0.0.1", port))) as line:
            head = "POST /api/recordings?name=a.wav HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 4000\r\n"
            line.sendall((head + _as_lines(PERSON) + "\r\nRIFF").encode())
            time.sleep(0.5)
            told = datetime.now(UTC)
            server.terminate()
            server.wait(20)
    with closing(sqlite3.connect(tmp_path / "rulvek.db")) as records:
        end, at = records.execute('SELECT "end", ended_at FROM attempt_ending WHERE attempt_id = 1').fetchone()
    assert end == "operator"
    taken = (datetime.fromisoformat(at).replace(tzinfo=UTC) - told).total_seconds()
    print(f"Off, told to end: {taken:.3f} s")
    assert 0 <= taken <= ENDED_SECONDS


def _as_lines(headers: Mapping[str, str]) -> str:
    return "".join(f"{name}: {value}\r\n" for name, value in headers.items())
