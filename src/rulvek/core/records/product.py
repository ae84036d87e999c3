"""Models: their channel groups, what each is rated for, their supply and fuses, and what is claimed of them."""

from dataclasses import dataclass

from rulvek.core.errors import BadInput
from rulvek.core.records.claims import Claim
from rulvek.core.records.facts import ModelFacts
from rulvek.core.runs.spec import place_key


@dataclass(frozen=True, slots=True)
class ChannelGroup:
    """Channels that are alike and drive alike.

    Attributes:
        name: "main", "bass" …
        channels: Their numbers, counted from 1 over the whole amplifier.
        rated_loads: Ω per channel, the lowest rated value included.
        bridged_loads: Ω per bridged pair; empty where the group cannot be bridged.
        bass: Whether the group only carries bass, and so takes the bass tone.
        topology: Class of its output stages where it is another than the model's; empty otherwise.
        band_low_hz, band_high_hz: The band that papers state of the group; None where they state none.
    """

    name: str
    channels: tuple[int, ...]
    rated_loads: tuple[float, ...]
    bridged_loads: tuple[float, ...] = ()
    bass: bool = False
    topology: str = ""
    band_low_hz: float | None = None
    band_high_hz: float | None = None

    def read(self, bridged: bool) -> tuple[tuple[int, ...], ...]:
        """What is read together: each channel by itself, or each bridged pair; a run names a pair by its first channel.

        >>> ChannelGroup("main", (1, 2, 3, 4), (4.0,)).read(bridged=True)
        ((1, 2), (3, 4))
        """
        if not bridged:
            return tuple((channel,) for channel in self.channels)
        return tuple(zip(self.channels[::2], self.channels[1::2], strict=False))

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

    @property
    def channels(self) -> frozenset[int]:
        """Every channel."""
        return frozenset(channel for group in self.groups for channel in group.channels)

    def group(self, name: str) -> ChannelGroup:
        """A group by name.

        Raises:
            BadInput: there is no such group.
        """
        for group in self.groups:
            if group.name == name:
                return group
        names = ", ".join(group.name for group in self.groups)
        raise BadInput(f"There is no channel group “{name}”; it has {names}.", field="group")


@dataclass(frozen=True, slots=True)
class Model:
    """A product on record. ``design`` names the simulated amplifier that stands in for it on a simulated bench,
    unless ``described_design`` describes one (as ``rulvek simulate`` takes it).

    ``claims`` holds withdrawn ones too.
    """

    id: int
    series_name: str
    name: str
    description: str
    product: Product
    sensitivity_volts: float
    test_controls: tuple[str, ...]
    design: str
    claims: tuple[Claim, ...] = ()
    described_design: str = ""
    facts: ModelFacts = ModelFacts()

    @property
    def standing_claims(self) -> tuple[Claim, ...]:
        """Claims that are still made."""
        return tuple(claim for claim in self.claims if claim.withdrawn is None)

    @property
    def places(self) -> tuple[tuple[str, float, bool], ...]:
        """Group, load and wiring, rated or claimed: by group, per channel before bridged, lightest load first."""
        found: dict[tuple[str, str, bool], tuple[str, float, bool]] = {}
        for group in self.product.groups:
            own = [(group.name, load, False) for load in group.rated_loads]
            own += [(group.name, load, True) for load in group.bridged_loads]
            own += [claim.place for claim in self.standing_claims if claim.group == group.name]
            for place in sorted(own, key=lambda p: (p[2], -p[1])):
                found.setdefault(place_key(place), place)
        return tuple(found.values())
