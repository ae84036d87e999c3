"""The lab's own usual method is what claims, ratings and readings from outside go by, where nothing else is said."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.composition import Services
from rulvek.core.records.people import Role
from rulvek.store import load
from tests.conftest import CERTIFIED, TAMSIN, conducted
from tests.people import acting, admit

REVIEWER = {"headers": acting("Odile Marchwood")}


@pytest.fixture(autouse=True)
def reviewer(services: Services) -> None:
    admit(services.database, "Odile Marchwood", roles=(Role.REVIEWER,))


def approve(client: TestClient, **values: str) -> None:
    changes = [{"field": field, "value": value} for field, value in values.items()]
    made = client.post("/api/methods", json={"name": "Standard", "changes": changes, "reason": "Our copy says so."})
    assert made.status_code == 201, made.text
    client.post(f"/api/methods/{made.json()['versions'][0]['id']}/approval", **REVIEWER).raise_for_status()


def vague_claim(client: TestClient, services: Services, unit_id: int) -> dict[str, Any]:
    """A claim that states no voltage: it is judged, and settled, at the reference."""
    model_id = client.get(f"/api/units/{unit_id}").json()["model"]["id"]
    group = client.get(f"/api/models/{model_id}").json()["groups"][0]["name"]
    body = {"kind": "continuous", "watts": 30.0, "group": group, "load_ohms": 16.0, "document": "Leaflet, 2026"}
    answer = client.post(f"/api/models/{model_id}/claims", json=body)
    assert answer.status_code == 201, answer.text
    claims = answer.json()["claims"]
    return dict(next(one for one in claims if one["load_ohms"] == 16.0))


def test_a_claim_is_settled_at_the_labs_reference(client: TestClient, services: Services, unit_id: int) -> None:
    """What was concluded before a version was approved is concluded anew, for the model, the unit and the line."""
    claim = vague_claim(client, services, unit_id)
    assert "14.4 V" in claim["verdict"]["settle"]
    assert claim["verdict"]["settling_runs"][0]["supply_volts"] == 14.4
    services.conclusions.flush()
    approve(client, reference_volts="13.8", full_range_tone_hz="900", bass_tone_hz="50")
    model = client.get(f"/api/units/{unit_id}").json()["model"]
    (found,) = [one for one in model["claims"] if one["id"] == claim["id"]]
    for verdict in (found["verdict"], *found["unit_verdicts"]):
        assert "13.8 V" in verdict["settle"]
        assert verdict["settling_runs"][0]["supply_volts"] == 13.8
    assert model["defaults"]["supply_volts"] == 13.8
    assert {group["tone_hz"] for group in model["groups"]} <= {900.0, 50.0}
    model_page = client.get(f"/api/models/{model['id']}").json()
    (found,) = [one for one in model_page["claims"] if one["id"] == claim["id"]]
    assert "13.8 V" in found["verdict"]["settle"]


def test_a_reading_from_outside_is_by_the_labs_method(client: TestClient, services: Services, unit_id: int) -> None:
    approve(client, reference_volts="13.8", load_tolerance_percent="4")
    unit = client.get(f"/api/units/{unit_id}").json()
    group = unit["model"]["groups"][0]
    run = {"mode": "certified", "group": group["name"], "load_ohms": 4.0, "tone_hz": 1000.0, "supply_volts": 14.4}
    hand = {
        "run": run,
        "channels": [{"watts": 60.0} for _ in group["singles"]],
        "instrument": "Meter 4",
        "loaded_volts": 14.4,
        "thd_n_percent": 1.0,
        "end": "limit",
    }
    kept = client.post(f"/api/units/{unit_id}/typed", json=hand)
    assert kept.status_code == 201, kept.text
    with services.database.reading() as session:
        campaign, _, attempt = load.attempt(session, kept.json()["attempt_id"])
    assert campaign.method.name == "Standard, version 1"
    assert attempt.readings[0].load.tolerance == pytest.approx(0.08)  # twice what the method allows


def test_a_table_without_volts_or_tone_has_the_labs(client: TestClient, services: Services, unit_id: int) -> None:
    approve(client, reference_volts="13.8", full_range_tone_hz="900")
    serial = client.get(f"/api/units/{unit_id}").json()["unit"]["serial"]
    table = f"serial;mode;load;channel;W\n{serial};certified;4;1;60\n{serial};certified;4;2;61\n"
    body = {
        "file": "old.csv",
        "text": table,
        "mapping": {"0": "serial", "1": "mode", "2": "load_ohms", "3": "channel", "4": "watts"},
        "instrument": "Meter 4",
    }
    kept = client.post("/api/earlier", json=body)
    assert kept.status_code == 201, kept.text
    page = services.evidence.attempt(kept.json()["readings"][0]["attempt_id"])
    assert (page.run.supply_volts, page.run.tone_hz) == (13.8, 900.0)


def test_what_was_measured_keeps_the_method_that_it_was_measured_by(
    client: TestClient, services: Services, unit_id: int
) -> None:
    conducted(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id)
    before = client.get(f"/api/units/{unit_id}").json()["model"]["claims"]
    approve(client, thd_n_limit_percent="0.2", guarded="no")
    after = client.get(f"/api/units/{unit_id}").json()["model"]["claims"]
    assert any(one["verdict"]["watts"] for one in before)
    told = [{k: one["verdict"][k] for k in ("kind", "watts", "expanded_watts")} for one in before]
    assert [{k: one["verdict"][k] for k in ("kind", "watts", "expanded_watts")} for one in after] == told


def test_a_rating_without_volts_is_worded_at_the_labs_reference(
    client: TestClient, services: Services, unit_id: int
) -> None:
    approve(client, reference_volts="13.8")
    model_id = client.get(f"/api/units/{unit_id}").json()["model"]["id"]
    group = client.get(f"/api/models/{model_id}").json()["groups"][0]["name"]
    body = {"at": {"group": group, "load_ohms": 4.0}, "watts": 40.0}
    made = client.post(f"/api/models/{model_id}/ratings", json=body)
    assert made.status_code == 201, made.text
    assert "13.8 V" in made.json()["wording"]
