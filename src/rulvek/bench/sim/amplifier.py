"""A waveform-level amplifier: rails that sag, devices that drop, a converter that loses, protection, heat.

Time is cut into blocks of two milliseconds, or of ten where nothing comes near the rails. Within a block the outputs
are computed sample by sample against rails that move linearly; from block to block the rails' storage, the converter
and the supply are stepped with an implicit rule, so that a stiff converter on a soft supply cannot oscillate
numerically.
"""

import hashlib
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

from rulvek.bench.protocols import Connection
from rulvek.bench.sim.design import RATED_VOLTS, AmplifierDesign, GroupDesign
from rulvek.bench.sim.supply import SimulatedSupply

AMBIENT_C = 23.0
BLOCK_SECONDS = 2e-3
LONG_BLOCK_SECONDS = 10e-3
_SURGE_RATIO = 4.0  # a rise by 12 dB and more is sudden
_CALM_SECONDS = 0.3
_FAR_BELOW = 0.45  # share of the swing
_BY_SQUARES = (4, 8, 16, 32, 64)  # knees whose powers are few squares, and fit a float for all that is overdriven
_INPUT_TRIP_SECONDS = 20e-3  # a surge at the input up to this does not trip


def seed_of(*parts: str) -> int:
    """A seed that depends on nothing but the words given, so that a serial number always makes the same unit."""
    return int.from_bytes(hashlib.sha256("/".join(parts).encode()).digest()[:8], "big")


@dataclass(frozen=True, slots=True, eq=False)
class Output:
    """What came out over a stretch of time: load volts ``(connections, n)``; supply volts and amps per block.

    ``supply_rate`` is in blocks per second.
    """

    volts: NDArray[np.float64]
    supply_volts: NDArray[np.float64]
    supply_amps: NDArray[np.float64]
    supply_rate: float


@dataclass(slots=True)
class _Group:
    design: GroupDesign
    rows: slice  # channels of a group are numbered one after the other
    gains: NDArray[np.float64]  # (channels, 1), as the offsets
    offsets: NDArray[np.float64]
    output_ohms: float
    coupled: NDArray[np.float64]  # the coupling capacitors' state, (channels, 1)
    calm_amps: float = 0.0  # mean output current, smoothed over more than a cycle of bass
    low_rails_until: float = -math.inf
    rail: float = 0.0
    rail_before: float = 0.0
    supply_amps: float = 0.0


@dataclass(slots=True)
class _Block:
    """What one block adds up to."""

    seconds: float
    supply_amps: float = 0.0
    output_watts: float = 0.0
    over_current: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class _Path:
    """What a group's channels work into: 1/Ω of load and output resistance, and the load's share of the power."""

    siemens: NDArray[np.float64]
    share: NDArray[np.float64]
    most_siemens: float

    @classmethod
    def of(cls, seen: NDArray[np.float64], output_ohms: float) -> "_Path":
        siemens = 1 / (seen + output_ohms)
        return cls(siemens, np.where(np.isfinite(seen), 1 - output_ohms * siemens, 0.0), float(siemens.max()))


