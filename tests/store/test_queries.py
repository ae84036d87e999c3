"""Questions to the records: lists by key, steps after a step, attempts that were left open."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy import event

from rulvek.core.errors import NotFound
from rulvek.store import queries, tables
from rulvek.store.database import Database, Session

NOW = datetime(2026, 5, 4, 9, 0, tzinfo=UTC)


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    """Two campaigns on one unit, two runs each, attempts 1 to 6, the last of them still open."""
    made = Database(f"sqlite:///{tmp_path / 'rulvek.db'}")
    made.migrate()
    with made.writing() as session:
        _write(session)
    yield made
    made.close()


def _write(session: Session) -> None:
    series = queries.add(session, tables.Series(name="S", purpose="Boats"))
    model = tables.Model(
        series_id=series.id,
        name="M",
        topology="D",
        description="",
        regulated=False,
        supply_low_volts=10.5,
        supply_high_volts=16.0,
        sensitivity_volts=1.0,
        test_controls=[],
        design="mono-d",
    )
    queries.add(session, model)
    unit = tables.Unit(model_id=model.id, serial="U-1", lot="1", revision="A", origin="On loan", received_at=NOW)
    queries.add(session, unit)
    for number in (1, 2):
        campaign = tables.Campaign(
            unit_id=unit.id, bench="Bench 1", supply_volts=14.4, method={}, created_by="T", created_at=NOW
        )
        queries.add(session, campaign)
        for position in (1, 2):
            run = tables.Run(
                campaign_id=campaign.id,
                position=position,
                mode="certified",
                group="bass",
                channels=[1],
                load_ohms=4.0 / position,
                bridged=False,
                tone_hz=40.0,
                supply_volts=14.4,
                companions=[],
                reason="",
            )
            queries.add(session, run)
            for attempt in range(1, position + 1):
                _write_attempt(session, run.id, attempt, is_open=(number, position, attempt) == (2, 2, 2))


def _write_attempt(session: Session, run_id: int, number: int, is_open: bool) -> None:
    started = NOW + timedelta(minutes=number)
    attempt = tables.Attempt(run_id=run_id, number=number, reason="", started_by="T", started_at=started)
    queries.add(session, attempt)
    for index in range(3):
        step = tables.Step(attempt_id=attempt.id, kind="level", at_seconds=float(index), data={"level_dbv": -20.0})
        queries.add(session, step)
    if not is_open:
        ending = tables.AttemptEnding(attempt_id=attempt.id, end="limit", fault="", ended_at=started, seconds=2.0)
        queries.add(session, ending)


def test_lists_go_by_key_and_miss_nothing(database: Database) -> None:
    with database.reading() as session:
        first = queries.attempts(session, None, 4)
        rest = queries.attempts(session, first[-1].id, 4)
        assert [a.id for a in first] == [6, 5, 4, 3]
        assert [a.id for a in rest] == [2, 1]
        assert queries.attempts(session, None, 10, model_id=1)[0].id == 6
        assert queries.attempts(session, None, 10, model_id=2) == []
        assert [c.id for c in queries.campaigns(session, 2, 5)] == [1]


def test_steps_of_a_campaign_come_once_and_in_order(database: Database) -> None:
    with database.reading() as session:
        everything = [s.id for s in queries.campaign_steps_after(session, 2, 0)]
        assert everything == list(range(10, 19))
        assert [s.id for s in queries.campaign_steps_after(session, 2, 12)] == everything[3:]
        assert [s.id for s in queries.campaign_steps_after(session, 2, 0, limit=2)] == everything[:2]
        assert queries.campaign_steps_after(session, 1, 9) == []
        assert queries.last_step_id(session) == 18


def test_an_attempt_without_an_ending_is_open(database: Database) -> None:
    with database.reading() as session:
        assert [a.id for a in queries.open_attempts(session)] == [6]
        assert queries.next_attempt_number(session, 4) == 3
        assert queries.next_attempt_number(session, 99) == 1
        assert queries.serial_exists(session, "U-1")


def test_the_line_is_read_in_a_handful_of_statements(database: Database) -> None:
    statements: list[str] = []
    event.listen(database.engine, "before_cursor_execute", lambda *args: statements.append(args[2]))
    with database.reading() as session:
        series = queries.line(session)
        attempts = [a for c in series[0].models[0].units[0].campaigns for r in c.runs for a in r.attempts]
        assert len(attempts) == 6 and attempts[0].ending is not None and attempts[0].readings == []
    assert len([s for s in statements if s.startswith("SELECT")]) <= 12


@pytest.mark.parametrize("question", [queries.campaign, queries.attempt])
def test_what_is_not_on_record_is_named(database: Database, question) -> None:  # type: ignore[no-untyped-def]
    with database.reading() as session, pytest.raises(NotFound, match="number 77"):
        question(session, 77)
