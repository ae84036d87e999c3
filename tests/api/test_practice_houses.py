"""Practice benches: a house of its own for each job, with the calls of the real one, of which nothing is kept."""

import math
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.api.app import app_for
from rulvek.composition import Services
from rulvek.core.errors import Conflict
from rulvek.core.judgement.verdict import VerdictKind
from rulvek.core.practice.faults import Fault
from rulvek.core.practice.marking import OfClaim, of_claim
from rulvek.core.practice.scenarios import JOBS, Level, Scenario, drawn
from rulvek.practising import MOST_HOUSES, PracticeHouse, PracticeHouses, furnished
from rulvek.services.benches import conduct_all
from tests.conftest import BASE, PERSON, TAMSIN, prepare_over_http, until
from tests.people import acting


def seed_where(holds: Any, level: Level = Level.SECOND) -> int:
    """The first seed whose job is of some kind."""
    return next(seed for seed in range(10_000) if holds(drawn(level, seed)))


def begun(client: TestClient, seed: int, level: Level = Level.SECOND) -> int:
    answer = client.post("/api/practice", json={"level": level.value, "seed": seed})
    assert answer.status_code == 201, answer.text
    return answer.json()["id"]  # type: ignore[no-any-return]


def test_a_job_is_run_on_its_own_bench_up_to_the_verdict_and_nothing_of_it_is_kept(
    client: TestClient, services: Services
) -> None:
    sound = seed_where(lambda one: one.faults == () and one.job is JOBS["two"] and one.claim_share < 1)
    job = begun(client, sound)
    address = client.post(f"/api/practice/{job}/bench").json()["address"]
    assert address == f"/practice-bench/{job}/campaigns/1/live"
    at = f"/practice-bench/{job}/api"
    assert client.get(f"{at}/me").json()["person"]["name"] == TAMSIN.name
    (bench,) = client.get(f"{at}/benches").json()
    assert bench["name"] == "Practice bench" and bench["simulated"]
    campaign = client.get(f"{at}/campaigns/1").json()
    prepare_over_http(client, campaign, base=at)
    started = client.post(f"{at}/runs/{campaign['runs'][0]['id']}/attempts", json={})
    assert started.status_code == 201, started.text
    until(lambda: client.get(f"{at}/bench").json()["state"] != "running")
    sheet = client.get(f"{at}/campaigns/1").json()
    (run,) = sheet["runs"]
    assert run["chosen"]["end"] == "limit" and run["chosen"]["simulated"]
    model = client.get(f"{at}/models/{campaign['model_id']}").json()
    (claim,) = model["claims"]
    assert claim["verdict"]["kind"] == "backed"  # of a claim of less than the unit gives
    # Asked for again it is as it was left, and the lab's own records know nothing of it.
    assert client.post(f"/api/practice/{job}/bench").json()["address"] == address
    assert client.get(f"{at}/campaigns/1").json()["runs"][0]["chosen"] is not None
    assert services.campaigns.listed(None, 10, "all", None).items == []
    assert services.catalogue.line().series == []
    assert client.get("/api/attempts").json()["items"] == []


def test_it_is_its_persons_own(client: TestClient, services: Services) -> None:
    job = begun(client, 1)
    at = f"/practice-bench/{job}/api"
    assert client.get(f"{at}/line").status_code == 200  # without being opened first, as after a restart
    other = client.get(f"{at}/line", headers=acting("Joren Haldvik"))
    assert other.status_code == 404 and other.json()["what"] == f"There is no practice job number {job} of yours."
    assert client.get("/practice-bench/77/api/line").status_code == 404
    nobody = TestClient(app_for(services), BASE)
    refused = nobody.get(f"{at}/line")
    assert (refused.status_code, refused.json()["code"]) == (401, "not-signed-in")
    assert nobody.get(f"{at}/me").json()["person"] is None  # so that the page asks them to sign in
    wrong = {"name": TAMSIN.name, "password": "not this one, surely"}
    own_page = {"Origin": BASE}
    there, here = (nobody.post(f"{start}/sign-in", json=wrong, headers=own_page) for start in (at, "/api"))
    assert there.status_code == here.status_code == 401 and there.json() == here.json()


def test_the_guard_stands_there_too(client: TestClient) -> None:
    at = f"/practice-bench/{begun(client, 1)}/api"
    foreign = client.post(f"{at}/series", headers={"Host": "elsewhere.example"}, json={})
    assert foreign.status_code == 421
    assert client.post(f"{at}/series", content=b"a=b", headers={"Content-Type": "text/plain"}).status_code == 415
    no_field = client.post(f"{at}/series", json={"name": "", "purpose": ""})
    assert no_field.status_code == 422 and no_field.json()["field"] == "name"
    assert client.get(f"{at}/no-such-call").status_code == 404
    again = client.post(f"{at}/practice/1/bench")
    assert again.status_code == 409 and "practice bench already" in again.json()["what"]


