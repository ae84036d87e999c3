"""The story over HTTP: plan, run, read the verdict, repeat, export."""

import csv
import hashlib
import io
import time
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from rulvek.composition import Services
from rulvek.services.benches.rooms import TOGETHER_SECONDS
from rulvek.store import audit, load
from rulvek.store.queries.campaigns import open_attempts
from tests.conftest import CERTIFIED_PLAN, TAMSIN, certified_campaign, prepare_over_http


@pytest.fixture
def campaign(client: TestClient, unit_id: int) -> dict:  # type: ignore[type-arg]
    made = client.post("/api/campaigns", json={"unit_id": unit_id, "plan": CERTIFIED_PLAN})
    assert made.status_code == 201, made.text
    return made.json()  # type: ignore[no-any-return]


def conduct(client: TestClient, services: Services, run_id: int, reason: str = "") -> None:
    with services.database.reading() as session:
        campaign, run = load.campaign_of_run(session, run_id)
    services.preparations.see_to_all(campaign.id, run.wiring, TAMSIN)
    cause = {"cause": "other", "reason": reason} if reason else {}
    started = client.post(f"/api/runs/{run_id}/attempts", json=cause)
    assert started.status_code == 201, started.text
    services.benches.wait()


def test_a_campaign_is_planned_run_and_judged(client: TestClient, services: Services, campaign: dict) -> None:  # type: ignore[type-arg]
    assert [(r["load_ohms"], r["bridged"], r["state"]) for r in campaign["runs"]] == [
        (4.0, False, "waiting"),
        (2.0, False, "waiting"),
        (4.0, True, "waiting"),
    ]
    assert campaign["runs"][0]["reason"] == "serves 75 W (Manual)"
    conduct(client, services, campaign["runs"][0]["id"])
    after = client.get(f"/api/campaigns/{campaign['id']}").json()
    run = after["runs"][0]
    chosen = run["chosen"]
    assert run["state"] == "done" and chosen["end"] == "limit" and chosen["at_limit"]
    assert chosen["weakest_watts"] == min(r["watts"] for r in chosen["readings"])
    assert chosen["average_watts"] == pytest.approx(sum(r["watts"] for r in chosen["readings"]) / 2)
    assert chosen["sag_volts"] == pytest.approx(chosen["start_volts"] - chosen["supply_volts"])
    output = sum(r["watts"] for r in chosen["readings"])
    expected = 100 * output / (chosen["supply_volts"] * chosen["supply_amps"])
    assert chosen["efficiency_percent"] == pytest.approx(expected)
    for reading in chosen["readings"]:
        assert reading["watts"] == pytest.approx(reading["volts_rms"] ** 2 / reading["load_measured"])
        assert reading["thd_n_percent"] <= 1.0
    verdict = after["claims"][0]["verdict"]
    assert verdict["kind"] == "backed" and verdict["attempt_id"] == chosen["id"]
    assert verdict["watts"] - verdict["expanded_watts"] >= 75
    line = client.get("/api/line").json()
    assert line["series"][0]["models"][0]["states"] == ["backed"]


def test_a_repeat_needs_a_reason_and_both_are_kept(client: TestClient, services: Services, campaign: dict) -> None:  # type: ignore[type-arg]
    run_id = campaign["runs"][0]["id"]
    conduct(client, services, run_id)
    refused = client.post(f"/api/runs/{run_id}/attempts", json={})
    assert refused.status_code == 422 and refused.json()["field"] == "cause"
    conduct(client, services, run_id, "Started badly")
    run = client.get(f"/api/campaigns/{campaign['id']}").json()["runs"][0]
    assert [(a["number"], a["reason"]) for a in run["attempts"]] == [(1, ""), (2, "Started badly")]
    assert run["chosen"]["number"] == 2


def test_evidence_of_an_attempt_is_whole(
    client: TestClient,
    services: Services,
    campaign: dict,  # type: ignore[type-arg]
    tmp_path: Path,
) -> None:
    conduct(client, services, campaign["runs"][0]["id"])
    row = client.get("/api/attempts").json()["items"][0]
    page = client.get(f"/api/attempts/{row['id']}").json()
    kept = page["captures"][0]
    wav = (tmp_path / "captures" / kept["path"]).read_bytes()
    assert kept["intact"] and kept["sha256"] == hashlib.sha256(wav).hexdigest()
    assert kept["path"].endswith(f"{kept['sha256']}.wav")
    assert client.get(f"/api/attempts/{row['id']}/capture.wav").content == wav
    steps = client.get(f"/api/attempts/{row['id']}/steps").json()
    assert steps[0]["kind"] == "prepared" and steps[-1]["kind"] == "finished"
    assert len([s for s in steps if s["kind"] == "point"]) == len(page["points"])
    spectrum = client.get(f"/api/attempts/{row['id']}/spectrum", params={"channel": 1}).json()
    reading = page["attempt"]["readings"][0]
    # The capture was kept as float32; its own analysis must give the reading again.
    assert spectrum["thd_n_percent"] == pytest.approx(reading["thd_n_percent"], rel=1e-3)
    assert spectrum["fundamental_hz"] == 1000.0
    wave = client.get(f"/api/attempts/{row['id']}/wave", params={"channel": 2, "cycles": 2}).json()
    assert wave["milliseconds"][-1] == pytest.approx(2.0, abs=0.05)
    assert max(wave["volts"]) == pytest.approx(2**0.5 * page["attempt"]["readings"][1]["volts_rms"], rel=0.03)
    (tmp_path / "captures" / kept["path"]).write_bytes(wav[:-4] + b"\0\0\0\0")
    assert client.get(f"/api/attempts/{row['id']}").json()["captures"][0]["intact"] is False
    changed = client.get(f"/api/attempts/{row['id']}/wave", params={"channel": 1})
    assert changed.status_code == 409 and changed.json()["code"] == "capture-changed"


