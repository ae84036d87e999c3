"""A server that is killed in the middle of a run: nothing that was measured is lost, nothing else is harmed."""

import signal
import time
from pathlib import Path

import httpx
import pytest

from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.server import on_sockets
from rulvek.core.runs.modes import End
from rulvek.store.verify import verify
from tests.bench.instruments.conftest import assembled
from tests.conftest import CERTIFIED_PLAN, PERSON, TAMSIN, prepare_over_http, services_in, until, write_line
from tests.ports import free_port
from tests.serving import serve

pytestmark = pytest.mark.long


@pytest.fixture
def data(tmp_path: Path) -> Path:
    services = services_in(tmp_path, 1.0)
    assert write_line(services) == 1
    services.close()
    return tmp_path


def test_killed_in_the_middle(data: Path) -> None:
    port = free_port()
    server = serve(data, port, 4.0)
    with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", headers=PERSON) as http:
        campaign = http.post("/campaigns", json={"unit_id": 1, "plan": CERTIFIED_PLAN}).json()
        prepare_over_http(http, campaign, base="")
        run = campaign["runs"][0]["id"]
        assert http.post(f"/runs/{run}/attempts", json={}).status_code == 201
        deadline = time.monotonic() + 20
        points: list[dict] = []  # type: ignore[type-arg]
        while len(points) < 6 and time.monotonic() < deadline:
            time.sleep(0.05)
            points = [s for s in http.get("/attempts/1/steps").json() if s["kind"] == "point"]
        assert len(points) >= 6
    server.send_signal(signal.SIGKILL)
    server.wait()

    server = serve(data, port, 4.0)
    try:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", headers=PERSON) as http:
            page = http.get("/attempts/1").json()
            attempt = page["attempt"]
            assert attempt["end"] == "link_lost" and "stopped in the middle" in attempt["fault"]
            seen = [p["level_dbv"] for p in page["points"]]
            assert seen[: len(points)] == [s["point"]["level_dbv"] for s in points]
            assert attempt["weakest_watts"] == page["points"][-1]["weakest_watts"]
            assert not attempt["at_limit"]
            after = http.get(f"/campaigns/{campaign['id']}").json()
            assert after["runs"][0]["state"] == "waiting"  # it can be run again
            assert after["claims"][0]["verdict"]["kind"] == "no_evidence"  # short of the limit refutes nothing
            again = http.post(f"/runs/{run}/attempts", json={"cause": "other", "reason": "The server stopped"})
            assert again.status_code == 201
            http.post("/bench/off")
    finally:
        server.terminate()
        server.wait(10)
    again = services_in(data)
    assert verify(again.database, again.files).faults == ()
    again.close()


def test_a_bench_of_instruments_is_off_soon_after_its_server_was_killed(data: Path) -> None:
    """By the keeper beside it, within a second where nothing else is going on; what was read until then is kept."""
    behind = SimulatedBench(DESIGNS["two-ab"], "T2-0001")
    with on_sockets(SimulatedInstruments(behind).trees) as running:
        services = services_in(data)
        services.benches.add("Bench 7", OF_INSTRUMENTS, TAMSIN, assembled(running).as_json())
        services.close()
        running["recorder"].late_seconds = 0.1  # a run that lasts
        port = free_port()
        server = serve(data, port, 1.0)
        with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", headers=PERSON, timeout=60) as http:
            http.post("/benches/2/selftest", json={"channels": 1}).raise_for_status()
            until(lambda: http.get("/benches/2").json()["testing"] is None)
            plan = CERTIFIED_PLAN | {"bench": "Bench 7"}
            campaign = http.post("/campaigns", json={"unit_id": 1, "plan": plan}).json()
            prepare_over_http(http, campaign, base="")
            assert http.post(f"/runs/{campaign['runs'][0]['id']}/attempts", json={}).status_code == 201
            until(lambda: sum(one["kind"] == "point" for one in http.get("/attempts/1/steps").json()) >= 3)
        assert behind.amplifier.powered
        server.send_signal(signal.SIGKILL)
        began = time.monotonic()
        until(lambda: not behind.amplifier.powered and behind.is_muted)
        assert time.monotonic() - began < 5.0
        server.wait()
    again = services_in(data)
    until(lambda: again.benches.recover() == 1)  # its lease ends by itself
    ended = again.evidence.attempt(1).attempt
    assert ended.end is End.LINK_LOST and "stopped in the middle" in ended.fault
    assert len(again.evidence.attempt(1).points) >= 3
    assert verify(again.database, again.files).faults == ()
    again.close()


def test_events_resume_after_a_lost_connection(data: Path) -> None:
    port = free_port()
    server = serve(data, port, 4.0)
    address = f"http://127.0.0.1:{port}/api"
    try:
        with httpx.Client(headers=PERSON, timeout=20) as http:
            campaign = http.post(f"{address}/campaigns", json={"unit_id": 1, "plan": CERTIFIED_PLAN}).json()
            prepare_over_http(http, campaign, base=address)
            stream = f"{address}/campaigns/{campaign['id']}/events"
            http.post(f"{address}/runs/{campaign['runs'][0]['id']}/attempts", json={})
            first = read_ids(http, stream, 5, {})
            second = read_ids(http, stream, 5, {"Last-Event-ID": str(first[-1])})
            kept = [step["id"] for step in http.get(f"{address}/attempts/1/steps").json()]
            assert first + second == kept[:10]
            http.post(f"{address}/bench/off")
    finally:
        server.terminate()
        server.wait(10)


def read_ids(http: httpx.Client, url: str, count: int, headers: dict[str, str]) -> list[int]:
    ids: list[int] = []
    with http.stream("GET", url, headers=headers) as response:
        for line in response.iter_lines():
            if line.startswith("id:"):
                ids.append(int(line.removeprefix("id:")))
            if len(ids) == count:
                return ids
    raise AssertionError("the stream ended")
