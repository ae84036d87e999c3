"""Kills at every point of keeping a file, and at points of conducting, importing and migrating: a thousand in all.

However a process ends: what it acknowledged is there at the next start, nothing lies about, what it was at can be done,
and an attempt that was cut off says so.
"""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

pytestmark = pytest.mark.long
ROOT = Path(__file__).parents[2]
SHARE = float(os.environ.get("RULVEK_KILLS", "0.12"))
"""How much of the thousand; 1 is all of it."""


@pytest.mark.parametrize(
    ("what", "kills", "seed"),
    [("keeping", 150, 1), ("conducting", 225, 2), ("conducting", 225, 3), ("importing", 200, 4), ("migrating", 200, 5)],
)
def test_killed_anywhere(tmp_path: Path, what: str, kills: int, seed: int) -> None:
    trials = round(kills * SHARE)
    asked = [sys.executable, "-m", "tests.long.killing", what, str(tmp_path), str(trials), str(seed)]
    done = subprocess.run(
        asked, cwd=ROOT, env=os.environ | {"OPENBLAS_NUM_THREADS": "1"}, capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr[-2000:]
    whole, *killed = [json.loads(line) for line in done.stdout.splitlines() if line.startswith("{")]
    assert whole["points"] and not whole["failed"] and not whole["killed"]
    for one in (whole, *killed):
        assert not one["failed"], one
        assert one["killed"] or one is whole or one["points"], one
        assert all(one["after"].get(table, 0) >= rows for table, rows in one["acknowledged"].items()), one
        assert one["orphans"] == one["left"] == one["faults"] == one["untrue"] == [], one
        assert one["again"] in ("done", "it was taken in already"), one
    assert sum(one["killed"] for one in killed) == trials
