"""Production audits: which months are owed, late or done, and by which runs a unit proves what is promised."""

from dataclasses import replace
from datetime import date, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.audits import SHOWN, AuditState, asked_for, audited, proof_runs
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.sample import RatedAt, SampleRow
from rulvek.core.records.audit_plans import AuditPlace, AuditPlanEntry, refuse_far_off
from rulvek.core.records.claims import ClaimKind
from rulvek.core.records.product import ChannelGroup, Product
from rulvek.core.runs.modes import Mode

MAIN, BASS = RatingTerms(RatedAt("main", 4.0), 75.0), RatingTerms(RatedAt("bass", 2.0), 300.0)
RATINGS = {1: MAIN, 2: BASS}
PLAN = AuditPlanEntry(date(2026, 9, 14), units=2)
TODAY = date(2026, 11, 30)
PRODUCT = Product((ChannelGroup("main", (1, 2), (4.0,), (8.0,)), ChannelGroup("bass", (3,), (2.0,), bass=True)))


def row(unit: int, attempt: int, watts: float, at_least: bool = False) -> SampleRow:
    return SampleRow(unit, f"U{unit}", "2609", "B", watts=watts, censored=at_least, attempt_id=attempt)


def test_each_month_from_the_first_is_a_period_the_latest_first() -> None:
    later = {1: [row(5, 51, 76.5, True), row(6, 61, 81.0)], 2: [row(5, 52, 306.0, True), row(6, 62, 311.0)]}
    days = {51: date(2026, 10, 5), 52: date(2026, 10, 6), 61: date(2026, 10, 31), 62: date(2026, 10, 31)}
    periods = audited(PLAN, RATINGS, later, days, TODAY)
    assert [(one.first, one.last) for one in periods] == [
        (date(2026, 11, 1), date(2026, 11, 30)),
        (date(2026, 10, 1), date(2026, 10, 31)),
        (date(2026, 9, 1), date(2026, 9, 30)),
    ]
    assert [one.state for one in periods] == [AuditState.OWING, AuditState.DONE, AuditState.LATE]
    assert [one.missing for one in periods] == [2, 0, 2] and periods[1].units == (5, 6)
    assert len(periods[1].found) == 4


def test_a_unit_counts_when_it_was_looked_at_at_every_rating() -> None:
    later = {1: [row(5, 51, 76.5, True)], 2: [row(6, 62, 311.0)]}
    (now, *_) = audited(PLAN, RATINGS, later, {51: TODAY, 62: TODAY}, TODAY)
    assert now.units == () and set(now.begun) == {5, 6} and now.missing == 2
    (only_main, *_) = audited(replace(PLAN, units=1), {1: MAIN}, later, {51: TODAY, 62: TODAY}, TODAY)
    assert only_main.units == (5,) and only_main.state is AuditState.DONE


@pytest.mark.parametrize(
    ("watts", "at_least", "state"),
    [(74.9, False, AuditState.SHORT), (75.0, False, AuditState.DONE), (74.0, True, AuditState.DONE)],
)
def test_a_unit_below_what_is_promised_is_the_gravest(watts: float, at_least: bool, state: AuditState) -> None:
    """What only had to hold a level below it says nothing against the promise."""
    (now, *_) = audited(replace(PLAN, units=1), {1: MAIN}, {1: [row(5, 51, watts, at_least)]}, {51: TODAY}, TODAY)
    assert now.state is state


def test_longer_periods_and_what_has_not_begun() -> None:
    quarters = audited(replace(PLAN, every_months=3), RATINGS, {}, {}, date(2027, 3, 1))
    assert [(one.first, one.last) for one in quarters] == [
        (date(2027, 3, 1), date(2027, 5, 31)),
        (date(2026, 12, 1), date(2027, 2, 28)),
        (date(2026, 9, 1), date(2026, 11, 30)),
    ]
    assert audited(PLAN, RATINGS, {}, {}, date(2026, 8, 31)) == ()
    assert audited(PLAN, {}, {}, {}, TODAY) == ()
    assert len(audited(PLAN, RATINGS, {}, {}, date(2031, 1, 1))) == SHOWN


@given(
    start=st.dates(date(2024, 1, 1), date(2028, 12, 31)),
    every=st.integers(1, 12),
    on=st.integers(0, 700),
)
def test_periods_follow_each_other_without_a_gap(start: date, every: int, on: int) -> None:
    today = start + timedelta(days=on)
    periods = audited(AuditPlanEntry(start, 1, every), {1: MAIN}, {}, {}, today)
    assert periods and periods[0].first <= today <= periods[0].last
    for later, earlier in pairwise(periods):
        assert earlier.last + timedelta(days=1) == later.first
    assert all(one.first.day == 1 for one in periods)


def test_a_plan_may_name_its_loads() -> None:
    assert asked_for(PLAN, RATINGS) == RATINGS
    assert asked_for(replace(PLAN, places=(AuditPlace("bass", 2.0),)), RATINGS) == {2: BASS}
    assert asked_for(replace(PLAN, places=(AuditPlace("bass", 4.0),)), RATINGS) == {}
    with pytest.raises(BadInput) as refused:
        refuse_far_off(AuditPlanEntry(date(2205, 1, 1)), TODAY)
    assert refused.value.field == "starts_on"


def test_proofs_hold_what_is_promised_and_a_little_more() -> None:
    banded = RatingTerms(RatedAt("main", 4.0, supply_volts=13.8, band_low_hz=20.0, band_high_hz=20_000.0), 75.0)
    burst = RatingTerms(RatedAt("main", 4.0, kind=ClaimKind.BURST), 90.0)
    runs = proof_runs([MAIN, BASS, banded, burst, MAIN], PRODUCT, MethodProfile())
    told = [(one.mode, one.group, one.tone_hz, one.supply_volts, one.watts) for one in runs]
    assert told == [
        (Mode.PROOF, "main", 1000.0, 14.4, 76.5),  # 75 W and 2 % of it
        (Mode.PROOF, "bass", 40.0, 14.4, 306.0),
        (Mode.PROOF, "main", 20.0, 13.8, 76.5),
        (Mode.PROOF, "main", 1000.0, 13.8, 76.5),
        (Mode.PROOF, "main", 20_000.0, 13.8, 76.5),
        (Mode.BURST, "main", 1000.0, 14.4, None),
    ]
