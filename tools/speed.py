"""Speed within one run: ``make bench``. Ratios travel from machine to machine; seconds are shown as they were here."""

import json
import os
import resource
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import httpx
import numpy as np
from bound_coverage import coverage
from demo_person import as_browser, session_of
from growth import growth
from instrument_speed import instruments_speed
from lab_speed import a_lab, finding
from queue_speed import queue_speed
from rating_speed import a_dossier, the_board
from reread_speed import archive, large_archive
from verdicts import judged
from watched import watched, watched_instruments

from rulvek.composition import make_services
from rulvek.core.readings.point import Load
from rulvek.core.readings.survey import Found, Survey, find, survey
from rulvek.core.records.actor import Actor
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.recording import read_recording
from rulvek.core.signals.distortion import Band, analyse_tone
from rulvek.services.outside import Table
from rulvek.store.engine import Database
from rulvek.store.formats.recorded_files import ColumnUse, WavRecord

if TYPE_CHECKING:
    from playwright.sync_api import Browser

UNITS = 5000
ADDRESS = "http://127.0.0.1:8479"


def median_seconds(work: Callable[[], object], times: int = 7) -> float:
    """Median time of a call, after one call to warm up."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def analysis_against_fft() -> None:
    """Full analysis (rms, power, THD, THD+N, harmonics) of 10 s × 2 channels × 96 kHz; at most 2 × numpy's rfft."""
    t = np.arange(960_000) / 96_000
    rng = np.random.default_rng(1)
    volts = np.array([np.clip(20 * np.sin(2 * np.pi * hz * t), -17, 17) for hz in (1000.0, 997.3)])
    volts += rng.normal(0, 1e-3, volts.shape)

    def analyse() -> list[float]:
        tones = [analyse_tone(row, 96_000.0) for row in volts]
        return [tone.rms_volts**2 / 4.0 for tone in tones]

    against("full analysis ÷ rfft of the same array", analyse, lambda: np.fft.rfft(volts), 1.2)
    usual = {
        "0.2 s at 1 kHz": (1000.0, 19_200),
        "20 cycles at 40 Hz": (40.0, 48_000),
    }
    for name, (hz, samples) in usual.items():
        wave = np.clip(20 * np.sin(2 * np.pi * hz * np.arange(samples) / 96_000), -17, 17)
        wave += rng.normal(0, 1e-3, samples)
        work = partial(analyse_tone, wave, 96_000.0)
        against(f"analysis of {name} ÷ rfft of it", work, partial(np.fft.rfft, wave), 1.6)


def against(what: str, work: Callable[[], object], bare: Callable[[], object], target: float) -> None:
    """Two calls in turns, so that a busy moment hits both: the median of the pairs' ratios, and both times."""
    for call in (work, bare):
        call()
    pairs = [(_seconds(work), _seconds(bare)) for _ in range(31)]
    report(what, statistics.median(one / other for one, other in pairs), target)
    first, second = (1000 * statistics.median(column) for column in zip(*pairs, strict=True))
    print(f"    {first:.2f} ms and {second:.2f} ms")


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def imported_recording() -> None:
    """Taking in a long recording: time against merely reading the file, and the memory of the whole process."""
    import soundfile

    rate, seconds = 48_000, 900
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.wav"
        second = np.arange(rate) / rate
        with soundfile.SoundFile(path, "w", rate, 2, subtype="PCM_16") as wav:
            for number in range(seconds):
                peak = 0.1 * 10 ** (0.8 * min(number, 800) / 900)
                wave = np.clip(peak * np.sin(2 * np.pi * 1000 * second), -0.5, 0.5)
                wav.write(np.column_stack([wave, 0.99 * wave]))

        def read_through() -> None:
            with soundfile.SoundFile(path) as wav:
                while len(wav.read(1 << 18, dtype="float64")):
                    pass

        ratio = median_seconds(lambda: surveyed(path), 3) / median_seconds(read_through, 3)
        report("15 minutes of two channels surveyed ÷ merely gone through", ratio, 8.0)
        script = (
            "import resource, sys; from pathlib import Path; import speed as s; s.read_alone(Path(sys.argv[1]));"
            "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)"
        )
        done = subprocess.run(
            [sys.executable, "-c", script, str(path)],
            check=True,
            capture_output=True,
            text=True,
            cwd=Path(__file__).parent,
        )
        report("peak memory while it is read, MB", float(done.stdout), 300.0)


