"""What a plan is made by."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from enum import StrEnum
from typing import Any

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.runs.modes import Mode


class Order(StrEnum):
    """The two schools of ordering a day's runs."""

    BY_LOAD = "by_load"
    """All modes of one load, then the next load: rewires least."""
    BY_MODE = "by_mode"
    """All loads of one mode, then the next mode."""


class Loading(StrEnum):
    """The two ways to load groups of several channels."""

    EACH = "each"
    """A load on every channel."""
    PAIRS = "pairs"
    """Bridged pairs: 2R across a pair stands for R on each of its channels."""


@dataclass(frozen=True, slots=True)
class Wishes:
    """What a proposal is made by.

    Attributes:
        modes: The modes to run; at least one.
        held_volts: For the policy "held"; the method's reference when None.
        tones: Hz by group, where not the method's own.
        bursts: Burst profile by group, where not the method's own.
        exploratory: Whether to add a burst run below the lowest rated load of each group.
    """

    modes: tuple[Mode, ...] = tuple(Mode)
    order: Order = Order.BY_LOAD
    loading: Loading = Loading.EACH
    policy: SupplyPolicy = SupplyPolicy.HELD
    held_volts: float | None = None
    tones: Mapping[str, float] = field(default_factory=dict)
    bursts: Mapping[str, str] = field(default_factory=dict)
    exploratory: bool = False

    def as_data(self) -> dict[str, Any]:
        """Plain values, to be stored with a campaign."""
        return asdict(self) | {"modes": [mode.value for mode in self.modes]}

    @classmethod
    def from_data(cls, data: Mapping[str, Any]) -> "Wishes":
        """What a plan was made by; campaigns from before there was a choice ran certified at one voltage."""
        return cls(
            modes=tuple(Mode(mode) for mode in data.get("modes", ["certified"])),
            order=Order(data.get("order", Order.BY_LOAD)),
            loading=Loading(data.get("loading", Loading.EACH)),
            policy=SupplyPolicy(data.get("policy", SupplyPolicy.HELD)),
            held_volts=data.get("held_volts"),
            tones=dict(data.get("tones", {})),
            bursts=dict(data.get("bursts", {})),
            exploratory=bool(data.get("exploratory", False)),
        )
