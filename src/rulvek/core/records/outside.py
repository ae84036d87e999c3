"""What people bring from outside the bench: readings by hand, in tables, and recordings."""

from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Le, Len

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.quantities import (
    ENTERED,
    Amps,
    Celsius,
    Channel,
    InstrumentName,
    InstrumentPercent,
    Ohms,
    Share,
    SupplyVolts,
    Text,
    Volts,
    Watts,
)
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End
from rulvek.core.runs.spec import RunSpec
from rulvek.core.signals.power import rms_watts, unclipped_sine_watts

Indicated = Annotated[float, Ge(-2_000), Le(2_000)]
"""Amps as a clamp shows them; one that was not zeroed shows less than nothing."""


class Origin(StrEnum):
    """Where an attempt's figures come from."""

    BENCH = "bench"
    BY_HAND = "typed"
    RECORDING = "recorded"
    TABLE = "table"
    READ_AGAIN = "read_again"


class Vehicle(StrEnum):
    """A vehicle's own supply, and what went on at it."""

    ENGINE_OFF = "engine_off"
    ENGINE_RUNNING = "engine_running"
    CHARGER_ON = "charger_on"

    @property
    def words(self) -> str:
        """“in a vehicle, its engine running”."""
        return {
            Vehicle.ENGINE_OFF: "in a vehicle, its engine off",
            Vehicle.ENGINE_RUNNING: "in a vehicle, its engine running",
            Vehicle.CHARGER_ON: "in a vehicle, a charger on",
        }[self]

    @property
    def adds_amps(self) -> str:
        """What adds to the battery's amps; empty where nothing does."""
        return {Vehicle.ENGINE_RUNNING: "The alternator", Vehicle.CHARGER_ON: "A charger"}.get(self, "")


@dataclass(frozen=True, slots=True)
class HandChannel:
    """What was read of one channel (or pair): watts, or volts rms, or volts peak; one is enough."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    watts: Watts | None = None
    volts_rms: Volts | None = None
    volts_peak: Volts | None = None

    def watts_into(self, ohms: float) -> float | None:
        """Watts as read, else from volts rms, else from a peak as if the sine were not clipped."""
        if self.watts is not None:
            return self.watts
        if self.volts_rms is not None:
            return rms_watts(self.volts_rms, ohms)
        return None if self.volts_peak is None else unclipped_sine_watts(self.volts_peak, ohms)

    def how(self, ohms: float) -> str:
        """Where the watts come from, in words."""
        if self.watts is not None:
            return "as read"
        if self.volts_rms is not None:
            return f"{self.volts_rms:g}² V² / {ohms:g} Ω"
        if self.volts_peak is None:
            return ""
        return f"{self.volts_peak:g}² V² / (2 · {ohms:g} Ω), if the sine is not clipped"


@dataclass(frozen=True, slots=True)
class HandReading:
    """A reading as a technician writes it down; None where something was not read.

    ``amps`` are as the clamp indicated them, ``idle_amps`` what it indicated with nothing played: it is taken off.
    ``accuracy_percent`` is the instrument's limit in percent of its volts; ``start_watts`` were already there when the
    run began; ``charger_amps`` is what a charger added past the clamp; ``sink_c`` the heat sink's before the run.
    Channels without a figure were forgotten, or nobody read them: ``others_unread`` says so. ``cause`` and
    ``reason`` are why a run was read once more. A ``vehicle`` feeds the amplifier like a bank.
    ``end`` is None while nobody has said how the run ended; ``read_on`` is None for today. A bank is on ``run`` by the
    volts that it started from.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    run: RunSpec
    channels: Annotated[tuple[HandChannel, ...], Len(0, 16)]
    instrument: InstrumentName = ""
    accuracy_percent: InstrumentPercent = 1.0
    load_measured: Ohms | None = None
    start_volts: SupplyVolts | None = None
    loaded_volts: SupplyVolts | None = None
    amps: Indicated | None = None
    idle_amps: Indicated | None = None
    charger_amps: Amps | None = None
    start_watts: Watts | None = None
    sink_c: Celsius | None = None
    thd_n_percent: Share | None = None
    end: End | None = None
    tripped_watts: Watts | None = None
    policy: SupplyPolicy = SupplyPolicy.HELD
    read_on: date | None = None
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    others_unread: bool = False
    vehicle: Vehicle | None = None
    reason: Text = ""
    cause: Cause | None = None
    remark: Text = ""

    @property
    def supply_amps(self) -> float | None:
        """What the clamp indicated, less what it indicated at idle where that was read."""
        return None if self.amps is None else self.amps - (self.idle_amps or 0.0)

    @property
    def ohms(self) -> float:
        """The load as it was measured, else its nominal value."""
        return self.load_measured or self.run.load_ohms


@dataclass(frozen=True, slots=True)
class OtherReading:
    """What another instrument read of one channel (or pair): watts, or volts rms."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    channel: Channel
    watts: Watts | None = None
    volts_rms: Volts | None = None


@dataclass(frozen=True, slots=True)
class Outside:
    """What is kept of an attempt's origin outside the bench.

    Attributes:
        file: The recording or table, as it was named; empty for a reading by hand.
        original: Where the recording itself is kept; empty without one.
        clamp_zeroed, controls_in_position, all_loaded: What a person said of the conditions.
        read: What was read of each channel under test, in their order; empty for recordings.
    """

    origin: Origin
    file: str = ""
    original: str = ""
    original_sha256: str = ""
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    charger_amps: float | None = None
    vehicle: Vehicle | None = None
    read: tuple[HandChannel, ...] = ()
