"""Campaigns in small, as lists have them."""

from dataclasses import dataclass
from datetime import datetime

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.runs.modes import Mode


@dataclass(frozen=True, slots=True)
class RunSummary:
    """A run in small; ``minutes`` is what the planner expected of it."""

    mode: Mode
    wiring_key: str
    minutes: float | None
    running: bool
    done: bool


@dataclass(frozen=True, slots=True)
class CampaignSummary:
    """A campaign in a list."""

    id: int
    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    bench: str
    supply_volts: float
    policy: SupplyPolicy
    created_by: str
    created_at: datetime
    runs: tuple[RunSummary, ...]
