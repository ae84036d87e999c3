"""How an answer is marked: found, missed, wrongly accused, what to do about it, what may be said of the claim."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from rulvek.core.practice.faults import LESSONS, Fault, Remedy
from rulvek.core.practice.sayings import SAYINGS
from rulvek.core.practice.scenarios import Scenario

FOUND_POINTS, REMEDY_POINTS, CLAIM_POINTS, SAYING_POINTS, ACCUSED_POINTS = 3, 1, 2, 1, 3
PASS_PERCENT = 80.0


class OfClaim(StrEnum):
    """What may be said of the claim by what the sheet shows."""

    BACKED = "backed"
    NOT_BACKED = "not-backed"
    NOTHING_YET = "nothing-yet"


@dataclass(frozen=True, slots=True)
class Answer:
    """What somebody found: faults, each with what to do about it, and what may be said of claim and saying."""

    faults: Mapping[Fault, Remedy | None]
    claim: OfClaim
    saying_holds: bool


@dataclass(frozen=True, slots=True)
class Result:
    """What a job or an exam came to."""

    points: int
    of: int

    @property
    def percent(self) -> float:
        """Points, in percent."""
        return 100 * self.points / self.of

    @property
    def passed(self) -> bool:
        """Whether it is enough."""
        return self.percent >= PASS_PERCENT


@dataclass(frozen=True, slots=True)
class Marks(Result):
    """A marked answer.

    Attributes:
        found, missed: What was planted.
        accused: What was not.
        remedies: Of what was found, those with the right remedy.
    """

    found: tuple[Fault, ...]
    missed: tuple[Fault, ...]
    accused: tuple[Fault, ...]
    remedies: tuple[Fault, ...]
    claim: OfClaim
    claim_right: bool
    saying_right: bool


def of_claim(scenario: Scenario) -> OfClaim:
    """What may be said: nothing while a fault spoils the reading."""
    if any(LESSONS[one].spoils for one in scenario.faults):
        return OfClaim.NOTHING_YET
    return OfClaim.BACKED if scenario.claim_share < 1 else OfClaim.NOT_BACKED


def marked(scenario: Scenario, answer: Answer) -> Marks:
    """Mark an answer.

    A job without a fault gives the points of one for leaving everything unaccused; whoever accuses what is not there
    loses as much as finding one brings, so that ticking everything never pays.
    """
    planted = scenario.faults
    found = tuple(one for one in planted if one in answer.faults)
    missed = tuple(one for one in planted if one not in answer.faults)
    accused = tuple(one for one in Fault if one in answer.faults and one not in planted)
    remedies = tuple(one for one in found if answer.faults[one] is LESSONS[one].remedy)
    claim = of_claim(scenario)
    holds = SAYINGS[scenario.saying].holds
    points = FOUND_POINTS * len(found) + REMEDY_POINTS * len(remedies)
    if not planted and not accused:
        points += FOUND_POINTS + REMEDY_POINTS
    points += CLAIM_POINTS * (answer.claim is claim) + SAYING_POINTS * (answer.saying_holds is holds)
    most = (FOUND_POINTS + REMEDY_POINTS) * max(1, len(planted)) + CLAIM_POINTS + SAYING_POINTS
    return Marks(
        found=found,
        missed=missed,
        accused=accused,
        remedies=remedies,
        claim=claim,
        claim_right=answer.claim is claim,
        saying_right=answer.saying_holds is holds,
        points=max(0, points - ACCUSED_POINTS * len(accused)),
        of=most,
    )


def result(of_jobs: Iterable[tuple[int, int]]) -> Result:
    """All jobs of an exam together, by points and of how many.

    >>> result([(7, 7), (4, 7)]).passed
    False
    """
    pairs: Sequence[tuple[int, int]] = list(of_jobs)
    return Result(sum(points for points, _ in pairs), sum(of for _, of in pairs))
