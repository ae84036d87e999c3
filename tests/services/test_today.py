"""The day's order over the API: what waits, how long it takes, what people want of it, and moves by hand."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
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
from rulvek.core.errors import Conflict, NotFound
from rulvek.core.planning.hours import DAYS, hours_of
from rulvek.core.planning.queue import MOST_LOOKS, Job, Queue, Standing, planned
from rulvek.core.planning.today import Took, pace_of
from rulvek.core.records.before_power import SetUp
from rulvek.core.records.campaigns import SIMULATED
from rulvek.core.records.people import Role
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import Mode
from rulvek.services.campaigns import Today, orders
from rulvek.services.later import Later
from rulvek.store.engine import Session
from rulvek.store.queries import campaigns as campaign_queries
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


def test_how_a_bench_is_wired_is_looked_for_again_once_something_was_set_up(
    client: TestClient, services: Services, three: list[int], monkeypatch: pytest.MonkeyPatch
) -> None:
    looked: list[str] = []
    really = campaign_queries.last_set_up

    def counted(session: Session, bench: str) -> SetUp | None:
        looked.append(bench)
        return really(session, bench)

    monkeypatch.setattr(campaign_queries, "last_set_up", counted)
    before, again = client.get("/api/queue").json(), client.get("/api/queue").json()
    assert before["proposed"] == again["proposed"] and sorted(looked) == ["Bench 1", "Bench 2"]
    last = services.campaigns.get(three[-1])
    services.preparations.see_to_all(last.id, last.wirings[0].number, TAMSIN)
    looked.clear()
    told = client.get("/api/queue").json()
    assert sorted(looked) == ["Bench 1", "Bench 2"]
    assert told["proposed"]["rewirings"] < before["proposed"]["rewirings"]  # that unit is wired already


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


def test_benches_share_a_campaign_only_where_a_person_carries_a_wiring_over(
    client: TestClient, services: Services, unit_id: int
) -> None:
    """Its runs are a campaign of their own on the other bench; what was begun stays, and nothing is on two benches."""
    services.benches.add("Bench 2", SIMULATED, TAMSIN)
    campaign = services.campaigns.create(unit_id, TAMSIN, Wishes(modes=(Mode.CERTIFIED,)))
    numbers = [one.number for one in campaign.wirings]
    assert len(numbers) > 1
    there = f"/api/campaigns/{campaign.id}/wirings"
    specs = {run.id: (run.mode, run.load_ohms, run.bridged) for run in campaign.runs if run.wiring == numbers[1]}
    answer = client.post(f"{there}/{numbers[1]}/bench", json={"bench": "Bench 2"})
    made = answer.json()
    assert answer.status_code == 201 and made["bench"] == "Bench 2" and made["unit_id"] == unit_id
    assert [(run["mode"], run["load_ohms"], run["bridged"]) for run in made["runs"]] == list(specs.values())
    left = services.campaigns.get(campaign.id)
    assert [run.id for run in left.runs] == [run.id for run in campaign.runs if run.id not in specs]
    assert {campaign.id, made["id"]} == {one for bench in (0, 1) for one in ids(client.get("/api/queue").json(), bench)}
    # What somebody still sees of it cannot be begun where it no longer is.
    with pytest.raises(NotFound):
        services.benches.room("Bench 1").start(next(iter(specs)), TAMSIN)
    services.preparations.see_to_all(made["id"], made["wirings"][0]["number"], TAMSIN)
    room = services.benches.room("Bench 2")
    room.start(made["runs"][0]["id"], TAMSIN)
    room.wait(60)
    assert client.post(f"/api/campaigns/{made['id']}/wirings/1/bench", json={"bench": "Bench 1"}).status_code == 409
    for wiring, bench, status in (
        (numbers[1], "Bench 2", 404),  # it was taken already: a double click
        (numbers[0], "Bench 1", 409),
        (numbers[0], "Bench 9", 404),
    ):
        assert client.post(f"{there}/{wiring}/bench", json={"bench": bench}).status_code == status


def test_a_wiring_is_taken_once_however_many_ask_at_once(services: Services, unit_id: int) -> None:
    services.benches.add("Bench 2", SIMULATED, TAMSIN)
    campaign = services.campaigns.create(unit_id, TAMSIN, Wishes(modes=(Mode.CERTIFIED,)))

    def taken(_: int) -> int | None:
        try:
            return services.today.take_wiring(campaign.id, 2, "Bench 2", TAMSIN)
        except (NotFound, Conflict):
            return None

    with ThreadPoolExecutor(6) as six:
        made = [one for one in six.map(taken, range(6)) if one is not None]
    assert len(made) == 1 and len(services.campaigns.listed().items) == 2
    runs = len(services.campaigns.get(campaign.id).runs) + len(services.campaigns.get(made[0]).runs)
    assert runs == len(campaign.runs)


def test_a_wiring_that_was_begun_or_is_all_there_is_stays(
    client: TestClient, services: Services, three: list[int]
) -> None:
    first, *others = (one.number for one in services.campaigns.get(three[0]).wirings)
    for wiring in others:
        there = client.post(f"/api/campaigns/{three[0]}/wirings/{wiring}/bench", json={"bench": "Bench 2"})
        assert there.status_code == 201
    whole = client.post(f"/api/campaigns/{three[0]}/wirings/{first}/bench", json={"bench": "Bench 2"})
    assert whole.status_code == 409 and "all that this campaign has" in whole.json()["what"]
    unit = add_unit(services, "T2-0009")
    campaign = services.campaigns.create(unit, TAMSIN, Wishes(modes=(Mode.CERTIFIED,)))
    services.preparations.see_to_all(campaign.id, 1, TAMSIN)
    room = services.benches.room("Bench 1")
    room.start(campaign.runs[0].id, TAMSIN)
    room.wait(60)
    begun = client.post(f"/api/campaigns/{campaign.id}/wirings/1/bench", json={"bench": "Bench 2"})
    assert begun.status_code == 409 and begun.json()["code"] == "begun"
    assert len(services.campaigns.get(campaign.id).runs) == len(campaign.runs)


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


def test_one_person_sets_up_one_bench_after_the_other(services: Services, unit_id: int) -> None:
    """``RULVEK_PEOPLE``: what waits for a second bench begins once whoever sets up the first one has done so."""
    services.benches.add("Bench 2", SIMULATED, TAMSIN)
    services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    services.campaigns.create(add_unit(services, "T2-0002"), TAMSIN, CERTIFIED, bench="Bench 2")

    def begins(people: int | None) -> list[datetime]:
        ours = Today(
            services.database,
            services.conclusions,
            services.benches.equipment,
            dict,
            services.later,
            people=people,
        )
        told = ours.queue()
        assert told.people == (people if people == 1 else None)
        return [day.slots[0].starts_at for day in told.days]

    first, second = begins(1)
    assert abs((second - first).total_seconds()) >= 600
    assert len(set(begins(2))) == len(set(begins(None))) == 1


def test_an_order_is_gone_by_at_the_times_of_now_and_looked_for_again_aside(monkeypatch: pytest.MonkeyPatch) -> None:
    searched: list[tuple[Sequence[Job], bool]] = []

    def counted(
        jobs: Sequence[Job], there: Sequence[Standing], looks: int = MOST_LOOKS, people: int | None = None
    ) -> Queue:
        searched.append((jobs, looks < MOST_LOOKS))
        return planned(jobs, there, looks, people)

    monkeypatch.setattr(orders, "planned", counted)
    later = Later("orders")
    ours, there = orders.Orders(later), [Standing("Bench 1", wiring="4")]
    jobs = [Job(at, ("Bench 1",), 3600.0, "4", "4") for at in (1, 2)]
    longer = [replace(one, seconds=5400.0) for one in jobs]

    def asked(wanted: str, waits: Sequence[Job]) -> Queue:
        found = ours.proposed(wanted, waits, there)
        later.flush()
        return found

    first, second = asked("wanted", jobs), asked("wanted", longer)
    assert second.end - first.end == pytest.approx(2 * 1800)
    assert searched == [(jobs, True), (longer, False)]  # quickly while somebody waits, to the end once that is shown
    assert asked("wanted", jobs).end == first.end and len(searched) == 2
    asked("wanted sooner", longer)
    asked("wanted", longer[:1])
    assert searched[2:] == [(longer, True), (longer[:1], True)]
    asked("wanted", longer[:1])
    monkeypatch.setattr(orders, "LOOK_AGAIN_SECONDS", -1.0)
    for _ in range(2):
        asked("wanted sooner", longer)
    assert searched[4:] == [(longer[:1], False), (longer, False), (longer, False)]
    later.close()


def test_whoever_comes_first_after_a_start_finds_an_order(
    client: TestClient, services: Services, three: list[int], monkeypatch: pytest.MonkeyPatch
) -> None:
    services.look_ahead()
    services.later.flush()

    def aside(
        jobs: Sequence[Job], there: Sequence[Standing], looks: int = MOST_LOOKS, people: int | None = None
    ) -> Queue:
        assert looks == MOST_LOOKS, "searched while somebody waits"
        return planned(jobs, there, looks, people)

    monkeypatch.setattr(orders, "planned", aside)
    assert sorted(ids(client.get("/api/queue").json())) == sorted(three)


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
    ours = Today(services.database, services.conclusions, services.benches.equipment, dict, services.later, hours)
    told = ours.queue()
    (slot,) = told.days[0].slots
    begins, ends = (one.astimezone() for one in (slot.starts_at, slot.ends_at))
    assert told.hours == f"{tomorrow} 10:00–10:05"
    for one in (begins, ends):
        assert DAYS[one.weekday()] == tomorrow
        assert (10, 0) <= (one.hour, one.minute) <= (10, 5)
    assert (ends - begins).total_seconds() > 60 * slot.minutes  # nights and days between are no work
