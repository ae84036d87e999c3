"""A bench screen that cannot be misused: what keys do and don't, Off over everything, one record for two clicks."""

import re
import sqlite3
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Page, Route, expect

from tests.conftest import CERTIFIED_PLAN, PERSON
from tests.people import acting
from tests.ui.conftest import Open, choose, until
from tests.ui.test_story import see_to_everything

pytestmark = pytest.mark.bench_speed(0.7)  # so that a run is still on when a slow browser has come to switch it off


def to_the_bench(open_page: Open) -> Page:
    page = open_page("/units/1/plan")
    page.get_by_role("button", name="Take it to the bench").click()
    expect(page.get_by_role("list", name="Before power")).to_be_visible()
    return page


def running(open_page: Open) -> Page:
    page = to_the_bench(open_page)
    see_to_everything(page)
    run_on(page)
    return page


def run_on(page: Page) -> None:
    page.keyboard.press("Space")
    until(page, "Number(document.querySelector('.sheet .main .mono').innerText) > 0.5")


def test_space_does_what_the_focused_control_does(open_page: Open) -> None:
    page = to_the_bench(open_page)
    action = page.locator(".controls .act")
    before = action.inner_text()
    page.get_by_role("button", name="Skip …").focus()
    page.keyboard.press("Space")
    expect(page.get_by_role("dialog")).to_contain_text("Why can this be left out?")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    off = page.get_by_role("button", name="Off")
    off.focus()
    with page.expect_request(re.compile("/api/bench/off")):
        page.keyboard.press("Space")
    assert action.inner_text() == before, "the list before power went on"


def test_a_held_key_acts_once(open_page: Open, address: str) -> None:
    page = to_the_bench(open_page)
    action = page.locator(".controls .act")
    expect(action).to_contain_text("Zero the clamp")
    for _ in range(40):  # the browser marks all but the first as repeats
        page.keyboard.down("Space")
        page.wait_for_timeout(25)
    page.keyboard.up("Space")
    expect(action).to_contain_text("Measure the loads")
    wiring = httpx.get(f"{address}/api/campaigns/1", headers=PERSON).json()["wirings"][0]
    assert [one["state"] for one in wiring["preparations"]].count("done") == 1


def test_off_comes_before_an_open_dialog(open_page: Open) -> None:
    page = running(open_page)
    page.keyboard.press("c")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Comment on this attempt")
    page.get_by_label("Reason").fill("half a sentence")
    page.keyboard.press("Escape")
    expect(page.locator(".sheet .state")).to_have_text("stopped by operator")
    expect(page.get_by_label("Reason")).to_have_value("half a sentence")  # nothing is lost
    page.keyboard.press("Escape")
    expect(dialog).to_be_hidden()
    expect(page.get_by_text("Switched off by Tamsin Oduwell")).to_be_visible()


def test_off_is_in_reach_of_the_mouse_over_a_dialog(open_page: Open) -> None:
    page = running(open_page)
    page.keyboard.press("c")
    expect(page.get_by_role("dialog")).to_be_visible()
    box = page.locator(".controls .off").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(page.locator(".sheet .state")).to_have_text("stopped by operator")


def test_an_off_that_nobody_answers_says_so_and_goes_on_trying(open_page: Open) -> None:
    page = running(open_page)

    def unheard(route: Route) -> None:
        route.abort()

    page.route("**/api/bench/off*", unheard)
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Off …")).to_be_visible()
    expect(page.get_by_text("Switch off at the supply.")).to_be_visible()
    page.unroute("**/api/bench/off*")
    expect(page.get_by_text("Switch off at the supply.")).to_be_hidden()
    expect(page.locator(".sheet .state")).to_have_text("stopped by operator")


def test_another_persons_run_is_switched_off_at_the_second_press(open_page: Open) -> None:
    page = running(open_page)
    watcher = open_page("/campaigns/1/live", person="Joren Haldvik")
    expect(watcher.get_by_text("you are watching")).to_be_visible()
    expect(watcher.locator(".controls button.act")).to_have_count(0)
    watcher.keyboard.press("Space")
    watcher.keyboard.press("Escape")
    expect(watcher.get_by_role("alert").filter(has_text="Tamsin Oduwell’s run")).to_be_visible()
    expect(page.get_by_role("button", name="Stop the run")).to_be_visible()  # still on
    watcher.keyboard.press("Escape")
    expect(page.locator(".sheet .state")).to_have_text("stopped by operator")
    expect(page.get_by_text("Switched off by Joren Haldvik")).to_be_visible()


def test_controls_are_ticked_one_by_one(open_page: Open, tmp_path: Path, address: str) -> None:
    with sqlite3.connect(tmp_path / "rulvek.db") as records:
        records.execute('UPDATE model SET test_controls = \'["Gain to 1 V", "Low-pass off"]\'')
    page = to_the_bench(open_page)
    action = page.locator(".controls .act")
    for words in ("Zero the clamp", "Measure the loads"):
        expect(action).to_contain_text(words)
        page.keyboard.press("Space")
    expect(action).to_contain_text("Gain to 1 V: in position")
    page.keyboard.press("Space")
    expect(page.get_by_label("Gain to 1 V")).to_be_checked()
    expect(page.get_by_label("Low-pass off")).not_to_be_checked()
    page.wait_for_timeout(300)
    wiring = httpx.get(f"{address}/api/campaigns/1", headers=PERSON).json()["wirings"][0]
    assert [one["state"] for one in wiring["preparations"] if one["item"] == "controls"] == ["open"]
    page.get_by_label("Low-pass off").check()
    expect(action).to_contain_text("Match the gains")


