"""The whole story in Chromium: from the line to a verdict, with a reload and a second watcher on the way."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.ui.conftest import Open, until

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def watts_shown(page: Page) -> float:
    return float(page.locator(".sheet .main .mono").inner_text().replace("–", "0"))


def see_to_everything(page: Page) -> None:
    """Work through the list before power by the space bar alone, until the next thing to do is to start."""
    action = page.locator(".controls .act")
    for _ in range(8):
        expect(action).not_to_have_class(re.compile("loading"))
        expect(action).to_be_enabled()
        words = action.inner_text()
        if words.startswith(("Start", "Repeat")):
            return
        page.keyboard.press("Space")
        expect(action).not_to_have_text(words)
    raise AssertionError(f"the list before power does not end: {action.inner_text()}")


@pytest.mark.bench_speed(1.5)  # so that the run is still on after a reload in the middle of it
def test_from_the_line_to_a_verdict(open_page: Open) -> None:
    page = open_page("/", person="Joren Haldvik")
    expect(page.get_by_role("heading", name="Line")).to_be_visible()
    expect(page.get_by_text("1 unit untested")).to_be_visible()
    page.get_by_role("link", name="Test two").click()
    page.get_by_role("link", name="T2-0001").click()
    expect(page.get_by_text("This unit has not been tested")).to_be_visible()
    page.get_by_role("button", name="Plan a campaign").click()
    expect(page.get_by_text("9 runs")).to_be_visible()
    page.get_by_role("checkbox", name="Uncertified").uncheck()
    page.get_by_role("checkbox", name="Burst", exact=True).uncheck()
    expect(page.get_by_text("3 runs")).to_be_visible()
    page.get_by_role("button", name="Take it to the bench").click()
    page.wait_for_url(re.compile(r"/campaigns/1/live"))
    expect(page.get_by_role("img", name=re.compile("channel 2 into 4 Ω"))).to_be_visible()
    expect(page.get_by_text("a disconnect within arm's reach")).to_be_visible()
    see_to_everything(page)
    watcher = open_page("/bench", person="Tamsin Oduwell")

    page.keyboard.press("Space")
    expect(page.get_by_text("level rising")).to_be_visible()
    watcher.get_by_role("link", name="Watch it live").click()
    expect(watcher.get_by_text("running T2-0001")).to_be_visible()
    until(page, "Number(document.querySelector('.sheet .main .mono').innerText) > 1")
    early = watts_shown(page)

    page.reload()  # in the middle of the run
    expect(page.get_by_role("button", name="Stop the run")).to_be_visible()
    until(page, f"Number(document.querySelector('.sheet .main .mono').innerText) > {early}")

    expect(watcher.locator(".controls")).to_contain_text("Watching")

    for screen in (page, watcher):
        expect(screen.get_by_text("certified, at the limit")).to_be_visible()
    assert watts_shown(watcher) == watts_shown(page) > 75
    expect(page.locator(".verdicts")).to_contain_text("Backed")

    page.keyboard.press("n")
    expect(page.get_by_role("heading", name="Certified, 2 Ω")).to_be_visible()
    see_to_everything(page)
    page.keyboard.press("Space")
    expect(watcher.get_by_role("heading", name="Certified, 2 Ω")).to_be_visible()  # the watcher follows
    expect(page.get_by_role("button", name="Rewire: wiring 3, 4 Ω bridged")).to_be_visible()
    page.keyboard.press("Space")
    expect(page.get_by_text("Use a differential probe")).to_be_visible()
    see_to_everything(page)
    page.keyboard.press("Space")
    page.get_by_role("link", name="Read the campaign sheet").click()

    rows = page.locator("table.sheet tbody")
    expect(rows).to_have_count(3)
    expect(rows.nth(0)).to_contain_text("75 W")
    expect(rows.nth(0).get_by_role("img", name="Backed")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save as CSV").click()
    assert "THD+N (%)" in Path(saved.value.path()).read_text("utf-8-sig")

    rows.nth(0).get_by_role("link").click()
    expect(page.get_by_role("img", name=re.compile("Spectrum of channel 1. harmonic 2"))).to_be_visible()
    expect(page.get_by_text("fingerprint intact")).to_be_visible()
    page.get_by_role("button", name="2", exact=True).click()
    expect(page.get_by_role("img", name="Output of channel 2 over time")).to_be_visible()


def test_off_and_repeat_by_keyboard(open_page: Open) -> None:
    page = open_page("/units/1/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    see_to_everything(page)
    page.keyboard.press("Space")
    until(page, "Number(document.querySelector('.sheet .main .mono').innerText) > 0.5")
    page.keyboard.press("Escape")
    expect(page.locator(".sheet .state")).to_have_text("stopped by operator")
    page.keyboard.press("r")
    page.get_by_label("Other").check()
    page.get_by_label("Reason").fill("Operator was called away")
    page.keyboard.press("Enter")
    expect(page.get_by_text("certified, at the limit")).to_be_visible()
    expect(page.locator(".verdicts")).to_contain_text("Backed")
    page.get_by_role("link", name="Open this run").click()
    expect(page.get_by_text("attempt 2 (“Operator was called away”)")).to_be_visible()
    expect(page.locator(".verdicts")).to_contain_text("Backed")
    page.goto("/attempts/1")  # the one that was stopped: the verdict rests on its repeat, not on it
    expect(page.get_by_text("stopped by operator").first).to_be_visible()
    expect(page.locator(".verdicts li")).to_have_count(0)


def test_claims_are_added_kept_through_a_reload_and_withdrawn(open_page: Open) -> None:
    page = open_page("/models/1")
    page.get_by_role("button", name="Add a claim").click()
    page.get_by_label("Document").fill("Carton")
    page.get_by_label("Power, W").fill("95")
    page.reload()
    page.get_by_role("button", name="Add a claim").click()
    expect(page.get_by_label("Document")).to_have_value("Carton")
    page.get_by_label("Load, Ω").fill("4")
    page.get_by_label("Band from, Hz").fill("20")
    page.get_by_role("button", name="Add the claim").click()
    expect(page.get_by_role("alert").first).to_contain_text("A band needs both its limits")
    page.get_by_label("Band to, Hz").fill("20000")
    page.get_by_role("button", name="Add the claim").click()
    row = page.get_by_role("table", name="Claims of Test two").get_by_role("row").filter(has_text="no voltage")
    expect(row).to_contain_text("no voltage")
    expect(row).to_contain_text("Against 75 W in Manual")
    row.get_by_role("button", name="Withdraw").click()
    page.get_by_label("Reason").fill("Carton was reprinted")
    page.get_by_role("button", name="Withdraw the claim").click()
    expect(page.get_by_text("1 withdrawn")).to_be_visible()
    expect(page.get_by_text("Against 95 W")).to_have_count(0)


def test_the_first_view_is_light(open_page: Open) -> None:
    """At most 250 kB of JavaScript, gzip, on the line's first view."""
    page = open_page("/bench")  # a page of the right origin, so that the requests below can be counted
    loaded: dict[str, int] = {}

    def count(response) -> None:  # type: ignore[no-untyped-def]
        if response.url.endswith(".js"):
            loaded[response.url] = int(response.request.sizes()["responseBodySize"])

    signed_in = page.context.storage_state()
    fresh = page.context.browser.new_context(base_url=page.url, storage_state=signed_in)  # type: ignore[union-attr]
    cold = fresh.new_page()
    cold.on("response", count)
    cold.goto("/line")
    expect(cold.get_by_role("heading", name="Line")).to_be_visible()
    cold.wait_for_load_state("networkidle")
    fresh.close()
    assert loaded and 10_000 < sum(loaded.values()) < 250_000


def faults(page: Page, what: str) -> list[str]:
    """What axe finds wrong on a page."""
    report = page.evaluate(f"axe.run(document, {{ {what}, resultTypes: ['violations'] }})")
    return [
        f"{found['id']}: {node['html'][:120]} {node['failureSummary']}"
        for found in report["violations"]
        for node in found["nodes"]
    ]


def test_unknown_pages_say_so(open_page: Open) -> None:
    page = open_page("/models/99")
    expect(page.get_by_role("alert").filter(has_text="There is no model number 99")).to_be_visible()
    page.goto("/nowhere")
    expect(page.get_by_text("There is no such page")).to_be_visible()
