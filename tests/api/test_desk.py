"""The desk against handbook values: each calculator once, and what it refuses."""

import io
import math
import re

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.bench.instruments.assembly import Assembly, Limits, Station
from rulvek.bench.instruments.description import BenchRole, shipped
from rulvek.bench.sim.instruments.devices import DESCRIBED
from rulvek.composition import Services
from rulvek.core.electrical.loads import LoadBox
from tests.conftest import TAMSIN


def worked(client: TestClient, name: str, **values: float) -> dict[str, str]:
    answer = client.post(f"/api/desk/{name}", json={"values": values})
    assert answer.status_code == 200, answer.text
    return {line["words"]: line["value"] for line in answer.json()}


def first_number(text: str) -> float:
    found = re.search(r"[+−-]?[0-9.]+", text)
    assert found is not None
    return float(found.group().replace("−", "-"))


@pytest.mark.parametrize(
    ("name", "values", "line", "expected"),
    [
        ("power", {"volts_rms": 17, "ohms": 4}, "Power", 72.25),  # 17 V into 4 Ω ≙ 72.3 W (common practice)
        ("peak", {"volts_peak": 41.6, "ohms": 8}, "Power, if the sine is not clipped", 108.2),  # common practice
        ("current", {"watts": 3000, "volts": 14.4, "efficiency": 82}, "Supply current", 254.1),  # P/(V·η)
        (
            "cable",
            {"gauge": 4, "metres": 2, "amps": 120, "celsius": 20},
            "Volts lost",
            0.391,
        ),  # 0.8152 Ω/km, wire table
        ("fuse", {"amps": 160, "rating": 80}, "Opens after", 0.15),  # ISO 8820-3 at 200 %, from memory
        ("headroom", {"burst_watts": 200, "certified_watts": 100}, "Headroom", 3.01),  # 10·log10 2
        (
            "gain",
            {"source_volts": 4, "overlap_db": 6.0206, "watts": 64, "ohms": 4},
            "Input level for full output",
            2.0,
        ),  # 6.02 dB are a factor of 2
        ("loads", {"ohms": 4, "watts": 64, "tolerance": 1}, "Power in the wanted load", 64.0),
    ],
)
def test_handbook_values(client: TestClient, name: str, values: dict[str, float], line: str, expected: float) -> None:
    assert first_number(worked(client, name, **values)[line]) == pytest.approx(expected, rel=3e-3)


def test_equivalents_and_exponents(client: TestClient) -> None:
    assert worked(client, "bridged", pair_watts=108.16, ohms=8)["Stands for"] == "2 × 54.08 W at 4 Ω per channel"
    runs = {"volts_1": 12.32, "watts_1": 317, "volts_2": 13.5, "watts_2": 391, "volts_3": 14.14, "watts_3": 429}
    told = worked(client, "exponent", **runs, at=14.4)["Exponent"]
    assert first_number(told) == pytest.approx(2.2, abs=0.05)  # an unregulated unit (common practice)
    matched = worked(client, "gain", source_volts=1, overlap_db=6.0206, watts=64, ohms=4)
    assert first_number(matched["Gain from one to the other"]) == pytest.approx(30.1, abs=0.05)  # 16 V over 0.5 V


