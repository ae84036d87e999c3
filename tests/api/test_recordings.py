"""Recordings over HTTP and in bulk: sent, laid out, read in the background, kept, stopped, let go."""

import io
import json
import math
import threading
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from typer.testing import CliRunner, Result

from rulvek.cli import app
from rulvek.composition import Services
from rulvek.core.errors import Conflict
from rulvek.core.records.actor import Actor
from rulvek.services.outside import inbox, recordings
from rulvek.store.verify import verify
from tests.conftest import TAMSIN, certified_campaign

Json = dict[str, Any]
RATE = 48_000
RUN = {"mode": "certified", "group": "main", "load_ohms": 4, "tone_hz": 1000, "supply_volts": 14.4}
ROWS = [
    {"column": 0, "quantity": "output_volts", "channel": 1, "factor": 40},
    {"column": 1, "quantity": "output_volts", "channel": 2, "factor": 40},
]


def wav(peaks: list[float], seconds: float = 0.6, rail: float = 0.5) -> bytes:
    """Two channels of 1 kHz, raised step by step into a rail; the second one a little lower."""
    t = np.arange(round(seconds * RATE)) / RATE
    wave = np.concatenate([np.clip(peak * np.sin(2 * np.pi * 1000 * t), -rail, rail) for peak in peaks])
    out = io.BytesIO()
    soundfile.write(out, np.column_stack([wave, 0.99 * wave]), RATE, subtype="FLOAT", format="WAV")
    return out.getvalue()


SWEEP = wav([0.1, 0.3, 0.45, 0.5, 0.512, 0.53])


def sent(client: TestClient, content: bytes = SWEEP, name: str = "sweep.wav") -> Json:
    answer = client.post("/api/recordings", params={"name": name}, content=content)
    assert answer.status_code == 201, answer.text
    return answer.json()  # type: ignore[no-any-return]


def said(**changes: Any) -> Json:
    """What is usually said of a recording, but for ``changes``."""
    return {"run": RUN, "rows": ROWS, "instrument": "Recorder 2", "loaded_volts": 14.38} | changes


def read_it(client: TestClient, identity: str, unit_id: int, **changes: Any) -> Any:
    """Have a recording read as a run of a unit."""
    return client.post(f"/api/recordings/{identity}/read", params={"unit_id": unit_id}, json=said(**changes))


def ended(client: TestClient, identity: str) -> Json:
    deadline = time.monotonic() + 30
    while (shown := client.get(f"/api/recordings/{identity}").json())["state"] == "reading":
        assert time.monotonic() < deadline, shown
        time.sleep(0.02)
    return shown  # type: ignore[no-any-return]


def arriving(services: Services) -> list[str]:
    folder = services.files.root.parent / "arriving"
    return [file.name for file in folder.iterdir()] if folder.exists() else []


