"""Tables of earlier results: mapped, rehearsed with every row's problem, taken as far as they can be, or as a whole."""

from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from rulvek.composition import Services
from rulvek.core.errors import RulvekError
from rulvek.services.outside import Table
from tests.examples import examples

Json = dict[str, Any]
TABLE = (
    "Serial;Mode;Load (Ω);Bridged;Power 1 (W);Power 2 (W);THD+N (%);Supply at reading (V);Date\n"
    "T2-0001;certified;4;no;80,5;81,0;0,9;14,38;2024-05-02\n"
    "T2-0001;uncertified;4;no;101;102;10;14,35;2024-05-02\n"
    "T2-0001;certified;4;yes;240;;0,98;14,31;2024-05-03\n"
)


def columns(client: TestClient, text: str) -> Json:
    answer = client.post("/api/earlier/columns", json={"file": "old.csv", "text": text})
    assert answer.status_code == 200, answer.text
    return answer.json()  # type: ignore[no-any-return]


def mapped(client: TestClient, text: str, **more: Any) -> Json:
    shown = columns(client, text)
    mapping = {str(i): column["field"] for i, column in enumerate(shown["columns"]) if column["field"]}
    watts = [i for i, column in enumerate(shown["columns"]) if column["name"].startswith("Power")]
    mapping |= {str(i): "watts" for i in watts}
    return {"file": "old.csv", "text": text, "mapping": mapping, "instrument": "Meter 4"} | more


def test_a_table_is_told_rehearsed_and_kept(client: TestClient, unit_id: int) -> None:
    shown = columns(client, TABLE)
    assert [column["field"] for column in shown["columns"]] == [
        *("serial", "mode", "load_ohms", "bridged", "watts", "watts", "thd_n_percent", "loaded_volts", "date")
    ]
    body = mapped(client, TABLE)
    rehearsed = client.post("/api/earlier/rehearsal", json=body).json()
    assert rehearsed["problems"] == [] and [r["weakest_watts"] for r in rehearsed["readings"]] == [80.5, 101, 240]
    assert all(r["expanded_watts"] > 0 and r["attempt_id"] is None for r in rehearsed["readings"])
    assert client.get("/api/campaigns").json()["items"] == []
    kept = client.post("/api/earlier", json=body)
    assert kept.status_code == 201, kept.text
    page = client.get(f"/api/attempts/{kept.json()['readings'][0]['attempt_id']}").json()
    attempt = page["attempt"]
    assert (attempt["origin"], attempt["file"], attempt["instrument"]) == ("table", "old.csv", "Meter 4")
    assert attempt["started_at"].startswith("2024-05-02") and attempt["supply_volts"] == 14.38
    (claim,) = client.get("/api/models/1").json()["claims"]  # 75 W at 4 Ω, 14.4 V
    assert claim["verdict"]["kind"] == "backed" and claim["verdict"]["attempt_id"] == attempt["id"]
    (campaign,) = client.get("/api/campaigns").json()["items"]
    assert campaign["runs"] == campaign["runs_done"] == 3


def test_every_row_that_cannot_be_taken_is_listed_and_then_nothing_is_kept(client: TestClient, unit_id: int) -> None:
    bad = TABLE + (
        "T2-0009;certified;4;no;80;81;0,9;14,4;\n"
        "T2-0001;loud;4;no;80;81;0,9;14,4;\n"
        "T2-0001;certified;;no;80;81;0,9;14,4;\n"
        "T2-0001;certified;4;no;lots;81;0,9;14,4;\n"
        "T2-0001;certified;4;no;80;;0,9;14,4;\n"
        "T2-0001;certified;4;perhaps;80;81;0,9;14,4;\n"
        "T2-0001;certified;4;no;80;81;0,9;14,4;soon\n"
        "T2-0001;certified;4;no;;;0,9;14,4;\n"
        "T2-0001;certified;4;yes;240;240;0,9;14,4;\n"
    )
    rehearsed = client.post("/api/earlier/rehearsal", json=mapped(client, bad)).json()
    assert [(p["row"], p["what"]) for p in rehearsed["problems"]] == [
        (5, "There is no unit with the serial number “T2-0009”"),
        (6, "“loud” is no mode; there is certified, uncertified, burst, proof"),
        (7, "The load in Ω is missing"),
        (8, "“lots” is no power in W"),
        (9, "Channel 2 is missing"),
        (10, "“perhaps” is neither yes nor no for bridged"),
        (11, "“soon” is no date; write it as 2026-03-31"),
        (12, "There are neither watts nor volts"),
        (13, "There is no channel 2 in this run"),
    ]
    assert len(rehearsed["readings"]) == 3
    refused = client.post("/api/earlier", json=mapped(client, bad, whole=True))
    assert refused.status_code == 422 and "Nothing was kept" in refused.json()["what"]
    assert client.get("/api/campaigns").json()["items"] == []
    none = client.post("/api/earlier", json=mapped(client, bad.splitlines()[0] + "\nT2-0009;certified;4;no;80;81;;;\n"))
    assert none.status_code == 422
    kept = client.post("/api/earlier", json=mapped(client, bad)).json()  # what can be taken
    assert len(kept["readings"]) == 3 and all(r["attempt_id"] for r in kept["readings"])
    assert [p["row"] for p in kept["problems"]] == list(range(5, 14))


