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
from rulvek.services.benches.unattended import conduct_all
from rulvek.store import save
from tests.conftest import CERTIFIED, TAMSIN, begun_with, copy_of, new_unit, put_attempt, services_in, write_line
from tests.people import admit
from tests.serving import served
from tests.ui.conftest import WEB, choose
from tests.ui.test_people import enter, signed_in
from tests.ui.test_sizes import WCAG, sideways
from tests.ui.test_story import AXE, faults

ENGINEER, REVIEWER, MANAGER = "Ilse Varnholt", "Maren Toft", "Jory Halv"
WATTS = (80.2, 81.5, 79.6, 80.9, 82.0, 80.4, 81.1, 80.8)


@pytest.fixture
def lab(tmp_path: Path) -> Iterator[tuple[Services, str]]:
    copy_of(begun_with(eight_units), tmp_path)
    services = services_in(tmp_path)
    with served(services, WEB) as address:
        yield services, address
    services.close()


def eight_units(services: Services) -> None:
    """Eight units that were measured, as if on a real bench; three people with a role each."""
    write_line(services)
    for name, role in ((ENGINEER, Role.ENGINEER), (REVIEWER, Role.REVIEWER), (MANAGER, Role.MANAGER)):
        admit(services.database, name, roles=(role,))
    for at, watts in enumerate(WATTS):
        measured(services, f"T2-1{at}", watts)


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


def published(services: Services) -> int:
    """A rating of 75 W that three people brought as far as that."""
    lives = services.rating_lives
    made = lives.draft(1, RatingTerms(RatedAt("main", 4.0), 75.0), Actor(ENGINEER))
    made = lives.propose(made.id, made.seen, "", Actor(ENGINEER))
    made = lives.sign(made.id, made.seen, made.digest, Actor(REVIEWER))
    return lives.publish(made.id, made.seen, made.digest, Actor(MANAGER)).id


def test_somebody_without_an_account_reads_it_by_a_link(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    rating = published(services)
    manager = signed_in(browser, address, MANAGER)
    manager.goto(f"/ratings/{rating}")
    enter(manager.get_by_role("button", name="Make a link"))
    dialog = manager.get_by_role("dialog")
    expect(dialog.get_by_label("For whom")).to_be_focused()
    manager.keyboard.type("Brack lab")
    manager.keyboard.press("Enter")
    link = dialog.locator("code").inner_text()
    enter(dialog.get_by_role("button", name="I have it"))
    expect(manager.get_by_text("Brack lab until")).to_be_visible()

    context = browser.new_context(viewport={"width": 1280, "height": 800})
    stranger = context.new_page()
    stranger.goto(link)
    expect(stranger.get_by_role("heading", name="75 W")).to_be_visible()
    expect(stranger.get_by_role("table", name="Units of the sample").get_by_role("row")).to_have_count(10)
    expect(stranger.get_by_role("navigation")).to_have_count(0)  # nothing leads anywhere else
    assert [one.get_attribute("href") for one in stranger.get_by_role("link").all()] == [
        "#content",
        f"/api/shared/{link.rsplit('/', 1)[1]}/dossier.pdf",
    ]
    stranger.evaluate(AXE.read_text())
    assert faults(stranger, WCAG) == [] and not sideways(stranger)
    stranger.set_viewport_size({"width": 640, "height": 400})
    assert not sideways(stranger)
    stranger.set_viewport_size({"width": 1280, "height": 800})
    enter(manager.get_by_role("button", name="Withdraw it"))
    answer(manager, "Withdraw it", "Units from the field run hot.")
    stranger.reload()
    expect(stranger.get_by_text("This figure was withdrawn: Units from the field run hot.")).to_be_visible()
    enter(manager.get_by_role("button", name="End the link of Brack lab"))
    expect(manager.get_by_text("Nobody without an account sees it.")).to_be_visible()
    stranger.reload()
    expect(stranger.get_by_text("This link does not open anything.")).to_be_visible()
    expect(stranger.get_by_label("Password")).to_have_count(0)
    for page in (manager, stranger):
        page.context.close()


def test_an_audit_is_planned_and_its_proofs_come_to_the_bench(browser: Browser, lab: tuple[Services, str]) -> None:
    services, address = lab
    published(services)
    page = signed_in(browser, address, ENGINEER)
    page.goto("/ratings")
    page.get_by_role("link", name="Audits").press("Enter")
    expect(page.get_by_text("No audit is planned.")).to_be_visible()
    choose(page, "Model", "Test two")
    enter(page.get_by_role("button", name="Plan an audit"))
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Units")).to_be_focused()
    page.keyboard.press("Control+A")
    page.keyboard.type("0")
    page.keyboard.press("Enter")
    expect(dialog.locator("[aria-invalid=true]")).to_have_count(1)
    page.keyboard.press("Control+A")
    page.keyboard.type("1")
    page.keyboard.press("Enter")
    audit = page.get_by_role("region", name="Audit of Test two")
    expect(audit).to_contain_text("1 unit every month")
    expect(audit).to_contain_text("1 unit still owed.")
    choose(page, "Next unit", "T2-0001, lot 2601")
    enter(audit.get_by_role("button", name="Plan its proofs"))
    page.wait_for_url("**/campaigns/*/live")
    (campaign,) = services.campaigns.listed("open").items[:1]
    conduct_all(services.database, services.preparations, services.benches, campaign.id, TAMSIN)
    page.goto("/ratings/audits")
    expect(audit.get_by_role("button", name="1 of 1")).to_contain_text("Done")
    expect(audit).to_contain_text("Nothing is owed now.")
    expect(audit.get_by_role("row", name="T2-0001")).to_contain_text("at least 7")
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    page.context.close()
