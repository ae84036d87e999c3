"""One decision rule in force: on every answer that has verdicts, by name, and each campaign's own where none is named.

Source: ILAC-G8:09/2019, guarded acceptance and simple acceptance, from memory.
"""

import csv
import io

import pytest
from fastapi.testclient import TestClient

from rulvek.composition import Services
from tests.conftest import CERTIFIED, TAMSIN, put_attempt


@pytest.fixture
def attempt_id(services: Services, unit_id: int) -> int:
    """A reading so near to the claim of 75 W that only the simple rule lets it pass."""
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    return put_attempt(services, campaign.id, (75.1, 75.2))


@pytest.mark.parametrize(
    ("asked", "kind", "rule"),
    [("", "too_close", "guarded"), ("?rule=guarded", "too_close", "guarded"), ("?rule=simple", "backed", "simple")],
)
def test_every_page_and_export_says_the_same(
    client: TestClient, attempt_id: int, asked: str, kind: str, rule: str
) -> None:
    campaign = client.get(f"/api/campaigns/1{asked}").json()
    assert (campaign["claims"][0]["verdict"]["kind"], campaign["rule"]) == (kind, rule)
    page = client.get(f"/api/attempts/{attempt_id}{asked}").json()
    assert (page["run"]["verdicts"][0]["kind"], page["rule"]) == (kind, rule)
    for path in ("models/1", "units/1"):
        answer = client.get(f"/api/{path}{asked}").json()
        model = answer.get("model", answer)
        assert model["claims"][0]["verdict"]["kind"] == kind
    line = client.get(f"/api/line{asked}").json()
    assert line["series"][0]["models"][0]["states"] == [kind]
    (row, _) = csv.DictReader(io.StringIO(client.get(f"/api/campaigns/1/sheet.csv{asked}").text.lstrip("\ufeff")))
    assert row["Decision rule"].startswith(f"{rule} rule") and row["Verdicts"] == f"75 W {kind.replace('_', ' ')}"


def test_a_rule_that_is_none_is_refused(client: TestClient, attempt_id: int) -> None:
    refused = client.get("/api/line?rule=lenient")
    assert refused.status_code == 422 and refused.json()["field"] == "rule"


def test_others_changes_are_told_after_the_last_one_that_is_known(client: TestClient, attempt_id: int) -> None:
    known = client.get("/api/now").json()
    assert known["changes"] == [] and known["last_change"] > 0 and known["benches"][0]["state"] == "idle"
    claim = {"document": "Carton", "group": "main", "watts": 60, "load_ohms": 4}
    client.post("/api/models/1/claims", json=claim).raise_for_status()
    now = client.get("/api/now", params={"after": known["last_change"]}).json()
    named, change = now["changes"]
    assert named["action"] == "named a document" and named["text"] == "Carton"
    assert (change["person"], change["action"], change["subject"]) == (TAMSIN.name, "added a claim", "model/1")
    assert "60 W at 4 Ω, Carton" in change["text"] and change["id"] == now["last_change"]
    assert client.get("/api/now", params={"after": now["last_change"]}).json()["changes"] == []