def test_the_sheet_leaves_as_csv(client: TestClient, services: Services, campaign: dict) -> None:  # type: ignore[type-arg]
    conduct(client, services, campaign["runs"][0]["id"])
    conduct(client, services, campaign["runs"][2]["id"])
    out = client.get(f"/api/campaigns/{campaign['id']}/sheet.csv")
    assert out.headers["content-type"].startswith("text/csv")
    text = out.content.decode("utf-8-sig")
    assert text.count("\r\n") == 4  # RFC 4180: CRLF after the headings, two channels and one pair
    rows = list(csv.DictReader(io.StringIO(text)))
    sheet = client.get(f"/api/campaigns/{campaign['id']}").json()
    first = sheet["runs"][0]["chosen"]["readings"][0]
    assert float(rows[0]["Power (W)"]) == pytest.approx(first["watts"], abs=0.05)  # to the place of its U
    assert rows[0]["Verdicts"] == "75 W backed" and rows[2]["Bridged"] == "yes"


def test_lists_page_by_key(client: TestClient, services: Services, campaign: dict) -> None:  # type: ignore[type-arg]
    for run in campaign["runs"]:
        conduct(client, services, run["id"])
    first = client.get("/api/attempts", params={"limit": 2}).json()
    rest = client.get("/api/attempts", params={"limit": 2, "before": first["next"]}).json()
    ids = [row["id"] for row in first["items"] + rest["items"]]
    assert len(ids) == 3 and ids == sorted(ids, reverse=True) and rest["next"] is None
    assert client.get("/api/campaigns", params={"limit": 1}).json()["next"] is None


@pytest.mark.bench_speed(8.0)
def test_only_one_run_at_a_time_and_off_always_answers(client: TestClient, services: Services, campaign: dict) -> None:  # type: ignore[type-arg]
    prepare_over_http(client, campaign)
    assert client.post("/api/bench/off").json()["state"] == "idle"
    first, second = (run["id"] for run in campaign["runs"][:2])
    together = client.post(f"/api/runs/{first}/attempts", json={})  # sent with the Off, for all that is known
    assert together.status_code == 409 and together.json()["code"] == "switched-off"
    time.sleep(TOGETHER_SECONDS)
    assert client.post(f"/api/runs/{first}/attempts", json={}).json()["state"] == "running"
    busy = client.post(f"/api/runs/{second}/attempts", json={})
    assert busy.status_code == 409 and busy.json()["code"] == "bench-busy" and "Tamsin Oduwell" in busy.json()["what"]
    client.post("/api/bench/off")
    services.benches.wait(10)
    run = client.get(f"/api/campaigns/{campaign['id']}").json()["runs"][0]
    assert run["attempts"][0]["end"] == "operator" and run["state"] == "waiting"


def test_everything_done_is_in_the_audit_chain(client: TestClient, services: Services, campaign: dict) -> None:  # type: ignore[type-arg]
    conduct(client, services, campaign["runs"][0]["id"])
    unit = client.get(f"/api/units/{campaign['unit_id']}").json()
    actions = [h["action"] for h in unit["history"]]
    prepared = ["saw to before power"] * 5  # for the one wiring
    assert actions == ["planned a campaign", *prepared, "started a run", "ended a run"]
    with services.database.writing() as session:
        assert audit.broken_at(session) is None
        session.execute(text("UPDATE audit_entry SET person = 'Somebody else' WHERE id = 2"))
        assert audit.broken_at(session) == 2
        session.rollback()


def test_a_bench_fault_of_our_own_does_not_leave_the_attempt_open(
    services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    campaign = certified_campaign(services, unit_id)

    def fail(*_args: object, **_kwargs: object) -> None:
        raise RuntimeError("out of disk")

    monkeypatch.setattr(services.files, "keep_capture", fail)
    services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()
    after = services.campaigns.get(campaign.id).runs[0]
    (attempt,) = after.attempts
    assert attempt.end == "not_recorded" and attempt.readings and after.state == "waiting"
    assert attempt.fault == "The capture could not be kept: out of disk."
    with services.database.reading() as session:
        assert not open_attempts(session)
