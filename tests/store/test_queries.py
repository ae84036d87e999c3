"""Questions to the records: lists by key, steps after a step, attempts that were left open, records put together."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from counting import counted

from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import NotFound, Unreadable
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.attempts import Attempt, Ending, Remark
from rulvek.core.records.campaigns import Expected, Run, Unit
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.product import ChannelGroup, Model, Product
from rulvek.core.records.summaries import AttemptFilter
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.store import load, save
from rulvek.store.engine import Database, Session
from rulvek.store.queries import campaigns as queries
from rulvek.store.queries import line
from tests.conftest import migrated

NOW = datetime(2026, 5, 4, 9, 0, tzinfo=UTC)

ANY = AttemptFilter()


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    """Two campaigns on one unit, two runs each, attempts 1 to 6, the last of them still open."""
    made = migrated(tmp_path)
    with made.writing() as session:
        _write(session)
    yield made
    made.close()


def _write(session: Session) -> None:
    series = save.series(session, SeriesEntry("S", "Boats"))
    product = Product((ChannelGroup("bass", (1,), (4.0, 2.0), bass=True),))
    model = save.model(session, series, Model(0, "", "M", "", product, 1.0, (), "mono-d"))
    unit = save.unit(session, Unit(0, model, "U-1", "1", "A", "On loan", NOW))
    for number in (1, 2):
        campaign_id, run_ids = save.campaign(
            session,
            unit_id=unit,
            bench="Bench 1",
            supply_volts=14.4,
            method=MethodProfile(name="Lab").as_data() | {"of a later version": 3},
            wishes=Wishes(modes=(Mode.CERTIFIED,), tones={"bass": 50.0}),
            by="T",
            at=NOW,
            runs=[planned_run(position) for position in (1, 2)],
        )
        for position, run_id in enumerate(run_ids, 1):
            for attempt in range(1, position + 1):
                _write_attempt(session, campaign_id, run_id, attempt, (number, position, attempt) == (2, 2, 2))


def planned_run(position: int) -> Run:
    spec = RunSpec(Mode.CERTIFIED, "bass", 4.0 / position, 40.0, 14.4)
    return Run(
        0, position, spec, (1,), (Connection((2, 3), 8.0),), "why", wiring_key="k", expected=Expected(100.0, None, 2.0)
    )


def _write_attempt(session: Session, campaign_id: int, run_id: int, number: int, is_open: bool) -> None:
    started = NOW + timedelta(minutes=number)
    ending = None if is_open else Ending(End.LIMIT, started, 2.0)
    cause = Cause.OTHER if number > 1 else None
    new = Attempt(0, number, "T", started, cause, "r", ending=ending, remarks=(Remark("noted", "T", NOW),))
    attempt_id = save.attempt(session, campaign_id, run_id, new)
    save.steps(session, attempt_id, [("level", float(index), {"level_dbv": -20.0}) for index in range(3)])


def test_what_was_saved_is_loaded(database: Database) -> None:
    with database.reading() as session:
        campaign = load.campaign(session, 2)
    first, second = campaign.runs
    assert (first.spec, first.companions, first.expected) == (
        planned_run(1).spec,
        planned_run(1).companions,
        planned_run(1).expected,
    )
    assert campaign.wishes == Wishes(modes=(Mode.CERTIFIED,), tones={"bass": 50.0})
    assert campaign.method.as_data()["of a later version"] == 3
    ended, still = second.attempts
    assert ended.ending == Ending(End.LIMIT, NOW + timedelta(minutes=1), 2.0) and still.ending is None
    assert (still.cause, still.reason, still.remarks) == (Cause.OTHER, "r", (Remark("noted", "T", NOW),))


def test_lists_go_by_key_and_miss_nothing(database: Database) -> None:
    with database.reading() as session:
        first, following = queries.attempts_page(session, None, 4, ANY)
        rest, end = queries.attempts_page(session, following, 4, ANY)
        assert [a.attempt_id for a in first] == [6, 5, 4, 3] and [a.attempt_id for a in rest] == [2, 1] and end is None
        assert queries.attempts_page(session, None, 10, AttemptFilter(model_id=1))[0][0].attempt_id == 6
        assert queries.attempts_page(session, None, 10, AttemptFilter(model_id=2)) == ([], None)
        assert [c.id for c in queries.campaigns_page(session, 2, 5)[0]] == [1]
        assert [c.id for c in queries.campaigns_page(session, None, 5, "done")[0]] == [2, 1]
        assert queries.campaigns_page(session, None, 5, "open")[0] == []
        running = queries.campaigns_page(session, None, 1)[0][0].runs
        assert [(run.running, run.done) for run in running] == [(False, True), (True, False)]


def test_models_and_units_past_the_first_page_are_found(database: Database) -> None:
    with database.writing() as session:
        product = Product((ChannelGroup("main", (1,), (4.0,)),))
        series = 1
        for number in range(60):
            series = save.series(session, SeriesEntry(f"S{number:02d}", "")) if number % 4 == 0 else series
            for empty in range(9 if number == 20 else 0):  # more than a page of series without a model
                save.series(session, SeriesEntry(f"E{empty}", ""))
            model = save.model(session, series, Model(0, "", f"N{number:02d}", "", product, 1.0, (), ""))
            save.unit(session, Unit(0, 1, f"V-{number:02d}", "1", "A", "On loan", NOW))
        assert model == 61
    with database.reading() as session:
        seen: list[int] = []
        names: set[str] = set()
        after: int | None = None
        while not seen or after is not None:
            page, after = line.series_page(session, after, 7)
            seen += [one for series in page for one in series.models]
            names |= {series.name for series in page}
        assert seen == list(range(1, 62))
        assert names >= {f"S{n:02d}" for n in range(0, 60, 4)} | {f"E{n}" for n in range(9)}
        units, following = line.units_page(session, 1, None, 50)
        rest, end = line.units_page(session, 1, following, 50)
        assert len(units) + len(rest) == 61 and end is None
        assert [f.name for f in line.find(session, "v-59", 9)] == ["V-59"]
        assert [f.name for f in line.find(session, "N59", 9)] == ["N59"]
        assert line.find(session, "100%", 9) == [] and line.find(session, "_", 9) == []
        assert [f.id for f in line.find(session, "2", 9) if f.kind == "campaign"] == [2]


def test_steps_of_a_campaign_come_once_and_in_order(database: Database) -> None:
    with database.reading() as session:
        everything = [s.id for s in queries.steps_after(session, 2, 0)]
        assert everything == list(range(10, 19))
        assert [s.id for s in queries.steps_after(session, 2, 12)] == everything[3:]
        assert [s.id for s in queries.steps_after(session, 2, 0, limit=2)] == everything[:2]
        assert queries.steps_after(session, 1, 9) == []
        assert queries.last_step_id(session) == 18


def test_an_attempt_without_an_ending_is_open(database: Database) -> None:
    with database.reading() as session:
        (opened,) = queries.open_attempts(session)
        assert (opened.attempt_id, opened.campaign_id, opened.bench) == (6, 2, "Bench 1")
        assert queries.next_attempt_number(session, 4) == 3
        assert queries.next_attempt_number(session, 99) == 1


def test_one_that_cannot_be_read_names_itself_and_takes_nothing_down(database: Database) -> None:
    with database.writing() as session:
        session.connection().exec_driver_sql("UPDATE attempt SET cause = 'moonshine' WHERE id = 3")
    with database.reading() as session:
        campaign = load.campaign(session, 1)
        (problem,) = campaign.unreadable
        assert problem.subject == 3 and "Attempt 3 cannot be read" in problem.what
        assert [a.id for _, a in campaign.attempts()] == [1, 2]
        with pytest.raises(Unreadable, match="Attempt 3"):
            load.attempt(session, 3)
        assert load.attempt(session, 2)[2].id == 2


def test_a_campaign_is_read_in_a_handful_of_statements(database: Database) -> None:
    with counted(database) as count, database.reading() as session:
        load.campaign(session, 2)
    assert count.statements <= 11


@pytest.mark.parametrize("question", [load.campaign, load.attempt, load.model, load.unit, load.campaign_of_run])
def test_what_is_not_on_record_is_named(database: Database, question) -> None:  # type: ignore[no-untyped-def]
    with database.reading() as session, pytest.raises(NotFound, match="number 77"):
        question(session, 77)
