"""Change without loss: versions, stale edits, and what stays as campaigns and claims speak of it."""

import threading
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient

from rulvek.composition import Services
from rulvek.core.judgement.verdict import VerdictKind
from rulvek.store.verify import verify
from tests.conftest import TAMSIN, certified_campaign, conducted, put_attempt
from tests.people import acting
from tests.serving import served

JOREN = acting("Joren Haldvik")


def entry(client: TestClient, path: str) -> tuple[int, dict[str, Any]]:
    found = client.get(f"/api/{path}/entry").json()
    return found["number"], found["entry"]


def change(client: TestClient, path: str, seen: object, body: dict[str, Any], **more: Any) -> Any:
    return client.put(f"/api/{path}/entry", json=body, headers={"If-Match": str(seen)} | more.get("headers", {}))


def test_each_change_is_a_version_and_the_first_stays_readable(client: TestClient, unit_id: int) -> None:
    number, series = entry(client, "series/1")
    assert number == 1 and client.get("/api/series/1/versions").json() == []
    assert change(client, "series/1", 1, series | {"purpose": "Boats"}).json()["number"] == 2
    assert (
        change(client, "series/1", 2, series | {"purpose": "Boats", "name": "Renamed"}, headers=JOREN).status_code
        == 200
    )
    told = client.get("/api/series/1/versions").json()
    assert [(one["number"], one["changed"]) for one in told] == [(3, ["name"]), (2, ["purpose"]), (1, [])]
    assert [one["by"] for one in told][:2] == ["Joren Haldvik", "Tamsin Oduwell"]
    assert told[-1]["data"]["purpose"] == "Vehicles"
    # Undo is another version.
    assert change(client, "series/1", 3, told[-1]["data"]).json()["number"] == 4
    assert client.get("/api/line").json()["series"][0]["purpose"] == "Vehicles"


def test_nothing_changed_is_no_version(client: TestClient, unit_id: int) -> None:
    number, model = entry(client, "models/1")
    assert change(client, "models/1", number, model).json()["number"] == 1
    assert client.get("/api/models/1/versions").json() == []


def test_a_stale_change_is_refused_and_names_who_was_first(client: TestClient, unit_id: int) -> None:
    number, unit = entry(client, "units/1")
    assert change(client, "units/1", number, unit | {"lot": "2612"}, headers=JOREN).status_code == 200
    late = change(client, "units/1", number, unit | {"lot": "2699"})
    assert late.status_code == 412 and late.json()["code"] == "stale"
    assert "Joren Haldvik changed it meanwhile" in late.json()["what"]
    assert entry(client, "units/1") == (2, unit | {"lot": "2612"})
    assert change(client, "units/1", 2, unit | {"lot": "2699"}).json()["number"] == 3


@pytest.mark.parametrize("seen", ["", "x", "-1", "1.5", '"', "9" * 12])
def test_which_version_was_seen_must_be_said(client: TestClient, unit_id: int, seen: str) -> None:
    _, unit = entry(client, "units/1")
    answer = change(client, "units/1", seen, unit)
    assert answer.status_code == 422 and "If-Match" in answer.json()["what"]
    without = client.put("/api/units/1/entry", json=unit)
    assert without.status_code == 422
    assert change(client, "units/1", '"1"', unit).status_code == 200, "quoted, as HTTP has it"


def test_ten_at_once_make_one_change(services: Services, unit_id: int) -> None:
    answers: list[int] = []

    def ask(address: str, lot: int) -> None:
        body = {"serial": "T2-0001", "lot": f"{lot}"}
        headers = JOREN | {"If-Match": "1"}
        answers.append(httpx.put(f"{address}/api/units/1/entry", json=body, headers=headers, timeout=30).status_code)

    with served(services) as address:
        asking = [threading.Thread(target=ask, args=(address, lot)) for lot in range(10)]
        for one in asking:
            one.start()
        for one in asking:
            one.join()
    assert sorted(answers) == [200] + [412] * 9


