"""What several folders of tests share: an application on its own records, with one small series on record."""

import asyncio
import functools
import math
import shutil
import time
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import httpx
import pytest
from _pytest.nodeid import NodeId
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from sqlalchemy import select
from xdist.remote import Producer
from xdist.scheduler import LoadScopeScheduling

from rulvek import logs
from rulvek.api.app import app_for
from rulvek.composition import Services, make_services
from rulvek.core.readings.point import Load
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt, Ending, Reading
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.instruments import InstrumentEntry, InstrumentRole
from rulvek.core.records.product import ChannelGroup, Model, Product
from rulvek.core.records.standing import next_number
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import End, Mode
from rulvek.services.benches.unattended import conduct_all
from rulvek.services.views.campaign import CampaignView
from rulvek.store import load, save, tables
from rulvek.store.engine import Database
from rulvek.store.queries.records import instruments_in_use
from tests import postgres
from tests.people import BASE, acting, admit

httpx._config.DEFAULT_TIMEOUT_CONFIG.read = 60.0  # what may take how long is measured where it matters
TOGETHER = {"tests/ui/": "browser", "tests/services/test_demo.py": "demo"}
"""Tests that share what takes long to make, or would starve two cores with a second browser."""


class ByFile(LoadScopeScheduling):
    """A file's tests one after the other, and all those with a browser."""

    def _split_scope(self, nodeid: str) -> str:
        return "browser" if nodeid.startswith("tests/ui/") else nodeid.partition("::")[0]


class OneByOne(LoadScopeScheduling):
    """Each test on its own to whoever is free, but for those that belong together."""

    def _split_scope(self, nodeid: str) -> str:
        return next((group for start, group in TOGETHER.items() if nodeid.startswith(start)), nodeid)


def pytest_xdist_make_scheduler(config: pytest.Config, log: Producer) -> LoadScopeScheduling | None:
    made = {"loadfile": ByFile, "loadscope": OneByOne}.get(config.getvalue("dist"))
    return made(config, log) if made else None


PERSON = acting("Tamsin Oduwell")


