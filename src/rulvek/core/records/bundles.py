"""What one lab hands to another: a model with units and campaigns, in a shape that needs nothing of either database.

Numbers of runs, attempts and units are those of the lab that packed it; they only tie parts of the bundle together.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, fields, is_dataclass, replace
from datetime import date, datetime, timedelta
from enum import StrEnum
from typing import Annotated, Any, ClassVar, Generic, Literal, TypeVar

from annotated_types import Ge

from rulvek.core.errors import BadInput
from rulvek.core.quantities import EARLIEST, ENTERED, Name, SupplyVolts, Title
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.before_power import Preparation
from rulvek.core.records.campaigns import Run
from rulvek.core.records.claims import ClaimTerms, Withdrawal
from rulvek.core.records.documents import Digest, DocumentEntry
from rulvek.core.records.entered import (
    ModelEntry,
    SeriesEntry,
    StandInEntry,
    UnitEntry,
    refuse_unfit_claim,
    refuse_unfit_unit,
    refuse_unnamed,
)
from rulvek.core.records.inside import InsideEntry, PhotographEntry
from rulvek.core.records.kept import NAMED, Kind, files_of, refuse_unfit
from rulvek.core.records.listening import ListeningEntry
from rulvek.core.records.outside import Origin, Outside
from rulvek.core.records.product import Product
from rulvek.core.records.revisions import LotEntry, RevisionEntry
from rulvek.core.records.wishes import Wishes

Format = Literal["rulvek-bundle-1"]
FORMAT: Format = "rulvek-bundle-1"
MOST_ATTEMPTS = 1_000
"""Others wait to write while a bundle is taken in."""
MOST_CHARACTERS = 20_000
"""Of a text; described stand-ins are the longest."""
DEEPEST = 40
LARGEST = 1e15
ELSEWHERE = "another lab"
EXACT = {"extra": "forbid", "allow_inf_nan": False}
"""For evidence: to the last blank as it stands on record."""
E = TypeVar("E")


class Scope(StrEnum):
    """What a bundle is of."""

    MODEL = "model"
    UNIT = "unit"
    CAMPAIGN = "campaign"


@dataclass(frozen=True, slots=True)
class Entered(Generic[E]):
    """Something that is kept with a model or a unit; by whom and when it was entered tells it from others."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    entry: E
    by: Title
    at: datetime
    closed: bool = False


@dataclass(frozen=True, slots=True)
class BundleClaim:
    """A claim, and why it is no longer made where that is so."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    terms: ClaimTerms
    by: Title
    at: datetime
    withdrawn: Withdrawal | None = None


@dataclass(frozen=True, slots=True)
class BundleUnit:
    """A unit with what is kept of it; ``design`` names its own simulated amplifier, if it is not its model's."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    entry: UnitEntry
    design: Name = ""
    insides: tuple[Entered[InsideEntry], ...] = ()
    photographs: tuple[Entered[PhotographEntry], ...] = ()
    listening: tuple[Entered[ListeningEntry], ...] = ()

    def kept(self) -> Iterator[tuple[Kind, Entered[Any]]]:
        """Everything that is kept with it."""
        yield from ((Kind.INSIDE, one) for one in self.insides)
        yield from ((Kind.PHOTOGRAPH, one) for one in self.photographs)
        yield from ((Kind.LISTENING, one) for one in self.listening)


@dataclass(frozen=True, slots=True)
class BundleFile:
    """A file that somebody brought; captures and recordings are named by their attempts."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    sha256: Digest
    name: Title
    media: Literal["image/jpeg", "application/pdf", "audio/wav"]


@dataclass(frozen=True, slots=True)
class Bundle:
    """A model with what is kept of it and of some of its units: ``bundle.json``. Each campaign is a file of its own.

    Attributes:
        lab: How the lab that packed it calls itself; empty where it does not say.
        of: What was asked for, by name.
        chain_entries, chain_head: Where that lab's audit chain ended.
        others: Serial numbers of units that are spoken of, by their numbers there.
        campaigns: How many there are.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    format: Format
    lab: Name
    scope: Scope
    of: Title
    packed_by: Title
    packed_at: datetime
    chain_entries: Annotated[int, Ge(0)]
    chain_head: Name
    series: SeriesEntry
    model: ModelEntry
    stand_in: StandInEntry = StandInEntry()
    claims: tuple[BundleClaim, ...] = ()
    revisions: tuple[Entered[RevisionEntry], ...] = ()
    lots: tuple[Entered[LotEntry], ...] = ()
    documents: tuple[Entered[DocumentEntry], ...] = ()
    units: tuple[BundleUnit, ...] = ()
    others: Mapping[int, Name] = field(default_factory=dict)
    files: tuple[BundleFile, ...] = ()
    campaigns: Annotated[int, Ge(0)] = 0

    def kept(self) -> Iterator[tuple[Kind, Entered[Any]]]:
        """Everything that is kept with the model itself."""
        yield from ((Kind.REVISION, one) for one in self.revisions)
        yield from ((Kind.LOT, one) for one in self.lots)
        yield from ((Kind.DOCUMENT, one) for one in self.documents)


