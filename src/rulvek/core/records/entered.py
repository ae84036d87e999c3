"""What a lab enters of its own line: series, models with their channel groups, and units; held to what can be."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Le, Len

from rulvek.core.errors import BadInput
from rulvek.core.quantities import (
    ENTERED,
    Amps,
    BandHertz,
    Name,
    Ohms,
    SupplyVolts,
    Title,
    Volts,
    refuse_impossible_day,
    refuse_out_of_bounds,
)
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.facts import (
    ModelFacts,
    UnitFacts,
    refuse_no_currency,
    refuse_unlikely_model,
    refuse_unlikely_unit,
)
from rulvek.core.records.product import ChannelGroup, Model, Product

MOST_CHANNELS = 16
Loads = Annotated[tuple[Ohms, ...], Len(0, 12)]


@dataclass(frozen=True, slots=True)
class SeriesEntry:
    """A product series. ``rating_step_watts`` is the step to which its ratings are rounded, in ``currency`` its prices.

    Both are None and empty where nobody said so.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    purpose: Title = ""
    rating_step_watts: Annotated[float, Ge(0.1), Le(1_000)] | None = None
    currency: Annotated[str, Len(0, 3)] = ""


@dataclass(frozen=True, slots=True)
class GroupEntry:
    """So many channels that are alike, with the loads that they are rated for, per channel and per bridged pair.

    ``topology`` is empty where it is the model's; the band is what the papers state of the group, or None.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    channels: Annotated[int, Ge(1), Le(MOST_CHANNELS)]
    rated_loads: Loads
    bridged_loads: Loads = ()
    bass: bool = False
    topology: Literal["", "AB", "D"] = ""
    band_low_hz: BandHertz | None = None
    band_high_hz: BandHertz | None = None


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
    facts: ModelFacts = ModelFacts()

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
                GroupEntry(
                    group.name,
                    len(group.channels),
                    group.rated_loads,
                    group.bridged_loads,
                    group.bass,
                    _class(group.topology),
                    group.band_low_hz,
                    group.band_high_hz,
                )
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
            facts=model.facts,
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
        refuse_unlikely_model(self.facts)
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
                    group.topology,
                    group.band_low_hz,
                    group.band_high_hz,
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
    facts: UnitFacts = UnitFacts()


def unit_entry(unit: Unit) -> UnitEntry:
    """What a unit on record was entered as."""
    return UnitEntry(unit.serial, unit.lot, unit.revision, unit.origin, unit.received_at.date(), unit.facts)


def refuse_unnamed(entry: SeriesEntry) -> None:
    """Hold a series to its bounds.

    Raises:
        BadInput: no name, a text that is too long, or a currency that is none.
    """
    refuse_out_of_bounds(entry)
    _refuse_unnamed(entry.name)
    if entry.currency:
        refuse_no_currency(entry.currency, "currency")


def refuse_unfit_unit(entry: UnitEntry, today: date) -> None:
    """Hold a unit to its bounds, and to what can be.

    Raises:
        BadInput: no serial number, or a field by its name.
    """
    refuse_out_of_bounds(entry)
    if not entry.serial.strip():
        raise BadInput("A unit goes by its serial number.", field="serial")
    if entry.received_on is not None:
        refuse_impossible_day(entry.received_on, today, "received_on")
    refuse_unlikely_unit(entry.facts, today)


def refuse_unfit_claim(terms: ClaimTerms, product: Product) -> None:
    """Hold a claim to its bounds, to its model, and to what a document can state.

    Raises:
        BadInput: a group that the model does not have, or conditions that contradict themselves.
    """
    refuse_out_of_bounds(terms)
    group = product.group(terms.group)
    if terms.bridged and len(group.channels) < 2:
        raise BadInput(f"The group “{terms.group}” has one channel and cannot be bridged.", field="bridged")
    if not terms.document.strip():
        raise BadInput("Name the document that states the figure.", field="document")
    if (terms.band_low_hz is None) != (terms.band_high_hz is None):
        raise BadInput("A band needs both its limits, or neither.", field="band_high_hz")
    if terms.band_low_hz is not None and terms.band_high_hz is not None and terms.band_low_hz > terms.band_high_hz:
        raise BadInput("The band's lower limit must not lie above its upper one.", field="band_low_hz")
    if terms.supply_high_volts is not None:
        if terms.supply_volts is None:
            raise BadInput("A range of volts needs its lower end, too.", field="supply_volts")
        if terms.supply_high_volts <= terms.supply_volts:
            raise BadInput("The upper end of the volts must lie above the lower one.", field="supply_high_volts")


def _refuse_unnamed(name: str) -> None:
    if not name.strip():
        raise BadInput("Give it a name.", field="name")


def _refuse_group(group: GroupEntry, others: set[str], field: str) -> None:
    name = group.name.strip()
    if not name:
        raise BadInput("Give the group a name, as “main” or “bass”.", field=f"{field}.name")
    if name.casefold() in others:
        raise BadInput(f"There are two groups “{name}”.", field=f"{field}.name")
    if (group.band_low_hz is None) != (group.band_high_hz is None):
        raise BadInput("A band needs both its limits, or neither.", field=f"{field}.band_high_hz")
    if group.band_low_hz is not None and group.band_high_hz is not None and group.band_low_hz >= group.band_high_hz:
        raise BadInput("The band's upper limit must lie above its lower one.", field=f"{field}.band_high_hz")
    if not group.rated_loads:
        raise BadInput(f"Say which loads “{name}” is rated for.", field=f"{field}.rated_loads")
    if group.bridged_loads and group.channels % 2:
        words = "one channel" if group.channels == 1 else f"{group.channels} channels"
        raise BadInput(f"“{name}” has {words}: pairs need an even number.", field=f"{field}.bridged_loads")


def _class(topology: str) -> Literal["", "AB", "D"]:
    return "AB" if topology == "AB" else "D" if topology == "D" else ""


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
