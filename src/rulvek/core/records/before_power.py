"""What must be seen to before power, for each wiring, and what was."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
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


@dataclass(frozen=True, slots=True)
class SetUp:
    """That a bench was set up for a unit and a wiring: something was seen to there, or run."""

    unit_id: int
    serial: str
    wiring_key: str
    at: datetime


@dataclass(frozen=True, slots=True)
class Standing:
    """What still holds of what was seen to, and why the rest lapsed, in words by item."""

    seen: Seen
    lapsed: Mapping[Item, str]


def standing(
    seen: Seen, unit_id: int, wiring_key: str, last_set_ups: Iterable[SetUp], now: datetime, hours: float
) -> Standing:
    """What holds of what was seen to for a unit's wiring.

    Args:
        last_set_ups: Of the bench, the last, and the last for anything else than that.
        now: In the time zone whose days count.
        hours: After which it lapses on the same day, too.

    A new day, another unit or another wiring on the bench, and time end what was seen to; what was skipped as well.
    """
    other = next((one for one in last_set_ups if (one.unit_id, one.wiring_key) != (unit_id, wiring_key)), None)

    def lapse(one: Preparation) -> str:
        if other is not None and other.at > one.at:
            return f"{other.serial} was on the bench since" if other.unit_id != unit_id else "it was rewired since"
        if one.at.astimezone(now.tzinfo).date() != now.date():
            return "that was on another day"
        return f"that was more than {hours:g} h ago" if now - one.at > timedelta(hours=hours) else ""

    lapsed = {item: why for item, one in seen.items() if (why := lapse(one))}
    return Standing({item: one for item, one in seen.items() if item not in lapsed}, lapsed)


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
