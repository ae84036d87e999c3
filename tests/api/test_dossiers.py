"""What is kept with models and units: entered, changed with versions, closed, and held to what can be."""

import io
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from sqlalchemy import text

from rulvek.composition import Services
from rulvek.store import audit
from rulvek.store.verify import verify
from tests.conftest import add_unit, certified_campaign
from tests.people import acting
from tests.pictures import drawn

JOREN = acting("Joren Haldvik")
INSIDE = {
    "made_safe": True,
    "opened_on": "2026-11-03",
    "board_revision": "B2",
    "parts": [
        {"place": "capacitor at the supply's input", "count": 4, "value": "2200 µF", "volts": 25, "celsius": 105},
        {"place": "output device", "count": 8, "mark": "NT 40-04", "channels": [1, 2]},
    ],
    "fuses": [{"amps": 30, "in_circuit": True}, {"amps": 30, "in_circuit": False, "remark": "no trace leads to it"}],
    "fan_ran": False,
}
SOUND = {
    "on": "2026-11-04",
    "source": "40 Hz from a player",
    "engine": "engine running",
    "hours": 0.5,
    "sound": {
        "sensor": "driver's head rest",
        "tone_hz": 40,
        "meters": [
            {"meter": "M1", "decibels": [121.4, 121.97, 121.6]},
            {"meter": "M2", "decibels": [121.1]},
        ],
    },
}
ENTRIES: dict[str, dict[str, Any]] = {
    "models/1/revisions": {"name": "B", "changed": "Larger input capacitors", "since": "2026-05-01"},
    "models/1/lots": {"name": "2604", "revision": "B", "made_on": "2026-04-20", "count": 400},
    "models/1/documents": {"name": "Leaflet", "kind": "other", "language": "en", "dated": "2026-03-01"},
    "units/1/insides": INSIDE,
    "units/1/listening": SOUND,
}


def holds(kept: Any, said: Any) -> bool:
    """Whether everything that was said is kept."""
    if isinstance(said, dict):
        return all(holds(kept[name], value) for name, value in said.items())
    if isinstance(said, list):
        return len(kept) == len(said) and all(map(holds, kept, said))
    return bool(kept == said)


def file_of(client: TestClient, content: bytes, name: str = "picture.jpg") -> dict[str, Any]:
    sent = client.post("/api/files", params={"name": name}, content=content)
    assert sent.status_code == 201, sent.text
    told: dict[str, Any] = sent.json()
    return told


@pytest.mark.parametrize("path", ENTRIES)
def test_a_thing_is_entered_changed_and_closed_and_nothing_is_lost(client: TestClient, unit_id: int, path: str) -> None:
    entry, many = ENTRIES[path], path.rsplit("/", 1)[1]
    made = client.post(f"/api/{path}", json=entry).json()
    assert made["number"] == 1 and made["by"] == "Tamsin Oduwell"
    assert holds(made["entry"], entry)
    first = made["entry"]
    field, value = {"revisions": ("changed", "x"), "lots": ("count", 9), "documents": ("language", "nl")}.get(
        many, ("remarks", "x")
    )
    own = f"/api/{many}/{made['id']}"
    changed = client.put(own, json=first | {field: value}, headers=JOREN | {"If-Match": "1"}).json()
    assert changed["number"] == 2 and changed["entry"][field] == value
    stale = client.put(own, json=first | {field: "y" if value == "x" else value}, headers={"If-Match": "1"})
    assert stale.status_code == 412 and "Joren Haldvik" in stale.json()["what"]
    versions = client.get(f"{own}/versions").json()
    assert [(one["number"], one["changed"]) for one in versions] == [(2, [field]), (1, [])]
    assert versions[1]["data"] == first
    assert client.post(f"{own}/closed", json={"closed": True}).json()["closed"]
    assert client.post(f"{own}/closed", json={"closed": True}).status_code == 409
    listed = client.get(f"/api/{path}").json()
    assert [one["closed"] for one in listed if one["id"] == made["id"]] == [True]
    word = {"listening": "listening"}.get(many, many.removesuffix("s"))
    history = client.get(f"/api/history/{word}/{made['id']}").json()["entries"]
    assert [one["action"].split()[0] for one in history] == ["closed", "changed", "entered"]
    assert history[1]["changes"][0]["field"] == field and history[1]["changes"][0]["after"] == str(value)


