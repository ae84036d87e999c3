"""What somebody with bad intent would try, line by line of "sessions and secrets"."""

import statistics
import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient

from rulvek.api.app import app_for
from rulvek.composition import Services
from rulvek.core.errors import TooSoon
from rulvek.services.people.secrets import digest, hashed_password
from rulvek.services.people.throttle import Throttle
from rulvek.store import people
from tests.people import acting

BASE = "http://localhost:8470"
COOKIE = "rulvek_session_8470"
PASSWORD = "nine brass washers"
TAMSIN = {"name": "Tamsin Oduwell", "password": PASSWORD}
OWN = {"Origin": BASE}


@pytest.fixture
def house(services: Services, unit_id: int) -> Services:
    """Records in which Tamsin has a password."""
    with services.database.writing() as session:
        found = people.named(session, "Tamsin Oduwell")
        assert found
        people.set_secrets(session, found[0].id, people.Secrets(hashed_password(PASSWORD)))
    return services


@pytest.fixture
def http(house: Services) -> Iterator[TestClient]:
    """A browser's tab of the application's own page."""
    with TestClient(app_for(house), BASE, headers=OWN, raise_server_exceptions=False) as made:
        yield made


def test_the_cookie_is_out_of_a_scripts_reach(http: TestClient) -> None:
    said = http.post("/api/sign-in", json=TAMSIN).headers["set-cookie"].lower()
    assert said.startswith(COOKIE) and "httponly" in said and "samesite=strict" in said and "path=/" in said
    assert "secure" not in said.replace("samesite", "")
    behind_tls = TestClient(http.app, "https://localhost", headers={"Origin": "https://localhost"})
    assert "secure" in behind_tls.post("/api/sign-in", json=TAMSIN).headers["set-cookie"].lower()


def test_a_planted_session_is_worth_nothing(http: TestClient) -> None:
    """Session fixation: the token from before signing in is not the one after it."""
    http.cookies.set(COOKIE, "planted-by-somebody", domain="localhost.local", path="/")
    http.post("/api/sign-in", json=TAMSIN)
    thief = TestClient(http.app, BASE, headers=OWN | {"Cookie": f"{COOKIE}=planted-by-somebody"})
    assert thief.get("/api/line").status_code == 401


def test_an_old_cookie_is_worth_nothing(http: TestClient) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    old = http.cookies[COOKIE]
    http.post("/api/sign-in", json=TAMSIN)  # again, in the same browser
    new = http.cookies[COOKIE]
    assert old != new
    thief = TestClient(http.app, BASE, headers=OWN | {"Cookie": f"{COOKIE}={old}"})
    assert thief.get("/api/line").status_code == 401
    http.post("/api/sign-out")
    thief = TestClient(http.app, BASE, headers=OWN | {"Cookie": f"{COOKIE}={new}"})
    assert thief.get("/api/line").status_code == 401


def test_neither_a_session_nor_a_password_can_be_read_from_the_records(http: TestClient, house: Services) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    token = http.cookies[COOKIE]
    with house.database.reading() as session:
        connection = session.connection()
        kept = str([connection.exec_driver_sql(f"SELECT * FROM {t}").all() for t in ("person", "person_session")])
    assert token not in kept and digest(token) in kept
    assert PASSWORD not in kept and "$argon2id$" in kept


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://elsewhere.example"},
        {"Origin": "null"},
        {"Origin": BASE, "Sec-Fetch-Site": "cross-site"},
        {"Origin": BASE, "Sec-Fetch-Site": "same-site"},
        {"Origin": "http://localhost:9999"},
        {"Origin": "https://localhost:8470.elsewhere.example"},
        {"Origin": ""},
    ],
)
def test_a_foreign_page_changes_nothing(http: TestClient, headers: dict[str, str]) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    answer = http.post("/api/series", json={"name": "Planted"}, headers=headers)
    assert answer.status_code == 403 and answer.json()["code"] == "foreign-page"
    assert "Planted" not in http.get("/api/line").text
    coming_in = TestClient(http.app, BASE, headers=headers).post("/api/sign-in", json=TAMSIN)
    assert coming_in.status_code == 403, "nor does it sign somebody in as another"


def test_a_request_without_any_origin_needs_a_token(http: TestClient) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    bare = TestClient(http.app, BASE, headers={"Cookie": f"{COOKIE}={http.cookies[COOKIE]}"})
    assert bare.post("/api/series", json={"name": "Planted"}).status_code == 403
    script = TestClient(http.app, BASE, headers=acting("Tamsin Oduwell"))
    assert script.post("/api/series", json={"name": "By script"}).status_code == 201


@pytest.mark.parametrize("kind", ["text/plain", "application/x-www-form-urlencoded", "multipart/form-data; boundary=x"])
def test_what_a_form_can_send_is_not_taken(http: TestClient, kind: str) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    answer = http.post("/api/series", content='{"name": "Planted"}', headers={"Content-Type": kind})
    assert answer.status_code == 415 and "Planted" not in http.get("/api/line").text


@pytest.mark.parametrize("host", ["elsewhere.example", "localhost.elsewhere.example", "", "192.0.2.1:8470"])
def test_a_foreign_host_is_not_answered(http: TestClient, host: str) -> None:
    """DNS rebinding: a name that points here does not make its page ours."""
    for path in ("/api/me", "/line"):
        answer = http.get(path, headers={"Host": host})
        assert answer.status_code == 421 and answer.json()["code"] == "wrong-host"