def surveyed(path: Path) -> tuple[WavRecord, Survey, Found]:
    """A recording as the importer goes through it."""
    rows = tuple(ColumnUse(index, "output_volts", index + 1, 40.0) for index in (0, 1))
    source = WavRecord(path, rows)
    seen = survey(source)
    return source, seen, find(source, seen)


def read_alone(path: Path) -> None:
    """Survey and read a recording as the importer does, in a process of its own."""
    source, seen, found = surveyed(path)
    loads = {1: Load(4.0, 4.0), 2: Load(4.0, 4.0)}
    read_recording(source, seen, found, mode=Mode.CERTIFIED, loads=loads, band=Band(), limit=0.01)


def simulated_run() -> None:
    """A certified run of four channels: bench seconds conducted per second of computing."""
    from rulvek.bench.conductor import RunSetup, conduct
    from rulvek.bench.protocols import Connection
    from rulvek.bench.sim.bench import SimulatedBench
    from rulvek.bench.sim.catalogue import DESIGNS

    links = tuple(Connection((channel,), 4.0) for channel in (1, 2, 3, 4))
    bench = SimulatedBench(DESIGNS["four-d"], "speed")
    start = time.perf_counter()
    conduct(bench, RunSetup(links, (), 1000.0, 40.0, 14.4, 0.0), lambda _event: None)
    print(f"  simulated bench runs {bench.now() / (time.perf_counter() - start):5.1f} × real time")


def served_demo() -> None:
    """What takes a served application: building the demo, the second start, a cold load, and the live bench."""
    from playwright.sync_api import sync_playwright

    with tempfile.TemporaryDirectory() as folder:
        rulvek = [sys.executable, "-m", "rulvek.cli"]
        start = time.perf_counter()
        subprocess.run([*rulvek, "demo", "--data", folder], check=True, stdout=subprocess.DEVNULL)
        report("whole demo conducted on all cores, s", time.perf_counter() - start, 90.0)
        largest = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        report("peak memory of its largest process, MB", largest, 600.0 / (1 + (os.cpu_count() or 1)))
        with tempfile.TemporaryDirectory() as large:
            grown = growth(report, Path(folder), Path(large))
            watched(report, grown, Path(folder) / "captures")
            watched_instruments(report, grown, Path(folder) / "captures")
            large_archive(report, grown, Path(folder) / "captures")
        archive(report, Path(folder))
        large_table(Path(folder))
        finding(report, Path(folder))
        the_board(report, Path(folder))
        start = time.perf_counter()
        environment = os.environ | {"RULVEK_BENCH_SPEED": "4"}
        server = subprocess.Popen([*rulvek, "serve", "--data", folder, "--port", "8479"], env=environment)
        try:
            while True:
                try:
                    httpx.get(f"{ADDRESS}/api/me")
                    break
                except httpx.TransportError:
                    time.sleep(0.02)
            report("second start, s", time.perf_counter() - start, 5.0)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
                )
                session = session_of(ADDRESS)
                loads = []
                for _ in range(3):
                    page = browser.new_context().new_page()
                    page.context.add_cookies(as_browser(ADDRESS, session))  # type: ignore[arg-type]
                    start = time.perf_counter()
                    page.goto(f"{ADDRESS}/line")
                    page.locator("table.board .reach").first.wait_for()
                    loads.append(time.perf_counter() - start)
                report("cold load of the line, s", statistics.median(loads), 1.0)
                live_bench(browser, session)
                browser.close()
        finally:
            server.terminate()
            server.wait()  # it writes to the folder until then


def large_table(demo: Path) -> None:
    """The longest write of a table of 5,000 rows."""
    with tempfile.TemporaryDirectory() as folder:
        shutil.copy(demo / "rulvek.db", folder)
        services = make_services(Database(f"sqlite:///{folder}/rulvek.db"), Path(folder) / "captures", float("inf"))
        unit = services.catalogue.unit(1).unit
        group = services.catalogue.model(1).groups[0]
        names = ("serial", "mode", "group", "load_ohms", *("watts" for _ in group.channels))
        rows = [
            ",".join((unit.serial, "certified", group.name, "4", *(f"{90 + row % 9}" for _ in group.channels)))
            for row in range(5_000)
        ]
        text = "\n".join((",".join(f"{name} {at}" for at, name in enumerate(names)), *rows))
        services.database.write_seconds.clear()
        services.earlier_results.keep(Table("old.csv", text, dict(enumerate(names)), "Meter"), Actor("Tamsin Oduwell"))  # type: ignore[arg-type]
        report("longest write of a table of 5,000 rows, s", max(services.database.write_seconds), 0.05)
        services.close()