class SimulatedAmplifier:
    """One unit of a design; its serial number settles how its parts came out."""

    def __init__(self, design: AmplifierDesign, serial: str) -> None:
        self.design = design
        self.temperature_c = AMBIENT_C
        self.bridge_swapped = False
        """Planted fault: both channels of a pair move alike."""
        self.powered = False
        self._tripped_at: float | None = None
        self._dissipated_watts = 0.0
        self._time = 0.0
        self._supply_amps = 0.0
        self._over_input_seconds = 0.0
        parts = np.random.default_rng(seed_of("unit", serial))
        self._noise = np.random.default_rng(seed_of("noise", serial))
        self._filter_states: dict[int, NDArray[np.float64]] = {}
        self._groups = [self._make_group(group, parts) for group in design.groups]

    def _make_group(self, group: GroupDesign, parts: np.random.Generator) -> _Group:
        count = len(group.channels)
        gain_db = parts.uniform(-1, 1, count) * self.design.gain_spread_db
        gain_db += np.array(group.gain_offsets_db or (0.0,) * count)
        return _Group(
            design=group,
            rows=slice(group.channels[0] - 1, group.channels[-1]),
            gains=(group.gain * 10 ** (gain_db / 20))[:, np.newaxis],
            offsets=(parts.uniform(-1, 1, count) * self.design.offset_spread_volts)[:, np.newaxis],
            coupled=np.zeros((count, 1)),
            output_ohms=group.output_ohms * float(1 + parts.uniform(-1, 1) * self.design.part_spread),
        )

    def power_on(self, supply: SimulatedSupply) -> None:
        """Start: rails up, protection reset."""
        self.powered, self._tripped_at, self._over_input_seconds = True, None, 0.0
        for group in self._groups:
            ratio, _ = _converter(group.design, supply.terminal_volts(0.0))
            group.rail = group.rail_before = ratio * supply.terminal_volts(0.0)

    def power_off(self) -> None:
        """Off: the outputs are dead and no current flows."""
        self.powered, self._supply_amps, self._dissipated_watts = False, 0.0, 0.0
        for group in self._groups:
            group.rail = group.rail_before = group.supply_amps = 0.0

    def turn_gain(self, channel: int, by_db: float) -> None:
        """Turn a channel's gain control."""
        group = next(group for group in self._groups if channel in group.design.channels)
        group.gains[group.design.channels.index(channel)] *= 10 ** (by_db / 20)

    @property
    def supply_amps(self) -> float:
        """What it draws now."""
        return self._supply_amps

    @property
    def is_coupled(self) -> bool:
        """Whether it remembers what was played before: then nothing of that can be left out."""
        return any(group.design.coupling_hz for group in self._groups)

    def rest(self, seconds: float) -> None:
        """Let time pass at the present dissipation without computing waveforms."""
        self._heat(seconds)
        self._time += seconds

    def run(
        self,
        inputs: NDArray[np.float64],
        sample_rate: float,
        connections: Sequence[Connection],
        ohms: Mapping[int, float],
        supply: SimulatedSupply,
        even: bool = False,
        recorded: bool = True,
    ) -> Output:
        """Play ``inputs`` (volts, shape ``(channels, n)``) into the connected loads.

        Supply and rails are stepped by the block. A long one holds so many cycles of an ``even`` signal, a treble that
        goes on as it was, that there is no ripple to be followed; nor does ripple show far below the rails.
        What is not ``recorded`` comes without noise.

        ``ohms`` gives each connection's true resistance now, by its number. The second channel of a bridged pair
        gets the first one's signal inverted, as the amplifier's bridge switch does it.
        """
        driven = inputs.copy()
        for link in connections:
            if len(link.channels) == 2:
                driven[link.channels[1] - 1] = inputs[link.channels[0] - 1] * (1 if self.bridge_swapped else -1)
        count = driven.shape[1]
        open_volts = np.zeros_like(driven)
        loads = [_Path.of(self._seen_ohms(g, connections, ohms), self._warm_ohms(g)) for g in self._groups]
        wanted = np.empty_like(driven)
        for group in self._groups:
            np.multiply(_coupled(group, driven[group.rows], sample_rate), group.gains, out=wanted[group.rows])
        even = even and supply.is_even(self._supply_amps)
        length = LONG_BLOCK_SECONDS if even or self._stays_calm(wanted) else BLOCK_SECONDS
        size = max(1, round(length * sample_rate))
        starts = range(0, count, size)
        trace = np.zeros((2, len(starts)))
        input_joules = output_joules = 0.0
        for index, start in enumerate(starts):
            part = slice(start, min(count, start + size))
            block = _Block(seconds=(part.stop - part.start) / sample_rate)
            for group, path in zip(self._groups, loads, strict=True):
                rail_watts = self._swing(group, path, wanted[group.rows, part], open_volts[group.rows, part], block)
                self._step_rail(group, rail_watts, supply, block)
            self._supply_amps = block.supply_amps
            supply.step(block.supply_amps, block.seconds)
            volts = supply.terminal_volts(block.supply_amps)
            trace[:, index] = volts, supply.clamp_amps(block.supply_amps)
            input_joules += volts * block.supply_amps * block.seconds
            output_joules += block.output_watts * block.seconds
            self._time += block.seconds
            self._protect(block)
        self._dissipated_watts = max(0.0, input_joules - output_joules) * sample_rate / count
        self._heat(count / sample_rate)
        began = self._time - count / sample_rate
        if self.powered:
            for group in self._groups:
                _add_residue(group.design, open_volts[group.rows], began, sample_rate)
        return Output(
            self._at_loads(open_volts, connections, ohms, sample_rate, recorded), trace[0], trace[1], sample_rate / size
        )

    def _stays_calm(self, wanted: NDArray[np.float64]) -> bool:
        """Whether every group stays so far below its rails that their ripple cannot show in the outputs."""
        return all(
            float(np.abs(wanted[group.rows]).max()) < _FAR_BELOW * (group.rail - group.design.lost_volts)
            for group in self._groups
        )

    def _swing(
        self,
        group: _Group,
        path: "_Path",
        wanted: NDArray[np.float64],
        open_volts: NDArray[np.float64],
        block: _Block,
    ) -> float:
        """Compute the group's outputs over a block and return what its rails give, in watts."""
        design = group.design
        if not self.powered:
            return 0.0
        if self._tripped_at is not None:
            return design.idle_watts
        count = wanted.shape[1]
        rails = group.rail_before + (group.rail - group.rail_before) * _ramp(count)
        volts = _limited(design, wanted, rails)
        np.add(volts, group.offsets, out=open_volts)
        sizes = np.abs(volts, out=volts)
        most_volts = max(group.rail, group.rail_before) * (1 + abs(design.curvature))
        if most_volts * path.most_siemens > design.trip_amps:
            block.over_current |= float((sizes.max(axis=1) * path.siemens).max()) > design.trip_amps
        mean_amps = float(path.siemens @ np.add.reduce(sizes, axis=1)) / count
        np.multiply(sizes, sizes, out=sizes)
        taken = np.add.reduce(sizes, axis=1) * path.siemens / count  # by load and output resistance, watts
        block.output_watts += float(taken @ path.share)
        self._watch_surge(group, mean_amps, block.seconds)
        if design.topology == "AB":  # the whole rail voltage is spent on every ampere of output
            return float(design.idle_watts + group.rail * mean_amps)
        return float(design.idle_watts + sum(taken.tolist()) + design.switching_volts * mean_amps)

    def _watch_surge(self, group: _Group, mean_amps: float, seconds: float) -> None:
        """Automatic rail switching: a sudden rise of the output current brings the rails down for a while."""
        surge = group.design.surge_amps
        if surge is not None and mean_amps > max(surge, _SURGE_RATIO * group.calm_amps):
            group.low_rails_until = self._time + group.design.surge_hold_seconds
        group.calm_amps += (mean_amps - group.calm_amps) * min(1.0, seconds / _CALM_SECONDS)

    def _step_rail(self, group: _Group, rail_watts: float, supply: SimulatedSupply, block: _Block) -> None:
        """Step the rail's storage over a block and add what the converter takes from the supply."""
        design = group.design
        group.rail_before = group.rail
        if not self.powered:
            return
        terminals = supply.terminal_volts(self._supply_amps)
        ratio, follows = _converter(design, terminals)
        series = design.converter_ohms
        if follows:
            # The supply's own resistance is felt through the turns ratio; solving for it together with the rail
            # keeps a stiff converter stable.
            terminals += group.supply_amps * supply.source_ohms
            series += ratio**2 * supply.source_ohms / self.design.converter_efficiency
        opened = ratio * terminals
        if self._time < group.low_rails_until:
            opened *= design.surge_rail_share
        rail_amps = rail_watts / max(group.rail, 0.05 * opened)
        rate = block.seconds / (design.rail_farads * series)
        group.rail = (group.rail + rate * (opened - rail_amps * series)) / (1 + rate)
        drawn = max(0.0, (opened - group.rail) / series)
        group.supply_amps = ratio * drawn / self.design.converter_efficiency
        block.supply_amps += group.supply_amps

    def _protect(self, block: _Block) -> None:
        over_input = block.supply_amps > self.design.trip_input_amps
        self._over_input_seconds = self._over_input_seconds + block.seconds if over_input else 0.0
        if self._tripped_at is None:
            too_hot = self.temperature_c > self.design.shutdown_c
            if block.over_current or too_hot or self._over_input_seconds > _INPUT_TRIP_SECONDS:
                self._tripped_at = self._time
        elif self.design.recovers_after is not None and self._time - self._tripped_at > self.design.recovers_after:
            self._tripped_at = None

    def _heat(self, seconds: float) -> None:
        resistance = self.design.sink_kelvin_per_watt
        settled = AMBIENT_C + self._dissipated_watts * resistance
        decay = math.exp(-seconds / (resistance * self.design.sink_joules_per_kelvin))
        self.temperature_c = settled + (self.temperature_c - settled) * decay

    def _warm_ohms(self, group: _Group) -> float:
        return group.output_ohms * (1 + 0.004 * (self.temperature_c - AMBIENT_C))  # metals and silicon, per kelvin

    def _seen_ohms(
        self, group: _Group, connections: Sequence[Connection], ohms: Mapping[int, float]
    ) -> NDArray[np.float64]:
        """What each channel of the group works into: its load, half of a bridged one, or nothing at all."""
        seen = {channel: ohms[link.number] / len(link.channels) for link in connections for channel in link.channels}
        return np.array([seen.get(channel, math.inf) for channel in group.design.channels])

    def _at_loads(
        self,
        open_volts: NDArray[np.float64],
        connections: Sequence[Connection],
        ohms: Mapping[int, float],
        sample_rate: float,
        noisy: bool,
    ) -> NDArray[np.float64]:
        own = {channel: group for group in self._groups for channel in group.design.channels}
        rows = []
        for link in connections:
            volts = open_volts[link.channels[0] - 1]
            if len(link.channels) == 2:
                volts = volts - open_volts[link.channels[1] - 1]
            group = own[link.channels[0]]
            load = ohms[link.number]
            if group.design.filter_hz:
                volts = self._filtered(group.design, link, volts, load, sample_rate)
            volts = volts * (load / (load + len(link.channels) * self._warm_ohms(group)))
            if noisy and self.powered:
                volts += self._noise.normal(0.0, group.design.noise_volts, volts.size)
            rows.append(volts)
        return np.array(rows)

    def _filtered(
        self, design: GroupDesign, link: Connection, volts: NDArray[np.float64], load: float, sample_rate: float
    ) -> NDArray[np.float64]:
        """Through the output filter, which goes on from where the last stretch left it."""
        sections = _output_filter(design.filter_hz, design.filter_ohms, load / len(link.channels), sample_rate)
        state = self._filter_states.get(link.number, np.zeros((1, 2)))
        filtered, self._filter_states[link.number] = scipy.signal.sosfilt(sections, volts, zi=state)
        return np.asarray(filtered, dtype=np.float64)


