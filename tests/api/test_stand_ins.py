"""A lab's own model on a simulated bench: what stands in for it, and that nobody takes it for a measurement."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.cli.simulate import EXAMPLE
from rulvek.composition import Services
from tests.conftest import CERTIFIED_PLAN, conducted, put_attempt

GROUPS = [{"name": "main", "channels": 2, "rated_loads": [4]}]
CLAIM = {
    "document": "Manual",
    "group": "main",
    "watts": 75,
    "load_ohms": 4,
    "supply_volts": 14.4,
    "thd_n_percent": 1,
}


@pytest.fixture
def own(client: TestClient) -> dict[str, Any]:
    """A lab's own model with a claim and a unit, nothing standing in for it yet."""
    series = client.post("/api/series", json={"name": "Tern"}).json()["id"]
    model = client.post(f"/api/series/{series}/models", json={"name": "Tern 2", "groups": GROUPS}).json()["id"]
    client.post(f"/api/models/{model}/claims", json=CLAIM).raise_for_status()
    unit = client.post(f"/api/models/{model}/units", json={"serial": "TN-1"}).json()["id"]
    return {"model": model, "unit": unit}


def test_a_model_is_tried_once_something_stands_in_for_it(
    client: TestClient, services: Services, own: dict[str, Any]
) -> None:
    campaign = client.post("/api/campaigns", json={"unit_id": own["unit"], "plan": CERTIFIED_PLAN}).json()
    refused = client.post(f"/api/campaigns/{campaign['id']}/wirings/1/preparations", json={"item": "gains"})
    assert refused.status_code == 404 and "model's page" in refused.json()["todo"]
    client.post("/api/bench/hold/leave")
    fitting = [one["name"] for one in client.get("/api/stand-ins").json() if one["channels"] == 2]
    assert "two-ab" in fitting
    kept = client.put(f"/api/models/{own['model']}/stand-in", json={"design": "two-ab"}).json()
    assert kept["stand_in"] == "two-ab"
    conducted(services, campaign["id"])
    sheet = client.get(f"/api/campaigns/{campaign['id']}").json()
    standing = sheet["runs"][0]["chosen"]
    assert standing["simulated"] and standing["weakest_watts"] > 60
    attempt = client.get(f"/api/attempts/{standing['id']}").json()
    assert attempt["attempt"]["simulated"]
    model = client.get(f"/api/models/{own['model']}").json()
    assert model["claims"][0]["verdict"]["simulated"] and model["reaches"][0]["simulated"]
    assert client.get("/api/bench").json()["simulated"]
    assert [row["simulated"] for row in client.get("/api/attempts").json()["items"]] == [True]
    lines = client.get(f"/api/campaigns/{campaign['id']}/sheet.csv").text.splitlines()
    assert all(",simulated," in line for line in lines[1:])


def test_what_people_read_themselves_is_not_simulated(
    client: TestClient, services: Services, own: dict[str, Any]
) -> None:
    """Not even on the campaign of a bench that is."""
    run = {"mode": "certified", "group": "main", "load_ohms": 4, "tone_hz": 1000, "supply_volts": 14.4}
    reading = {"run": run, "channels": [{"watts": 80}, {"watts": 81}], "instrument": "Meter 4", "end": "limit"}
    kept = client.post(f"/api/units/{own['unit']}/typed", json=reading)
    assert kept.status_code == 201, kept.text
    model = client.get(f"/api/models/{own['model']}").json()
    assert not model["claims"][0]["verdict"]["simulated"] and not model["reaches"][0]["simulated"]
    # Beside it, one from the bench: the verdict that rests on it says so.
    client.put(f"/api/models/{own['model']}/stand-in", json={"design": "two-ab"})
    campaign = client.post("/api/campaigns", json={"unit_id": own["unit"], "plan": CERTIFIED_PLAN}).json()
    put_attempt(services, campaign["id"], (60.0, 60.5))
    services.conclusions.changed(own["model"], own["unit"])
    assert client.get(f"/api/models/{own['model']}").json()["claims"][0]["verdict"]["simulated"]


def test_an_amplifier_that_is_described_stands_in(client: TestClient, services: Services, own: dict[str, Any]) -> None:
    path = f"/api/models/{own['model']}/stand-in"
    for wrong, what in (
        ({"design": "no-such"}, "no simulated amplifier"),
        ({"design": "mono-d"}, "has 1 channels, the model 2"),
        ({"described": "groups = 3"}, "groups"),
        ({"described": EXAMPLE.replace("[1, 2]", "[1]")}, "has 1 channels, the model 2"),
        ({"described": EXAMPLE.replace("gain = 25.5", "gian = 25.5")}, "gain"),
    ):
        answer = client.put(path, json=wrong)
        assert answer.status_code == 422 and what.lower() in answer.json()["what"].lower(), answer.text
    weak = EXAMPLE.replace("rail_volts = 32.0", "rail_volts = 16.0")
    assert client.put(path, json={"described": weak}).json()["stand_in_described"] == weak.strip()
    campaign = client.post("/api/campaigns", json={"unit_id": own["unit"], "plan": CERTIFIED_PLAN}).json()
    conducted(services, campaign["id"])
    watts = client.get(f"/api/campaigns/{campaign['id']}").json()["runs"][0]["chosen"]["weakest_watts"]
    assert watts < 30  # (16 V)² / (2 · 4 Ω) is 32 W, before any loss
    client.put(path, json={"described": EXAMPLE})
    again = client.post("/api/campaigns", json={"unit_id": own["unit"], "plan": CERTIFIED_PLAN}).json()
    conducted(services, again["id"])
    assert client.get(f"/api/campaigns/{again['id']}").json()["runs"][0]["chosen"]["weakest_watts"] > 2 * watts
    assert client.put(path, json={}).json()["stand_in"] == ""
