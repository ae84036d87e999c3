"""What people decide of a run."""

from dataclasses import dataclass
from typing import Any, ClassVar

from rulvek.core.quantities import ENTERED, Hertz, Name, Ohms, SupplyVolts, Watts
from rulvek.core.runs.modes import Mode


@dataclass(frozen=True, slots=True)
class RunSpec:
    """What people decide of a run; everything else of it follows from the model and the rest of the plan.

    ``load_ohms`` is per channel, or across the pair where ``bridged``. ``burst`` names a profile in burst mode;
    ``watts`` are what each channel (or pair) is to hold in proof mode.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    mode: Mode
    group: Name
    load_ohms: Ohms
    tone_hz: Hertz
    supply_volts: SupplyVolts
    bridged: bool = False
    burst: Name = ""
    watts: Watts | None = None

    @property
    def place(self) -> "Place":
        """How its group is loaded."""
        return self.group, self.load_ohms, self.bridged


Place = tuple[str, float, bool]
"""A channel group, the ohms on it, and whether they lie across bridged pairs."""


def place_key(place: Place) -> tuple[str, str, bool]:
    """The same for places whose loads carry the same nominal value, as 2.67 Ω and 8/3 Ω do.

    >>> place_key(("main", 2.6667, False)) == place_key(("main", 2.67, False))
    True
    """
    group, ohms, bridged = place
    return group, f"{ohms:.3g}", bridged


def each_channels_place(place: Place) -> Place:
    """What a bridged pair's load is to each of its channels: half the ohms.

    >>> each_channels_place(("main", 8.0, True))
    ('main', 4.0, False)
    """
    group, ohms, bridged = place
    return (group, ohms / 2, False) if bridged else place


def same_place(one: Place, other: Place) -> bool:
    """Whether two places are the same by name and nominal value."""
    return place_key(one) == place_key(other)
