"""Off, a thousand times, as a browser asks for it: under locks, among readers, with a full disk, upon a start."""

import sqlite3
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, nullcontext
from pathlib import Path
from random import Random
from typing import Any

import httpx
import pytest

from rulvek.bench.sim.bench import SimulatedBench
from rulvek.composition import Services
from rulvek.services.benches.rooms import TOGETHER_SECONDS
from tests.conftest import PERSON, TAMSIN, certified_campaign
from tests.long.watchers import WATCHERS
from tests.serving import served

pytestmark = [pytest.mark.long, pytest.mark.bench_speed(40.0)]
TRIALS = 500  # of each of two tests, so that both cores have one
WATCHED_TRIALS = 60
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
