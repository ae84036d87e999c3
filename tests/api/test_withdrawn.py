"""A reading that is withdrawn stays on record and counts nowhere, until another entry lets it count again."""

from fastapi.testclient import TestClient

from rulvek.composition import Services
from tests.conftest import CERTIFIED, JOREN, certified_campaign, conducted


def test_a_reading_is_withdrawn_and_counts_again(client: TestClient, services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, JOREN, CERTIFIED)
    conducted(services, campaign.id)
    before = client.get("/api/models/1").json()
    verdict = before["claims"][0]["verdict"]
    attempt_id = verdict["attempt_id"]
    assert attempt_id is not None
    path = f"/api/attempts/{attempt_id}/withdrawal"
    assert client.post(path, json={}).json()["field"] == "reason"
    withdrawn = client.post(path, json={"reason": "The lead was off"})
    assert withdrawn.status_code == 201
    run = next(run for run in withdrawn.json()["runs"] if run["attempts"][0]["id"] == attempt_id)
    assert run["chosen"] is None and run["state"] == "waiting"
    after = client.get("/api/models/1").json()
    assert after["claims"][0]["verdict"]["kind"] == "no_evidence"
    assert after["reaches"] != before["reaches"]
    page = client.get(f"/api/attempts/{attempt_id}").json()["attempt"]
    assert page["weakest_watts"] > 1  # it stays on record
    assert (page["withdrawn"]["reason"], page["withdrawn"]["by"]) == ("The lead was off", "Tamsin Oduwell")
    assert client.post(path, json={"reason": "Again"}).status_code == 409

    assert client.post(path, json={"reason": "It was on", "withdrawn": False}).status_code == 201
    again = client.get("/api/models/1").json()
    assert again["claims"][0]["verdict"] == verdict and again["reaches"] == before["reaches"]
    assert client.get(f"/api/attempts/{attempt_id}").json()["attempt"]["withdrawn"] is None
    history = [entry["action"] for entry in client.get(f"/api/attempts/{attempt_id}").json()["history"]]
    assert {"withdrew a reading", "let a reading count again"} <= set(history)


def test_a_withdrawn_attempt_makes_room_for_the_one_before(
    client: TestClient, services: Services, unit_id: int
) -> None:
    campaign = certified_campaign(services, unit_id)
    assert client.post(f"/api/runs/{campaign.runs[0].id}/attempts", json={}).status_code == 201
    services.benches.wait()
    run = services.campaigns.get(campaign.id).runs[0]
    first = run.attempts[0].id
    assert (
        client.post(f"/api/runs/{run.id}/attempts", json={"cause": "other", "reason": "Once more"}).status_code == 201
    )
    services.benches.wait()
    second = services.campaigns.get(campaign.id).runs[0].attempts[-1].id
    assert services.campaigns.get(campaign.id).runs[0].chosen.id == second  # type: ignore[union-attr]
    client.post(f"/api/attempts/{second}/withdrawal", json={"reason": "The lead was off"})
    standing = services.campaigns.get(campaign.id).runs[0]
    assert standing.chosen is not None and standing.chosen.id == first
    chosen = client.post(f"/api/runs/{run.id}/choice", json={"attempt_id": second, "reason": "It looks better"})
    assert chosen.status_code == 409 and "was withdrawn: The lead was off" in chosen.json()["what"]
    assert services.campaigns.get(campaign.id).runs[0].chosen.id == first  # type: ignore[union-attr]


def test_what_has_no_reading_cannot_be_withdrawn(client: TestClient, unit_id: int) -> None:
    assert client.post("/api/attempts/99/withdrawal", json={"reason": "x"}).status_code == 404