def composed(client: TestClient, **body: object) -> dict:  # type: ignore[type-arg]
    answer = client.post("/api/desk/loads/networks", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()  # type: ignore[no-any-return]


def test_a_load_is_composed_of_what_is_on_the_shelf(client: TestClient) -> None:
    shelf = "2 × 8 Ω 300 W; 4 ohm 500W"
    (best,) = composed(client, shelf=shelf, ohms=2.667, watts=400)["networks"]
    assert best["how"] == "8 Ω + 4 Ω in parallel"
    # The common voltage: 8 Ω takes a third, 4 Ω two thirds; 500 W of the 4 Ω stand for 750 W.
    assert [part["watts"] for part in best["parts"]] == pytest.approx([400 / 3, 800 / 3])
    assert best["most_watts"] == pytest.approx(750)
    two = composed(client, shelf=shelf, ohms=2.0, watts=400)["networks"]
    assert two[0]["how"] == "8 Ω + 8 Ω + 4 Ω in parallel"
    assert composed(client, shelf=shelf, ohms=2.0, watts=5000) == {
        "networks": [],
        "too_weak": 1,
        "shelf": "2 × 8 Ω 300 W; 1 × 4 Ω 500 W",
    }
    assert composed(client, ohms=4, watts=100)["networks"][0]["kind"] == "one"  # this bench's own shelf


@pytest.mark.parametrize("shelf", ["a lamp", "0 × 4 Ω 5 W", "; ".join(["4 Ω 5 W"] * 7)])
def test_a_shelf_that_cannot_be_read(client: TestClient, shelf: str) -> None:
    answer = client.post("/api/desk/loads/networks", json={"shelf": shelf, "ohms": 4, "watts": 5})
    assert answer.status_code == 422 and answer.json()["field"] == "shelf"


@pytest.mark.parametrize(("burst", "rms"), [("", math.sqrt(0.5)), ("1 kHz", math.sqrt(0.5 * (0.04 + 0.96 * 0.01)))])
def test_a_tone_is_saved(client: TestClient, burst: str, rms: float) -> None:
    """A sine's rms is 1/√2 of its peak; a burst of 20 ms in 500 ms at −20 dB of rest, by its duty."""
    answer = client.get("/api/desk/tone.wav", params={"hz": 1000, "seconds": 2, "burst": burst, "depth": "float32"})
    wave, rate = soundfile.read(io.BytesIO(answer.content))
    assert rate == 48_000 and wave.size == 96_000
    assert float(np.sqrt(np.mean(wave**2))) == pytest.approx(rms, rel=1e-3)
    assert client.get("/api/desk/tone.wav", params={"burst": "long"}).json()["field"] == "burst"
    assert client.get("/api/desk/tone.wav", params={"hz": 30_000}).status_code == 422


def test_every_example_can_be_worked_out_and_names_its_source(client: TestClient) -> None:
    for calculator in client.get("/api/desk").json():
        assert calculator["formula"] and calculator["source"]
        lines = worked(client, calculator["name"], **{f["name"]: f["example"] for f in calculator["fields"]})
        assert lines and all(lines.values())


@pytest.mark.parametrize(
    ("name", "values", "status", "field"),
    [
        ("power", {"volts_rms": 17}, 422, "ohms"),
        ("power", {"volts_rms": 0, "ohms": 4}, 422, "volts_rms"),
        ("power", {"volts_rms": 17, "ohms": 4, "amps": 1}, 422, "amps"),
        ("cable", {"gauge": 41, "metres": 2, "amps": 1, "celsius": 20}, 422, "gauge"),
        ("horoscope", {}, 404, None),
    ],
)
def test_what_cannot_be_worked_out(client: TestClient, name: str, values: dict, status: int, field: str | None) -> None:  # type: ignore[type-arg]
    answer = client.post(f"/api/desk/{name}", json={"values": values})
    assert answer.status_code == status and answer.json()["field"] == field


def test_a_load_is_composed_of_the_boxes_of_the_bench_that_is_chosen(client: TestClient, services: Services) -> None:
    kinds = shipped()
    stations = {BenchRole(role): Station(kinds[name], f"nowhere {role}") for role, name in DESCRIBED.items()}
    few = Assembly(stations, Limits(250.0, (LoadBox(8.0, 300.0, 3),)))
    services.benches.add("Bench 2", OF_INSTRUMENTS, TAMSIN, few.as_json())
    asked = {"ohms": 2.6667, "watts": 800}
    own, other = (
        client.post("/api/desk/loads/networks", json=asked | more).json() for more in ({}, {"bench": "Bench 2"})
    )
    assert other["shelf"] == "3 × 8 Ω 300 W"
    assert own["shelf"] != other["shelf"]
    assert other["networks"][0]["most_watts"] == pytest.approx(900)  # three alike in parallel: 8 ÷ 3 Ω, 3 × 300 W
    assert client.post("/api/desk/loads/networks", json=asked | {"bench": "Bench 9"}).status_code == 404
