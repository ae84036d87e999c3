"""The day's order over the API: what waits, how long it takes, what people want of it, and moves by hand."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek import clock
from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.server import on_sockets
from rulvek.composition import Services
from rulvek.core.planning.hours import DAYS, hours_of
from rulvek.core.planning.today import Took, pace_of
from rulvek.core.records.campaigns import SIMULATED
from rulvek.core.records.people import Role
from rulvek.core.runs.modes import Mode
from rulvek.services.campaigns import Today
from tests.bench.instruments.conftest import assembled
from tests.conftest import CERTIFIED, TAMSIN, add_unit, certified_campaign, conducted, put_attempt
from tests.people import acting, admit


@pytest.fixture
def three(services: Services, unit_id: int) -> list[int]:
    """Three campaigns of three units that wait for the first bench; a second one is there as well."""
    units = [unit_id, add_unit(services, "T2-0002"), add_unit(services, "T2-0003")]
    services.benches.add("Bench 2", SIMULATED, TAMSIN)
    return [services.campaigns.create(one, TAMSIN, CERTIFIED).id for one in units]


def slots(told: dict[str, Any], bench: int = 0) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = told["days"][bench]["slots"]
    return found


def ids(told: dict[str, Any], bench: int = 0) -> list[int]:
    return [one["campaign_id"] for one in slots(told, bench)]


def test_what_waits_comes_one_after_the_other_with_its_times(client: TestClient, three: list[int]) -> None:
    told = client.get("/api/queue").json()
    assert [day["bench"] for day in told["days"]] == ["Bench 1", "Bench 2"] and slots(told, 1) == []
    assert sorted(ids(told)) == sorted(three) and told["unplaced"] == []
    for before, after in zip(slots(told), slots(told)[1:], strict=False):
        assert before["ends_at"] < after["starts_at"] and after["minutes"] > 0
    assert told["proposed"]["rewirings"] <= told["first_come"]["rewirings"]
    assert told["paced_runs"] == 0 and told["pace"] == 1
    assert told["days"][0]["meanwhile"] is None  # nothing waits for the other bench
    assert told["days"][1]["meanwhile"]["campaign_id"] == slots(told)[0]["campaign_id"]
    assert not any(one["begun"] or one["by_hand"] or one["late_minutes"] for one in slots(told))


def test_what_is_done_waits_no_longer_and_runs_teach_how_long_they_take(
    client: TestClient, services: Services, three: list[int]
) -> None:
    conducted(services, three[0])
    told = client.get("/api/queue").json()
    assert three[0] not in ids(told) and told["paced_runs"] > 0


def test_the_pace_is_the_median_of_what_runs_took() -> None:
    took = [Took(Mode.CERTIFIED, 100.0, seconds) for seconds in (90, 100, 120, 130, 400)]
    assert pace_of(took).ratio == pytest.approx(1.2) and pace_of(took).runs == 5
    assert pace_of(took[:4]).ratio == 1


def test_who_is_wanted_sooner_comes_first_and_lateness_is_told(client: TestClient, three: list[int]) -> None:
    today = datetime.now(UTC).astimezone().date()
    told = client.put(f"/api/queue/{three[2]}", json={"due_on": today.isoformat()}).json()
    slot = next(one for one in slots(told) if one["campaign_id"] == three[2])
    assert slot["due_on"] == today.isoformat()
    assert told["proposed"]["late_minutes"] <= told["first_come"]["late_minutes"]
    for day in (today - timedelta(days=1), today + timedelta(days=9_000)):
        answer = client.put(f"/api/queue/{three[2]}", json={"due_on": day.isoformat()})
        assert answer.status_code == 422 and answer.json()["field"] == "due_on"
    assert slots(client.put(f"/api/queue/{three[2]}", json={}).json())[0]["due_on"] is None


def test_an_order_by_hand_stays_until_the_proposal_is_taken(client: TestClient, three: list[int]) -> None:
    order = [three[2], three[0]]
    told = client.put("/api/queue/order", json={"campaigns": order}).json()
    assert ids(told)[:2] == order and [one["by_hand"] for one in slots(told)] == [True, True, False]
    assert ids(client.get("/api/queue").json())[:2] == order
    told = client.put("/api/queue/order", json={"campaigns": []}).json()
    assert not any(one["by_hand"] for one in slots(told))
    assert client.put("/api/queue/order", json={"campaigns": [three[0], three[0]]}).status_code == 422
    assert client.put("/api/queue/order", json={"campaigns": [999]}).status_code == 404


def test_another_bench_has_it_only_where_somebody_says_so(client: TestClient, three: list[int]) -> None:
    assert slots(client.get("/api/queue").json(), 1) == []
    for one in three:
        told = client.put(f"/api/queue/{one}", json={"anywhere": True}).json()
    moved = slots(told, 1)
    assert moved and moved[0]["planned_for"] == "Bench 1" and moved[0]["anywhere"]
    number = moved[0]["campaign_id"]
    told = client.post(f"/api/queue/{number}/bench", json={"bench": "Bench 2"}).json()
    assert next(one for one in slots(told, 1) if one["campaign_id"] == number)["planned_for"] == "Bench 2"
    assert client.get(f"/api/campaigns/{number}").json()["bench"] == "Bench 2"
    history = client.get(f"/api/history/campaign/{number}").json()["entries"]
    assert history[0]["action"] == "moved a campaign"
    assert client.post(f"/api/queue/{number}/bench", json={"bench": "Bench 9"}).status_code == 404


def test_what_was_begun_stays_on_its_bench(client: TestClient, services: Services, three: list[int]) -> None:
    services.preparations.see_to_all(three[1], 1, TAMSIN)
    told = client.put(f"/api/queue/{three[1]}", json={"anywhere": True}).json()
    slot = next(one for one in slots(told) if one["campaign_id"] == three[1])
    assert slot["begun"]
    answer = client.post(f"/api/queue/{three[1]}/bench", json={"bench": "Bench 2"})
    assert answer.status_code == 409 and answer.json()["code"] == "begun"


def test_a_bench_that_cannot_stand_it_gets_nothing(client: TestClient, services: Services, three: list[int]) -> None:
    """A supply of 3 A feeds no amplifier."""
    with on_sockets(SimulatedInstruments(SimulatedBench(DESIGNS["two-ab"], "T2-0001")).trees) as running:
        text = assembled(running).as_json().replace("250.0", "3.0")
        services.benches.add("Bench 3", OF_INSTRUMENTS, TAMSIN, text)
    for one in three:
        told = client.put(f"/api/queue/{one}", json={"anywhere": True}).json()
    assert slots(told, 2) == []
    answer = client.post(f"/api/queue/{three[0]}/bench", json={"bench": "Bench 3"})
    assert answer.status_code == 409 and "cannot stand" in answer.json()["what"]


def test_a_run_that_is_on_is_none_that_waits(client: TestClient, services: Services, unit_id: int) -> None:
    campaign = certified_campaign(services, unit_id)
    put_attempt(services, campaign.id, (80.0, 81.0))
    told = client.get("/api/queue").json()
    left = [one["runs_left"] for one in slots(told) if one["campaign_id"] == campaign.id]
    assert left == [len(campaign.runs) - 1] or left == []


def test_roles(client: TestClient, services: Services, three: list[int]) -> None:
    admit(services.database, "Maren Toft", roles=(Role.REVIEWER,))
    who = acting("Maren Toft")
    assert client.get("/api/queue", headers=who).status_code == 200
    assert client.put("/api/queue/order", json={"campaigns": []}, headers=who).status_code == 403


def test_times_keep_to_the_hours_in_which_the_lab_works(services: Services, unit_id: int) -> None:
    services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    today = clock.now().astimezone()
    tomorrow = DAYS[(today.weekday() + 1) % 7]
    hours = hours_of(f"{tomorrow} 10:00-10:05")  # five minutes a week
    ours = Today(services.database, services.conclusions, services.benches.equipment, dict, hours)
    told = ours.queue()
    (slot,) = told.days[0].slots
    begins, ends = (one.astimezone() for one in (slot.starts_at, slot.ends_at))
    assert told.hours == f"{tomorrow} 10:00–10:05"
    for one in (begins, ends):
        assert DAYS[one.weekday()] == tomorrow
        assert (10, 0) <= (one.hour, one.minute) <= (10, 5)
    assert (ends - begins).total_seconds() > 60 * slot.minutes  # nights and days between are no work