logs.configure(least="warning")
# How fast a machine is, no test tells: an example that took long on a busy one is not a fault.
settings.register_profile("any machine", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("any machine")


LONGEST_FIRST = ("tests/long/test_off.py", "tests/services/test_demo.py", "tests/ui/", "tests/long/")


def _name_apart(items: list[pytest.Item]) -> None:
    """Workers are told by its id which test to run: of several with one id, all but the first would be left out."""
    for item in items:
        if "[" not in item.nodeid and "[" in item.name:  # the fuzz names its tests, but not their ids
            item._id = NodeId.parse(f"{item.nodeid.rpartition('::')[0]}::{item.name}")
    twice = [nodeid for nodeid, times in Counter(item.nodeid for item in items).items() if times > 1]
    if twice:
        raise pytest.UsageError(f"several tests are called {twice[0]}: only one of them would run")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What takes longest goes first, so that no worker is left alone with it at the end."""

    def rank(item: pytest.Item) -> int:
        found = (at for at, start in enumerate(LONGEST_FIRST) if item.nodeid.startswith(start))
        return next(found, len(LONGEST_FIRST))

    _name_apart(items)
    if postgres.WANTED:
        items[:] = [item for item in items if item.get_closest_marker("files") is None]
    items.sort(key=rank)


if postgres.WANTED:

    @pytest.fixture(autouse=True)
    def _records_end_with_their_test(tmp_path: Path) -> Iterator[None]:
        yield
        postgres.forget(tmp_path)


@pytest.fixture(autouse=True)
def _nobodys_loop(request: pytest.FixtureRequest) -> Iterator[None]:
    """A browser's event loop stays in its worker when its tests are over: what runs its own is not to mind."""
    loop = asyncio._get_running_loop()
    if loop is None or request.node.nodeid.startswith("tests/ui/"):
        yield
        return
    asyncio._set_running_loop(None)
    yield
    asyncio._set_running_loop(loop)


@pytest.fixture
def services(tmp_path: Path, request: pytest.FixtureRequest) -> Iterator[Services]:
    """Use cases on migrated records and a bench that does not wait, unless a ``bench_speed`` is marked.

    The records are empty, have the line where the test asks for its unit, or are what ``begins_with`` names.
    """
    speed, begun = (request.node.get_closest_marker(name) for name in ("bench_speed", "begins_with"))
    put = begun.args[0] if begun else write_line if "unit_id" in request.fixturenames else None
    if put is not None:
        copy_of(begun_with(put), tmp_path)
    made = services_in(tmp_path, speed.args[0] if speed else math.inf)
    yield made
    made.close()


def services_in(folder: Path, bench_speed: float = math.inf) -> Services:
    """Use cases on a folder, its records brought up to date."""
    return make_services(migrated(folder), folder / "captures", bench_speed)


def url_in(folder: Path) -> str:
    """Where the records of a folder are kept: in a file, or on a server if that is what is tested."""
    return postgres.url_of(folder) if postgres.WANTED else f"sqlite:///{folder}/rulvek.db"


def migrated(folder: Path) -> Database:
    """A folder's records, brought up to date; where there are none, a copy of empty ones that were migrated once."""
    path, is_there = folder / "rulvek.db", False
    if postgres.WANTED and not postgres.exists(folder):
        postgres.make(folder, _empty_records_on_a_server())
    elif not postgres.WANTED and not path.exists():
        path.write_bytes(_empty_records())
    else:
        is_there = True
    database = Database(url_in(folder))
    if is_there:
        database.migrate()
    return database


def copy_of(folder: Path, other: Path) -> None:
    """Records that nobody works with, copied with their files into a folder that has none."""
    shutil.copytree(folder, other, dirs_exist_ok=True)
    if postgres.WANTED:
        postgres.make(other, postgres.name_of(folder))


_BEGUN = TemporaryDirectory(prefix="rulvek-begun-")


@functools.cache
def begun_with(put: Callable[[Services], object]) -> Path:
    """A folder with what many tests of this process begin with: it is put on record once."""
    folder = Path(_BEGUN.name) / put.__qualname__
    folder.mkdir()
    services = services_in(folder)
    put(services)
    services.close()
    return folder


@functools.cache
def _empty_records() -> bytes:
    with TemporaryDirectory() as folder:
        path = Path(folder) / "rulvek.db"
        _begin(Database(f"sqlite:///{path}"))
        return path.read_bytes()


@functools.cache
def _empty_records_on_a_server() -> str:
    folder = Path("empty")
    postgres.make(folder)
    _begin(Database(postgres.url_of(folder)))
    return postgres.name_of(folder)


def _begin(database: Database) -> None:
    """What every test finds on record: two people."""
    database.migrate()
    admit(database, "Tamsin Oduwell", "Joren Haldvik")
    database.close()


@pytest.fixture
def client(services: Services) -> Iterator[TestClient]:
    """HTTP to the same use cases, as a named person."""
    with TestClient(app_for(services), BASE, headers=PERSON) as http:
        yield http


TAMSIN = Actor("Tamsin Oduwell")
JOREN = Actor("Joren Haldvik")
RECORDER = InstrumentEntry(InstrumentRole.OUTPUT, "Recorder", "R-1", percent_of_reading=0.05)
SUPPLY_INPUT = InstrumentEntry(
    InstrumentRole.SUPPLY, "Recorder, supply input", "R-1", percent_of_reading=0.05, digits=2, resolution=0.001
)


def write_line(services: Services) -> int:
    """One series, one two-channel model with a claim, one unit, what a lab reads with; returns the unit's id."""
    product = Product((ChannelGroup("main", (1, 2), (4.0, 2.0), (4.0,)),), topology="AB")
    with services.database.writing() as session:
        series = save.series(session, SeriesEntry("Test series", "Vehicles"))
        described = Model(0, "", "Test two", "2 channels", product, 1.0, ("Gain to 1 V",), "two-ab")
        model = save.model(session, series, described)
        unit = save.unit(session, new_unit(model, "T2-0001"))
    claim = ClaimTerms("Manual", "main", 75.0, 4.0, supply_volts=14.4, thd_n_percent=1.0)
    services.catalogue.add_claim(model, claim, TAMSIN)
    for entry in (RECORDER, SUPPLY_INPUT):
        services.gear.enter(entry, TAMSIN)
    return unit


def new_unit(model_id: int, serial: str, design: str = "") -> Unit:
    """A unit that was pulled from production today."""
    return Unit(0, model_id, serial, "2601", "A", "Pulled from production", datetime.now(UTC), design)


@pytest.fixture
def unit_id(services: Services) -> int:
    """The only unit on record."""
    with services.database.reading() as session:
        units = session.scalars(select(tables.Unit.id).order_by(tables.Unit.id).limit(1)).all()
    return units[0] if units else write_line(services)


CERTIFIED = Wishes(modes=(Mode.CERTIFIED,))
"""Certified runs only, by load."""


def prepare(services: Services, campaign_id: int) -> CampaignView:
    """Everything before power seen to for the first wiring; returns the campaign."""
    services.preparations.see_to_all(campaign_id, 1, TAMSIN)
    return services.campaigns.get(campaign_id)


def certified_campaign(services: Services, unit_id: int) -> CampaignView:
    """A certified campaign, ready to start."""
    return prepare(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id)


def add_unit(services: Services, serial: str) -> int:
    """Another unit of the first model; returns its id."""
    with services.database.writing() as session:
        return save.unit(session, new_unit(1, serial))


def put_attempt(
    services: Services,
    campaign_id: int,
    watts: tuple[float, ...],
    volts: float = 14.38,
    end: End = End.LIMIT,
    run: int = 0,
    **more: Any,
) -> int:
    """Put an attempt with its ending and readings on record, as a bench would; no watts make no reading.

    ``more`` are fields of the attempt.
    """
    with services.database.reading() as session:
        planned = load.campaign(session, campaign_id).runs[run]
    ending = Ending(
        end=end,
        ended_at=datetime.now(UTC),
        seconds=14.0,
        start_volts=14.4,
        level_dbv=-2.0,
        bracket_db=0.03 if end is End.LIMIT else None,
        supply_volts=volts if watts else None,
        supply_lowest=volts - 0.02 if watts else None,
        supply_amps=sum(watts) / volts / 0.5 if watts else None,
        temperature_c=25.0,
        companion_watts=0.0,
    )
    load_box = Load(planned.spec.load_ohms, planned.spec.load_ohms, 0.01)
    readings = tuple(
        Reading(channel, value, (value * planned.spec.load_ohms) ** 0.5, 0.0098, 0.0097, load_box)
        for channel, value in enumerate(watts, 1)
    )
    with services.database.writing() as session:
        instruments = instruments_in_use(session)
        made = Attempt(0, next_number(planned), JOREN.name, datetime.now(UTC), ending=ending, readings=readings)
        made = replace(made, **({"instruments": instruments, "simulated": "outside" not in more} | more))
        return save.attempt(session, campaign_id, planned.id, made)


def until(true: Callable[[], bool], seconds: float = 60.0) -> None:
    """Wait for something that another thread or process does; fails if it does not."""
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not happen"
        time.sleep(0.02)


def conducted(services: Services, campaign_id: int) -> None:
    """A whole campaign conducted by simulated hands."""
    conduct_all(services.database, services.preparations, services.benches, campaign_id, JOREN)


CERTIFIED_PLAN = {"modes": ["certified"]}
ITEMS = ("clamp", "loads", "controls", "gains", "supply")


def prepare_over_http(http: httpx.Client, campaign: dict[str, Any], wiring: int = 1, base: str = "/api") -> None:
    """Everything before power of one wiring, as a browser does it."""
    for item in ITEMS:
        body = {"item": item, "ticked": campaign["test_controls"], "turn": True}
        answer = http.post(f"{base}/campaigns/{campaign['id']}/wirings/{wiring}/preparations", json=body)
        assert answer.status_code == 200, answer.text
