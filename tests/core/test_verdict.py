"""The truth table of verdicts that one unit's certified runs can give."""

import math
from dataclasses import replace
from datetime import UTC, datetime
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.electrical.supply import fit_voltage
from rulvek.core.judgement.checks import Leaning
from rulvek.core.judgement.claims import conflicts
from rulvek.core.judgement.evidence import Doubt, Evidence
from rulvek.core.judgement.uncertainty import Meters
from rulvek.core.judgement.verdict import Verdict, VerdictKind, VerdictOutcome, gravest, judge
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.instruments import Specification
from rulvek.core.runs.modes import End, Mode

METHOD = MethodProfile()
SIMPLE = MethodProfile(guarded=False)
CLAIM = Claim(
    *("Manual", "main", 100.0, 4.0),
    id=1,
    supply_volts=14.4,
    thd_n_percent=1.0,
)
BANDED = replace(CLAIM, band_low_hz=20.0, band_high_hz=20_000.0)
RUN = Evidence(
    attempt_id=7,
    group="main",
    load_ohms=4.0,
    bridged=False,
    tone_hz=1000.0,
    watts=(105.0, 104.0),
    supply_volts=14.38,
    all_driven=True,
    end=End.LIMIT,
    thd_n=0.0098,
    bracket_db=0.03,
    load_tolerance=0.01,
)
MIDDLE = (1 + 10 ** (0.03 / 10)) / 2
"""The estimate is the middle of the bracket."""
V = VerdictKind
TABLE = [
    # claim changes, evidence changes, guarded verdict, simple verdict
    ({}, {}, V.BACKED, V.BACKED),
    ({}, {"watts": (105.0, 100.0)}, V.TOO_CLOSE, V.BACKED),
    ({}, {"watts": (105.0, 99.2)}, V.TOO_CLOSE, V.SHORT),
    ({}, {"watts": (105.0, 95.0)}, V.SHORT, V.SHORT),
    # Volts: a pass at less is all the stronger, a shortfall there only allows an estimate.
    ({}, {"supply_volts": 13.0}, V.BACKED, V.BACKED),
    ({}, {"supply_volts": 13.0, "watts": (95.0,)}, V.ESTIMATED, V.ESTIMATED),
    ({}, {"supply_volts": 13.0, "watts": (60.0,)}, V.SHORT, V.SHORT),
    ({}, {"supply_volts": 14.49}, V.BACKED, V.BACKED),
    ({}, {"supply_volts": 14.8}, V.ABOVE_RATED_ONLY, V.ABOVE_RATED_ONLY),
    ({}, {"supply_volts": 14.8, "watts": (90.0,)}, V.SHORT, V.SHORT),
    ({}, {"supply_volts": 14.8, "watts": (100.2,)}, V.ESTIMATED, V.ABOVE_RATED_ONLY),
    # A claim without a voltage is judged at the reference.
    ({"supply_volts": None}, {}, V.BACKED, V.BACKED),
    ({"supply_volts": None}, {"supply_volts": 15.2}, V.ABOVE_RATED_ONLY, V.ABOVE_RATED_ONLY),
    # Conditions that do not match are no evidence.
    ({}, {"load_ohms": 2.0}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({}, {"group": "bass"}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({}, {"bridged": True}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({}, {"all_driven": False}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({"band_low_hz": 20.0, "band_high_hz": 200.0}, {}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({"thd_n_percent": 0.1}, {}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({"thd_n_percent": 0.1}, {"watts": (80.0,)}, V.SHORT, V.SHORT),
    ({"thd_n_percent": 10.0}, {}, V.BACKED, V.BACKED),
    ({"thd_n_percent": 10.0}, {"watts": (95.0,)}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    # Ends: what stopped short can back a claim, but not refute it; a trip can.
    ({}, {"end": End.OPERATOR, "thd_n": 0.002}, V.BACKED, V.BACKED),
    ({}, {"end": End.OPERATOR, "thd_n": 0.002, "watts": (80.0,)}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({}, {"end": End.LINK_LOST, "watts": (80.0,)}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    # A channel that was not at its own limit when another was gave at least that: it backs, and refutes nothing.
    ({}, {"channel_thd_n": (0.0098, 0.001)}, V.BACKED, V.BACKED),
    ({}, {"watts": (105.0, 95.0), "channel_thd_n": (0.0098, 0.001)}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({}, {"watts": (105.0, 95.0), "channel_thd_n": (0.0098, 0.006)}, V.SHORT, V.SHORT),
    ({}, {"watts": (96.0, 95.0), "channel_thd_n": (0.0098, 0.001)}, V.SHORT, V.SHORT),
    ({}, {"watts": (105.0, 95.0), "channel_thd_n": (0.0098, None)}, V.SHORT, V.SHORT),
    ({}, {"end": End.INPUT_EXHAUSTED, "watts": (80.0,)}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({}, {"end": End.PROTECTED, "thd_n": 0.001, "watts": (80.0,), "tripped_watts": 82.0}, V.SHORT, V.SHORT),
    # Kinds of figures that continuous power cannot speak to.
    ({"kind": ClaimKind.MAXIMUM}, {}, V.NO_EVIDENCE, V.NO_EVIDENCE),
    ({"kind": ClaimKind.BURST}, {"watts": (50.0,)}, V.NO_EVIDENCE, V.NO_EVIDENCE),
]


@pytest.mark.parametrize(("claim", "run", "guarded", "simple"), TABLE)
def test_table(claim: dict, run: dict, guarded: VerdictKind, simple: VerdictKind) -> None:  # type: ignore[type-arg]
    asked, evidence = replace(CLAIM, **claim), replace(RUN, **run)
    for method, expected in ((METHOD, guarded), (SIMPLE, simple)):
        verdict = judge(asked, [evidence], method)
        assert verdict.kind is expected, verdict.reason
        assert verdict.reason.endswith(".") and "\n" not in verdict.reason
        settled = verdict.kind in (V.BACKED, V.SHORT)
        assert settled or verdict.settle


def test_weakest_channel_decides_and_is_said() -> None:
    verdict = judge(CLAIM, [RUN], METHOD)
    assert verdict.watts == pytest.approx(104.0 * MIDDLE * (14.4 / 14.38) ** 1.15, rel=1e-4)
    assert "104.53 ±" in verdict.reason and "(104 W as read)" in verdict.reason and "weakest" in verdict.reason
    assert verdict.attempt_id == 7


def test_a_trip_is_told() -> None:
    tripped = replace(RUN, end=End.PROTECTED, watts=(80.0,), tripped_watts=82.0)
    assert "tripped at 82 W" in judge(CLAIM, [tripped], METHOD).reason


def test_the_latest_evidence_at_the_rated_voltage_counts() -> None:
    older, newer = replace(RUN, attempt_id=1, watts=(90.0,)), replace(RUN, attempt_id=2)
    lower = replace(RUN, attempt_id=3, supply_volts=12.5, watts=(70.0,))
    assert judge(CLAIM, [older, newer, lower], METHOD).attempt_id == 2


def test_estimates_carry_their_interval() -> None:
    """P · (14.4 / 12)^n from n = 0 to 2.3."""
    verdict = judge(CLAIM, [replace(RUN, supply_volts=12.0, watts=(80.0,))], METHOD)
    assert verdict.kind is V.ESTIMATED and verdict.interval == pytest.approx((80.0 * MIDDLE, 80.0 * MIDDLE * 1.2**2.3))


def test_conflicts_show_without_hiding_a_judgement() -> None:
    other = replace(CLAIM, id=2, document="Carton", watts=120.0, supply_volts=None)
    found = conflicts([CLAIM, other])
    assert found == {1: (2,), 2: (1,)}
    assert judge(CLAIM, [], METHOD, found[1]).kind is V.CONFLICTS
    judged = judge(CLAIM, [RUN], METHOD, found[1])
    assert judged.kind is V.BACKED and judged.conflicts_with == (2,)


@pytest.mark.parametrize(
    "change",
    [
        {"supply_volts": 12.5},
        {"thd_n_percent": 10.0},
        {"load_ohms": 2.0},
        {"bridged": True},
        {"kind": ClaimKind.MAXIMUM},
        {"watts": 100.2},
    ],
)
def test_conditions_that_set_claims_apart(change: dict) -> None:  # type: ignore[type-arg]
    other = replace(CLAIM, **{"id": 2, "watts": 120.0, **change})
    assert conflicts([CLAIM, other]) == {}


def test_unstated_are_named() -> None:
    bare = Claim("Carton", "main", 100.0, 4.0, id=3)
    assert bare.unstated == ("supply voltage", "THD+N limit", "band")
    assert BANDED.unstated == ()


def test_units_together_give_the_gravest_direct_verdict() -> None:
    assert gravest([V.BACKED, V.SHORT, V.NO_EVIDENCE]) is V.SHORT
    assert gravest([V.BACKED, V.ESTIMATED, V.NO_EVIDENCE]) is V.BACKED
    assert gravest([V.ESTIMATED, V.NO_EVIDENCE]) is V.ESTIMATED
    assert gravest([V.BACKED, V.ABOVE_RATED_ONLY]) is V.BACKED
    assert gravest([V.ESTIMATED, V.ABOVE_RATED_ONLY]) is V.ABOVE_RATED_ONLY
    assert gravest([]) is V.NO_EVIDENCE


def test_estimates_go_by_the_units_own_fit_where_it_is_known() -> None:
    """Runs that follow P = V² exactly: 100 W at 14.4 V are 69.4 W at 12 V, and the estimate has no spread left."""
    fit = fit_voltage([(v, 100.0 * (v / 14.4) ** 2) for v in (11.0, 12.0, 13.0)])
    low = replace(RUN, supply_volts=12.0, watts=(69.44,), fit=fit)
    verdict = judge(replace(CLAIM, watts=100.2), [low], METHOD)
    assert verdict.kind is V.ESTIMATED and verdict.interval == pytest.approx((100.0 * MIDDLE,) * 2, rel=1e-3)
    unknown = judge(replace(CLAIM, watts=100.2), [replace(low, fit=None)], METHOD)
    assert unknown.interval is not None and unknown.interval[1] - unknown.interval[0] > 30
    # A unit whose power hardly follows the volts is short where an unknown one might not be.
    flat = fit_voltage([(v, 69.44 * (v / 12.0) ** 0.1) for v in (11.0, 12.0, 13.0)])
    assert judge(CLAIM, [replace(low, fit=flat)], METHOD).kind is V.SHORT
    metered = replace(low, meters=Meters(supply=Specification("meter", percent_of_reading=0.5)))
    assert replace(metered, fit=flat).budget.expanded < replace(metered, fit=None).budget.expanded


def test_the_run_that_would_settle_it_goes_to_the_claims_own_limit() -> None:
    tenth = replace(CLAIM, thd_n_percent=0.1)
    assert judge(tenth, [RUN], METHOD).settle == (
        "A certified run to 0.1 % THD+N at 4 Ω and 14.4 V, all channels driven."
    )
    assert "THD+N" not in judge(CLAIM, [], METHOD).settle
    assert "THD+N" not in judge(replace(CLAIM, kind=ClaimKind.MAXIMUM, thd_n_percent=None), [], METHOD).settle


def at(day: int, **changes: object) -> Evidence:
    """A run of some day."""
    moment = datetime(2026, 3, day, tzinfo=UTC)
    return replace(RUN, **{"at": moment, "attempt_id": day, **changes})  # type: ignore[arg-type]


def test_over_tones_the_weakest_decides() -> None:
    bass, treble = at(1, tone_hz=20.0, watts=(95.0,)), at(2, tone_hz=20_000.0, watts=(104.0,))
    for order in ([bass, treble], [treble, bass], [at(3), bass, treble]):
        verdict = judge(CLAIM, order, METHOD)
        assert (verdict.kind, verdict.attempt_id) == (V.SHORT, 1)


def test_a_later_reading_replaces_an_earlier_one_at_the_same_conditions_only() -> None:
    earlier, later = at(1, watts=(95.0,)), at(2, watts=(104.0,))
    mended = judge(CLAIM, [later, earlier], METHOD)
    assert (mended.kind, mended.attempt_id) == (V.BACKED, 2)
    assert mended.doubts == ("It is not repeatable: at the same conditions it gave 95 W, and 104 W.",)
    elsewhere = judge(CLAIM, [at(1, tone_hz=40.0, watts=(95.0,)), later], METHOD)
    assert (elsewhere.kind, elsewhere.attempt_id, elsewhere.doubts) == (V.SHORT, 1, ())


def test_within_the_window_comes_before_other_volts_however_late_they_are() -> None:
    verdict = judge(CLAIM, [at(1), at(2, supply_volts=12.6, watts=(80.0,)), at(3, supply_volts=15.1)], METHOD)
    assert (verdict.kind, verdict.attempt_id) == (V.BACKED, 1)


@pytest.mark.parametrize(
    ("volts", "watts", "kind", "decides"),
    [
        (13.0, 60.0, V.SHORT, 1),  # short whatever the exponent is
        (15.1, 90.0, V.SHORT, 1),  # short even with more volts
        (13.0, 95.0, V.BACKED, 2),  # an estimate, which says less than what was read at the claim's volts
        (15.1, 104.0, V.BACKED, 2),
    ],
)
def test_a_tone_that_is_short_at_other_volts_is_not_hidden_by_another_tone(
    volts: float, watts: float, kind: VerdictKind, decides: int
) -> None:
    bass, other = at(1, tone_hz=20.0, watts=(watts,), supply_volts=volts), at(2, watts=(104.0,))
    for order in ([bass, other], [other, bass]):
        verdict = judge(CLAIM, order, METHOD)
        assert (verdict.kind, verdict.attempt_id) == (kind, decides)


@pytest.mark.parametrize(
    ("claimed", "driven", "kind"),
    [
        (95.0, None, V.NO_EVIDENCE),  # a channel by itself flatters the amplifier
        (110.0, None, V.SHORT),  # and is short all the same
        (95.0, 1, V.BACKED),
        (110.0, 1, V.SHORT),
        (95.0, 2, V.NO_EVIDENCE),
    ],
)
def test_a_channel_driven_by_itself(claimed: float, driven: int | None, kind: VerdictKind) -> None:
    single = at(1, watts=(104.0,), all_driven=False, channels_unread=1)
    verdict = judge(replace(CLAIM, watts=claimed, driven_channels=driven), [single], METHOD)
    assert verdict.kind is kind
    if kind is V.NO_EVIDENCE:
        assert "Not all channels were driven" in verdict.reason
        assert verdict.settle.endswith("2 channels driven." if driven else "all channels driven.")
    else:
        assert "from the one channel that was read" in verdict.reason
        assert "with not all channels driven" in verdict.reason


def test_channels_that_nobody_read_are_told() -> None:
    two = judge(CLAIM, [at(1, watts=(104.0, 105.0), channels_unread=2)], METHOD)
    assert "from the weakest of the 2 channels that were read" in two.reason
    assert "from the weakest channel at" in judge(CLAIM, [at(1, watts=(104.0, 105.0))], METHOD).reason


@given(
    watts=st.lists(st.tuples(st.floats(60.0, 140.0), st.sampled_from([40.0, 1000.0, 8000.0])), min_size=1, max_size=5),
    worse=st.floats(60.0, 140.0),
    order=st.randoms(),
)
def test_a_verdict_never_gets_better_by_a_worse_reading_and_knows_no_order(
    watts: list[tuple[float, float]], worse: float, order: Random
) -> None:
    readings = [at(1, attempt_id=n, watts=(w,), tone_hz=hz) for n, (w, hz) in enumerate(watts, 1)]
    first = judge(CLAIM, readings, METHOD)
    shuffled = list(readings)
    order.shuffle(shuffled)
    again = judge(CLAIM, shuffled, METHOD)
    assert (again.kind, again.watts) == (first.kind, first.watts)
    weakest = min(w for w, _ in watts)
    more = judge(CLAIM, [*readings, at(1, attempt_id=99, watts=(min(worse, weakest),))], METHOD)
    better = {V.SHORT: 0, V.TOO_CLOSE: 1, V.BACKED: 2}
    assert better[more.kind] <= better[first.kind]


@pytest.mark.parametrize(
    ("limit", "watts", "kind"), [(10.0, 105.0, V.BACKED), (10.0, 95.0, V.SHORT), (1.0, 105.0, V.NO_EVIDENCE)]
)
def test_the_claims_limit_decides_and_not_the_modes_name(limit: float, watts: float, kind: VerdictKind) -> None:
    clipped = replace(RUN, mode=Mode.UNCERTIFIED, end=End.CLIP, thd_n=0.099, watts=(watts,))
    assert judge(replace(CLAIM, thd_n_percent=limit), [clipped], METHOD).kind is kind


def test_bridged_pairs_speak_to_claims_per_channel() -> None:
    pairs = replace(RUN, bridged=True, load_ohms=8.0, watts=(212.0, 210.0), measured_ohms=7.95)
    verdict = judge(CLAIM, [pairs], METHOD)
    assert verdict.kind is V.BACKED and verdict.watts == pytest.approx(105.0, rel=0.01)
    assert "by bridged pairs, each the mean of two channels" in verdict.reason
    assert judge(CLAIM, [replace(pairs, load_ohms=4.0, measured_ohms=4.0)], METHOD).kind is V.NO_EVIDENCE
    strict = replace(METHOD, pairs_back_channels=False)
    assert judge(CLAIM, [pairs], strict).kind is V.NO_EVIDENCE


@pytest.mark.parametrize(("ohms", "speaks"), [(4.39, True), (4.41, False), (3.61, True), (3.59, False)])
def test_another_load_is_another_load(ohms: float, speaks: bool) -> None:
    verdict = judge(CLAIM, [replace(RUN, measured_ohms=ohms)], METHOD)
    assert (verdict.kind is not V.NO_EVIDENCE) == speaks
    assert speaks or "another load" in verdict.reason


def test_a_certified_reading_whose_distortion_was_not_read_was_at_the_limit() -> None:
    unread = replace(RUN, thd_n=math.inf)
    backed, short = judge(CLAIM, [unread], METHOD), judge(CLAIM, [replace(unread, watts=(95.0,))], METHOD)
    assert (backed.kind, short.kind) == (V.BACKED, V.SHORT)
    assert "THD+N not read, taken as at the limit" in backed.reason
    stopped = replace(unread, end=End.OPERATOR)
    assert judge(CLAIM, [stopped], METHOD).kind is V.NO_EVIDENCE


def test_above_the_claims_volts_a_verdict_says_which_way_it_goes() -> None:
    def above(watts: float) -> Verdict:
        return judge(CLAIM, [replace(RUN, supply_volts=14.8, watts=(watts,))], METHOD)

    # (14.4 / 14.8)^2.3 = 0.939
    assert [above(w).outcome for w in (115.0, 103.0, 90.0)] == [
        VerdictOutcome.PASSES,
        VerdictOutcome.OPEN,
        VerdictOutcome.FAILS,
    ]
    assert [bool(above(w).settle) for w in (115.0, 103.0, 90.0)] == [False, True, False]


def test_a_claim_without_volts_is_never_said_to_have_some() -> None:
    verdict = judge(replace(CLAIM, supply_volts=None), [replace(RUN, supply_volts=15.2)], METHOD)
    assert "V of the claim" not in verdict.reason and "the claim states none" in verdict.reason


@pytest.mark.parametrize(
    ("leans", "backed", "short", "close"),
    [
        (Leaning.HIGH, True, False, True),
        (Leaning.LOW, False, True, True),
        (Leaning.EITHER, True, True, True),
        (Leaning.NEITHER, False, False, False),
    ],
)
def test_only_a_doubt_that_could_change_a_verdict_shows_on_it(
    leans: Leaning, backed: bool, short: bool, close: bool
) -> None:
    doubted = replace(RUN, doubts=(Doubt("Something is odd.", leans),))
    for watts, shows in ((105.0, backed), (95.0, short), (100.2, close)):
        assert bool(judge(CLAIM, [replace(doubted, watts=(watts,))], METHOD).doubts) == shows


def test_volts_that_nobody_read_cost_what_they_must() -> None:
    """Held at 14.4 V, they were between 13.6 and 14.5 V: (14.4 / 13.6)^2.3 = 1.140, (14.4 / 14.5)^2.3 = 0.984."""
    unread = replace(RUN, supply_volts=13.6, volts_between=(13.6, 14.5))
    verdicts = [judge(CLAIM, [replace(unread, watts=(w,))], METHOD) for w in (104.0, 95.0, 85.0)]
    assert [v.kind for v in verdicts] == [V.BACKED, V.ESTIMATED, V.SHORT]
    assert [v.outcome for v in verdicts] == [VerdictOutcome.PASSES, VerdictOutcome.OPEN, VerdictOutcome.FAILS]
    assert verdicts[1].interval == pytest.approx((95 * 0.984 * MIDDLE, 95 * 1.140 * MIDDLE), rel=1e-3)
    assert "loaded volts not read" in verdicts[1].reason
    assert judge(CLAIM, [unread, replace(RUN, watts=(95.0,))], METHOD).kind is V.SHORT  # read ones come first


def test_a_doubt_of_known_size_shows_where_it_could_change_the_verdict() -> None:
    low = Doubt("The other channels were driven low.", Leaning.HIGH, 0.03)
    for watts, shows in ((110.0, False), (102.0, True), (90.0, False)):
        verdict = judge(CLAIM, [replace(RUN, watts=(watts,), doubts=(low,))], METHOD)
        assert bool(verdict.doubts) is shows, watts


def held(hz: float, watts: float = 102.0, **more: object) -> Evidence:
    """A proof run that held what is claimed and a little more."""
    return replace(RUN, attempt_id=int(hz), mode=Mode.PROOF, end=End.HELD, tone_hz=hz, watts=(watts,), **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("shown", "kind", "left"),
    [
        ([], V.ONE_TONE, (20.0, 20_000.0)),
        ([held(20.0)], V.ONE_TONE, (20_000.0,)),
        ([held(20.0), held(20_000.0)], V.BACKED, ()),
        ([held(25.0), held(16_000.0)], V.BACKED, ()),  # a third of an octave away
        ([held(26.0), held(20_000.0)], V.ONE_TONE, (20.0,)),
        ([held(20.0, 100.2), held(20_000.0)], V.ONE_TONE, (20.0,)),  # it did not hold enough
        ([held(20.0, supply_volts=14.8), held(20_000.0)], V.ONE_TONE, (20.0,)),
        ([held(20.0), held(20_000.0, group="bass")], V.ONE_TONE, (20_000.0,)),
        ([held(20.0), replace(RUN, attempt_id=9, tone_hz=18_000.0, watts=(104.5,))], V.BACKED, ()),
        # A proof that failed is a reading at the unit's own limit: over tones the weakest decides.
        ([held(20.0), replace(held(20_000.0, 81.0), end=End.LIMIT)], V.SHORT, ()),
        ([held(20.0), replace(held(20_000.0, 81.0), end=End.PROTECTED)], V.SHORT, ()),
    ],
)
def test_a_figure_over_a_band_is_backed_at_its_edges(
    shown: list[Evidence], kind: VerdictKind, left: tuple[float, ...]
) -> None:
    verdict = judge(BANDED, [RUN, *shown], METHOD)
    assert (verdict.kind, verdict.tones_left) == (kind, left)
    rests_on = min((e for e in [RUN, *shown] if e.end is not End.HELD), key=lambda e: e.weakest)
    assert verdict.attempt_id == rests_on.attempt_id
    if kind is V.ONE_TONE:
        assert verdict.outcome is VerdictOutcome.OPEN
        for hz in left:
            assert f"{hz / 1000:g} kHz" in verdict.settle if hz >= 1000 else f"{hz:g} Hz" in verdict.settle
        assert "102 W" in verdict.settle and "1 kHz" in verdict.reason


def test_proofs_alone_back_what_they_hold_and_never_refute() -> None:
    both = [held(20.0), held(20_000.0)]
    assert judge(BANDED, both, METHOD).kind is V.BACKED
    less = judge(BANDED, [replace(one, watts=(95.0,)) for one in both], METHOD)
    assert less.kind is V.NO_EVIDENCE and "held what is claimed" in less.reason


def test_bands_set_documents_apart() -> None:
    other = replace(BANDED, id=2, watts=120.0)
    assert conflicts([BANDED, other]) and not conflicts([BANDED, replace(other, band_low_hz=100.0)])
    assert conflicts([BANDED, replace(other, band_low_hz=None, band_high_hz=None)])


RANGE = replace(CLAIM, supply_volts=11.5, supply_high_volts=16.0)


@pytest.mark.parametrize(
    ("readings", "kind", "outcome"),
    [
        ([(11.5, 104.0)], V.BACKED, VerdictOutcome.PASSES),
        ([(11.5, 96.0)], V.SHORT, VerdictOutcome.FAILS),
        ([(14.4, 125.0)], V.ABOVE_RATED_ONLY, VerdictOutcome.OPEN),  # at 11.5 V it may give 75 W
        ([(14.4, 180.0)], V.ABOVE_RATED_ONLY, VerdictOutcome.PASSES),  # and at the least 107 W: 180 · (11.5/14.4)^2.3
        ([(14.4, 96.0)], V.SHORT, VerdictOutcome.FAILS),
        ([(11.5, 104.0), (16.0, 96.0)], V.SHORT, VerdictOutcome.FAILS),  # hot, or regulated: worst at the upper end
        ([(11.5, 104.0), (16.5, 96.0)], V.BACKED, VerdictOutcome.PASSES),  # beyond the range
        ([(11.5, 104.0), (16.0, 110.0)], V.BACKED, VerdictOutcome.PASSES),
    ],
)
def test_a_range_of_volts_is_judged_where_it_is_worst(
    readings: list[tuple[float, float]], kind: VerdictKind, outcome: VerdictOutcome
) -> None:
    shown = [replace(RUN, attempt_id=n, supply_volts=v, watts=(w,)) for n, (v, w) in enumerate(readings)]
    verdict = judge(RANGE, shown, METHOD)
    assert (verdict.kind, verdict.outcome) == (kind, outcome)
    assert conflicts([RANGE, replace(RANGE, id=2, watts=120.0)])
    assert not conflicts([RANGE, replace(RANGE, id=2, watts=120.0, supply_high_volts=14.4)])


def test_a_total_is_judged_by_each_channels_share() -> None:
    total = replace(CLAIM, watts=400.0, total_of=4)
    assert judge(total, [RUN], METHOD).kind is V.BACKED and "(400 W in all)" in judge(total, [RUN], METHOD).reason
    assert judge(replace(total, watts=480.0), [RUN], METHOD).kind is V.SHORT
    assert not conflicts([total, replace(CLAIM, id=2)])  # 400 W of four are 100 W each


def test_a_claim_for_fewer_driven_channels_is_backed_by_all_and_not_refuted() -> None:
    two = replace(CLAIM, driven_channels=1)
    assert judge(two, [RUN], METHOD).kind is V.BACKED
    short = judge(two, [replace(RUN, watts=(90.0, 90.0))], METHOD)
    assert short.kind is V.NO_EVIDENCE and "claim is for 1" in short.reason
    assert judge(replace(two, driven_channels=2), [replace(RUN, watts=(90.0, 90.0))], METHOD).kind is V.SHORT


def test_linked_units_and_loads_that_nobody_stated() -> None:
    linked = judge(replace(CLAIM, linked=True), [RUN], METHOD)
    assert linked.kind is V.NO_EVIDENCE and linked.settle and linked.outcome is VerdictOutcome.OPEN
    bare = replace(CLAIM, load_stated=False)
    assert bare.unstated == ("load", "band") and "no load stated; judged at 4 Ω" in judge(bare, [RUN], METHOD).reason


def test_one_tone_is_a_band_of_its_own() -> None:
    tone = replace(CLAIM, band_low_hz=1000.0, band_high_hz=1000.0)
    assert judge(tone, [RUN], METHOD).kind is V.BACKED
    assert judge(tone, [replace(RUN, tone_hz=40.0)], METHOD).kind is V.NO_EVIDENCE


@pytest.mark.parametrize(("claimed", "asks"), [(185.0, True), (205.0, True), (160.0, False), (230.0, False)])
def test_a_continuous_figure_that_looks_like_a_maximum_is_asked_about(claimed: float, asks: bool) -> None:
    """1.75 to 2.1 times the continuous power (common practice, no source); a person decides, the verdict stays."""
    verdict = judge(replace(CLAIM, watts=claimed), [RUN], METHOD)
    assert verdict.kind is V.SHORT and ("is it one of those?" in verdict.reason) is asks


def test_a_maximum_is_estimated_by_the_exponent_of_the_largest() -> None:
    """Onsets go with the square of the volts here, the largest with their root: 200 · √(13/14.4) = 190 W."""
    bursts = [
        replace(
            RUN,
            attempt_id=n,
            mode=Mode.BURST,
            supply_volts=v,
            watts=(100 * (v / 14.4) ** 2,),
            largest_watts=200 * (v / 14.4) ** 0.5,
        )
        for n, v in enumerate((14.1, 14.8, 15.4))
    ]
    claim = replace(CLAIM, kind=ClaimKind.MAXIMUM, thd_n_percent=None, supply_volts=13.0, watts=194.0)
    verdict = judge(claim, bursts, METHOD)
    assert verdict.interval is not None
    middle = math.sqrt(math.prod(verdict.interval))
    assert middle == pytest.approx(200 * (13.0 / 14.4) ** 0.5, rel=5e-3)
    assert verdict.interval[0] > 200 * (13.0 / 14.4) ** 1.5
