"""A table of earlier results: written in short pieces that nobody sees, then all of it at once."""

from datetime import timedelta

import pytest

from rulvek.composition import Services
from rulvek.services.outside import Table, earlier_results, unseen
from rulvek.services.outside.unseen import clear_unseen
from rulvek.store.verify import verify
from tests.conftest import TAMSIN, add_unit
from tests.counting import counted

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
