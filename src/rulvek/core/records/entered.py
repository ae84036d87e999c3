"""What a lab enters of its own line: series, models with their channel groups, and units; held to what can be."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Le, Len

from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED, Amps, Name, Ohms, SupplyVolts, Title, Volts, refuse_out_of_bounds
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.product import ChannelGroup, Model, Product

MOST_CHANNELS = 16
Loads = Annotated[tuple[Ohms, ...], Len(0, 12)]


@dataclass(frozen=True, slots=True)
class SeriesEntry:
    """A product series."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    purpose: Title = ""


@dataclass(frozen=True, slots=True)
class GroupEntry:
    """So many channels that are alike, with the loads that they are rated for, per channel and per bridged pair."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    channels: Annotated[int, Ge(1), Le(MOST_CHANNELS)]
    rated_loads: Loads
    bridged_loads: Loads = ()
    bass: bool = False


@dataclass(frozen=True, slots=True)
class ModelEntry:
    """A model; its channels are counted through its groups in their order.

    Attributes:
        sensitivity_volts: Input for full output, with the controls in test position.
        test_controls: Each control with its position for a test, in words.
        fuse_amps: The fuses in its supply lead, all in parallel.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    groups: Annotated[tuple[GroupEntry, ...], Len(0, 8)]
    description: Title = ""
    topology: Literal["AB", "D"] = "D"
    regulated: bool = False
    supply_low_volts: SupplyVolts = 10.5
    supply_high_volts: SupplyVolts = 16.0
    sensitivity_volts: Volts = 1.0
    test_controls: Annotated[tuple[Title, ...], Len(0, 20)] = ()
    fuse_amps: Annotated[tuple[Amps, ...], Len(0, 12)] = ()

    @staticmethod
    def of(model: Model) -> "ModelEntry":
        """What a model on record was entered as.

        >>> entry = ModelEntry("Two", (GroupEntry("main", 2, (4.0, 2.0)),))
        >>> ModelEntry.of(Model(1, "", "Two", "", entry.product(), 1.0, (), "")) == entry
        True
        """
        product = model.product
        return ModelEntry(
            name=model.name,
            groups=tuple(
                GroupEntry(group.name, len(group.channels), group.rated_loads, group.bridged_loads, group.bass)
                for group in product.groups
            ),
            description=model.description,
            topology="AB" if product.topology == "AB" else "D",
            regulated=product.regulated,
            supply_low_volts=product.supply_range[0],
            supply_high_volts=product.supply_range[1],
            sensitivity_volts=model.sensitivity_volts,
            test_controls=model.test_controls,
            fuse_amps=product.fuse_amps,
        )

    def product(self) -> Product:
        """The model as the planner sees it.

        >>> groups = (GroupEntry("main", 4, (4.0, 2.0), (4.0,)), GroupEntry("bass", 1, (2.0,), bass=True))
        >>> [group.channels for group in ModelEntry("Five", groups).product().groups]
        [(1, 2, 3, 4), (5,)]

        Raises:
            BadInput: a field by its name, with what it would take.
        """
        refuse_out_of_bounds(self)
        _refuse_unnamed(self.name)
        if self.supply_low_volts >= self.supply_high_volts:
            raise BadInput("The supply's upper end must lie above its lower one.", field="supply_high_volts")
        if not self.groups:
            raise BadInput("A model has at least one group of channels.", field="groups")
        if any(amps == 0 for amps in self.fuse_amps):
            raise BadInput("A fuse has more than 0 A.", field="fuse_amps")
        found: list[ChannelGroup] = []
        first = 1
        for at, group in enumerate(self.groups):
            _refuse_group(group, {one.name.casefold() for one in found}, f"groups.{at}")
            channels = tuple(range(first, first + group.channels))
            first += group.channels
            found.append(
                ChannelGroup(
                    group.name.strip(),
                    channels,
                    _lightest_first(group.rated_loads),
                    _lightest_first(group.bridged_loads),
                    group.bass,
                )
            )
        if first - 1 > MOST_CHANNELS:
            raise BadInput(f"An amplifier has at most {MOST_CHANNELS} channels, not {first - 1}.", field="groups")
        volts = (self.supply_low_volts, self.supply_high_volts)
        return Product(tuple(found), self.topology, self.regulated, volts, self.fuse_amps)


@dataclass(frozen=True, slots=True)
class StandInEntry:
    """The simulated amplifier that stands in for a model: one by name, or one that is described; neither for none.

    ``described`` is TOML, as ``rulvek simulate`` takes it.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    design: Name = ""
    described: Annotated[str, Len(0, 20_000)] = ""


@dataclass(frozen=True, slots=True)
class UnitEntry:
    """A unit as it is received; ``received_on`` is None for today."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    serial: Name
    lot: Name = ""
    revision: Name = ""
    origin: Title = ""
    received_on: date | None = None


def unit_entry(unit: Unit) -> UnitEntry:
    """What a unit on record was entered as."""
    return UnitEntry(unit.serial, unit.lot, unit.revision, unit.origin, unit.received_at.date())


def refuse_unnamed(entry: SeriesEntry | UnitEntry) -> None:
    """Hold a series or a unit to its bounds.

    Raises:
        BadInput: no name (no serial number), or a text that is too long.
    """
    refuse_out_of_bounds(entry)
    if isinstance(entry, UnitEntry):
        if not entry.serial.strip():
            raise BadInput("A unit goes by its serial number.", field="serial")
    else:
        _refuse_unnamed(entry.name)


def _refuse_unnamed(name: str) -> None:
    if not name.strip():
        raise BadInput("Give it a name.", field="name")


def _refuse_group(group: GroupEntry, others: set[str], field: str) -> None:
    name = group.name.strip()
    if not name:
        raise BadInput("Give the group a name, as “main” or “bass”.", field=f"{field}.name")
    if name.casefold() in others:
        raise BadInput(f"There are two groups “{name}”.", field=f"{field}.name")
    if not group.rated_loads:
        raise BadInput(f"Say which loads “{name}” is rated for.", field=f"{field}.rated_loads")
    if group.bridged_loads and group.channels % 2:
        words = "one channel" if group.channels == 1 else f"{group.channels} channels"
        raise BadInput(f"“{name}” has {words}: pairs need an even number.", field=f"{field}.bridged_loads")


def _lightest_first(loads: tuple[float, ...]) -> tuple[float, ...]:
    return tuple(sorted(set(loads), reverse=True))


def refuse_lost_ground(before: Product, after: Product, used: Collection[str]) -> None:
    """Hold a changed model to it that what campaigns and claims speak of stays what it was.

    Args:
        used: Names of the groups that a campaign or a claim is of.

    Raises:
        BadInput: such a group is gone, or has other channels.
    """
    for group in before.groups:
        if group.name not in used:
            continue
        stays = next((one for one in after.groups if one.name == group.name), None)
        if stays is None or stays.channels != group.channels:
            what = f"Campaigns or claims speak of “{group.name}”: it keeps its name and its channels."
            raise BadInput(what, field="groups", code="in-use")
