"""Whatever was accepted can be read for ever: hostile figures by every way in, then every page that shows them."""

import os
import random
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.composition import Services
from tests.conftest import add_unit

IMPOSSIBLE = (0, 0.0, -0.0, -1, -5e-324, 5e-324, 1e-320, 2.2e-308, 1e-9, 1e9, 1e300, 1.7e308)
BETWEEN = {
    "watts": (0.001, 0.0011, 1.0, 80.0, 99_999.0, 100_000),
    "volts": (0.001, 0.5, 18.0, 999.9, 1_000),
    "supply": (1, 1.0001, 9.0, 14.4, 29.999, 30),
    "ohms": (0.05, 0.0501, 2.0, 4.0, 99.9, 100),
    "amps": (0, 0.0001, 20.0, 2_000),
    "percent": (0, 0.0001, 1.0, 50, 99.9, 100),
    "celsius": (-40, 0, 25.0, 250),
}
WRITES_IN_A_TURN = 8
SHARE = float(os.environ.get("RULVEK_ACCEPTED", "0.35"))
"""Of ten thousand writes, in `make test-long`; all of them in `make test-all`."""
TABLE_ROWS = 60
IMPOSSIBLE_SHARE = 0.02
IMPOSSIBLE_SHARE_IN_TABLES = 0.0015  # one impossible figure refuses all of a table


class Hostile:
    """Makes bodies of figures at, near and past the bounds; mostly such that have a chance to be accepted."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)

    def figure(self, sort: str, missing: float = 0.3, impossible: float = IMPOSSIBLE_SHARE) -> float | None:
        """A figure of a sort, or none."""
        if self.random.random() < missing:
            return None
        return self.random.choice(IMPOSSIBLE if self.random.random() < impossible else BETWEEN[sort])

    def run(self) -> dict[str, Any]:
        """A run of the test model."""
        bridged = self.random.random() < 0.3
        mode = self.random.choice(("certified", "uncertified", "burst"))
        return {
            "mode": mode,
            "group": "main",
            "load_ohms": self.figure("ohms", 0) if self.random.random() < 0.2 else 4.0,
            "tone_hz": self.random.choice((10, 100.0, 1000.0, 20_000)),
            "supply_volts": self.figure("supply", 0),
            "bridged": bridged,
            "burst": "1 kHz" if mode == "burst" else "",
        }

    def by_hand(self) -> dict[str, Any]:
        """A reading as a technician writes it down."""
        run = self.run()
        channels = [
            {"watts": self.figure("watts"), "volts_rms": self.figure("volts"), "volts_peak": self.figure("volts")}
            for _ in range(1 if run["bridged"] else 2)
        ]
        return {
            "run": run,
            "channels": channels,
            "instrument": self.random.choice(("Meter 4", "Recorder R-1")),
            "accuracy_percent": self.random.choice((0, 0.0001, 1.0, 50)),
            "load_measured": self.figure("ohms", 0.7),
            "start_volts": self.figure("supply", 0.5),
            "loaded_volts": self.figure("supply", 0.2),
            "amps": self.figure("amps", 0.5),
            "charger_amps": self.figure("amps", 0.8),
            "start_watts": self.figure("watts", 0.8),
            "sink_c": self.figure("celsius", 0.5),
            "thd_n_percent": self.figure("percent", 0.5),
            "end": self.random.choice(("limit", "clip", "operator", "protected", "too_hot")),
            "policy": self.random.choice(("held", "bank")),
            "vehicle": self.random.choice((None, None, "engine_off", "engine_running")),
            "others_unread": self.random.random() < 0.5,
            "reason": self.random.choice(("", "", "Once more")),
            "read_on": self.random.choice((None, "2026-03-31")),
        }

    def sheet(self) -> list[dict[str, Any]]:
        """Readings of one unit, of one day and by one instrument."""
        first, *others = (self.by_hand() for _ in range(2))
        shared = {name: first[name] for name in ("policy", "vehicle", "read_on", "instrument")}
        return [first, *(other | shared for other in others), first | {"reason": "Once more"}]

    def table(self, serial: str) -> dict[str, Any]:
        """Lines of somebody's spreadsheet."""
        lines = []
        for _ in range(TABLE_ROWS):
            sorts = (("watts", 0), ("watts", 0), ("supply", 0.5))
            figures = [self.figure(sort, missing, IMPOSSIBLE_SHARE_IN_TABLES) for sort, missing in sorts]
            cells = [serial, self.random.choice(("certified", "uncertified")), "4", *figures]
            lines.append(",".join("" if cell is None else str(cell) for cell in cells))
        names = ("serial", "mode", "load_ohms", "watts", "watts", "loaded_volts")
        text = "\n".join(("Serial,Mode,Load,Watts,Watts 2,Loaded", *lines))
        mapping = {str(column): name for column, name in enumerate(names)}
        return {"file": "old.csv", "text": text, "mapping": mapping, "instrument": "Meter 4", "accuracy_percent": 1.0}

    def claim(self) -> dict[str, Any]:
        """A figure of a paper."""
        return {
            "document": f"Paper {self.random.random()}",
            "group": "main",
            "watts": self.figure("watts", 0),
            "load_ohms": self.random.choice((4.0, 2.0, 0.05, 100)),
            "kind": self.random.choice(("continuous", "burst", "maximum")),
            "supply_volts": self.figure("supply"),
            "thd_n_percent": self.random.choice((None, 0.0001, 1.0, 100)),
        }

    def second(self) -> dict[str, Any]:
        """What another instrument read."""
        channel = {"channel": 1, "watts": self.figure("watts", 0.5), "volts_rms": self.figure("volts", 0.5)}
        return {"instrument": "Meter 9", "accuracy_percent": self.random.choice((0, 1.0, 50)), "channels": [channel]}

    def instrument(self) -> dict[str, Any]:
        """An entry of the register."""
        return {
            "role": self.random.choice(("output", "supply", "load", "clamp")),
            "name": "Meter 4",
            "percent_of_reading": self.random.choice((None, 0, 0.05, 50)),
            "percent_of_range": self.random.choice((None, 0, 50)),
            "full_range": self.random.choice((None, 0, 100.0, 1_000_000)),
            "digits": self.random.choice((None, 0, 2)),
            "resolution": self.random.choice((None, 0, 0.001)),
        }


