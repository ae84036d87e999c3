"""Evidence as it is asked for: by what is stored of an attempt, and by what is worked out of it."""

from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta

import pytest

from rulvek.composition import Services
from rulvek.core.records.summaries import AttemptFilter
from rulvek.core.runs.modes import End, Mode
from tests.conftest import CERTIFIED, TAMSIN, add_unit, put_attempt, services_in, write_line

TODAY = datetime.now(UTC).date()


@pytest.fixture(scope="module")
def archive(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Services]:
    """Attempts 1 to 3: two of the first unit (the second stands), one of another that was stopped; only read here."""
    services = services_in(tmp_path_factory.mktemp("archive"))
    unit_id = write_line(services)
    first = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, first.id, (80.0, 81.0))
    put_attempt(services, first.id, (60.0, 81.0), run=0)  # channels apart
    other = services.campaigns.create(add_unit(services, "T2-0777"), TAMSIN, CERTIFIED)
    put_attempt(services, other.id, (20.0, 20.1), end=End.OPERATOR)
    yield services
    services.close()


@pytest.mark.parametrize(
    ("wanted", "ids"),
    [
        (AttemptFilter(), [3, 2, 1]),
        (AttemptFilter(unit="0777"), [3]),
        (AttemptFilter(model="test TWO"), [3, 2, 1]),
        (AttemptFilter(model="other"), []),
        (AttemptFilter(mode=Mode.BURST), []),
        (AttemptFilter(load_ohms=4.01), [3, 2, 1]),  # the same by its nominal value
        (AttemptFilter(load_ohms=2.0), []),
        (AttemptFilter(end=End.OPERATOR), [3]),
        (AttemptFilter(person="HALDV"), [3, 2, 1]),
        (AttemptFilter(person="%"), []),
        (AttemptFilter(since=TODAY, until=TODAY), [3, 2, 1]),
        (AttemptFilter(until=TODAY - timedelta(days=1)), []),
        (AttemptFilter(since=date(2000, 1, 1)), [3, 2, 1]),
        (AttemptFilter(stands=True), [3, 2]),
        (AttemptFilter(stands=False), [1]),
        (AttemptFilter(check="channels-apart"), [2]),
        (AttemptFilter(check="any"), [2, 1]),
        (AttemptFilter(check="no-such-check"), []),
    ],
)
def test_what_is_asked_for(archive: Services, wanted: AttemptFilter, ids: list[int]) -> None:
    listed = archive.evidence.attempts(wanted=wanted)
    assert [row.id for row in listed.items] == ids and listed.next is None


def test_what_is_worked_out_is_read_on_where_a_page_has_none(archive: Services) -> None:
    """One attempt a page: the one that does not stand lies behind two that do."""
    found = archive.evidence.attempts(limit=1, wanted=AttemptFilter(stands=False))
    assert [row.id for row in found.items] == [1]
