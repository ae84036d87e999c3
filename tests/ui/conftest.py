"""A served application with the built front end, and Debian's Chromium to look at it."""

import time
from collections.abc import Callable, Iterator
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from rulvek.composition import Services, make_services
from rulvek.store.engine import Database
from tests.conftest import services_in, write_line
from tests.people import token_of
from tests.serving import served

# Only to end a test that would wait for ever: how fast Rulvek is, `make bench` measures.
PATIENCE_MS = 60_000
WEB = Path(__file__).parents[2] / "web" / "dist"
CHROMIUM_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    return {"executable_path": "/usr/bin/chromium", "args": CHROMIUM_ARGUMENTS}


@pytest.fixture
def address(tmp_path: Path, request: pytest.FixtureRequest) -> Iterator[str]:
    """A server of its own, whose bench runs three times as fast as a real one, unless a ``bench_speed`` is marked."""
    marked = request.node.get_closest_marker("bench_speed")
    services = services_in(tmp_path, bench_speed=marked.args[0] if marked else 3.0)
    if not request.node.get_closest_marker("empty"):
        write_line(services)
    services.benches.watch()
    with served(services, WEB) as url:
        yield url
    services.close()


@pytest.fixture
def lab(tmp_path: Path) -> Iterator[tuple[Services, str]]:
    """Records as a lab finds them, with nobody in them, and where they are served."""
    database = Database(f"sqlite:///{tmp_path}/rulvek.db")
    database.migrate()
    services = make_services(database, tmp_path / "captures", 3.0)
    with served(services, WEB) as address:
        yield services, address
    services.close()


Open = Callable[..., Page]


@pytest.fixture
def open_page(browser: Browser, address: str) -> Iterator[Open]:
    """Open a browser of its own, with its own storage: a second person at a second screen."""
    contexts: list[BrowserContext] = []
    faults: list[str] = []

    def open_one(path: str, person: str | None = "Tamsin Oduwell", touched: bool = False) -> Page:
        context = browser.new_context(
            viewport={"width": 1280, "height": 800}, base_url=address, has_touch=touched, is_mobile=touched
        )
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: faults.append(str(error)))
        if person is not None:
            come_in(context, address, person)
        page.goto(path)
        return page

    yield open_one
    for context in contexts:
        context.close()
    assert faults == []


def choose(page: Page, label: str, option: str) -> None:
    """Pick one of a list that opens."""
    # The list's own box is pressed, once it stands still: what is chosen is written over its combobox, and a
    # press by force while a dialog still slides in lands beside it.
    box = page.locator(".ant-select", has=page.get_by_role("combobox", name=label, exact=True))
    opened = page.locator(".ant-select-dropdown:visible")
    box.click()
    opened.get_by_title(option, exact=True).click()
    expect(opened).to_have_count(0)  # while it fades, the next one would be taken for it


def say_the_run(page: Page, ohms: str = "4", volts: str = "14.4") -> None:
    """What a reading from outside is never filed without: its load and how the supply was held."""
    page.get_by_label("Load, Ω").fill(ohms)
    page.get_by_label("Held at, V").fill(volts)


def until(page: Page, holds: str) -> None:
    """Wait until an expression holds on a page; asked from outside, as a page may not evaluate text itself."""
    end = time.monotonic() + PATIENCE_MS / 1000
    while not page.evaluate(holds):
        assert time.monotonic() < end, f"never came to be: {holds}"
        page.wait_for_timeout(20)


def come_in(context: BrowserContext, address: str, person: str) -> None:
    """Be somebody who is signed in already."""
    name = f"rulvek_session_{urlsplit(address).port}"
    context.add_cookies([{"name": name, "value": token_of(person), "url": address}])
