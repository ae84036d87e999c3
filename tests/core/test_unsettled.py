"""What unsettles a rating: each cause by itself, what settles it, and what nobody can confirm away."""

import itertools
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput, Conflict
from rulvek.core.ratings.basis import (
    Basis,
    LeftOut,
    RatingTerms,
    SampledReading,
    changed_figures,
    promise_of,
    refuse_unborne,
    refuse_unfit_terms,
    worked_out,
)
from rulvek.core.ratings.changes import changes
from rulvek.core.ratings.life import Life, Step, StepKind, life_of
from rulvek.core.ratings.printed import Says, covers, is_at, printed_beside, same_conditions
from rulvek.core.ratings.sample import RatedAt, SampleRow
from rulvek.core.ratings.texts import wording
from rulvek.core.ratings.unsettled import (
    Cause,
    OutOfTolerance,
    Today,
    Unsettling,
    individuals,
    lots_since,
    unsettled,
    valid_until,
)
from rulvek.core.records.claims import Claim, ClaimKind, Withdrawal
from rulvek.core.records.product import ChannelGroup
from tests.examples import examples

AT = RatedAt("main", 4.0)
TERMS = RatingTerms(AT, 100.0)
WATTS = (104.1, 106.3, 103.0, 105.2, 107.4, 104.8, 105.9, 103.7, 106.6, 105.0)
SIGNED_AT = datetime(2026, 3, 31, 9, tzinfo=UTC)
DAY = date(2026, 6, 1)
METER = "Recorder R-1"


def unit(number: int, watts: float | None, revision: str = "A", **more: Any) -> SampleRow:
    return SampleRow(number, f"U{number}", "2601", revision, watts=watts, attempt_id=100 + number, **more)


ROWS = tuple(unit(at, one) for at, one in enumerate(WATTS, 1))


def frozen(terms: RatingTerms = TERMS, rows: tuple[SampleRow, ...] = ROWS) -> Basis:
    readings = tuple(
        SampledReading(row.attempt_id or 0, "Pell", SIGNED_AT - timedelta(days=40 - row.unit_id), (METER,))
        for row in rows
        if row.counts
    )
    bound = worked_out(rows, promise_of(terms, rows, 5.0))
    return Basis("Tern 2", terms, rows, readings, ("A",), 14.4, 5.0, {}, "0.1", bound)


BASIS = frozen()


def published(*confirmed: Step) -> Life:
    kinds = ((StepKind.DRAFTED, "Ilse"), (StepKind.PROPOSED, "Ilse"), (StepKind.SIGNED, "Maren"))
    steps = [Step(n, kind, by, SIGNED_AT) for n, (kind, by) in enumerate(kinds, 1)]
    return life_of([*steps, Step(4, StepKind.PUBLISHED, "Jory", SIGNED_AT), *confirmed])


def confirmation(*keys: str, at: datetime = SIGNED_AT) -> Step:
    return Step(5, StepKind.CONFIRMED, "Maren", at, "Looked at.", settles=keys)


def found(today: Today, life: Life | None = None, basis: Basis = BASIS) -> list[Unsettling]:
    return list(unsettled(basis, life or published(), today))


TODAY = Today(DAY, ROWS, revisions=("A",))


def test_nothing_new_unsettles_nothing() -> None:
    assert found(TODAY) == []


CAUSES: dict[Cause, tuple[Today, str]] = {
    Cause.READING: (
        replace(TODAY, withdrawn={103: "The probe was loose."}),
        "The reading of unit U3 was withdrawn: The probe was loose.",
    ),
    Cause.CALIBRATION: (
        replace(TODAY, out_of_tolerance=(OutOfTolerance(METER, date(2026, 3, 1), date(2026, 5, 2)),)),
        "was found out of tolerance on 2026-05-02: 1 of 10 readings",
    ),
    Cause.UNIT_BELOW: (replace(TODAY, rows=(*ROWS, unit(11, 99.2))), "Unit U11 gives 99.2 W, less than the 100 W"),
    Cause.DRIFT: (
        replace(TODAY, rows=(*ROWS, *(unit(20 + at, 104.5) for at in range(8)))),
        "Production drifts down: eight in a row on one side at unit U27",
    ),
    Cause.REVISION: (replace(TODAY, revisions=("A", "B")), "Revision B is not covered"),
    Cause.METHOD: (
        replace(TODAY, rows=(replace(ROWS[0], watts=103.9), *ROWS[1:])),
        "Unit U1 comes to 103.9 W by today's method, not to 104.1 W.",
    ),
    Cause.VALIDITY: (replace(TODAY, day=date(2028, 4, 1)), "It was valid until 2028-03-31."),
}


