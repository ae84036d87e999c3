"""Working hours: seconds of work on the days and at the times that a lab works; worked by hand."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput
from rulvek.core.planning.hours import Hours, hours_of

HOUR = 3600.0


def week() -> Hours:
    found = hours_of("Mon-Fri 08:00-17:00")
    assert found is not None
    return found


def at(day: int, hour: int, minute: int = 0) -> datetime:
    """In March 2026, whose second is a Monday."""
    return datetime(2026, 3, day, hour, minute, tzinfo=UTC)


@pytest.mark.parametrize(
    ("start", "seconds", "ends"),
    [
        (at(2, 9), 0, at(2, 9)),
        (at(2, 9), 2 * HOUR, at(2, 11)),
        (at(2, 16), 2 * HOUR, at(3, 9)),  # an hour today, one tomorrow
        (at(2, 8), 9 * HOUR, at(2, 17)),  # exactly a day
        (at(2, 6), HOUR, at(2, 9)),  # before they open
        (at(2, 20), HOUR, at(3, 9)),  # after they closed
        (at(6, 16, 30), HOUR, at(9, 8, 30)),  # over a weekend
        (at(7, 12), 0, at(9, 8)),  # on a Saturday nothing begins
    ],
)
def test_so_much_work_is_done_then(start: datetime, seconds: float, ends: datetime) -> None:
    assert week().after(start, seconds) == ends


def test_a_week_has_forty_five_hours() -> None:
    assert week().until(at(2, 0), at(9, 0)) == 45 * HOUR
    assert week().until(at(9, 0), at(2, 0)) == 0
    assert week().until(at(7, 0), at(9, 8)) == 0


@given(st.integers(0, 40 * 24 * 60), st.floats(0, 2e6))
def test_what_is_done_then_took_so_long(minutes: int, seconds: float) -> None:
    start = at(1, 0) + timedelta(minutes=minutes)
    ends = week().after(start, seconds)
    assert ends >= start
    assert week().until(start, ends) == pytest.approx(seconds, abs=1e-3)


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ("Mon-Fri 08:00-17:00", "Mon–Fri 08:00–17:00"),
        (" sat 9:30 – 12:00 ", "Sat 09:30–12:00"),
        ("mon–sun 00:00-23:59", "Mon–Sun 00:00–23:59"),
    ],
)
def test_hours_are_said_in_words(said: str, words: str) -> None:
    found = hours_of(said)
    assert found is not None
    assert found.words == words


def test_nothing_said_is_always() -> None:
    assert hours_of("  ") is None


@pytest.mark.parametrize(
    "said", ["always", "Mon-Fri", "Mon-Fri 17:00-08:00", "Fri-Mon 08:00-17:00", "Moo 08:00-17:00", "Mon 25:00-26:00"]
)
def test_what_are_no_hours_is_refused(said: str) -> None:
    with pytest.raises(BadInput, match="Working hours are said as") as refused:
        hours_of(said)
    assert refused.value.field == "working_hours"
