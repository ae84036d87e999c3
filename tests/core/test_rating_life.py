"""The life of a rating: whatever anybody tries in whatever order, some things never happen."""

from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput, Conflict, NotAllowed, RulvekError, Stale
from rulvek.core.ratings.life import (
    BY_SOMEBODY_ELSE,
    FOLLOWS,
    NEEDS_REASON,
    Life,
    RatingState,
    Step,
    StepKind,
    life_of,
    next_steps,
    refuse_step,
)
from tests.examples import examples

NOW = datetime(2026, 5, 4, 12, tzinfo=UTC)
DIGEST, OTHER = "a" * 64, "b" * 64
PEOPLE = ("Ilse", "Pell", "Maren", "Jory")
MEASURED = ("Pell",)
WAY = (
    (StepKind.DRAFTED, "Ilse"),
    (StepKind.PROPOSED, "Ilse"),
    (StepKind.SIGNED, "Maren"),
    (StepKind.PUBLISHED, "Ilse"),
)


def taken(life: Life | None, kind: StepKind, by: str, digest: str = DIGEST, reason: str = "why") -> Life:
    """A life with one more step, if the rules have it."""
    steps = life.steps if life else ()
    step = Step(len(steps) + 1, kind, by, NOW, reason, "" if kind is StepKind.DRAFTED else digest)
    refuse_step(life, step, MEASURED)
    return life_of([*steps, step])


def way(steps: Sequence[tuple[StepKind, str]]) -> Life:
    life: Life | None = None
    for kind, by in steps:
        life = taken(life, kind, by)
    assert life is not None
    return life


ANYTHING = st.lists(
    st.tuples(st.sampled_from(StepKind), st.sampled_from(PEOPLE), st.sampled_from((DIGEST, OTHER)), st.booleans()),
    max_size=25,
)


@examples(300)
@given(ANYTHING)
def test_nothing_is_published_without_somebody_elses_signature_on_the_same_basis(
    tried: list[tuple[StepKind, str, str, bool]],
) -> None:
    """The design's rule: who measured or proposed never signs; what is published is what was signed and proposed."""
    life: Life | None = taken(None, StepKind.DRAFTED, "Ilse")
    for kind, by, digest, explained in tried:
        try:
            life = taken(life, kind, by, digest, "why" if explained else "")
        except RulvekError:
            continue
        published = life.last(StepKind.PUBLISHED)
        if published is None:
            continue
        before = life.steps[: published.number - 1]
        signed, proposed = before[-1], next(one for one in reversed(before) if one.kind is StepKind.PROPOSED)
        assert signed.kind is StepKind.SIGNED and signed.digest == proposed.digest == published.digest
        own = {one.by for one in before if one.kind in (StepKind.DRAFTED, StepKind.PROPOSED)}
        assert signed.by not in own and signed.by not in MEASURED
        for one in life.steps:
            assert one.reason or one.kind not in NEEDS_REASON


@examples(200)
@given(ANYTHING)
def test_an_end_is_an_end_and_the_steps_say_where_it_stands(tried: list[tuple[StepKind, str, str, bool]]) -> None:
    life = taken(None, StepKind.DRAFTED, "Ilse")
    for kind, by, digest, explained in tried:
        ended = life.state in (RatingState.SUPERSEDED, RatingState.WITHDRAWN, RatingState.DROPPED)
        assert (not next_steps(life)) == ended
        allowed = kind in next_steps(life)
        try:
            after = taken(life, kind, by, digest, "why" if explained else "")
        except RulvekError:
            continue
        assert allowed and not ended and after.state is FOLLOWS[life.state, kind]
        assert life_of(after.steps) == after and after.seen == life.seen + 1
        life = after


def test_the_plain_way() -> None:
    assert way(WAY).state is RatingState.PUBLISHED
    assert way([*WAY, (StepKind.CONFIRMED, "Maren"), (StepKind.WITHDRAWN, "Jory")]).state is RatingState.WITHDRAWN
    back = way([*WAY[:2], (StepKind.SENT_BACK, "Maren")])
    assert back.state is RatingState.DRAFT and back.proposal is None and back.sent_back is not None
    assert way([*WAY[:2], (StepKind.SENT_BACK, "Maren"), (StepKind.PROPOSED, "Ilse")]).sent_back is None


@pytest.mark.parametrize("kind", sorted(BY_SOMEBODY_ELSE))
@pytest.mark.parametrize("by", ["Ilse", "Pell", "Jory"])
def test_who_had_a_hand_in_it_does_not_answer_for_it(kind: StepKind, by: str) -> None:
    """Ilse drafted it and took it up again after it was sent back, Jory proposed it, Pell measured."""
    steps = [*WAY[:2], (StepKind.SENT_BACK, "Maren"), (StepKind.PROPOSED, "Jory")]
    if kind is StepKind.CONFIRMED:
        steps += [(StepKind.SIGNED, "Maren"), (StepKind.PUBLISHED, "Jory")]
    life = way(steps)
    with pytest.raises(NotAllowed, match="does not answer for it"):
        taken(life, kind, by)
    assert taken(life, kind, "Maren").seen == life.seen + 1


def test_who_was_overtaken_is_told_by_whom() -> None:
    life = way(WAY[:2])
    with pytest.raises(Stale, match="Ilse proposed it meanwhile"):
        refuse_step(life, Step(2, StepKind.SENT_BACK, "Maren", NOW, "why"))


def test_another_basis_is_not_signed_for() -> None:
    with pytest.raises(Conflict, match="not what was looked at"):
        taken(way(WAY[:2]), StepKind.SIGNED, "Maren", digest=OTHER)


@pytest.mark.parametrize("kind", sorted(NEEDS_REASON))
def test_some_steps_need_a_reason(kind: StepKind) -> None:
    length = {StepKind.SENT_BACK: 2, StepKind.DROPPED: 1}.get(kind, 4)
    with pytest.raises(BadInput) as refused:
        taken(way(WAY[:length]), kind, "Maren", reason="  ")
    assert refused.value.field == "reason"


def test_a_record_that_cannot_have_come_about_is_refused() -> None:
    with pytest.raises(Conflict, match="draft cannot be published"):
        life_of([Step(1, StepKind.DRAFTED, "Ilse", NOW), Step(2, StepKind.PUBLISHED, "Ilse", NOW)])
    with pytest.raises(Conflict, match="no beginning"):
        life_of([])


def test_validity_counts_from_whoever_answered_last() -> None:
    life = way(WAY)
    assert life.answered_at == NOW
    later = Step(5, StepKind.CONFIRMED, "Maren", NOW + timedelta(days=400), "Looked at.", settles=("validity:x",))
    again = life_of([*life.steps, later])
    assert again.answered_at == later.at and again.settled == {"validity:x"}
    assert later.at.date() == date(2027, 6, 8)
