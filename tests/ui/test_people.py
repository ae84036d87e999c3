"""Coming in, going out, and who may what, on screen."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from rulvek.composition import Services
from rulvek.core.records.people import Role
from rulvek.demo.scenario import PEOPLE
from tests.conftest import TAMSIN, services_in, write_line
from tests.people import admit
from tests.serving import served
from tests.ui.conftest import PATIENCE_MS, WEB, Open, choose, come_in
from tests.ui.test_story import see_to_everything

PASSWORD = "nine brass washers"
GROUP = {"name": "main", "channels": 2, "rated_loads": [4]}
INJECTED = "<img src=x onerror=document.body.dataset.ran=1>"


def tab(browser: Browser, address: str) -> Page:
    page = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address).new_page()
    page.set_default_timeout(PATIENCE_MS)
    page.goto("/line")
    return page


def test_a_lab_begins_by_keyboard_and_its_people_come_in(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    page = tab(browser, address)
    expect(page.get_by_role("heading", name="The first account")).to_be_visible()
    expect(page.get_by_role("navigation", name="Places")).to_have_count(0)
    expect(page.get_by_label("One-time code")).to_be_focused()
    code = services.sessions.first_code()
    for text in (code, "Ilse Varnholt", "short"):
        page.keyboard.type(text)
        page.keyboard.press("Tab")
    page.get_by_label("Password, at least 12 characters", exact=True).press("Enter")
    expect(page.get_by_role("alert").filter(has_text="12 to 200 characters")).to_be_visible()
    expect(page.get_by_label("Your name")).to_have_value("Ilse Varnholt")  # nothing is lost
    page.get_by_label("Password, at least 12 characters", exact=True).fill(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Your lab begins")).to_be_visible()
    page.get_by_role("link", name="Add people").click()
    page.get_by_role("button", name="Add a person").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Pell Okrent")
    dialog.get_by_role("checkbox", name="Technician").check()
    dialog.get_by_role("button", name="Add the person").dblclick()
    told = page.get_by_role("dialog", name="One-time code for Pell Okrent")
    given = told.locator("code").inner_text()
    told.get_by_role("button", name="I have it").click()
    row = page.get_by_role("row", name="Pell Okrent")
    expect(row).to_contain_text("has a code, no password yet")
    assert len(services.accounts.everybody()) == 2

    pell = tab(browser, address)
    pell.get_by_role("button", name="I was given a code").click()
    pell.get_by_label("One-time code").fill(given.lower())
    pell.get_by_label("Your name").fill("Pell Okrent")
    pell.get_by_label("Password, at least 12 characters", exact=True).fill("eleven tin washers")
    pell.keyboard.press("Enter")
    expect(pell.get_by_role("link", name="Pell Okrent")).to_be_visible()
    expect(pell.get_by_role("heading", name="Line")).to_be_visible()
    expect(pell.get_by_role("button", name="Add a series")).to_have_count(0)  # not a technician's
    pell.goto("/people")
    expect(pell.get_by_role("button", name="Add a person")).to_have_count(0)

    page.get_by_role("button", name="Pell Okrent has left").click()
    page.get_by_role("button", name="Close the account").click()
    expect(row).to_contain_text("left")
    pell.goto("/line")
    expect(pell.get_by_role("heading", name="Sign in")).to_be_visible()
    pell.get_by_label("Your name").fill("Pell Okrent")
    pell.get_by_label("Password", exact=True).fill("eleven tin washers")
    pell.keyboard.press("Enter")
    expect(pell.get_by_role("alert").filter(has_text="do not belong together")).to_be_visible()
    for one in (page, pell):
        one.context.close()


def test_a_session_that_ends_loses_nothing_of_the_page(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    page = tab(browser, address)
    page.get_by_label("One-time code").fill(services.sessions.first_code())
    page.get_by_label("Your name").fill("Ilse Varnholt")
    page.get_by_label("Password, at least 12 characters", exact=True).fill(PASSWORD)
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Enter the first series").click()
    page.get_by_role("button", name="Add a series").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Tern")
    admit(services.database, "Dorrit Amsel", roles=(Role.ADMIN,))
    with services.database.writing() as session:
        session.connection().exec_driver_sql("UPDATE person_session SET ended_at = began_at")
    expect(page.get_by_role("heading", name="Sign in again")).to_be_visible()  # without a touch
    assert services.catalogue.line().series == []
    page.get_by_label("Password", exact=True).click()  # nothing of the page lies over it
    page.keyboard.type(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Sign in again")).to_have_count(0)
    expect(page.get_by_role("dialog").get_by_label("Name")).to_have_value("Tern")
    page.get_by_role("button", name="Add the series").click()
    expect(page.get_by_role("rowheader", name="Tern")).to_be_visible()
    page.context.close()


def test_the_demos_people_are_one_click_away(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    for name, roles in PEOPLE.items():
        services.accounts.make(name, roles, TAMSIN, demo=True)
    page = tab(browser, address)
    page.get_by_role("button", name="Odile Brannick Reviewer").click()
    expect(page.get_by_role("link", name="Odile Brannick")).to_be_visible()
    page.get_by_role("link", name="Odile Brannick").click()
    expect(page.get_by_text("signs what others propose")).to_be_visible()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("button", name="Odile Brannick Reviewer")).to_be_visible()
    page.context.close()


def test_text_is_shown_as_text_wherever_it_was_typed(open_page: Open) -> None:
    """Script in every field of the line that takes words: it stands there, and nothing runs."""
    page = open_page("/line")
    claim = {"document": INJECTED, "group": "main", "watts": 75, "load_ohms": 4, "stands_at": INJECTED}
    part = {"place": "other", "value": INJECTED, "mark": INJECTED}
    fuse = {"amps": 40, "in_circuit": False, "remark": INJECTED}
    facts = {"from_whom": INJECTED, "missing": INJECTED, "whereabouts": INJECTED, "contents": [{"what": INJECTED}]}
    inside = {"made_safe": True, "board_revision": INJECTED, "parts": [part], "fuses": [fuse], "remarks": INJECTED}
    listening = {
        "on": "2026-11-20",
        "source": INJECTED,
        "sound": {"sensor": INJECTED, "meters": [{"meter": INJECTED, "decibels": [120]}]},
        "comparisons": [{"than_unit": 1, "verdict": "better", "remark": INJECTED}],
        "remarks": INJECTED,
    }
    for path, made in (
        ("series", {"name": INJECTED, "purpose": INJECTED}),
        ("series/2/models", {"name": INJECTED, "description": INJECTED, "groups": [GROUP]}),
        (
            "models/2/units",
            {"serial": INJECTED, "lot": INJECTED, "revision": INJECTED, "origin": INJECTED, "facts": facts},
        ),
        ("models/2/claims", claim),
        ("models/2/revisions", {"name": f"{INJECTED}2", "changed": INJECTED}),
        ("models/2/lots", {"name": f"{INJECTED}2", "remarks": INJECTED}),
        ("models/2/documents", {"name": f"{INJECTED}2", "revision": INJECTED, "language": INJECTED}),
        ("units/2/insides", inside),
        ("units/2/listening", listening),
        ("people", {"name": INJECTED, "roles": ["viewer"]}),
    ):
        answer = page.request.post(f"/api/{path}", data=made, headers={"Origin": page.url.removesuffix("/line")})
        assert answer.status == 201, answer.text()
    for path in (
        *("/line", "/models/2", "/units/2", "/units/2/file", "/people", "/history/unit/2", "/history/model/2"),
        *("/side-by-side?kind=unit&id=1,2", "/models/2/receive"),
    ):
        page.goto(path)
        expect(page.locator("h1")).to_be_visible()
        page.wait_for_timeout(300)
        assert page.evaluate("document.body.dataset.ran") is None and page.locator("main img").count() == 0
    page.goto("/models/2")
    expect(page.get_by_role("heading", name=INJECTED)).to_be_visible()


@pytest.mark.long
def test_two_people_with_their_roles_do_a_campaign_together(browser: Browser, lab: tuple[Services, str]) -> None:
    """From the empty folder: the engineer enters and plans, the technician conducts, on the lab's own model."""
    services, address = lab
    admit(services.database, "Ilse Varnholt", roles=(Role.ENGINEER,))
    admit(services.database, "Pell Okrent", roles=(Role.TECHNICIAN,))
    engineer, technician = (signed_in(browser, address, name) for name in ("Ilse Varnholt", "Pell Okrent"))
    dialog = engineer.get_by_role("dialog")
    enter(engineer.get_by_role("button", name="Add a series"))
    expect(dialog.get_by_label("Name")).to_be_focused()
    engineer.keyboard.type("Tern")
    engineer.keyboard.press("Enter")
    enter(engineer.get_by_role("button", name="Add a model to Tern"))
    expect(dialog.get_by_label("Name")).to_be_focused()
    engineer.keyboard.type("Tern 2")
    dialog.get_by_label("Channels", exact=True).fill("2")
    dialog.get_by_label("Rated loads, Ω").fill("4")
    enter(dialog.get_by_role("button", name="Add the model"))
    enter(engineer.get_by_role("button", name="Add a claim"))
    for label, value in (("Document", "Manual"), ("Power, W", "75"), ("Load, Ω", "4"), ("Supply, V", "14.4")):
        dialog.get_by_label(label).fill(value)
    enter(dialog.get_by_role("button", name="Add the claim"))
    expect(dialog).to_have_count(0)  # it gives the focus back as it goes
    enter(engineer.get_by_role("button", name="Simulated stand-in: none"))
    choose(engineer, "Stand-in", "two-ab, 2 channels, class AB")
    enter(dialog.get_by_role("button", name="Keep it"))
    expect(engineer.get_by_role("button", name="Simulated stand-in: two-ab")).to_be_visible()

    technician.get_by_role("link", name="Tern 2").press("Enter")
    expect(technician.get_by_role("button", name="Add a claim")).to_have_count(0)
    enter(technician.get_by_role("button", name="Receive a unit"))
    expect(technician.get_by_label("Serial number")).to_be_focused()
    technician.keyboard.type("TN-1")
    technician.keyboard.press("Enter")
    expect(technician.get_by_role("heading", name="TN-1")).to_be_visible()
    expect(technician.get_by_role("button", name="Plan a campaign")).to_have_count(0)  # an engineer's

    engineer.get_by_role("link", name="TN-1").press("Enter")
    enter(engineer.get_by_role("button", name="Plan a campaign"))
    engineer.get_by_role("checkbox", name="Uncertified").uncheck()
    engineer.get_by_role("checkbox", name="Burst", exact=True).uncheck()
    planned = engineer.get_by_role("status").filter(has_text="1 run, 1 wiring")
    expect(planned).to_be_visible()  # the plan follows the wishes
    enter(engineer.get_by_role("button", name="Take it to the bench"))
    expect(engineer).to_have_url(re.compile("/campaigns/1/live"))

    technician.goto("/campaigns/1/live")
    see_to_everything(technician)
    technician.keyboard.press("Space")
    for page in (technician, engineer):
        expect(page.get_by_text("certified, at the limit")).to_be_visible()
    engineer.goto("/models/1")
    claims = engineer.get_by_role("table", name="Claims of Tern 2")
    expect(claims).to_contain_text("simulated")
    expect(claims).to_contain_text("no less than the 75 W claimed")
    attempt = services.evidence.attempts().items[0]
    assert attempt.started_by == "Pell Okrent" and services.campaigns.get(1).created_by == "Ilse Varnholt"
    for page in (engineer, technician):
        page.context.close()


