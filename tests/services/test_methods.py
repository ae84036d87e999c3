"""The methods that campaigns were planned under, each beside what is proposed today."""

import json
from dataclasses import fields as dataclass_fields
from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from rulvek.composition import Services
from rulvek.core.method.differences import differences
from rulvek.core.method.fields import changed, method_fields
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.people import Role
from tests.conftest import CERTIFIED, TAMSIN
from tests.people import acting, admit


def test_what_was_used_is_told_with_its_campaigns_and_differences(
    client: TestClient, services: Services, unit_id: int
) -> None:
    usual = [services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id for _ in range(2)]
    ours = replace(MethodProfile(), name="Marine", thd_n_limit_percent=0.5, proof_tones_hz=(50.0, 5_000.0))
    other = services.campaigns.create(unit_id, TAMSIN, CERTIFIED, None, ours).id
    told = client.get("/api/methods").json()
    assert [(one["name"], one["campaigns"], one["latest_campaign_id"]) for one in told] == [
        ("Marine", 1, other),
        ("Standard", 2, usual[-1]),
    ]
    found = {one["field"]: (one["here"], one["today"]) for one in told[0]["differences"]}
    assert found == {"thd_n_limit_percent": ("0.5", "1"), "proof_tones_hz": ("50, 5000", "none")}
    assert told[1]["differences"] == []


def test_what_an_older_program_stored_is_the_same_method(client: TestClient, services: Services, unit_id: int) -> None:
    """A field that it did not know yet makes no other method of it."""
    first, last = (services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id for _ in range(2))
    data = MethodProfile().as_data()
    del data["self_test_hours"]
    with services.database.writing() as session:
        session.execute(
            text("UPDATE campaign SET method = :method WHERE id = :id"), {"method": json.dumps(data), "id": first}
        )
    (told,) = client.get("/api/methods").json()
    assert told["campaigns"] == 2 and told["latest_campaign_id"] == last and told["differences"] == []


def test_campaigns_that_come_later_and_those_that_still_arrived_are_counted(services: Services, unit_id: int) -> None:
    """What was counted is not read again; what arrives in pieces counts once it is all there, whatever came since."""

    def told() -> dict[str, int]:
        return {one.name: one.campaigns for one in services.methods.used()}

    def arriving(campaign: int, is_so: bool) -> None:
        with services.database.writing() as session:
            session.execute(text("UPDATE campaign SET arriving = :a WHERE id = :id"), {"a": is_so, "id": campaign})

    ours = replace(MethodProfile(), name="Marine")
    services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    assert told() == {"Standard": 1}
    half = services.campaigns.create(unit_id, TAMSIN, CERTIFIED, None, ours).id
    arriving(half, True)
    services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    assert told() == {"Standard": 2}
    services.campaigns.create(unit_id, TAMSIN, CERTIFIED, None, ours)
    assert told() == {"Marine": 1, "Standard": 2}
    arriving(half, False)
    assert told() == told() == {"Marine": 2, "Standard": 2}


def test_a_method_differs_from_itself_in_nothing() -> None:
    usual = MethodProfile()
    assert differences(usual, replace(usual, name="Another name")) == ()
    found = differences(replace(usual, guarded=False), usual)
    assert [(one.field, one.here, one.there) for one in found] == [("guarded", False, True)]
    assert differences(replace(usual, preparations_hold_hours=8.0), usual)[0].origin == "ours"


REVIEWER = {"headers": acting("Odile Marchwood")}
STRICT = {
    "name": "standard",
    "changes": [{"field": "thd_n_limit_percent", "value": "0,5"}],
    "reason": "Our copy of the standard says so.",
}


@pytest.fixture
def reviewer(services: Services) -> None:
    admit(services.database, "Odile Marchwood", roles=(Role.REVIEWER,))


def versions(client: TestClient) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get("/api/methods/versions").json()["versions"]
    return found


@pytest.mark.usefixtures("reviewer")
def test_a_method_is_proposed_approved_by_another_and_planned_under(client: TestClient, unit_id: int) -> None:
    made = client.post("/api/methods", json=STRICT)
    assert made.status_code == 201, made.text
    (version,) = made.json()["versions"]
    assert (version["title"], version["proposed_by"], version["in_use"]) == ("standard, version 1", TAMSIN.name, False)
    assert [(one["field"], one["here"], one["today"]) for one in version["differences"]] == [
        ("thd_n_limit_percent", "0.5", "1")
    ]
    # Nobody plans under what is not approved.
    body = {"unit_id": unit_id, "plan": {"modes": ["certified"], "method": "standard"}}
    assert client.post("/api/campaigns", json=body).json()["what"] == "There is no approved method “standard”."
    own = client.post(f"/api/methods/{version['id']}/approval")
    assert own.status_code == 409 and "proposed themselves" in own.json()["what"]
    approved = client.post(f"/api/methods/{version['id']}/approval", **REVIEWER).json()["versions"][0]
    assert (approved["approved_by"], approved["in_use"]) == ("Odile Marchwood", True)
    campaign = client.post("/api/campaigns", json=body).json()
    assert campaign["thd_n_limit_percent"] == 0.5
    wished = body | {"plan": body["plan"] | {"thd_n_limit": 0.1, "dwell": "long"}}  # type: ignore[operator]
    assert client.post("/api/campaigns", json=wished).json()["thd_n_limit_percent"] == 0.1
    (version,) = versions(client)
    assert (version["campaigns"], version["latest_campaign_id"]) == (2, campaign["id"] + 1)
    names = [one["name"] for one in client.get("/api/methods").json()]
    assert names == ["standard, version 1, long", "standard, version 1"]
    again = client.post(f"/api/methods/{version['id']}/approval", **REVIEWER)
    assert again.status_code == 409 and "is approved, by Odile Marchwood" in again.json()["what"]


