"""Every waveform read again, in the browser: seen by an engineer, adopted by a reviewer."""

import pytest
from playwright.sync_api import expect

from rulvek.composition import Services
from rulvek.core.records.people import Role
from rulvek.services.gear.methods import MethodChange, MethodEntry
from tests.conftest import CERTIFIED, TAMSIN, conducted
from tests.people import admit
from tests.ui.conftest import Open
from tests.ui.test_sizes import WCAG, sideways
from tests.ui.test_story import AXE, faults


@pytest.mark.bench_speed(1000.0)
def test_what_another_method_would_change_is_seen_and_taken_over(open_page: Open, services: Services) -> None:
    admit(services.database, "Odile Marchwood", roles=(Role.REVIEWER,))
    conducted(services, services.campaigns.create(1, TAMSIN, CERTIFIED).id)
    entry = MethodEntry("Standard", (MethodChange("band_high_hz", "2500"),), "A narrower band")
    services.methods.propose(entry, TAMSIN)
    page = open_page("/evidence")
    page.get_by_role("link", name="Read the waveforms again").click()
    page.get_by_label("Of one model").fill("Tern 9")
    page.get_by_role("button", name="Read them").click()
    expect(page.get_by_text("There is no model “Tern 9” on record").first).to_be_visible()
    page.get_by_label("Of one model").fill("")
    page.get_by_role("button", name="Read them").dblclick()
    expect(page.get_by_text("All of them come to what stands.")).to_be_visible()
    page.goto("/gear/methods")
    page.get_by_role("link", name="what would it change?").click()
    expect(page.get_by_text("Standard, version 1, not approved")).to_be_visible()
    page.get_by_role("button", name="Read them").click()
    expect(page.get_by_text("not approved: what it comes to is for looking at")).to_be_visible()
    expect(page.get_by_role("table", name="Attempts that come to other figures")).to_be_visible()
    page.evaluate(AXE.read_text())
    assert faults(page, WCAG) == [] and not sideways(page)
    reviewer = open_page("/gear/methods", person="Odile Marchwood")
    reviewer.get_by_role("button", name="Approve Standard, version 1").click()
    expect(reviewer.get_by_role("article")).to_contain_text("in use")
    reviewer.goto("/evidence/read-again")
    expect(reviewer.get_by_role("button", name="Read them")).to_have_count(0)  # that is an engineer's
    reviewer.get_by_role("button", name="Adopt what changed").click()
    reviewer.get_by_role("dialog").get_by_role("textbox").fill("The band of our copy")
    reviewer.get_by_role("dialog").get_by_role("button", name="Adopt it").dblclick()
    reviewer.get_by_role("link", name="campaign 2").click()
    expect(reviewer.get_by_text("waveforms read again: attempt")).to_be_visible()
    assert services.campaigns.listed(None, 10, "all", None).items[0].id == 2
    page.reload()  # whoever looked sees the same
    expect(page.get_by_role("link", name="campaign 2")).to_be_visible()
