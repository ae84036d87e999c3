"""What the planner has to know of a model: its channel groups and what each is rated for."""

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