@pytest.mark.usefixtures("reviewer")
def test_the_usual_method_is_the_labs_own_once_it_is_approved(client: TestClient, unit_id: int) -> None:
    """What is on record before keeps what it was planned under."""
    before = client.post("/api/campaigns", json={"unit_id": unit_id, "plan": {"modes": ["certified"]}}).json()
    made = client.post("/api/methods", json=STRICT | {"name": "Standard"}).json()["versions"][0]
    client.post(f"/api/methods/{made['id']}/approval", **REVIEWER)
    plan = client.post(f"/api/units/{unit_id}/plan", json={"modes": ["certified"]})
    assert plan.status_code == 200
    after = client.post("/api/campaigns", json={"unit_id": unit_id, "plan": {"modes": ["certified"]}}).json()
    assert (before["thd_n_limit_percent"], after["thd_n_limit_percent"]) == (1.0, 0.5)
    assert client.get(f"/api/campaigns/{before['id']}").json()["thd_n_limit_percent"] == 1.0


@pytest.mark.usefixtures("reviewer")
def test_a_version_is_made_from_the_one_before_and_a_later_one_ends_it(client: TestClient) -> None:
    first = client.post("/api/methods", json=STRICT).json()["versions"][0]
    second = client.post("/api/methods", json=STRICT | {"changes": [{"field": "dwell_seconds", "value": "5"}]}).json()[
        "versions"
    ][0]
    assert (second["number"], second["thd_n_limit_percent"]) == (2, 0.5)
    assert [one["field"] for one in second["differences"]] == ["dwell_seconds"]
    client.post(f"/api/methods/{second['id']}/approval", **REVIEWER)
    late = client.post(f"/api/methods/{first['id']}/approval", **REVIEWER)
    assert late.status_code == 409 and late.json()["what"] == "standard, version 2 is approved already."
    assert [one["in_use"] for one in versions(client)] == [True, False]
    history = client.get(f"/api/history/method/{second['id']}").json()["entries"]
    assert [one["action"] for one in history] == ["approved a method", "proposed a method"]


def test_nobody_approves_their_own(client: TestClient, services: Services) -> None:
    admit(services.database, "Wenna Astrup", roles=(Role.ENGINEER, Role.REVIEWER))
    both = acting("Wenna Astrup")
    made = client.post("/api/methods", json=STRICT, headers=both).json()["versions"][0]
    refused = client.post(f"/api/methods/{made['id']}/approval", headers=both)
    assert refused.status_code == 409 and "proposed themselves" in refused.json()["what"]


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        (
            {"changes": [{"field": "thd_n_limit", "value": "1"}]},
            "changes.0.field",
            "A method has no field “thd_n_limit”.",
        ),
        (
            {"changes": [{"field": "thd_n_limit_percent", "value": "much"}]},
            "changes.0.value",
            "a number from 0 to 100 %",
        ),
        ({"changes": [{"field": "thd_n_limit_percent", "value": "0"}]}, "changes.0.value", "must be above 0"),
        ({"changes": [{"field": "reference_volts", "value": "1e9"}]}, "changes.0.value", "a number from 0 to 60 V"),
        ({"changes": [{"field": "guarded", "value": "perhaps"}]}, "changes.0.value", "“yes” or “no”"),
        ({"changes": [{"field": "more_trips", "value": "1.5"}]}, "changes.0.value", "a whole number"),
        (
            {"changes": [{"field": "burst_bass", "value": "loud"}]},
            "changes.0.value",
            "There is no burst profile “loud”",
        ),
        ({"changes": [{"field": "proof_tones_hz", "value": "50, x"}]}, "changes.0.value", "got “50, x”"),
        ({"changes": [], "name": "Standard"}, "changes", "as it is: change something"),
        (
            {"changes": [{"field": "dwell_seconds", "value": "1"}], "name": "Standard"},
            "changes",
            "as it is: change something",
        ),
        ({"reason": " "}, "reason", ""),
        ({"name": ""}, "name", ""),
        ({"name": "Standard, version 1"}, "name", "The name of a method has no comma."),
    ],
)
def test_what_a_method_cannot_be_is_one_sentence(
    client: TestClient, change: dict[str, Any], field: str, words: str
) -> None:
    answer = client.post("/api/methods", json=STRICT | change)
    assert answer.status_code == 422 and answer.json()["field"] == field and words in answer.json()["what"]
    assert versions(client) == []


def test_every_field_takes_back_what_it_shows() -> None:
    """What ships, typed again field by field, is what ships."""
    fields = method_fields()
    assert {one.name for one in fields} == {one.name for one in dataclass_fields(MethodProfile)} - {"name", "unread"}
    again = changed(MethodProfile(), [(one.name, one.usual) for one in fields if one.name != "band_edge_octaves"])
    assert differences(again, MethodProfile()) == ()