def test_every_cause_has_its_example() -> None:
    assert set(CAUSES) == set(Cause)


@pytest.mark.parametrize("cause", Cause)
def test_a_cause_says_what_changed_and_what_would_settle_it(cause: Cause) -> None:
    today, words = CAUSES[cause]
    one, *more = found(today)
    # A unit so far below the others is off the chart as well.
    assert [other.cause for other in more] == ([Cause.DRIFT] if cause is Cause.UNIT_BELOW else [])
    assert one.cause is cause and words in one.what and one.settle.endswith(".")


def read_again(*watts: float) -> Today:
    """The first units' waveforms were read once more, and somebody adopted what they come to."""
    again = [
        replace(row, watts=one, attempt_id=300 + row.unit_id, read_again=True)
        for row, one in zip(ROWS, watts, strict=False)
    ]
    return replace(TODAY, rows=(*again, *ROWS[len(again) :]))


def test_another_method_that_comes_to_the_same_watts_is_confirmed_with_one_word() -> None:
    (one,) = found(read_again(WATTS[0] * (1 + 1e-7), WATTS[1]))
    assert one.cause is Cause.METHOD and one.confirmable and one.key == "method:302"
    assert "2 units were read again by another method, and come to the same watts." in one.what
    assert "enough for the 100 W that are promised" in one.what
    assert found(read_again(WATTS[0] * (1 + 1e-7), WATTS[1]), published(confirmation(one.key))) == []


def test_another_method_under_which_the_figure_is_not_borne_takes_a_new_proposal() -> None:
    (one,) = found(read_again(WATTS[0], 98.0))
    assert one.cause is Cause.METHOD and not one.confirmable
    assert "2 units were read again by another method: U2 comes to 98 W, not to 106.3 W." in one.what
    assert "less than the 100 W that are promised" in one.what and one.settle == "Propose anew with it."
    assert found(read_again(WATTS[0], 98.0), published(confirmation(one.key))) == [one]


@pytest.mark.parametrize("cause", Cause)
def test_what_a_reviewer_looked_at_is_settled_unless_it_takes_a_new_proposal(cause: Cause) -> None:
    today, _ = CAUSES[cause]
    one, *more = found(today)
    at = datetime(2028, 4, 1, tzinfo=UTC) if cause is Cause.VALIDITY else SIGNED_AT
    after = found(today, published(confirmation(one.key, at=at)))
    assert (after == more) == one.confirmable
    assert one.confirmable == (cause in (Cause.CALIBRATION, Cause.UNIT_BELOW, Cause.DRIFT, Cause.VALIDITY))


@examples(100)
@given(
    st.sets(st.sampled_from([row.attempt_id or 0 for row in ROWS]), min_size=1),
    st.lists(st.sampled_from([one.key for today, _ in CAUSES.values() for one in found(today)]), max_size=9),
    st.sampled_from([today for today, _ in CAUSES.values()]),
)
def test_withdrawing_a_reading_always_unsettles_what_rests_on_it(
    gone: set[int], confirmed: list[str], today: Today
) -> None:
    """Whatever else came about, and whatever somebody confirmed."""
    life = published(confirmation(*confirmed, *(f"reading:{one}" for one in gone)))
    against = found(replace(today, withdrawn=dict.fromkeys(gone, "Wrong.")), life)
    assert {f"reading:{one}" for one in gone} <= {one.key for one in against if one.cause is Cause.READING}


