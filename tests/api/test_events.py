"""Somebody who follows a campaign from far behind: every step comes, once and in order, without waiting for news."""

from itertools import islice

import httpx
import pytest

from rulvek.api.routers import campaigns
from rulvek.composition import Services
from rulvek.store import save
from tests.conftest import PERSON, certified_campaign, put_attempt
from tests.serving import served

BEHIND = 1_700


@pytest.mark.parametrize("known", [0, 400])
def test_a_watcher_who_is_far_behind_hears_all_of_it_at_once(
    services: Services, unit_id: int, known: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(campaigns, "HEARTBEAT_SECONDS", 600.0)  # whoever waited for one would wait for ever
    campaign = certified_campaign(services, unit_id)
    attempt = put_attempt(services, campaign.id, (80.0, 81.0))
    steps = [("level", 0.1 * number, {"level_dbv": -40.0}) for number in range(BEHIND)]
    with services.database.writing() as session:
        save.steps(session, attempt, steps)
    ids = [step.id for step in services.campaigns.steps(attempt)]
    assert len(ids) >= BEHIND
    headers = PERSON | ({"Last-Event-ID": str(ids[known - 1])} if known else {})
    with served(services) as address, httpx.Client(base_url=address, headers=headers, timeout=60) as http:
        with http.stream("GET", f"/api/campaigns/{campaign.id}/events") as told:
            lines = (int(line.removeprefix("id:")) for line in told.iter_lines() if line.startswith("id:"))
            heard = list(islice(lines, len(ids) - known))
    assert heard == ids[known:]