def test_what_tables_have_besides(client: TestClient, unit_id: int) -> None:
    """Peaks, tones, bursts, a clamp's idle, trips; a steady run below the rated load is kept, and is no evidence."""
    text = (
        "S/N,Test,Ohms,Ch 1 V pk,Ch 2 V pk,Tone (Hz),Clamp (A),Clamp idle,Tripped at W,Burst profile\n"
        "T2-0001,certified,4,25.2,25.3,40,71,-9,,\n"
        "T2-0001,burst,4,26,26,,,,95,8 cycles\n"
        "T2-0001,certified,1,12,12,,,,,\n"
        "T2-0001,certified,4,25,25,,3,9,,\n"
    )
    body = mapped(client, text)
    assert set(body["mapping"].values()) >= {"volts_peak", "tone_hz", "amps", "idle_amps", "tripped_watts", "burst"}
    kept = client.post("/api/earlier", json=body).json()
    assert [p["what"] for p in kept["problems"]] == [
        "A current of -6 A, with the 9 A at idle taken off, flows the wrong way: turn the clamp, or read it at idle"
    ]
    first, burst, low = (client.get(f"/api/attempts/{r['attempt_id']}").json() for r in kept["readings"])
    assert first["attempt"]["weakest_watts"] == pytest.approx(25.2**2 / 8)  # Vpk²/(2R)
    assert first["attempt"]["supply_amps"] == 80.0 and first["run"]["tone_hz"] == 40.0
    assert (burst["run"]["burst"], burst["attempt"]["tripped_watts"]) == ("8 cycles", 95.0)
    assert low["run"]["exploratory"] and low["run"]["mode"] == "certified"
    claims = client.get("/api/models/1").json()["claims"]
    assert all(claim["verdict"]["attempt_id"] != low["attempt"]["id"] for claim in claims)


def test_rows_of_one_channel_each_are_put_together(client: TestClient, unit_id: int) -> None:
    text = (
        "Serial,Mode,Load,Channel,Output V rms,Supply at\n"
        "T2-0001,certified,4,1,18.2,14.4\nT2-0001,certified,4,2,18.0,14.4\n"
        "T2-0001,certified,2,1,15.5,14.4\n"
    )
    rehearsed = client.post("/api/earlier/rehearsal", json=mapped(client, text)).json()
    (reading,) = rehearsed["readings"]
    assert reading["weakest_watts"] == pytest.approx(18.0**2 / 4)  # Ohm's law
    assert [p["what"] for p in rehearsed["problems"]] == ["Channel 2 is missing"]


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"mapping": {"0": "serial", "1": "mode"}}, "Say which column is the load ohms."),
        ({"mapping": {"0": "serial", "1": "mode", "2": "load_ohms"}}, "Say which column is the watts."),
        ({"mapping": {"0": "serial", "1": "mode", "2": "load_ohms", "4": "watts", "5": "mode"}}, "Two columns"),
        ({"mapping": {"0": "serial", "1": "mode", "2": "load_ohms", "40": "watts"}}, "no column 41"),
        ({"text": "just one line"}, "no table"),
        ({"text": "Serial;Mode\n" + "x;y\n" * 5001}, "at most 5000"),
    ],
)
def test_a_mapping_that_cannot_be_is_one_sentence(client: TestClient, unit_id: int, changes: Json, words: str) -> None:
    answer = client.post("/api/earlier/rehearsal", json=mapped(client, TABLE) | changes)
    assert answer.status_code == 422 and words in answer.json()["what"]


@given(
    cells=st.lists(st.lists(st.text(max_size=12), min_size=4, max_size=4), min_size=1, max_size=6),
    separator=st.sampled_from([",", ";", "\t"]),
)
@examples(60, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_whatever_stands_in_a_table_is_a_problem_or_a_reading_and_leaves_nothing(
    services: Services, unit_id: int, cells: list[list[str]], separator: str
) -> None:
    text = "\n".join(separator.join(row) for row in [["Serial", "Mode", "Load", "Watts"], *cells])
    mapping = {0: "serial", 1: "mode", 2: "load_ohms", 3: "watts"}
    try:
        shown = services.earlier_results.rehearse(Table("any.csv", text, mapping, "Meter"))  # type: ignore[arg-type]
        assert shown.readings == [] and all(problem.row >= 2 for problem in shown.problems)
    except RulvekError as refused:
        assert "\n" not in refused.what
    assert services.campaigns.listed().items == []