def test_nothing_of_one_campaign_is_left_in_the_next(open_page: Open, address: str) -> None:
    plan = {"unit_id": 1, "plan": CERTIFIED_PLAN}
    for _ in range(2):
        httpx.post(f"{address}/api/campaigns", json=plan, headers=PERSON).raise_for_status()
    page = open_page("/campaigns/1/live")

    def up_to_the_gains() -> None:
        action = page.locator(".controls .act")
        for words in ("Zero the clamp", "Measure the loads", "in position"):
            expect(action).to_contain_text(words)
            page.keyboard.press("Space")
        expect(action).to_contain_text("Match the gains")

    up_to_the_gains()
    choose(page, "Overlap", "10 dB")
    page.get_by_label("Overlap").blur()
    # Within the page, as a link goes: a reload would hide what is left standing.
    page.evaluate("history.pushState({}, '', '/campaigns/2/live'); dispatchEvent(new PopStateEvent('popstate'))")
    expect(page.get_by_role("link", name="Campaign 2")).to_be_visible()
    up_to_the_gains()
    expect(page.locator(".overlap")).to_contain_text("0 dB")
    expect(page.locator(".overlap")).not_to_contain_text("10 dB")


def test_two_clicks_make_one_campaign(open_page: Open, address: str) -> None:
    page = open_page("/units/1/plan")
    button = page.get_by_role("button", name="Take it to the bench")
    expect(button).to_be_enabled()
    button.evaluate("one => { one.click(); one.click(); }")
    page.wait_for_url(re.compile(r"/campaigns/\d+/live"))
    assert len(httpx.get(f"{address}/api/campaigns", headers=PERSON).json()["items"]) == 1


def test_what_was_seen_to_on_another_day_is_seen_to_again(open_page: Open, tmp_path: Path) -> None:
    page = to_the_bench(open_page)
    see_to_everything(page)
    with sqlite3.connect(tmp_path / "rulvek.db") as records:
        records.execute("UPDATE preparation SET at = '2026-01-02 09:00:00.000000'")
    page.reload()
    expect(page.get_by_text("to be seen to again: that was on another day")).to_have_count(5)
    expect(page.locator(".controls .act")).to_contain_text("Zero the clamp")


def test_what_somebody_else_did_is_told_also_in_an_open_form(open_page: Open, address: str) -> None:
    page = open_page("/models/1")
    page.get_by_role("button", name="Add a claim").click()
    page.get_by_label("Document").fill("Carton")
    page.wait_for_timeout(1000)  # the page has heard of what was there before
    claim = {"document": "Web page", "group": "main", "watts": 90, "load_ohms": 4}
    httpx.post(f"{address}/api/models/1/claims", json=claim, headers=acting("Joren Haldvik")).raise_for_status()
    told = page.get_by_role("dialog").get_by_role("status")
    expect(told).to_contain_text("Meanwhile Joren Haldvik added a claim: 90 W at 4 Ω, Web page")
    expect(page.locator("table td").get_by_text("90", exact=True)).to_be_attached()  # the list behind the form, too
    expect(page.get_by_label("Document")).to_have_value("Carton")


def test_two_tabs_of_a_form_ask_which_counts(open_page: Open) -> None:
    page = open_page("/units/1/typed")
    beside = page.context.new_page()
    beside.goto("/units/1/typed")
    beside.get_by_label("Load, Ω").fill("2")
    expect(page.get_by_text("This form was changed in another window")).to_be_visible()
    page.get_by_role("button", name="Take what stands there").click()
    expect(page.get_by_label("Load, Ω")).to_have_value("2")


def test_seven_live_tabs_take_no_connection_from_off(open_page: Open) -> None:
    page = to_the_bench(open_page)
    see_to_everything(page)
    for _ in range(7):  # a browser opens six connections to one server
        beside = page.context.new_page()
        beside.goto(page.url)
        expect(beside.get_by_role("button", name="Off")).to_be_visible()
    page.bring_to_front()
    run_on(page)  # last of all: a slow machine takes longer to open seven pages than a run takes
    with page.expect_response(re.compile("/api/bench/off"), timeout=2000):
        page.keyboard.press("Escape")
    expect(page.locator(".sheet .state")).to_have_text("stopped by operator")


SMALL = """() => [...document.querySelectorAll('main button, main a, main input, main [role=combobox], header button')]
  .filter(one => one.checkVisibility() && !one.closest('[aria-hidden=true]'))
  .map(one => [one.closest('label, .ant-select') ?? one, one])
  .filter(([box]) => Math.min(box.getBoundingClientRect().height, box.getBoundingClientRect().width) < 44)
  .map(([box, one]) => `${one.tagName} ${one.innerText || one.ariaLabel || one.className} `
    + `${Math.round(box.getBoundingClientRect().width)} × ${Math.round(box.getBoundingClientRect().height)}`)"""


@pytest.mark.parametrize("size", [(1024, 768), (800, 1280)])
def test_what_is_touched_at_the_bench_is_large_enough(open_page: Open, size: tuple[int, int]) -> None:
    page = open_page("/units/1/plan", touched=True)
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.get_by_role("button", name="Take it to the bench").click()
    expect(page.get_by_role("list", name="Before power")).to_be_visible()
    assert "\n".join(page.evaluate(SMALL)) == ""
    see_to_everything(page)
    page.keyboard.press("Space")
    until(page, "Number(document.querySelector('.sheet .main .mono').innerText) > 0.5")
    assert "\n".join(page.evaluate(SMALL)) == ""
