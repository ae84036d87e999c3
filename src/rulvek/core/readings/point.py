"""A point of a run: what every loaded channel, the supply and the heat sink read at one level."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rulvek.core.electrical.supply import efficiency
from rulvek.core.errors import BadCapture
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.clipping import clipping
from rulvek.core.signals.distortion import Band, analyse_tone, recorded_band
from rulvek.core.signals.power import mean_square

PARTS = 20
DEAD_VOLTS = 0.01  # an output below 10 mV is muted, whatever noise is left on it


@dataclass(frozen=True, slots=True)
class Load:
    """A dummy load as it is connected: nominal and measured ohms, and what of the latter is doubtful.

    On the bench's register stand ``inductance_uh``, with the leads, and ``ppm_per_kelvin``, by which it drifts as it
    warms; None where nobody measured it.
    """

    nominal_ohms: float
    measured_ohms: float
    tolerance: float = 0.01  # relative, of the measured value
    inductance_uh: float | None = None
    ppm_per_kelvin: float | None = None


@dataclass(frozen=True, slots=True)
class ChannelReading:
    """One channel at one level. ``channel`` of a bridged pair is its first channel.

    Volts and watts are of what lies in the band; ``outside_share`` is how much of the power in the load does not.
    ``thd_n`` and ``thd`` are ratios, None where no steady tone is left to measure. ``kept_up`` is the rms of the
    capture's last quarter over that of its first: about 1 for a steady output, near 0 when it was cut off.
    ``weakest_part`` is the rms of the weakest twentieth over the middle one: near 0 where a stretch was not recorded.
    """

    channel: int
    volts_rms: float
    watts: float
    watts_at_start: float
    thd_n: float | None
    thd: float | None
    clipped_share: float
    kept_up: float
    outside_share: float = 0.0
    weakest_part: float = 1.0


@dataclass(frozen=True, slots=True)
class Point:
    """All channels under test at one source level, with the supply at that moment.

    ``companion_watts`` is what the channels that are only kept driven give together: it belongs to the efficiency.
    ``temperature_c`` is the heat sink's, ``load_c`` the hottest dummy load's. ``band_high_hz`` ends the band that was
    read.
    """

    level_dbv: float
    channels: tuple[ChannelReading, ...]
    supply_volts: float | None
    supply_lowest: float | None
    supply_amps: float | None
    temperature_c: float | None
    companion_watts: float = 0.0
    load_c: float | None = None
    band_high_hz: float | None = None

    @property
    def efficiency(self) -> float | None:
        """All channels' output over the supply's input; None where no current was measured."""
        if self.supply_volts is None or self.supply_amps is None:
            return None
        output = sum(channel.watts for channel in self.channels) + self.companion_watts
        return efficiency(output, self.supply_volts, self.supply_amps)

    @property
    def weakest_watts(self) -> float:
        """Watts of the channel that gives least."""
        return min(channel.watts for channel in self.channels)

    @property
    def average_watts(self) -> float:
        """Mean watts of the channels under test."""
        return sum(channel.watts for channel in self.channels) / len(self.channels)

    @property
    def worst_thd_n(self) -> float:
        """Highest THD+N of the channels; infinite where one has no tone left."""
        return max(math.inf if channel.thd_n is None else channel.thd_n for channel in self.channels)


def read_point(
    capture: Capture,
    *,
    level_dbv: float,
    loads: Mapping[int, Load],
    tone_hz: float,
    band: Band,
    clamp_zero_amps: float = 0.0,
    companions: Mapping[int, Load] | None = None,
    coherent: bool = True,
) -> Point:
    """Read the channels named in ``loads`` from a capture that shares its clock with the source (``coherent``).

    ``band`` is the method's; it follows the tone. ``companions`` are loaded channels that are not under test; only
    their power is read.

    Raises:
        BadCapture: a channel under test is not in the capture, or the capture's rate is too low for the tone.
    """
    band = recorded_band(band, tone_hz, capture.sample_rate)
    outputs = capture.outputs()
    companions = companions or {}
    missing = sorted((set(loads) | set(companions)) - set(outputs))
    if missing:
        raise BadCapture(f"Channel {missing[0]} is loaded but not in the capture.", field="roles")
    supply = capture.supply
    amps = supply.mean_amps if supply else None
    return Point(
        level_dbv=level_dbv,
        channels=tuple(
            _read_channel(number, outputs[number], capture.sample_rate, load, tone_hz, band, coherent)
            for number, load in sorted(loads.items())
        ),
        supply_volts=supply.mean_volts if supply else None,
        supply_lowest=supply.lowest_volts if supply else None,
        supply_amps=None if amps is None else amps - clamp_zero_amps,
        temperature_c=capture.temperature_c,
        companion_watts=sum(mean_square(outputs[n]) / load.measured_ohms for n, load in companions.items()),
        load_c=capture.load_c,
        band_high_hz=band.high_hz,
    )


def _read_channel(
    number: int,
    volts: NDArray[np.float64],
    sample_rate: float,
    load: Load,
    tone_hz: float,
    band: Band,
    coherent: bool,
) -> ChannelReading:
    quarter = max(1, volts.size // 4)
    first, last = float(np.mean(volts[:quarter] ** 2)), float(np.mean(volts[-quarter:] ** 2))
    mean = mean_square(volts)
    thd_n = thd = None
    outside = 0.0
    if math.sqrt(mean) >= DEAD_VOLTS:
        try:
            tone = analyse_tone(volts, sample_rate, band=band, tone_hz=tone_hz, coherent=coherent)
        except BadCapture:
            pass  # cut off in the middle: there is no steady tone to speak of
        else:
            thd_n, thd, mean, outside = tone.thd_n, tone.thd, tone.band_volts**2, tone.outside_share
    return ChannelReading(
        channel=number,
        volts_rms=math.sqrt(mean),
        watts=mean / load.measured_ohms,
        watts_at_start=first / load.measured_ohms,
        thd_n=thd_n,
        thd=thd,
        clipped_share=clipping(volts).share,
        kept_up=math.sqrt(last / first) if first > 0 else 0.0,
        outside_share=outside,
        weakest_part=_weakest_part(volts, sample_rate / tone_hz),
    )


def _weakest_part(volts: NDArray[np.float64], cycle: float) -> float:
    """rms of the weakest part over that of the middle one, parts being a twentieth of the record, but whole cycles."""
    size = round(max(1.0, volts.size / PARTS // cycle) * cycle)
    count = volts.size // size
    if count < 3:
        return 1.0
    powers = np.sort(np.mean(volts[: count * size].reshape(count, size) ** 2, axis=1))
    return math.sqrt(float(powers[0] / powers[count // 2])) if powers[count // 2] > 0 else 1.0
