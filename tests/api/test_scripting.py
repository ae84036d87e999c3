"""The examples of ``docs/scripting.md``, one after the other as a lab would run them."""

import csv
import io
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from rulvek.composition import Services
from tests.people import admit, token_of
from tests.serving import served

DOCUMENT = (Path(__file__).parents[2] / "docs" / "scripting.md").read_text(encoding="utf-8")
ENTER, CONDUCT, VERDICTS = re.findall(r"```python\n(.*?)```", DOCUMENT, flags=re.S)
(TABLE,) = re.findall(r"```csv\n(.*?)```", DOCUMENT, flags=re.S)


def run(script: str, address: str, *arguments: object) -> str:
    environment = os.environ | {"RULVEK_ADDRESS": address, "RULVEK_TOKEN": token_of("Ada Scripted")}
    done = subprocess.run(
        [sys.executable, "-c", script, *map(str, arguments)],
        env=environment,
        capture_output=True,
        text=True,
        timeout=120,
    )
    assert done.returncode == 0, done.stderr or done.stdout
    return done.stdout


@pytest.fixture
def lab(services: Services) -> Services:
    admit(services.database, "Ada Scripted")
    return services


def test_the_three_examples_work_one_after_the_other(lab: Services, tmp_path: Path) -> None:
    table = tmp_path / "line.csv"
    table.write_text(TABLE, encoding="utf-8")
    with served(lab) as address:
        assert run(ENTER, address, table) == "1 series, 2 models\n"
        unit = lab.catalogue.model(1).units[0]
        assert unit.serial.startswith("TN2-")
        printed = run(CONDUCT, address, unit.id, "two-ab")
        assert len(printed.splitlines()) == 2 and " W ± " in printed
        claim = {"document": "Manual", "group": "main", "watts": 75, "load_ohms": 4}
        add_claim = f"""
import os, httpx
httpx.post(os.environ["RULVEK_ADDRESS"] + "/api/models/1/claims", json={claim!r},
    headers={{"Authorization": "Bearer " + os.environ["RULVEK_TOKEN"]}}).raise_for_status()
"""
        run(add_claim, address)
        rows = list(csv.DictReader(io.StringIO(run(VERDICTS, address, "Tern"))))
    assert [(row["Model"], row["Claim (W)"], row["Simulated"]) for row in rows] == [("Tern 2", "75.0", "True")]
    assert "no less than the 75 W claimed" in rows[0]["Why"]
    attempts = lab.evidence.attempts().items
    assert {one.started_by for one in attempts} == {"Ada Scripted"}
