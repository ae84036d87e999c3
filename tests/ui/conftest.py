"""A served application with the built front end, and Debian's Chromium to look at it."""

import os
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, BrowserContext, Page

from rulvek.api.context import make_services
from rulvek.store.database import Database
from tests.conftest import write_line

CHROMIUM_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    return {"executable_path": "/usr/bin/chromium", "args": CHROMIUM_ARGUMENTS}


@pytest.fixture
def address(tmp_path: Path) -> Iterator[str]:
    """A server of its own, whose bench runs three times as fast as a real one."""
    database = Database(f"sqlite:///{tmp_path / 'rulvek.db'}")
    database.migrate()
    write_line(make_services(database, tmp_path / "captures", 1.0))
    database.close()
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    environment = os.environ | {
        "RULVEK_DATA_FOLDER": str(tmp_path),
        "RULVEK_PORT": str(port),
        "RULVEK_BENCH_SPEED": "3",
    }
    server = subprocess.Popen([sys.executable, "-m", "rulvek.cli", "serve"], env=environment, stdout=subprocess.DEVNULL)
    url = f"http://127.0.0.1:{port}"
    for _ in range(200):
        try:
            httpx.get(f"{url}/api/bench", timeout=1)
            break
        except httpx.TransportError:
            time.sleep(0.05)
    yield url
    server.terminate()
    server.wait(10)


Open = Callable[..., Page]


@pytest.fixture
def open_page(browser: Browser, address: str) -> Iterator[Open]:
    """Open a browser of its own, with its own storage: a second person at a second screen."""
    contexts: list[BrowserContext] = []
    faults: list[str] = []

    def open_one(path: str, person: str | None = "Tamsin Oduwell") -> Page:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(15_000)
        page.on("pageerror", lambda error: faults.append(str(error)))
        if person is not None:
            page.add_init_script(f"localStorage.setItem('rulvek.person', {person!r})")
        page.goto(path)
        return page

    yield open_one
    for context in contexts:
        context.close()
    assert faults == []
