"""How warm loads were in runs, as their steps have it."""

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from rulvek.core.electrical.heating import HeatedRun, HeatTrace
from rulvek.core.runs.modes import Mode
from rulvek.store import tables as t

STEADY = [mode.value for mode in (Mode.CERTIFIED, Mode.UNCERTIFIED, Mode.PROOF)]
"""In a burst most of the heat comes from what is not told."""


def newest_run(session: Session, bench: str) -> int | None:
    """The latest steady run on a bench that is over."""
    return session.scalar(_ended(bench).with_only_columns(func.max(t.Attempt.id)))


def heated_runs(session: Session, bench: str, most: int) -> list[HeatedRun]:
    """The latest steady runs on a bench of which temperatures of loads were read."""
    latest = _ended(bench).order_by(t.Attempt.id.desc()).limit(most)
    steps = (
        select(t.Step.attempt_id, t.Step.kind, t.Step.at_seconds, t.Step.data)
        .where(t.Step.attempt_id.in_(session.scalars(latest).all()), t.Step.kind.in_(("prepared", "point")))
        .order_by(t.Step.attempt_id, t.Step.id)
    )
    found: dict[int, tuple[tuple[float, ...], list[tuple[float, float, float]]]] = {}
    for attempt_id, kind, at, data in session.execute(steps):
        if data.get("load_c") is None:
            continue
        if kind == "prepared":
            ohms = tuple(load["nominal"] for load in data["loads"].values())
            found[attempt_id] = ohms, [(at, 0.0, data["load_c"])]
        elif attempt_id in found:
            found[attempt_id][1].append((at, max(one["watts"] for one in data["channels"]), data["load_c"]))
    return [HeatedRun(ohms, HeatTrace(*zip(*read, strict=True))) for ohms, read in found.values()]


def _ended(bench: str) -> Select[int]:
    return (
        select(t.Attempt.id)
        .join(t.AttemptEnding, t.AttemptEnding.attempt_id == t.Attempt.id)
        .join(t.Run, t.Run.id == t.Attempt.run_id)
        .join(t.Campaign, t.Campaign.id == t.Run.campaign_id)
        .where(t.Campaign.bench == bench, t.Run.mode.in_(STEADY))
    )