def test_a_unit_that_does_not_count_any_more_and_one_that_was_read_again() -> None:
    returned = replace(ROWS[1], left_out="It was returned.")
    again = replace(ROWS[2], attempt_id=900, watts=101.0)
    kinds = found(replace(TODAY, rows=(ROWS[0], returned, again, *ROWS[3:])))
    assert [one.cause for one in kinds] == [Cause.READING, Cause.READING]
    assert "does not count any more. It was returned." in kinds[0].what
    assert "Another reading of unit U3 stands now, of 101 W; the rating has 103 W." in kinds[1].what
    (gone,) = found(replace(TODAY, rows=ROWS[1:]))
    assert "It is not on record." in gone.what


def test_calibrations_touch_what_was_read_since_the_one_before_and_by_that_instrument() -> None:
    """Readings were taken on days 2026-02-20 (U1) to 2026-03-01 (U10)."""

    def out(since: date | None, until: date, name: str = METER) -> list[Unsettling]:
        return found(replace(TODAY, out_of_tolerance=(OutOfTolerance(name, since, until),)))

    assert "10 of 10" in out(None, DAY)[0].what
    assert "2 of 10" in out(None, date(2026, 2, 21))[0].what
    assert out(date(2026, 3, 2), DAY) == [] and out(None, date(2026, 2, 19)) == []
    assert out(None, DAY, "Another recorder") == []


def test_units_that_were_in_the_sample_or_only_at_least_do_not_count_as_below() -> None:
    low = frozen(replace(TERMS, watts=104.0))
    assert low.bound.bound_watts is not None and low.bound.bound_watts < 104.0  # nobody would propose it
    assert unsettled(low, published(), TODAY) == ()
    assert found(replace(TODAY, rows=(*ROWS, unit(11, 90.0, censored=True)))) == []
    assert found(replace(TODAY, rows=(*ROWS, unit(11, 90.0, left_out="It was refurbished.")))) == []


def test_the_chart_has_the_sample_and_what_came_since_and_one_drift_is_told_once() -> None:
    rows = (*ROWS, unit(30, None), unit(31, 104.0, censored=True), *(unit(20 + at, 99.0 - at) for at in range(3)))
    chart = individuals(BASIS, replace(TODAY, rows=rows))
    assert chart is not None and [one.row.serial for one in chart.points[10:]] == ["U20", "U21", "U22"]
    assert [one.since for one in chart.points] == [False] * 10 + [True] * 3
    assert all((one.signal is not None) == one.since for one in chart.points)
    drifts = [one for one in found(replace(TODAY, rows=rows)) if one.cause is Cause.DRIFT]
    assert [one.key for one in drifts] == ["drift:122"] and "at unit U20, and 2 more since" in drifts[0].what
    again = found(replace(TODAY, rows=(*rows, unit(23, 98.0))), published(confirmation("drift:122")))
    assert "drift:123" in {one.key for one in again}


def test_how_the_audit_is_planned_decides_by_which_rules_units_and_lots_are_looked_at() -> None:
    low = [unit(20 + at, 103.9) for at in range(9)]  # within three sigma, and nine in a row below the mean
    today = replace(TODAY, rows=(*ROWS, *low))
    assert any(one.cause is Cause.DRIFT for one in found(today))
    assert not any(one.cause is Cause.DRIFT for one in found(replace(today, runs=False)))
    lot = [replace(unit(30 + at, watts), lot="2610") for at, watts in enumerate((100.6, 101.0, 103.0))]
    usual, strict = (
        lots_since(BASIS, replace(TODAY, rows=(*ROWS, *lot), good_lot_percent=percent))[0].found
        for percent in (95.0, 60.0)
    )
    assert usual is not None and strict is not None and usual.quality == strict.quality
    assert usual.accepted and not strict.accepted


def test_the_chart_says_how_far_each_unit_is_from_the_one_before() -> None:
    chart = individuals(BASIS, replace(TODAY, rows=(*ROWS, unit(20, 97.0))))
    assert chart is not None
    watts = [one.watts for one in chart.points]
    assert [one.moved for one in chart.points] == [None, *(abs(b - a) for a, b in itertools.pairwise(watts))]
    assert chart.points[-1].moved is not None and chart.points[-1].moved > chart.limits.highest_range


