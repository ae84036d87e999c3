"""What must be seen to before power, for each wiring, and what was."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Any


class Item(StrEnum):
    """The list before power, in the order in which it is worked through."""

    CLAMP = "clamp"
    LOADS = "loads"
    CONTROLS = "controls"
    GAINS = "gains"
    SUPPLY = "supply"


ITEM_NAMES: Mapping[Item, str] = {
    Item.CLAMP: "clamp's zero",
    Item.LOADS: "loads",
    Item.CONTROLS: "controls",
    Item.GAINS: "gains",
    Item.SUPPLY: "supply's volts",
}


@dataclass(frozen=True, slots=True)
class Preparation:
    """Something seen to for one wiring of a campaign, or skipped with a reason; ``data`` is what was found."""

    wiring_key: str
    item: Item
    done: bool
    reason: str
    by: str
    at: datetime
    data: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Skip:
    """An item that was left out before an attempt, for a reason; it stands with the attempt."""

    item: Item
    reason: str
    by: str

    @property
    def words(self) -> str:
        """As people read it."""
        return f"{ITEM_NAMES[self.item]} skipped: {self.reason} ({self.by})"


Seen = Mapping[Item, Preparation]
"""What was last done or skipped of each item, for one wiring."""


def latest(preparations: Iterable[Preparation], wiring_key: str) -> Seen:
    """What was last done or skipped of each item."""
    return {one.item: one for one in preparations if one.wiring_key == wiring_key}


def open_items(seen: Seen) -> list[Item]:
    """What is neither done nor skipped."""
    return [item for item in Item if item not in seen]


def skips(seen: Seen) -> tuple[Skip, ...]:
    """What was skipped and why."""
    return tuple(Skip(item, one.reason, one.by) for item, one in seen.items() if not one.done)


def clamp_zero_amps(seen: Seen) -> float:
    """The clamp's zero as it was measured; 0 where that was skipped."""
    one = seen.get(Item.CLAMP)
    return float(one.data["zero_amps"]) if one is not None and one.done else 0.0


def loads_were_measured(seen: Seen) -> bool:
    """Whether the loads were measured."""
    one = seen.get(Item.LOADS)
    return one is not None and one.done


def gains_turned(preparations: Iterable[Preparation]) -> dict[int, float]:
    """How far gain controls were turned in all, in dB by channel: they stay where they were left."""
    turned: dict[int, float] = {}
    for one in preparations:
        for channel, by_db in one.data.get("turned_db", {}).items():
            turned[int(channel)] = turned.get(int(channel), 0.0) + by_db
    return turned