def signed_in(browser: Browser, address: str, name: str) -> Page:
    """A page of somebody who is signed in already."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    come_in(context, address, name)
    page = context.new_page()
    page.set_default_timeout(PATIENCE_MS)
    page.goto("/line")
    return page


def enter(button: Locator) -> None:
    """Press a button by keyboard, once it can be pressed."""
    expect(button).to_be_enabled()
    button.press("Enter")


MAY_NOT = (
    *("Add", "Change", "Withdraw", "Receive a", "Enter", "Calibrated", "Comment", "Repeat", "Plan a"),
    *("Take in", "It was opened", "A reading", "A sheet", "A recording"),
)
"""How the buttons begin that would be refused to who only looks."""
LOOKED_AT = ("/line", "/models/1", "/units/1", "/units/1/file", "/attempts/1", "/gear", "/evidence", "/campaigns/1")


@pytest.mark.long
def test_who_only_looks_is_offered_nothing_that_would_be_refused(browser: Browser, tmp_path: Path) -> None:
    """Every page of somebody with the role of a viewer; Off is theirs as everybody's."""
    services = services_in(tmp_path, bench_speed=3.0)
    write_line(services)
    admit(services.database, "Lorcan Fethery", roles=(Role.VIEWER,))
    with served(services, WEB) as address:
        _look_around(browser, address)
    services.close()


