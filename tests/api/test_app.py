"""How the application is put together: the front end beside the API, settings, watchers, an orderly end."""

import asyncio
import gzip
import math
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from pydantic import ValidationError

from rulvek.api.app import app_for, create_app
from rulvek.composition import Services
from rulvek.core.errors import BenchFault, RulvekError
from rulvek.services.events import Hub
from rulvek.settings import Settings
from tests.conftest import PERSON, TAMSIN, certified_campaign
from tests.people import BASE


@pytest.fixture
def built(tmp_path: Path) -> Path:
    web = tmp_path / "dist"
    (web / "assets").mkdir(parents=True)
    (web / "index.html").write_text("<!doctype html><title>Rulvek</title>")
    (web / "assets" / "index-abc123.js").write_text("export default 1\n" * 400)
    return web


def test_every_address_of_the_front_end_is_the_same_page(services: Services, built: Path) -> None:
    with TestClient(app_for(services, built), BASE) as http:
        for path in ("/", "/line", "/campaigns/3/live", "/attempts/9"):
            page = http.get(path)
            assert page.status_code == 200 and "<title>Rulvek</title>" in page.text
            assert page.headers["cache-control"] == "no-cache"


def test_built_files_are_kept_for_ever_and_sent_small(services: Services, built: Path) -> None:
    with TestClient(app_for(services, built), BASE) as http:
        script = http.get("/assets/index-abc123.js", headers={"Accept-Encoding": "gzip"})
        assert "immutable" in script.headers["cache-control"]
        assert script.headers["content-encoding"] == "gzip"
        assert http.get("/assets/missing.js").status_code == 404


def test_a_file_that_was_packed_when_it_was_built_is_sent_as_that(services: Services, built: Path) -> None:
    assets = built / "assets"
    (assets / "index-abc123.js.gz").write_bytes(gzip.compress(b"export default 'packed'"))
    with TestClient(app_for(services, built), BASE) as http:
        packed = http.get("/assets/index-abc123.js", headers={"Accept-Encoding": "gzip"})
        assert packed.text == "export default 'packed'" and "javascript" in packed.headers["content-type"]
        plain = http.get("/assets/index-abc123.js", headers={"Accept-Encoding": "identity"})
        assert plain.text.startswith("export default 1") and "content-encoding" not in plain.headers


def test_the_first_page_asks_for_its_answer_while_its_script_still_comes(services: Services, built: Path) -> None:
    with TestClient(app_for(services, built), BASE, headers=PERSON) as http:
        wanted = http.get("/line").headers["link"].split(">")[0].removeprefix("<")
        assert "series" in http.get(wanted).json()
        # Elsewhere, or under another decision rule, that answer would be fetched for nothing.
        assert "link" not in http.get("/gear").headers and "link" not in http.get("/line?rule=simple").headers


def test_no_path_leads_out_of_the_built_files(services: Services, built: Path) -> None:
    (built.parent / "secret.txt").write_text("a key")
    with TestClient(app_for(services, built), BASE) as http:
        for path in (
            "/../secret.txt",
            "/assets/../../secret.txt",
            "/assets/%2e%2e/%2e%2e/secret.txt",
            "/assets//secret",
        ):
            assert "a key" not in http.get(path).text
        assert http.head("/line").text == "" and http.head("/line").headers["content-length"] == "36"
        assert http.post("/line", json={}).status_code == 405
        assert "default-src 'none'" in http.get("/assets/index-abc123.js").headers["content-security-policy"]


@pytest.mark.parametrize("method", ["GET", "POST", "DELETE"])
def test_calls_that_do_not_exist_are_told_as_problems(services: Services, built: Path, method: str) -> None:
    with TestClient(app_for(services, built), BASE) as http:
        answer = http.request(method, "/api/sessions")
        assert answer.status_code == 404
        assert answer.json() == {
            "code": "not-found",
            "what": "There is no such call.",
            "todo": "See /api/openapi.json.",
            "field": None,
        }


def test_without_a_built_front_end_the_api_still_answers(services: Services, tmp_path: Path) -> None:
    with TestClient(app_for(services, tmp_path / "nothing"), BASE, headers=PERSON) as http:
        assert http.get("/line").status_code == 503
        assert http.get("/line").json()["todo"] == "make build"
        assert http.get("/api/line").json()["series"] == []


@pytest.mark.parametrize(("error", "status"), [(BenchFault("The link is lost."), 503), (RulvekError("Odd."), 500)])
def test_errors_find_their_status_by_their_kind(
    services: Services, monkeypatch: pytest.MonkeyPatch, error: RulvekError, status: int
) -> None:
    def fail() -> None:
        raise error

    monkeypatch.setattr(services.benches.room(), "state", fail)
    with TestClient(app_for(services), BASE, headers=PERSON) as http:
        answer = http.get("/api/bench")
        assert (answer.status_code, answer.json()["what"]) == (status, error.what)