def live_bench(browser: "Browser", session: dict[str, str]) -> None:
    """Steps shown per second, and the share of one core that the page's own thread takes while it shows them."""
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.context.add_cookies(as_browser(ADDRESS, session))  # type: ignore[arg-type]
    page.goto(f"{ADDRESS}/units/6/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    action = page.locator(".controls .act")
    while not action.inner_text().startswith("Start"):
        page.keyboard.press("Space")
        page.wait_for_timeout(900)
    metrics = page.context.new_cdp_session(page)
    metrics.send("Performance.enable")

    def busy() -> float:
        found = metrics.send("Performance.getMetrics")["metrics"]
        return float(next(m["value"] for m in found if m["name"] == "TaskDuration"))

    page.keyboard.press("Space")
    page.locator(".sheet .state", has_text="level rising").wait_for()
    attempt = httpx.get(f"{ADDRESS}/api/bench", cookies=session).json()["attempt_id"]

    def steps() -> int:
        return len(httpx.get(f"{ADDRESS}/api/attempts/{attempt}/steps", cookies=session).json())

    before, seen, start = busy(), steps(), time.perf_counter()
    page.wait_for_timeout(2000)
    taken = time.perf_counter() - start
    share, rate = (busy() - before) / taken, (steps() - seen) / taken
    report("live bench: 10 ÷ steps shown a second", 10 / rate, 1.0)
    report("share of one core that the page takes", share, 0.30)


def verdicts_on_simulated_units() -> None:
    """Units drawn at random, each conducted and judged: the share of verdicts that say the opposite of the truth."""
    found = judged(UNITS)
    wrong = 100 * sum(one.wrong for one in found) / len(found)
    report(f"wrong verdicts on {len(found)} simulated units, %", wrong, 2.5)
    beyond = sum(one.backed_beyond_u for one in found)
    report("backed although the truth lies below the claim by more than U", beyond, 0.0)


FIGURES = Path(__file__).parent / "figures.json"
"""Every figure at the last release: ``python tools/speed.py --release`` writes them anew, each part once it is done.

With names of parts (``analysis_against_fft served_demo``) only these are measured, and written.
"""

_seen: dict[str, float] = {}


def report(what: str, value: float, target: float) -> None:
    """One line: the value, its target, whether it is kept, and what it was at the last release."""
    _seen[what] = value
    before = json.loads(FIGURES.read_text()).get(what) if FIGURES.is_file() else None
    was = "" if before is None else f", {before:.2f} at the last release"
    print(f"  {what}: {value:.2f} (at most {target:g}: {'kept' if value <= target else 'MISSED'}{was})", flush=True)


def keep_figures() -> None:
    """Write what was measured so far beside what stands there of other parts."""
    before = json.loads(FIGURES.read_text(encoding="utf-8")) if FIGURES.is_file() else {}
    text = json.dumps(before | _seen, indent=1, sort_keys=True, ensure_ascii=False)
    FIGURES.write_text(text + "\n", encoding="utf-8")


def told(part: Callable[[], None]) -> bool:
    """Measure one part; what fails is told, and the others are measured all the same."""
    try:
        part()
    except Exception:
        print(f"  {part.__name__.replace('_', ' ')} could not be measured:")
        traceback.print_exc()
        return False
    return True


def a_labs_day() -> None:
    """What a lab waits for."""
    a_lab(report)


def instruments() -> None:
    """What the guard costs."""
    instruments_speed(report)
    queue_speed(report)


def a_rating() -> None:
    """What comes out of ratings."""
    a_dossier(report)


if __name__ == "__main__":
    print("Speed on this machine:")
    parts = [analysis_against_fft, imported_recording, simulated_run, instruments, a_labs_day, a_rating]
    parts += [verdicts_on_simulated_units, coverage]
    if Path("web/dist/index.html").is_file():
        parts.append(served_demo)
    wanted = [one for one in sys.argv[1:] if not one.startswith("-")]
    if strange := set(wanted) - {part.__name__ for part in parts}:
        sys.exit(f"There is no part “{min(strange)}”; there are {', '.join(part.__name__ for part in parts)}.")
    measured = []
    for part in parts:
        if not wanted or part.__name__ in wanted:
            measured.append(told(part))
            if "--release" in sys.argv[1:]:
                keep_figures()
    sys.exit(0 if all(measured) else 1)