def renumbered(bundle: Bundle, numbers: Mapping[str, int]) -> Bundle:
    """A bundle whose units are spoken of by other numbers: those that ``numbers`` has for their serial numbers."""

    def spoken_of(one: Entered[ListeningEntry]) -> Entered[ListeningEntry]:
        compared = tuple(
            replace(other, than_unit=numbers[bundle.others[other.than_unit]]) for other in one.entry.comparisons
        )
        return replace(one, entry=replace(one.entry, comparisons=compared))

    units = tuple(replace(unit, listening=tuple(map(spoken_of, unit.listening))) for unit in bundle.units)
    return replace(bundle, units=units, others={numbers[serial]: serial for serial in bundle.others.values()})


@dataclass(frozen=True, slots=True)
class BundleStep:
    """What happened in an attempt, ``at_seconds`` after it began."""

    __pydantic_config__: ClassVar[Any] = EXACT

    kind: Name
    at_seconds: float
    data: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class BundleCampaign:
    """A campaign with its runs as planned and the attempts at them that have ended: ``campaigns/1.json`` and on.

    Attributes:
        unit: Its serial number.
        came_from: The lab that conducted it, where that is not the one that packed it.
        method: The method profile, as it is stored with a campaign.
        steps: By the number of their attempt.
    """

    __pydantic_config__: ClassVar[Any] = EXACT

    unit: Name
    bench: Title
    supply_volts: SupplyVolts
    method: Mapping[str, Any]
    wishes: Wishes
    created_by: Title
    created_at: datetime
    runs: tuple[Run, ...]
    preparations: tuple[Preparation, ...] = ()
    steps: Mapping[int, tuple[BundleStep, ...]] = field(default_factory=dict)
    came_from: Title = ""

    @property
    def key(self) -> tuple[str, str, datetime]:
        """What tells it from all other campaigns, in every lab."""
        return self.unit.casefold(), self.created_by, self.created_at

    @property
    def attempts(self) -> Iterator[tuple[Run, Attempt]]:
        """Every attempt with its run."""
        return ((run, attempt) for run in self.runs for attempt in run.attempts)

    def brought_by(self, lab: str) -> "BundleCampaign":
        """As it stands in the lab that takes it in: its bench is one of the lab that conducted it.

        A bench's name alone would make it one of the benches here.
        """
        if self.came_from:
            return self
        origin = lab or ELSEWHERE
        return replace(self, came_from=origin, bench=f"{self.bench}, {origin}"[:200])


def refuse_odd_data(data: Any, field: str = "file", depth: int = 0) -> None:
    """Hold plain data of a bundle to what any part of it may be, before it is made into anything.

    Raises:
        BadInput: text of unlikely length or with characters that are none, a number that is none, or too deep.
    """
    if depth > DEEPEST:
        raise BadInput("The bundle is nested too deeply.", field="file")
    match data:
        case str() if len(data) > MOST_CHARACTERS or "\0" in data:
            raise BadInput(f"A text of the bundle at {field} is too long, or none.", field="file")
        case bool():
            return
        case int() | float() if not (math.isfinite(data) and abs(data) <= LARGEST):
            raise BadInput(f"A number of the bundle at {field} is out of all bounds.", field="file")
        case dict():
            for name, value in data.items():
                refuse_odd_data(name, field, depth + 1)
                refuse_odd_data(value, str(name)[:80], depth + 1)
        case list():
            for value in data:
                refuse_odd_data(value, field, depth + 1)


def refuse_unfit_bundle(bundle: Bundle, campaigns: Sequence[BundleCampaign], now: datetime) -> None:
    """Hold a bundle to itself: every part as if it were entered, and all that it speaks of in it.

    Raises:
        BadInput: what is wrong with it, in a sentence.
    """
    product = bundle.model.product()
    refuse_unnamed(bundle.series)
    refuse_unlikely_moments(bundle, now)
    for claim in bundle.claims:
        refuse_unfit_claim(claim.terms, product)
    known = {one.sha256 for one in bundle.files}
    kept = [*bundle.kept(), *(one for unit in bundle.units for one in unit.kept())]
    for kind, one in kept:
        refuse_unfit(kind, one.entry, now.date())
        if isinstance(one.entry, ListeningEntry) and any(
            other.than_unit not in bundle.others for other in one.entry.comparisons
        ):
            raise BadInput("A unit is compared with one that the bundle does not name.", field="file")
        if any(sha256 not in known for sha256 in files_of(one.entry)):
            raise BadInput(f"A {kind.value} names a file that the bundle does not hold.", field="file")
    for kind in NAMED:
        _refuse_twice([one.entry.name for what, one in bundle.kept() if what is kind], kind.value)
    for unit in bundle.units:
        refuse_unfit_unit(unit.entry, now.date())
    serials = [unit.entry.serial for unit in bundle.units]
    _refuse_twice(serials, "unit")
    if len({campaign.key for campaign in campaigns}) != len(campaigns):
        raise BadInput("A campaign is in the bundle twice.", field="file")
    if sum(1 for campaign in campaigns for _ in campaign.attempts) > MOST_ATTEMPTS:
        what = f"A bundle has at most {MOST_ATTEMPTS} attempts."
        raise BadInput(what, todo="Let it be packed by unit or by campaign.", field="file")
    for campaign in campaigns:
        if campaign.unit not in serials:
            raise BadInput(f"A campaign is of a unit {campaign.unit}, which the bundle does not hold.", field="file")
        refuse_unlikely_moments(campaign, now)
        _refuse_unfit_campaign(campaign, product)


