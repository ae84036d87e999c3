"""Accounts, signing in and sessions, over HTTP as browsers do it."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from rulvek.api.app import app_for
from rulvek.composition import Services, make_services
from rulvek.core.records.people import Role
from rulvek.services.people import sessions as sessions_of
from rulvek.services.people.sessions import Limits
from rulvek.services.tokens import digest
from rulvek.store import people
from rulvek.store.engine import Database
from rulvek.store.queries.records import history
from rulvek.store.verify import verify
from tests.conftest import TAMSIN

BASE = "http://localhost:8470"
PASSWORD = "nine brass washers"
OTHER = "eleven tin washers"
OWN = {"Origin": BASE}
PLAIN = {"name": "Ilse Varnholt", "password": PASSWORD}


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[Services]:
    """Records without a single account, as a lab finds them."""
    database = Database(f"sqlite:///{tmp_path}/rulvek.db")
    database.migrate()
    made = make_services(database, tmp_path / "captures", float("inf"))
    yield made
    made.close()


def browser(services: Services, address: str = "127.0.0.1") -> TestClient:
    return TestClient(app_for(services), BASE, headers=OWN, client=(address, 50_000))


def founded(services: Services) -> TestClient:
    """The browser of the first account's person."""
    http = browser(services)
    made = http.post("/api/sign-in/first", json=PLAIN | {"code": services.sessions.first_code()})
    assert made.status_code == 201, made.text
    return http


def hired(founder: TestClient, services: Services, name: str, roles: list[str], password: str = OTHER) -> TestClient:
    """The browser of somebody whom the founder made an account for."""
    code = founder.post("/api/people", json={"name": name, "roles": roles}).json()["code"]
    http = browser(services)
    answer = http.post("/api/sign-in/code", json={"name": name, "code": code.lower(), "password": password})
    assert answer.status_code == 200, answer.text
    return http


def test_a_labs_first_account(empty: Services) -> None:
    http = browser(empty)
    assert http.get("/api/me").json() == {
        "person": None,
        "may": [],
        "is_new": True,
        "demo": [],
        "running": False,
    }
    code = empty.sessions.first_code()
    assert http.get("/api/line").status_code == 401
    wrong = http.post("/api/sign-in/first", json=PLAIN | {"code": "AAAAA-BBBBB-CCCCC-DDDDD"})
    assert wrong.status_code == 401 and "terminal" in wrong.json()["what"]
    weak = http.post("/api/sign-in/first", json=PLAIN | {"code": code, "password": "short"})
    assert weak.status_code == 422 and weak.json()["field"] == "password"
    me = http.post("/api/sign-in/first", json=PLAIN | {"code": code}).json()
    assert me["person"]["name"] == "Ilse Varnholt" and set(me["may"]) >= {"look", "plan", "describe", "administer"}
    assert http.get("/api/line").status_code == 200
    again = browser(empty).post("/api/sign-in/first", json=PLAIN | {"name": "Second", "code": code})
    assert again.status_code == 403 and empty.sessions.first_code() == ""


@pytest.mark.parametrize(
    ("password", "what"),
    [
        ("only eleven", "12 to 200"),
        ("123456789123", "most common"),
        ("Ilse  varnholt", "not the name"),
        ("x" * 201, "200"),
    ],
)
def test_weak_passwords_are_refused(empty: Services, password: str, what: str) -> None:
    body = PLAIN | {"password": password, "code": empty.sessions.first_code()}
    answer = browser(empty).post("/api/sign-in/first", json=body)
    assert answer.status_code == 422 and what in answer.json()["what"]