def _look_around(browser: Browser, address: str) -> None:
    engineer = signed_in(browser, address, "Tamsin Oduwell")
    engineer.goto("/units/1/plan")
    engineer.get_by_role("button", name="Take it to the bench").click()
    see_to_everything(engineer)
    engineer.keyboard.press("Space")
    expect(engineer.get_by_text("certified, at the limit")).to_be_visible()
    engineer.context.close()
    viewer = signed_in(browser, address, "Lorcan Fethery")
    for path in (
        "/line",
        "/models/1",
        "/units/1",
        "/units/1/file",
        "/attempts/1",
        "/gear",
        "/evidence",
        "/campaigns/1",
    ):
        viewer.goto(path)
        expect(viewer.locator("h1")).to_be_visible()
        viewer.wait_for_timeout(400)
        names = viewer.locator("button:not(.sort)").all_inner_texts()
        assert [name for name in names if name.startswith(MAY_NOT)] == [], path
    viewer.goto("/campaigns/1/live")
    expect(viewer.get_by_text("You are watching.")).to_be_visible()
    for button in viewer.get_by_role("list", name="Before power").get_by_role("button").all():
        expect(button).to_be_disabled()
    viewer.keyboard.press("c")
    expect(viewer.get_by_role("dialog")).to_have_count(0)
    expect(viewer.get_by_role("button", name="Off")).to_be_enabled()
    viewer.context.close()
