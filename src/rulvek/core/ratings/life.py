"""The life of a rating: which step may follow which, by whom, and where it stands after all of them."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from rulvek.core.errors import BadInput, Conflict, NotAllowed, Stale


class RatingState(StrEnum):
    """Where a rating stands."""

    DRAFT = "draft"
    PROPOSED = "proposed"
    SIGNED = "signed"
    PUBLISHED = "published"
    SUPERSEDED = "superseded"
    WITHDRAWN = "withdrawn"
    DROPPED = "dropped"


class StepKind(StrEnum):
    """What somebody did with a rating."""

    DRAFTED = "drafted"
    PROPOSED = "proposed"
    SENT_BACK = "sent_back"
    SIGNED = "signed"
    PUBLISHED = "published"
    CONFIRMED = "confirmed"
    SUPERSEDED = "superseded"
    WITHDRAWN = "withdrawn"
    DROPPED = "dropped"


FOLLOWS: Mapping[tuple[RatingState | None, StepKind], RatingState] = {
    (None, StepKind.DRAFTED): RatingState.DRAFT,
    (RatingState.DRAFT, StepKind.DRAFTED): RatingState.DRAFT,
    (RatingState.DRAFT, StepKind.PROPOSED): RatingState.PROPOSED,
    (RatingState.DRAFT, StepKind.DROPPED): RatingState.DROPPED,
    (RatingState.PROPOSED, StepKind.SENT_BACK): RatingState.DRAFT,
    (RatingState.PROPOSED, StepKind.SIGNED): RatingState.SIGNED,
    (RatingState.SIGNED, StepKind.SENT_BACK): RatingState.DRAFT,
    (RatingState.SIGNED, StepKind.PUBLISHED): RatingState.PUBLISHED,
    (RatingState.PUBLISHED, StepKind.CONFIRMED): RatingState.PUBLISHED,
    (RatingState.PUBLISHED, StepKind.SUPERSEDED): RatingState.SUPERSEDED,
    (RatingState.PUBLISHED, StepKind.WITHDRAWN): RatingState.WITHDRAWN,
}
"""Every step that may be taken, from where, and where it leads. What is not here is refused."""

OPEN = frozenset({RatingState.DRAFT, RatingState.PROPOSED, RatingState.SIGNED})
"""On the way to a published figure."""
NEEDS_REASON = frozenset({StepKind.SENT_BACK, StepKind.CONFIRMED, StepKind.WITHDRAWN, StepKind.DROPPED})
BY_SOMEBODY_ELSE = frozenset({StepKind.SIGNED, StepKind.CONFIRMED})
"""Steps by which somebody answers for what others did: never by who measured, drafted or proposed it."""
ON_THE_BASIS = frozenset({StepKind.SIGNED, StepKind.PUBLISHED})
"""Steps that are about exactly what was proposed."""
WORDS: Mapping[StepKind, str] = {
    StepKind.DRAFTED: "drafted",
    StepKind.PROPOSED: "proposed",
    StepKind.SENT_BACK: "sent back",
    StepKind.SIGNED: "signed",
    StepKind.PUBLISHED: "published",
    StepKind.CONFIRMED: "confirmed",
    StepKind.SUPERSEDED: "superseded",
    StepKind.WITHDRAWN: "withdrawn",
    StepKind.DROPPED: "dropped",
}


@dataclass(frozen=True, slots=True)
class Step:
    """A step in a rating's life.

    Attributes:
        digest: Of the frozen basis that the step is about, SHA-256 in hexadecimal; of a draft empty.
        settles: Keys of what had unsettled it and was looked at; of a confirmation only.
    """

    number: int
    kind: StepKind
    by: str
    at: datetime
    reason: str = ""
    digest: str = ""
    settles: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Life:
    """Where a rating stands, and the steps that led there, the latest last."""

    state: RatingState
    steps: tuple[Step, ...]

    def last(self, kind: StepKind) -> Step | None:
        """The last step of a kind; None where there is none."""
        return next((one for one in reversed(self.steps) if one.kind is kind), None)

    @property
    def proposal(self) -> Step | None:
        """The proposal that it stands on; None in a draft."""
        return None if self.state in (RatingState.DRAFT, RatingState.DROPPED) else self.last(StepKind.PROPOSED)

    @property
    def sent_back_proposal(self) -> tuple[Step, Step] | None:
        """The proposal before the one that it stands on, and the step that sent it back; None where there is none."""
        here = self.proposal
        earlier = [one for one in self.steps if here is not None and one.number < here.number]
        back = next((one for one in reversed(earlier) if one.kind is StepKind.SENT_BACK), None)
        before = next((one for one in reversed(earlier) if one.kind is StepKind.PROPOSED), None)
        return None if back is None or before is None else (before, back)

    @property
    def seen(self) -> int:
        """How many steps there are: whoever takes the next one says how many they have seen."""
        return len(self.steps)

    @property
    def answered_at(self) -> datetime | None:
        """When somebody last answered for it: from then on its validity counts."""
        confirmed, signed = self.last(StepKind.CONFIRMED), self.last(StepKind.SIGNED)
        found = confirmed or signed
        return found.at if found and self.state is not RatingState.DRAFT else None

    @property
    def settled(self) -> frozenset[str]:
        """Keys of what was looked at and confirmed since it was published."""
        return frozenset(key for one in self.steps if one.kind is StepKind.CONFIRMED for key in one.settles)

    @property
    def sent_back(self) -> Step | None:
        """Why it is a draft again; None where it is none, or was never proposed."""
        return self.last(StepKind.SENT_BACK) if self.state is RatingState.DRAFT else None


def life_of(steps: Iterable[Step]) -> Life:
    """Where a rating stands after its steps.

    Raises:
        Conflict: a step that cannot follow the one before, as only a damaged record has it.
    """
    state: RatingState | None = None
    taken: list[Step] = []
    for step in steps:
        state = _after(state, step.kind)
        taken.append(step)
    if state is None:
        raise Conflict("This rating has no beginning.")
    return Life(state, tuple(taken))


def refuse_step(life: Life | None, step: Step, measured_by: Collection[str] = ()) -> RatingState:
    """Hold a step to the rules; returns where it leads.

    Args:
        life: So far; None for a rating that is about to be drafted.
        step: The next one, its number the one after those that its doer has seen.
        measured_by: Everyone whose readings are in the sample.

    Raises:
        Stale: others took a step meanwhile.
        Conflict: it cannot follow, or speaks of another basis than was proposed.
        NotAllowed: by somebody who may not answer for it.
        BadInput: a reason is missing.
    """
    if step.number != (life.seen if life else 0) + 1:
        last = life.steps[-1] if life else None
        who = f"{last.by or 'Somebody'} {WORDS[last.kind]} it" if last else "Somebody dealt with it"
        raise Stale(f"{who} meanwhile.", todo="Look at it again.")
    state = _after(life.state if life else None, step.kind)
    if step.kind in NEEDS_REASON and not step.reason.strip():
        raise BadInput(f"Say why it is {WORDS[step.kind]}.", field="reason")
    if life is None:
        return state
    if step.kind in BY_SOMEBODY_ELSE and step.by in refused_by(life, measured_by):
        raise NotAllowed(
            "Who measured, drafted or proposed a rating does not answer for it.", todo="Ask another reviewer."
        )
    proposed = life.proposal
    if step.kind in ON_THE_BASIS and (proposed is None or step.digest != proposed.digest):
        raise Conflict("What was proposed is not what was looked at.", todo="Look at it again.")
    return state


def refused_by(life: Life, measured_by: Collection[str]) -> frozenset[str]:
    """Who may not answer for a rating: everyone who had a hand in it."""
    hands = {one.by for one in life.steps if one.kind in (StepKind.DRAFTED, StepKind.PROPOSED)}
    return frozenset(hands) | frozenset(measured_by)


def next_steps(life: Life) -> frozenset[StepKind]:
    """Which steps its state allows, whoever takes them."""
    return frozenset(kind for state, kind in FOLLOWS if state is life.state)


def _after(state: RatingState | None, kind: StepKind) -> RatingState:
    found = FOLLOWS.get((state, kind))
    if found is None:
        raise Conflict(
            f"A rating that is {state.value} cannot be {WORDS[kind]}."
            if state
            else f"A rating that was never drafted cannot be {WORDS[kind]}."
        )
    return found
