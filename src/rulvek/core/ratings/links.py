"""Links under which somebody without an account sees a rating: for whom, for how long, and of what."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from rulvek.core.errors import BadInput, Conflict
from rulvek.core.ratings.life import RatingState

MOST_DAYS = 366
SHOWABLE = frozenset({RatingState.PUBLISHED, RatingState.SUPERSEDED, RatingState.WITHDRAWN})
"""What is not published yet is nobody else's business."""


@dataclass(frozen=True, slots=True)
class RatingLink:
    """A link to a rating, without its token; ``with_records`` where it hands out what the rating rests on, too."""

    id: int
    rating_id: int
    meant_for: str
    with_records: bool
    made_by: str
    made_at: datetime
    until: datetime
    ended_at: datetime | None = None

    def opens(self, at: datetime) -> bool:
        """Whether it opens anything then."""
        return self.ended_at is None and at < self.until


def lapses(meant_for: str, days: int, state: RatingState, now: datetime) -> datetime:
    """When a new link is to lapse.

    Raises:
        BadInput: nobody is named, or it is to hold for less than a day or more than a year.
        Conflict: the rating was never published.
    """
    if not meant_for.strip():
        raise BadInput("Say for whom the link is.", field="meant_for")
    if not 1 <= days <= MOST_DAYS:
        raise BadInput(f"A link holds for 1 to {MOST_DAYS} days.", field="days")
    if state not in SHOWABLE:
        raise Conflict("Only what was published is shown to others.", todo="Publish it first.")
    return now + timedelta(days=days)
