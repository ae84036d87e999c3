"""The simulated bench: instruments with errors of their own around one simulated unit, on a clock that can run fast."""

import math
import time
from collections.abc import Callable, Sequence

import numpy as np
import scipy
from numpy.typing import NDArray

from rulvek.bench.protocols import Connection, Temperatures
from rulvek.bench.sim.amplifier import AMBIENT_C, BLOCK_SECONDS, SimulatedAmplifier, seed_of
from rulvek.bench.sim.design import AmplifierDesign
from rulvek.bench.sim.supply import BankDesign, BankSupply, RegulatedDesign, RegulatedSupply, SimulatedSupply
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.errors import BenchFault
from rulvek.core.readings.point import Load
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.capture import Capture, Signal, SupplyTrace

SAMPLE_RATES = (96_000.0, 192_000.0)
OVERSAMPLED_ABOVE_HZ = 1500.0
"""A recorder keeps out what a clipped tone would fold into the band, as 19 × 4 kHz on 20 kHz."""
_OVERSAMPLING = 4
_FILTER_SAMPLES = 64
FOLLOWED_FOR = 0.02  # of a new level, before long steps do
EVEN_FROM_HZ = 500.0  # five cycles in a long step
SETTLED_AFTER = 0.06  # rails and supply follow within a few tens of milliseconds; only heat is slower
MUTED_DBV = -math.inf
LOAD_PER_KELVIN = 100e-6  # resistance alloys of power resistors (common practice, no source)


class BenchClock:
    """Bench time. ``speed`` 1 runs in real time for people, more runs faster, infinity does not wait at all."""

    def __init__(self, speed: float = 1.0, sleep: Callable[[float], None] = time.sleep) -> None:
        if not speed > 0:
            raise ValueError(f"speed must be above 0, got {speed}")
        self._speed, self._sleep = speed, sleep
        self._due = time.monotonic()
        self._now = 0.0

    def now(self) -> float:
        """Seconds of bench time since the clock was made."""
        return self._now

    def advance(self, seconds: float) -> None:
        """Let ``seconds`` of bench time pass, sleeping off what computing has not used up already."""
        self._now += seconds
        if math.isinf(self._speed):
            return
        # Time spent between two calls (on analysis, say) counts as bench time; a long pause is not caught up.
        self._due = max(self._due, time.monotonic() - 0.5) + seconds / self._speed
        left = self._due - time.monotonic()
        if left > 0:
            self._sleep(left)