def test_lots_that_came_since_are_accepted_by_variables_or_not() -> None:
    """(mean − 100 W)/spread against k of n units at 95 %: three units of 104, 105 and 106 W are, of 99 to 101 W not."""
    good = [replace(unit(20 + at, 104.0 + at), lot="2610") for at in range(3)]
    short = [replace(unit(30 + at, 99.0 + at), lot="2611") for at in range(3)]
    few = [replace(unit(40, 104.0), lot="2612")]
    lots = lots_since(BASIS, replace(TODAY, rows=(*ROWS, *good, *short, *few)))
    assert [(one.lot, one.units, one.found and one.found.accepted) for one in lots] == [
        *(("2610", 3, True), ("2611", 3, False), ("2612", 1, None))
    ]
    assert lots[1].found is not None and lots[1].found.quality == pytest.approx(0.0)
    assert lots_since(BASIS, TODAY) == ()


def test_drift_upwards_and_few_units_unsettle_nothing() -> None:
    assert found(replace(TODAY, rows=(*ROWS, *(unit(20 + at, 106.5) for at in range(12))))) == []
    few = frozen(replace(TERMS, watts=90.0), ROWS[:5])
    later = tuple(unit(20 + at, 101.0) for at in range(9))
    assert unsettled(few, published(), replace(TODAY, rows=(*ROWS[:5], *later))) == ()


def test_revisions_that_are_named_are_all_that_is_covered() -> None:
    named = frozen(replace(TERMS, at=replace(AT, revisions=("a",))))
    assert unsettled(named, published(), TODAY) == ()
    (one,) = unsettled(named, published(), replace(TODAY, revisions=("A", "B")))
    assert one.key == "revision:B"


def test_the_same_sample_that_bears_another_figure_by_todays_rules() -> None:
    other = replace(BASIS, bound=replace(BASIS.bound, bound_watts=100.7))
    (one,) = unsettled(other, published(), TODAY)
    assert one.cause is Cause.METHOD and "another figure" in one.what
    assert changed_figures(other) == ("bound_watts",) and changed_figures(BASIS) == ()


@pytest.mark.parametrize(
    ("signed", "months", "until"),
    [
        (datetime(2026, 3, 31, tzinfo=UTC), 24, date(2028, 3, 31)),
        (datetime(2026, 8, 31, tzinfo=UTC), 6, date(2027, 2, 28)),
        (datetime(2027, 8, 31, tzinfo=UTC), 6, date(2028, 2, 29)),
        (datetime(2026, 12, 15, tzinfo=UTC), 1, date(2027, 1, 15)),
    ],
)
def test_validity_ends_on_the_same_day_of_a_month_or_on_its_last(signed: datetime, months: int, until: date) -> None:
    steps = [replace(one, at=signed) for one in published().steps]
    assert valid_until(frozen(replace(TERMS, valid_months=months)), life_of(steps)) == until


def test_a_rating_that_is_over_or_a_draft_is_not_unsettled() -> None:
    today = CAUSES[Cause.READING][0]
    ended = life_of([*published().steps, Step(5, StepKind.WITHDRAWN, "Jory", SIGNED_AT, "why")])
    assert unsettled(BASIS, ended, today) == ()
    assert unsettled(BASIS, life_of(published().steps[:1]), today) == ()
    proposed = life_of(published().steps[:2])
    assert len(unsettled(BASIS, proposed, today)) == 1 and valid_until(BASIS, proposed) is None


def test_more_than_the_units_bear_is_refused_to_the_watt() -> None:
    """x̄ − k·s of these ten by the factor 2.911 that tables print for n = 10, 95 %, 95 %: 101.2 W."""
    promise = BASIS.promise
    refuse_unborne(101.19, BASIS.bound, promise)
    with pytest.raises(Conflict, match=r"bear 101\.19 W: 101\.2 W cannot be proposed"):
        refuse_unborne(101.2, BASIS.bound, promise)
    one = frozen(rows=ROWS[:1])
    with pytest.raises(Conflict, match="bear no figure"):
        refuse_unborne(1.0, one.bound, one.promise)


