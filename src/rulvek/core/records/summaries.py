"""Campaigns in small, as lists have them, and which attempts a list is to show."""

from dataclasses import dataclass
from datetime import date, datetime

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.runs.modes import End, Mode


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


@dataclass(frozen=True, slots=True)
class AttemptFilter:
    """Which attempts somebody wants to see; what is None (or empty) does not matter.

    Attributes:
        unit: Any part of the serial number; ``model`` of the model's name, ``person`` of who started it.
        since, until: Days, both included.
        check: A code that its checks found and nobody set aside; "any" for any doubt or invalid reading.
        stands: Whether it stands for its run.
    """

    model_id: int | None = None
    model: str = ""
    unit: str = ""
    mode: Mode | None = None
    load_ohms: float | None = None
    end: End | None = None
    person: str = ""
    since: date | None = None
    until: date | None = None
    check: str = ""
    stands: bool | None = None
