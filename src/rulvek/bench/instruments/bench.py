"""A bench made of instruments by description: its roles are filled, its wires are known, and Off has its own."""

import math
import time
from collections.abc import Callable, Mapping, Sequence

import numpy as np

from rulvek.bench.instruments.assembly import Assembly
from rulvek.bench.instruments.by_hand import Asking, HandLink
from rulvek.bench.instruments.description import BenchRole, Description
from rulvek.bench.instruments.keeper import Keeper
from rulvek.bench.instruments.limits import LimitsKept
from rulvek.bench.instruments.link import Link
from rulvek.bench.instruments.sound_link import SoundLink
from rulvek.bench.instruments.watchdog import Watchdog
from rulvek.bench.protocols import Connection, Temperatures
from rulvek.bench.sound.devices import SOUND
from rulvek.bench.sound.duplex import Duplex
from rulvek.bench.switch import make_safe
from rulvek.core.errors import BenchFault
from rulvek.core.readings.point import Load
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.capture import Capture, Signal, SupplyTrace
from rulvek.core.signals.slips import slipped

AnyLink = Link | HandLink | SoundLink
_POWERED = (BenchRole.SOURCE, BenchRole.SUPPLY, BenchRole.OFF)
SIMULATED_IDENTITY = "Rulvek,simulated"
"""What simulated instruments say they are: nothing of them ever passes for a real one."""
OFF_SECONDS, OFF_AMPS = 0.3, 0.5
"""How soon after Off no more than that may flow; rails are empty by then."""
MOST_IDLE_SECONDS = 3600.0
SILENT_DB = -300.0
"""Said for a rest in which nothing is sent."""


