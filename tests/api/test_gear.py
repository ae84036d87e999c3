"""The gear register: what readings are taken with, and what a lapsed calibration does to them."""

from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient

from rulvek.composition import Services
from rulvek.store.sweep import sweep
from rulvek.store.verify import verify
from tests.conftest import CERTIFIED_PLAN, conducted

TODAY = datetime.now(UTC).date()
METER = {
    "role": "output",
    "name": "Meter 4",
    "serial": "M-0004",
    "percent_of_reading": 1.5,
    "percent_of_range": 0.5,
    "full_range": 60,
    "digits": 3,
    "resolution": 0.01,
    "calibrated_on": (TODAY - timedelta(days=400)).isoformat(),
    "due_on": (TODAY - timedelta(days=35)).isoformat(),
}


def outputs(gear: dict) -> list[dict]:  # type: ignore[type-arg]
    """What the output is and was read with, the latest first."""
    return [entry for entry in gear["instruments"] if entry["entry"]["role"] == "output"]


def certified(client: TestClient, services: Services, unit_id: int) -> dict:  # type: ignore[type-arg]
    made = client.post("/api/campaigns", json={"unit_id": unit_id, "plan": CERTIFIED_PLAN}).json()
    conducted(services, made["id"])
    return client.get(f"/api/campaigns/{made['id']}").json()["runs"][0]["chosen"]  # type: ignore[no-any-return]


def test_a_worse_and_overdue_meter_widens_the_budget_and_casts_doubt(
    client: TestClient, services: Services, unit_id: int
) -> None:
    before = certified(client, services, unit_id)
    assert before["findings"] == []
    listed = outputs(client.post("/api/gear/instruments", json=METER).json())
    assert [(i["state"], i["days_left"]) for i in listed] == [("overdue", -35), ("replaced", None)]
    assert listed[0]["accuracy"] == "± (1.5 % of reading + 0.5 % of 60 + 3 × 0.01)"
    after = certified(client, services, unit_id)
    assert [f["code"] for f in after["findings"]] == ["out-of-calibration"]
    assert "Meter 4 M-0004" in after["findings"][0]["message"]
    budget = client.get(f"/api/attempts/{after['id']}").json()["budget"]
    first = budget["components"][0]
    # ± (1.5 % of about 18 V + 0.3 V + 0.03 V), a rectangle
    volts = first["value"]
    assert first["name"] == "output volts"
    assert first["half_width"] == pytest.approx(0.015 * volts + 0.33)
    assert after["expanded_watts"] > 4 * before["expanded_watts"]
    # What was read before keeps what it was read with.
    page = client.get(f"/api/attempts/{before['id']}").json()
    assert page["attempt"]["expanded_watts"] == before["expanded_watts"] and page["attempt"]["findings"] == []


def test_two_who_enter_at_once_do_not_overwrite_each_other(client: TestClient) -> None:
    held = outputs(client.post("/api/gear/instruments", json={**METER, "name": "Meter 1"}).json())[0]
    seen = {"If-Match": f'"{held["id"]}"'}
    assert client.post("/api/gear/instruments", json=METER, headers=seen).status_code == 201
    late = client.post("/api/gear/instruments", json={**METER, "name": "Meter 9"}, headers=seen)
    assert (late.status_code, late.json()["code"]) == (412, "stale") and "Meter 4 M-0004" in late.json()["what"]
    both = outputs(client.get("/api/gear").json())
    assert [one["entry"]["name"] for one in both][:2] == ["Meter 4", "Meter 1"]  # the earlier one stays
    again = client.post(
        "/api/gear/instruments", json={**METER, "name": "Meter 9"}, headers={"If-Match": f"{both[0]['id']}"}
    )
    assert again.status_code == 201


def test_the_latest_entry_of_a_role_is_the_one_in_use(client: TestClient, services: Services, unit_id: int) -> None:
    client.post("/api/gear/instruments", json=METER)
    again = {**METER, "calibrated_on": TODAY.isoformat(), "due_on": (TODAY + timedelta(days=365)).isoformat()}
    listed = outputs(client.post("/api/gear/instruments", json=again).json())
    assert [i["state"] for i in listed] == ["in use", "replaced", "replaced"]
    assert certified(client, services, unit_id)["findings"] == []


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": "  "}, "name"),
        ({"due_on": METER["calibrated_on"]}, "due_on"),
        ({"role": "oven"}, "role"),
        ({"calibrated_on": (TODAY + timedelta(days=2)).isoformat(), "due_on": None}, "calibrated_on"),
        ({"digits": -1}, "digits"),
        ({"percent_of_reading": 101}, "percent_of_reading"),
    ],
)
def test_entries_that_cannot_be(client: TestClient, change: dict, field: str) -> None:  # type: ignore[type-arg]
    refused = client.post("/api/gear/instruments", json={**METER, **change})
    assert refused.status_code == 422 and refused.json()["field"] == field
    assert client.get("/api/gear").json()["instruments"] == []


def test_a_calibration_has_its_certificate_as_a_file(client: TestClient, services: Services) -> None:
    page = b"%PDF-1.4\n1 0 obj<</Type/Catalog>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n"
    entry = {"role": "output", "name": "Recorder", "calibrated_on": "2026-03-01", "certificate": "C-2026-117"}
    unsent = client.post("/api/gear/instruments", json=entry | {"certificate_file": "0" * 64})
    assert (unsent.status_code, unsent.json()["field"]) == (422, "certificate_file")
    sent = client.post("/api/files", params={"name": "C-2026-117.pdf"}, content=page)
    assert sent.status_code == 201, sent.text
    kept = sent.json()["sha256"]
    answer = client.post("/api/gear/instruments", json=entry | {"certificate_file": kept})
    assert answer.status_code == 201, answer.text
    shown = next(one for one in answer.json()["instruments"] if one["entry"]["name"] == "Recorder")
    assert shown["entry"]["certificate_file"] == kept
    assert client.get(f"/api/files/{kept}").content == page
    assert sweep(services.database, services.files, services.files.root.parent) == 0  # it is nobody's litter
    assert verify(services.database, services.files).faults == ()
