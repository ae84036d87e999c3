"""Why a run is repeated."""

from enum import StrEnum


class Cause(StrEnum):
    """Why a run is repeated."""

    STARTED_BADLY = "started_badly"
    SUPPLY_LOW = "supply_low"
    CONNECTION = "connection"
    GAINS = "gains"
    PROTECTION = "protection"
    OTHER = "other"
