"""What people changed in a plan by hand, taken over into the plan that other wishes propose."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

from rulvek.core.errors import RulvekError
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec, place_key

_Kind = tuple[Mode, tuple[str, str, bool], float]
"""What makes two runs counterparts: the mode, how the group is loaded, and of proofs the tone."""


@dataclass(frozen=True, slots=True)
class Carried:
    """The runs of a plan with the edits that still apply, and in words those that don't."""

    runs: tuple[RunSpec, ...]
    lost: tuple[str, ...]


def carry_over(
    fresh: Sequence[RunSpec],
    proposed: Sequence[RunSpec],
    edited: Sequence[RunSpec],
    refuse: Callable[[RunSpec], None],
) -> Carried:
    """Apply to a fresh proposal what was changed by hand in an older one.

    Args:
        fresh: What the wishes propose now.
        proposed: What they proposed when the edits were made.
        edited: What stood in the plan after the edits.
        refuse: Raises for a run that the model cannot have.

    A run that was changed keeps its changes if its counterpart is still proposed; one that was dropped stays away; one
    that was added stays, if the model can have it. An order made by hand holds as long as the same runs are there.
    """
    gone = [spec for spec in proposed if spec not in edited]
    added = [spec for spec in edited if spec not in proposed]
    runs, lost = list(fresh), []
    for new in added:
        old = next((spec for spec in gone if _kind(spec) == _kind(new)), None)
        if old is not None:
            gone.remove(old)
            at = _counterpart(runs, old)
            if at is None:
                lost.append(f"the change of {_words(old)}: it is no longer proposed")
                continue
            candidate = replace(runs[at], **_changes(old, new))
        else:
            at, candidate = len(runs), new
        try:
            refuse(candidate)
        except RulvekError as error:
            lost.append(f"{_words(new)}: {error.what[:1].lower()}{error.what[1:].removesuffix('.')}")
            continue
        runs[at : at + 1] = [candidate]
    for old in gone:
        at = _counterpart(runs, old)
        if at is not None:
            del runs[at]
    runs = list(dict.fromkeys(runs))
    if [spec for spec in edited if spec in proposed] != [spec for spec in proposed if spec in edited]:
        by_hand = [spec for spec in edited if spec in runs]
        if len(by_hand) == len(runs):
            runs = by_hand
        elif by_hand != [spec for spec in runs if spec in edited]:
            lost.append("the order made by hand")
    return Carried(tuple(runs), tuple(lost))


def _kind(spec: RunSpec) -> _Kind:
    return spec.mode, place_key(spec.place), spec.tone_hz if spec.mode is Mode.PROOF else 0.0


def _counterpart(runs: Sequence[RunSpec], old: RunSpec) -> int | None:
    """The run itself, else the one of its kind, if there is just one."""
    if old in runs:
        return runs.index(old)
    alike = [at for at, spec in enumerate(runs) if _kind(spec) == _kind(old)]
    return alike[0] if len(alike) == 1 else None


def _changes(old: RunSpec, new: RunSpec) -> dict[str, Any]:
    values = {item.name: getattr(new, item.name) for item in fields(RunSpec)}
    return {name: value for name, value in values.items() if value != getattr(old, name)}


def _words(spec: RunSpec) -> str:
    bridged = " bridged" if spec.bridged else ""
    return f"{spec.mode} {spec.group}, {spec.load_ohms:g} Ω{bridged} at {spec.supply_volts:g} V"