def _refuse_twice(names: Sequence[str], what: str) -> None:
    if len({name.strip().casefold() for name in names}) != len(names):
        raise BadInput(f"A {what} is in the bundle twice.", field="file")


def _refuse_unfit_campaign(campaign: BundleCampaign, product: Product) -> None:
    where = f"A campaign of {campaign.unit}"
    if [run.position for run in campaign.runs] != list(range(1, len(campaign.runs) + 1)):
        raise BadInput(f"{where} does not count its runs from 1.", field="file")
    ids = [attempt.id for _, attempt in campaign.attempts]
    if len(set(ids)) != len(ids) or not set(campaign.steps) <= set(ids):
        raise BadInput(f"{where} has attempts that cannot be told apart.", field="file")
    for run in campaign.runs:
        group = product.group(run.spec.group)
        read = {pair[0] for pair in group.read(run.spec.bridged)}
        wired = [channel for link in run.companions for channel in link.channels]
        if not run.channels or not set(run.channels) <= read or not set(wired) <= product.channels:
            raise BadInput(f"{where} reads channels that its model does not have.", field="file")
        if [attempt.number for attempt in run.attempts] != list(range(1, len(run.attempts) + 1)):
            raise BadInput(f"{where} does not count its attempts from 1.", field="file")
        own = {attempt.id for attempt in run.attempts}
        if any(choice.attempt_id not in own for choice in run.choices):
            raise BadInput(f"{where} chooses an attempt that is not one of its run.", field="file")
        for attempt in run.attempts:
            _refuse_unfit_attempt(attempt, run, where)


def _refuse_unfit_attempt(attempt: Attempt, run: Run, where: str) -> None:
    if attempt.ending is None:
        raise BadInput(f"{where} has an attempt that has not ended.", field="file")
    read = [reading.channel for reading in attempt.readings]
    if len(set(read)) != len(read) or not set(read) <= set(run.channels):
        raise BadInput(f"{where} has readings of channels that were not under test.", field="file")
    if attempt.outside is not None and (attempt.simulated or attempt.outside.origin is not _origin(attempt.outside)):
        raise BadInput(f"{where} does not say where its readings come from.", field="file")
    likely = [0 <= one.watts <= 1e5 and 0 <= one.volts_rms <= 1e3 for one in attempt.readings]
    likely += [
        0.01 <= one.load.nominal_ohms <= 1e3 and 0.01 <= one.load.measured_ohms <= 1e3 for one in attempt.readings
    ]
    likely += [0 <= one.watts <= 1e5 for one in attempt.seconds]
    likely += [(one.thd_n or 0) >= 0 and (one.thd or 0) >= 0 for one in attempt.readings]
    if not all(likely):
        raise BadInput(f"{where} has readings that no amplifier gives.", field="file")


def _origin(outside: Outside) -> Origin:
    return Origin.RECORDING if outside.original else Origin.TABLE if outside.file else Origin.BY_HAND


def refuse_unlikely_moments(shape: Any, now: datetime) -> None:
    """Hold every date and time of a shape to what can be; clocks of labs may differ by a day.

    Raises:
        BadInput: a time without a zone, one that has not come yet, or one before there was anything to measure.
    """
    for moment in _moments(shape):
        if moment.tzinfo is None or not EARLIEST <= moment.date() <= (now + timedelta(days=1)).date():
            raise BadInput(f"The bundle has a time that cannot be: {moment.isoformat()}.", field="file")


def _moments(shape: Any) -> Iterator[datetime]:
    match shape:
        case datetime():
            yield shape
        case date() | str():
            return
        case tuple() | list():
            for one in shape:
                yield from _moments(one)
        case Mapping():
            for one in shape.values():
                yield from _moments(one)
        case _ if is_dataclass(shape):
            for item in fields(shape):
                yield from _moments(getattr(shape, item.name))