def _coupled(group: _Group, driven: NDArray[np.float64], sample_rate: float) -> NDArray[np.float64]:
    """Through the coupling capacitors, which keep their charge from one stretch to the next."""
    if not group.design.coupling_hz:
        return driven
    numerator, denominator = scipy.signal.butter(1, group.design.coupling_hz, "highpass", fs=sample_rate)
    passed, group.coupled = scipy.signal.lfilter(numerator, denominator, driven, axis=1, zi=group.coupled)
    return np.asarray(passed, dtype=np.float64)


@lru_cache(maxsize=16)
def _output_filter(corner_hz: float, flat_ohms: float, ohms: float, sample_rate: float) -> NDArray[np.float64]:
    """1/(1 + s/(Qω) + s²/ω²) with Q = ohms / (flat_ohms·√2), by the bilinear rule: exact well below half the rate."""
    corner = 2 * math.pi * corner_hz
    quality = ohms / flat_ohms / math.sqrt(2)
    numerator, denominator = scipy.signal.bilinear([corner**2], [1.0, corner / quality, corner**2], fs=sample_rate)
    return np.asarray(scipy.signal.tf2sos(numerator, denominator), dtype=np.float64)


def _softening(size: NDArray[np.float64], knee: int) -> NDArray[np.float64]:
    """(1 + size^knee)^(1/knee) over the larger of size and 1: between 1 and 2^(1/knee), whatever the size."""
    below = np.minimum(size, 1 / np.maximum(size, 1e-300))
    return np.asarray((1 + below**knee) ** (1 / knee))


