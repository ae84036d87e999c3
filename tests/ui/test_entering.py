"""A lab's first hour on an empty folder: its own series, model and unit, as far as a plan and a verdict."""

import pytest
from playwright.sync_api import Page, expect

from tests.ui.conftest import Open, choose, say_the_run


def typed(page: Page, *texts: str) -> None:
    """Type into the field that has the focus, and into those after it."""
    for text in texts:
        page.keyboard.type(text)
        page.keyboard.press("Tab")


@pytest.mark.empty
def test_an_empty_folder_comes_to_a_verdict_on_the_labs_own_model(open_page: Open) -> None:
    page = open_page("/line")
    expect(page.get_by_text("There is no product line on record yet.")).to_be_visible()
    page.get_by_role("button", name="Add a series").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Name")).to_be_focused()
    page.keyboard.type("Tern")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Add a model to Tern").click()
    expect(dialog.get_by_label("Name")).to_be_focused()
    page.keyboard.type("Tern 2")
    dialog.get_by_label("Channels", exact=True).focus()
    typed(page, "2", "4 2x")
    expect(dialog.get_by_text("“2x” is no number.")).to_be_visible()
    dialog.get_by_label("Rated loads, Ω").fill("4 2")
    dialog.get_by_label("Bridged, Ω").fill("4")
    expect(dialog.get_by_role("group", name="Channels as they are counted")).to_contain_text(
        "12main"
    )  # drawn as they are typed
    dialog.get_by_role("button", name="Add the model").dblclick()
    expect(page.get_by_role("heading", name="Tern 2")).to_be_visible()
    page.get_by_role("button", name="Add a claim").click()
    dialog.get_by_label("Document").fill("Manual")
    dialog.get_by_label("Power, W").fill("75")
    dialog.get_by_label("Load, Ω").fill("4")
    dialog.get_by_label("Supply, V").fill("14.4V")  # it can be left out, and yet nothing goes without it unseen
    dialog.get_by_role("button", name="Add the claim").click()
    expect(dialog.get_by_label("Supply, V")).to_be_focused()
    expect(dialog.get_by_text("“14.4V” is no number.")).to_be_visible()
    dialog.get_by_label("Supply, V").fill("14,4")
    dialog.get_by_role("button", name="Add the claim").click()
    expect(page.get_by_role("table", name="Claims of Tern 2")).to_contain_text("Nobody has tested it at 4 Ω.")
    page.get_by_role("button", name="Receive a unit").click()
    expect(page.get_by_label("Serial number")).to_be_focused()
    typed(page, "T2-A-0001", "2611", "B")
    choose(page, "How it came", "bought")
    page.get_by_label("Serial number").press("Enter")
    expect(page.get_by_role("heading", name="T2-A-0001")).to_be_visible()
    expect(page.get_by_text("Tern 2 · lot 2611 · revision B · bought, received")).to_be_visible()
    page.get_by_role("button", name="A reading by hand").click()
    say_the_run(page)
    choose(page, "How it ended", "at the limit")
    page.get_by_label("Channel 1").fill("18.2")
    page.get_by_label("Channel 2").fill("18.3")
    page.get_by_label("Instrument").fill("Meter 4")
    page.get_by_label("controls in test position").check()
    page.get_by_role("button", name="Keep the reading").click()
    expect(page.locator(".verdicts")).to_contain_text("Backed")
    page.goto("/line")
    expect(page.get_by_role("link", name="Tern 2")).to_have_count(1)  # once, however often it was pressed
