"""A method of the lab's own, in the browser: proposed, approved by somebody else, planned under."""

from playwright.sync_api import expect

from rulvek.composition import Services
from rulvek.core.records.people import Role
from tests.people import admit
from tests.ui.conftest import Open, choose
from tests.ui.test_sizes import WCAG, sideways
from tests.ui.test_story import AXE, faults


def test_a_method_is_proposed_approved_and_planned_under(open_page: Open, services: Services) -> None:
    admit(services.database, "Odile Marchwood", roles=(Role.REVIEWER,))
    page = open_page("/gear")
    page.get_by_role("link", name="Methods").click()
    page.get_by_role("button", name="Propose a version").click()
    page.get_by_label("Why").fill("Our licensed copy says so")
    choose(page, "Value", "thd_n_limit_percent, %; ships as 1")
    page.get_by_label("Is to be").fill("much")
    page.get_by_role("button", name="Propose it").click()
    expect(page.get_by_text("a number from 0 to 100 %").first).to_be_visible()
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    page.reload()  # nothing of it is lost
    page.get_by_role("button", name="Propose a version").click()
    expect(page.get_by_label("Why")).to_have_value("Our licensed copy says so")
    page.get_by_label("Is to be").fill("0,5")
    page.get_by_role("button", name="Propose it").click()
    version = page.get_by_role("article").filter(has_text="Standard, version 1")
    expect(version).to_contain_text("waits for an approval")
    other = open_page("/gear/methods", person="Odile Marchwood")
    other.get_by_role("button", name="Approve Standard, version 1").dblclick()
    expect(other.get_by_role("article").filter(has_text="Standard, version 1")).to_contain_text("in use")
    page.goto("/units/1/plan")
    expect(page.get_by_label("THD+N limit")).to_have_value("0.5")
    page.get_by_role("button", name="Take it to the bench").click()
    page.wait_for_url("**/live")
    newest = services.campaigns.listed(None, 1, "all", None).items[0]
    assert services.campaigns.get(newest.id).thd_n_limit_percent == 0.5
    page.goto("/gear/methods")
    expect(page.get_by_role("article").filter(has_text="Standard, version 1")).to_contain_text("1 campaign")