@lru_cache(maxsize=8)
def _ramp(count: int) -> NDArray[np.float64]:
    """From just above 0 to 1."""
    ramp = np.arange(1, count + 1) / count
    ramp.flags.writeable = False
    return ramp


def _converter(design: GroupDesign, terminals: float) -> tuple[float, bool]:
    """Turns ratio from the terminals to the unloaded rail, and whether the rail follows the terminals."""
    if design.regulated_down_to is None:
        return design.rail_volts / RATED_VOLTS, True
    if terminals >= design.regulated_down_to:
        return design.rail_volts / terminals, False
    return design.rail_volts / design.regulated_down_to, True


def _add_residue(design: GroupDesign, open_volts: NDArray[np.float64], began: float, sample_rate: float) -> None:
    """Hum and what is left of a carrier, the same on every channel of a group."""
    for volts, hz in ((design.hum_volts, design.hum_hz), (design.carrier_volts, design.carrier_hz)):
        if volts:
            at = began + np.arange(open_volts.shape[1]) / sample_rate
            open_volts += math.sqrt(2) * volts * np.sin(2 * np.pi * np.mod(hz * at, 1.0))


def _limited(design: GroupDesign, wanted: NDArray[np.float64], rails: NDArray[np.float64]) -> NDArray[np.float64]:
    """Output volts before the output resistance: bent slightly, then clipped against the rails with a soft knee."""
    if design.limiter_volts is not None:
        peaks = np.max(np.abs(wanted), axis=1, keepdims=True)
        wanted = wanted * np.minimum(1.0, design.limiter_volts / np.maximum(peaks, 1e-9))
    if design.crossover_volts:
        wanted = wanted - np.clip(wanted, -design.crossover_volts, design.crossover_volts)
    most = np.maximum(rails - design.lost_volts, 1e-3)
    if design.even:
        wanted = wanted + design.even * np.minimum(wanted * wanted / most, most)
    share = wanted / most
    square = share * share
    largest = float(square.max())
    if largest < _FAR_BELOW**2:  # the knee takes less than a millionth
        return np.asarray(wanted * (1 - design.curvature * square))
    if largest > 1e8:
        share = np.clip(share, -1e4, 1e4)
        square, wanted = share * share, share * most
    if design.knee not in _BY_SQUARES:
        bent = share * (1 - design.curvature * np.minimum(square, 1.0))
        return np.asarray(most * np.clip(bent, -1.0, 1.0) / _softening(np.abs(bent), design.knee))
    # bent / (1 + |share|^knee)^(1/knee), by repeated squares and roots: a power function would take most of the time.
    bent = np.minimum(square, 1.0, out=share)
    bent *= -design.curvature
    bent += 1
    bent *= wanted
    doublings = design.knee.bit_length() - 1
    power = square * square
    for _ in range(doublings - 2):
        np.multiply(power, power, out=power)
    power += 1
    for _ in range(doublings):
        np.sqrt(power, out=power)
    bent /= power
    return bent
