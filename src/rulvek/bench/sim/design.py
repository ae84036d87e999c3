"""What a simulated amplifier is made of."""

from dataclasses import dataclass
from typing import Literal

RATED_VOLTS = 14.4


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
        knee: Hardness of the clipping, 8 (soft) to 64 (hard).
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
    """

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
    gain_offsets_db: tuple[float, ...] = ()
    surge_amps: float | None = None
    surge_rail_share: float = 0.7
    surge_hold_seconds: float = 3.0


@dataclass(frozen=True, slots=True)
class AmplifierDesign:
    """A whole amplifier: groups of channels on one converter and one heat sink.

    ``recovers_after`` seconds protection lets go again; None means that it holds until power is cycled.
    """

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

    @property
    def channels(self) -> int:
        """How many channels it has."""
        return sum(len(group.channels) for group in self.groups)