def test_a_sweep_becomes_evidence_that_a_claim_is_judged_by(
    client: TestClient, services: Services, unit_id: int
) -> None:
    shown = sent(client)
    assert shown["layout"]["sample_rate"] == RATE and len(shown["layout"]["columns"]) == 2
    assert read_it(client, shown["id"], unit_id).json()["state"] == "reading"
    read = ended(client, shown["id"])
    assert read["state"] == "read" and read["found"]["kind"] == "sweep", read["problem"]
    assert len(read["found"]["sections"]) == 6 and [s["chosen"] for s in read["found"]["sections"]].index(True) == 4
    assert len(read["found"]["envelopes"][1]["highs"]) == 1000
    preview = read["attempt"]
    # Between the onset (20 V peak) and 1.0475 × its power, of the second channel, whose level is 1 % lower.
    onset = (0.99 * 20) ** 2 / 8
    assert onset < preview["weakest_watts"] < 1.0475 * onset and preview["end"] == "limit"
    assert client.get("/api/campaigns").json()["items"] == []  # the preview left nothing
    kept = client.post(f"/api/recordings/{shown['id']}/keep")
    assert kept.status_code == 201, kept.text
    attempt_id = kept.json()["attempt_id"]
    page = client.get(f"/api/attempts/{attempt_id}").json()
    assert page["attempt"]["origin"] == "recorded" and len(page["points"]) == 6
    assert page["attempt"]["weakest_watts"] == pytest.approx(preview["weakest_watts"])
    assert page["attempt"]["expanded_watts"] == pytest.approx(preview["expanded_watts"])
    model_id = page["model_id"]
    (claim,) = client.get(f"/api/models/{model_id}").json()["claims"]
    assert claim["verdict"]["attempt_id"] == attempt_id  # 75 W claimed at 4 Ω
    assert claim["verdict"]["kind"] == "short"
    assert client.get(f"/api/attempts/{attempt_id}/original").content == SWEEP
    assert "recorded" in client.get(f"/api/campaigns/{page['campaign_id']}/sheet.csv").text
    assert arriving(services) == []
    assert client.post(f"/api/recordings/{shown['id']}/keep").status_code == 404


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"rows": ROWS[:1]}, "channel 2, which no column"),
        ({"rows": [*ROWS, {"column": 7, "quantity": "supply_volts"}]}, "no column 8"),
        ({"run": {**RUN, "mode": "burst", "burst": "1 kHz"}}, "no burst run"),
        ({"run": {**RUN, "group": "rear"}}, "rear"),
    ],
)
def test_what_cannot_be_read_is_said_and_the_file_stays(
    client: TestClient, services: Services, unit_id: int, changes: Json, words: str
) -> None:
    shown = sent(client)
    read_it(client, shown["id"], unit_id, **changes)
    read = ended(client, shown["id"])
    assert read["state"] == "failed" and words in read["problem"]
    refused = client.post(f"/api/recordings/{shown['id']}/keep")
    assert refused.status_code == 422 and "not been read" in refused.json()["what"]
    again = read_it(client, shown["id"], unit_id)
    assert again.status_code == 200 and ended(client, shown["id"])["state"] == "read"
    assert client.delete(f"/api/recordings/{shown['id']}").status_code == 204
    assert arriving(services) == [] and client.get("/api/campaigns").json()["items"] == []


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"rows": [{**ROWS[0], "factor": 0}]}, "rows"),
        ({"rows": [ROWS[0], ROWS[0]]}, "rows"),
        ({"rows": [{"column": 0, "quantity": "input_volts"}]}, "rows"),
        ({"unit_id": 999}, None),
        ({"load_measured": -4}, "load_measured"),
    ],
)
def test_bad_input_names_its_field(client: TestClient, unit_id: int, changes: Json, field: str | None) -> None:
    shown = sent(client)
    answer = read_it(client, shown["id"], **({"unit_id": unit_id} | changes))
    assert answer.status_code in (404, 422) and answer.json()["field"] == field, answer.text


@pytest.mark.parametrize("content", [b"", b"not a table", SWEEP[:5000], b"\x00\xff" * 500])
def test_a_file_that_is_no_recording_leaves_nothing(client: TestClient, services: Services, content: bytes) -> None:
    answer = client.post("/api/recordings", params={"name": "../../x.wav"}, content=content)
    assert answer.status_code == 422 and answer.json()["what"].endswith(".")
    assert "/" not in answer.json()["what"] and arriving(services) == []


