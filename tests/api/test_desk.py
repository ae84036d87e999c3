"""The desk against handbook values: each calculator once, and what it refuses."""

import re

import pytest
from fastapi.testclient import TestClient


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
            {"watts": 72.25, "ohms": 4, "gain_db": 20, "overlap_db": 20},
            "Source level",
            17.0,
        ),  # gain and overlap cancel
        ("loads", {"ohms": 2.667, "watts": 100}, "8 Ω + 4 Ω in parallel", 2.67),  # 8·4/12
    ],
)
def test_handbook_values(client: TestClient, name: str, values: dict[str, float], line: str, expected: float) -> None:
    assert first_number(worked(client, name, **values)[line]) == pytest.approx(expected, rel=3e-3)


def test_equivalents_and_exponents(client: TestClient) -> None:
    assert worked(client, "bridged", pair_watts=108.16, ohms=8)["Stands for"] == "2 × 54.08 W at 4 Ω per channel"
    runs = {"volts_1": 12.32, "watts_1": 317, "volts_2": 13.5, "watts_2": 391, "volts_3": 14.14, "watts_3": 429}
    told = worked(client, "exponent", **runs, at=14.4)["Exponent"]
    assert first_number(told) == pytest.approx(2.2, abs=0.05)  # an unregulated unit (common practice)
    assert "Nothing on the shelf" in worked(client, "loads", ohms=0.37, watts=100)


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
