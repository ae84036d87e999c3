"""Figures for those who watch over a server, read by Prometheus' own parser, and what the log says of slow requests."""

import time
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient
from prometheus_client.parser import text_string_to_metric_families
from structlog.testing import capture_logs

from rulvek.api import request_log
from rulvek.api.app import app_for
from rulvek.composition import Services
from rulvek.store.statements import Asked, asked
from tests.conftest import PERSON, TAMSIN, certified_campaign
from tests.people import BASE


@pytest.fixture
def here(services: Services) -> Iterator[TestClient]:
    with TestClient(app_for(services), "http://localhost", client=("127.0.0.1", 50000)) as http:
        yield http


def read(http: TestClient) -> dict[tuple[str, ...], float]:
    """Every sample, by its name and its labels' values."""
    answer = http.get("/metrics")
    assert answer.status_code == 200 and answer.headers["content-type"].startswith("text/plain")
    families = text_string_to_metric_families(answer.text)
    return {(one.name, *one.labels.values()): one.value for family in families for one in family.samples}


def test_figures_of_requests_and_of_the_house(services: Services, unit_id: int, here: TestClient) -> None:
    here.get("/api/line", headers=PERSON)
    here.get("/api/line")
    found = read(here)
    assert found["rulvek_request_seconds_count", "get_line", "GET", "2xx"] == 1
    assert found["rulvek_request_seconds_count", "get_line", "GET", "4xx"] == 1
    assert found["rulvek_ready",] == 1 and found["rulvek_bench_running", "Bench 1"] == 0
    assert found["rulvek_backup_overdue",] == 0 and found["rulvek_captures_changed",] == 0
    assert found["rulvek_disk_free_bytes",] > 0
    with services.database.writing():
        time.sleep(0.02)
    assert read(here)["rulvek_longest_write_seconds",] >= 0.02


@pytest.mark.bench_speed(4.0)  # still on when it is looked at
def test_a_run_that_is_on_is_seen(services: Services, unit_id: int, here: TestClient) -> None:
    run = certified_campaign(services, unit_id).runs[0].id
    services.benches.room_of_run(run).start(run, TAMSIN)
    assert read(here)["rulvek_bench_running", "Bench 1"] == 1
    services.benches.off(TAMSIN)
    services.benches.wait()
    found = read(here)
    assert found["rulvek_bench_running", "Bench 1"] == 0 and found["rulvek_bench_records_fail", "Bench 1"] == 0


def test_records_that_cannot_be_read_are_told_and_nothing_fails(services: Services, here: TestClient) -> None:
    with services.database.writing() as session:
        session.connection().exec_driver_sql("UPDATE alembic_version SET version_num = '0003'")
    assert read(here)["rulvek_ready",] == 0


def test_from_elsewhere_it_takes_a_token(services: Services) -> None:
    with TestClient(app_for(services), BASE) as http:
        assert http.get("/metrics").status_code == 401
        assert http.get("/metrics", headers=PERSON).status_code == 200
    forwarded = {"X-Forwarded-For": "192.0.2.9"}
    with TestClient(app_for(services), "http://localhost", client=("127.0.0.1", 50000)) as http:
        assert http.get("/metrics", headers=forwarded).status_code == 401  # through a proxy it is not this machine


def test_a_slow_request_says_what_it_asked(
    services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch, here: TestClient
) -> None:
    monkeypatch.setattr(request_log, "SLOW_SECONDS", 0.0)
    with capture_logs() as logged:
        here.get(f"/api/units/{unit_id}", headers=PERSON)
    (line,) = [one for one in logged if one["event"] == "slow request"]
    assert line["statements"] > 3 and line["statements_milliseconds"] >= 0
    # A beginning may have waited for others.
    assert len(line["slowest"]) == 3 and all(
        " ms SELECT" in words or words.endswith(" ms BEGIN") for words in line["slowest"]
    )
    assert not any("T2-0001" in words for words in line["slowest"])  # words of statements, never what is in them


def test_only_the_slowest_are_kept_by_their_words() -> None:
    found = Asked()
    for seconds in (0.3, 0.1, 0.5, 0.2, 0.4):
        found.note(seconds, f"SELECT  {seconds}\n")
    assert found.count == 5 and found.seconds == pytest.approx(1.5)
    assert found.slowest == [(0.5, "SELECT 0.5"), (0.4, "SELECT 0.4"), (0.3, "SELECT 0.3")]


def test_what_others_ask_meanwhile_is_not_counted(services: Services) -> None:
    def look() -> Any:
        return services.catalogue.line()

    look()
    with asked() as mine:
        look()
        with asked() as inner:
            look()
    assert inner.count and mine.count == inner.count