class InstrumentBench:
    """One bench of instruments; all four protocols, as its parts act together.

    What makes it safe goes over connections that no run uses, so that it waits for no query.
    """

    level_per_channel = True

    def __init__(
        self,
        name: str,
        assembly: Assembly,
        kept: bool = False,
        asking: Asking | None = None,
        closed: Callable[[], None] = lambda: None,
    ) -> None:
        """``kept``: a process beside this one makes it safe if this one dies. ``asking`` is for roles by hand.

        ``closed`` hears that nobody works at it any more.
        """
        self._closed = closed
        assembly.refuse_unfit()
        self._asking = asking or Asking()
        self._kept = kept
        self._keeper: Keeper | None = None
        self.name, self.assembly = name, assembly
        self._interfaces: dict[str, Duplex] = {}
        self._links: dict[BenchRole, AnyLink] = {role: self._link(role) for role in assembly.stations}
        watched = [role for role in (*_POWERED, BenchRole.CURRENT) if role in assembly.stations]
        # A person is one and the same, and so is an audio interface: nobody who makes something safe waits for either.
        self._safe = {
            role: self._link(role) if isinstance(self._links[role], Link) else self._links[role] for role in watched
        }
        self._limits = LimitsKept(assembly.limits)
        self._supply = _Supply(self._links, self._safe, self._limits, self.now, self._watchdog())
        self._connections: tuple[Connection, ...] = ()
        self._tones: dict[int, float] = {}
        self._steady: dict[int, bool] = {}
        self._rate = 0.0
        self._passed = 0.0
        self._began = time.monotonic()

    def _link(self, role: BenchRole) -> "AnyLink":
        station = self.assembly.stations[role]
        if station.description.by_hand:
            return HandLink(station.description, self._asking)
        if station.description.sound and self.assembly.levels is not None:
            channels = station.description.channels
            name = station.address.removeprefix(SOUND)
            interface = self._interfaces.setdefault(name, Duplex(name, channels, channels))
            return SoundLink(station.description, interface, self.assembly.levels)
        return Link(station.description, station.address)

    def _watchdog(self) -> Watchdog | None:
        link = self._link(BenchRole.SUPPLY)
        return Watchdog(link) if isinstance(link, Link) and link.description.can("arm_watchdog") else None

    def is_by_hand(self, role: BenchRole) -> bool:
        """Whether a person fills a role."""
        return role in self.assembly.stations and self._described(role).by_hand

    def give_up(self) -> None:
        """Let nobody wait for a person any more."""
        self._asking.give_up()

    def open(self) -> dict[BenchRole, str]:
        """Connect to all; what each says it is.

        Raises:
            BenchFault: one does not answer, or is another than it should be.
        """
        said = {role: link.open() for role, link in self._links.items()}
        for role, identity in said.items():
            if identity.startswith(SIMULATED_IDENTITY) and not self._described(role).simulated:
                raise BenchFault(f"{self.assembly.stations[role].address} is simulated, its description says not.")
        for link in self._safe.values():
            link.open()
        if self._kept and self._keeper is None:
            self._keeper = Keeper(self.assembly.as_json())
        self.set_bandwidth(0.0)
        return said

    def make_all_safe(self) -> str:
        """Mute the source and switch the supply off; what could not be told."""
        return make_safe(self)

    def close(self) -> None:
        """Make it safe as far as it answers, and hang up."""
        self.make_all_safe()
        if self._keeper is not None:
            self._keeper.leave()
            self._keeper = None
        for link in (*self._links.values(), *self._safe.values()):
            link.close()
        self._supply.hang_up()
        self._closed()

    def _described(self, role: BenchRole) -> Description:
        return self.assembly.stations[role].description

    @property
    def source(self) -> "InstrumentBench":
        return self

    @property
    def loads(self) -> "InstrumentBench":
        return self

    @property
    def recorder(self) -> "InstrumentBench":
        return self

    @property
    def supply(self) -> "_Supply":
        return self._supply

    @property
    def highest_level_dbv(self) -> float:
        """The most that the source gives, rms, in dB re 1 V."""
        if self._described(BenchRole.SOURCE).sound and self.assembly.levels is not None:
            return 20 * math.log10(min(self.assembly.levels.output_volts))
        most = self._described(BenchRole.SOURCE).ranges.get("volts")
        return 20 * math.log10(most.high) if most is not None else 0.0

    @property
    def shares_clock(self) -> bool:
        """Whether source and recorder run on one clock."""
        return self._described(BenchRole.RECORDER).shares_clock

    def set_tone(self, channels: Sequence[int], hz: float) -> None:
        """Choose the sine of some channels."""
        for channel in channels:
            self._links[BenchRole.SOURCE].act("set_tone", channel=channel, hz=hz)
            self._tones[channel] = hz

    def set_burst(self, channels: Sequence[int], profile: BurstProfile | None) -> None:
        """Send the tone of some channels in bursts, or steadily again."""
        link = self._links[BenchRole.SOURCE]
        can = self._described(BenchRole.SOURCE).can("set_burst")
        if profile is not None and not can:
            raise BenchFault(f"{self._described(BenchRole.SOURCE).name} sends no bursts.")
        for channel in channels:
            self._steady[channel] = profile is None
            if profile is None:
                if can:
                    link.act("end_burst", channel=channel)
                continue
            link.act(
                "set_burst",
                channel=channel,
                cycles=profile.on_cycles,
                period_seconds=profile.period_seconds,
                rest_db=max(profile.rest_db, SILENT_DB),
                shaped=profile.shaped,
            )

    def set_level(self, channels: Sequence[int], level_dbv: float) -> None:
        """Set the rms level of some channels, in dB re 1 V; refuses more than the source has."""
        for channel in channels:
            self._links[BenchRole.SOURCE].act("set_level", channel=channel, volts=10 ** (level_dbv / 20))

    def make_safe(self) -> None:
        """Mute every output, over a connection of its own."""
        self._safe[BenchRole.SOURCE].make_safe()

    def connect(self, connections: Sequence[Connection]) -> None:
        """Wire loads to channels, all others off."""
        link = self._links[BenchRole.LOADS]
        if isinstance(link, HandLink):
            link.wire(connections)
            self._connections = tuple(connections)
            return
        link.act("open_all")
        for one in connections:
            other = one.channels[1] if len(one.channels) == 2 else 0
            link.act("connect", channel=one.number, other=other, ohms=one.nominal_ohms)
        self._connections = tuple(connections)

    def measured(self) -> dict[int, Load]:
        """Every connected load as the load bank reads it."""
        link = self._links[BenchRole.LOADS]
        found = {}
        for one in self._connections:
            ohms = link.number("read_ohms", channel=one.number)
            found[one.number] = Load(one.nominal_ohms, ohms)
            if made := self.assembly.limits.network(one.nominal_ohms):
                found[one.number] = Load(
                    one.nominal_ohms, ohms, inductance_uh=made.inductance_uh, ppm_per_kelvin=made.ppm_per_kelvin
                )
        return found

    def set_bandwidth(self, hz: float) -> None:
        """Choose the recorder's rate: the lowest that holds it, else the highest there is."""
        rates = self._described(BenchRole.RECORDER).rates_hz
        self._rate = next((rate for rate in rates if 0.499 * rate >= hz), rates[-1])
        self._links[BenchRole.RECORDER].act("set_rate", hz=self._rate)

    def capture(self, seconds: float, before_burst: float | None = None) -> Capture:
        """Record all inputs, and the supply alongside where the recorder does; else its volts and amps at the end."""
        link, recorder = self._recorder(), self._described(BenchRole.RECORDER)
        samples = max(1, round(seconds * self._rate))
        act, given = ("record", {}) if before_burst is None else ("record_burst", {"lead_seconds": before_burst})
        wired = max((self._input_of(one.number) for one in self._connections), default=1)
        inputs = wired if recorder.takes(act, "inputs") else recorder.channels
        taken = link.block(act, inputs, samples=samples, inputs=inputs, **given)
        if taken.shape[1] != samples:
            raise BenchFault(f"{recorder.name} gave {taken.shape[1]} samples in place of {samples}.")
        rows = [taken[self._input_of(one.number) - 1] for one in self._connections]
        supply = self._supply_trace()
        volts = self.assembly.volts_per_unit * np.array(rows)
        self._refuse_slipped(volts)
        self._limits.refuse_record(volts, self._connections, supply, before_burst is None, self.now())
        sink_c, load_c = self._warm()
        self._limits.refuse_heat(load_c)
        if BenchRole.TIME in self._links:
            self._passed += seconds
        return Capture(
            samples=volts,
            sample_rate=self._rate,
            roles=tuple(Signal("output_volts", one.number) for one in self._connections),
            supply=supply,
            temperature_c=sink_c,
            load_c=load_c,
        )

    def _refuse_slipped(self, volts: np.ndarray) -> None:
        """A record that lost samples reads as distortion that nobody has."""
        for row, one in zip(volts, self._connections, strict=True):
            hz = self._tones.get(one.number)
            if hz is None or not self._steady.get(one.number, True) or 2 * hz >= self._rate:
                continue
            if lost := slipped(row, self._rate, hz):
                how = f"lost {lost}" if lost > 0 else f"gave {-lost} twice"
                raise BenchFault(
                    f"The recorder {how} of its samples in the middle of a record.",
                    todo="Give it a longer buffer, and the machine less to do; then start the run again.",
                )

    def _input_of(self, channel: int) -> int:
        found = self.assembly.input_of(channel)
        if found is None:
            raise BenchFault(f"Channel {channel} is wired to no recorder input of its own.")
        return found

    def _recorder(self) -> Link | SoundLink:
        link = self._links[BenchRole.RECORDER]
        assert not isinstance(link, HandLink)  # no recorder is
        return link

    def _warm(self) -> tuple[float | None, float | None]:
        """How warm things are in the middle of a run; of a person's thermometer, what it told last."""
        link = self._links[BenchRole.TEMPERATURES]
        if isinstance(link, HandLink):
            return link.last("read_sink_c"), link.last("read_load_c")
        warm = self.temperatures()
        return warm.sink_c, warm.load_c

    def _supply_trace(self) -> SupplyTrace | None:
        """Volts and amps of the supply alongside a record; none where a person would have to read them."""
        link = self._recorder()
        if self._described(BenchRole.RECORDER).can("fetch_supply"):
            volts, amps = link.block("fetch_supply", 2)
            return SupplyTrace(volts, amps, link.number("fetch_supply_rate"))
        if self.is_by_hand(BenchRole.SUPPLY):
            return None
        volts_now = self._links[BenchRole.SUPPLY].number("read_volts")
        amps_now = self._links[BenchRole.CURRENT].number("read_amps") if BenchRole.CURRENT in self._links else None
        return SupplyTrace(np.array([volts_now]), None if amps_now is None else np.array([amps_now]), 1.0)

    def wait(self, seconds: float) -> None:
        """Let bench time pass."""
        if BenchRole.TIME in self._links:
            self._links[BenchRole.TIME].act("pass_time", seconds=seconds)
            self._passed += seconds
        else:
            time.sleep(seconds)

    def now(self) -> float:
        """Bench time in seconds."""
        return self._passed if BenchRole.TIME in self._links else time.monotonic() - self._began

    def temperatures(self) -> Temperatures:
        """How warm things are now."""
        link = self._links[BenchRole.TEMPERATURES]
        return Temperatures(link.number("read_sink_c"), link.number("read_load_c"))

    def describe(self) -> dict[str, str]:
        """What the bench is made of, to be stored with the evidence."""
        return {"bench": self.name} | {role.value: link.identity for role, link in self._links.items()}

    def lie_idle(self, seconds: float) -> None:
        """It has lived through it already, but who was switched off since is connected to again before anything else.

        What is simulated lives through as much as its clock takes at once.
        """
        for link in self._links.values():
            if isinstance(link, Link):
                link.wake()
        for safe in self._safe.values():
            if isinstance(safe, Link):
                safe.wake(asked=False)  # Off, which may come now, would wait for the answer
        self._supply.wake()
        if BenchRole.TIME in self._links:
            self.wait(min(seconds, MOST_IDLE_SECONDS))

    def turn_gain(self, channel: int, by_db: float) -> None:
        """A person's hand turns it; of a simulated unit, whoever simulates it."""
        if BenchRole.TIME in self._links and self._described(BenchRole.TIME).can("turn_gain"):
            self._links[BenchRole.TIME].act("turn_gain", channel=channel, by_db=by_db)

    def loop_back(self, on: bool) -> None:
        """A person's hand puts cables from the source to the recorder; at simulated ones, whoever simulates them."""
        if BenchRole.TIME in self._links and self._described(BenchRole.TIME).can("loop"):
            self._links[BenchRole.TIME].act("loop", on=on)


