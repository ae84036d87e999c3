"""Renews docs/screenshots from fresh demo records: ``make screenshots``; or from a copy of a demo's folder."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
from demo_person import as_browser, session_of
from playwright.sync_api import Page, sync_playwright

from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.server import on_sockets

PORT = 8478
ADDRESS = f"http://127.0.0.1:{PORT}"
SESSION: dict[str, str] = {}
OUT = Path("docs/screenshots")
FIRST_PORT = 5610
WAITING = ("TT1-2604-0011", "CB1-2604-0117", "CB1-2609-0033", "KR4-2601-0019", "KV5-2608-0072", "TT2-2605-0011")
STILL = {
    "line": "/line",
    "model": "/models/1",
    "bench": "/bench",
    "evidence": "/evidence",
    "gear": "/gear",
    "ratings": "/ratings",
}


def main() -> None:
    """Build demo records in a folder of their own, serve them, take one picture of each main view."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        rulvek = [sys.executable, "-m", "rulvek.cli"]
        if len(sys.argv) > 1:
            shutil.copytree(sys.argv[1], folder, dirs_exist_ok=True)
        else:
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
                SESSION.update(session_of(ADDRESS))
                page.context.add_cookies(as_browser(ADDRESS, SESSION))  # type: ignore[arg-type]
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
            httpx.get(f"{ADDRESS}/api/me")
            return
        except httpx.TransportError:
            time.sleep(0.1)


def take(page: Page, name: str) -> None:
    """One picture."""
    page.wait_for_timeout(700)
    page.screenshot(path=OUT / f"{name}.png", animations="disabled")


def choose(page: Page, label: str, option: str) -> None:
    """Pick one of a list that opens."""
    page.get_by_role("combobox", name=label, exact=True).click(force=True)
    opened = page.locator(".ant-select-dropdown:visible")
    opened.get_by_title(option, exact=True).click()
    opened.wait_for(state="hidden")  # while it fades, the next one would be taken for it


def found(path: str, **wanted: object) -> dict[str, Any]:
    """The first listed item with these values: ids depend on which bench was done first."""
    items: list[dict[str, Any]] = httpx.get(f"{ADDRESS}/api{path}", cookies=SESSION).json()["items"]
    return next(item for item in items if all(item[key] == value for key, value in wanted.items()))


def untested() -> int:
    """The unit that is left to a newcomer."""
    series = httpx.get(f"{ADDRESS}/api/line", cookies=SESSION).json()["series"]
    model = next(one for each in series for one in each["models"] if one["name"] == "Cobblewick Q4")
    units = httpx.get(f"{ADDRESS}/api/models/{model['id']}", cookies=SESSION).json()["units"]
    return int(next(one["id"] for one in units if one["serial"] == "CQ4-2607-0266"))


def take_still(page: Page) -> None:
    """The views that do not move, and one in the dark: a rating that a lot unsettles."""
    repeated = found("/attempts?limit=200", unit_serial="CS2-2603-0418", number=2)
    sheet = found("/campaigns?limit=200", unit_serial="KV5-2608-0072")
    repeated_unit = found("/campaigns?limit=200", unit_serial="CS2-2603-0402")
    switching = found("/campaigns?limit=200", unit_serial="CB1-2609-0033")
    chosen = {
        "attempt": f"/attempts/{repeated['id']}",
        "campaign-sheet": f"/campaigns/{sheet['id']}",
        "unit": f"/units/{switching['unit_id']}",
        "planner": f"/units/{sheet['unit_id']}/plan",
        "unit-file": f"/units/{switching['unit_id']}/file",
    }
    for name, path in (STILL | chosen).items():
        page.goto(f"{ADDRESS}{path}")
        page.get_by_text("Reading the records …").wait_for(state="detached")
        take(page, name)
    take_sheet(page, repeated_unit["unit_id"])
    take_recording(page)
    take_today(page)
    take_assembled(page)
    take_practice(page)
    page.goto(f"{ADDRESS}/ratings/4")
    page.get_by_role("table", name="Units of the sample").wait_for()
    page.keyboard.press("Shift+D")
    take(page, "rating-dark")
    page.keyboard.press("Shift+D")


def take_sheet(page: Page, unit_id: int) -> None:
    """A unit's readings on one sheet, one of them read again."""
    page.goto(f"{ADDRESS}/units/{unit_id}/sheet")
    page.get_by_label("Read with").fill("Meter 4")
    page.get_by_label("Held at, V").fill("14.4")
    read = {
        "Certified, main, 4 Ω": ("80.6W 81.2W 17.96V 18.02V", "14.37", "20.4"),
        "Uncertified, main, 4 Ω": ("104 105", "14.36", "26.1"),
        "Burst, main, 4 Ω": ("25.9Vp 26Vp", "14.39", ""),
        "Certified, main, 2 Ω": ("121 –", "14.34", ""),
    }
    for name, figures in read.items():
        fields = page.locator(".cell").filter(has=page.get_by_label(name, exact=True)).get_by_role("textbox")
        for at, figure in enumerate(one for one in figures if one):
            fields.nth(at).fill(figure)
    page.get_by_role("button", name="Read again: Certified, main, 2 Ω").click()
    page.get_by_label("Certified, main, 2 Ω, attempt 2, why it was read again").fill("Both channels this time")
    page.get_by_label("Certified, main, 2 Ω, attempt 2", exact=True).fill("121 122")
    page.wait_for_timeout(1500)
    take(page, "sheet")


