"""What a practice job shows: no more than a bench's screens do."""

from dataclasses import dataclass
from enum import StrEnum

from rulvek.core.readings.point import Load, Point
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.requests import Outcome
from rulvek.core.signals.capture import Capture


@dataclass(frozen=True, slots=True)
class Claim:
    """What a document says; without a load it says watts alone."""

    words: str
    watts: float
    load_ohms: float | None


@dataclass(frozen=True, slots=True)
class Before:
    """What was found before power.

    Attributes:
        clamp_indicates: Amps, with the amplifier off.
        clamp_zero: Amps that are taken off each reading.
        loads: By connection, before the run; ``loads_after`` once it was over.
        gains_db: By channel, at the test's tone; ``beside_db`` at ``beside_hz``.
        start_volts: At the terminals, amplifier on and at rest.
    """

    clamp_indicates: float
    clamp_zero: float
    loads: dict[int, Load]
    loads_after: dict[int, Load]
    tone_hz: float
    gains_db: dict[int, float]
    beside_hz: float
    beside_db: dict[int, float]
    start_volts: float
    sink_c: float


class ReadBy(StrEnum):
    """How the watts of a run were come by."""

    RMS = "rms"
    PEAK = "peak"


@dataclass(frozen=True, slots=True)
class SweepPoint:
    """A point as it came: in which phase of the run, and whether it was over the limit."""

    point: Point
    phase: str
    over_limit: bool


@dataclass(frozen=True, slots=True)
class RunSheet:
    """One run: how it went, its outcome, and the waveform that its reading is from; None where there was none.

    ``read_watts`` are by channel, as whoever read them worked them out.
    """

    mode: Mode
    sweep: tuple[SweepPoint, ...]
    tone_hz: float
    driven: tuple[int, ...]
    outcome: Outcome
    capture: Capture | None
    read_by: ReadBy
    read_watts: dict[int, float]
    peak_volts: dict[int, float]
    limit_percent: float

    @property
    def reading(self) -> Point | None:
        """What it came to; of a burst, the most."""
        return (self.outcome.largest if self.mode is Mode.BURST else None) or self.outcome.reading

    @property
    def end(self) -> End:
        """Why it ended."""
        return self.outcome.end

    @property
    def efficiency_percent(self) -> float | None:
        """Output over the supply's watts, as the clamp tells them; None for bursts, and where nothing was drawn."""
        point = self.outcome.reading
        share = point.efficiency if point is not None and self.mode is not Mode.BURST else None
        return None if share is None else 100 * share


@dataclass(frozen=True, slots=True)
class Sheet:
    """All that is shown of a job."""

    claim: Claim
    note: str
    fuses: tuple[float, ...]
    before: Before
    runs: tuple[RunSheet, ...]
