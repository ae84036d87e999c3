"""How far one attempt scatters: pooled over all runs that a bench repeated, as a method goes by it from then on."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.campaigns import Campaign
from rulvek.core.records.standing import alike_watts
from rulvek.core.runs.modes import Mode


@dataclass(frozen=True, slots=True)
class Repeats:
    """What repeated attempts come to.

    Attributes:
        squares: Sum of squared deviations from the mean of their own group, each relative to that mean.
        freedom: Degrees of freedom: one less than the attempts of each group.
    """

    squares: float = 0.0
    freedom: int = 0

    def __add__(self, other: "Repeats") -> "Repeats":
        return Repeats(self.squares + other.squares, self.freedom + other.freedom)


def repeats_of(groups: Iterable[Sequence[float]]) -> Repeats:
    """Repeats of some groups of like attempts, each given by its watts, > 0.

    >>> repeats_of([[96.0, 104.0], [50.0]]).freedom
    1
    >>> round(repeats_of([[96.0, 104.0], [50.0]]).squares, 6)
    0.0032
    """
    found = Repeats()
    for watts in groups:
        if len(watts) > 1:
            mean = math.fsum(watts) / len(watts)
            found += Repeats(math.fsum((one / mean - 1) ** 2 for one in watts), len(watts) - 1)
    return found


def conducted_repeats(campaigns: Iterable[Campaign]) -> Repeats:
    """Repeats of what a bench conducted to its limit; what came from outside says nothing of how a bench repeats."""
    return repeats_of(
        group
        for campaign in campaigns
        for run in campaign.runs
        if run.spec.mode is not Mode.PROOF  # it is held at a level that was set
        for group in alike_watts(run)
    )


def pooled(method: MethodProfile, repeats: Repeats) -> MethodProfile:
    """The method with the standard deviation of one attempt as the records show it.

    What the method states counts for its own degrees of freedom, so that a single lucky repeat does not make it
    nothing; once there are many repeats they alone decide. The method as it is where nothing was repeated.

    The pooled standard deviation is that of JCGM 100:2008 (GUM), H.3.6 note and 4.2.4, from memory.
    """
    if not repeats.freedom:
        return method
    stated = method.repeatability_percent / 100
    freedom = method.repeatability_freedom + repeats.freedom
    variance = (method.repeatability_freedom * stated**2 + repeats.squares) / freedom
    return replace(method, repeatability_percent=100 * math.sqrt(variance), repeatability_freedom=freedom)
