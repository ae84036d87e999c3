"""The methods that campaigns were planned under, each beside what is proposed today."""

import json
from dataclasses import replace

from fastapi.testclient import TestClient
from sqlalchemy import text

from rulvek.composition import Services
from rulvek.core.method.differences import differences
from rulvek.core.method.profile import MethodProfile
from tests.conftest import CERTIFIED, TAMSIN


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


def test_a_method_differs_from_itself_in_nothing() -> None:
    usual = MethodProfile()
    assert differences(usual, replace(usual, name="Another name")) == ()
    found = differences(replace(usual, guarded=False), usual)
    assert [(one.field, one.here, one.there) for one in found] == [("guarded", False, True)]
    assert differences(replace(usual, preparations_hold_hours=8.0), usual)[0].origin == "ours"
