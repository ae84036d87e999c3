"""Which attempt stands for a run, what state the run is in, and which attempts can be held against each other."""

from collections.abc import Mapping
from enum import StrEnum
from itertools import pairwise

from rulvek.core.electrical.loads import Connection
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.campaigns import Campaign, Run
from rulvek.core.records.product import Product
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import ENDS, End, Mode, reached
from rulvek.core.runs.spec import place_key


class RunState(StrEnum):
    """Whether a run is done."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"


def standing_attempt(run: Run) -> Attempt | None:
    """The attempt that stands for a run: the one that somebody chose last, else the last valid one.

    Valid is one with a reading that nothing but the unit ended; failing that, any with a reading; failing that, the
    last that ended. What was withdrawn never stands.
    """
    attempts = [attempt for attempt in run.attempts if attempt.withdrawn is None]
    if run.choices:
        chosen = next((a for a in attempts if a.id == run.choices[-1].attempt_id), None)
        if chosen is not None:
            return chosen
    ended = [attempt for attempt in reversed(attempts) if attempt.ending is not None]
    read = [attempt for attempt in ended if attempt.readings]
    valid = [attempt for attempt in read if not _of_the_day(attempt)]
    return next(iter(valid or read or ended), None)


def _of_the_day(attempt: Attempt) -> bool:
    return attempt.ending is not None and ENDS[attempt.ending.end].of_the_day


def state_of(run: Run) -> RunState:
    """A run that an operator, a fault, the supply or the heat ended, or whose reading was withdrawn, still waits."""
    if any(attempt.ending is None for attempt in run.attempts):
        return RunState.RUNNING
    if any(not _of_the_day(attempt) and attempt.withdrawn is None for attempt in run.attempts):
        return RunState.DONE
    return RunState.WAITING


def next_number(run: Run) -> int:
    """1 for the first attempt at a run."""
    return max((attempt.number for attempt in run.attempts), default=0) + 1


def all_driven(run: Run, product: Product) -> bool:
    """Whether a run loads every channel of its model, itself or as companions."""
    return product.channels <= {channel for link in run.wired for channel in link.channels}


def certified_level_dbv(campaign: Campaign, link: Connection, supply_volts: float) -> float | None:
    """At which source level a connection was at its certified limit in a campaign; None while it was not."""
    found = None
    for run in campaign.runs:
        same = run.spec.mode is Mode.CERTIFIED and link in run.under_test and run.spec.supply_volts == supply_volts
        ending = attempt.ending if same and (attempt := standing_attempt(run)) is not None else None
        if ending is not None and ending.level_dbv is not None and reached(run.spec.mode, ending.end):
            found = ending.level_dbv
    return found


def companions_low(run: Run, attempt: Attempt) -> bool:
    """Whether channels that were not under test were driven far below what they certify themselves."""
    if attempt.outside is not None or attempt.ending is None:
        return False
    return bool(run.companions) and not attempt.ending.companions_full


def comparable_watts(run: Run) -> Mapping[int, tuple[float, ...]]:
    """By attempt: its weakest watts, then those of the attempts that it can be compared with, for its repeatability.

    Those ended alike and were not repeated for a cause that explains them.
    """
    known_bad = _known_bad(run)
    alike: dict[object, list[float]] = {}
    places: dict[int, tuple[list[float], int]] = {}
    found: dict[int, tuple[float, ...]] = {}
    for attempt in run.attempts:
        watts = attempt.weakest_watts
        if watts is None or attempt.ending is None or attempt.withdrawn is not None:
            found[attempt.id] = ()
        elif attempt.id in known_bad:
            found[attempt.id] = (watts,)
        else:
            group = alike.setdefault(attempt.ending.end, [])
            places[attempt.id] = group, len(group)
            group.append(watts)
    for identity, (group, at) in places.items():
        found[identity] = (group[at], *group[:at], *group[at + 1 :])
    return found


def alike_watts(run: Run) -> list[list[float]]:
    """Weakest watts of the attempts that a bench conducted to the end that their mode is meant to have, all alike."""
    known_bad = _known_bad(run)
    alike: dict[End, list[float]] = {}
    for attempt in run.attempts:
        watts, ending = attempt.weakest_watts, attempt.ending
        if not watts or ending is None or attempt.outside is not None or attempt.withdrawn is not None:
            continue
        if attempt.read_again:
            continue  # the same run of the amplifier once more: it says nothing of how runs repeat
        if attempt.id not in known_bad and reached(run.spec.mode, ending.end):
            alike.setdefault(ending.end, []).append(watts)
    return list(alike.values())


def _known_bad(run: Run) -> set[int]:
    """Attempts that were repeated for a cause that explains how they came out."""
    return {
        before.id
        for before, after in pairwise(run.attempts)
        if after.cause is not None and after.cause is not Cause.OTHER
    }


def beside(campaign: Campaign) -> Mapping[int, Mapping[Mode, float]]:
    """By run: weakest watts of the other modes' standing attempts, under the same conditions in the same campaign."""
    alike: dict[tuple[object, ...], list[tuple[Run, float]]] = {}
    for run in campaign.runs:
        standing = standing_attempt(run)
        watts = standing.weakest_watts if standing is not None else None
        if watts is not None:
            alike.setdefault(conditions_key(run), []).append((run, watts))
    return {
        run.id: {other.spec.mode: watts for other, watts in alike.get(conditions_key(run), ()) if other.id != run.id}
        for run in campaign.runs
    }


def conditions_key(run: Run) -> tuple[object, ...]:
    """The same for runs that differ in nothing but their mode."""
    return (*place_key(run.spec.place), run.spec.supply_volts)