def test_what_campaigns_and_claims_speak_of_keeps_its_name_and_channels(
    client: TestClient, services: Services, unit_id: int
) -> None:
    certified_campaign(services, unit_id)
    number, model = entry(client, "models/1")
    main = model["groups"][0]
    for groups in ([main | {"name": "front"}], [main | {"channels": 4}], [main | {"name": "bass"}, main]):
        answer = change(client, "models/1", number, model | {"groups": groups})
        assert answer.status_code == 422 and answer.json()["code"] == "in-use", answer.text
    more = [main | {"rated_loads": [8, 4, 2]}, {"name": "bass", "channels": 1, "rated_loads": [2], "bass": True}]
    kept = change(client, "models/1", number, model | {"groups": more})
    assert kept.status_code == 200, kept.text
    groups = client.get("/api/models/1").json()["groups"]
    assert [(group["name"], group["channels"]) for group in groups] == [("main", [1, 2]), ("bass", [3])]
    assert change(client, "models/1", 2, model | {"groups": []}).status_code == 422


def test_a_change_that_matters_is_judged_anew(client: TestClient, services: Services, unit_id: int) -> None:
    """A load that is no longer rated makes its run exploratory for the next plan; the reach follows the rated loads."""
    conducted(services, services.campaigns.create(unit_id, TAMSIN).id)
    before = client.get("/api/models/1").json()
    assert {reach["load_ohms"] for reach in before["reaches"]} == {4.0, 2.0}
    number, model = entry(client, "models/1")
    narrowed = model | {"groups": [model["groups"][0] | {"rated_loads": [4], "bridged_loads": []}]}
    assert change(client, "models/1", number, narrowed).status_code == 200
    after = client.get("/api/models/1").json()
    assert {(reach["load_ohms"], reach["bridged"]) for reach in after["reaches"]} == {(4.0, False)}
    assert after["claims"][0]["verdict"]["kind"] == before["claims"][0]["verdict"]["kind"] == VerdictKind.BACKED.value


def test_a_renamed_unit_is_found_and_named_by_its_new_serial(
    client: TestClient, services: Services, unit_id: int
) -> None:
    campaign = certified_campaign(services, unit_id)
    put_attempt(services, campaign.id, (80.0, 81.0))
    number, unit = entry(client, "units/1")
    taken = client.post("/api/models/1/units", json={"serial": "T2-0002"})
    assert taken.status_code == 201
    assert change(client, "units/1", number, unit | {"serial": "t2-0002"}).status_code == 409
    assert change(client, "units/1", number, unit | {"serial": "T2-9001"}).status_code == 200
    found = client.get("/api/find", params={"words": "9001"}).json()
    assert {(one["kind"], one["name"]) for one in found} >= {("unit", "T2-9001")}
    assert client.get("/api/find", params={"words": "T2-0001"}).json() == []
    assert client.get("/api/models/1").json()["reaches"][0]["unit_serial"] == "T2-9001"
    number, model = entry(client, "models/1")
    change(client, "models/1", number, model | {"name": "Harrow two"})
    assert {one["kind"] for one in client.get("/api/find", params={"words": "Harrow"}).json()} >= {"model", "unit"}


def test_changes_stand_in_the_chain_with_before_and_after(client: TestClient, services: Services, unit_id: int) -> None:
    number, unit = entry(client, "units/1")
    change(client, "units/1", number, unit | {"origin": "On loan"})
    with services.database.reading() as session:
        statement = (
            "SELECT CAST(detail AS TEXT) FROM audit_entry WHERE subject = 'unit/1' AND action = 'changed a unit'"
        )
        (detail,) = session.connection().exec_driver_sql(statement).scalars().all()
    assert '"before": {"origin": "Pulled from production"}' in detail and '"after": {"origin": "On loan"}' in detail
    assert verify(services.database, services.files).faults == ()
    assert any(line["action"] == "changed a unit" for line in client.get("/api/units/1").json()["history"])
