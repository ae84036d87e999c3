"""Benches put together in the browser: who is there, who fills which role, what was found; Off ends a look."""

import socket
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.bench.instruments import link
from rulvek.bench.instruments.description import shipped
from rulvek.bench.instruments.finding import fitting, found_at
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import DESCRIBED, SimulatedInstruments
from rulvek.bench.sim.instruments.server import on_sockets
from rulvek.bench.sound import devices
from rulvek.composition import Services, make_services
from rulvek.core.errors import BenchFault
from rulvek.core.records.people import Role
from rulvek.store.engine import Database
from tests.bench.instruments.conftest import Running
from tests.bench.sound.fake import put
from tests.people import acting, admit

BOXES = [{"ohms": 4, "watts": 600, "count": 6}, {"ohms": 2, "watts": 900, "count": 6}]


@pytest.fixture
def running() -> Iterator[Running]:
    with on_sockets(SimulatedInstruments(SimulatedBench(DESIGNS["two-ab"], "T2-0001")).trees) as found:
        yield found


def entry(running: Running, **more: Any) -> dict[str, Any]:
    stations = [{"role": role, "description": DESCRIBED[role], "address": one.address} for role, one in running.items()]
    return {"name": "Bench 3", "stations": stations, "boxes": BOXES, "supply_amps": 250} | more


def added(client: TestClient, running: Running) -> dict[str, Any]:
    answer = client.post("/api/benches", json=entry(running))
    assert answer.status_code == 201, answer.text
    told: dict[str, Any] = answer.json()
    return told


def port_of(address: str) -> int:
    return int(address.split("::")[2])


def looked_at(client: TestClient, bench: int) -> dict[str, Any]:
    """As soon as nobody looks any more."""
    until = time.monotonic() + 60
    while (told := client.get(f"/api/benches/{bench}").json())["testing"] is not None:
        assert time.monotonic() < until, told
        time.sleep(0.02)
    return dict(told)


def test_who_answers_is_found_with_the_descriptions_that_fit(client: TestClient, running: Running) -> None:
    for role, one in running.items():
        port = port_of(one.address)
        body = {"host": "127.0.0.1", "first_port": port, "last_port": port}
        (found,) = client.post("/api/instruments/find", json=body).json()
        assert found["address"] == one.address and found["identity"].startswith("Rulvek,simulated")
        assert found["fits"] == [DESCRIBED[role]]
    assert (
        client.post("/api/instruments/find", json={"host": "127.0.0.1", "first_port": 1, "last_port": 3}).json() == []
    )


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"host": "127.0.0.1", "first_port": 9, "last_port": 8}, "last_port"),
        ({"host": "127.0.0.1", "first_port": 1000, "last_port": 2000}, "last_port"),
        ({"host": "::1", "first_port": 1, "last_port": 1}, "host"),
        ({"host": "nobody.invalid", "first_port": 1, "last_port": 1}, "host"),
        ({"host": "127.0.0.1", "first_port": 0, "last_port": 1}, "first_port"),
    ],
)
def test_where_nobody_can_be_asked_is_refused(client: TestClient, body: dict[str, Any], field: str) -> None:
    answer = client.post("/api/instruments/find", json=body)
    assert answer.status_code == 422 and answer.json()["field"] == field


@pytest.mark.parametrize("said", [b"SSH-2.0-Something\r\n", b"220 mail, ready\n", b"\xff\x00,,,\n", b"x" * 5_000, b""])
def test_what_is_no_instrument_is_not_shown(client: TestClient, said: bytes) -> None:
    """Whatever else answers at a port, and whoever hangs up, is nobody."""
    with socket.create_server(("127.0.0.1", 0)) as server:

        def answer() -> None:
            connection, _ = server.accept()
            with connection:
                connection.recv(100)
                connection.sendall(said)

        threading.Thread(target=answer, daemon=True).start()
        port = server.getsockname()[1]
        body = {"host": "127.0.0.1", "first_port": port, "last_port": port}
        assert client.post("/api/instruments/find", json=body).json() == []


def test_a_description_that_names_an_instrument_goes_before_the_standards() -> None:
    known = shipped()
    assert fitting("Rulvek,simulated generator,S-1,1", known) == ("simulated-generator",)
    assert set(fitting("Somebody,AB-1,1,1", known)) == {name for name, one in known.items() if not one.identifies}
    assert found_at("localhost", 1, 1, known) == []


