"""How fast a lab's own records are: signing in, a photograph, a backup while somebody writes, a large line, finding."""

import io
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from grow import grow
from openpyxl import Workbook
from PIL import Image

from rulvek.composition import Services, make_services
from rulvek.core.records.actor import Actor
from rulvek.core.records.people import Role
from rulvek.services.people import Visitor
from rulvek.store import audit
from rulvek.store.backup import back_up, restore
from rulvek.store.engine import Database
from rulvek.store.files import FileStore
from rulvek.store.verify import verify

Report = Callable[[str, float, float], None]
ENGINEER = Actor("Tamsin Oduwell")
PASSWORD = "nine brass washers"
MODELS = 500
BACKED_UP_BYTES = 2**30
STEP_EVERY_SECONDS = 0.02


def services_in(folder: str) -> Services:
    """Records of their own, empty, in a folder."""
    database = Database(f"sqlite:///{folder}/rulvek.db")
    database.migrate()
    return make_services(database, Path(folder) / "captures", float("inf"))


def signing_in(report: Report) -> None:
    """With a password as it is hashed in use."""
    with tempfile.TemporaryDirectory() as folder:
        services = services_in(folder)
        made = services.accounts.make(ENGINEER.name, [Role.ADMIN], ENGINEER)
        here = Visitor("127.0.0.1", "bench", True)
        services.sessions.sign_in_by_code(ENGINEER.name, made.code, PASSWORD, here)
        taken = []
        for _ in range(5):
            start = time.perf_counter()
            services.sessions.sign_in(ENGINEER.name, PASSWORD, here)
            taken.append(time.perf_counter() - start)
        services.close()
        report("signing in, s", sorted(taken)[2], 0.5)


def photograph(report: Report) -> None:
    """One of 12 megapixels, in a process of its own, so that its memory is known."""
    with tempfile.TemporaryDirectory() as folder:
        rng = np.random.default_rng(3)
        coarse = rng.integers(0, 255, (300, 400, 3), dtype=np.uint8)
        Image.fromarray(coarse).resize((4000, 3000), Image.Resampling.BICUBIC).save(f"{folder}/12.jpg", quality=92)
        done = subprocess.run(
            [sys.executable, __file__, "photograph", folder], check=True, capture_output=True, text=True
        )
        seconds, megabytes = map(float, done.stdout.split())
        report("a photograph of 12 megapixels, s", seconds, 1.5)
        report("memory that it takes, MB", megabytes, 150.0)


def photograph_alone(folder: str) -> None:
    """Take one in, and print its seconds and the memory that came to the process for it."""
    services = services_in(folder)
    content = Path(f"{folder}/12.jpg").read_bytes()
    small = io.BytesIO()
    Image.new("RGB", (64, 48), "white").save(small, "JPEG")
    services.kept_files.take(small.getvalue(), "small.jpg", ENGINEER)  # what is loaded once is not a photograph's
    Path("/proc/self/clear_refs").write_text("5")  # from here on the peak is this photograph's
    before = _kilobytes("VmRSS")
    start = time.perf_counter()
    services.kept_files.take(content, "12.jpg", ENGINEER)
    taken = time.perf_counter() - start
    print(taken, (_kilobytes("VmHWM") - before) / 1024)
    services.close()


def _kilobytes(name: str) -> int:
    status = Path("/proc/self/status").read_text().splitlines()
    return int(next(line.split()[1] for line in status if line.startswith(name)))


