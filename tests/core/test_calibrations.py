"""What calibrations found: held to the instrument's own limits (worked by hand), and told over the years."""

from dataclasses import replace
from datetime import date

import pytest

from rulvek.core.errors import BadInput
from rulvek.core.records.calibrations import histories, judged
from rulvek.core.records.instruments import AsFound, InstrumentEntry, InstrumentRole

METER = InstrumentEntry(
    InstrumentRole.OUTPUT,
    "Meter 4",
    "M-1",
    percent_of_reading=0.3,
    digits=2,
    resolution=0.01,
    calibrated_on=date(2026, 3, 2),
    checked_at=20.0,
)
"""± (0.3 % of 20 + 2 × 0.01) = ± 0.08: from 19.92 to 20.08 it is within."""


@pytest.mark.parametrize(
    ("found", "says"),
    [(20.08, AsFound.WITHIN), (19.92, AsFound.WITHIN), (20.081, AsFound.OUT), (19.919, AsFound.OUT)],
)
def test_figures_say_what_was_found(found: float, says: AsFound) -> None:
    assert judged(replace(METER, found=found)).as_found is says


@pytest.mark.parametrize(
    ("changed", "field", "words"),
    [
        ({"found": 20.2, "as_found": AsFound.WITHIN}, "as_found", "out of its limits"),
        ({"found": 20.0, "as_found": AsFound.OUT}, "as_found", "within its limits"),
        ({"found": 20.0, "left": 20.2}, "left", "left at 20.2 where 20 is right"),
        ({"found": 20.0, "calibrated_on": None}, "calibrated_on", "on which day"),
        ({"found": 20.0, "checked_at": None}, "checked_at", "at which value"),
        ({"left": 20.0, "checked_at": 0.0}, "checked_at", "at which value"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(changed: dict[str, object], field: str, words: str) -> None:
    with pytest.raises(BadInput, match=words) as refused:
        judged(replace(METER, **changed))  # type: ignore[arg-type]
    assert refused.value.field == field


def test_who_tells_no_figure_says_it_in_words_or_not_at_all() -> None:
    plain = replace(METER, checked_at=None)
    assert judged(plain) == plain
    assert judged(replace(plain, as_found=AsFound.OUT)).as_found is AsFound.OUT


def test_the_years_stand_side_by_side() -> None:
    first = judged(replace(METER, found=20.02, left=20.02, certificate="K-1"))
    second = judged(replace(METER, calibrated_on=date(2027, 3, 1), found=20.1, left=20.01))
    other = replace(METER, name="Meter 5", found=None, checked_at=None)
    (history,) = histories([second, first, other])
    assert (history.role, history.name) == (InstrumentRole.OUTPUT, "Meter 4 M-1")
    assert [one.on.year for one in history.points] == [2026, 2027]
    assert [one.found_percent for one in history.points] == [pytest.approx(0.1), pytest.approx(0.5)]
    assert [one.left_percent for one in history.points] == [pytest.approx(0.1), pytest.approx(0.05)]
    assert all(one.limit_percent == pytest.approx(0.4) for one in history.points)  # 0.08 of 20
    assert [one.as_found for one in history.points] == [AsFound.WITHIN, AsFound.OUT]
