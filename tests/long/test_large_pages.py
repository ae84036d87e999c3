"""Large pages over and over in one process, with the collector on: it was once seen to end in a segmentation fault."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from tools.grow import grow

from tests.conftest import add_unit, certified_campaign, put_attempt, services_in, write_line

pytestmark = [pytest.mark.long, pytest.mark.files]
PAGES = round(100 * float(os.environ.get("RULVEK_LARGE_PAGES", "0.15")))
"""RULVEK_LARGE_PAGES=1 makes them the hundred after which it was seen."""
UNITS = 260
LOOP = """
import gc, math, sys
from pathlib import Path
from fastapi.testclient import TestClient
from rulvek.api.app import app_for
from rulvek.composition import make_services
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.store.engine import Database
from tests.people import acting

folder, pages = Path(sys.argv[1]), int(sys.argv[2])
services = make_services(Database(f"sqlite:///{folder}/rulvek.db"), folder / "captures", math.inf)
assert gc.isenabled()
with TestClient(app_for(services), "http://localhost", headers=acting("Tamsin Oduwell")) as http:
    for number in range(pages):
        rule = list(DecisionRule)[number % len(DecisionRule)].value
        answer = http.get("/api/models/1", params={"rule": rule, "limit": 200})
        assert answer.status_code == 200, answer.text
        assert len(answer.json()["units"]) > 100
        # Some of it is judged afresh for the next one.
        with services.database.writing() as session:
            session.connection().exec_driver_sql("DELETE FROM unit_conclusion WHERE unit_id < 40")
            session.connection().exec_driver_sql("DELETE FROM model_conclusion")
services.close()
print(pages)
"""


def test_large_pages_in_one_process(tmp_path: Path) -> None:
    services = services_in(tmp_path)
    write_line(services)
    for unit in (1, add_unit(services, "T2-0002")):
        campaign = certified_campaign(services, unit)
        for watts in (80.0, 81.0):
            put_attempt(services, campaign.id, (watts, watts + 1))
    grow(services.database, UNITS // 2, "unit")
    services.close()
    command = [sys.executable, "-X", "faulthandler", "-c", LOOP, str(tmp_path), str(PAGES)]
    done = subprocess.run(command, capture_output=True, text=True, cwd=Path(__file__).parents[2], timeout=900)
    assert done.returncode == 0, done.stderr[-3000:]
    assert done.stdout.split()[-1] == str(PAGES)
