"""After an update verdicts are drawn anew in a process beside the server, which is told of and ends with it."""

import os
import signal
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest
from tools.grow import forget_conclusions, grow

from rulvek.composition import Services
from rulvek.core.records.campaigns import Campaign
from rulvek.core.runs.modes import End
from rulvek.services.conclusions import Conclusions
from rulvek.services.drawing_anew import FEW, WORK
from rulvek.services.views.now import WorkView
from rulvek.store import load
from rulvek.store.queries import line as line_queries
from tests.conftest import CERTIFIED, TAMSIN, put_attempt, services_in, until, url_in, write_line

MODELS = FEW + 2
SERVER = """
import sys, time
from rulvek.services.conclusions import Conclusions
from rulvek.services.drawing_anew import DrawingAnew
from rulvek.services.later import Later
from rulvek.store.engine import Database

if __name__ == "__main__":
    database = Database(sys.argv[1])
    drawing = DrawingAnew(database, Conclusions(database, Later("conclusions")))
    drawing.begin(lambda work: None)
    print(drawing._process.pid, flush=True)
    time.sleep(60)
"""


def archive(folder: Path, models: int) -> Services:
    """Some models with a unit each that was read, of which nothing is concluded yet."""
    services = services_in(folder)
    campaign = services.campaigns.create(write_line(services), TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (80.0, 81.0), end=End.LIMIT)
    if models > 1:
        grow(services.database, models)
    services.conclusions.flush()
    forget_conclusions(services.database)
    return services


def begun(services: Services) -> list[WorkView | None]:
    """Draw anew what is stale; returns what was told until it was done."""
    told: list[WorkView | None] = []
    services.drawing.begin(told.append)
    until(lambda: told[-1:] == [None])
    return told


def nothing_drawn(*_: object) -> None:
    raise AssertionError("It was drawn already.")


def test_pages_find_what_was_drawn_beside(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    services = archive(tmp_path, MODELS)
    assert services.conclusions.stale() == (MODELS, MODELS)
    told = begun(services)
    done = [one.done for one in told if one is not None]
    assert told[0] == replace(WORK, of=MODELS) and done == sorted(done)
    assert services.conclusions.stale() == (0, MODELS)
    shown = services.catalogue.line(), services.rating_board.board()
    forget_conclusions(services.database)
    assert (services.catalogue.line(), services.rating_board.board()) == shown  # as it is drawn for a page
    services.conclusions.flush()
    monkeypatch.setattr(Conclusions, "_draw_units", nothing_drawn)
    assert (services.catalogue.line(), services.rating_board.board()) == shown
    services.close()


def test_few_are_drawn_by_the_server_itself(tmp_path: Path) -> None:
    services = archive(tmp_path, 1)
    told: list[WorkView | None] = []
    services.drawing.begin(told.append)
    services.conclusions.flush()
    assert services.conclusions.stale() == (0, 1) and not told
    services.close()


def test_a_unit_that_cannot_be_read_names_itself_alone(tmp_path: Path) -> None:
    """Many units are read at once; what is wrong with one of them is told of its campaigns only."""
    services = archive(tmp_path, 2)
    with services.database.writing() as session:
        session.connection().exec_driver_sql("UPDATE attempt SET cause = 'moonshine' WHERE id = 2")
    with services.database.reading() as session:
        units = [one for model in (1, 2) for one in line_queries.unit_ids(session, model)]
        found = list(load.campaigns_by_unit(session, units))
        alone = [load.campaigns_of_unit(session, one) for one in units]
    assert readable(found) == readable(alone)
    problems = [[problem.subject for problem in one.unreadable] for campaigns in found for one in campaigns]
    assert sorted(problems) == [[], [2]]
    services.close()


def readable(units: list[list[Campaign]]) -> list[list[Campaign]]:
    return [[replace(one, unreadable=()) for one in campaigns] for campaigns in units]


def test_it_ends_with_a_server_that_is_killed(tmp_path: Path) -> None:
    archive(tmp_path, MODELS).close()
    (tmp_path / "server.py").write_text(SERVER)
    command = [sys.executable, str(tmp_path / "server.py"), url_in(tmp_path)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None
        beside = int(server.stdout.readline())
        server.send_signal(signal.SIGKILL)
    until(lambda: not running(beside), 10)


def running(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    return "Z" not in Path(f"/proc/{process}/stat").read_text().rsplit(")", 1)[1].split()[0]
