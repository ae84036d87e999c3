"""Benches and their leases: two at once, two servers on the same records, records that are locked or full, and Off."""

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import ExitStack, closing, contextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path
from types import SimpleNamespace

import psycopg
import pytest
from sqlalchemy import update

from rulvek import clock, composition
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.composition import Services
from rulvek.core.errors import Conflict
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.before_power import Item, Preparation, SetUp, standing
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End
from rulvek.services.benches import attempt_log, rooms
from rulvek.services.benches.room import RENEW_SECONDS
from rulvek.services.outside import Table
from rulvek.services.views.campaign import CampaignView
from rulvek.store import leases, load, tables
from rulvek.store.leases import Lease
from rulvek.store.postgres import WRITERS
from tests import postgres
from tests.conftest import CERTIFIED, JOREN, TAMSIN, add_unit, certified_campaign, prepare, services_in, until

LOCKED = "The records could not be written: somebody else has been writing to them for long."
FULL = "The records could not be written: there is no room left on their disk."
pytestmark = pytest.mark.bench_speed(20.0)
PATIENCE = 0.4


@pytest.fixture(autouse=True)
def _impatient(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(composition, "BENCH_PATIENCE_SECONDS", PATIENCE)


@pytest.fixture
def campaign(services: Services, unit_id: int) -> CampaignView:
    return certified_campaign(services, unit_id)


@pytest.fixture
def second_server(services: Services, campaign: CampaignView, tmp_path: Path) -> Iterator[Services]:
    """Another server on the same records, which has looked around once."""
    other = services_in(tmp_path, 10.0)
    other.benches.look()
    yield other
    other.close()


@contextmanager
def locked(folder: Path) -> Iterator[None]:
    """Somebody else is writing, and does not come to an end."""
    if postgres.WANTED:
        with psycopg.connect(postgres.url_of(folder).replace("+psycopg", "")) as connection:
            connection.execute("SELECT pg_advisory_xact_lock(%s)", (WRITERS,))
            yield
            connection.rollback()
        return
    with closing(sqlite3.connect(folder / "rulvek.db", isolation_level=None, timeout=30)) as connection:
        connection.execute("BEGIN IMMEDIATE")
        yield
        connection.execute("ROLLBACK")


def attempt(services: Services, attempt_id: int) -> Attempt:
    with services.database.reading() as session:
        return load.attempt(session, attempt_id)[2]


def ended(services: Services, attempt_id: int) -> tuple[End, str]:
    ending = attempt(services, attempt_id).ending
    assert ending is not None, "the attempt is still open"
    return ending.end, ending.fault


def set_lease(services: Services, **values: object) -> None:
    with services.database.writing() as session:
        session.execute(update(tables.BenchLease).values(**values))


@pytest.mark.bench_speed(4.0)  # still on when it is looked at
def test_two_benches_conduct_two_campaigns_at_once(services: Services, campaign: CampaignView) -> None:
    services.benches.add("Second bench", "simulated", TAMSIN)
    unit = add_unit(services, "T2-0002")
    beside = services.campaigns.create(unit, JOREN, CERTIFIED, bench="Second bench")
    services.preparations.see_to_all(beside.id, 1, JOREN)
    first, second = services.benches.rooms()
    attempts = [first.start(campaign.runs[0].id, TAMSIN), second.start(beside.runs[0].id, JOREN)]
    states = services.benches.states()
    assert [state.state for state in states] == ["running", "running"]
    assert [state.unit_serial for state in states] == ["T2-0001", "T2-0002"]
    services.benches.wait()
    assert [ended(services, one) for one in attempts] == [(End.LIMIT, "")] * 2
    pages = [services.evidence.attempt(one) for one in attempts]
    assert pages[1].bench["bench"].startswith("Second bench") != pages[0].bench["bench"].startswith("Second bench")
    with pytest.raises(Conflict, match="already"):
        services.benches.add("Second bench", "simulated", TAMSIN)


@pytest.mark.bench_speed(4.0)  # still on when it is looked at
def test_a_second_server_watches_and_cannot_disturb(
    services: Services, second_server: Services, campaign: CampaignView
) -> None:
    attempt_id = services.benches.room().start(campaign.runs[0].id, TAMSIN)
    second_server.benches.look()
    (seen,) = second_server.benches.states()
    assert (seen.state, seen.elsewhere, seen.attempt_id, seen.person) == ("running", True, attempt_id, TAMSIN.name)
    assert second_server.benches.recover() == 0
    with pytest.raises(Conflict, match="run by another server") as refused:
        second_server.benches.room().start(campaign.runs[0].id, JOREN, Cause.OTHER, "Once more")
    assert refused.value.code == "bench-elsewhere"
    services.benches.wait()
    assert ended(services, attempt_id) == (End.LIMIT, "")


@pytest.mark.bench_speed(4.0)  # still on when it is looked at
def test_off_on_the_second_server_reaches_the_first(
    services: Services, second_server: Services, campaign: CampaignView
) -> None:
    attempt_id = services.benches.room().start(campaign.runs[0].id, TAMSIN)
    second_server.benches.look()
    second_server.benches.off(JOREN)
    second_server.later.flush()
    services.benches.look()
    services.benches.wait()
    assert ended(services, attempt_id)[0] is End.OPERATOR


@pytest.mark.bench_speed(4.0)  # still on when it is looked at
def test_renewing_does_not_overwrite_an_off_from_afar(services: Services, campaign: CampaignView) -> None:
    """Between reading the leases and renewing them another server may have left word."""
    room = services.benches.room()
    attempt_id = room.start(campaign.runs[0].id, TAMSIN)
    with services.database.reading() as session:
        read_before = leases.get(session, room.id)
    assert read_before is not None
    due = replace(read_before, expires_at=read_before.expires_at - timedelta(seconds=RENEW_SECONDS))
    set_lease(services, off_asked_by=JOREN.name)
    room.tick(due)
    services.benches.wait()
    assert ended(services, attempt_id)[0] is End.OPERATOR


def crashed(services: Services, campaign: CampaignView, seconds_left: float) -> int:
    """An attempt of a server on another machine that is heard of no more."""
    attempt_id = services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.off(TAMSIN)
    services.benches.wait()
    services.later.flush()
    with services.database.writing() as session:
        for table in (tables.Reading, tables.AttemptEnding):
            session.query(table).filter(table.attempt_id == attempt_id).delete()
        session.query(tables.Step).filter(tables.Step.kind == "finished").delete()
        expires = datetime.now(UTC) + timedelta(seconds=seconds_left)
        leases.put(session, Lease(1, "elsewhere", "another machine", "1:1", expires, "running", attempt_id=attempt_id))
    services.benches.look()
    return attempt_id


def test_a_crash_frees_the_bench_when_the_lease_ends(services: Services, campaign: CampaignView) -> None:
    attempt_id = crashed(services, campaign, 60)
    assert attempt(services, attempt_id).ending is None
    with pytest.raises(Conflict, match="another server"):
        services.benches.room().start(campaign.runs[0].id, TAMSIN, Cause.OTHER, "Once more")
    set_lease(services, expires_at=datetime.now(UTC) - timedelta(seconds=1))
    services.benches.look()
    end, fault = ended(services, attempt_id)
    assert end is End.LINK_LOST and fault == "The server stopped in the middle of the run."
    following = services.benches.room().start(campaign.runs[0].id, TAMSIN, Cause.OTHER, "Once more")
    services.benches.wait()
    assert ended(services, following)[0] is End.LIMIT


def test_a_server_whose_bench_was_taken_ends_its_run(services: Services, campaign: CampaignView) -> None:
    room = services.benches.room()
    attempt_id = room.start(campaign.runs[0].id, TAMSIN)
    set_lease(services, server="elsewhere", host="another machine")
    services.benches.look()
    services.benches.wait()
    assert ended(services, attempt_id) == (End.NOT_RECORDED, "Another server has taken the bench.")


@pytest.mark.files
def test_steps_that_cannot_be_committed_end_the_attempt_visibly(
    services: Services, campaign: CampaignView, tmp_path: Path
) -> None:
    room = services.benches.room()
    attempt_id = room.start(campaign.runs[0].id, TAMSIN)
    with locked(tmp_path):
        until(lambda: room.state().problem != "")
        assert room.state().problem == LOCKED
        until(lambda: supply_is_off(services))
        assert room.state().state == "running", "it does not pretend to be done before that is on record"
    services.benches.wait()
    assert ended(services, attempt_id) == (
        End.NOT_RECORDED,
        LOCKED,
    )
    assert room.state().state == "idle" and room.state().problem == ""
    told = services.evidence.attempt(attempt_id).attempt
    assert told.end == "not_recorded" and told.fault.startswith("The records could not be written")


@pytest.mark.files
def test_a_full_disk_ends_the_attempt_and_what_was_measured_is_kept(services: Services, campaign: CampaignView) -> None:
    room = services.benches.room()
    with services.database.writing() as session:
        full = "CREATE TRIGGER full BEFORE INSERT ON step BEGIN SELECT RAISE(ABORT, 'disk is full'); END"
        session.connection().exec_driver_sql(full)
    attempt_id = room.start(campaign.runs[0].id, TAMSIN)
    until(lambda: room.state().problem != "")
    with services.database.writing() as session:
        session.connection().exec_driver_sql("DROP TRIGGER full")
    services.benches.wait()
    assert ended(services, attempt_id) == (
        End.NOT_RECORDED,
        FULL,
    )
    kinds = [step.kind for step in services.campaigns.steps(attempt_id)]
    assert kinds[0] == "prepared" and kinds[-1] == "finished", "the steps that were refused are there after all"


def supply_is_off(services: Services) -> bool:
    bench = services.benches.room().standing.current
    assert isinstance(bench, SimulatedBench)
    return not bench.amplifier.powered


def test_off_makes_the_bench_safe_before_it_answers_whoever_has_the_records(
    services: Services, campaign: CampaignView, tmp_path: Path
) -> None:
    room = services.benches.room()
    attempt_id = room.start(campaign.runs[0].id, TAMSIN)
    until(lambda: not supply_is_off(services))
    with locked(tmp_path):
        services.benches.off(JOREN)
        assert supply_is_off(services)
    services.benches.wait()
    assert ended(services, attempt_id)[0] in (End.OPERATOR, End.NOT_RECORDED)


def test_off_wins_over_the_start_before_it(services: Services, campaign: CampaignView, tmp_path: Path) -> None:
    """While another writer has the records a start waits for them; an Off meanwhile is not forgotten."""
    room = services.benches.room()
    refused: list[Exception] = []

    def start() -> None:
        try:
            room.start(campaign.runs[0].id, TAMSIN)
        except Conflict as error:
            refused.append(error)

    with locked(tmp_path):
        starting = threading.Thread(target=start)
        starting.start()
        until(lambda: room.busy)
        services.benches.off(JOREN)
    starting.join()
    assert [error.code for error in refused if isinstance(error, Conflict)] == ["switched-off"]
    assert room.state().state == "idle" and services.campaigns.get(campaign.id).runs[0].attempts == []
    with pytest.raises(Conflict) as overtaken:
        room.start(campaign.runs[0].id, TAMSIN, overtaken=lambda: True)
    assert overtaken.value.code == "switched-off"
    room.start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()


def test_a_live_run_survives_the_rehearsal_of_a_table(services: Services, campaign: CampaignView) -> None:
    """Working a table out takes nothing from those who write: it opens no write transaction at all."""
    attempt_id = services.benches.room().start(campaign.runs[0].id, TAMSIN)
    rows = "".join(f"T2-0001,certified,4,{70 + row % 20},{71 + row % 20}\n" for row in range(800))
    mapping = {0: "serial", 1: "mode", 2: "load_ohms", 3: "watts", 4: "watts"}
    table = Table("old.csv", "Serial,Mode,Load,Watts,Watts 2\n" + rows, mapping, "Meter 4")  # type: ignore[arg-type]
    written = len(services.database.write_seconds)
    assert len(services.earlier_results.rehearse(table).readings) == 800
    assert len(services.database.write_seconds) == written
    services.benches.wait()
    assert ended(services, attempt_id) == (End.LIMIT, "")


def test_people_who_read_do_not_keep_the_bench_waiting(services: Services, campaign: CampaignView) -> None:
    """Every connection that pages have is taken; the bench has its own."""
    room = services.benches.room()
    with ExitStack() as readers:
        for _ in range(10):
            session = readers.enter_context(services.database.reading())
            load.campaign(session, campaign.id)
        attempt_id = room.start(campaign.runs[0].id, TAMSIN)
        services.benches.wait(30)
        assert room.state().state == "idle"
        repeated = room.start(campaign.runs[0].id, TAMSIN, Cause.OTHER, "Once more")
        services.benches.off(TAMSIN)
        services.benches.wait(30)
        assert room.state().state == "idle"
    assert ended(services, attempt_id)[0] is End.LIMIT
    assert ended(services, repeated)[0] is End.OPERATOR


def test_no_transaction_stays_open_while_the_bench_measures(services: Services, campaign: CampaignView) -> None:
    room, of_the_bench = services.benches.room(), services.asides[0].engine.pool
    attempt_id = room.start(campaign.runs[0].id, TAMSIN)
    until(lambda: of_the_bench.checkedout() == 0)  # type: ignore[attr-defined]
    assert room.state().attempt_id == attempt_id, "and it is still running"
    services.benches.wait()


def test_what_the_program_itself_does_is_told_apart_from_people(services: Services, campaign: CampaignView) -> None:
    attempt_id = crashed(services, campaign, -1)
    assert ended(services, attempt_id)[0] is End.LINK_LOST
    with services.database.reading() as session:
        last = session.query(tables.AuditEntry).order_by(tables.AuditEntry.id.desc()).first()
        started = session.query(tables.AuditEntry).filter_by(action="started a run").first()
    assert last is not None and started is not None
    assert (last.action, last.actor) == ("ended a run", "program")
    assert (started.actor, started.person) == ("person", TAMSIN.name)


def test_a_campaign_stays_with_its_bench(services: Services, unit_id: int) -> None:
    services.benches.add("Second bench", "simulated", TAMSIN)
    made = services.campaigns.create(unit_id, TAMSIN, replace(CERTIFIED), bench="Second bench")
    prepare(services, made.id)
    assert services.benches.room_of_campaign(made.id).name == "Second bench"
    assert services.benches.room_of_run(made.runs[0].id).name == "Second bench"


def test_an_off_wins_over_a_start_that_came_before_it_or_with_it(
    services: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = services.benches.arrival()
    assert not services.benches.overtaken(before)
    services.benches.off(JOREN)
    with_it = services.benches.arrival()  # sent together, it may well have been pressed before
    assert services.benches.overtaken(before) and services.benches.overtaken(with_it)
    monkeypatch.setattr(rooms, "TOGETHER_SECONDS", 0.0)
    assert services.benches.overtaken(before) and not services.benches.overtaken(services.benches.arrival())


def test_what_was_seen_to_lapses_with_the_wiring_the_unit_the_day_and_time(services: Services, unit_id: int) -> None:
    """Each cause by itself, said in the refusal and in the list; seen to again, the run starts."""
    campaign = certified_campaign(services, unit_id)
    services.preparations.see_to_all(campaign.id, 2, TAMSIN)
    with pytest.raises(Conflict, match="it was rewired since"):
        services.benches.room().start(campaign.runs[0].id, TAMSIN)
    assert {one.lapsed for one in services.campaigns.get(campaign.id).wirings[0].preparations} == {
        "it was rewired since"
    }
    services.preparations.see_to_all(campaign.id, 1, TAMSIN)
    services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()

    other = services.campaigns.create(add_unit(services, "T2-0009"), TAMSIN, CERTIFIED)
    services.preparations.skip(other.id, 1, Item.CLAMP, TAMSIN, "only looked at")
    (again,) = {one.lapsed for one in services.campaigns.get(campaign.id).wirings[0].preparations}
    assert again == "T2-0009 was on the bench since"


@pytest.mark.parametrize(
    ("hours_ago", "hold_hours", "lapsed"),
    [(1, 12.0, ""), (5, 4.0, "that was more than 4 h ago"), (30, 48.0, "that was on another day")],
)
def test_time_ends_what_was_seen_to(hours_ago: float, hold_hours: float, lapsed: str) -> None:
    now = datetime(2026, 3, 31, 18, 0, tzinfo=timezone(timedelta(hours=-8)))
    then = (now - timedelta(hours=hours_ago)).astimezone(UTC)
    seen = {Item.CLAMP: Preparation("1:4", Item.CLAMP, True, "", "Tamsin Oduwell", then)}
    holds = standing(seen, 1, "1:4", [], now, hold_hours)
    assert holds.lapsed == ({Item.CLAMP: lapsed} if lapsed else {})
    assert list(holds.seen) == ([] if lapsed else [Item.CLAMP])


def test_the_day_is_the_labs_not_greenwichs() -> None:
    """Seven in the evening west of Greenwich is the same day as two hours before, though the date in UTC changed."""
    west = timezone(timedelta(hours=-8))
    then, now = datetime(2026, 3, 31, 15, 30, tzinfo=west), datetime(2026, 3, 31, 19, 0, tzinfo=west)
    assert then.astimezone(UTC).date() != now.astimezone(UTC).date()
    seen = {Item.LOADS: Preparation("1:4", Item.LOADS, True, "", "Tamsin Oduwell", then.astimezone(UTC))}
    assert not standing(seen, 1, "1:4", [], now, 12.0).lapsed
    set_up = SetUp(1, "T2-0001", "1:4", now)
    assert not standing(seen, 1, "1:4", [set_up], now, 12.0).lapsed, "the same unit on the same wiring"


def test_a_clock_that_was_set_back_is_remarked(
    services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    campaign = certified_campaign(services, unit_id)
    went_back = SimpleNamespace(now=lambda: clock.now() - timedelta(hours=2))
    monkeypatch.setattr(attempt_log, "clock", went_back)
    attempt_id = services.benches.room().start(campaign.runs[0].id, TAMSIN)
    services.benches.wait()
    attempt = services.evidence.attempt(attempt_id).attempt
    assert attempt.end is End.LIMIT
    assert [remark.text for remark in attempt.remarks] == [attempt_log.CLOCK_WENT_BACK]
    monkeypatch.undo()
    again = services.benches.room().start(campaign.runs[0].id, TAMSIN, Cause.OTHER, "Once more")
    services.benches.wait()
    assert services.evidence.attempt(again).attempt.remarks == []