def test_lots_and_papers_that_are_named_become_records(client: TestClient, services: Services, unit_id: int) -> None:
    unit = {"serial": "T2-0100", "lot": "2612", "revision": "C"}
    assert client.post("/api/models/1/units", json=unit).status_code == 201
    lots = client.get("/api/models/1/lots").json()
    assert [(one["entry"]["name"], one["entry"]["revision"]) for one in lots] == [("2612", "C")]
    assert [one["entry"]["name"] for one in client.get("/api/models/1/revisions").json()] == ["C"]
    papers = client.get("/api/models/1/documents").json()
    assert [(one["entry"]["name"], one["entry"]["kind"]) for one in papers] == [("Manual", "manual")]
    # A second unit of that lot names it again.
    assert client.post("/api/models/1/units", json=unit | {"serial": "T2-0101"}).status_code == 201
    assert len(client.get("/api/models/1/lots").json()) == 1
    for path, one, whose in (("documents", papers[0], "Claims"), ("lots", lots[0], "Units")):
        renamed = client.put(
            f"/api/{path}/{one['id']}", json=one["entry"] | {"name": "Other"}, headers={"If-Match": "1"}
        )
        assert renamed.status_code == 422 and whose in renamed.json()["what"] and renamed.json()["field"] == "name"


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("models/1/lots", {"name": " "}, "name"),
        ("models/1/lots", {"name": "2604", "made_on": "2196-01-01"}, "made_on"),
        ("models/1/lots", {"name": "2604", "count": 0}, "count"),
        ("models/1/documents", {"name": "Manual"}, ""),
        ("models/1/documents", {"name": "New", "file": "0" * 64}, ""),
        ("units/1/insides", INSIDE | {"made_safe": False}, "made_safe"),
        ("units/1/insides", INSIDE | {"fuses": [{"amps": 3000, "in_circuit": True}]}, "fuses.0.amps"),
        ("units/1/listening", {"on": "2026-11-04"}, "remarks"),
        ("units/1/listening", SOUND | {"sound": {"sensor": "seat", "meters": []}}, "sound.meters"),
        (
            "units/1/listening",
            SOUND | {"comparisons": [{"than_unit": 1, "verdict": "better"}]},
            "comparisons.0.than_unit",
        ),
        (
            "units/1/listening",
            SOUND | {"comparisons": [{"than_unit": 99, "verdict": "better"}]},
            "comparisons.0.than_unit",
        ),
        ("units/1/listening", SOUND | {"wire": {"volts": 20, "amps": 0}}, "wire.amps"),
    ],
)
def test_what_cannot_be_is_refused_by_the_fields_name(
    client: TestClient, unit_id: int, path: str, body: dict[str, Any], field: str
) -> None:
    refused = client.post(f"/api/{path}", json=body)
    assert refused.status_code in (404, 409, 422), refused.text
    assert refused.json()["what"] and (refused.json()["field"] or "") == field


def test_listening_tells_the_best_of_repeats_and_the_load_and_warns(
    client: TestClient, unit_id: int, services: Services
) -> None:
    other = add_unit(services, "T2-0002")
    body = SOUND | {
        "wire": {"volts": 20, "amps": 5, "phase_degrees": 60, "tone_hz": 40},
        "comparisons": [{"than_unit": other, "verdict": "better", "remark": "tighter"}],
    }
    made = client.post("/api/units/1/listening", json=body).json()
    assert [(one["meter"], one["decibels"]) for one in made["best"]] == [("M1", 121.97), ("M2", 121.1)]
    assert made["load"]["impedance_ohms"] == 4 and made["load"]["watts"] == pytest.approx(50)
    assert made["ear_protection"] is True and made["compared"] == ["better than T2-0002: tighter"]
    quiet = client.post("/api/units/1/listening", json={"on": "2026-11-05", "remarks": "Nothing odd"}).json()
    assert quiet["ear_protection"] is False and quiet["load"] is None
    # A record, never evidence: no verdict moved.
    assert client.get("/api/models/1").json()["claims"][0]["verdict"]["attempt_id"] is None


def test_a_recording_of_a_wire_tells_impedance_phase_and_real_power(client: TestClient, unit_id: int) -> None:
    rate, hz = 48_000, 60.0
    t = np.arange(rate) / rate
    z, phi = 3.2, np.radians(35)
    volts = 12 * np.sqrt(2) * np.sin(2 * np.pi * hz * t)
    amps = 12 / z * np.sqrt(2) * np.sin(2 * np.pi * hz * t - phi)
    out = io.BytesIO()
    soundfile.write(out, np.column_stack([volts / 40, amps / 20]), rate, format="WAV", subtype="FLOAT")
    sent = file_of(client, out.getvalue(), "wire.wav")
    body = {"recording": sent["sha256"], "volts_each": 40, "amps_each": 20}
    read = client.post("/api/speaker-wire", json=body).json()
    assert read["load"]["impedance_ohms"] == pytest.approx(z, rel=1e-4) and read["tone_hz"] == pytest.approx(hz)
    assert read["phase_degrees"] == pytest.approx(35, abs=0.01)
    assert read["watts"] == pytest.approx(144 / z * np.cos(phi), rel=1e-3)
    picture = file_of(client, drawn())
    refused = client.post("/api/speaker-wire", json=body | {"recording": picture["sha256"]})
    assert refused.status_code == 422 and refused.json()["field"] == "recording"
    mono = io.BytesIO()
    soundfile.write(mono, volts / 40, rate, format="WAV")
    refused = client.post("/api/speaker-wire", json=body | {"recording": file_of(client, mono.getvalue())["sha256"]})
    assert refused.status_code == 422 and "two" in refused.json()["what"]