def accepted(client: TestClient, path: str, body: Any) -> Any:
    """The answer to a write that was accepted; None to one that was refused, which must be said in a sentence."""
    answer = client.post(f"/api{path}", json=body)
    assert answer.status_code < 500, (path, body, answer.text)
    if answer.status_code == 201:
        return answer.json()
    assert answer.status_code == 200 or answer.json()["what"], (path, body, answer.text)
    return None


def read(client: TestClient, *paths: str) -> None:
    for path in paths:
        answer = client.get(f"/api{path}")
        assert answer.status_code == 200, (path, answer.text)


def read_around(client: TestClient, attempt: int) -> None:
    """An attempt, its campaign and its sheet."""
    answer = client.get(f"/api/attempts/{attempt}")
    assert answer.status_code == 200, answer.text
    campaign = answer.json()["campaign_id"]
    read(client, f"/campaigns/{campaign}", f"/campaigns/{campaign}/sheet.csv")


def write_and_read(client: TestClient, services: Services, seed: int, wanted: int) -> int:
    """Write until so many were accepted, and read everything that shows them."""
    hostile, kept, turn = Hostile(seed), 0, 0
    while kept < wanted:
        turn += 1
        serial = f"T2-{seed}-{turn}"
        unit = add_unit(services, serial)
        for _ in range(WRITES_IN_A_TURN):
            done = accepted(client, f"/units/{unit}/typed", hostile.by_hand())
            if done is not None:
                kept += 1
                attempt = done["attempt_id"]
                kept += accepted(client, f"/attempts/{attempt}/second", hostile.second()) is not None
                read_around(client, attempt)
        sheet = accepted(client, f"/units/{unit}/sheet", hostile.sheet())
        if sheet is not None:
            kept += 3
            read(client, f"/campaigns/{sheet['campaign_id']}", f"/campaigns/{sheet['campaign_id']}/sheet.csv")
        table = accepted(client, "/earlier", hostile.table(serial))
        if table is not None:
            kept += len(table["readings"])
            read_around(client, table["readings"][0]["attempt_id"])
        claim = accepted(client, "/models/1/claims", hostile.claim())
        kept += claim is not None
        kept += accepted(client, "/gear/instruments", hostile.instrument()) is not None
        accepted(client, f"/units/{unit}/plan", {})
        read(client, "/line", "/models/1", f"/units/{unit}", "/attempts", "/campaigns", "/gear")
        if claim is not None:  # so that the model's page stays of a size that a model has
            latest = max(one["id"] for one in claim["claims"])
            assert accepted(client, f"/claims/{latest}/withdrawal", {"reason": "Only a trial"}) is not None
    return kept


def test_whatever_was_accepted_renders_everywhere(client: TestClient, services: Services, unit_id: int) -> None:
    assert write_and_read(client, services, 1, 40) >= 40


@pytest.mark.long
@pytest.mark.parametrize("seed", range(2, 2 + round(67 * SHARE)))
def test_ten_thousand_accepted_writes(client: TestClient, services: Services, unit_id: int, seed: int) -> None:
    assert write_and_read(client, services, seed, 150) >= 150


@pytest.mark.parametrize("field", ["watts", "volts_rms", "volts_peak"])
@pytest.mark.parametrize("nothing", [0, -0.0, 1e-320, 1e-9, -3, 1e300])
def test_no_reading_is_nothing(client: TestClient, unit_id: int, field: str, nothing: float) -> None:
    """By hand, of a burst too: one sentence, and nothing on record."""
    for mode in ("certified", "burst"):
        run = {"mode": mode, "group": "main", "load_ohms": 4.0, "tone_hz": 1000.0, "supply_volts": 14.4}
        body = {"run": run, "channels": [{field: nothing}, {field: 80.0}], "instrument": "Meter 4", "end": "limit"}
        answer = client.post(f"/api/units/{unit_id}/typed", json=body)
        assert answer.status_code == 422 and field in str(answer.json()["field"])
    assert client.get("/api/attempts").json()["items"] == []
