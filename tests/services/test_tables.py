"""A table of earlier results: written in short pieces that nobody sees, then all of it at once."""

from datetime import timedelta

import pytest
from counting import counted

from rulvek.composition import Services
from rulvek.services.outside import Table, earlier_results, unseen
from rulvek.services.outside.unseen import clear_unseen
from rulvek.store.verify import verify
from tests.conftest import TAMSIN, add_unit

MAPPING = {0: "serial", 1: "mode", 2: "load_ohms", 3: "watts", 4: "watts"}


def table_of(rows: int) -> Table:
    lines = "".join(f"T2-000{1 + row % 2},certified,4,{70 + row % 9},{71 + row % 9}\n" for row in range(rows))
    text = "Serial,Mode,Load,Watts,Watts 2\n" + lines
    return Table("old.csv", text, MAPPING, "Meter 4")  # type: ignore[arg-type]


@pytest.fixture
def pieces(services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch) -> Services:
    """Two units to have readings of, taken in by tens."""
    add_unit(services, "T2-0002")
    monkeypatch.setattr(unseen, "AT_ONCE", 10)
    return services


def test_no_write_grows_with_the_table(pieces: Services) -> None:
    written = pieces.database.write_seconds
    written.clear()
    kept = pieces.earlier_results.keep(table_of(70), TAMSIN)
    assert len(kept.readings) == 70 and all(reading.attempt_id for reading in kept.readings)
    campaigns, tens, shown = 2, 2 * 4, 1
    assert len(written) == campaigns + tens + shown
    assert verify(pieces.database, pieces.files).faults == ()


def test_a_rehearsal_asks_the_records_once_for_all_rows(pieces: Services) -> None:
    """Not the model's evidence anew for each reading."""
    found = []
    for rows in (10, 100):
        pieces.earlier_results.rehearse(table_of(rows))
        with counted(pieces.database, *pieces.asides) as count:
            pieces.earlier_results.rehearse(table_of(rows))
        found.append(count.statements)
    assert found[0] == found[1]


def test_what_broke_off_is_never_seen_and_cleared_away(pieces: Services, monkeypatch: pytest.MonkeyPatch) -> None:
    def killed(*_: object) -> None:
        raise RuntimeError("killed before it was shown")

    with monkeypatch.context() as patch:
        patch.setattr(earlier_results, "show_together", killed)
        with pytest.raises(RuntimeError):
            pieces.earlier_results.keep(table_of(30), TAMSIN)
    assert pieces.campaigns.listed().items == [] and pieces.evidence.attempts().items == []
    assert pieces.catalogue.model(1).reaches[0].certified_watts is None
    clear_unseen(pieces.database)  # it may be another server's, which is at it just now
    with pieces.database.reading() as session:
        assert session.connection().exec_driver_sql("SELECT count(*) FROM attempt").scalar_one() == 30
    clear_unseen(pieces.database, timedelta(0))
    with pieces.database.reading() as session:
        left = session.connection().exec_driver_sql("SELECT count(*) FROM attempt").scalar_one()
    assert left == 0
    assert verify(pieces.database, pieces.files).faults == ()


def test_a_table_says_what_a_sheet_says(pieces: Services) -> None:
    """What fed the amplifier, why it was read again, and that a channel was not read."""
    text = (
        "S/N,Mode,Load,Ch 1 W,Ch 2 W,Supply,V before,V loaded,Others not read,Why again\n"
        "T2-0001,certified,4,75,76,held,14.4,14.4,,\n"
        "T2-0001,certified,4,,77,held,14.4,14.4,yes,connection\n"
        "T2-0001,certified,4,71,72,engine running,14.1,13.6,,\n"
        "T2-0001,certified,4,70,71,battery,12.7,12.1,no,Terminals were cold\n"
        "T2-0001,certified,4,,71,held,14.4,14.4,,\n"
        "T2-0001,certified,4,70,71,windmill,12.7,12.1,,\n"
        "T2-0001,certified,4,70,71,battery,,12.1,,\n"
    )
    shown = pieces.earlier_results.inspect("old.csv", text)
    fields = [column.field for column in shown.columns]
    assert fields[5] == "supply", "words below “Supply” are no volts"
    mapping = {place: field for place, field in enumerate(fields) if field}
    kept = pieces.earlier_results.keep(Table("old.csv", text, mapping, "Meter 4"), TAMSIN)  # type: ignore[arg-type]
    assert [(one.row, one.what.split(";")[0]) for one in kept.problems] == [
        (6, "Channel 1 is missing"),
        (7, "“windmill” is no supply"),
        (8, "Say from how many volts the bank started"),
    ]
    campaigns = [pieces.campaigns.get(one.id) for one in pieces.campaigns.listed().items]
    assert sorted(one.policy for one in campaigns) == ["bank", "held"]
    attempts = {one.row: pieces.evidence.attempt(one.attempt_id).attempt for one in kept.readings if one.attempt_id}
    assert [reading.channel for reading in attempts[3].readings] == [2]
    assert (attempts[3].cause, attempts[3].reason) == ("connection", "connection")
    assert (attempts[5].cause, attempts[5].reason) == ("other", "Terminals were cold")
    assert "engine running" in " ".join(attempts[4].circumstances)