def take_recording(page: Page) -> None:
    """The sweep of the demo's field recorder, read once more."""
    recorded = found("/attempts?limit=200", unit_serial="CS2-2603-0402", origin="recorded")
    original = httpx.get(f"{ADDRESS}/api/attempts/{recorded['id']}/original", cookies=SESSION).content
    campaign = found("/campaigns?limit=200", id=recorded["campaign_id"])
    page.goto(f"{ADDRESS}/units/{campaign['unit_id']}/recorded")
    sweep = {"name": "sweep-4-ohm.wav", "mimeType": "audio/wav", "buffer": original}
    page.set_input_files("input[type=file]", sweep)  # type: ignore[arg-type]
    for column in (1, 2, 3):
        factor = page.get_by_label(f"Factor of column {column}")
        if column == 3:
            choose(page, "What column 3 is", "supply, V")
        factor.fill("64")
    page.get_by_label("Load, Ω").fill("4")
    page.get_by_label("Held at, V").fill("14.4")
    page.get_by_label("Recorded with").fill("Field recorder")
    page.get_by_label("controls in test position").check()
    page.get_by_role("button", name="Read it").click()
    page.get_by_role("button", name="Keep it as evidence").wait_for()
    take(page, "recording")


def take_today(page: Page) -> None:
    """What waits for two benches once eight more campaigns are planned; one of them is wanted today."""
    with httpx.Client(base_url=f"{ADDRESS}/api", cookies=SESSION, headers={"Origin": ADDRESS}) as http:
        planned = []
        for at, serial in enumerate(WAITING):
            unit = found("/campaigns?limit=200", unit_serial=serial)["unit_id"]
            modes = ["certified", "burst"] if at % 2 else ["certified"]
            planned.append(http.post("/campaigns", json={"unit_id": unit, "plan": {"modes": modes}}).json()["id"])
        for number in planned[:3]:
            http.put(f"/queue/{number}", json={"anywhere": True}).raise_for_status()
        today = datetime.now(UTC).date().isoformat()
        http.put(f"/queue/{planned[4]}", json={"due_on": today}).raise_for_status()
    page.goto(f"{ADDRESS}/bench/today")
    page.get_by_role("table", name="What waits for Bench 1").wait_for()
    take(page, "today")


def take_assembled(page: Page) -> None:
    """A bench of simulated instruments that answer on this machine, looked at."""
    with on_sockets(SimulatedInstruments(SimulatedBench(DESIGNS["four-d"], "S-0001")).trees, FIRST_PORT) as running:
        page.goto(f"{ADDRESS}/gear/benches/new")
        page.get_by_label("First port").fill(str(FIRST_PORT))
        page.get_by_label("Last port").fill(str(FIRST_PORT + len(running) - 1))
        page.get_by_role("button", name="Ask who answers").click()
        page.get_by_role("list", name="Who answered").wait_for()
        for label, text in (("Name of the bench", "Bench 4"), ("Supply, up to", "250"), ("Takes", "600")):
            page.get_by_label(label).fill(text)
        page.get_by_label("How many").fill("6")
        page.get_by_role("button", name="Put it on record").click()
        page.get_by_label("Outputs wired to loads").fill("4")
        page.get_by_role("button", name="Look at it").click()
        page.get_by_text("looks passed").wait_for()
        page.mouse.wheel(0, -4000)
        take(page, "bench-made")


def take_practice(page: Page) -> None:
    """A job of which the load was found, and hum accused that is not there."""
    page.goto(f"{ADDRESS}/practice")
    page.get_by_text("second", exact=True).click()
    page.get_by_label("Seed").fill("12")
    page.get_by_role("button", name="Begin a job").click()
    for words, remedy in (("A load is connected", "Connect the planned load"), ("There is hum", "Find where the hum")):
        page.get_by_role("checkbox", name=words).check()
        page.get_by_role("combobox", name="What is to be done").last.click()
        page.locator(".ant-select-dropdown:visible").get_by_text(remedy).click()
    page.get_by_text("Nothing yet").click()
    page.get_by_text("It does not").click()
    page.get_by_role("button", name="Have it marked").click()
    page.get_by_role("heading", name="Marked").wait_for()
    page.mouse.wheel(0, -4000)
    take(page, "practice")


def take_live(page: Page) -> None:
    """The bench with the unit that was left untested: before power, and in the middle of a run."""
    page.goto(f"{ADDRESS}/units/{untested()}/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    action = page.locator(".controls .act")
    page.get_by_role("button", name="Zero the clamp").first.wait_for()
    page.keyboard.press("Space")
    page.get_by_text("taken off from now on").wait_for()
    page.keyboard.press("Space")
    page.get_by_text("4 measured").wait_for()
    take(page, "before-power")
    while not action.inner_text().startswith("Start"):
        page.keyboard.press("Space")
        page.wait_for_timeout(1200)
    page.keyboard.press("Space")
    page.get_by_text("closing in").wait_for(timeout=60_000)
    take(page, "live-bench")


if __name__ == "__main__":
    main()
