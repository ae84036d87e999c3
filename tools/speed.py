"""Speed within one run: ``make bench``. Ratios travel from machine to machine; seconds are shown as they were here."""

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from rulvek.core.measure.distortion import analyse_tone


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

    ratios = []
    for _ in range(3):  # in turns, so that a busy moment of the machine hits both
        ratios.append(median_seconds(analyse) / median_seconds(lambda: np.fft.rfft(volts)))
    report("full analysis ÷ rfft of the same array", min(ratios), 2.0)


def simulated_run() -> None:
    """A certified run of four channels: bench seconds conducted per second of computing."""
    from rulvek.bench.conductor import RunSetup, conduct
    from rulvek.bench.instruments import Connection
    from rulvek.bench.sim.bench import SimulatedBench
    from rulvek.bench.sim.catalogue import DESIGNS

    links = tuple(Connection((channel,), 4.0) for channel in (1, 2, 3, 4))
    bench = SimulatedBench(DESIGNS["four-d"], "speed")
    start = time.perf_counter()
    conduct(bench, RunSetup(links, (), 1000.0, 40.0, 14.4, 0.0), lambda _event: None)
    print(f"  simulated bench runs {bench.now() / (time.perf_counter() - start):5.1f} × real time")


def second_start_and_cold_load() -> None:
    """Seconds from `rulvek serve` to the line in a cold browser, on demo records. Targets: 5 s and 1.5 s."""
    from playwright.sync_api import sync_playwright

    with tempfile.TemporaryDirectory() as folder:
        rulvek = [sys.executable, "-m", "rulvek.cli"]
        subprocess.run([*rulvek, "demo", "--data", folder], check=True, stdout=subprocess.DEVNULL)
        start = time.perf_counter()
        server = subprocess.Popen([*rulvek, "serve", "--data", folder, "--port", "8479"], stdout=subprocess.PIPE)
        assert server.stdout is not None
        server.stdout.readline()
        import httpx

        while True:
            try:
                httpx.get("http://127.0.0.1:8479/api/bench")
                break
            except httpx.TransportError:
                time.sleep(0.02)
        report("second start, s", time.perf_counter() - start, 5.0)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
            )
            loads = []
            for _ in range(3):
                page = browser.new_context().new_page()
                start = time.perf_counter()
                page.goto("http://127.0.0.1:8479/line")
                page.locator("table.board .reach").first.wait_for()
                loads.append(time.perf_counter() - start)
            browser.close()
        server.terminate()
        report("cold load of the line, s", statistics.median(loads), 1.5)


def report(what: str, value: float, target: float) -> None:
    """One line: the value, its target, and whether it is kept."""
    print(f"  {what}: {value:.2f} (at most {target:g}: {'kept' if value <= target else 'MISSED'})")


if __name__ == "__main__":
    print("Speed on this machine:")
    analysis_against_fft()
    simulated_run()
    if Path("web/dist/index.html").is_file():
        second_start_and_cold_load()
