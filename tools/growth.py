"""How pages do as the archive grows: median time and number of statements of every GET that a page uses.

On the demo's records as they are, with about a hundred models, and with a hundred thousand attempts of these models.
"""

import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, closing, contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx
from counting import counted
from demo_person import ENGINEER
from fastapi.testclient import TestClient
from grow import grow
from sqlalchemy import func, select

from rulvek.api.app import app_for
from rulvek.composition import Services, make_services
from rulvek.core.records.actor import Actor
from rulvek.store import tables
from rulvek.store.engine import Database

Report = Callable[[str, float, float], None]
TIMES = 9
SIZES = ((), (("series", 9),), (("unit", 7), ("campaign", 7)))
"""What is multiplied on the way to each size: below what, and by how much."""
PAGES = {
    "the line": "/line?limit=50",
    "a model": "/models/1",
    "a unit": "/units/1",
    "a campaign": "/campaigns/1",
    "an attempt": "/attempts/1",
    "an attempt's steps": "/attempts/1/steps",
    "evidence": "/attempts?limit=20",
    "campaigns": "/campaigns",
    "the bench": "/bench",
    "now": "/now",
    "finding": "/find?words=CB1",
    "today": "/queue",
    "what would settle": "/queue/settling",
    "methods": "/methods/versions",
    "gear": "/gear",
    "people": "/people",
    "ratings": "/ratings",
    "a rating": "/ratings/1",
    "audits": "/audits",
    "history of a model": "/history/model/1",
    "versions of a model": "/models/1/versions",
    "side by side": "/side-by-side?kind=unit&id=1&id=2",
}


def pages(audits: httpx.Response) -> dict[str, str]:
    """All of them; which audits there are is asked first."""
    return PAGES | {"an audit": f"/audits/{audits.json()[0]['id']}"}


SLOWEST_MS = {"the line": 150.0, "what would settle": 150.0, "ratings": 300.0, "the bench": 50.0}
PAGE_MS = 50.0
GROWTH = 1.3
GROWS = {"the line", "ratings", "what would settle", "today"}
"""Their time follows the models that they show or look at, and the campaigns that wait."""


@dataclass(frozen=True)
class Measured:
    """One page at one size."""

    milliseconds: float
    statements: int


@contextmanager
def asked(services: Services) -> Iterator[TestClient]:
    """Somebody who is signed in at these records."""
    person = next(one for one in services.accounts.everybody() if one.name == ENGINEER)
    token = services.accounts.give_token(person.id, "growth", person.roles, 1, Actor(ENGINEER)).token
    with TestClient(app_for(services), "http://localhost", headers={"Authorization": f"Bearer {token}"}) as http:
        yield http


def measured(archives: Sequence[tuple[Services, TestClient]], path: str) -> list[Measured]:
    """One page of several archives: once to warm up, then in turns, so that a slow moment falls on all of them."""
    taken: list[list[float]] = [[] for _ in archives]
    for _, http in archives:
        http.get(f"/api{path}").raise_for_status()
    for _ in range(TIMES):
        for own, (_, http) in zip(taken, archives, strict=True):
            start = time.perf_counter()
            http.get(f"/api{path}")
            own.append(1000 * (time.perf_counter() - start))
    statements = []
    for services, http in archives:
        services.conclusions.flush()
        with counted(services.database, *services.asides) as count:
            http.get(f"/api{path}")
        statements.append(count.statements)
    return [Measured(statistics.median(own), count) for own, count in zip(taken, statements, strict=True)]


def grown(demo: Path, folder: Path) -> Iterator[Services]:
    """The demo's records at every size, one archive after the other."""
    for at, steps in enumerate(SIZES):
        path = folder / f"{at}.db"
        _copy(folder / f"{at - 1}.db" if at else demo / "rulvek.db", path)
        services = make_services(Database(f"sqlite:///{path}"), demo / "captures", float("inf"))
        for below, factor in steps:
            grow(services.database, factor, below)
        with services.database.reading() as session:
            counts = [session.scalar(select(func.count()).select_from(one)) for one in (tables.Model, tables.Attempt)]
        print(f"  {counts[0]} models, {counts[1]} attempts", flush=True)
        services.rating_board.board()
        services.later.flush()
        services.conclusions.flush()
        yield services


def _copy(source: Path, target: Path) -> None:
    """A whole copy, of records that are open as well."""
    with closing(sqlite3.connect(source)) as one, closing(sqlite3.connect(target)) as other:
        one.backup(other)


def growth(report: Report, demo: Path, folder: Path) -> Path:
    """All pages at all sizes, and what is asked of them; returns where in the folder the largest records are."""
    with ExitStack() as open_ones:
        archives = []
        for services in grown(demo, folder):
            open_ones.callback(services.close)
            archives.append((services, open_ones.enter_context(asked(services))))
        for name, path in pages(archives[0][1].get("/api/audits")).items():
            first, middle, large = measured(archives, path)
            print(
                f"  {name}: {first.milliseconds:.0f}, {middle.milliseconds:.0f}, {large.milliseconds:.0f} ms, "
                f"{first.statements}, {middle.statements}, {large.statements} statements"
            )
            report(f"{name}, large archive, ms", large.milliseconds, SLOWEST_MS.get(name, PAGE_MS))
            report(f"{name}, statements more than at first", large.statements - first.statements, 0)
            if name not in GROWS:
                report(f"{name}, large ÷ middle", large.milliseconds / middle.milliseconds, GROWTH)

    return folder / f"{len(SIZES) - 1}.db"


if __name__ == "__main__":
    import sys

    with tempfile.TemporaryDirectory() as temporary:
        growth(
            lambda what, value, most: print(f"    {what}: {value:.2f} ({most:g})"), Path(sys.argv[1]), Path(temporary)
        )