def test_photographs_carry_markers_and_keep_their_picture(client: TestClient, unit_id: int) -> None:
    picture, other = file_of(client, drawn()), file_of(client, drawn((40, 30)))
    body = {"file": picture["sha256"], "place": "inside", "markers": [{"x": 0.25, "y": 0.5, "part": "Fuse 2"}]}
    made = client.post("/api/units/1/photographs", json=body).json()
    assert made["entry"]["markers"] == body["markers"]
    own = f"/api/photographs/{made['id']}"
    swapped = client.put(own, json=body | {"file": other["sha256"]}, headers={"If-Match": "1"})
    assert swapped.status_code == 422 and swapped.json()["field"] == "file"
    beside = client.put(own, json=body | {"markers": [{"x": 1.2, "y": 0, "part": ""}]}, headers={"If-Match": "1"})
    assert beside.status_code == 422 and beside.json()["field"] == "markers.0.x"
    pdf = file_of(client, b"%PDF-1.4 paper", "paper.pdf")
    assert client.post("/api/units/1/photographs", json={"file": pdf["sha256"]}).json()["field"] == "file"


def test_side_by_side_shows_where_two_units_differ(client: TestClient, services: Services, unit_id: int) -> None:
    other = add_unit(services, "T2-0002")
    client.post("/api/units/1/insides", json=INSIDE)
    client.post(f"/api/units/{other}/insides", json=INSIDE | {"board_revision": "B3"})
    told = client.get("/api/side-by-side", params={"kind": "unit", "id": [1, other]}).json()
    assert [one["name"] for one in told["subjects"]] == ["T2-0001", "T2-0002"]
    rows = {(row["section"], row["label"]): row for row in told["rows"]}
    assert rows["inside", "board revision"]["values"] == ["B2", "B3"]
    assert not rows["inside", "board revision"]["same"] and rows["unit", "model"]["same"]
    assert "1 of 2 fuses is in circuit" in rows["inside", "fuses in doubt"]["values"][0]
    for ids in ([1], [1, 1], [1, 99]):
        assert client.get("/api/side-by-side", params={"kind": "unit", "id": ids}).status_code in (404, 422)
    assert client.get("/api/side-by-side", params={"kind": "person", "id": [1, 2]}).json()["field"] == "kind"


def test_lots_stand_side_by_side_by_their_weakest_unit(client: TestClient, services: Services, unit_id: int) -> None:
    for serial, lot in (("T2-0100", "2604"), ("T2-0101", "2605")):
        client.post("/api/models/1/units", json={"serial": serial, "lot": lot, "revision": "B"})
    lots = [one["id"] for one in client.get("/api/models/1/lots").json()]
    told = client.get("/api/side-by-side", params={"kind": "lot", "id": lots}).json()
    rows = {(row["section"], row["label"]): row["values"] for row in told["rows"]}
    assert rows["units", "serial numbers"] == ["T2-0100", "T2-0101"] and rows["lot", "revision"] == ["B", "B"]


def test_the_history_of_a_model_tells_what_belongs_to_it(client: TestClient, unit_id: int) -> None:
    client.post("/api/models/1/lots", json={"name": "2604"})
    number, entry = (found := client.get("/api/models/1/entry").json())["number"], found["entry"]
    client.put("/api/models/1/entry", json=entry | {"regulated": True}, headers={"If-Match": str(number)})
    entries = client.get("/api/history/model/1").json()["entries"]
    assert [one["action"] for one in entries[:2]] == ["changed a model", "entered a lot"]
    assert entries[0]["changes"] == [{"field": "regulated", "before": "no", "after": "yes"}]
    assert client.get("/api/history/secret/1").status_code == client.get("/api/history/model/99").status_code == 404


def test_what_others_edit_is_told_and_forgotten(
    client: TestClient, unit_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    def now(**more: Any) -> list[dict[str, str]]:
        told: list[dict[str, str]] = client.get("/api/now", **more).json()["editing"]
        return told

    assert now(params={"editing": "model/1"}) == []
    assert now(headers=JOREN) == [{"person": "Tamsin Oduwell", "subject": "model/1"}]
    monkeypatch.setattr("rulvek.services.now.EDITS_FOR_SECONDS", 0.0)
    assert now(headers=JOREN) == []


def test_everything_kept_is_verified(client: TestClient, services: Services, unit_id: int) -> None:
    told = file_of(client, drawn())
    client.post("/api/units/1/photographs", json={"file": told["sha256"]})
    assert verify(services.database, services.files).faults == ()
    (services.files.root / told["sha256"][:2] / f"{told['sha256']}.jpg").write_bytes(b"other")
    assert "not as it was brought" in verify(services.database, services.files).faults[0]


def test_a_sheet_carries_the_chains_head_by_which_a_cut_is_found(
    client: TestClient, services: Services, unit_id: int
) -> None:
    campaign = certified_campaign(services, unit_id).id
    told = client.get(f"/api/campaigns/{campaign}").json()
    with services.database.writing() as session:
        assert audit.head(session) == (told["chain_entry"], told["chain_head"])
        session.execute(text("DELETE FROM audit_entry WHERE id = :last"), {"last": told["chain_entry"]})
        assert audit.broken_at(session) is None  # what is left holds together, and yet
        assert audit.head(session)[1] != told["chain_head"]