class SimulatedBench:
    """A bench with one unit on it: source, loads, supply with clamp, and a recorder of up to all channels.

    A recorder on a clock of its own is ``clock_ppm`` fast; None where it shares the source's. Loads are wound: of their
    volts, only those across the resistance heat them (``load_henries`` in series). Contacts have up to ``contact_ohms``
    between sense point and load, other ones each time that something is wired, measured or played. An ``exact`` bench
    has loads at their nominal value, a recorder and an ohmmeter without errors of gain: only noise is left. On one that
    is ``looped`` cables go from the source straight to the recorder.

    Its parts keep to the protocols of :mod:`rulvek.bench.protocols`; this class is all four of them, because in a
    simulation they share one state.
    """

    highest_level_dbv = 15.0
    level_per_channel = True

    def __init__(
        self,
        design: AmplifierDesign,
        serial: str,
        *,
        speed: float = math.inf,
        supply: RegulatedDesign | BankDesign | None = None,
        name: str = "Bench 1",
        clock: BenchClock | None = None,
        clock_ppm: float | None = None,
        load_henries: float = 0.0,
        contact_ohms: float = 0.0,
        exact: bool = False,
    ) -> None:
        self.name = name
        self.amplifier = SimulatedAmplifier(design, serial)
        self._supply: SimulatedSupply = (
            BankSupply(supply) if isinstance(supply, BankDesign) else RegulatedSupply(supply)
        )
        self._load_c: dict[tuple[int, str], float] = {}
        self._load_watts: dict[int, float] = {}
        self._clock = clock or BenchClock(speed)
        self._errors = np.random.default_rng(seed_of("instruments", name, serial))
        self._wrong_by = 0.0 if exact else 1.0
        self._scale = 1 + self._error(0.0005)  # the recorder's own gain
        self._connections: tuple[Connection, ...] = ()
        self._ohms: dict[int, float] = {}
        self._tones = [1000.0] * design.channels
        self._levels = [MUTED_DBV] * design.channels
        self._bursts: list[BurstProfile | None] = [None] * design.channels
        self._samples_played = 0
        self._rate = SAMPLE_RATES[0]
        self._clock_ppm = clock_ppm
        self._load_henries, self._contact_ohms = load_henries, contact_ohms
        self._contacts = np.random.default_rng(seed_of("contacts", name, serial))
        self._linked = True
        self.looped = False

    def _error(self, share: float) -> float:
        """What an instrument is off by, within ± ``share`` of what it reads."""
        return self._wrong_by * share * float(self._errors.uniform(-1, 1))

    @property
    def source(self) -> "SimulatedBench":
        return self

    @property
    def loads(self) -> "SimulatedBench":
        return self

    @property
    def recorder(self) -> "SimulatedBench":
        return self

    @property
    def shares_clock(self) -> bool:
        """Whether source and recorder run on one clock."""
        return self._clock_ppm is None

    @property
    def sample_rate(self) -> float:
        """The recorder's rate, Hz."""
        return self._rate

    def set_bandwidth(self, hz: float) -> None:
        """Choose the recorder's rate."""
        self._check_link()
        rate = next((rate for rate in SAMPLE_RATES if 0.499 * rate >= hz), SAMPLE_RATES[-1])
        self._samples_played = round(self._samples_played * rate / self._rate)
        self._rate = rate

    @property
    def supply(self) -> "SupplyPanel":
        return SupplyPanel(self)

    def describe(self) -> dict[str, str]:
        """What the bench is made of, to be stored with the evidence."""
        return {
            "bench": f"{self.name}, simulated",
            "recorder": f"simulated, {self._rate / 1000:g} kHz, gain within 0.05 %",
            "supply": self._supply.name,
            "loads": "simulated resistors, measured warm to 1 %",
        }

    def break_link(self) -> None:
        """Planted fault: from now on every instrument fails as if its cable had been pulled."""
        self._linked = False

    def now(self) -> float:
        """Bench time in seconds."""
        return self._clock.now()

    def wait(self, seconds: float) -> None:
        """Let bench time pass; waveforms are computed for its beginning, heat for all of it."""
        self._check_link()
        settling = seconds if self.amplifier.is_coupled else min(seconds, SETTLED_AFTER)
        played = settling if self.amplifier.powered else 0.0
        if played > 0:
            self._sound(min(played, FOLLOWED_FOR))
        if played > FOLLOWED_FOR:
            self._sound(played - FOLLOWED_FOR, goes_on=True)
        self._rest(seconds - played)
        self._clock.advance(seconds)

    def lie_idle(self, seconds: float) -> None:
        """Let time pass for a bench that nobody works at: everything cools, a bank recovers."""
        self._rest(seconds)

    def close(self) -> None:
        """Make it safe; there is nothing to hang up."""
        self.source.make_safe()
        self.supply.make_safe()

    def give_up(self) -> None:
        """Nobody is asked anything here."""

    def temperatures(self) -> Temperatures:
        """How warm things are now, to 0.1 °C."""
        self._check_link()
        noise = self._errors.normal(0.0, 0.1, 2)
        return Temperatures(float(self.amplifier.temperature_c + noise[0]), float(self._hottest_load() + noise[1]))

    def turn_gain(self, channel: int, by_db: float) -> None:
        """Turn a gain control of the unit, as a person would."""
        self.amplifier.turn_gain(channel, by_db)

    def _rest(self, seconds: float) -> None:
        """Time without waveforms, at the power that the last waveform left in the loads."""
        if seconds <= 0:
            return
        powered = self.amplifier.powered
        self.amplifier.rest(seconds)
        self._supply.step(self.amplifier.supply_amps if powered else 0.0, seconds)
        self._samples_played += round(seconds * self._rate)
        self._warm_loads(seconds, self._load_watts if powered else {})

    def _warm_loads(self, seconds: float, watts: dict[int, float]) -> None:
        connected = {_box(link): watts.get(link.number, 0.0) for link in self._connections}
        for box, celsius in self._load_c.items():
            heated = LoadBox(float(box[1]), 500.0).after(celsius, connected.get(box, 0.0), seconds, AMBIENT_C)
            self._load_c[box] = heated

    def _hottest_load(self) -> float:
        here = [self._load_c[_box(link)] for link in self._connections]
        return max(here, default=AMBIENT_C)

    def ohms_now(self) -> dict[int, float]:
        """What the connected loads truly have, by link: as warm as they are, contacts included."""
        found = {}
        for link in self._connections:
            warm = self._ohms[link.number] * (1 + LOAD_PER_KELVIN * (self._load_c[_box(link)] - AMBIENT_C))
            contact = self._contacts.uniform(0.0, self._contact_ohms) if self._contact_ohms else 0.0
            found[link.number] = warm + contact
        return found

    def _into_resistance(self, link: Connection, ohms: float) -> float:
        """Share of the power that V²/R says which the load's resistance takes: R²/(R² + (ωL)²)."""
        reactance = 2 * math.pi * self._tones[link.channels[0] - 1] * self._load_henries
        return ohms**2 / (ohms**2 + reactance**2)

    def load_watts(self, number: int) -> float:
        """What the load on a connection turned into heat while something was played last."""
        return self._load_watts[number]

    def set_tone(self, channels: Sequence[int], hz: float) -> None:
        """Choose the sine of some channels."""
        self._check_link()
        for channel in channels:
            self._tones[channel - 1] = hz

    def set_burst(self, channels: Sequence[int], profile: BurstProfile | None) -> None:
        """Send the tone of some channels in bursts, or steadily again."""
        self._check_link()
        for channel in channels:
            self._bursts[channel - 1] = profile

    def set_level(self, channels: Sequence[int], level_dbv: float) -> None:
        """Set the rms level of some channels, in dB re 1 V; refuses more than the source has."""
        self._check_link()
        if level_dbv > self.highest_level_dbv + 1e-9:
            raise ValueError(f"level {level_dbv:.2f} dBV is above the source's {self.highest_level_dbv:g} dBV")
        for channel in channels:
            self._levels[channel - 1] = level_dbv

    @property
    def is_muted(self) -> bool:
        """Whether the source gives nothing."""
        return all(level == MUTED_DBV for level in self._levels)

    def make_safe(self) -> None:
        """Mute every output; works without the link, too."""
        self._levels = [MUTED_DBV] * len(self._levels)

    def connect(self, connections: Sequence[Connection]) -> None:
        """Wire loads to channels. A load box never comes out at its nominal value: each has its own deviation."""
        self._check_link()
        if not self.is_muted:
            raise BenchFault("Loads can only be wired while the source is muted.")
        self._connections = tuple(connections)
        for link in connections:
            own = np.random.default_rng(seed_of("load", str(link.number), f"{link.nominal_ohms:g}"))
            deviation = self._wrong_by * float(own.uniform(-0.012, 0.006))
            self._ohms[link.number] = link.nominal_ohms * (1 + deviation)
            self._load_c.setdefault(_box(link), AMBIENT_C)

    def measured(self) -> dict[int, Load]:
        """Every connected load as the bench's meter reads it, within 0.3 %: the same meter errs alike each time."""
        self._check_link()
        warm = self.ohms_now()
        return {
            link.number: Load(link.nominal_ohms, warm[link.number] * (1 + self._ohmmeter_error(link)))
            for link in self._connections
        }

    def _ohmmeter_error(self, link: Connection) -> float:
        own = np.random.default_rng(seed_of("ohmmeter", self.name, str(link.number), f"{link.nominal_ohms:g}"))
        return self._wrong_by * 0.003 * float(own.uniform(-1, 1))

    def capture(self, seconds: float, before_burst: float | None = None) -> Capture:
        """Record all connected outputs and the supply, with the instruments' own errors."""
        self._check_link()
        if before_burst is not None:
            self.wait(self._until_burst(before_burst))
        volts, supply = self._record(seconds)
        if self.looped:
            volts = self._sent(volts.shape[1])
        self._clock.advance(seconds)
        self._check_link()
        noise = self._errors.normal
        drawn = np.asarray(supply.amps, dtype=np.float64)
        return Capture(
            samples=volts * self._scale + noise(0.0, 30e-6, volts.shape),
            sample_rate=self._rate,
            roles=tuple(Signal("output_volts", link.number) for link in self._connections),
            supply=SupplyTrace(
                volts=supply.volts + noise(0.0, 0.002, supply.volts.shape),
                amps=drawn + self._supply.clamp_zero_amps + noise(0.0, 0.2, drawn.shape),
                sample_rate=supply.sample_rate,
            ),
            temperature_c=float(self.amplifier.temperature_c + noise(0.0, 0.1)),
            load_c=float(self._hottest_load() + noise(0.0, 0.1)),
        )

    def _sent(self, count: int) -> NDArray[np.float64]:
        """What comes where cables go from the source straight to the recorder."""
        at = np.arange(count) / self._rate
        sent = [(self._levels[link.channels[0] - 1], self._tones[link.channels[0] - 1]) for link in self._connections]
        return np.array([math.sqrt(2) * 10 ** (level / 20) * np.sin(2 * np.pi * hz * at) for level, hz in sent])

    def _until_burst(self, lead: float) -> float:
        """Seconds from now to ``lead`` before the next burst that can be recorded from there on."""
        burst = next((profile for profile in self._bursts if profile is not None), None)
        if burst is None:
            return 0.0
        within = (self._samples_played / self._rate) % burst.period_seconds
        return (burst.period_seconds - within - lead) % burst.period_seconds

    def _sound(self, seconds: float, goes_on: bool = False) -> None:
        """Play to nobody; with ``goes_on`` it has sounded for a while."""
        count = max(1, round(seconds * self._rate))
        self._play(count, self._oversampling(), goes_on, recorded=False)

    def _record(self, seconds: float) -> tuple[NDArray[np.float64], SupplyTrace]:
        """Play and record; a treble is computed at a multiple of the rate and filtered, as a recorder does it."""
        count, times = max(1, round(seconds * self._rate)), self._oversampling()
        if times == 1:
            return self._play(count, times, goes_on=True)
        volts, supply = self._play(count + 2 * _FILTER_SAMPLES, times, goes_on=True)
        filtered = scipy.signal.resample_poly(volts, 1, times, axis=1)
        return filtered[:, _FILTER_SAMPLES : _FILTER_SAMPLES + count], supply

    def _driven(self) -> list[float]:
        """Hz of the channels that are driven."""
        return [hz for hz, level in zip(self._tones, self._levels, strict=True) if level > MUTED_DBV]

    def _oversampling(self) -> int:
        return _OVERSAMPLING if max(self._driven(), default=0.0) > OVERSAMPLED_ABOVE_HZ else 1

    def _play(
        self, samples: int, times: int, goes_on: bool, recorded: bool = True
    ) -> tuple[NDArray[np.float64], SupplyTrace]:
        """So many samples of the recorder, each computed so many times."""
        rate = self._rate
        even = goes_on and not any(self._bursts) and min(self._driven(), default=0.0) >= EVEN_FROM_HZ
        count = samples * times
        seconds = samples / rate
        own = 1 + (self._clock_ppm or 0.0) * 1e-6
        at = (self._samples_played + np.arange(count) / times) / (rate * own)
        self._samples_played += samples
        inputs = np.zeros((len(self._tones), count))
        waves: dict[float, NDArray[np.float64]] = {}
        for row, (hz, level) in enumerate(zip(self._tones, self._levels, strict=True)):
            if level > MUTED_DBV:
                if hz not in waves:
                    cycles = hz * at
                    cycles -= np.floor(cycles)
                    waves[hz] = np.sin(2 * np.pi * cycles)
                inputs[row] = math.sqrt(2) * 10 ** (level / 20) * waves[hz]
                burst = self._bursts[row]
                if burst is not None:
                    inputs[row] *= burst.envelope(at)
        if not self.amplifier.powered:
            volts = np.zeros((len(self._connections), count))
            blocks = max(1, round(seconds / BLOCK_SECONDS))
            self._supply.step(0.0, seconds)
            self._warm_loads(seconds, {})
            idle = np.full(blocks, self._supply.terminal_volts(0.0))
            return volts, SupplyTrace(idle, np.zeros(blocks), 1 / BLOCK_SECONDS)
        ohms = self.ohms_now()
        out = self.amplifier.run(inputs, rate * times, self._connections, ohms, self._supply, even, recorded)
        for row, link in enumerate(self._connections):
            watts = float(np.mean(out.volts[row] ** 2)) / ohms[link.number]
            self._load_watts[link.number] = watts * self._into_resistance(link, ohms[link.number])
        self._warm_loads(seconds, self._load_watts)
        return out.volts, SupplyTrace(out.supply_volts, out.supply_amps, out.supply_rate)

    def _check_link(self) -> None:
        if not self._linked:
            raise BenchFault(f"{self.name} does not answer.", todo="Check its cables and start the run again.")