def test_a_bench_is_put_together_looked_at_and_what_was_found_stays(
    client: TestClient, services: Services, running: Running
) -> None:
    made = added(client, running)
    assert made["simulated"] and made["of_instruments"] and made["tests"] == [] and made["testing"] is None
    assert {one["role"] for one in made["stations"]} == set(running) and made["supply_limit_amps"] == 250
    assert made["wires"][:2] == [{"channel": 1, "input": 1}, {"channel": 2, "input": 2}]
    bench = made["id"]
    begun = client.post(f"/api/benches/{bench}/selftest", json={"channels": 2, "powered": True})
    assert begun.status_code == 422 and begun.json()["field"] == "cautions"
    begun = client.post(f"/api/benches/{bench}/selftest", json={"channels": 2, "powered": True, "cautions": True})
    assert begun.status_code == 202 and begun.json()["testing"] is not None
    again = client.post(f"/api/benches/{bench}/selftest", json={"channels": 2})
    assert again.status_code in (202, 409)
    (test,) = looked_at(client, bench)["tests"][:1]
    assert test["passed"] and test["by"] == "Tamsin Oduwell" and test["in_words"].endswith("looks passed")
    at = [one["at"] for one in test["looked"]]
    assert at[0] == "instruments" and "load on channel 2" in at and at[-1] == "supply off"
    assert client.get("/api/bench", params={"bench": bench}).json()["state"] == "idle"
    history = client.get(f"/api/history/bench/{bench}").json()["entries"]
    assert [one["action"] for one in reversed(history)][:2] == ["added a bench", "looked at a bench"]
    assert client.get("/api/bench", params={"bench": 1}).json()["state"] == "idle"