def test_so_many_are_open_at_a_time_and_none_leaves_a_file(services: Services) -> None:
    app = app_for(services)
    with TestClient(app, BASE, headers=PERSON) as client:
        jobs = [begun(client, seed, Level.FIRST) for seed in range(MOST_HOUSES + 1)]
        for job in jobs:
            assert client.get(f"/practice-bench/{job}/api/line").status_code == 200
        held = [app.state.houses.enter(job, TAMSIN) for job in jobs[1:]]
        folders = [Path(one.folder.name) for one in held]
        assert len({one.folder.name for one in held}) == MOST_HOUSES and all(one.is_dir() for one in folders)
    assert not any(one.exists() for one in folders)


def test_nobody_is_sent_out_of_a_house_in_the_middle_of_something(
    services: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    houses = PracticeHouses(services)
    jobs = [services.practice.begin(Level.FIRST, seed, TAMSIN).id for seed in range(MOST_HOUSES + 1)]
    for job in jobs[:-1]:
        houses.enter(job, TAMSIN)
    busy = set(jobs[:-1])
    monkeypatch.setattr(
        PracticeHouse, "is_busy", property(lambda one: any(houses._open.get(job) is one for job in busy))
    )
    with pytest.raises(Conflict, match=f"{MOST_HOUSES} practice benches are being worked at"):
        houses.enter(jobs[-1], TAMSIN)
    busy.remove(jobs[2])
    first = houses.enter(jobs[0], TAMSIN)
    houses.enter(jobs[-1], TAMSIN)
    assert houses.enter(jobs[0], TAMSIN) is first  # it was the idle one that went
    assert jobs[2] not in houses._open
    houses.close()


def test_one_house_is_made_for_a_job_however_many_ask_at_once(services: Services) -> None:
    houses = PracticeHouses(services)
    job = services.practice.begin(Level.FIRST, 5, TAMSIN).id
    with ThreadPoolExecutor(6) as hands:
        found = {id(one) for one in hands.map(lambda _: houses.enter(job, TAMSIN), range(6))}
    assert len(found) == 1
    houses.close()


@pytest.fixture
def house(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[tuple[PracticeHouse, Scenario]]:
    """A house with one kind of fault."""
    seed = seed_where(lambda one: one.faults == (request.param,))
    scenario = drawn(Level.SECOND, seed)
    made = furnished(scenario, TAMSIN, math.inf, tmp_path)
    yield made, scenario
    made.close()


SHOWS = {
    Fault.WRONG_LOAD: "load-off-nominal",
    Fault.BAD_CONTACT: "load-off-nominal",
    Fault.CHARGER_ON: "efficiency-impossible",
    Fault.RAILS_SWITCH: "order-unusual",
    Fault.HOT_UNIT: "hot-start",
    Fault.SENSED_AT_SUPPLY: "supply-sag",
}
"""The checks that speak up where a fault of the bench or the unit is run once more."""
IN_SHORT = (Fault.WRONG_LOAD, Fault.SENSED_AT_SUPPLY)


@pytest.mark.parametrize(
    "house",
    [*IN_SHORT, *(pytest.param(one, marks=pytest.mark.long) for one in SHOWS if one not in IN_SHORT)],
    indirect=True,
)
def test_what_is_planted_is_there_on_the_real_screens(house: tuple[PracticeHouse, Scenario]) -> None:
    made, scenario = house
    (fault,) = scenario.faults
    assert SHOWS[fault] in {code for run in conducted(made) for code in run}


def test_a_pair_whose_wires_are_swapped_gives_nothing(tmp_path: Path) -> None:
    """The halves cancel: what lies across the pair gets next to nothing, and no reading comes of it."""
    seed = seed_where(lambda one: one.faults == (Fault.BRIDGE_SWAPPED,))
    made = furnished(drawn(Level.SECOND, seed), TAMSIN, math.inf, tmp_path)
    conducted(made)
    (run,) = made.services.campaigns.get(made.campaign_id).runs
    assert run.chosen is None or not run.chosen.readings
    made.close()


def conducted(house: PracticeHouse) -> list[set[str]]:
    """Every run of a house conducted; the codes of what was found of each."""
    services = house.services
    conduct_all(services.database, services.preparations, services.benches, house.campaign_id, TAMSIN)
    runs = services.campaigns.get(house.campaign_id).runs
    return [{found.code for found in run.chosen.findings} if run.chosen else set() for run in runs]


@pytest.mark.parametrize("backed", [True, False])
def test_the_verdict_of_a_sound_job_is_what_its_answer_is_marked_by(backed: bool, tmp_path: Path) -> None:
    seed = seed_where(lambda one: not one.faults and one.job is JOBS["four-ab"] and (one.claim_share < 1) is backed)
    scenario = drawn(Level.SECOND, seed)
    made = furnished(scenario, TAMSIN, math.inf, tmp_path)
    conducted(made)
    (claim,) = made.services.catalogue.model(1).claims
    assert claim.verdict is not None
    said = {VerdictKind.BACKED: OfClaim.BACKED, VerdictKind.SHORT: OfClaim.NOT_BACKED}[claim.verdict.kind]
    assert said is of_claim(scenario)
    made.close()