def _box(link: Connection) -> tuple[int, str]:
    """The load box on an output, by its nominal value as it is printed on it."""
    return link.number, f"{link.nominal_ohms:.3g}"


class SupplyPanel:
    """The supply's side of a simulated bench."""

    def __init__(self, bench: SimulatedBench) -> None:
        self._bench = bench

    def set_volts(self, volts: float) -> None:
        """Set the supply's output, 1 to 20 V."""
        if not 1 <= volts <= 20:
            raise ValueError(f"the supply gives 1 to 20 V, not {volts}")
        self._bench._check_link()
        self._bench._supply.set_volts(volts)

    def switch_on(self) -> None:
        """Power the amplifier afresh."""
        self._bench._check_link()
        self._bench.amplifier.power_on(self._bench._supply)

    def make_safe(self) -> None:
        """Switch the amplifier off; works without the link, too."""
        self._bench.amplifier.power_off()

    def terminal_volts(self) -> float:
        """Volts at the amplifier's terminals now, to 2 mV."""
        self._bench._check_link()
        volts = self._bench._supply.terminal_volts(self._bench.amplifier.supply_amps)
        return volts + float(self._bench._errors.normal(0.0, 0.002))

    def idle_clamp_amps(self) -> float:
        """The clamp's zero, averaged over a second."""
        self._bench._check_link()
        return self._bench._supply.clamp_zero_amps + float(self._bench._errors.normal(0.0, 0.02))