def test_hosts_that_were_named_are_answered(house: Services) -> None:
    with TestClient(app_for(house, hosts=["bench.lab"]), "http://bench.lab") as named:
        assert named.get("/api/me").status_code == 200


def test_guessing_becomes_slow_and_a_hundred_at_once_are_a_hundred(http: TestClient, house: Services) -> None:
    statuses: list[int] = []

    def guess(number: int) -> None:
        answer = http.post("/api/sign-in", json=TAMSIN | {"password": f"guess number {number:03}"})
        statuses.append(answer.status_code)

    threads = [threading.Thread(target=guess, args=(number,)) for number in range(30)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert statuses.count(401) <= 8 and statuses.count(429) >= 22  # a slow machine lets a wait or two pass
    # Somebody goes on with it, until the wait is longer than any machine stalls.
    throttle, at = Throttle(house.database), datetime.now(UTC)
    for _ in range(14):
        try:
            throttle.take("Tamsin Oduwell", "192.0.2.7", at)
        except TooSoon as wait:
            at += timedelta(seconds=wait.seconds)
    right = http.post("/api/sign-in", json=TAMSIN)
    assert right.status_code == 429 and int(right.headers["retry-after"]) >= 10
    assert "Try again in" in right.json()["what"]


def test_waits_grow_and_are_forgotten(house: Services) -> None:
    throttle, at = Throttle(house.database), datetime(2026, 3, 1, tzinfo=UTC)
    waits = []
    for _ in range(12):
        try:
            throttle.take("Tamsin Oduwell", "192.0.2.1", at)
        except TooSoon as wait:
            waits.append(wait.seconds)
            at += timedelta(seconds=wait.seconds)
    assert waits == sorted(waits) and waits[0] == 1 and waits[-1] >= 16
    throttle.take("Tamsin Oduwell", "192.0.2.9", at + timedelta(hours=2))
    throttle.take("Tamsin Oduwell", "192.0.2.9", at + timedelta(hours=2))


def test_one_address_cannot_try_all_names(house: Services) -> None:
    throttle, at = Throttle(house.database), datetime(2026, 3, 1, tzinfo=UTC)
    for number in range(10):
        throttle.take(f"Name {number}", "192.0.2.1", at)
    with pytest.raises(TooSoon):
        throttle.take("One more", "192.0.2.1", at)
    throttle.take("One more", "192.0.2.2", at)


@pytest.mark.real_hashes
def test_an_unknown_name_is_answered_alike_and_takes_as_long(http: TestClient, house: Services) -> None:
    """The medians of tries in turn differ by less than they scatter: who has an account cannot be told."""

    def tried(name: str) -> tuple[float, str]:
        with house.database.writing() as session:
            session.connection().exec_driver_sql("DELETE FROM sign_in_wait")
        began = time.perf_counter()
        answer = http.post("/api/sign-in", json={"name": name, "password": "not that one, surely"})
        assert answer.status_code == 401
        return time.perf_counter() - began, answer.text

    tried("Tamsin Oduwell"), tried("Nobody Atall")  # what is made once is made
    known, unknown = zip(*((tried("Tamsin Oduwell"), tried(f"Nobody {n}")) for n in range(9)), strict=True)
    assert {text for _, text in known} == {text for _, text in unknown}
    known_s, unknown_s = [taken for taken, _ in known], [taken for taken, _ in unknown]
    noise = max(statistics.stdev(known_s), statistics.stdev(unknown_s), 0.01)
    assert abs(statistics.median(known_s) - statistics.median(unknown_s)) < 2 * noise
    assert min(unknown_s) > 0.3 * min(known_s), "a name that nobody has is hashed for as well"


def test_too_large_a_body_is_not_read(http: TestClient) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    announced = http.post("/api/series", json={"name": "x" * (5 * 2**20)})
    assert announced.status_code == 413 and "4 MB" in announced.json()["what"]

    def endless() -> Iterator[bytes]:
        yield b'{"name": "'
        for _ in range(200):
            yield b"x" * 2**16

    streamed = http.post("/api/series", content=endless(), headers={"Content-Type": "application/json"})
    assert streamed.status_code == 413


def test_a_path_in_a_file_name_stays_a_name(http: TestClient, house: Services) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    sent = http.post("/api/recordings?name=..%2F..%2Fetc%2Fpasswd.wav", content=b"RIFF no sound")
    if sent.status_code == 201:
        assert "/" not in sent.json()["name"].replace("../../etc/", "")
    inside = house.files.root.parent
    assert not [path for path in inside.parent.rglob("passwd*") if inside not in path.parents]


def test_every_answer_says_how_a_browser_must_treat_it(http: TestClient) -> None:
    http.post("/api/sign-in", json=TAMSIN)
    for path in ("/api/line", "/api/attempts/999", "/line", "/api/openapi.json"):
        headers = http.get(path).headers
        assert "script-src 'self';" in headers["content-security-policy"]
        assert "unsafe-inline" not in headers["content-security-policy"].split("script-src")[1].split(";")[0]
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff" and headers["referrer-policy"] == "same-origin"
    assert http.get("/api/line").headers["cache-control"] == "no-store"


def test_off_is_never_refused(http: TestClient) -> None:
    """Neither without an account, nor from a foreign page, nor with a cookie that lapsed: it only makes safe."""
    for headers in ({}, {"Origin": "http://elsewhere.example"}, {"Cookie": f"{COOKIE}=lapsed"}):
        assert TestClient(http.app, BASE, headers=headers).post("/api/bench/off").status_code == 200
