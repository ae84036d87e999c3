"""A bundle of another lab on screen: sent, rehearsed, taken in; what it brought is looked at and never run."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import expect

from rulvek.core.records.bundles import Scope
from tests.conftest import CERTIFIED, JOREN, TAMSIN, add_unit, conducted, services_in, write_line
from tests.ui.conftest import Open


@pytest.fixture
def from_another_lab(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    """A unit that nobody here has, with a campaign that was conducted there and one that was only planned."""
    lab = services_in(tmp_path_factory.mktemp("other"))
    write_line(lab)
    unit_id = add_unit(lab, "T2-0009")
    conducted(lab, lab.campaigns.create(unit_id, JOREN, CERTIFIED).id)
    lab.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    yield lab.bundles.pack(Scope.UNIT, unit_id, JOREN).path
    lab.close()


def test_a_bundle_is_rehearsed_taken_in_and_goes_out_again(open_page: Open, from_another_lab: Path) -> None:
    page = open_page("/line")
    page.get_by_role("link", name="From another lab").click()
    page.locator("input[type=file]").set_input_files(from_another_lab)
    table = page.get_by_role("table", name="Rehearsal of the bundle")
    expect(table.get_by_role("row").filter(has_text="T2-0009")).to_have_count(3)  # the unit and its campaigns
    expect(page.get_by_text("Packed by Joren Haldvik at a lab that does not name itself")).to_be_visible()
    page.get_by_role("button", name="Take it in").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("Taken in: 3 attempts of 2 campaigns.")).to_be_visible()

    page.goto("/campaigns/2/live")
    expect(page.get_by_text("Conducted by another lab: it is looked at here, and never run.")).to_be_visible()
    expect(page.get_by_role("button", name="Off", exact=False).first).to_be_visible()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Start")).to_have_count(0)
    page.goto("/campaigns/1")
    expect(page.get_by_text("Bench 1, another lab, simulated")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save as bundle").click()
    assert saved.value.suggested_filename == "T2-0009, campaign 1.bundle.zip"

    # What came back from there is all on record.
    page.goto("/line/bundle")
    page.locator("input[type=file]").set_input_files(saved.value.path())
    expect(page.get_by_text("All of it is on record already.")).to_be_visible()
    expect(page.get_by_role("button", name="Take it in")).to_be_disabled()
    page.locator("input[type=file]").set_input_files({"name": "no.zip", "mimeType": "application/zip", "buffer": b"PK"})
    expect(page.get_by_text("The file is no bundle that can be read.")).to_be_visible()
