"""What waits, what is wanted of it, and how long runs took."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import delete, exists, func, select, update
from sqlalchemy.orm import Session

from rulvek.core.planning.today import Took, Wanted
from rulvek.core.runs.modes import End, Mode
from rulvek.store import tables as t

WHOLE = [end.value for end in (End.LIMIT, End.HELD, End.CLIP, End.NO_MORE_OUTPUT)]
"""How runs end that took as long as they take."""


def wanted(session: Session) -> dict[int, Wanted]:
    """What somebody wants of campaigns that wait, by their ids."""
    rows = session.scalars(
        select(t.Waiting).join(t.Campaign, t.Campaign.id == t.Waiting.campaign_id).where(t.Campaign.runs_left > 0)
    )
    return {row.campaign_id: Wanted(row.due_on, row.place, row.anywhere) for row in rows}


def put(session: Session, campaign_id: int, new: Wanted, by: str, at: datetime) -> None:
    """Say what is wanted of a campaign, in place of what was."""
    session.execute(delete(t.Waiting).where(t.Waiting.campaign_id == campaign_id))
    session.add(
        t.Waiting(campaign_id=campaign_id, due_on=new.due_on, place=new.place, anywhere=new.anywhere, by=by, at=at)
    )


def begun(session: Session, campaigns: Sequence[int]) -> set[int]:
    """Campaigns of which a run was begun or something was seen to before power: they stay on their bench."""
    run = exists().where(t.Run.campaign_id == t.Campaign.id, t.Attempt.run_id == t.Run.id)
    seen = exists().where(t.Preparation.campaign_id == t.Campaign.id)
    return set(session.scalars(select(t.Campaign.id).where(t.Campaign.id.in_(campaigns), run | seen)))


def move(session: Session, campaign_id: int, bench: str) -> None:
    """Plan a campaign for another bench."""
    session.execute(update(t.Campaign).where(t.Campaign.id == campaign_id).values(bench=bench))


def begun_of_wiring(session: Session, campaign_id: int, wiring: int) -> bool:
    """Whether a run on a wiring of a campaign was begun."""
    tried = exists().where(t.Attempt.run_id == t.Run.id)
    return bool(session.scalar(select(exists().where(t.Run.campaign_id == campaign_id, t.Run.wiring == wiring, tried))))


def take_off(session: Session, campaign_id: int, wiring: int) -> tuple[int, int]:
    """Plan the runs on a wiring no longer, of which none was begun; returns how many these were, and how many stay."""
    of = t.Run.campaign_id == campaign_id
    gone = list(session.scalars(delete(t.Run).where(of, t.Run.wiring == wiring).returning(t.Run.id)))
    return len(gone), session.scalar(select(func.count()).select_from(t.Run).where(of)) or 0


def took(session: Session, most: int) -> list[Took]:
    """How long the latest runs took beside what was predicted of them."""
    rows = session.execute(
        select(t.Run.mode, t.Run.predicted["minutes"].as_float(), t.AttemptEnding.seconds)
        .join_from(t.AttemptEnding, t.Attempt, t.Attempt.id == t.AttemptEnding.attempt_id)
        .join(t.Run, t.Run.id == t.Attempt.run_id)
        .where(t.AttemptEnding.end.in_(WHOLE))
        .order_by(t.AttemptEnding.attempt_id.desc())
        .limit(most)
    )
    return [Took(Mode(mode), 60 * minutes, seconds) for mode, minutes, seconds in rows if minutes and seconds > 0]
