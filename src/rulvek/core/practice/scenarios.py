"""Jobs to practise on: what lies on the bench, what is planted, and what is asked; all of it drawn by a seed."""

import random
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.method.profile import MethodProfile
from rulvek.core.practice.faults import LESSONS, Fault
from rulvek.core.practice.sayings import Saying
from rulvek.core.runs.modes import Mode


class Level(StrEnum):
    """How hard it is."""

    FIRST = "first"
    """One fault that shows at one place."""
    SECOND = "second"
    """Any one fault, or none."""
    THIRD = "third"
    """Two faults, one, or none."""


@dataclass(frozen=True, slots=True)
class Job:
    """A unit on the practice bench, and how it is to be run; ``links`` are channels, or pairs where bridged."""

    words: str
    design: str
    links: tuple[tuple[int, ...], ...]
    load_ohms: float
    modes: tuple[Mode, ...] = (Mode.CERTIFIED,)
    tone_hz: float = 1000.0
    policy: SupplyPolicy = SupplyPolicy.HELD
    supply_volts: float = 14.4

    @property
    def bridged(self) -> bool:
        """Whether its loads lie across pairs."""
        return len(self.links[0]) == 2

    @property
    def is_bass(self) -> bool:
        """Whether its tone is one for channels that carry bass alone."""
        return self.tone_hz < MethodProfile().full_range_tone_hz


FOUR = ((1,), (2,), (3,), (4,))
JOBS: Mapping[str, Job] = {
    "four": Job("Four channels, class D", "four-d", FOUR, 4.0),
    "four-ab": Job("Four channels, class AB, regulated", "four-ab-regulated", FOUR, 4.0),
    "bank": Job("Four channels, class D, on a bank", "four-d", FOUR, 4.0, policy=SupplyPolicy.BANK),
    "two": Job("Two channels, class AB", "two-ab", ((1,), (2,)), 4.0),
    "clip": Job("Two channels, class AB, to clipping", "two-ab", ((1,), (2,)), 4.0, (Mode.UNCERTIFIED,)),
    "bass": Job("One channel, class D, for bass", "mono-d", ((1,),), 2.0, tone_hz=40.0),
    "burst": Job(
        "One channel, class D, steady and in bursts", "mono-d", ((1,),), 2.0, (Mode.CERTIFIED, Mode.BURST), 40.0
    ),
    "pairs": Job("Four channels, class D, bridged in pairs", "four-d", ((1, 2), (3, 4)), 4.0),
}
STEADY = ("four", "four-ab", "two", "bass")
FITS: Mapping[Fault, tuple[str, ...]] = {
    Fault.FLAT_BANK: ("bank",),
    Fault.CHARGER_ON: ("bank",),
    Fault.GAINS_APART: ("four", "four-ab", "two"),
    Fault.NOT_ALL_DRIVEN: ("four", "four-ab"),
    Fault.BOOST_ON: ("bass",),
    Fault.RAILS_SWITCH: ("burst",),
    Fault.BRIDGE_SWAPPED: ("pairs",),
    Fault.CLIPPED_PEAK: ("clip",),
    Fault.SENSED_AT_SUPPLY: ("four", "two"),
    Fault.CLAMP_NOT_ZEROED: ("four", "four-ab", "two", "bank"),
    Fault.HUM: ("four", "two"),
}
"""Jobs in which a fault shows; those that are not here show in every steady job."""
APART = (
    # What hides the other, or cannot be told from it.
    {Fault.WRONG_LOAD, Fault.BAD_CONTACT},
    {Fault.CLAMP_NOT_ZEROED, Fault.CHARGER_ON},
    {Fault.FLAT_BANK, Fault.CHARGER_ON},
    {Fault.MAXIMUM_QUOTED, Fault.FUSES_FOR_POWER},
    {Fault.LEVEL_UP, Fault.BOOST_ON},
)
NOTHING_IN = 6
"""One job of so many is sound, but for those of the first level: what is not there can be accused, too."""


@dataclass(frozen=True, slots=True)
class Scenario:
    """What was drawn.

    Attributes:
        claim_share: The document's watts over the unit's own.
        saying: What is said besides, true or not.
    """

    level: Level
    seed: int
    job: Job
    faults: tuple[Fault, ...]
    claim_share: float
    saying: Saying

    @property
    def links(self) -> tuple[tuple[int, ...], ...]:
        """What is connected and driven."""
        return self.job.links[:2] if Fault.NOT_ALL_DRIVEN in self.faults else self.job.links

    @property
    def serial(self) -> str:
        """Of the unit."""
        return f"P{self.seed:06d}"

    @property
    def key(self) -> str:
        """By which it is drawn again: “third 4711”."""
        return f"{self.level.value} {self.seed}"


def jobs_for(faults: tuple[Fault, ...]) -> list[str]:
    """In which jobs all of these show, one beside the other.

    >>> jobs_for((Fault.FLAT_BANK, Fault.CLAMP_NOT_ZEROED))
    ['bank']
    >>> jobs_for((Fault.FLAT_BANK, Fault.CHARGER_ON))
    []
    """
    if any(both <= set(faults) for both in APART):
        return []
    return [name for name in JOBS if all(name in FITS.get(one, STEADY) for one in faults)]


def drawn(level: Level, seed: int) -> Scenario:
    """The job of a seed: the same each time."""
    at = random.Random(f"practice {level.value} {seed}")
    easy = [one for one in Fault if LESSONS[one].easy]
    if level is Level.FIRST:
        faults: tuple[Fault, ...] = (at.choice(easy),)
    elif at.randrange(NOTHING_IN) == 0:
        faults = ()
    elif level is Level.SECOND:
        faults = (at.choice(list(Fault)),)
    else:
        pairs = [(one, other) for one in Fault for other in Fault if one < other and jobs_for((one, other))]
        faults = at.choice(pairs)
    job = JOBS[at.choice(jobs_for(faults) or list(JOBS))]
    above = Fault.FUSES_FOR_POWER in faults or at.random() < 0.5  # what the fuses promise is not there
    share = at.uniform(1.25, 1.6) if above else at.uniform(0.7, 0.88)
    return Scenario(level, seed, job, faults, share, at.choice(list(Saying)))


def scenario_of(key: str) -> Scenario:
    """The job of a key.

    >>> scenario_of(drawn(Level.THIRD, 4711).key) == drawn(Level.THIRD, 4711)
    True
    """
    level, _, seed = key.partition(" ")
    return drawn(Level(level), int(seed))