def test_a_start_brings_the_records_up_and_ends_lost_runs(tmp_path: Path) -> None:
    settings = Settings(data_folder=tmp_path / "new" / "folder", bench_speed=math.inf)
    with TestClient(create_app(settings), BASE) as http:
        assert http.get("/api/me").json()["is_new"]
    assert (tmp_path / "new" / "folder" / "rulvek.db").is_file()


def test_settings_come_from_the_environment(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("RULVEK_PORT", "9001")
    monkeypatch.setenv("RULVEK_DATA_FOLDER", str(tmp_path))
    monkeypatch.setenv("RULVEK_BENCH_SPEED", "inf")
    settings = Settings()
    assert (settings.port, settings.bench_speed) == (9001, math.inf)
    assert settings.database == f"sqlite:///{tmp_path / 'rulvek.db'}"
    assert settings.captures == tmp_path / "captures"
    assert Settings(database_url="sqlite:///other.db").database == "sqlite:///other.db"
    with pytest.raises(ValidationError):
        Settings(bench_speed=0)


def test_the_hub_wakes_every_watcher_from_another_thread() -> None:
    hub = Hub()

    async def watch() -> list[bool]:
        with hub.watching() as first, hub.watching() as second:
            threading.Thread(target=hub.wake).start()
            await asyncio.wait_for(asyncio.gather(first.wait(), second.wait()), 5)
            return [first.is_set(), second.is_set()]

    with ThreadPoolExecutor(1) as aside:  # a browser's tests may have left a loop running in this thread
        assert aside.submit(lambda: asyncio.run(watch())).result(10) == [True, True]
    assert hub.watched == 0
    hub.wake()  # nobody watches: nothing happens


def test_those_woken_together_read_once_and_nobody_gets_what_is_older() -> None:
    hub, begun, written = Hub(), threading.Event(), []

    def read() -> list[str]:
        found = list(written)
        begun.wait(5)
        return found

    async def watch() -> list[list[str]]:
        early = [asyncio.create_task(hub.read_together("steps", read)) for _ in range(3)]
        await asyncio.sleep(0.05)
        early[0].cancel()  # the others still get theirs
        written.append("a step")
        hub.wake()
        late = [asyncio.create_task(hub.read_together("steps", read)) for _ in range(2)]
        await asyncio.sleep(0.05)
        begun.set()
        return [await one for one in (*early[1:], *late)]

    with ThreadPoolExecutor(1) as aside:
        found = aside.submit(lambda: asyncio.run(watch())).result(10)
    assert found == [[], [], ["a step"], ["a step"]]
    assert found[0] is found[1] and found[2] is found[3]


def test_a_reading_that_failed_is_done_again() -> None:
    hub = Hub()

    def fail() -> int:
        raise OSError("no")

    async def watch() -> int:
        with pytest.raises(OSError, match="no"):
            await hub.read_together("steps", fail)
        return await hub.read_together("steps", lambda: 3)

    with ThreadPoolExecutor(1) as aside:
        assert aside.submit(lambda: asyncio.run(watch())).result(10) == 3


@pytest.mark.bench_speed(8.0)
def test_evidence_that_was_not_kept_is_told(services: Services, unit_id: int) -> None:
    campaign = certified_campaign(services, unit_id)
    room = services.benches.room()
    attempt = room.start(campaign.runs[0].id, TAMSIN)
    room.off(TAMSIN)  # before the first reading
    services.benches.wait(10)
    with TestClient(app_for(services), BASE, headers=PERSON) as http:
        page = http.get(f"/api/attempts/{attempt}").json()
        assert page["attempt"]["end"] == "operator" and page["attempt"]["readings"] == []
        for what in ("wave?channel=1", "spectrum?channel=1", "capture.wav"):
            answer = http.get(f"/api/attempts/{attempt}/{what}")
            assert answer.status_code == 404 and "kept no capture" in answer.json()["what"]


def test_a_channel_that_was_not_captured_is_told(services: Services, unit_id: int) -> None:
    campaign = certified_campaign(services, unit_id)
    attempt = services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()
    with TestClient(app_for(services), BASE, headers=PERSON) as http:
        answer = http.get(f"/api/attempts/{attempt}/wave?channel=7")
        assert answer.status_code == 404 and "no channel 7" in answer.json()["what"]


@pytest.mark.bench_speed(8.0)
def test_closing_stops_what_runs(services: Services, unit_id: int) -> None:
    campaign = certified_campaign(services, unit_id)
    services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.close()
    assert services.benches.room().state().state == "idle"
    assert services.campaigns.get(campaign.id).runs[0].attempts[0].end == "operator"
