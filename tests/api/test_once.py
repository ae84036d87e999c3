"""A request that is sent twice, as a double click or a retry does, makes one record."""

import re
import threading
import zlib
from datetime import timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import select

from rulvek.api.app import app_for
from rulvek.api.once import TOLD_ONCE
from rulvek.api.routers import ALL
from rulvek.composition import Services
from rulvek.core.records.people import Role
from rulvek.services import answers
from rulvek.store import tables as t
from tests.conftest import CERTIFIED_PLAN, PERSON, services_in, write_line
from tests.people import BASE, acting, admit
from tests.serving import served

PLAN = {"unit_id": 1, "plan": CERTIFIED_PLAN}
CLAIM = {"document": "Leaflet", "group": "main", "watts": 70.0, "load_ohms": 4.0}


def keyed(key: str, person: str = "Tamsin Oduwell") -> dict[str, str]:
    return {"Idempotency-Key": key} | acting(person)


def test_the_first_answer_is_given_again(client: TestClient, unit_id: int) -> None:
    first = client.post("/api/campaigns", json=PLAN, headers=keyed("a"))
    again = client.post("/api/campaigns", json=PLAN, headers=keyed("a"))
    assert first.status_code == again.status_code == 201 and first.json() == again.json()
    assert client.post("/api/campaigns", json=PLAN, headers=keyed("b")).json()["id"] != first.json()["id"]
    assert (
        client.post("/api/campaigns", json=PLAN, headers=keyed("a", "Joren Haldvik")).json()["id"] != first.json()["id"]
    )
    assert len(client.get("/api/campaigns").json()["items"]) == 3


def test_without_a_key_each_is_a_request_of_its_own(client: TestClient, unit_id: int) -> None:
    made = [client.post("/api/campaigns", json=PLAN).json()["id"] for _ in range(2)]
    assert len(set(made)) == 2


def test_two_at_the_same_time_make_one(services: Services, unit_id: int) -> None:
    answers: list[Any] = []

    def ask(address: str) -> None:
        answers.append(httpx.post(f"{address}/api/models/1/claims", json=CLAIM, headers=keyed("k"), timeout=30))

    with served(services) as address:
        asking = [threading.Thread(target=ask, args=(address,)) for _ in range(8)]
        for one in asking:
            one.start()
        for one in asking:
            one.join()
    assert {answer.status_code for answer in answers} == {201} and len({answer.text for answer in answers}) == 1
    documents = [claim.document for claim in services.catalogue.model(1).claims]
    assert documents.count("Leaflet") == 1


def test_a_refusal_is_an_answer_and_a_fault_is_not(
    client: TestClient, services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    refused = client.post("/api/models/1/claims", json=CLAIM | {"watts": -1}, headers=keyed("r"))
    assert refused.status_code == 422
    assert client.post("/api/models/1/claims", json=CLAIM, headers=keyed("r")).json() == refused.json()

    def broken(*_args: object) -> None:
        raise RuntimeError("a fault of our own")

    with monkeypatch.context() as patched:
        patched.setattr(services.catalogue, "add_claim", broken)
        with TestClient(client.app, BASE, headers=PERSON, raise_server_exceptions=False) as http:
            assert http.post("/api/models/1/claims", json=CLAIM, headers=keyed("f")).status_code == 500
    assert client.post("/api/models/1/claims", json=CLAIM, headers=keyed("f")).status_code == 201


def test_off_acts_each_time(client: TestClient, services: Services, monkeypatch: pytest.MonkeyPatch) -> None:
    asked = []
    real = services.benches.off

    def counted(*args: Any) -> Any:
        asked.append(args)
        return real(*args)

    monkeypatch.setattr(services.benches, "off", counted)
    for _ in range(2):
        client.post("/api/bench/off", headers=keyed("o"))
    assert len(asked) == 2


def test_what_was_long_ago_is_forgotten(
    client: TestClient, services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(answers, "KEPT", timedelta(0))
    made = []
    for key in ("x", "y", "x"):
        made.append(client.post("/api/campaigns", json=PLAN, headers=keyed(key)).json()["id"])
        services.later.flush()
    assert len(set(made)) == 3


def test_a_server_that_started_since_knows_it(tmp_path: Path) -> None:
    """The answer was lost on its way and the server was started anew: what is sent again is not done again."""
    first, again = services_in(tmp_path), services_in(tmp_path)
    write_line(first)
    made = []
    for services in (first, again):
        with TestClient(app_for(services), BASE, headers=PERSON) as http:
            made.append(http.post("/api/campaigns", json=PLAN, headers=keyed("k")))
            services.later.flush()
            assert len(http.get("/api/campaigns").json()["items"]) == 1
    assert made[0].status_code == made[1].status_code == 201 and made[0].json() == made[1].json()
    assert made[0].headers["content-type"] == made[1].headers["content-type"]


def test_what_is_told_once_is_told_to_its_twin_and_never_kept(services: Services, unit_id: int) -> None:
    """A double click makes one token, and neither the records nor a backup of them hold it."""
    admit(services.database, "Wenna Astrup", roles=(Role.ADMIN,))
    body = {"name": "nightly", "roles": ["admin"], "days": 3}
    with TestClient(app_for(services), BASE) as http:
        (whose,) = [
            one["id"]
            for one in http.get("/api/people", headers=acting("Wenna Astrup")).json()
            if "Wenna" in one["name"]
        ]
        told = [
            http.post(f"/api/people/{whose}/tokens", json=body, headers=keyed("t", "Wenna Astrup")) for _ in range(2)
        ]
        http.post("/api/models/1/claims", json=CLAIM, headers=keyed("c"))
        services.later.flush()
    assert [one.status_code for one in told] == [201, 201] and told[0].json() == told[1].json()
    with services.database.reading() as session:
        kept = [zlib.decompress(row.body) for row in session.scalars(select(t.GivenAnswer))]
    assert any(b"Leaflet" in one for one in kept) and not any(told[0].json()["token"].encode() in one for one in kept)


def test_every_call_that_tells_a_secret_is_named() -> None:
    """A code, a token: whatever answers with one is told once."""
    routes = [route for router in ALL for route in router.routes if isinstance(route, APIRoute)]
    secret = [
        route.path
        for route in routes
        if "POST" in (route.methods or ())
        and {"code", "token"} & set(getattr(route.response_model, "__dataclass_fields__", ()))
    ]
    assert len(secret) == 5
    assert all(TOLD_ONCE.fullmatch(re.sub(r"{[^}]*}", "1", path)) for path in secret)
