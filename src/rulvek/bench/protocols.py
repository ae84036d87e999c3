"""What a run needs of a bench, as small protocols that the simulated bench and real drivers share.

A request is reported separately from what came of it: levels and volts are set, and what is measured is what counts.
Every method may raise ``BenchFault`` when the link is lost.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from rulvek.core.electrical.loads import Connection
from rulvek.core.readings.point import Load
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.capture import Capture

__all__ = ["Bench", "Connection", "LoadBank", "Recorder", "Source", "Supply", "Temperatures"]


@dataclass(frozen=True, slots=True)
class Temperatures:
    """°C of the amplifier's heat sink and of the hottest dummy load."""

    sink_c: float
    load_c: float


class Source(Protocol):
    """A signal source with one output per amplifier channel."""

    @property
    def highest_level_dbv(self) -> float:
        """The most it gives, rms, in dB re 1 V."""

    @property
    def level_per_channel(self) -> bool:
        """Whether the channels' levels are its own to set, to 0.01 dB, so that their gains can be trimmed out."""

    def set_tone(self, channels: Sequence[int], hz: float) -> None:
        """Choose the sine for some channels; levels stay as they are."""

    def set_burst(self, channels: Sequence[int], profile: BurstProfile | None) -> None:
        """Send the channels' tone in bursts, or steadily again."""

    def set_level(self, channels: Sequence[int], level_dbv: float) -> None:
        """Set the rms level of some channels, in dB re 1 V; of bursts, the level while they are on."""

    def make_safe(self) -> None:
        """Mute every output. May be called twice, or before anything else."""


class LoadBank(Protocol):
    """Dummy loads and the relays or plugs that connect them."""

    def connect(self, connections: Sequence[Connection]) -> None:
        """Wire loads to channels; the source must be muted."""

    def measured(self) -> dict[int, Load]:
        """Every connected load as measured now, by connection number."""


class Supply(Protocol):
    """The supply at the amplifier's terminals and the clamp around its cable."""

    def set_volts(self, volts: float) -> None:
        """Set the supply's own output, where there is one to set; the terminals see less under load."""

    def switch_on(self) -> None:
        """Power the amplifier; also resets a latched protection, as it starts afresh."""

    def make_safe(self) -> None:
        """Switch the amplifier off. May be called twice."""

    def terminal_volts(self) -> float:
        """Volts at the amplifier's terminals now."""

    def idle_clamp_amps(self) -> float:
        """What the clamp indicates with the amplifier connected but off: its zero."""


class Recorder(Protocol):
    """Simultaneous capture of all connected outputs, and of the supply alongside."""

    @property
    def shares_clock(self) -> bool:
        """Whether it runs on the source's clock, so that a tone's frequency in a record is exact."""

    def set_bandwidth(self, hz: float) -> None:
        """Record from now on at a rate that holds everything up to ``hz``, as far as it has one."""

    def capture(self, seconds: float, before_burst: float | None = None) -> Capture:
        """Record from now on, or from ``before_burst`` seconds before the next burst; returns when it is over."""


class Bench(Protocol):
    """One bench with one unit on it."""

    @property
    def name(self) -> str:
        """What people call it."""

    @property
    def source(self) -> Source: ...

    @property
    def loads(self) -> LoadBank: ...

    @property
    def supply(self) -> Supply: ...

    @property
    def recorder(self) -> Recorder: ...

    def wait(self, seconds: float) -> None:
        """Let bench time pass."""

    def now(self) -> float:
        """Bench time in seconds since some start; only differences count."""

    def temperatures(self) -> Temperatures:
        """How warm things are now."""

    def describe(self) -> dict[str, str]:
        """What the bench is made of, to be stored with the evidence."""

    def lie_idle(self, seconds: float) -> None:
        """Nobody worked at it for so long, and somebody does from now on: it cooled, a bank recovered.

        A real bench has lived through it already; whoever is part of it is seen to be there still.

        Raises:
            BenchFault: somebody is not.
        """

    def turn_gain(self, channel: int, by_db: float) -> None:
        """Turn a gain control of the unit, as a person's hand would."""

    def close(self) -> None:
        """Make it safe and let go of it; another unit, or nobody, comes next."""

    def give_up(self) -> None:
        """Let nobody wait for what a person is asked to do: Off comes."""
