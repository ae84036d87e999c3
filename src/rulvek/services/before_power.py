"""What must be seen to before power, for each wiring, and what was: read from the records."""

from collections.abc import Iterable
from enum import StrEnum
from typing import Any

from rulvek.services.views.campaign import PreparationView
from rulvek.store import tables


class Item(StrEnum):
    """The list before power, in the order in which it is worked through."""

    CLAMP = "clamp"
    LOADS = "loads"
    CONTROLS = "controls"
    GAINS = "gains"
    SUPPLY = "supply"


NAMES = {
    Item.CLAMP: "clamp's zero",
    Item.LOADS: "loads",
    Item.CONTROLS: "controls",
    Item.GAINS: "gains",
    Item.SUPPLY: "supply's volts",
}


def latest(campaign: tables.Campaign, wiring_key: str) -> dict[Item, tables.Preparation]:
    """What was last done or skipped of each item."""
    return {Item(row.item): row for row in campaign.preparations if row.wiring_key == wiring_key}


def open_items(campaign: tables.Campaign, wiring_key: str) -> list[str]:
    """Names of what is neither done nor skipped."""
    seen = latest(campaign, wiring_key)
    return [NAMES[item] for item in Item if item not in seen]


def skipped_in_words(campaign: tables.Campaign, wiring_key: str) -> list[str]:
    """What was skipped and why; stands with every attempt of that wiring."""
    seen = latest(campaign, wiring_key)
    return [f"{NAMES[item]} skipped: {row.reason} ({row.by})" for item, row in seen.items() if not row.done]


def was_skipped(skipped: Iterable[str], item: Item) -> bool:
    """Whether an attempt's list of what was skipped holds an item."""
    return any(text.startswith(f"{NAMES[item]} skipped") for text in skipped)


def prepared_zero(campaign: tables.Campaign, wiring_key: str) -> float:
    """The clamp's zero in A as it was measured; 0 where that was skipped."""
    row = latest(campaign, wiring_key).get(Item.CLAMP)
    return float(row.data["zero_amps"]) if row is not None and row.done else 0.0


def prepared_loads(campaign: tables.Campaign, wiring_key: str) -> bool:
    """Whether the loads were measured."""
    row = latest(campaign, wiring_key).get(Item.LOADS)
    return row is not None and row.done


def preparation_views(campaign: tables.Campaign, wiring_key: str) -> list[PreparationView]:
    """The whole list of a wiring, with what was found."""
    seen = latest(campaign, wiring_key)
    return [_view(item, seen.get(item)) for item in Item]


def _view(item: Item, row: tables.Preparation | None) -> PreparationView:
    return PreparationView(
        item=item.value,
        state="open" if row is None else "done" if row.done else "skipped",
        found="" if row is None else found_in_words(item, row.data) if row.done else row.reason,
        deviations=[] if row is None else _deviations(row.data),
        by=row.by if row else None,
        at=row.at if row else None,
    )


def found_in_words(item: Item, data: dict[str, Any]) -> str:
    """What was found, in a line."""
    match item:
        case Item.CLAMP:
            return f"reads {data['zero_amps']:+.2f} A with nothing flowing; taken off from now on".replace("-", "−")
        case Item.LOADS:
            off = [100 * (load["measured"] / load["nominal"] - 1) for load in data["loads"].values()]
            return f"{len(off)} measured, {min(off):+.1f} to {max(off):+.1f} % from nominal".replace("-", "−")
        case Item.CONTROLS:
            return f"{len(data['ticked'])} in test position"
        case Item.GAINS:
            if not data["deviations_db"]:
                return "one channel: nothing to match"
            return f"within {data['worst_db']:.2f} dB; source at {data['source_dbv']:.1f} dBV for full output".replace(
                "-", "−"
            )
        case Item.SUPPLY:
            return f"{data['volts']:.2f} V at the terminals, at rest"


def _deviations(data: dict[str, Any]) -> list[float]:
    return [float(value) for value in data.get("deviations_db", {}).values()]
