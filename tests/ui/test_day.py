"""The whole day in Chromium: by keyboard alone, through a trip and its repeat, with a second person taking over."""

import re
import sqlite3
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.ui.conftest import Open, choose, say_the_run, until
from tests.ui.test_story import see_to_everything

pytestmark = pytest.mark.long


@pytest.fixture
def four_channels(tmp_path: Path, address: str) -> str:
    """The unit on record becomes a four-channel one; its protection is set too low for its lowest load."""
    with sqlite3.connect(tmp_path / "rulvek.db") as records:
        records.execute("UPDATE channel_group SET channels = '[1, 2, 3, 4]'")
        records.execute("UPDATE model SET design = 'four-ab-tripping'")
        records.execute("UPDATE claim SET watts = 60")
    return address


def focus_by_tab(page: Page, name: str) -> None:
    """Press Tab until something of that name has the focus."""
    for _ in range(80):
        page.keyboard.press("Tab")
        focused = page.evaluate(
            "document.activeElement?.matches('a, button, tr') ? document.activeElement.innerText : ''"
        )
        if name in focused:
            return
    raise AssertionError(f"“{name}” cannot be reached by Tab")


# Between two keys the focus may be nowhere only where nothing had it since the page came.
LOST = """addEventListener('keydown', (event) => {
  if (document.activeElement !== document.body) window.hadFocus = true
  else if (window.hadFocus) (window.lostFocus ??= []).push(`${event.key} at ${location.pathname}`)
}, {capture: true})"""


def test_plan_and_run_four_channels_by_keyboard_alone(four_channels: str, open_page: Open) -> None:
    page = open_page("/line")
    page.evaluate(LOST)
    expect(page.get_by_text("1 unit untested")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("test two")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Test two")).to_be_visible()
    focus_by_tab(page, "T2-0001")
    page.keyboard.press("Enter")
    expect(page.get_by_text("This unit has not been tested")).to_be_visible()
    focus_by_tab(page, "Plan a campaign")
    page.keyboard.press("Enter")
    expect(page.get_by_text("9 runs")).to_be_visible()

    # Choose a run, drop it, undo, move one: the costs follow.
    rows = page.locator("tr.run")
    focus_by_tab(page, "4 Ω")
    page.keyboard.press("Delete")
    expect(page.get_by_text("8 runs")).to_be_visible()
    expect(page.get_by_text("Claims left without evidence")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("9 runs")).to_be_visible()
    rows.nth(2).focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(page.get_by_text("2 more than needed")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("more than needed")).to_have_count(0)
    # Only the lightest load, to be short: drop the other six from the end.
    for left in range(8, 2, -1):
        rows.nth(left).focus()
        page.keyboard.press("Delete")
        expect(page.get_by_text(f"{left} runs")).to_be_visible()
    page.keyboard.press("Control+Enter")
    page.wait_for_url(re.compile("/live"))
    see_to_everything(page)
    page.keyboard.press("Space")
    expect(page.get_by_text("certified, at the limit")).to_be_visible()
    page.keyboard.press("Space")  # the same wiring: the next run starts at once
    expect(page.get_by_text("uncertified, clipping")).to_be_visible()
    page.keyboard.press("Space")
    expect(page.get_by_role("img", name=re.compile("Burst at channel 1, .* read for 18 ms"))).to_be_visible()
    expect(page.get_by_text("burst, at the onset of clipping")).to_be_visible()
    expect(page.locator(".sheet")).to_contain_text("Headroom")
    page.keyboard.press("c")
    page.keyboard.type("All four ran cool")
    page.keyboard.press("Enter")
    expect(page.get_by_text("“All four ran cool”")).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_role("heading", name="Certified, 4 Ω")).to_be_visible()
    focus_by_tab(page, "Read the campaign sheet")
    page.keyboard.press("Enter")
    table = page.locator("table.sheet tbody tr")
    expect(table).to_have_count(3)
    assert page.evaluate("window.hadFocus") and page.evaluate("window.lostFocus ?? []") == []
    expect(table.nth(2)).to_contain_text("at onset; largest")
    pdf = page.pdf(prefer_css_page_size=True)
    assert len(re.findall(rb"/Type\s*/Page[^s]", pdf)) == 1  # the sheet is one A4 page
    assert re.search(rb"/MediaBox\s*\[\s*0 0 59[45](\.\d+)? 84[12]", pdf)  # 210 × 297 mm in points, portrait


