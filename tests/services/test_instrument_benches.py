"""A campaign on a bench of instruments: planned by what it can stand, conducted over sockets, marked simulated."""

from collections.abc import Iterator
from dataclasses import replace

import pytest
from sqlalchemy import text

from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.instruments.devices import SimulatedInstruments
from rulvek.bench.sim.instruments.server import on_sockets
from rulvek.composition import Services
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput, BenchFault, Conflict
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import End, Mode
from rulvek.services.benches import conduct_all
from rulvek.store import load
from rulvek.store.verify import verify
from tests.bench.instruments.conftest import Running, assembled
from tests.conftest import TAMSIN

WISHES = Wishes(modes=(Mode.CERTIFIED,))


@pytest.fixture
def running(services: Services, unit_id: int) -> Iterator[Running]:
    unit = services.campaigns.create(unit_id, TAMSIN, WISHES, None).unit_serial
    with on_sockets(SimulatedInstruments(SimulatedBench(DESIGNS["two-ab"], unit)).trees) as found:
        room = services.benches.add("Bench 7", OF_INSTRUMENTS, TAMSIN, assembled(found).as_json())
        room.look(1, False, TAMSIN)
        room.wait(60)
        yield found


def test_a_bench_is_run_only_where_it_was_looked_at(services: Services, unit_id: int, running: Running) -> None:
    """Never, too long ago, and found otherwise than it should be."""
    services.benches.add("Bench 8", OF_INSTRUMENTS, TAMSIN, assembled(running).as_json())

    waits = {
        bench: services.campaigns.create(unit_id, TAMSIN, WISHES, None, bench=bench) for bench in ("Bench 7", "Bench 8")
    }

    def start(bench: str) -> None:
        services.benches.room(bench).start(waits[bench].runs[0].id, TAMSIN)

    with pytest.raises(Conflict, match="not looked at") as refused:
        start("Bench 8")
    assert refused.value.code == "bench-unlooked"
    with services.database.writing() as session:
        session.execute(text("UPDATE self_test SET at = :at"), {"at": "2026-01-01 00:00:00"})
    with pytest.raises(Conflict, match="within the last 24 hours"):
        start("Bench 7")
    running["current"].shutdown()
    running["current"].server_close()
    room = services.benches.room("Bench 7")
    room.look(1, False, TAMSIN)
    room.wait(60)
    with pytest.raises(Conflict, match="The last look found"):
        start("Bench 7")


def test_a_campaign_gives_what_it_gives_on_the_simulated_bench(
    services: Services, unit_id: int, running: Running
) -> None:
    watts = {}
    for bench in ("Bench 1", "Bench 7"):
        campaign = services.campaigns.create(unit_id, TAMSIN, WISHES, None, bench=bench)
        conduct_all(services.database, services.preparations, services.benches, campaign.id, TAMSIN)
        found = services.campaigns.get(campaign.id)
        attempts = [services.evidence.attempt(one.id).attempt for run in found.runs for one in run.attempts]
        assert {one.end for one in attempts} <= {End.LIMIT, End.HELD} and all(one.simulated for one in attempts)
        watts[bench] = [reading.watts for one in attempts for reading in one.readings]
    assert len(watts["Bench 7"]) == len(watts["Bench 1"]) > 0
    assert watts["Bench 7"] == pytest.approx(watts["Bench 1"], rel=3e-3)


def test_its_loads_are_planned_with_what_its_runs_found(services: Services, unit_id: int, running: Running) -> None:
    """The simulated loads have 0.25 K/W and 900 J/K; runs that are too few, or of other loads, tell nothing."""
    usual = {box.ohms: box for box in services.benches.equipment("Bench 7").boxes}
    assert {box.fitted_to_runs for box in usual.values()} == {0}
    for _ in range(4):
        campaign = services.campaigns.create(unit_id, TAMSIN, WISHES, None, bench="Bench 7")
        conduct_all(services.database, services.preparations, services.benches, campaign.id, TAMSIN)
    found = {box.ohms: box for box in services.benches.equipment("Bench 7").boxes}
    assert found[4.0].fitted_to_runs == 8  # single channels and the bridged pair, each time
    assert found[4.0].kelvin_per_watt == pytest.approx(0.25, rel=0.25)
    assert found[4.0].joules_per_kelvin == pytest.approx(900.0, rel=0.1)
    assert all(found[ohms] == usual[ohms] for ohms in found if ohms not in (4.0, 2.0))
    told = services.assembling.made(services.benches.room("Bench 7").id).boxes
    assert {one.ohms: one.fitted_to_runs for one in told}[4.0] == 8
    other = {box.fitted_to_runs for box in services.benches.equipment("Bench 1").boxes}
    assert other == {0}  # a bench within this program is what it is


