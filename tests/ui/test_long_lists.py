"""Lists of years: little of them is drawn, and nobody who comes back to a page reads all of it again."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Request, expect

from tests.conftest import certified_campaign, put_attempt, services_in, write_line
from tests.serving import served
from tests.ui.conftest import WEB, Open, until

FIRST, LATER, PAGES = 20, 40, 6
"""So many are shown at once, so many more each time, until there are no more."""


@pytest.fixture
def address(tmp_path: Path) -> Iterator[str]:
    """A server with more than two hundred attempts on record."""
    services = services_in(tmp_path)
    write_line(services)
    campaign = certified_campaign(services, 1).id
    for number in range(FIRST + (PAGES - 1) * LATER):
        put_attempt(services, campaign, (80.0 + number / 100, 81.0))
    with served(services, WEB) as url:
        yield url
    services.close()


@pytest.mark.long
def test_evidence_is_read_to_its_end_drawn_in_parts_and_not_read_again(open_page: Open) -> None:
    page = open_page("/evidence")
    asked: list[str] = []

    def remember(request: Request) -> None:
        if "/api/attempts?" in request.url:
            asked.append(request.url)

    page.on("request", remember)
    drawn = page.locator("tbody tr:not([aria-hidden])")
    expect(drawn).to_have_count(FIRST)
    for _ in range(PAGES - 1):
        with page.expect_response(re.compile(r"/api/attempts\?")):
            page.get_by_role("button", name="Show older ones").click()
        expect(page.locator(".ant-btn-loading")).to_have_count(0)
    expect(page.get_by_role("button", name="Show older ones")).to_have_count(0)
    assert len(asked) == PAGES
    assert drawn.count() < 120
    page.evaluate("scrollTo(0, document.body.scrollHeight)")
    expect(page.get_by_role("link", name="1 simulated", exact=True)).to_be_in_viewport()
    page.evaluate("scrollTo(0, document.body.scrollHeight / 2)")
    until(page, "![...document.querySelectorAll('tbody a')].some(one => one.innerText === '1')")
    assert 20 < drawn.count() < 120
    page.wait_for_timeout(6000)  # longer than what was read counts as fresh
    for state in ("hidden", "visible"):
        page.evaluate(f"Object.defineProperty(document, 'visibilityState', {{value: '{state}', configurable: true}})")
        page.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
    page.wait_for_timeout(1500)
    assert len(asked) == PAGES
