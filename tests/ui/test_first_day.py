"""A lab's first day in one go, with nothing but the keys: from the empty folder to a verdict on the simulated bench."""

import re

import pytest
from playwright.sync_api import Browser, expect

from rulvek.composition import Services
from tests.ui.conftest import PATIENCE_MS
from tests.ui.hands import Hands
from tests.ui.test_story import see_to_everything

pytestmark = pytest.mark.long
PASSWORD = "nine brass washers"


def test_from_the_empty_folder_to_a_verdict_by_keyboard(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    page = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address).new_page()
    page.set_default_timeout(PATIENCE_MS)
    page.goto("/")
    hands, dialog = Hands(page), page.get_by_role("dialog")
    hands.fill(page.get_by_label("One-time code"), services.sessions.first_code())
    hands.fill(page.get_by_label("Your name"), "Ilse Varnholt")
    hands.fill(page.get_by_label("Password, at least 12 characters", exact=True), PASSWORD)
    hands.keys.press("Enter")
    hands.press(page.get_by_role("link", name="Enter the first series"))
    hands.press(page.get_by_role("button", name="Add a series"))
    hands.fill(dialog.get_by_label("Name"), "Tern")
    hands.keys.press("Enter")
    expect(dialog).to_have_count(0)
    hands.press(page.get_by_role("button", name="Add a model to Tern"))
    hands.fill(dialog.get_by_label("Name"), "Tern 2")
    hands.fill(dialog.get_by_label("Channels", exact=True), "2")
    hands.fill(dialog.get_by_label("Rated loads, Ω"), "4")
    hands.press(dialog.get_by_role("button", name="Add the model"))
    expect(page.get_by_role("heading", name="Tern 2")).to_be_visible()
    expect(dialog).to_have_count(0)
    hands.press(page.get_by_role("button", name="Add a claim"))
    for label, text in (("Document", "Manual"), ("Power, W", "75"), ("Load, Ω", "4"), ("Supply, V", "14.4")):
        hands.fill(dialog.get_by_label(label), text)
    hands.press(dialog.get_by_role("button", name="Add the claim"))
    expect(dialog).to_have_count(0)
    hands.press(page.get_by_role("button", name="Simulated stand-in: none"))
    hands.choose(dialog.get_by_role("combobox", name="Stand-in"), "two-ab, 2 channels, class AB")
    hands.press(dialog.get_by_role("button", name="Keep it"))
    expect(dialog).to_have_count(0)

    hands.press(page.get_by_role("button", name="Receive a unit"))
    hands.fill(page.get_by_label("Serial number"), "TN-1")
    hands.choose(page.get_by_role("combobox", name="How it came"), "bought")
    hands.press(page.get_by_role("button", name="Receive the unit"))
    expect(page.get_by_role("heading", name="TN-1")).to_be_visible()
    hands.press(page.get_by_role("button", name="Plan a campaign"))
    hands.tick(page.get_by_role("checkbox", name="Uncertified"))
    hands.tick(page.get_by_role("checkbox", name="Burst", exact=True))
    expect(page.get_by_role("status").filter(has_text="1 run, 1 wiring")).to_be_visible()
    hands.keys.press("Control+Enter")
    page.wait_for_url(re.compile("/live"))
    see_to_everything(page)
    hands.keys.press("Space")
    expect(page.get_by_text("certified, at the limit")).to_be_visible()
    hands.press(page.get_by_role("link", name="Line", exact=True))
    hands.press(page.get_by_role("link", name="Tern 2"))
    expect(page.get_by_role("table", name="Claims of Tern 2")).to_contain_text("no less than the 75 W claimed")
    page.context.close()
