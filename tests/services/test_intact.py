"""A capture that is not as it was kept: it shows wherever its figure does, and no more once it is as it was."""

from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from rulvek.composition import Services
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.store import named
from rulvek.store.verify import verify
from tests.conftest import CERTIFIED, TAMSIN, conducted

CODE = "capture-changed"


@pytest.fixture
def campaign_id(services: Services, unit_id: int) -> int:
    """A conducted campaign."""
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    conducted(services, campaign.id)
    services.conclusions.flush()
    return campaign.id


def first_wav(services: Services) -> Path:
    with services.database.reading() as session:
        attempt_id, kept = named.captures(session)[0]
    assert attempt_id == 1
    return services.files.path(kept.path)


def said(client: TestClient, campaign_id: int) -> dict[str, bool]:
    """Where it says that a capture is not intact."""
    sheet = client.get(f"/api/campaigns/{campaign_id}").json()
    run = next(run for run in sheet["runs"] if run["chosen"]["id"] == 1)
    verdict = next(one for one in client.get("/api/units/1").json()["unit"]["verdicts"] if one["attempt_id"] == 1)
    return {
        "attempt": CODE in [one["code"] for one in client.get("/api/attempts/1").json()["attempt"]["findings"]],
        "sheet": CODE in [one["code"] for one in run["chosen"]["findings"]],
        "sheet as CSV": CODE in client.get(f"/api/campaigns/{campaign_id}/sheet.csv").text,
        "evidence": CODE in client.get("/api/attempts").text,
        "verdict": any("not intact" in doubt for doubt in verdict["doubts"]),
    }


def test_it_shows_wherever_the_figure_does(services: Services, client: TestClient, campaign_id: int) -> None:
    wav = first_wav(services)
    whole = wav.read_bytes()
    assert services.intact.look() == []
    assert not any(said(client, campaign_id).values())
    wav.write_bytes(whole[:-4] + b"\0\0\0\1")
    assert services.intact.look() == [1]
    services.conclusions.flush()
    assert all(said(client, campaign_id).values()), said(client, campaign_id)
    assert services.intact.look() == []  # it is told once
    refused = client.get("/api/attempts/1/capture.wav")
    assert (refused.status_code, refused.json()["code"]) == (409, CODE)

    wav.write_bytes(whole)
    assert services.intact.look() == [1]
    services.conclusions.flush()
    assert not any(said(client, campaign_id).values()), said(client, campaign_id)
    assert client.get("/api/attempts/1/capture.wav").content == whole
    with services.database.reading() as session:
        from rulvek.store.queries.records import history_page

        told = [entry.action for entry in history_page(session, [f"campaign/{campaign_id}"], None, 50)]
    assert told[:2] == ["found a file as it was kept", "found a file changed"]


def test_a_file_that_is_gone_is_not_intact_and_the_seals_still_hold(services: Services, campaign_id: int) -> None:
    first_wav(services).unlink()
    assert services.intact.look() == [1]
    faults = verify(services.database, services.files).faults
    assert [fault for fault in faults if "capture" not in fault] == []  # what was sealed is as it was
    assert services.catalogue.unit(1, rule=DecisionRule.AS_STORED).unit.verdicts


def test_nobody_waits_for_it_and_it_ends_with_the_server(services: Services, campaign_id: int) -> None:
    rests: list[float] = []
    services.intact.look(rests.append)
    with services.database.reading() as session:
        assert len(rests) == len(named.captures(session)) > 1
    assert all(rest > 0 for rest in rests)
    first_wav(services).unlink()
    services.intact.close()
    assert services.intact.look() == []
