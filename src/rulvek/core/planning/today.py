"""What waits, as the day's order takes it: how long it takes by what runs took before, and until when it is wanted."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

import numpy as np

from rulvek.core.planning.hours import Hours
from rulvek.core.planning.queue import Job, Standing
from rulvek.core.planning.wiring import rewirings
from rulvek.core.records.summaries import CampaignSummary
from rulvek.core.runs.modes import Mode

FEWEST_TOOK = 5
"""Of fewer runs nothing is learned."""
UNKNOWN_RUN_SECONDS = 300.0
"""For a run of which nothing was predicted, as of records from before predictions were kept; ours."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What somebody wants of a campaign that waits.

    Attributes:
        due_on: The day on which it is to be done.
        place: Where somebody put it by hand, in rising order.
        anywhere: Whether any bench that can stand it may have it, instead of the one that it was planned for.
    """

    due_on: date | None = None
    place: int | None = None
    anywhere: bool = False


@dataclass(frozen=True, slots=True)
class Took:
    """How long a run took, its waiting for cool loads included, beside what was predicted."""

    mode: Mode
    predicted_seconds: float
    seconds: float


@dataclass(frozen=True, slots=True)
class Pace:
    """How long runs take for each predicted second: the median, and between what half of them lie."""

    ratio: float = 1.0
    low: float = 1.0
    high: float = 1.0
    runs: int = 0


def pace_of(took: Iterable[Took]) -> Pace:
    """What is learned of earlier runs; 1 where there are too few.

    >>> pace_of([Took(Mode.CERTIFIED, 60, one) for one in (55, 60, 66, 72, 90)])
    Pace(ratio=1.1, low=1.0, high=1.2, runs=5)
    """
    ratios = [one.seconds / one.predicted_seconds for one in took if one.predicted_seconds > 0]
    if len(ratios) < FEWEST_TOOK:
        return Pace(runs=len(ratios))
    low, middle, high = (float(one) for one in np.quantile(ratios, (0.25, 0.5, 0.75)))
    return Pace(middle, low, high, len(ratios))


def job_of(
    campaign: CampaignSummary,
    wanted: Wanted,
    benches: Sequence[str],
    pace: Pace,
    rewire_seconds: float,
    now: datetime,
    hours: Hours | None = None,
) -> Job | None:
    """A campaign as something that waits; None where nothing of it is left.

    Args:
        benches: That can stand it and may have it.
        now: In the zone whose days count.
        hours: When the lab works; always where None.
    """
    left = [run for run in campaign.runs if not run.done]
    if not left:
        return None
    running = [UNKNOWN_RUN_SECONDS if run.minutes is None else 60 * run.minutes for run in left]
    moved = rewirings([run.wiring_key for run in left])
    return Job(
        id=campaign.id,
        benches=tuple(benches),
        seconds=pace.ratio * math.fsum(running) + moved * rewire_seconds,
        first=left[0].wiring_key,
        last=left[-1].wiring_key,
        due_seconds=_until_the_end_of(wanted.due_on, now, hours),
        place=wanted.place,
    )


def _until_the_end_of(day: date | None, now: datetime, hours: Hours | None) -> float:
    if day is None:
        return math.inf
    end = datetime.combine(day + timedelta(days=1), time(), now.tzinfo)
    return hours.until(now, end) if hours else max(0.0, (end - now).total_seconds())


def standing_of(
    name: str, wiring: str | None, busy: Job | None, setup_minutes: float, rewire_minutes: float
) -> Standing:
    """A bench as it stands; what it is busy with is done first."""
    return Standing(
        name=name,
        free_seconds=busy.seconds if busy else 0.0,
        wiring=busy.last if busy else wiring,
        exchange_seconds=60 * setup_minutes,
        rewire_seconds=60 * rewire_minutes,
    )