def backup_under_load(report: Report) -> None:
    """One gigabyte of files while steps are written: how late the latest of them is, and whether all came along."""
    with tempfile.TemporaryDirectory() as folder:
        services = services_in(folder)
        rng = np.random.default_rng(4)
        size = 32 * 2**20
        for _ in range(BACKED_UP_BYTES // size):
            services.kept_files.take(b"%PDF-" + rng.bytes(size), "paper.pdf", ENGINEER)
        over, late, written = threading.Event(), [0.0], [0]

        def write() -> None:
            while not over.is_set():
                start = time.perf_counter()
                with services.database.writing() as session:
                    audit.note(session, ENGINEER, "wrote a step", "load/1", text=str(written[0]))
                written[0] += 1
                late[0] = max(late[0], time.perf_counter() - start)
                over.wait(STEP_EVERY_SECONDS)

        writer = threading.Thread(target=write)
        writer.start()
        start = time.perf_counter()
        back_up(services.database, services.files, Path(folder) / "backup.zip")
        taken = time.perf_counter() - start
        over.set()
        writer.join()
        print(f"  a backup of 1 GB takes {taken:5.1f} s, while {written[0]} steps are written")
        report("the step that waited longest meanwhile, s", late[0], 0.1)
        with services.database.reading() as session:
            lost = written[0] - sum(row.action == "wrote a step" for row in _chain(session))
        report("steps that were lost", lost, 0)
        restore(Path(folder) / "backup.zip", Path(folder) / "restored")
        copy = Database(f"sqlite:///{folder}/restored/rulvek.db")
        report(
            "faults of the restored copy", len(verify(copy, FileStore(Path(folder) / "restored/captures")).faults), 0
        )
        copy.close()
        services.close()


def _chain(session: object) -> list[object]:
    from rulvek.store.queries.records import history_page

    return list(history_page(session, ["load/1"], None, 10**6))  # type: ignore[arg-type]


def large_line(report: Report) -> None:
    """A spreadsheet of 500 models, with claims and units: rehearsed, taken in, and how long others wait for it."""
    book = Workbook()
    book.remove(book.active)  # type: ignore[arg-type]
    each = range(MODELS)
    sheets: dict[str, list[list[object]]] = {
        "Series": [["Name"], *([f"Series {n}"] for n in range(20))],
        "Models": [["Series", "Name"], *([f"Series {n % 20}", f"Model {n}"] for n in each)],
        "Groups": [
            ["Model", "Group", "Channels", "Rated loads (Ω)"],
            *([f"Model {n}", "main", 4, "4; 2"] for n in each),
        ],
        "Claims": [
            ["Model", "Document", "Group", "Power (W)", "Load (Ω)"],
            *([f"Model {n}", "Manual", "main", 75, 4] for n in each),
        ],
        "Units": [["Model", "Serial number", "Lot"], *([f"Model {n}", f"U-{n}", "2611"] for n in each)],
    }
    for name, rows in sheets.items():
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    with tempfile.TemporaryDirectory() as folder:
        services = services_in(folder)
        start = time.perf_counter()
        services.exchange.rehearse(out.getvalue(), ENGINEER)
        print(f"  a rehearsal of {MODELS} models takes {time.perf_counter() - start:5.2f} s")
        services.database.write_seconds.clear()
        start = time.perf_counter()
        services.exchange.take_in(out.getvalue(), ENGINEER)
        report(f"a line of {MODELS} models taken in, s", time.perf_counter() - start, 10.0)
        print(f"  of that others wait {max(services.database.write_seconds):5.2f} s to write")
        services.close()


def finding(report: Report, demo: Path) -> None:
    """Whatever has a name, at about 100,000 attempts."""
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "rulvek.db").write_bytes((demo / "rulvek.db").read_bytes())
        services = make_services(Database(f"sqlite:///{folder}/rulvek.db"), Path(folder) / "captures", float("inf"))
        grow(services.database, 520)
        worst = 0.0
        for words in ("CB1-2604", "Kelpmoor V5", "bass", "zzz", "17", "Owner's manual"):
            taken = []
            for _ in range(5):
                start = time.perf_counter()
                services.catalogue.find(words)
                taken.append(time.perf_counter() - start)
            worst = max(worst, sorted(taken)[2])
        attempts = services.evidence.attempts(limit=1).items[0].id
        print(f"  up to attempt {attempts}")
        report("finding, ms", 1000 * worst, 50.0)
        services.close()


def a_lab(report: Report) -> None:
    """All of it that needs no demo."""
    signing_in(report)
    photograph(report)
    large_line(report)
    backup_under_load(report)


if __name__ == "__main__":
    if sys.argv[1:2] == ["photograph"]:
        photograph_alone(sys.argv[2])
    else:
        a_lab(lambda what, value, target: print(f"  {what}: {value:.2f} (at most {target:g})"))
        if len(sys.argv) > 1:
            finding(lambda what, value, target: print(f"  {what}: {value:.2f} (at most {target:g})"), Path(sys.argv[1]))
