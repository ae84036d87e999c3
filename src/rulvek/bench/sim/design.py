"""What a simulated amplifier is made of, and how a file describes one."""

import math
import tomllib
from dataclasses import dataclass, fields
from typing import Any, ClassVar, Literal

from pydantic import ConfigDict, TypeAdapter, ValidationError

from rulvek.core.errors import BadInput
from rulvek.malformed import field_of, sentence

RATED_VOLTS = 14.4
_NOT_ABOVE_ZERO = {"gain", "rail_volts", "converter_ohms", "output_ohms", "trip_amps", "rail_farads", "knee"}
_NOT_ABOVE_ZERO |= {"converter_efficiency", "sink_joules_per_kelvin", "sink_kelvin_per_watt", "trip_input_amps"}


def _check(design: Any) -> None:
    for item in fields(design):
        value = getattr(design, item.name)
        if isinstance(value, float | int) and not math.isfinite(value):
            raise BadInput(f"{item.name} must be a finite number.", field=item.name)
        if item.name in _NOT_ABOVE_ZERO and not value > 0:
            raise BadInput(f"{item.name} must be above 0, got {value:g}.", field=item.name)


@dataclass(frozen=True, slots=True)
class GroupDesign:
    """One group of like channels on its own rails.

    Attributes:
        channels: Numbers, counted from 1.
        topology: "AB" output devices drop what the load does not take; "D" ones switch.
        gain: Volts out per volt in, controls in test position.
        rail_volts: Each rail, unloaded, at 14.4 V in.
        regulated_down_to: Terminal volts down to which the rails hold; None when they follow the supply.
        converter_ohms: What the converter adds in series with a rail.
        rail_farads: Storage on a rail.
        output_ohms: Output devices and wiring of one channel.
        lost_volts: What the output cannot swing towards the rail.
        knee: Hardness of the clipping, 4 (soft) to 64 (hard), thousands for a wall.
        curvature: Third-order bend below clipping; 0.001 gives about 0.025 % third harmonic near full output.
        noise_volts: rms at the output over half the sample rate.
        idle_watts: Drawn from the rails at rest.
        switching_volts: Class D: loss per ampere of output, in volts.
        trip_amps: Peak output current at which protection acts.
        gain_offsets_db: How the channels' gain controls stood when the unit came, by channel; none means alike.
        surge_amps: Mean output current of the group at which a sudden rise makes it switch to lower rails; None
            without that.
        surge_rail_share: Lower rails over full ones.
        surge_hold_seconds: How long it stays there.
        limiter_volts: Peak at which a clip limiter holds the output; None without one.
        crossover_volts: Around zero the output stands still for so much of the wanted volts: a kink that shows most in
            quiet tones.
        even: Second-order bend: a peak at the rail is shifted by this share of it; gives even harmonics.
        hum_volts, hum_hz: rms of hum at the output, and its frequency.
        coupling_hz: Corner of a first-order high-pass at the input, as a coupling capacitor makes it; 0 for none.
        filter_hz, filter_ohms: Corner of the output filter of a class D stage (second order, L and C), and the ohms
            into which it is maximally flat: a lighter load leaves a peak near the corner, a heavier one a slope. 0 for
            none.
        carrier_volts, carrier_hz: rms of what is left of a class D stage's carrier at the output, and its frequency.
    """

    __pydantic_config__: ClassVar[ConfigDict] = ConfigDict(extra="forbid")

    channels: tuple[int, ...]
    topology: Literal["AB", "D"]
    gain: float
    rail_volts: float
    converter_ohms: float
    output_ohms: float
    trip_amps: float
    regulated_down_to: float | None = None
    rail_farads: float = 0.01
    lost_volts: float = 1.0
    knee: int = 32
    curvature: float = 0.001
    noise_volts: float = 200e-6
    idle_watts: float = 6.0
    switching_volts: float = 0.6
    limiter_volts: float | None = None
    crossover_volts: float = 0.0
    even: float = 0.0
    hum_volts: float = 0.0
    hum_hz: float = 100.0
    carrier_volts: float = 0.0
    carrier_hz: float = 40_000.0
    coupling_hz: float = 0.0
    filter_hz: float = 0.0
    filter_ohms: float = 4.0
    gain_offsets_db: tuple[float, ...] = ()
    surge_amps: float | None = None
    surge_rail_share: float = 0.7
    surge_hold_seconds: float = 3.0

    def __post_init__(self) -> None:
        _check(self)
        first = self.channels[0] if self.channels else 0
        if first < 1 or self.channels != tuple(range(first, first + len(self.channels))):
            raise BadInput("The channels of a group are numbered one after the other.", field="channels")

    @property
    def full_output_dbv(self) -> float:
        """The input level, in dB re 1 V, that brings it near its rails at 14.4 V, unloaded."""
        peak = max(self.rail_volts - self.lost_volts, 1e-3)
        return 20 * math.log10(peak / math.sqrt(2) / self.gain)


@dataclass(frozen=True, slots=True)
class AmplifierDesign:
    """A whole amplifier: groups of channels on one converter and one heat sink.

    ``recovers_after`` seconds protection lets go again; None means that it holds until power is cycled.
    """

    __pydantic_config__: ClassVar[ConfigDict] = ConfigDict(extra="forbid")

    groups: tuple[GroupDesign, ...]
    converter_efficiency: float = 0.9
    sink_joules_per_kelvin: float = 900.0
    sink_kelvin_per_watt: float = 0.35
    shutdown_c: float = 88.0
    trip_input_amps: float = 400.0
    recovers_after: float | None = None
    gain_spread_db: float = 0.08
    offset_spread_volts: float = 0.004
    part_spread: float = 0.015

    def __post_init__(self) -> None:
        _check(self)
        numbers = [channel for group in self.groups for channel in group.channels]
        if not numbers or numbers != list(range(1, len(numbers) + 1)):
            raise BadInput("Channels are numbered from 1 on, group after group.", field="groups")

    @property
    def channels(self) -> int:
        """How many channels it has."""
        return sum(len(group.channels) for group in self.groups)


def read_design(text: str) -> AmplifierDesign:
    """An amplifier from a TOML description: its fields as keys, a ``[[groups]]`` for each channel group.

    Raises:
        BadInput: no TOML, a field that there is not, a value that a part cannot have.
    """
    try:
        return TypeAdapter(AmplifierDesign).validate_python(tomllib.loads(text))
    except tomllib.TOMLDecodeError as error:
        raise BadInput(f"The description is no TOML: {error}.") from None
    except ValidationError as error:
        first = dict(error.errors()[0])
        raise BadInput(sentence(first), field=field_of(first)) from None
