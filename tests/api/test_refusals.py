"""What is refused, and how: one sentence that names the field."""

import json
import re

import pytest
from fastapi.testclient import TestClient

from rulvek.api.schema import schema
from rulvek.composition import Services
from tests.people import acting, admit

CLAIM = {"group": "main", "document": "Manual", "watts": 80.0, "load_ohms": 4.0}


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"load_kohm": 4}, "load_kohm", "no field"),
        ({"watts": 0}, "watts", "Power, W must be 0.001 or more"),
        ({"watts": "NaN"}, "watts", "finite"),
        ({"load_ohms": "4 ohm"}, "load_ohms", "number"),
        ({"load_ohms": 4000}, "load_ohms", "100"),
        ({"kind": "music"}, "kind", "continuous"),
        ({"document": "  "}, "document", "at least 1 characters"),
        ({"group": "rear"}, "group", "it has main"),
        ({"band_low_hz": 20}, "band_high_hz", "both its limits"),
        ({"band_low_hz": 200, "band_high_hz": 20}, "band_low_hz", "not lie above"),
        ({"supply_high_volts": 16}, "supply_volts", "lower end"),
        ({"supply_volts": 14.4, "supply_high_volts": 14.4}, "supply_high_volts", "above the lower one"),
        ({"total_of": 0}, "total_of", "1 or more"),
    ],
)
def test_claims_name_what_is_wrong(client: TestClient, unit_id: int, change: dict, field: str, words: str) -> None:  # type: ignore[type-arg]
    answer = client.post("/api/models/1/claims", json={**CLAIM, **change})
    problem = answer.json()
    assert answer.status_code == 422, problem
    assert problem["field"] == field and words in problem["what"]
    assert len(client.get("/api/models/1").json()["claims"]) == 1


@pytest.mark.parametrize("value", [None, "x", "", [], {}, [1], -1, 0, 1e300, 0.5, True, "9" * 5000, "2026-99-99"])
def test_no_refusal_is_the_validators_own_words(client: TestClient, unit_id: int, value: object) -> None:
    """Whatever stands in whatever field: taken, or refused in our words with the field as the screen names it."""
    refused = 0
    for path, body in (
        ("models/1/claims", {**CLAIM, "thd_n_percent": 1, "supply_volts": 14.4, "kind": "continuous"}),
        ("campaigns", {"unit_id": unit_id, "supply_volts": 14.4, "modes": ["certified"]}),
        ("instruments", {"role": "volts", "name": "Meter 9", "serial": "9", "calibrated_on": "2026-01-05"}),
    ):
        for field in body:
            answer = client.post(f"/api/{path}", json={**body, field: value})
            if answer.status_code == 422:
                refused += 1
                what = answer.json()["what"]
                assert not re.search(r"[Ii]nput|valid |_|Value error|Infinity", what), what
                assert what.endswith(".") and "\n" not in what
    assert refused >= 5


def test_numbers_that_are_none_are_refused(client: TestClient, unit_id: int) -> None:
    body = json.dumps({**CLAIM, "watts": 1}).replace(": 1,", ": NaN,").replace('"watts": 1', '"watts": NaN')
    answer = client.post("/api/models/1/claims", content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code == 422 and answer.json()["field"] == "watts"


@pytest.mark.parametrize("body", ["", "{", "[]", '"x"', b"w\xff\xfe"])
def test_what_is_not_json_is_refused(client: TestClient, unit_id: int, body: str | bytes) -> None:
    answer = client.post("/api/models/1/claims", content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code == 422 and answer.json()["code"] == "bad-input"


def test_a_claim_lives_and_is_withdrawn_once(client: TestClient, unit_id: int) -> None:
    made = client.post("/api/models/1/claims", json={**CLAIM, "watts": 90.0, "document": "Carton"})
    assert made.status_code == 201
    carton = next(c for c in made.json()["claims"] if c["document"] == "Carton")
    assert carton["missing_conditions"] == ["supply voltage", "THD+N limit", "band"]
    assert carton["verdict"]["kind"] == "conflicts" and carton["conflicts_with"] == [1]
    again = client.post("/api/models/1/claims", json={**CLAIM, "watts": 90.0, "document": "Carton"})
    assert again.status_code == 409
    gone = client.post(f"/api/claims/{carton['id']}/withdrawal", json={"reason": "Carton reprinted"})
    claims = {c["id"]: c for c in gone.json()["claims"]}
    assert claims[carton["id"]]["withdrawn"]["reason"] == "Carton reprinted"
    assert claims[1]["conflicts_with"] == []
    twice = client.post(f"/api/claims/{carton['id']}/withdrawal", json={"reason": "Again"})
    assert twice.status_code == 409 and "Tamsin Oduwell" in twice.json()["what"]


def test_a_single_channel_cannot_be_bridged_and_volts_have_a_range(client: TestClient, unit_id: int) -> None:
    volts = client.post("/api/campaigns", json={"unit_id": unit_id, "plan": {"held_volts": 24}})
    assert volts.status_code == 422 and "10.5 to 16 V" in volts.json()["what"]


def test_somebody_must_be_signed_in_but_to_switch_off(client: TestClient, services: Services, unit_id: int) -> None:
    nobody = {"Authorization": "Bearer rulvek_nobodys"}
    nameless = client.post("/api/campaigns", json={"unit_id": unit_id}, headers=nobody)
    assert nameless.status_code == 401 and nameless.json()["code"] == "not-signed-in"
    assert client.post("/api/bench/off", headers=nobody).status_code == 200  # off never waits
    admit(services.database, "Jørgen Åvalon")
    umlaut = client.post("/api/campaigns", json={"unit_id": unit_id}, headers=acting("Jørgen Åvalon"))
    assert umlaut.json()["created_by"] == "Jørgen Åvalon"


@pytest.mark.parametrize(
    "path",
    [
        "/api/models/99",
        "/api/units/99",
        "/api/campaigns/99",
        "/api/attempts/99",
        "/api/campaigns/99/events",
        "/api/nothing",
    ],
)
def test_what_is_not_on_record_is_404(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 404 and answer.json()["code"] == "not-found"


@pytest.mark.parametrize("path", ["/api/models/0", "/api/models/x", "/api/attempts?limit=0", "/api/attempts?before=-1"])
def test_addresses_are_checked(client: TestClient, path: str) -> None:
    assert client.get(path).status_code == 422


def test_published_schema_is_the_served_one(client: TestClient, services: Services) -> None:
    """The front end's types are made from docs/openapi.json; ``make types`` renews both."""
    from pathlib import Path

    assert (Path(__file__).parents[2] / "docs" / "openapi.json").read_text() == schema()
    served = client.get("/api/openapi.json").json()
    assert served == json.loads(schema())
