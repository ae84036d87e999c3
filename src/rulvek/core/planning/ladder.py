"""The ladder of certified runs: every group at every load it is rated for, lightest load first."""

from collections.abc import Sequence
from dataclasses import dataclass

from rulvek.core.judgement.claims import Claim, ClaimKind
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.planning.product import ChannelGroup


@dataclass(frozen=True, slots=True)
class PlannedRun:
    """One run: a group under test at a load, the other channels loaded and driven as companions.

    ``channels`` are those that are read; of bridged pairs the first channel of each. ``companion_loads`` gives the
    ohms at each other channel.
    """

    group: str
    channels: tuple[int, ...]
    load_ohms: float
    bridged: bool
    tone_hz: float
    supply_volts: float
    companion_loads: tuple[tuple[int, float], ...]
    reason: str


def certified_ladder(
    groups: Sequence[ChannelGroup], claims: Sequence[Claim], method: MethodProfile, supply_volts: float
) -> tuple[PlannedRun, ...]:
    """Plan certified runs at every rated load, per channel first and bridged after.

    Within a group the lightest load comes first, so that trouble shows while the stakes are low. Every channel is
    loaded in every run: those of other groups with their lightest rated load.
    """
    runs = []
    for group in groups:
        companions = tuple(
            (channel, max(other.rated_loads))
            for other in groups
            if other.name != group.name
            for channel in other.channels
        )
        wirings = [(load, False) for load in sorted(group.rated_loads, reverse=True)]
        wirings += [(load, True) for load in sorted(group.bridged_loads, reverse=True)]
        for load, bridged in wirings:
            runs.append(
                PlannedRun(
                    group=group.name,
                    channels=group.channels[::2] if bridged else group.channels,
                    load_ohms=load,
                    bridged=bridged,
                    tone_hz=method.bass_tone_hz if group.bass else method.full_range_tone_hz,
                    supply_volts=supply_volts,
                    companion_loads=companions,
                    reason=_reason(group.name, load, bridged, claims),
                )
            )
    return tuple(runs)


def _reason(group: str, load: float, bridged: bool, claims: Sequence[Claim]) -> str:
    served = [
        claim
        for claim in claims
        if (claim.group, claim.load_ohms, claim.bridged) == (group, load, bridged)
        and claim.kind is ClaimKind.CONTINUOUS
    ]
    if not served:
        return "completes the sheet"
    return "serves " + ", ".join(f"{claim.watts:g} W ({claim.document})" for claim in served)