def test_a_trip_and_its_repeat_and_a_reload_in_between(four_channels: str, open_page: Open) -> None:
    page = open_page("/units/1/plan")
    for mode in ("Uncertified", "Burst"):
        page.get_by_role("checkbox", name=mode, exact=True).uncheck()
    expect(page.get_by_text("3 runs")).to_be_visible()
    page.get_by_role("button", name="Drop run 1").click()
    expect(page.get_by_text("2 runs")).to_be_visible()
    page.reload()  # a draft survives
    expect(page.get_by_text("2 runs")).to_be_visible()
    page.get_by_role("button", name="Take it to the bench").click()
    see_to_everything(page)
    page.keyboard.press("Space")
    until(page, "Number(document.querySelector('.sheet .main .mono').innerText) > 1")
    page.reload()
    expect(page.get_by_role("button", name="Stop the run")).to_be_visible()
    expect(page.locator(".sheet .state")).to_have_text("protection tripped")
    expect(page.get_by_text("Tripped at", exact=True)).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("button", name="Repeat the run")).to_be_disabled()
    page.get_by_label("Protection tripped").check()
    page.get_by_role("button", name="Repeat the run").click()
    expect(page.get_by_role("button", name="Stop the run")).to_be_visible()
    expect(page.locator(".sheet .state")).to_have_text("protection tripped")
    page.get_by_role("link", name="Open this run").click()
    attempts = page.locator("section", has=page.get_by_role("heading", name="Attempts")).locator("tbody tr")
    expect(attempts).to_have_count(2)
    expect(attempts.nth(1)).to_contain_text("stands for the run")
    expect(attempts.nth(0)).to_contain_text("dB")
    attempts.nth(0).get_by_role("button", name="Choose").click()
    page.get_by_label("Reason").fill("The first one was cold")
    page.get_by_role("button", name="Choose it").click()
    expect(page.get_by_text("chosen by Tamsin Oduwell: The first one was cold")).to_be_visible()