class _Supply:
    """The supply's side of the bench."""

    def __init__(
        self,
        links: Mapping[BenchRole, AnyLink],
        safe: Mapping[BenchRole, AnyLink],
        limits: LimitsKept,
        now: Callable[[], float],
        watchdog: Watchdog | None,
    ) -> None:
        self._links, self._safe, self._limits, self._now = links, safe, limits, now
        self._watchdog = watchdog
        self._zero_amps: float | None = None

    def set_volts(self, volts: float) -> None:
        """Set the supply's output.

        Raises:
            BenchFault: more than this bench may have, or it could not be told.
        """
        self._limits.refuse_volts(volts)
        self._links[BenchRole.SUPPLY].act("set_volts", volts=volts)

    def switch_on(self) -> None:
        """Power the amplifier afresh, its supply's own limit set and its watchdog armed where it has these."""
        supply = self._links[BenchRole.SUPPLY]
        if supply.description.can("limit_amps"):
            range_ = supply.description.ranges.get("amps")
            most = self._limits.supply_amps
            supply.act("limit_amps", amps=most if range_ is None else min(most, range_.high))
        if self._watchdog is not None:
            self._watchdog.arm()
        if BenchRole.OFF in self._links:
            self._links[BenchRole.OFF].act("allow")
        self._links[BenchRole.SUPPLY].act("switch_on")
        self._limits.switched_on(self._now())

    def make_safe(self) -> None:
        """Switch the amplifier off over a connection of its own, and see that no current flows any more.

        Raises:
            BenchFault: it could not be told, or it stays on.
        """
        try:
            self._safe[BenchRole.SUPPLY].make_safe()
        finally:
            if BenchRole.OFF in self._safe:
                self._safe[BenchRole.OFF].make_safe()
        self._limits.switched_off()
        if self._watchdog is not None:
            self._watchdog.disarm()
        if self._zero_amps is None:
            return
        until = time.monotonic() + OFF_SECONDS
        while (amps := self._safe[BenchRole.CURRENT].number("read_amps") - self._zero_amps) > OFF_AMPS:
            if time.monotonic() > until:
                raise BenchFault(f"{amps:.1f} A flow although the supply was switched off.")

    def wake(self) -> None:
        """See that the watchdog still answers, where there is one."""
        if self._watchdog is not None:
            self._watchdog.wake()

    def hang_up(self) -> None:
        """Nobody works at it any more."""
        if self._watchdog is not None:
            self._watchdog.close()

    def terminal_volts(self) -> float:
        """Volts at the amplifier's terminals now."""
        return self._links[BenchRole.SUPPLY].number("read_volts")

    def idle_clamp_amps(self) -> float:
        """What the current probe indicates with nothing flowing; 0 where there is none."""
        if BenchRole.CURRENT not in self._links:
            return 0.0
        self._zero_amps = self._links[BenchRole.CURRENT].number("read_amps")
        return self._zero_amps

    def amps(self) -> float:
        """What the current probe indicates now; 0 where there is none."""
        return self._links[BenchRole.CURRENT].number("read_amps") if BenchRole.CURRENT in self._links else 0.0