def test_what_the_register_knows_of_a_load_goes_with_its_readings(
    services: Services, unit_id: int, running: Running
) -> None:
    """Into the records, the sealed evidence and the budget; a bench that knows none has the method's allowance."""
    made = assembled(running)
    boxes = tuple(
        replace(box, inductance_uh=200.0, cold_ohms=box.ohms, warm_ohms=1.02 * box.ohms, warm_c=123.0)
        for box in made.limits.boxes
    )
    known = replace(made, limits=replace(made.limits, boxes=boxes)).as_json()
    room = services.benches.add("Bench 9", OF_INSTRUMENTS, TAMSIN, known)
    room.look(1, False, TAMSIN)
    room.wait(60)
    widths = {}
    for bench in ("Bench 7", "Bench 9"):
        campaign = services.campaigns.create(unit_id, TAMSIN, WISHES, None, bench=bench)
        conduct_all(services.database, services.preparations, services.benches, campaign.id, TAMSIN)
        run = next(one for one in services.campaigns.get(campaign.id).runs if one.load_ohms == 4.0 and not one.bridged)
        with services.database.reading() as session:
            _, kept, attempt = load.attempt(session, run.attempts[0].id)
        assert {one.load.inductance_uh for one in attempt.readings} == {None if bench == "Bench 7" else 200.0}
        for one in attempt.readings:
            assert one.load.ppm_per_kelvin == (None if bench == "Bench 7" else pytest.approx(200.0))
        lines = services.evidence.attempt(attempt.id).budget.components
        for about in ("inductance", "heat"):
            (line,) = [one for one in lines if about in one.name]
            widths[bench, about] = line.half_width
        assert attempt.ending is not None and attempt.ending.load_c is not None
        widths[bench, "heat"] /= attempt.ending.load_c - 23.0
        assert kept.spec.tone_hz == 1000.0
    assert verify(services.database, services.files).faults == ()
    usual, own = widths["Bench 7", "inductance"], widths["Bench 9", "inductance"]
    assert own > 1_000 * usual  # as the square: 200 µH beside 2
    usual, own = widths["Bench 7", "heat"], widths["Bench 9", "heat"]
    assert own == pytest.approx(2 * usual)  # 200 ppm/K beside 100, each at as many kelvins


def test_it_says_what_it_is_made_of_with_its_evidence(services: Services, unit_id: int, running: Running) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, WISHES, None, bench="Bench 7")
    conduct_all(services.database, services.preparations, services.benches, campaign.id, TAMSIN)
    attempt = services.campaigns.get(campaign.id).runs[0].attempts[0]
    made_of = services.evidence.attempt(attempt.id).bench
    assert made_of["recorder"].startswith("Rulvek,simulated digitizer") and made_of["bench"] == "Bench 7"


def test_what_a_bench_cannot_do_is_refused_and_nobody_at_an_address_is_told(
    services: Services, unit_id: int, running: Running
) -> None:
    with pytest.raises(Conflict, match="Bench 7"):
        services.benches.add("Bench 7", OF_INSTRUMENTS, TAMSIN, assembled(running).as_json())
    with pytest.raises(BadInput, match="What is kept of the bench"):
        services.benches.add("Bench 8", OF_INSTRUMENTS, TAMSIN, "{}")
    gone = assembled(running).as_json().replace(f"::{running['loads'].server_address[1]}::", "::9::")
    services.benches.add("Bench 9", OF_INSTRUMENTS, TAMSIN, gone)
    campaign = services.campaigns.create(unit_id, TAMSIN, WISHES, None, bench="Bench 9")
    with pytest.raises(BenchFault, match=r"Simulated load bank at TCPIP0::127\.0\.0\.1::9::SOCKET does not answer"):
        conduct_all(services.database, services.preparations, services.benches, campaign.id, TAMSIN)
    floating = Wishes(modes=(Mode.CERTIFIED,), policy=SupplyPolicy.BANK)
    with pytest.raises(BadInput, match="Bench 7 has no bank that floats"):
        services.campaigns.create(unit_id, TAMSIN, floating, None, bench="Bench 7")
