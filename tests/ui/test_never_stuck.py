"""Nobody is ever stuck: a typo, a mangled draft, a change of mind, a server that is gone and comes back."""

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.conftest import services_in
from tests.ports import free_port
from tests.serving import served
from tests.ui.conftest import WEB, Open, choose, come_in

pytestmark = pytest.mark.long


def test_a_typo_in_a_wish_marks_its_field_and_leaves_the_plan(open_page: Open) -> None:
    page = open_page("/units/1/plan")
    expect(page.get_by_text("9 runs")).to_be_visible()
    held = page.get_by_label("Held at, V")
    for typo in ("30", "14,4,4", "abc", ""):
        held.fill(typo)
        expect(held).to_have_attribute("aria-invalid", "true") if typo else held.blur()
        expect(page.get_by_text("9 runs")).to_be_visible()
    page.reload()
    expect(page.get_by_text("9 runs")).to_be_visible()
    expect(page.get_by_label("Held at, V")).to_have_value("14.4")


def test_a_draft_that_the_server_refuses_can_be_left(open_page: Open) -> None:
    page = open_page("/gear")
    draft = {"now": {"thd_n_limit": -1, "modes": ["certified"]}, "before": []}
    page.evaluate("draft => localStorage.setItem('rulvek.plan.1', draft)", json.dumps(draft))
    page.goto("/units/1/plan")
    expect(page.get_by_role("alert").first).to_be_visible()
    page.get_by_role("button", name="Begin with the usual wishes").click()
    expect(page.get_by_text("9 runs")).to_be_visible()


def test_another_wish_keeps_what_was_changed_by_hand_and_undo_survives_a_reload(open_page: Open) -> None:
    page = open_page("/units/1/plan")
    expect(page.get_by_text("9 runs")).to_be_visible()
    page.get_by_role("button", name="Drop run 9").click()
    expect(page.get_by_text("8 runs")).to_be_visible()
    choose(page, "Dwell", "Long, 30 s")
    expect(page.get_by_text("8 runs")).to_be_visible()
    page.get_by_label("Held at, V").fill("13.8")
    expect(page.locator("tr.run").first).to_contain_text("13.8")
    expect(page.get_by_text("8 runs")).to_be_visible()
    page.reload()
    expect(page.get_by_text("8 runs")).to_be_visible()
    for _ in range(6):
        if page.get_by_text("9 runs").count():
            break
        page.locator("h1").click()
        page.keyboard.press("Control+z")
        page.wait_for_timeout(300)
    expect(page.get_by_text("9 runs")).to_be_visible()


def test_ctrl_enter_with_an_open_editor_takes_the_change_along(open_page: Open) -> None:
    page = open_page("/units/1/plan")
    page.get_by_role("button", name="Change run 1", exact=True).click()
    editor = page.locator(".editor")
    editor.get_by_label("Tone, Hz").fill("0")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("alert").filter(has_text="A run is being changed")).to_be_visible()
    editor.get_by_label("Tone, Hz").fill("100")
    page.keyboard.press("Control+z")  # the field's own, not the plan's
    page.keyboard.press("Control+y")
    page.keyboard.press("Control+Enter")
    page.wait_for_url(re.compile(r"/campaigns/\d+/live"))
    expect(page.get_by_text("100 Hz").first).to_be_visible()


def test_a_server_that_is_gone_is_said_and_all_goes_on_when_it_is_back(open_page: Open, tmp_path: Path) -> None:
    folder, port = tmp_path / "second", free_port()
    folder.mkdir()
    services = services_in(folder)
    page = open_page("/gear")
    with served(services, WEB, port) as url:
        come_in(page.context, url, "Tamsin Oduwell")
        page.goto(f"{url}/gear")
        expect(page.get_by_role("heading", name="Gear")).to_be_visible()
        page.wait_for_timeout(1000)
    lost = page.get_by_role("alert").filter(has_text="The server does not answer. What you see is as it was at")
    expect(lost).to_be_visible()
    expect(page.get_by_role("heading", name="Gear")).to_be_visible()  # what was shown is shown
    page.get_by_role("button", name="Enter an instrument").click()
    page.get_by_label("Name", exact=True).fill("Meter 9")
    page.get_by_role("button", name="Put it on the register").click()
    expect(page.locator("form").get_by_role("alert")).to_contain_text("The server does not answer.")
    page.get_by_role("link", name="Desk").click()  # a part that was not loaded yet
    with served(services, WEB, port):
        expect(lost).to_be_hidden()
        expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    services.close()