def test_a_plug_that_is_pulled_fails_the_look_and_put_back_passes(
    client: TestClient, running: Running, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(link, "OPENING_SECONDS", 20.0)  # the machine may stand still: this is of who is there at all
    bench = added(client, running)["id"]
    running["loads"].shutdown()
    running["loads"].server_close()
    client.post(f"/api/benches/{bench}/selftest", json={"channels": 1})
    failed = looked_at(client, bench)["tests"][0]
    assert not failed["passed"] and "answer" in failed["in_words"]
    port = port_of(running["loads"].address)
    trees = SimulatedInstruments(SimulatedBench(DESIGNS["two-ab"], "T2-0001")).trees
    with on_sockets({"loads": trees["loads"]}, port):
        client.post(f"/api/benches/{bench}/selftest", json={"channels": 1})
        first = looked_at(client, bench)["tests"][0]["looked"][0]
        assert first["passed"], first["found"]


def test_off_ends_a_look_and_nothing_is_powered_after_it(
    client: TestClient, services: Services, running: Running, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench = added(client, running)["id"]
    from rulvek.bench.instruments.bench import InstrumentBench

    there, go = threading.Event(), threading.Event()
    measured = InstrumentBench.measured

    def slowly(self: InstrumentBench) -> Any:
        there.set()
        go.wait(20)
        return measured(self)

    monkeypatch.setattr(InstrumentBench, "measured", slowly)
    client.post(f"/api/benches/{bench}/selftest", json={"channels": 2, "powered": True, "cautions": True})
    assert there.wait(20)
    assert client.get("/api/bench", params={"bench": bench}).json()["state"] == "testing"
    assert client.post("/api/bench/off", params={"bench": bench}).status_code == 200
    go.set()
    test = looked_at(client, bench)["tests"][0]
    assert test["looked"][-1]["found"] == "The bench was switched off."
    assert "supply off" not in [one["at"] for one in test["looked"]]
    assert client.get(f"/api/history/bench/{bench}").json()["entries"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": " "}, "name"),
        ({"supply_amps": 0}, "supply_amps"),
        ({"boxes": []}, "limits.boxes"),
        ({"supply_volts": 90}, "supply_volts"),
        ({"run_minutes": 0}, "run_minutes"),
        ({"gauge": "thick"}, "gauge"),
        ({"wires": [{"channel": 1, "input": 2}, {"channel": 3, "input": 2}]}, "wires.1.input"),
        ({"wires": [{"channel": 1, "input": 60}]}, "inputs"),
        ({"stations": []}, "stations.source"),
        ({"volts_per_unit": 0}, "volts_per_unit"),
    ],
)
def test_what_is_no_bench_names_its_field(
    client: TestClient, running: Running, change: dict[str, Any], field: str
) -> None:
    answer = client.post("/api/benches", json=entry(running, **change))
    assert answer.status_code == 422 and answer.json()["field"] == field, answer.text


def test_a_station_names_what_there_is(client: TestClient, running: Running) -> None:
    stations = entry(running)["stations"]
    for at, change, field in (
        (0, {"description": "nothing-like-it"}, "stations.0.description"),
        (1, {"address": " "}, "stations.1.address"),
        (1, {"role": stations[0]["role"]}, "stations.1.role"),
    ):
        changed = [one | change if number == at else one for number, one in enumerate(stations)]
        answer = client.post("/api/benches", json=entry(running, stations=changed))
        assert answer.status_code == 422 and answer.json()["field"] == field, answer.text


def test_the_labs_own_descriptions_are_beside_those_that_ship(
    client: TestClient, services: Services, running: Running, tmp_path: Path
) -> None:
    (tmp_path / "instruments").mkdir()
    text = (Path(shipped.__code__.co_filename).parent / "shipped" / "simulated-supply.toml").read_text()
    (tmp_path / "instruments" / "our-supply.toml").write_text(text.replace("Simulated supply", "Our supply"))
    told = {one["name"]: one for one in client.get("/api/instruments").json()}
    assert told["our-supply"]["title"] == "Our supply" and not told["our-supply"]["shipped"]
    assert told["scpi-supply"]["shipped"]
    (tmp_path / "instruments" / "broken.toml").write_text("name = 1")
    assert client.get("/api/instruments").status_code == 422


def test_the_bench_within_the_program_is_shown_and_not_looked_at(client: TestClient) -> None:
    made = client.get("/api/benches/1").json()
    assert made["simulated"] and not made["of_instruments"] and made["stations"] == [] and made["boxes"]
    assert client.post("/api/benches/1/selftest", json={}).status_code == 409
    assert client.get("/api/benches/99").status_code == 404


def test_roles(client: TestClient, services: Services, running: Running) -> None:
    admit(services.database, "Maren Toft", roles=(Role.REVIEWER,))
    assert client.post("/api/benches", json=entry(running), headers=acting("Maren Toft")).status_code == 403
    assert client.get("/api/benches/1", headers=acting("Maren Toft")).status_code == 200


def test_a_bench_is_changed_and_has_to_be_looked_at_again(
    client: TestClient, services: Services, unit_id: int, running: Running
) -> None:
    bench = added(client, running)["id"]
    client.post(f"/api/benches/{bench}/selftest", json={"channels": 2})
    assert looked_at(client, bench)["tests"][0]["passed"]
    campaign = client.post(
        "/api/campaigns", json={"unit_id": unit_id, "plan": {"modes": ["certified"], "bench": "Bench 3"}}
    ).json()
    kept = client.get(f"/api/benches/{bench}/entry").json()
    assert kept["number"] == 0
    assert {one["role"] for one in kept["entry"]["stations"]} == set(running)
    assert all(one["description"] == DESCRIBED[one["role"]] for one in kept["entry"]["stations"])

    def put(number: int, **changed: Any) -> Any:
        body = kept["entry"] | changed
        return client.put(f"/api/benches/{bench}", json=body, headers={"If-Match": f"{number}"})

    assert put(0, name="Bench 4").json()["field"] == "name"
    assert put(0, supply_amps=0).json()["field"] == "supply_amps"
    told = put(0, supply_amps=90, wires=[{"channel": 1, "input": 2}, {"channel": 2, "input": 1}])
    assert told.status_code == 200, told.text
    assert told.json()["supply_limit_amps"] == 90
    assert told.json()["tests"][0]["of_before"]  # what was found is of another bench
    assert services.benches.equipment("Bench 3").supply_limit_amps == 90  # and the planner knows
    started = client.post(f"/api/runs/{campaign['runs'][0]['id']}/attempts", json={})
    assert (started.status_code, started.json()["code"]) == (409, "bench-unlooked")
    second = put(0, supply_amps=120)  # another window, opened before
    assert (second.status_code, second.json()["code"]) == (412, "stale")
    assert put(1, supply_amps=120).status_code == 200
    client.post(f"/api/benches/{bench}/selftest", json={"channels": 2})
    assert not looked_at(client, bench)["tests"][0]["of_before"]


def test_a_bench_that_somebody_works_at_is_not_changed(
    client: TestClient, services: Services, running: Running
) -> None:
    bench = added(client, running)["id"]
    kept = client.get(f"/api/benches/{bench}/entry").json()
    trees, held = running["loads"], threading.Event()
    heard = trees.heard

    def slow(message: str) -> bytes:
        held.wait(20)
        return heard(message)

    trees.heard = slow  # type: ignore[method-assign]
    client.post(f"/api/benches/{bench}/selftest", json={"channels": 1})
    answer = client.put(f"/api/benches/{bench}", json=kept["entry"], headers={"If-Match": "0"})
    held.set()
    assert (answer.status_code, answer.json()["code"]) == (409, "bench-busy")
    looked_at(client, bench)


def test_a_change_at_another_server_is_seen(client: TestClient, services: Services, running: Running) -> None:
    bench = added(client, running)["id"]
    kept = client.get(f"/api/benches/{bench}/entry").json()
    other = make_services(Database(services.database.url), services.files.root, float("inf"))
    try:
        assert other.benches.equipment("Bench 3").supply_limit_amps == 250
        body = kept["entry"] | {"supply_amps": 70}
        assert client.put(f"/api/benches/{bench}", json=body, headers={"If-Match": "0"}).status_code == 200
        other.benches.rooms()  # as a server asks all the time
        assert other.benches.equipment("Bench 3").supply_limit_amps == 70
    finally:
        other.close()


def test_an_audio_interface_needs_its_levels_and_keeps_them(
    client: TestClient, running: Running, monkeypatch: pytest.MonkeyPatch
) -> None:
    put(monkeypatch)
    assert [one["address"] for one in client.get("/api/instruments/interfaces").json()] == ["sound:Interface"]
    others = [one for one in entry(running)["stations"] if one["role"] not in ("source", "recorder")]
    both = [
        {"role": role, "description": "audio-interface", "address": "sound:Interface"}
        for role in ("source", "recorder")
    ]
    levels = {"output_volts": [4, 4], "input_volts": [4, 4], "meter": "Meter 4", "on": "2026-03-02"}
    for change, field in (
        ({}, "levels"),
        ({"levels": levels | {"input_volts": [4]}}, "levels"),
        ({"levels": levels | {"output_volts": [0, 4]}}, "levels.output_volts.0"),
        ({"levels": levels | {"input_response": [{"hz": 20, "db": 0}, {"hz": 10, "db": 0}]}}, "levels.input_response"),
        ({"levels": levels, "stations": [*others, both[0], both[1] | {"address": "Interface"}]}, "stations.recorder"),
    ):
        body = entry(running, stations=[*others, *both]) | change
        answer = client.post("/api/benches", json=body)
        assert answer.status_code == 422 and answer.json()["field"] == field, answer.text
    made = client.post("/api/benches", json=entry(running, stations=[*others, *both], levels=levels)).json()
    assert made["levels"]["output_volts"] == [4, 4] and made["levels"]["meter"] == "Meter 4"
    kept = client.get(f"/api/benches/{made['id']}/entry").json()["entry"]
    assert kept["levels"]["on"] == "2026-03-02" and kept["levels"]["u_percent"] == 1.0
    client.post(f"/api/benches/{made['id']}/selftest", json={"channels": 2})
    (test,) = looked_at(client, made["id"])["tests"]
    assert test["passed"], test


def test_a_machine_without_portaudio_has_no_interfaces(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """The library is asked for when somebody asks, and its lack is one sentence."""
    monkeypatch.setitem(sys.modules, "sounddevice", None)  # as what cannot be imported
    assert client.get("/api/instruments/interfaces").json() == []
    with pytest.raises(BenchFault, match="has no PortAudio"):
        devices.devices()
