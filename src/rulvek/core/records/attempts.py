"""Attempts at runs with their readings: frozen, as they stand on record or would stand there."""

from dataclasses import dataclass, field
from datetime import datetime

from rulvek.core.readings.point import Load
from rulvek.core.records.before_power import Item, Skip
from rulvek.core.records.instruments import Instruments
from rulvek.core.records.outside import Origin, Outside
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End


@dataclass(frozen=True, slots=True)
class Reading:
    """What one channel (or bridged pair) read at the end of an attempt; THD figures are ratios, None if not read."""

    channel: int
    watts: float
    volts_rms: float
    thd_n: float | None
    thd: float | None
    load: Load


@dataclass(frozen=True, slots=True)
class Ending:
    """How an attempt ended, with supply and heat at its reading; None where there was no reading.

    Attributes:
        fault: What went wrong, in a sentence; empty when nothing did.
        largest_watts: A burst's largest, of the weakest channel.
        start_outside: What was not within the start window, in words; empty when all was.
        start_watts: Already there when the run began.
        held: Whether the reading was held for the dwell.
        band_high_hz: Where the band ends that the reading was read in.
        largest_bracket_db: How much more came out with the last step past a burst's largest.
        beyond_watts: At the highest level within the limit, where levels between it and the reading are not.
        outside_share: Share of the power in the load that lies outside of the band; of the worst channel.
        companion_watts: Of the channels that were only loaded and driven.
        limit_slope: How much more power a larger THD+N came with at the limit, d ln P / d ln THD+N.
        companions_full: Whether those were driven as far as they certify themselves; None where nobody knows.
    """

    end: End
    ended_at: datetime
    seconds: float = 0.0
    fault: str = ""
    start_volts: float | None = None
    level_dbv: float | None = None
    bracket_db: float | None = None
    supply_volts: float | None = None
    supply_lowest: float | None = None
    supply_amps: float | None = None
    temperature_c: float | None = None
    companion_watts: float | None = None
    tripped_watts: float | None = None
    largest_watts: float | None = None
    load_c: float | None = None
    start_sink_c: float | None = None
    start_outside: str = ""
    start_watts: float | None = None
    held: bool = True
    band_high_hz: float | None = None
    largest_bracket_db: float | None = None
    beyond_watts: float | None = None
    outside_share: float | None = None
    companions_full: bool | None = None
    limit_slope: float | None = None


@dataclass(frozen=True, slots=True)
class Remark:
    """What somebody noted about an attempt."""

    text: str
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class SetAside:
    """A finding of the checks that somebody set aside, for a reason."""

    code: str
    reason: str
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class ReadingWithdrawal:
    """That somebody withdrew a reading, or let it count again where not ``withdrawn``; both with their reason."""

    withdrawn: bool
    reason: str
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class SecondReading:
    """What another instrument read of a channel (or pair) at the same attempt; both readings are kept."""

    channel: int
    watts: float
    volts_rms: float | None
    instrument: str
    percent_of_reading: float
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class KeptFile:
    """A kept capture: where it is, and the SHA-256 of its WAV and of the JSON that describes it.

    ``described_sha256`` is empty for files of before, whose one fingerprint is over both. ``changed_at`` is when it was
    found to be other than it was kept; None as long as nobody found that.
    """

    path: str
    sha256: str
    bytes: int
    kept_at: datetime
    described_sha256: str = ""
    changed_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Attempt:
    """A try at a run; the second and later ones say why. ``id`` is 0 while it is not on record.

    ``ending`` is None while it runs. What is ``simulated`` was conducted on a simulated bench: no amplifier gave it.
    ``read_again`` says whose waveform its readings are of and by what it was read; empty for a first reading.
    """

    id: int
    number: int
    started_by: str
    started_at: datetime
    cause: Cause | None = None
    reason: str = ""
    skipped: tuple[Skip, ...] = ()
    instruments: Instruments = field(default_factory=Instruments)
    outside: Outside | None = None
    ending: Ending | None = None
    readings: tuple[Reading, ...] = ()
    remarks: tuple[Remark, ...] = ()
    set_aside: tuple[SetAside, ...] = ()
    withdrawals: tuple[ReadingWithdrawal, ...] = ()
    seconds: tuple[SecondReading, ...] = ()
    captures: tuple[KeptFile, ...] = ()
    simulated: bool = False
    read_again: str = ""

    @property
    def origin(self) -> Origin:
        """Where the figures come from."""
        if self.read_again:
            return Origin.READ_AGAIN
        return self.outside.origin if self.outside else Origin.BENCH

    @property
    def withdrawn(self) -> ReadingWithdrawal | None:
        """Why its reading counts nowhere; None where it does."""
        return self.withdrawals[-1] if self.withdrawals and self.withdrawals[-1].withdrawn else None

    @property
    def weakest(self) -> Reading | None:
        """The reading of the channel that gives least; None where nothing was read."""
        return min(self.readings, key=lambda reading: reading.watts, default=None)

    @property
    def weakest_watts(self) -> float | None:
        """Watts of that channel."""
        weakest = self.weakest
        return weakest.watts if weakest else None

    @property
    def circumstances(self) -> list[str]:
        """What was not as usual, in words: what was skipped, how it started, a vehicle's supply."""
        found = [skip.words for skip in self.skipped]
        if self.ending is not None and self.ending.start_outside:
            found.append(f"started with {self.ending.start_outside}")
        if self.outside is not None and self.outside.vehicle is not None:
            found.append(self.outside.vehicle.words)
        return found

    def left_out(self, item: Item) -> bool:
        """Whether an item of the list before power was skipped."""
        return any(skip.item is item for skip in self.skipped)