def test_a_second_person_watches_asks_and_takes_over(open_page: Open) -> None:
    page = open_page("/units/1/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    see_to_everything(page)
    second = open_page("/campaigns/1/live", person="Joren Haldvik")
    expect(second.get_by_text("Tamsin Oduwell is working at the bench; you are watching.")).to_be_visible()
    expect(second.get_by_role("button", name="Off")).to_be_enabled()  # stopping is for everyone
    page.keyboard.press("Space")  # once both see the bench: a page that comes after the run does not show its end
    for screen in (page, second):
        expect(screen.get_by_text("certified, at the limit")).to_be_visible()
    expect(second.locator(".controls button.act")).to_have_count(0)
    second.get_by_role("button", name="Ask to take over").click()
    expect(second.get_by_text("You have asked to take over")).to_be_visible()
    page.get_by_role("button", name="Hand it over").click()
    expect(second.get_by_text("You hold the bench.")).to_be_visible()
    expect(page.get_by_text("Joren Haldvik is working at the bench")).to_be_visible()
    second.keyboard.press("Space")
    expect(page.get_by_role("heading", name="Uncertified, 4 Ω")).to_be_visible()  # the first one watches now
    expect(page.get_by_text("uncertified, clipping")).to_be_visible()
    page.goto("/attempts/2")
    expect(page.get_by_text("Joren Haldvik").first).to_be_visible()


def test_a_verdict_leads_to_the_run_that_would_settle_it(open_page: Open) -> None:
    page = open_page("/units/1")
    expect(page.get_by_text("Would settle it: A certified run at 4 Ω and 14.4 V, all channels driven.")).to_be_visible()
    page.get_by_role("link", name="Add that run to a plan").click()
    expect(page.get_by_text("1 run", exact=True)).to_be_visible()
    expect(page.locator("tr.run")).to_contain_text("serves 75 W (Manual)")
    page.get_by_role("button", name="Take it to the bench").click()
    see_to_everything(page)
    page.keyboard.press("Space")
    expect(page.get_by_text("certified, at the limit")).to_be_visible()
    page.goto("/units/1")
    expect(page.get_by_text("no less than the 75 W claimed")).to_be_visible()
    expect(page.get_by_text("Would settle it")).to_have_count(0)  # it is settled


def test_a_finding_is_set_aside_and_the_budget_is_open(open_page: Open, tmp_path: Path) -> None:
    with sqlite3.connect(tmp_path / "rulvek.db") as records:
        records.execute("UPDATE model SET design = 'two-ab-mismatched'")
    page = open_page("/units/1/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    for _ in range(3):
        expect(page.locator(".controls .act")).not_to_have_class(re.compile("loading"))
        words = page.locator(".controls .act").inner_text()
        page.keyboard.press("Space")
        expect(page.locator(".controls .act")).not_to_have_text(words)
    page.keyboard.press("Space")  # the gains are found apart
    expect(page.get_by_role("alert").filter(has_text="Gains are")).to_be_visible()
    page.get_by_role("button", name="Skip").click()
    page.get_by_label("Reason").fill("To see it as it came")
    page.get_by_role("button", name="Skip it").click()
    see_to_everything(page)
    page.keyboard.press("Space")
    expect(page.get_by_text("certified, at the limit")).to_be_visible()
    expect(page.get_by_label("Findings of the checks")).to_contain_text("The channels lie")
    page.get_by_role("link", name="Open this run").click()
    expect(page.get_by_role("heading", name="Uncertainty of the weakest reading")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("^load .* rectangular"))).to_be_visible()
    page.get_by_role("button", name="Set channels-apart aside").click()
    page.get_by_label("Reason").fill("The pots stay where they are")
    page.get_by_role("button", name="Set it aside").click()
    expect(page.get_by_text("Set aside by Tamsin Oduwell: The pots stay where they are")).to_be_visible()


def test_a_reading_is_typed_by_keyboard_and_judged(open_page: Open) -> None:
    page = open_page("/units/1/typed")
    expect(page.get_by_role("heading", name="A reading by hand")).to_be_visible()
    say_the_run(page)
    choose(page, "How it ended", "at the limit")
    page.get_by_label("Channel 1").focus()
    for text in ("18.2", "18.3", "0.9", "Meter 4", "0.5", "14.4", "14.35", "9"):
        page.keyboard.press("Control+a")
        page.keyboard.type(text)
        page.keyboard.press("Tab")
    expect(page.get_by_label("Findings of the checks")).to_contain_text("above 78.5 %")  # 9 A cannot give 166 W
    page.reload()  # what was typed survives
    amps = page.get_by_label("Current, A")
    expect(amps).to_have_value("9")
    amps.focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("21.5")
    findings = page.get_by_label("Findings of the checks")
    expect(findings).not_to_contain_text("above 78.5 %")
    expect(findings).to_contain_text("controls-off")
    page.keyboard.press("Tab")  # the clamp at idle was not read
    for question in ("clamp was zeroed", "controls in test position"):
        page.keyboard.press("Tab")
        page.keyboard.press("Space")
        expect(page.get_by_label(question)).to_be_checked()
    expect(findings).to_have_count(0)
    page.get_by_label("Load, measured, Ω").fill("3.98")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile("/attempts/1"))
    expect(page.get_by_text("by hand, read with Meter 4")).to_be_visible()
    expect(page.locator(".verdicts")).to_contain_text("Backed")


def test_the_desk_keeps_its_numbers_in_the_address(open_page: Open) -> None:
    page = open_page("/desk")
    page.get_by_role("button", name="Bridged equivalent").click()
    page.get_by_label("Power of the pair, W").fill("108.16")
    expect(page.get_by_text("2 × 54.08 W at 4 Ω per channel")).to_be_visible()
    second = open_page(page.url.split("/", 3)[3].join(["/", ""]), person="Joren Haldvik")
    expect(second.get_by_text("2 × 54.08 W at 4 Ω per channel")).to_be_visible()
    page.get_by_label("Across the pair, Ω").fill("0")
    expect(page.get_by_role("alert").first).to_contain_text("a number above 0")