def test_terms_are_held_to_their_bounds() -> None:
    for left, field in (
        ((LeftOut(1, " "),), "left_out.0.reason"),
        ((LeftOut(1, "loud"), LeftOut(1, "hot")), "left_out.1.unit_id"),
    ):
        with pytest.raises(BadInput) as refused:
            refuse_unfit_terms(replace(TERMS, left_out=left))
        assert refused.value.field == field
    with pytest.raises(BadInput) as refused:
        refuse_unfit_terms(replace(TERMS, valid_months=0))
    assert refused.value.field == "valid_months"


def test_the_signer_sees_what_is_other_than_last_time() -> None:
    rows = (replace(ROWS[0], left_out="Its fan rattles."), replace(ROWS[1], attempt_id=900, watts=106.0), *ROWS[2:])
    terms = replace(TERMS, watts=95.0, confidence=0.9, valid_months=12, at=replace(AT, revisions=("A",)))
    told = changes(BASIS, frozen(terms, (*rows, unit(11, 104.0))))
    assert told[0] == "The figure is 95 W, not 100 W."
    assert "The confidence is 90 %, not 95 %." in told and "It is valid for 12 months, not for 24." in told
    assert "It covers revisions: A." in told and "Units that came in: U11." in told
    assert "Unit U1 does not count any more: Its fan rattles." in told
    assert "Unit U2 counts with another reading, 106 W, not 106.3 W." in told
    assert changes(BASIS, BASIS) == ()


def claim(watts: float, **more: Any) -> Claim:
    return Claim(**{"document": "Manual", "group": "main", "watts": watts, "load_ohms": 4.0, "id": 1} | more)


def test_documents_beside_a_rating() -> None:
    gone = Withdrawal("It was a misprint.", "Ilse", SIGNED_AT)
    claims = [
        claim(100.0, id=1),
        claim(100.0, id=2, withdrawn=gone),
        claim(240.0, id=3, total_of=2),
        claim(90.0, id=4, thd_n_percent=1.0, supply_volts=14.4),
        claim(100.0, id=5, thd_n_percent=10.0),
        claim(100.0, id=6, supply_volts=12.6),
        claim(100.0, id=7, load_ohms=2.0),
        claim(100.0, id=8, kind=ClaimKind.BURST),
    ]
    told = [(one.claim.id, one.says) for one in printed_beside(TERMS, claims, 14.4)]
    assert told == [(3, Says.MORE), (1, Says.SAME), (4, Says.LESS)]
    assert not is_at(claim(100.0, bridged=True), AT, 14.4)


def test_conditions_that_are_the_same_and_revisions_that_are_covered() -> None:
    assert same_conditions(AT, replace(AT, supply_volts=14.4, revisions=("B",)), 14.4)
    for other in (
        replace(AT, supply_volts=12.6),
        replace(AT, load_ohms=2.0),
        replace(AT, kind=ClaimKind.BURST),
        replace(AT, band_low_hz=20.0, band_high_hz=20_000.0),
    ):
        assert not same_conditions(AT, other, 14.4)
    of_a, of_ab = (replace(AT, revisions=names) for names in (("A",), ("a", "B")))
    assert covers(AT, of_a) and covers(of_ab, of_a) and not covers(of_a, of_ab) and not covers(of_a, AT)


def test_the_wording_has_all_that_a_reader_needs() -> None:
    group = ChannelGroup("main", (1, 2, 3, 4), (4.0,), (4.0,))
    banded = replace(AT, bridged=True, band_low_hz=20.0, band_high_hz=20_000.0, supply_volts=13.8)
    assert wording(replace(TERMS, at=banded), group, 14.4) == (
        "100 W × 2 continuous into 4 Ω bridged at 13.8 V, 1 % THD+N, 20 Hz to 20 kHz, all channels driven"
    )
    burst = replace(AT, kind=ClaimKind.BURST, thd_n_percent=None, band_low_hz=40.0, band_high_hz=40.0)
    assert wording(replace(TERMS, at=burst), group, 14.4) == (
        "100 W × 4 burst into 4 Ω at 14.4 V, at 40 Hz, all channels driven"
    )
