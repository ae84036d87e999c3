"""A lab's own methods: each has versions that somebody proposes and somebody else approves; nothing is changed."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime

from rulvek.core.errors import BadInput, Conflict
from rulvek.core.method.differences import differences
from rulvek.core.method.profile import MethodProfile

USUAL = MethodProfile().name
"""What is planned and judged by where nobody says otherwise."""


@dataclass(frozen=True, slots=True)
class MethodVersion:
    """One version of a method, in use from its approval until the next one is approved."""

    id: int
    name: str
    number: int
    profile: MethodProfile
    reason: str
    proposed_by: str
    proposed_at: datetime
    approved_by: str = ""
    approved_at: datetime | None = None

    @property
    def title(self) -> str:
        """What campaigns call it."""
        return f"{self.name}, version {self.number}"


def in_use(versions: Iterable[MethodVersion]) -> dict[str, MethodVersion]:
    """By name, the version that was approved last."""
    approved = [one for one in versions if one.approved_at is not None]
    return {one.name: one for one in sorted(approved, key=lambda one: one.number)}


def before(version: MethodVersion, versions: Iterable[MethodVersion]) -> MethodProfile:
    """What a version is held against: the one before it, or what ships with the program."""
    earlier = [one for one in versions if one.name == version.name and one.number < version.number]
    return max(earlier, key=lambda one: one.number).profile if earlier else MethodProfile()


def to_begin_with(name: str, versions: Iterable[MethodVersion]) -> MethodProfile:
    """What the next version of a method is made from: its latest one, approved or not, or what ships."""
    own = [one for one in versions if one.name == name]
    return max(own, key=lambda one: one.number).profile if own else MethodProfile()


def proposed(profile: MethodProfile, name: str, number: int, versions: Iterable[MethodVersion]) -> MethodProfile:
    """A profile under the name that its campaigns will bear.

    Raises:
        BadInput: it is what there is already.
    """
    latest = to_begin_with(name, versions)
    if not differences(profile, latest) and (number > 1 or name == USUAL):
        raise BadInput(f"That is {name} as it is: change something.", field="changes")
    return replace(profile, name=f"{name}, version {number}")


def refuse_approval(version: MethodVersion, by: str, versions: Iterable[MethodVersion]) -> None:
    """Hold an approval to its rules.

    Raises:
        Conflict: it is approved, a later one is, or whoever proposed it would approve it.
    """
    if version.approved_at is not None:
        raise Conflict(f"{version.title} is approved, by {version.approved_by}.")
    if version.proposed_by.casefold() == by.casefold():
        raise Conflict("Nobody approves what they proposed themselves.", todo="Ask another reviewer.")
    later = in_use(versions).get(version.name)
    if later is not None and later.number > version.number:
        raise Conflict(f"{later.title} is approved already.", todo="Propose it anew, as the next version.")
