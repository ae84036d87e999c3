"""The demo is conducted while people already look, and says how far it is or that it was cut short."""

import time
from pathlib import Path

import pytest

from rulvek.core.records.actor import PROGRAM
from rulvek.core.records.people import Role
from rulvek.demo import beside, scenario
from tests.conftest import services_in

SMALL = [one for series in scenario.LINE for one in series.models if one.name == "Thornmere T4"]


@pytest.fixture(autouse=True)
def a_small_demo(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("rulvek.demo.build.LINE", (scenario.DemoSeries("Thornmere", "Vehicles", tuple(SMALL)),))


@pytest.mark.long
def test_records_are_looked_at_while_they_come(tmp_path: Path) -> None:
    services = services_in(tmp_path)
    services.accounts.make(scenario.MANAGER, (Role.MANAGER,), PROGRAM, demo=True)
    beside.demo_beside(services, tmp_path)
    assert (tmp_path / beside.UNFINISHED).exists()
    assert [model.name for model in services.catalogue.line().series[0].models] == ["Thornmere T4"]
    seen = []
    until = time.monotonic() + 120
    while (work := services.now.since(None, "Tamsin Oduwell").work) is not None and time.monotonic() < until:
        assert work.problem == ""
        seen.append((work.done, work.of))
        time.sleep(0.05)
    measured = len([unit for unit in SMALL[0].units if unit.campaigns])
    assert work is None and seen[0] == (0, measured) and seen == sorted(seen)
    assert len(services.evidence.attempts().items) >= measured
    assert not (tmp_path / beside.UNFINISHED).exists()
    beside.demo_beside(services, tmp_path)  # there is one: nothing is done
    assert services.now.work is None
    services.close()


def test_what_was_cut_short_is_told_and_nothing_is_added_to_it(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    services = services_in(tmp_path)

    def fails(*_: object) -> None:
        raise RuntimeError("Bench 1 ended in the middle of the demo")

    monkeypatch.setattr(beside, "conduct", fails)
    beside.demo_beside(services, tmp_path)
    until = time.monotonic() + 20
    while not (services.now.work and services.now.work.problem) and time.monotonic() < until:
        time.sleep(0.01)
    assert services.now.work is not None
    assert services.now.work.problem == (
        "The demo could not be conducted to its end: Bench 1 ended in the middle of the demo."
    )
    services.now.work = None
    beside.demo_beside(services, tmp_path)  # as the next start does
    assert services.now.work is not None and services.now.work.problem == beside.CUT_SHORT
    assert len(services.catalogue.line().series) == 1
    services.close()
