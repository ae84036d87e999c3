"""Published power figures with their conditions, as papers state them."""

from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Annotated, Any, ClassVar

from annotated_types import Len

from rulvek.core.quantities import ENTERED, BandHertz, Channel, Ohms, Percent, SupplyVolts, Watts, field_names


class ClaimKind(StrEnum):
    """What sort of power a figure states."""

    CONTINUOUS = "continuous"
    BURST = "burst"
    MAXIMUM = "maximum"


@dataclass(frozen=True, slots=True)
class ClaimTerms:
    """A figure per channel (per pair where bridged) with its conditions; None where the document states none.

    A band whose ends are the same is one tone. Of a range of volts ``supply_volts`` is the low end.

    Attributes:
        total_of: Of how many channels (or pairs) ``watts`` are the total; None where they are of each.
        driven_channels: How many are driven at once where the document says so; None for all.
        load_stated: Whether the document states the load, or somebody chose at which it is judged.
        linked: Whether two units work on the load together: no run of one speaks to that.
        stands_at: Where in the document, as "page 12, table 2".

    This shape is at once what is entered, what the table's columns are made from and what is answered with.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    document: Annotated[str, Len(1, 200)]
    group: Annotated[str, Len(1, 60)]
    watts: Watts
    load_ohms: Ohms
    bridged: bool = False
    kind: ClaimKind = ClaimKind.CONTINUOUS
    supply_volts: SupplyVolts | None = None
    thd_n_percent: Percent | None = None
    band_low_hz: BandHertz | None = None
    band_high_hz: BandHertz | None = None
    supply_high_volts: SupplyVolts | None = None
    total_of: Channel | None = None
    driven_channels: Channel | None = None
    load_stated: bool = True
    linked: bool = False
    stands_at: Annotated[str, Len(0, 200)] | None = None

    @property
    def place(self) -> tuple[str, float, bool]:
        """How the group is loaded."""
        return self.group, self.load_ohms, self.bridged

    @property
    def each_watts(self) -> float:
        """Watts of each channel (or pair)."""
        return self.watts / (self.total_of or 1)

    @property
    def unstated(self) -> tuple[str, ...]:
        """Conditions that the document leaves out, in words."""
        stated = {
            "supply voltage": self.supply_volts,
            "THD+N limit": self.thd_n_percent,
            "band": self.band_low_hz,
        }
        without = () if self.load_stated else ("load",)
        return (*without, *(name for name, value in stated.items() if value is None))


@dataclass(frozen=True, slots=True)
class Withdrawal:
    """Why a claim is no longer made."""

    reason: str
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class Claim(ClaimTerms):
    """A claim on record."""

    id: int = field(kw_only=True)
    added_by: str = field(default="", kw_only=True)
    added_at: datetime | None = field(default=None, kw_only=True)
    withdrawn: Withdrawal | None = field(default=None, kw_only=True)

    @property
    def terms(self) -> ClaimTerms:
        """What the document states, without when it was put on record."""
        return ClaimTerms(*(getattr(self, name) for name in field_names(ClaimTerms)))
