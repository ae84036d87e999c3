"""An audio interface calibrated beside a meter from the browser: step by step, stopped, refused, taken by a bench."""

import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.bench.sound.calibration import AMPLITUDE
from rulvek.composition import Services
from rulvek.core.records.people import Role
from tests.bench.sound.fake import FakePortAudio, put
from tests.people import acting, admit

PATH = "/api/instruments/levels"
ENTRY = {"address": "sound:Interface", "meter": "Meter 4", "u_percent": 0.5}


@pytest.fixture(autouse=True)
def card(monkeypatch: pytest.MonkeyPatch) -> FakePortAudio:
    return put(monkeypatch)


def until(client: TestClient, *states: str) -> dict[str, Any]:
    end = time.monotonic() + 60
    while True:
        told: dict[str, Any] = client.get(PATH).json()
        if told["state"] in states and (told["state"] != "asking" or told["question"]):
            return told
        assert time.monotonic() < end, told
        time.sleep(0.02)


def read(client: TestClient, value: float | None) -> dict[str, Any]:
    """The meter's answer to what is asked next."""
    asked = until(client, "asking")["question"]
    answer = client.post(f"{PATH}/answers", json={"question": asked["id"], "value": value})
    assert answer.status_code == 200, answer.text
    return dict(asked)


def bench_of(levels: dict[str, Any]) -> dict[str, Any]:
    """A bench of the interface, and everything else by hand."""
    sound = {"description": "audio-interface", "address": "sound:Interface"}
    by_hand = {"supply": "by-hand-supply", "loads": "by-hand-loads", "temperatures": "by-hand-thermometer"}
    return {
        "name": "Bench 4",
        "stations": [
            *({"role": role, **sound} for role in ("source", "recorder")),
            *({"role": role, "description": one, "address": "by hand"} for role, one in by_hand.items()),
        ],
        "boxes": [{"ohms": 4, "watts": 500}],
        "supply_amps": 60,
        "levels": levels,
    }


def test_levels_are_found_with_whoever_reads_the_meter(client: TestClient) -> None:
    """Outputs give 4 and 5 V at full scale, by a meter that reads a tenth of it; cables bring back what was sent."""
    assert client.get(PATH).json()["state"] == "none"
    begun = client.post(PATH, json=ENTRY | {"response_hz": [100, 10_000]})
    assert begun.status_code == 202 and begun.json()["questions"] == 4
    again = client.post(PATH, json=ENTRY)
    assert again.status_code == 409 and "being calibrated already" in again.json()["what"]
    words = [read(client, volts)["words"] for volts in (0.4, 0.5)]
    assert words[0].startswith("Output 1 sends 1000 Hz") and words[1].startswith("Output 2 sends 1000 Hz")
    assert [read(client, volts)["words"].split(":")[0] for volts in (0.39, 0.38)] == [
        "Output 1 sends 100 Hz",
        "Output 1 sends 10000 Hz",
    ]
    done = until(client, "done", "failed")
    assert done["state"] == "done" and done["answered"] == 4 and done["problem"] == ""
    assert all(one["passed"] for one in done["looked"]) and done["looked"][-1]["at"] == "slips"
    levels = done["levels"]
    assert levels["output_volts"] == pytest.approx([0.4 / AMPLITUDE, 0.5 / AMPLITUDE])
    assert levels["input_volts"] == pytest.approx(levels["output_volts"], rel=1e-5)
    assert [(one["hz"], round(one["db"], 3)) for one in levels["output_response"]] == [
        (100.0, -0.22),  # 20 log10(0.39 / 0.40)
        (1000.0, 0.0),
        (10_000.0, -0.446),
    ]
    assert (levels["meter"], levels["u_percent"]) == ("Meter 4", 0.5)


def test_it_is_taken_by_a_bench_as_it_was_found(client: TestClient) -> None:
    client.post(PATH, json=ENTRY)
    for volts in (0.4, 0.5):
        read(client, volts)
    levels = until(client, "done")["levels"]
    made = client.post("/api/benches", json=bench_of(levels))
    assert made.status_code == 201, made.text
    kept = client.get(f"/api/benches/{made.json()['id']}/entry").json()["entry"]["levels"]
    assert kept == levels


def test_stopped_it_falls_silent_and_keeps_nothing(client: TestClient, card: FakePortAudio) -> None:
    client.post(PATH, json=ENTRY)
    asked = until(client, "asking")["question"]
    assert client.delete(PATH).json()["state"] == "stopped"
    told = client.get(PATH).json()
    assert told["question"] is None and told["levels"] is None and told["problem"] == ""
    late = client.post(f"{PATH}/answers", json={"question": asked["id"], "value": 0.4})
    assert late.status_code == 409 and late.json()["what"] == "That is not asked any more."
    last = card.sent
    time.sleep(0.05)
    assert card.sent is last  # nothing goes out any more
    assert client.post(PATH, json=ENTRY).status_code == 202
    client.delete(PATH)


def test_what_cannot_be_is_told_in_one_sentence(client: TestClient, card: FakePortAudio) -> None:
    for wrong, field in (
        ({"meter": " "}, "meter"),
        ({"channels": 0}, "channels"),
        ({"response_hz": [20, 30_000]}, "response_hz.1"),
        ({"u_percent": -1}, "u_percent"),
    ):
        answer = client.post(PATH, json=ENTRY | wrong)
        assert (answer.status_code, answer.json()["field"]) == (422, field), answer.text
    client.post(PATH, json=ENTRY | {"address": "sound:Nothing"})
    failed = until(client, "failed")
    assert failed["problem"].startswith("There is no audio interface “Nothing” on this machine.")
    client.post(PATH, json=ENTRY)
    asked = until(client, "asking")["question"]
    for value in (None, -1.0, 2_000.0):
        answer = client.post(f"{PATH}/answers", json={"question": asked["id"], "value": value})
        assert (answer.status_code, answer.json()["field"]) == (422, "value")
    card.wire = lambda sent: 0 * sent  # the cable fell out
    read(client, 0.4)
    assert until(client, "failed")["problem"] == "Input 1 hears nothing of output 1. Connect them."


def test_a_bench_that_works_with_it_is_not_disturbed(client: TestClient, services: Services) -> None:
    client.post(PATH, json=ENTRY)
    for volts in (0.4, 0.5):
        read(client, volts)
    levels = until(client, "done")["levels"]
    bench = client.post("/api/benches", json=bench_of(levels)).json()["id"]
    client.post(f"/api/benches/{bench}/selftest", json={"channels": 1}).raise_for_status()
    refused = client.post(PATH, json=ENTRY)
    assert refused.status_code == 409 and refused.json()["what"] == "Bench 4 works with it."
    client.post("/api/bench/off", params={"bench": bench})
    services.benches.room_by_id(bench).wait(60)
    assert client.post(PATH, json=ENTRY).status_code == 202
    client.delete(PATH)


def test_who_only_looks_may_not(client: TestClient, services: Services) -> None:
    admit(services.database, "Lorcan Vane", roles=(Role.VIEWER,))
    refused = client.post(PATH, json=ENTRY, headers=acting("Lorcan Vane"))
    assert refused.status_code == 403
    assert client.get(PATH, headers=acting("Lorcan Vane")).status_code == 200
