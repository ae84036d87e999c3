"""A lab enters its own line on empty records: series, models, units; what cannot be is refused by its field."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

Json = dict[str, Any]
MODEL: Json = {
    "name": "Tern 5",
    "description": "Five channels for small boats",
    "topology": "D",
    "supply_low_volts": 10.5,
    "supply_high_volts": 16,
    "sensitivity_volts": 2.0,
    "test_controls": ["gain at 2 V", " low-pass off "],
    "fuse_amps": [40, 40],
    "groups": [
        {"name": "main", "channels": 4, "rated_loads": [2, 4], "bridged_loads": [4]},
        {"name": "bass", "channels": 1, "rated_loads": [2], "bass": True},
    ],
}


@pytest.fixture
def series_id(client: TestClient) -> int:
    made = client.post("/api/series", json={"name": "Tern", "purpose": "Boats"})
    assert made.status_code == 201, made.text
    return int(made.json()["id"])


def test_an_empty_folder_comes_to_a_verdict_on_the_labs_own_model(client: TestClient, series_id: int) -> None:
    line = client.get("/api/line").json()
    assert [(s["name"], s["models"]) for s in line["series"]] == [("Tern", [])]
    model_id = client.post(f"/api/series/{series_id}/models", json=MODEL).json()["id"]
    model = client.get(f"/api/models/{model_id}").json()
    assert [(g["name"], g["channels"], g["rated_loads"], g["bridged_loads"]) for g in model["groups"]] == [
        ("main", [1, 2, 3, 4], [4, 2], [4]),
        ("bass", [5], [2], []),
    ]
    assert model["test_controls"] == ["gain at 2 V", "low-pass off"] and model["series_name"] == "Tern"
    unit = {"serial": "T5-0001", "lot": "2611", "revision": "A", "origin": "Bought", "received_on": "2026-03-02"}
    unit_id = client.post(f"/api/models/{model_id}/units", json=unit).json()["id"]
    shown = client.get(f"/api/units/{unit_id}").json()
    assert shown["unit"]["serial"] == "T5-0001" and shown["unit"]["received_at"].startswith("2026-03-02")
    assert [entry["action"] for entry in shown["history"]] == ["received a unit"]
    claim = {"document": "Manual", "group": "main", "watts": 70, "load_ohms": 4, "supply_volts": 14.4}
    assert client.post(f"/api/models/{model_id}/claims", json=claim).status_code == 201
    plan = client.post(f"/api/units/{unit_id}/plan", json={}).json()
    assert any("serves 70 W (Manual)" in run["reason"] for run in plan["runs"])
    reading = {
        "run": {"mode": "certified", "group": "main", "load_ohms": 4, "tone_hz": 1000, "supply_volts": 14.4},
        "channels": [{"watts": watts} for watts in (78, 79, 78.5, 80)],
        "instrument": "Meter 4",
        "loaded_volts": 14.35,
        "controls_in_position": True,
        "end": "limit",
    }
    kept = client.post(f"/api/units/{unit_id}/typed", json=reading)
    assert kept.status_code == 201, kept.text
    (verdict,) = client.get(f"/api/units/{unit_id}").json()["unit"]["verdicts"]
    assert verdict["kind"] == "backed" and "no less than the 70 W claimed" in verdict["reason"]
    assert client.get("/api/find?words=tern").json()[0]["name"] == "Tern 5"


GROUP: Json = MODEL["groups"][0]


@pytest.mark.parametrize(
    ("changes", "field", "words"),
    [
        ({"name": "  "}, "name", "name"),
        ({"groups": []}, "groups", "at least one group"),
        ({"groups": [GROUP | {"name": ""}]}, "groups.0.name", "a name"),
        ({"groups": [GROUP, GROUP | {"name": "MAIN"}]}, "groups.1.name", "two groups"),
        ({"groups": [GROUP | {"rated_loads": []}]}, "groups.0.rated_loads", "rated for"),
        ({"groups": [GROUP | {"rated_loads": [0]}]}, "groups.0.rated_loads.0", "0.05"),
        ({"groups": [GROUP | {"channels": 3}]}, "groups.0.bridged_loads", "even number"),
        ({"groups": [GROUP | {"channels": 12}, GROUP | {"name": "more", "channels": 6}]}, "groups", "at most 16"),
        ({"supply_high_volts": 10}, "supply_high_volts", "above its lower"),
        ({"sensitivity_volts": 0}, "sensitivity_volts", "0.001"),
        ({"fuse_amps": [0]}, "fuse_amps", "more than 0"),
        ({"topology": "T"}, "topology", ""),
    ],
)
def test_a_model_that_cannot_be_is_refused_by_its_field(
    client: TestClient, series_id: int, changes: Json, field: str, words: str
) -> None:
    refused = client.post(f"/api/series/{series_id}/models", json=MODEL | changes)
    assert (refused.status_code, refused.json()["field"]) == (422, field), refused.text
    assert words in refused.json()["what"]
    assert client.get("/api/line").json()["series"][0]["models"] == []


def test_names_and_serial_numbers_are_on_record_once(client: TestClient, series_id: int) -> None:
    assert client.post("/api/series", json={"name": " tern "}).status_code == 409
    assert client.post("/api/series", json={"name": ""}).json()["field"] == "name"
    model_id = client.post(f"/api/series/{series_id}/models", json=MODEL).json()["id"]
    assert client.post(f"/api/series/{series_id}/models", json=MODEL | {"name": "TERN 5"}).status_code == 409
    assert client.post("/api/series/99/models", json=MODEL).status_code == 404
    assert client.post("/api/models/99/units", json={"serial": "T5-0001"}).status_code == 404
    for _ in range(2):
        answer = client.post(f"/api/models/{model_id}/units", json={"serial": "T5-0001"})
    assert answer.status_code == 409 and "T5-0001" in answer.json()["what"]
    wrong: dict[str, Json] = {"serial": {"serial": ""}, "received_on": {"serial": "T5-2", "received_on": "2199-01-01"}}
    for field, body in wrong.items():
        refused = client.post(f"/api/models/{model_id}/units", json=body)
        assert (refused.status_code, refused.json()["field"]) == (422, field)


def test_a_model_without_a_simulated_stand_in_is_not_conducted(client: TestClient, series_id: int) -> None:
    model_id = client.post(f"/api/series/{series_id}/models", json=MODEL).json()["id"]
    unit_id = client.post(f"/api/models/{model_id}/units", json={"serial": "T5-0001"}).json()["id"]
    campaign = client.post("/api/campaigns", json={"unit_id": unit_id}).json()
    body = {"item": "clamp", "ticked": [], "turn": False}
    refused = client.post(f"/api/campaigns/{campaign['id']}/wirings/1/preparations", json=body)
    assert refused.status_code == 404 and "no simulated amplifier for Tern 5" in refused.json()["what"]
