"""A disk that is full: one sentence for who writes, reading and Off as ever, and all goes on once there is room.

SQLite's own words for it come from triggers here (“database or disk is full”); on a file system of 24 MB filled
to the last byte the same was seen by hand.
"""

import errno
import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient

from rulvek.api.app import app_for
from rulvek.composition import Services, serving
from rulvek.core.errors import NoRoom
from rulvek.settings import Settings
from tests.conftest import PERSON, TAMSIN, certified_campaign, prepare, until
from tests.people import BASE
from tests.pictures import drawn

pytestmark = pytest.mark.files

WRITTEN = ("audit_entry", "step", "attempt_ending", "bench_lease")
SENTENCE = "There is no room left on the disk of the records: nothing was kept."


def fill(folder: Path) -> None:
    """From now on nothing can be added."""
    with closing(sqlite3.connect(folder / "rulvek.db", isolation_level=None, timeout=30)) as connection:
        for table in WRITTEN:
            for act in ("INSERT", "UPDATE"):
                connection.execute(
                    f"CREATE TRIGGER full_{table}_{act} BEFORE {act} ON {table}"
                    " BEGIN SELECT RAISE(ABORT, 'database or disk is full'); END"
                )


def make_room(folder: Path) -> None:
    """Things can be added again."""
    with closing(sqlite3.connect(folder / "rulvek.db", isolation_level=None, timeout=30)) as connection:
        for table in WRITTEN:
            for act in ("INSERT", "UPDATE"):
                connection.execute(f"DROP TRIGGER full_{table}_{act}")


@contextmanager
def full(folder: Path) -> Iterator[None]:
    fill(folder)
    try:
        yield
    finally:
        make_room(folder)


def series(client: TestClient, name: str) -> httpx.Response:
    return client.post("/api/series", json={"name": name, "purpose": "Boats"})


def test_who_writes_is_told_in_a_sentence_and_who_reads_sees_everything(client: TestClient, tmp_path: Path) -> None:
    assert series(client, "Before").status_code == 201
    with full(tmp_path):
        refused = series(client, "Meanwhile")
        assert refused.status_code == 507
        assert refused.json()["what"] == SENTENCE
        assert refused.json()["code"] == "no-room"
        names = [one["name"] for one in client.get("/api/line").json()["series"]]
        assert "Before" in names and "Meanwhile" not in names
        assert client.post("/api/bench/off").status_code == 200
    assert series(client, "Meanwhile").status_code == 201


@pytest.mark.bench_speed(20.0)
def test_a_run_says_that_its_end_waits_and_ends_without_a_restart(
    services: Services, client: TestClient, unit_id: int, tmp_path: Path
) -> None:
    campaign = certified_campaign(services, unit_id)
    first = campaign.runs[0].id
    assert client.post(f"/api/runs/{first}/attempts", json={}).status_code == 201
    room = services.benches.room()
    until(lambda: len(client.get("/api/attempts/1/steps").json()) >= 3)
    with full(tmp_path):
        until(lambda: bool(room.state().problem))
        assert room.state().problem == "The records could not be written: there is no room left on their disk."
        until(lambda: room.standing.current is None or not room.standing.current.amplifier.powered)  # type: ignore[attr-defined]
        assert client.get("/api/attempts/1").json()["attempt"]["end"] is None
        assert room.busy  # nobody starts another run before the end of this one is on record
        assert client.post("/api/bench/off").status_code == 200
    until(lambda: not room.busy)
    attempt = client.get("/api/attempts/1").json()["attempt"]
    assert attempt["end"] == "not_recorded"
    assert "no room left" in attempt["fault"]
    prepare(services, campaign.id)
    again = client.post(f"/api/runs/{first}/attempts", json={"cause": "other", "reason": "The disk was full"})
    assert again.status_code == 201
    until(lambda: not room.busy)
    assert client.get("/api/attempts/2").json()["attempt"]["end"] == "limit"


def test_a_server_starts_on_a_full_disk_and_ends_what_was_lost_later(
    services: Services, unit_id: int, tmp_path: Path
) -> None:
    campaign = certified_campaign(services, unit_id)
    services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()
    with sqlite3.connect(tmp_path / "rulvek.db") as connection:  # as if its server had been killed in the middle
        connection.execute("PRAGMA foreign_keys = OFF")
        connection.execute("DELETE FROM reading")
        connection.execute("DELETE FROM attempt_ending")
        connection.execute("UPDATE bench_lease SET expires_at = '2026-01-01 00:00:00', process = 'gone'")
    services.close()
    fill(tmp_path)
    started = serving(Settings(data_folder=tmp_path, backup_folder=None))
    with TestClient(app_for(started), BASE, headers=PERSON) as client:
        assert client.get("/api/attempts/1").json()["attempt"]["end"] is None
        assert series(client, "Meanwhile").status_code == 507
        assert client.post("/api/bench/off").status_code == 200
        make_room(tmp_path)
        started.benches.recover()
        assert client.get("/api/attempts/1").json()["attempt"]["end"] == "link_lost"
        assert series(client, "Meanwhile").status_code == 201


@pytest.mark.parametrize("number", NoRoom.ERRNO)
def test_a_file_that_does_not_fit_leaves_nothing(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, number: int
) -> None:
    def no_room(*_: Any) -> None:
        raise OSError(number, os.strerror(number))

    def bring() -> httpx.Response:
        return client.post("/api/files?name=inside.jpg", content=drawn(), headers={"content-type": "image/jpeg"})

    monkeypatch.setattr(os, "fsync", no_room)
    refused = bring()
    assert (refused.status_code, refused.json()["what"]) == (507, SENTENCE)
    assert [path for path in (tmp_path / "captures").rglob("*") if path.is_file()] == []
    monkeypatch.undo()
    assert bring().status_code == 201


def test_another_fault_of_a_disk_is_a_fault_of_the_program_and_its_words_stay_in_the_log(
    services: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: Any, **__: Any) -> None:
        raise OSError(errno.EIO, "the secret place of the disk")

    monkeypatch.setattr(services.catalogue, "line", broken)
    with TestClient(app_for(services), BASE, headers=PERSON, raise_server_exceptions=False) as client:
        answer = client.get("/api/line")
    assert answer.status_code == 500
    assert answer.json()["code"] == "fault"
    assert "secret" not in answer.text


def test_little_room_is_told_before_there_is_none(
    services: Services, client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert client.get("/api/ready").json()["problem"] == ""
    monkeypatch.setattr("rulvek.composition.LEAST_FREE", 10**18)
    assert "MB are left on the disk of the records" in client.get("/api/ready").json()["problem"]
