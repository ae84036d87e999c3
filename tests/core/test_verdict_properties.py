"""What must hold of every verdict, whatever the figures."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.judgement.claims import conflicts
from rulvek.core.judgement.verdict import VerdictKind, gravest, judge
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim
from tests.core.test_verdict import CLAIM, METHOD, RUN

WATTS = st.floats(1.0, 3000.0)
VOLTS = st.floats(11.0, 16.0)
RANK = {kind: rank for rank, kind in enumerate((VerdictKind.SHORT, VerdictKind.TOO_CLOSE, VerdictKind.BACKED))}


@given(watts=WATTS, more=st.floats(0.0, 500.0))
def test_more_watts_never_make_it_worse(watts: float, more: float) -> None:
    lower, higher = (judge(CLAIM, [replace(RUN, watts=(w,))], METHOD).kind for w in (watts, watts + more))
    assert RANK[higher] >= RANK[lower]


@given(watts=WATTS, claimed=WATTS)
def test_backed_and_short_are_clear_of_the_uncertainty(watts: float, claimed: float) -> None:
    verdict = judge(replace(CLAIM, watts=claimed), [replace(RUN, watts=(watts,))], METHOD)
    assert verdict.watts == pytest.approx(watts, rel=6e-3) and verdict.expanded_watts is not None
    distance = verdict.watts - claimed
    expected = {
        VerdictKind.BACKED: distance >= verdict.expanded_watts,
        VerdictKind.SHORT: distance < -verdict.expanded_watts,
        VerdictKind.TOO_CLOSE: -verdict.expanded_watts <= distance < verdict.expanded_watts,
    }
    assert expected[verdict.kind]


@given(watts=st.lists(WATTS, min_size=1, max_size=5))
def test_the_order_and_number_of_stronger_channels_do_not_matter(watts: list[float]) -> None:
    weakest = judge(CLAIM, [replace(RUN, watts=(min(watts),))], METHOD)
    together = judge(CLAIM, [replace(RUN, watts=tuple(watts))], METHOD)
    assert (together.kind, together.watts, together.expanded_watts) == (
        weakest.kind,
        weakest.watts,
        weakest.expanded_watts,
    )


@given(watts=WATTS, volts=VOLTS)
def test_nothing_above_the_rated_voltage_is_ever_plainly_backed(watts: float, volts: float) -> None:
    verdict = judge(CLAIM, [replace(RUN, watts=(watts,), supply_volts=volts)], METHOD)
    above = volts > 14.4 + METHOD.reference_volts_tolerance
    if above:
        assert verdict.kind is not VerdictKind.BACKED and verdict.interval is not None
        assert verdict.interval[0] <= verdict.interval[1] == pytest.approx(watts, rel=4e-3)
    if verdict.kind is VerdictKind.ABOVE_RATED_ONLY:
        assert above


@given(watts=WATTS, volts=st.floats(11.0, 14.2))
def test_a_pass_at_fewer_volts_is_a_pass(watts: float, volts: float) -> None:
    at_rated = judge(CLAIM, [replace(RUN, watts=(watts,))], METHOD).kind
    at_fewer = judge(CLAIM, [replace(RUN, watts=(watts,), supply_volts=volts)], METHOD).kind
    assert (at_fewer is VerdictKind.BACKED) == (at_rated is VerdictKind.BACKED)
    if at_fewer is VerdictKind.SHORT:
        assert at_rated is VerdictKind.SHORT


@given(figures=st.lists(st.tuples(WATTS, st.sampled_from([None, 12.5, 14.4])), min_size=1, max_size=6))
def test_conflict_is_mutual_and_never_with_oneself(figures: list[tuple[float, float | None]]) -> None:
    claims = [Claim(f"Document {i}", "main", w, 4.0, supply_volts=v, id=i) for i, (w, v) in enumerate(figures)]
    found = conflicts(claims)
    for one, others in found.items():
        assert one not in others
        assert all(one in found[other] for other in others)


@given(kinds=st.lists(st.sampled_from(list(VerdictKind)), max_size=6))
def test_units_together_give_one_of_their_own_verdicts(kinds: list[VerdictKind]) -> None:
    together = gravest(kinds)
    assert together in kinds or (not kinds and together is VerdictKind.NO_EVIDENCE)
    assert gravest([*kinds, VerdictKind.SHORT]) is VerdictKind.SHORT
    assert gravest([*kinds, VerdictKind.NO_EVIDENCE]) in {together, VerdictKind.NO_EVIDENCE}


@given(watts=WATTS)
def test_simple_acceptance_has_no_middle(watts: float) -> None:
    """The figure is the reading as it would be at the claim's volts, a part in a thousand off what was read here."""
    simple = judge(CLAIM, [replace(RUN, watts=(watts,))], MethodProfile(guarded=False))
    assert simple.watts is not None and simple.watts == pytest.approx(watts, rel=0.01)
    assert simple.kind is (VerdictKind.BACKED if simple.watts >= CLAIM.watts else VerdictKind.SHORT)
