"""What is kept of the benches themselves: how they were found when somebody looked at them."""

from dataclasses import dataclass
from datetime import datetime, timedelta


@dataclass(frozen=True, slots=True)
class Looked:
    """One look at a bench: at what, what was found, and whether that is as it should be."""

    at: str
    found: str
    passed: bool


@dataclass(frozen=True, slots=True)
class SelfTest:
    """A bench looked at.

    Attributes:
        channels: How many outputs were wired to loads.
        powered: Whether an amplifier was switched on, to see that Off works.
        looked: One after the other; an empty list has passed nothing.
    """

    id: int
    bench_id: int
    at: datetime
    by: str
    channels: int
    powered: bool
    looked: tuple[Looked, ...]

    @property
    def passed(self) -> bool:
        """Whether all was as it should be."""
        return bool(self.looked) and all(one.passed for one in self.looked)

    def holds(self, now: datetime, hours: float) -> bool:
        """Whether it passed, and no longer ago than that."""
        return self.passed and now - self.at <= timedelta(hours=hours)

    @property
    def in_words(self) -> str:
        """“9 looks passed”, or the first that failed.

        >>> from datetime import UTC
        >>> looks = (Looked("supply", "12.01 V, set to 12 V", True), Looked("load on channel 2", "4.4 Ω", False))
        >>> SelfTest(1, 1, datetime(2026, 1, 1, tzinfo=UTC), "Somebody", 2, False, looks).in_words
        'load on channel 2: 4.4 Ω'
        """
        wrong = next((one for one in self.looked if not one.passed), None)
        return f"{wrong.at}: {wrong.found}" if wrong else f"{len(self.looked)} looks passed"
