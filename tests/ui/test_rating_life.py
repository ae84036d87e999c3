"""A rating through its life on screen, by three people with a role each, by keyboard."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from rulvek.composition import Services
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.sample import RatedAt
from rulvek.core.records.actor import Actor
from rulvek.core.records.people import Role
from rulvek.store import save
from tests.conftest import CERTIFIED, TAMSIN, new_unit, put_attempt, services_in, write_line
from tests.people import admit
from tests.serving import served
from tests.ui.conftest import WEB
from tests.ui.test_people import enter, signed_in

ENGINEER, REVIEWER, MANAGER = "Ilse Varnholt", "Maren Toft", "Jory Halv"
WATTS = (80.2, 81.5, 79.6, 80.9, 82.0, 80.4, 81.1, 80.8)


@pytest.fixture
def lab(tmp_path: Path) -> Iterator[tuple[Services, str]]:
    """Eight units that were measured, as if on a real bench."""
    services = services_in(tmp_path)
    write_line(services)
    for name, role in ((ENGINEER, Role.ENGINEER), (REVIEWER, Role.REVIEWER), (MANAGER, Role.MANAGER)):
        admit(services.database, name, roles=(role,))
    for at, watts in enumerate(WATTS):
        measured(services, f"T2-1{at}", watts)
    with served(services, WEB) as address:
        yield services, address
    services.close()


def measured(services: Services, serial: str, watts: float) -> None:
    with services.database.writing() as session:
        unit_id = save.unit(session, replace(new_unit(1, serial), lot="2601"))
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (watts, watts + 1), simulated=False)


def answer(page: Page, act: str, reason: str = "") -> None:
    """Say yes to what is asked, with a reason where one is wanted."""
    dialog = page.get_by_role("dialog")
    if reason:
        expect(dialog.get_by_label("Reason")).to_be_focused()
        page.keyboard.type(reason)
        page.keyboard.press("Enter")
    else:
        enter(dialog.get_by_role("button", name=act))
    expect(dialog).to_have_count(0)


def test_drafted_proposed_sent_back_signed_published_and_withdrawn(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    engineer, reviewer, manager = (signed_in(browser, address, name) for name in (ENGINEER, REVIEWER, MANAGER))
    engineer.goto("/ratings")
    board = engineer.get_by_role("region", name="Ratings by load")
    board.get_by_role("link", name="printed").first.press("Enter")  # to what its units bear
    enter(engineer.get_by_role("button", name="Draft a rating"))
    dialog = engineer.get_by_role("dialog")
    expect(dialog.get_by_label("Figure")).to_be_focused()
    engineer.keyboard.press("Control+A")
    engineer.keyboard.type("99")
    engineer.keyboard.press("Enter")
    expect(engineer).to_have_url(f"{address}/ratings/1")
    enter(engineer.get_by_role("button", name="Propose it"))
    enter(engineer.get_by_role("dialog").get_by_role("button", name="Propose it"))
    expect(engineer.get_by_role("dialog")).to_contain_text("99 W cannot be proposed")
    engineer.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    enter(engineer.get_by_role("button", name="Change it"))
    expect(dialog.get_by_label("Figure")).to_be_focused()
    engineer.keyboard.press("Control+A")
    engineer.keyboard.type("77")
    engineer.keyboard.press("Enter")
    expect(engineer.get_by_role("heading", name="77 W")).to_be_visible()
    enter(engineer.get_by_role("button", name="Propose it"))
    answer(engineer, "Propose it")
    expect(engineer.get_by_text("It waits for a reviewer who neither measured nor proposed it.")).to_be_visible()
    expect(engineer.get_by_role("button", name="Sign it")).to_have_count(0)

    reviewer.goto("/ratings")
    first = reviewer.get_by_role("region", name="To do first")
    first.get_by_role("link", name="Sign or send back").press("Enter")
    expect(reviewer.get_by_text("77 W × 2 continuous into 4 Ω")).to_be_visible()
    enter(reviewer.get_by_role("button", name="Send it back"))
    answer(reviewer, "Send it back", "Leave some room.")
    engineer.reload()
    expect(engineer.get_by_text(f"{REVIEWER}: Leave some room.")).to_be_visible()
    enter(engineer.get_by_role("button", name="Change it"))
    expect(dialog.get_by_label("Figure")).to_be_focused()
    engineer.keyboard.press("Control+A")
    engineer.keyboard.type("75")
    engineer.keyboard.press("Enter")
    expect(dialog).to_have_count(0)
    expect(engineer.get_by_role("heading", name="75 W")).to_be_visible()
    enter(engineer.get_by_role("button", name="Propose it"))
    answer(engineer, "Propose it")

    # Who still looks at the draft of before is told, and nothing is signed that was not looked at.
    reviewer.reload()
    enter(reviewer.get_by_role("button", name="Sign it"))
    expect(reviewer.get_by_role("dialog")).to_contain_text("75 W × 2 continuous into 4 Ω")
    answer(reviewer, "Sign it")
    expect(reviewer.get_by_text("It waits for a manager to publish it.")).to_be_visible()
    manager.goto("/ratings/1")
    enter(manager.get_by_role("button", name="Publish it"))
    answer(manager, "Publish it")
    expect(manager.get_by_text("published since")).to_be_visible()

    measured(services, "T2-99", 74.0)
    reviewer.goto("/ratings")
    first.get_by_role("link", name="Look again").press("Enter")
    again = reviewer.get_by_role("region", name="Look again")
    expect(again).to_contain_text("Unit T2-99 gives 74.")
    for box in again.get_by_role("checkbox").all():
        box.press("Space")
    enter(reviewer.get_by_role("button", name="Confirm it"))
    answer(reviewer, "Confirm it", "One in twenty may be.")
    expect(again).to_have_count(0)
    manager.reload()
    enter(manager.get_by_role("button", name="Withdraw it"))
    answer(manager, "Withdraw it", "The next revision is near.")
    expect(manager.get_by_text("withdrawn since")).to_be_visible()
    expect(manager.get_by_text("“The next revision is near.”")).to_be_visible()
    for page in (engineer, reviewer, manager):
        page.context.close()


def test_a_series_is_proposed_as_a_whole(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    page = signed_in(browser, address, ENGINEER)
    page.goto("/ratings")
    enter(page.get_by_role("button", name="Propose what the units of"))
    dialog = page.get_by_role("dialog")
    enter(dialog.get_by_role("button", name="Propose them"))
    expect(dialog).to_contain_text("1 rating proposed.")
    expect(dialog).to_contain_text("No unit has a figure at these conditions.")
    dialog.get_by_role("link", name="W", exact=False).first.press("Enter")
    expect(page).to_have_url(f"{address}/ratings/1")
    assert services.rating_lives.one(1).state.value == "proposed"
    page.context.close()


def test_two_reviewers_at_the_same_proposal_and_a_double_click(browser: Browser, lab: tuple[Services, str]) -> None:
    """The second one is told that the first one signed; a double click signs once."""
    services, address = lab
    drafted = services.rating_lives.draft(1, RatingTerms(RatedAt("main", 4.0), 70.0), Actor(ENGINEER))
    services.rating_lives.propose(drafted.id, drafted.seen, "", Actor(ENGINEER))
    admit(services.database, "Odd Second", roles=(Role.REVIEWER,))
    one, other = (signed_in(browser, address, name) for name in (REVIEWER, "Odd Second"))
    for page in (one, other):
        page.goto("/ratings/1")
        enter(page.get_by_role("button", name="Sign it"))
    one.get_by_role("dialog").get_by_role("button", name="Sign it").dblclick()
    expect(one.get_by_text("It waits for a manager to publish it.")).to_be_visible()
    enter(other.get_by_role("dialog").get_by_role("button", name="Sign it"))
    expect(other.get_by_role("dialog")).to_contain_text(f"{REVIEWER} signed it meanwhile.")
    assert [step.by for step in services.rating_lives.one(1).steps] == [ENGINEER, ENGINEER, REVIEWER]
    for page in (one, other):
        page.context.close()
