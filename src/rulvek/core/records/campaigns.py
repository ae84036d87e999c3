"""Units, and the campaigns that they go through: runs as planned, with the attempts at them."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime

from rulvek.core.electrical.loads import Connection
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import Unreadable
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.before_power import Preparation, Seen, latest
from rulvek.core.records.facts import UnitFacts
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.spec import RunSpec

SIMULATED = "simulated"
"""The sort of bench behind which there is no amplifier; what it gives can never back a published rating."""


@dataclass(frozen=True, slots=True)
class Unit:
    """One serial-numbered sample of a model. ``design`` names its own simulated amplifier; empty for its model's."""

    id: int
    model_id: int
    serial: str
    lot: str
    revision: str
    origin: str
    received_at: datetime
    design: str = ""
    facts: UnitFacts = UnitFacts()


@dataclass(frozen=True, slots=True)
class Choice:
    """Which attempt stands for a run, by whose choice and why."""

    attempt_id: int
    reason: str
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class Expected:
    """What the planner expected of a run; None in campaigns from before it was kept."""

    watts: float | None = None
    amps: float | None = None
    minutes: float | None = None


@dataclass(frozen=True, slots=True)
class Run:
    """A planned run; what came of it stands in its attempts, in their order. The latest choice counts."""

    id: int
    position: int
    spec: RunSpec
    channels: tuple[int, ...]
    companions: tuple[Connection, ...] = ()
    reason: str = ""
    exploratory: bool = False
    wiring: int = 1
    wiring_key: str = ""
    expected: Expected = field(default_factory=Expected)
    attempts: tuple[Attempt, ...] = ()
    choices: tuple[Choice, ...] = ()

    @property
    def under_test(self) -> tuple[Connection, ...]:
        """The connections that are read; a bridged pair is its first channel and the one after."""
        return tuple(
            Connection((channel, channel + 1) if self.spec.bridged else (channel,), self.spec.load_ohms)
            for channel in self.channels
        )

    def read_wholly(self, attempt: Attempt) -> bool:
        """Whether every connection under test was read in an attempt."""
        return len(attempt.readings) >= len(self.channels)

    @property
    def wired(self) -> tuple[Connection, ...]:
        """Everything that is loaded."""
        return (*self.under_test, *self.companions)


@dataclass(frozen=True, slots=True)
class Campaign:
    """One unit on one bench through one plan, under one method profile that is stored with it.

    ``came_from`` names the lab that conducted it, empty for this one; nothing of it is conducted here.
    ``unreadable`` are attempts on record that cannot be understood, each with its name.
    """

    id: int
    unit: Unit
    bench: str
    supply_volts: float
    method: MethodProfile
    wishes: Wishes
    created_by: str
    created_at: datetime
    runs: tuple[Run, ...] = ()
    preparations: tuple[Preparation, ...] = ()
    came_from: str = ""
    unreadable: tuple[Unreadable, ...] = ()

    @property
    def policy(self) -> SupplyPolicy:
        """How the supply is used."""
        return self.wishes.policy

    def seen_to(self, wiring_key: str) -> Seen:
        """What was last done or skipped before power, for a wiring."""
        return latest(self.preparations, wiring_key)

    def attempts(self) -> Iterator[tuple[Run, Attempt]]:
        """Every attempt with its run."""
        return ((run, attempt) for run in self.runs for attempt in run.attempts)