def test_an_account_is_made_used_closed_and_never_deleted(empty: Services) -> None:
    ilse = founded(empty)
    pell = hired(ilse, empty, "Pell Okrent", ["technician"])
    assert pell.get("/api/me").json()["may"] == ["look", "measure"]
    assert pell.post("/api/people", json={"name": "Own Friend", "roles": ["admin"]}).status_code == 403
    twin = ilse.post("/api/people", json={"name": "  PELL  okrent ", "roles": ["viewer"]})
    assert twin.status_code == 409 and "tells them apart" in twin.json()["what"]
    (person,) = [one for one in ilse.get("/api/people").json() if one["name"] == "Pell Okrent"]
    closed = ilse.post(f"/api/people/{person['id']}/closing").json()
    assert closed["closed"] and pell.get("/api/line").status_code == 401
    back = browser(empty).post("/api/sign-in", json={"name": "Pell Okrent", "password": OTHER})
    assert back.status_code == 401
    left = ilse.post("/api/people", json={"name": "Pell Okrent", "roles": ["viewer"]})
    assert left.status_code == 409 and "and left" in left.json()["what"]
    code = ilse.post(f"/api/people/{person['id']}/opening").json()["code"]
    taken = browser(empty).post(
        "/api/sign-in/code", json={"name": "Pell Okrent", "code": code, "password": "nothing like before"}
    )
    assert taken.status_code == 200
    with empty.database.reading() as session:
        deeds = [row.action for row in history(session, [f"person/{person['id']}"])]
    assert {"made an account", "closed an account", "opened an account again"} <= set(deeds)
    assert verify(empty.database, empty.files).faults == ()


def test_the_last_admin_stays(empty: Services) -> None:
    ilse = founded(empty)
    assert ilse.post("/api/people/1/closing").json()["code"] == "last-admin"
    assert ilse.put("/api/people/1/roles", json={"roles": ["engineer"]}).json()["code"] == "last-admin"
    assert ilse.put("/api/people/1/roles", json={"roles": []}).status_code == 422
    hired(ilse, empty, "Dorrit Amsel", ["admin"])
    assert ilse.put("/api/people/1/roles", json={"roles": ["engineer"]}).json()["roles"] == ["engineer"]
    assert ilse.get("/api/people").status_code == 200 and ilse.get("/api/tokens").status_code == 403


def test_a_code_is_used_once_and_lapses(empty: Services, monkeypatch: pytest.MonkeyPatch) -> None:
    ilse = founded(empty)
    given = ilse.post("/api/people", json={"name": "Pell Okrent", "roles": ["technician"]}).json()
    body = {"name": "Pell Okrent", "code": given["code"], "password": OTHER}
    weak = browser(empty).post("/api/sign-in/code", json=body | {"password": "short"})
    assert weak.status_code == 422, "the code stays good"
    assert browser(empty).post("/api/sign-in/code", json=body).status_code == 200
    assert browser(empty).post("/api/sign-in/code", json=body | {"password": "yet another one"}).status_code == 401
    late = ilse.post(f"/api/people/{given['person']['id']}/code").json()["code"]

    class Later(datetime):
        @classmethod
        def now(cls, tz: object = None) -> datetime:  # type: ignore[override]
            return datetime.now(UTC) + timedelta(hours=25)

    monkeypatch.setattr(sessions_of, "datetime", Later)
    lapsed = browser(empty).post("/api/sign-in/code", json=body | {"code": late})
    assert lapsed.status_code == 401 and "lapsed" in lapsed.json()["what"]


def test_ones_own_sessions_and_password(empty: Services) -> None:
    here = founded(empty)
    there = browser(empty)
    assert there.post("/api/sign-in", json=PLAIN).status_code == 200
    listed = here.get("/api/me/sessions").json()
    assert [one["this"] for one in listed].count(True) == 1 and len(listed) == 2
    (other,) = [one["id"] for one in listed if not one["this"]]
    here.delete(f"/api/me/sessions/{other}")
    assert there.get("/api/line").status_code == 401
    there.post("/api/sign-in", json=PLAIN)
    wrong = here.post("/api/me/password", json={"old": "not that one at all", "password": OTHER})
    assert wrong.status_code == 422 and wrong.json()["field"] == "old"
    assert here.post("/api/me/password", json={"old": PASSWORD, "password": OTHER}).status_code == 204
    assert here.get("/api/line").status_code == 200 and there.get("/api/line").status_code == 401
    here.post("/api/sign-out")
    assert here.get("/api/line").status_code == 401
    assert browser(empty).post("/api/sign-in", json=PLAIN).status_code == 401
    assert browser(empty).post("/api/sign-in", json=PLAIN | {"password": OTHER}).status_code == 200


