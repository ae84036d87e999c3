"""A lab's busiest hour in ten minutes: ``make soak``, or ``python -m tests.long.soak SECONDS``.

Twenty people watch, four write, two benches run, and every twenty seconds the server is killed and started again. In
the last fifth it is left alone, and its memory must stay where it is. In the end the records are held against
themselves, and against everything that was acknowledged.
"""

import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx

from rulvek.store.verify import verify
from tests.conftest import CERTIFIED_PLAN, JOREN, TAMSIN, add_unit, prepare_over_http, services_in, write_line
from tests.people import acting
from tests.ports import free_port
from tests.serving import serve

WATCHERS, WRITERS = 20, 4
KILLED_EVERY_SECONDS = 20.0
UNDISTURBED = 0.2
"""The share at the end in which nothing is killed."""
FLAT = 0.10
BENCH_SPEED = 8.0


class Soak:
    """One server on one folder, and everybody who works with it."""

    def __init__(self, folder: Path) -> None:
        services = services_in(folder)
        self.units = [write_line(services), add_unit(services, "T2-0002")]
        services.benches.add("Bench 2", "simulated", TAMSIN)
        services.close()
        self.folder, self.port, self.over = folder, free_port(), threading.Event()
        self.server = serve(folder, self.port, BENCH_SPEED)
        self.remarks: list[str] = []
        self.runs = self.answers = self.faults = 0
        self.trouble: list[str] = []
        self.refused: Counter[str] = Counter()

    def client(self, name: str) -> httpx.Client:
        return httpx.Client(base_url=f"http://127.0.0.1:{self.port}/api", headers=acting(name), timeout=20)

    def keeps_on(self, name: str, work: Callable[[httpx.Client], None]) -> Callable[[], None]:
        """The same work again and again, whatever becomes of the server meanwhile."""

        def forever() -> None:
            while not self.over.is_set():
                try:
                    with self.client(name) as http:
                        while not self.over.is_set():
                            work(http)
                except (httpx.TransportError, httpx.StreamError):
                    self.over.wait(0.5)
                except Exception as failure:
                    self.trouble.append(repr(failure))
                    self.over.wait(1.0)

        return forever

    def got(self, answer: httpx.Response) -> Any:
        """What was answered; None where it was refused. A fault of the server is remembered."""
        self.answers += 1
        if answer.status_code >= 500:
            self.faults += 1
            self.trouble.append(f"{answer.request.method} {answer.request.url.path}: {answer.text[:200]}")
        if not answer.is_success:
            self.refused[f"{answer.request.method} {answer.status_code} {answer.json()['what'][:60]}"] += 1
        return answer.json() if answer.is_success else None

    def watch(self, http: httpx.Client) -> None:
        self.got(http.get("/now"))
        self.got(http.get("/line"))
        with http.stream("GET", "/campaigns/1/events") as feed:
            until = time.monotonic() + 4
            for _ in feed.iter_lines():
                if time.monotonic() > until or self.over.is_set():
                    break

    def write(self, http: httpx.Client) -> None:
        text = f"Remark {len(self.remarks)} of {threading.get_ident()}"
        latest = self.got(http.get("/attempts", params={"limit": 1}))
        for one in latest["items"] if latest else ():
            if self.got(http.post(f"/attempts/{one['id']}/remarks", json={"text": text})):
                self.remarks.append(text)
        self.over.wait(0.2)

    def conduct(self, unit_id: int, bench: str) -> Callable[[httpx.Client], None]:
        def work(http: httpx.Client) -> None:
            asked = {"unit_id": unit_id, "plan": CERTIFIED_PLAN | {"bench": bench}}
            campaign = self.got(http.post("/campaigns", json=asked))
            if campaign is None:
                self.over.wait(1.0)
                return
            prepare_over_http(http, campaign, base="")
            run = campaign["runs"][0]["id"]
            if self.got(http.post(f"/runs/{run}/attempts", json={})) is None:
                self.over.wait(1.0)
                return
            while not self.over.is_set():
                shown = self.got(http.get(f"/campaigns/{campaign['id']}"))
                if shown and shown["runs"][0]["attempts"] and shown["runs"][0]["attempts"][-1]["end"]:
                    self.runs += 1
                    return
                self.over.wait(0.3)

        return work

    def memory(self) -> float:
        """Megabytes of the server that are in memory."""
        status = Path(f"/proc/{self.server.pid}/status").read_text()
        return int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1]) / 1024

    def killed(self) -> None:
        self.server.kill()
        self.server.wait()
        self.server = serve(self.folder, self.port, BENCH_SPEED)


def soak(folder: Path, seconds: float) -> int:
    """Do it for so long; 0 if all is as it must be."""
    soaked = Soak(folder)
    people = [soaked.keeps_on(JOREN.name, soaked.watch) for _ in range(WATCHERS)]
    people += [soaked.keeps_on(TAMSIN.name, soaked.write) for _ in range(WRITERS)]
    people.append(soaked.keeps_on(TAMSIN.name, soaked.conduct(soaked.units[0], "Bench 1")))
    people.append(soaked.keeps_on(JOREN.name, soaked.conduct(soaked.units[1], "Bench 2")))
    threads = [threading.Thread(target=one, daemon=True) for one in people]
    for one in threads:
        one.start()
    begun, kills = time.monotonic(), 0
    while time.monotonic() - begun < (1 - UNDISTURBED) * seconds:
        time.sleep(KILLED_EVERY_SECONDS)
        soaked.killed()
        kills += 1
    measured = []
    alone_until = time.monotonic() + UNDISTURBED * seconds
    while time.monotonic() < alone_until:
        time.sleep(max(0.5, UNDISTURBED * seconds / 40))
        measured.append(soaked.memory())
    soaked.over.set()
    for one in threads:
        one.join(30)
    soaked.server.terminate()
    soaked.server.wait(30)
    # What is loaded at the first requests is no leak: the second half of the undisturbed part is held against itself.
    settled = measured[len(measured) // 2 :]
    third = max(1, len(settled) // 3)
    before, after = statistics.median(settled[:third]), statistics.median(settled[-third:])
    services = services_in(folder)
    with services.database.reading() as session:
        kept = set(session.connection().exec_driver_sql("SELECT text FROM remark").scalars())
    lost = [one for one in soaked.remarks if one not in kept]
    faults = verify(services.database, services.files).faults
    services.close()
    print(f"{kills} kills, {soaked.runs} runs ended, {len(soaked.remarks)} remarks kept, {soaked.answers} answers")
    print(f"memory {before:.0f} MB, then {after:.0f} MB; {soaked.faults} faults; {len(lost)} remarks lost")
    print(f"verify: {len(faults)} faults {' '.join(faults[:3])}; refused: {soaked.refused.most_common(5)}")
    for line in soaked.trouble[:10]:
        print(line)
    well = not lost and not faults and not soaked.faults and soaked.runs > 0 and abs(after / before - 1) <= FLAT
    print("as it must be" if well else "NOT as it must be")
    return 0 if well else 1


if __name__ == "__main__":
    with tempfile.TemporaryDirectory(prefix="rulvek-soak-") as made:
        try:
            code = soak(Path(made), float(sys.argv[1]) if len(sys.argv) > 1 else 600.0)
        except subprocess.SubprocessError as failure:
            code = 1
            print(failure)
    sys.exit(code)
