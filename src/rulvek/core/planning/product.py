"""What the planner has to know of a model: its channel groups, what each is rated for, its supply and fuses."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ChannelGroup:
    """Channels that are alike and drive alike.

    Attributes:
        name: "main", "bass" …
        channels: Their numbers, counted from 1 over the whole amplifier.
        rated_loads: Ω per channel, the lowest rated value included.
        bridged_loads: Ω per bridged pair; empty where the group cannot be bridged.
        bass: Whether the group only carries bass, and so takes the bass tone.
    """

    name: str
    channels: tuple[int, ...]
    rated_loads: tuple[float, ...]
    bridged_loads: tuple[float, ...] = ()
    bass: bool = False

    def is_rated(self, ohms: float, bridged: bool) -> bool:
        """Whether a load is no lower than the lowest rated one in that wiring."""
        rated = self.bridged_loads if bridged else self.rated_loads
        return bool(rated) and ohms >= min(rated) * 0.995


@dataclass(frozen=True, slots=True)
class Product:
    """A model as the planner sees it; ``fuse_amps`` lists the fuses in its supply lead, all in parallel."""

    groups: tuple[ChannelGroup, ...]
    topology: str = "D"
    regulated: bool = False
    supply_range: tuple[float, float] = (10.5, 16.0)
    fuse_amps: tuple[float, ...] = ()

    def group(self, name: str) -> ChannelGroup:
        """A group by name.

        Raises:
            KeyError: there is no such group.
        """
        return next(group for group in self.groups if group.name == name)
