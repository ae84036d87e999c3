"""No page reads the archive: what it asks the records for stays the same when there is ten times as much in them."""

from collections.abc import Callable

import pytest
from counting import counted
from tools.grow import ROOTS, grow

from rulvek.composition import Services
from rulvek.core.records.summaries import AttemptFilter
from rulvek.core.records.wishes import Wishes
from rulvek.services.catalogue import line
from rulvek.store.verify import verify
from tests.conftest import add_unit, certified_campaign, put_attempt

PAGES: dict[str, Callable[[Services], object]] = {
    "line": lambda s: s.catalogue.line(limit=2),
    "find": lambda s: s.catalogue.find("T2-0001"),
    "model": lambda s: s.catalogue.model(1, limit=2),
    "unit": lambda s: s.catalogue.unit(1),
    "plan": lambda s: s.planner.plan(1, Wishes()),
    "campaign": lambda s: s.campaigns.get(1),
    "attempt": lambda s: s.evidence.attempt(1),
    "list of evidence": lambda s: s.evidence.attempts(limit=3),
    "list of a model's evidence": lambda s: s.evidence.attempts(limit=3, wanted=AttemptFilter(model_id=1)),
    "list of campaigns": lambda s: s.campaigns.listed(limit=2),
    "list of campaigns with runs left": lambda s: s.campaigns.listed(limit=2, which="open"),
    "bench": lambda s: s.benches.states(),
}


@pytest.fixture
def archive(services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch) -> Services:
    """Two units with two campaigns each and a third, every first page of every list full."""
    monkeypatch.setattr(line, "CAMPAIGNS", 2)
    for unit in (unit_id, add_unit(services, "T2-0002")):
        for watts in (80.0, 81.0):
            campaign = certified_campaign(services, unit)
            for run in range(2):
                put_attempt(services, campaign.id, (watts, watts + 1), run=run)
            put_attempt(services, campaign.id, (watts - 1, watts), run=0)
    add_unit(services, "T2-0003")
    with services.database.writing() as session:
        session.connection().exec_driver_sql("UPDATE campaign SET runs_left = 1")
    grow(services.database, 10)
    return services


def asked(services: Services) -> dict[str, tuple[int, int]]:
    """Statements and rows of every page, once what is to be drawn has been drawn."""
    found = {}
    for name, page in PAGES.items():
        page(services)
        services.conclusions.flush()
        with counted(services.database, *services.asides) as count:
            page(services)
        found[name] = (count.statements, count.rows)
    return found


@pytest.mark.parametrize("below", ROOTS)
def test_no_page_asks_for_more_when_there_is_ten_times_as_much(archive: Services, below: str) -> None:
    before = asked(archive)
    assert all(statements > 0 for name, (statements, _) in before.items() if name != "bench")
    assert before["bench"] == (0, 0), "what a bench is doing is known without the records"
    grow(archive.database, 10, below)
    for name, (statements, rows) in asked(archive).items():
        assert statements == before[name][0], name
        assert rows <= before[name][1], name  # the copies have no history


@pytest.mark.files
def test_what_is_grown_is_sound(services: Services, unit_id: int) -> None:
    put_attempt(services, certified_campaign(services, unit_id).id, (80.0, 81.0))
    assert grow(services.database, 4) > 0
    assert verify(services.database, services.files).faults == ()
    models = [model for series in services.catalogue.line().series for model in series.models]
    assert [model.name for model in models] == ["Test two", *(f"Test two #{copy}" for copy in (2, 3, 4))]
    assert models[0].states == ["backed"] and all(model.states == models[0].states for model in models)
    assert all(model.reaches[0].certified_watts == 80.0 for model in models)
    grow(services.database, 2, "unit")
    assert services.catalogue.model(1).units_in_all == 2