def test_a_file_that_is_too_large_leaves_nothing(
    client: TestClient, services: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(inbox, "MOST_BYTES", 2**20)
    answer = client.post("/api/recordings", params={"name": "long.wav"}, content=bytes(2**20 + 1))
    assert answer.status_code == 422 and answer.json()["what"] == "long.wav is larger than 1 MB."
    assert arriving(services) == []


def test_a_reading_can_be_stopped_and_begun_again(
    client: TestClient, services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown = sent(client)
    real, begun = recordings.survey, threading.Event()

    def slow(source: Any, tell: Callable[[float], None]) -> Any:
        while True:  # until it is told to stop
            tell(0.5)
            begun.set()
            time.sleep(0.01)

    monkeypatch.setattr(recordings, "survey", slow)
    read_it(client, shown["id"], unit_id)
    assert begun.wait(10)
    busy = client.get(f"/api/recordings/{shown['id']}").json()
    assert busy["state"] == "reading" and 0 < busy["done"] < 1 and busy["doing"] == "Going through the wave"
    assert read_it(client, shown["id"], unit_id).status_code == 409
    assert client.post(f"/api/recordings/{shown['id']}/stop").json()["state"] == "stopped"
    monkeypatch.setattr(recordings, "survey", real)
    read_it(client, shown["id"], unit_id)
    assert ended(client, shown["id"])["state"] == "read"


def test_a_full_inbox_takes_nothing_more_and_deletes_nobodys_file(client: TestClient, services: Services) -> None:
    names = [sent(client)["id"] for _ in range(inbox.MOST_OF_ONE)]
    refused = client.post("/api/recordings", params={"name": "ninth.wav"}, content=SWEEP)
    assert refused.status_code == 409 and refused.json()["code"] == "inbox-full"
    assert all(client.get(f"/api/recordings/{name}").status_code == 200 for name in names)
    assert client.delete(f"/api/recordings/{names[3]}").status_code == 204
    sent(client)
    assert len(arriving(services)) == inbox.MOST_OF_ONE
    services.recordings.clear()
    assert arriving(services) == []


def test_everybody_has_a_share_of_the_inbox_also_when_many_send_at_once(services: Services) -> None:
    people = [Actor(f"Person {number}") for number in range(6)]
    asked = [one for one in people for _ in range(inbox.MOST_OF_ONE + 4)]

    def ask(actor: Actor) -> Actor | None:
        try:
            services.recordings.arriving("a.wav", actor)
        except Conflict as full:
            assert full.code == "inbox-full"
            return None
        return actor

    with ThreadPoolExecutor(12) as pool:
        let_in = Counter(actor for actor in pool.map(ask, asked) if actor)
    assert let_in.total() == inbox.MOST_WAITING
    assert max(let_in.values()) <= inbox.MOST_OF_ONE
    with pytest.raises(Conflict, match="recordings wait to be kept already"):
        services.recordings.arriving("a.wav", TAMSIN)


def test_kept_twice_is_one_attempt_and_the_next_run_is_none_the_worse(
    client: TestClient, services: Services, unit_id: int
) -> None:
    shown = sent(client)
    read_it(client, shown["id"], unit_id)
    assert ended(client, shown["id"])["state"] == "read"
    with ThreadPoolExecutor(4) as pool:
        answers = list(pool.map(lambda _: client.post(f"/api/recordings/{shown['id']}/keep"), range(4)))
    kept = {answer.json()["attempt_id"] for answer in answers if answer.status_code == 201}
    assert len(kept) == 1 and {answer.status_code for answer in answers} <= {201, 404}
    assert len(client.get("/api/attempts").json()["items"]) == 1
    again = sent(client)  # the same bytes once more: another attempt, the same file
    read_it(client, again["id"], unit_id)
    assert ended(client, again["id"])["state"] == "read"
    assert client.post(f"/api/recordings/{again['id']}/keep").status_code == 201
    campaign = certified_campaign(services, unit_id)
    services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()
    assert services.campaigns.get(campaign.id).runs[0].attempts[0].end == "limit"
    assert verify(services.database, services.files).faults == ()


def test_a_recording_at_32_khz_is_kept_and_its_spectrum_shown(client: TestClient, unit_id: int) -> None:
    """The band ends where the record does; THD+N of a clipped sine is below 1 %, as the reading says."""
    t = np.arange(16_000) / 32_000
    wave = np.clip(0.51 * np.sin(2 * np.pi * 1000 * t), -0.5, 0.5)
    out = io.BytesIO()
    soundfile.write(out, np.column_stack([wave, wave]), 32_000, subtype="FLOAT", format="WAV")
    page = read_and_kept(client, out.getvalue(), "slow.wav", said())
    attempt = page["attempt"]
    spectrum = client.get(f"/api/attempts/{attempt['id']}/spectrum", params={"channel": 1})
    assert spectrum.status_code == 200, spectrum.text
    assert spectrum.json()["thd_n_percent"] == pytest.approx(attempt["readings"][0]["thd_n_percent"], rel=0.02)
    assert max(spectrum.json()["hz"]) < 16_000


def imported(folder: Path, *words: object) -> Result:
    shared = ["--data", folder, "--by", "Joren Haldvik", "--instrument", "Recorder 2"]
    return CliRunner().invoke(app, ["import", *[str(word) for word in [*words, *shared]]])


@pytest.mark.files
def test_many_files_are_taken_in_and_one_bad_one_does_not_stop_the_rest(
    services: Services, unit_id: int, tmp_path: Path
) -> None:
    folder = Path(services.files.root).parent
    files = []
    for name, content in (("a.wav", SWEEP), ("bad.wav", SWEEP[:5000]), ("b.wav", wav([0.4]))):
        (tmp_path / name).write_bytes(content)
        files.append(tmp_path / name)
    words = (*files, "--unit", "T2-0001", "--volts-full-scale", 40, "--loaded-volts", 14.35, "--json")
    dry = imported(folder, *words, "--dry-run")
    lines = [json.loads(line) for line in dry.stdout.splitlines()]
    assert dry.exit_code == 2 and [line["attempt_id"] for line in lines] == [None] * 3
    assert services.campaigns.listed().items == []
    result = imported(folder, *words)
    lines = [json.loads(line) for line in result.stdout.splitlines()]
    assert result.exit_code == 2 and "cut off" in lines[1]["problem"]
    assert lines[0]["end"] == "limit" and lines[2]["end"] == "operator"
    assert lines[2]["weakest_watts"] == pytest.approx((0.99 * 16) ** 2 / 8, rel=1e-4)
    assert "stopped-short" in lines[2]["findings"]
    assert len(services.campaigns.listed().items) == 2
    assert not list(folder.glob("arriving-*"))


@pytest.mark.files
def test_a_list_says_what_each_file_is(services: Services, unit_id: int, tmp_path: Path) -> None:
    folder = Path(services.files.root).parent
    (tmp_path / "pair.csv").write_text(
        "time (s),load (V),load (A)\n"
        + "".join(
            f"{n / 20000},{20 * math.sin(math.pi * n / 10)},{5 * math.sin(math.pi * n / 10)}\n" for n in range(9999)
        )
    )
    listed = tmp_path / "list.csv"
    listed.write_text("file,unit,mode,load,bridged,remark\npair.csv,T2-0001,certified,4,yes,from the old bench\n")
    result = imported(folder, "--list", listed, "--loaded-volts", 14.4)
    assert result.exit_code == 0, result.output
    attempt = services.evidence.attempts().items[0]
    assert attempt.bridged and attempt.weakest_watts == pytest.approx(50.0, rel=1e-4)  # 20 · 5 / 2
    listed.write_text("file,unit,mode\npair.csv,T2-0001,loud\n")
    assert "Row 2: “loud” is no mode." in imported(folder, "--list", listed).stderr
    listed.write_text("file,colour\npair.csv,red\n")
    assert "“colour”" in imported(folder, "--list", listed).stderr


def bursts(levels_db: list[float]) -> bytes:
    """Bridged output: 20 ms of 1 kHz in 500 ms at −20 dB of rest, each burst at its own level into a rail of 0.5."""
    t = np.arange(RATE // 2) / RATE
    shape = np.where(t < 0.02, 1.0, 0.1) * np.sin(2 * np.pi * 1000 * t)
    parts = [np.clip(0.5 * 10 ** (level / 20) * shape, -0.5, 0.5) for level in levels_db]
    wave = np.concatenate([np.zeros(RATE // 5), *parts])
    out = io.BytesIO()
    soundfile.write(out, wave, RATE, subtype="FLOAT", format="WAV")
    return out.getvalue()


BRIDGED = [{"column": 0, "quantity": "output_volts", "channel": 1, "factor": 60}]


def read_and_kept(client: TestClient, content: bytes, name: str, asked: Json) -> Json:
    shown = sent(client, content, name)
    client.post(f"/api/recordings/{shown['id']}/read", params={"unit_id": 1}, json=asked)
    read = ended(client, shown["id"])
    assert read["state"] == "read", read["problem"]
    kept = client.post(f"/api/recordings/{shown['id']}/keep").json()
    return client.get(f"/api/attempts/{kept['attempt_id']}").json()  # type: ignore[no-any-return]


def test_bursts_become_a_burst_run_with_its_onset_and_its_largest(client: TestClient, unit_id: int) -> None:
    """The onset is 30 V peak into 4 Ω: 112.5 W; +3 dB of drive into a hard limit is more, and past 1 %."""
    run = {**RUN, "mode": "burst", "burst": "1 kHz", "bridged": True}
    asked = said(run=run, rows=BRIDGED, amps=40.0)
    page = read_and_kept(client, bursts([-6.0, -3.0, 0.0, 3.0]), "bursts.wav", asked)
    attempt = page["attempt"]
    assert attempt["end"] == "limit" and attempt["weakest_watts"] == pytest.approx(112.5, rel=5e-3)
    assert attempt["largest_watts"] > 130 and len(page["points"]) == 4
    assert attempt["supply_amps"] is None  # a mean over the silence between bursts is no figure
    assert attempt["equivalent"] in ("2 × 56.2 W at 2 Ω", "2 × 56.3 W at 2 Ω")
    wave = client.get(f"/api/attempts/{attempt['id']}/wave", params={"channel": 1}).json()
    assert max(wave["volts"]) == pytest.approx(30.0, rel=0.02)


def test_a_table_without_a_time_is_read_at_the_rate_that_was_said(client: TestClient, unit_id: int) -> None:
    """17 V peak into 4 Ω from a supply that falls from 14.4 to 13.9 V at 12 A: all from one table."""
    rows, rate = ["out (V),supply (V),supply (A)"], 20_000
    for n in range(rate):
        on = n >= rate // 4
        volts = 17 * math.sin(2 * math.pi * 1000 * n / rate) if on else 0.0
        rows.append(f"{volts:.6f},{13.9 if on else 14.4},{12.0 if on else 0.5}")
    columns = [
        {"column": 0, "quantity": "output_volts", "channel": 1},
        {"column": 1, "quantity": "supply_volts"},
        {"column": 2, "quantity": "supply_amps"},
    ]
    asked = said(run={**RUN, "bridged": True}, rows=columns, sample_rate=rate, loaded_volts=None, clamp_zeroed=True)
    attempt = read_and_kept(client, "\n".join(rows).encode(), "table.csv", asked)["attempt"]
    assert attempt["weakest_watts"] == pytest.approx(17**2 / 8, rel=1e-4)
    assert (attempt["start_volts"], attempt["supply_volts"]) == (pytest.approx(14.4), pytest.approx(13.9))
    assert attempt["sag_volts"] == pytest.approx(0.5) and attempt["supply_amps"] == pytest.approx(12.0)
    assert attempt["efficiency_percent"] == pytest.approx(100 * 17**2 / 8 / (13.9 * 12))


def test_an_instrument_of_the_register_brings_its_calibration_along(client: TestClient, unit_id: int) -> None:
    entry = {"role": "output", "name": "Old recorder", "calibrated_on": "2024-01-10", "due_on": "2025-01-10"}
    assert client.post("/api/gear/instruments", json=entry).status_code == 201
    asked = said(run={**RUN, "bridged": True}, rows=BRIDGED, instrument="old recorder")
    page = read_and_kept(client, wav([0.3]), "mono.wav", asked)
    assert "out-of-calibration" in [finding["code"] for finding in page["attempt"]["findings"]]
    other = said(run={**RUN, "bridged": True}, rows=BRIDGED, instrument="Unknown recorder")
    again = read_and_kept(client, wav([0.3]), "mono.wav", other)
    assert "out-of-calibration" not in [finding["code"] for finding in again["attempt"]["findings"]]


def test_a_plan_goes_to_the_limit_that_a_claim_asks_for(client: TestClient, unit_id: int) -> None:
    claim = {
        "group": "main",
        "document": "Web",
        "watts": 60,
        "load_ohms": 4,
        "supply_volts": 14.4,
        "thd_n_percent": 0.1,
    }
    client.post("/api/models/1/claims", json=claim)
    verdict = client.get("/api/models/1").json()["claims"][1]["verdict"]
    assert verdict["kind"] in ("no_evidence", "conflicts") and verdict["settling_limit"] == 0.1
    plan = {"runs": verdict["settling_runs"], "thd_n_limit": verdict["settling_limit"]}
    made = client.post("/api/campaigns", json={"unit_id": unit_id, "plan": plan})
    assert made.status_code == 201, made.text
    assert made.json()["thd_n_limit_percent"] == 0.1
