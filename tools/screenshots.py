"""Renews docs/screenshots from fresh demo records: ``make screenshots``."""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright

PORT = 8478
OUT = Path("docs/screenshots")
STILL = {
    "line": "/line",
    "model": "/models/1",
    "unit": "/units/8",
    "bench": "/bench",
    "campaign-sheet": "/campaigns/9",
    "run": "/attempts/20",
    "evidence": "/evidence",
}


def main() -> None:
    """Build demo records in a folder of their own, serve them, take one picture of each main view."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        rulvek = [sys.executable, "-m", "rulvek.cli"]
        subprocess.run([*rulvek, "demo", "--data", folder], check=True)
        server = subprocess.Popen(
            [*rulvek, "serve", "--data", folder, "--port", str(PORT)], env=os.environ | {"RULVEK_BENCH_SPEED": "2"}
        )
        try:
            wait_for_server()
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path="/usr/bin/chromium",
                    args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
                )
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.add_init_script("localStorage.setItem('rulvek.person', 'Tamsin Oduwell')")
                take_still(page)
                take_live(page)
                browser.close()
        finally:
            server.terminate()
            server.wait(10)


def wait_for_server() -> None:
    """Until it answers."""
    while True:
        try:
            httpx.get(f"http://127.0.0.1:{PORT}/api/bench")
            return
        except httpx.TransportError:
            time.sleep(0.1)


def take(page: Page, name: str) -> None:
    """One picture."""
    page.wait_for_timeout(700)
    page.screenshot(path=OUT / f"{name}.png", animations="disabled")


def take_still(page: Page) -> None:
    """The views that do not move, and the line in the dark."""
    for name, path in STILL.items():
        page.goto(f"http://127.0.0.1:{PORT}{path}")
        page.wait_for_load_state("load")
        take(page, name)
    page.goto(f"http://127.0.0.1:{PORT}/line")
    page.keyboard.press("Shift+D")
    take(page, "line-dark")
    page.keyboard.press("Shift+D")


def take_live(page: Page) -> None:
    """The live bench in the middle of a run of the unit that was left untested."""
    page.goto(f"http://127.0.0.1:{PORT}/units/6")
    page.get_by_role("button", name="Plan a certified campaign").click()
    page.get_by_role("button", name="Start 4 Ω").wait_for()
    page.keyboard.press("Space")
    page.get_by_text("closing in").wait_for(timeout=60_000)
    take(page, "live-bench")


if __name__ == "__main__":
    main()
