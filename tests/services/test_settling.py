"""Runs that would settle a claim, over the line: which, how long they take, and which benches can stand them."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.composition import Services
from tests.conftest import TAMSIN, conducted


def settling(client: TestClient) -> list[dict[str, Any]]:
    answer = client.get("/api/queue/settling")
    assert answer.status_code == 200, answer.text
    return list(answer.json()["settling"])


def test_what_is_open_is_told_with_its_runs_until_they_were_made(
    client: TestClient, services: Services, unit_id: int
) -> None:
    model = client.get(f"/api/units/{unit_id}").json()["model"]
    verdicts = [one["verdict"] for one in model["claims"] if one["verdict"]["settling_runs"]]
    rows = settling(client)
    assert sum(one["claims"] for one in rows) == len(verdicts) > 0
    for row in rows:
        mine = [one for one in model["claims"] if one["thd_n_percent"] == row["limit_percent"]]
        runs = [run for one in mine for run in one["verdict"]["settling_runs"]]
        assert row["runs"] == [run for at, run in enumerate(runs) if run not in runs[:at]]  # each once
        assert (row["unit_id"], row["model_id"], row["waiting"]) == (unit_id, model["id"], [])
    row = rows[0]
    plan = {"runs": row["runs"], "bench": row["benches"][0]}
    planned = client.post(f"/api/units/{unit_id}/plan", json=plan).json()
    assert row["minutes"] == pytest.approx(planned["minutes"])
    campaign = client.post("/api/campaigns", json={"unit_id": unit_id, "plan": plan}).json()
    assert settling(client)[0]["waiting"] == [campaign["id"]]
    conducted(services, campaign["id"])
    services.conclusions.flush()
    assert sum(one["claims"] for one in settling(client)) < len(verdicts)
    assert TAMSIN.name


def test_a_claim_that_no_bench_can_stand_says_so(client: TestClient, unit_id: int) -> None:
    model = client.get(f"/api/units/{unit_id}").json()["model"]
    claim = {"kind": "continuous", "watts": 90_000.0, "group": model["groups"][0]["name"], "load_ohms": 4.0}
    made = client.post(f"/api/models/{model['id']}/claims", json=claim | {"document": "Leaflet", "thd_n_percent": 0.1})
    assert made.status_code == 201, made.text
    (row,) = [one for one in settling(client) if one["limit_percent"] == 0.1]
    assert (row["claims"], row["minutes"], row["benches"]) == (1, None, [])


def test_an_empty_line_has_nothing_open(client: TestClient) -> None:
    assert client.get("/api/queue/settling").json() == {"settling": [], "more": 0}
