"""What several folders of tests share: an application on its own records, with one small series on record."""

import math
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient

from rulvek.api.app import app_for
from rulvek.api.context import Services, make_services
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.plan import Wishes
from rulvek.services.catalogue import NewClaim
from rulvek.services.views.campaign import CampaignView
from rulvek.store import queries, tables
from rulvek.store.database import Database

PERSON = {"X-Rulvek-Person": "Tamsin%20Oduwell"}


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The files that take longest go first, so that no worker is left alone with one at the end."""
    items.sort(key=lambda item: "ui" not in item.path.parts)


@pytest.fixture
def services(tmp_path: Path) -> Iterator[Services]:
    """Use cases on empty, migrated records and a bench that does not wait."""
    database = Database(f"sqlite:///{tmp_path / 'rulvek.db'}")
    database.migrate()
    made = make_services(database, tmp_path / "captures", bench_speed=math.inf)
    yield made
    made.bench.close()
    database.close()


@pytest.fixture
def client(services: Services) -> Iterator[TestClient]:
    """HTTP to the same use cases, as a named person."""
    with TestClient(app_for(services), headers=PERSON) as http:
        yield http


def write_line(services: Services) -> int:
    """One series, one two-channel model with a claim, one unit; returns the unit's id."""
    with services.database.writing() as session:
        series = queries.add(session, tables.Series(name="Test series", purpose="Vehicles"))
        model = queries.add(
            session,
            tables.Model(
                series_id=series.id,
                name="Test two",
                topology="AB",
                description="2 channels",
                regulated=False,
                supply_low_volts=10.5,
                supply_high_volts=16.0,
                sensitivity_volts=1.0,
                test_controls=["Gain to 1 V"],
                design="two-ab",
            ),
        )
        group = tables.ChannelGroup(
            model_id=model.id, name="main", channels=[1, 2], rated_loads=[4.0, 2.0], bridged_loads=[4.0], bass=False
        )
        queries.add(session, group)
        unit = queries.add(
            session,
            tables.Unit(
                model_id=model.id,
                serial="T2-0001",
                lot="2601",
                revision="A",
                origin="Pulled from production",
                received_at=datetime.now(UTC),
            ),
        )
    claim = NewClaim(group="main", document="Manual", watts=75.0, load_ohms=4.0, supply_volts=14.4, thd_n_percent=1.0)
    services.catalogue.add_claim(model.id, claim, "Tamsin Oduwell")
    return unit.id


@pytest.fixture
def unit_id(services: Services) -> int:
    """The only unit on record."""
    return write_line(services)


CERTIFIED = Wishes(modes=(Mode.CERTIFIED,))
"""Certified runs only, by load."""


def prepare(services: Services, campaign_id: int) -> CampaignView:
    """Everything before power seen to, for every wiring; returns the campaign."""
    for wiring in services.campaigns.get(campaign_id).wirings:
        services.preparing.see_to_all(campaign_id, wiring.number, "Tamsin Oduwell")
    return services.campaigns.get(campaign_id)


def certified_campaign(services: Services, unit_id: int) -> CampaignView:
    """A certified campaign, ready to start."""
    return prepare(services, services.campaigns.create(unit_id, "Tamsin Oduwell", CERTIFIED).id)


CERTIFIED_PLAN = {"modes": ["certified"]}
ITEMS = ("clamp", "loads", "controls", "gains", "supply")


def prepare_over_http(http: httpx.Client, campaign: dict[str, Any], wiring: int = 1, base: str = "/api") -> None:
    """Everything before power of one wiring, as a browser does it."""
    for item in ITEMS:
        body = {"item": item, "ticked": campaign["test_controls"], "turn": True}
        answer = http.post(f"{base}/campaigns/{campaign['id']}/wirings/{wiring}/preparations", json=body)
        assert answer.status_code == 200, answer.text