def test_sessions_lapse_unused_and_in_the_end(empty: Services) -> None:
    founded(empty)
    with empty.database.writing() as session:
        now = datetime.now(UTC)
        for token, began, seen in (
            ("fresh", timedelta(hours=1), timedelta(hours=1)),
            ("unused", timedelta(hours=14), timedelta(hours=13)),
            ("old", timedelta(days=8), timedelta(minutes=1)),
        ):
            made = people.begin_session(session, 1, digest(token), now - began, "here", "")
            people.seen(session, made, now - seen)
    holds = {token: empty.sessions.by_session(token) is not None for token in ("fresh", "unused", "old")}
    assert holds == {"fresh": True, "unused": False, "old": False}
    assert Limits().idle == timedelta(hours=12) and Limits().whole == timedelta(days=7)


def test_a_scripts_token_has_some_of_its_persons_roles(empty: Services) -> None:
    ilse = founded(empty)
    too_much = {"name": "nightly", "roles": ["reviewer"], "days": 30}
    assert ilse.post("/api/people/1/tokens", json=too_much).status_code == 422
    given = ilse.post("/api/people/1/tokens", json=too_much | {"roles": ["manager"]}).json()
    script = TestClient(app_for(empty), BASE, headers={"Authorization": f"Bearer {given['token']}"})
    assert script.post("/api/series", json={"name": "Harrow"}).status_code == 201
    assert script.post("/api/people", json={"name": "X", "roles": ["viewer"]}).status_code == 403
    assert given["token"] not in ilse.get("/api/tokens").text
    # Its person loses the role: so does the token.
    hired(ilse, empty, "Dorrit Amsel", ["admin"])
    ilse.put("/api/people/1/roles", json={"roles": ["admin"]})
    assert script.post("/api/series", json={"name": "Barrow"}).status_code == 403
    ilse.put("/api/people/1/roles", json={"roles": ["admin", "manager"]})
    assert script.post("/api/series", json={"name": "Barrow"}).status_code == 201
    ilse.delete(f"/api/tokens/{given['of']['id']}")
    assert script.get("/api/line").status_code == 401
    short = ilse.post("/api/people/1/tokens", json={"name": "short", "roles": ["manager"], "days": 1}).json()["token"]
    with empty.database.reading() as session:
        kept = digest(short)
        now = datetime.now(UTC)
        assert people.by_token(session, kept, now) and not people.by_token(session, kept, now + timedelta(days=2))


def test_the_demos_people_are_taken_on_the_machine_itself_only(empty: Services) -> None:
    made = empty.accounts.make("Tamsin Oduwell", [Role.ENGINEER], TAMSIN, demo=True)
    real = empty.accounts.make("Ilse Varnholt", [Role.ADMIN], TAMSIN)
    here = browser(empty)
    assert [one["name"] for one in here.get("/api/me").json()["demo"]] == ["Tamsin Oduwell"]
    assert here.post("/api/sign-in/demo", json={"person_id": real.person.id}).status_code == 403
    proxied = {"X-Forwarded-For": "203.0.113.9"}
    assert here.get("/api/me", headers=proxied).json()["demo"] == []
    assert here.post("/api/sign-in/demo", json={"person_id": made.person.id}, headers=proxied).status_code == 403
    away = browser(empty, "192.0.2.7")
    assert away.get("/api/me").json()["demo"] == []
    assert away.post("/api/sign-in/demo", json={"person_id": made.person.id}).status_code == 403
    assert here.post("/api/sign-in/demo", json={"person_id": made.person.id}).json()["may"][0] == "look"


def test_what_is_done_carries_the_name_of_who_is_signed_in(empty: Services) -> None:
    ilse = founded(empty)
    series = ilse.post("/api/series", json={"name": "Harrow"}, headers={"X-Rulvek-Person": "Somebody Else"})
    assert series.status_code == 201
    with empty.database.reading() as session:
        (entry,) = history(session, [f"series/{series.json()['id']}"])
    assert entry.actor.name == "Ilse Varnholt"
