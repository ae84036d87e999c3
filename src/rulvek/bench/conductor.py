"""Drives a run's procedure against a bench, reports each step, and makes the bench safe whatever happens."""

import math
import threading
from collections import deque
from collections.abc import Callable, Generator, Mapping
from dataclasses import dataclass, field

from rulvek.bench.before_power import OutOfWindow, await_window, power_up
from rulvek.bench.protocols import Bench, Connection
from rulvek.bench.switch import Guarded, Switch, make_safe
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BenchFault
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.burst_point import Pulses, Quiet, pulses, read_burst_point
from rulvek.core.readings.point import Load, Point, read_point
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.procedures import PROCEDURES
from rulvek.core.runs.requests import (
    Answer,
    Interrupted,
    Measured,
    Outcome,
    Request,
    Restart,
    SetLevel,
    Settle,
    TakeCapture,
)
from rulvek.core.runs.settings import capture_seconds, search_settings
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.distortion import band_for_tone
from rulvek.core.signals.power import mean_square

START_BELOW_SENSITIVITY_DB = 20.0


@dataclass(frozen=True, slots=True)
class RunSetup:
    """What one run needs to know.

    Attributes:
        under_test: Connections that are read; the first to pass the limit ends the run.
        companions: Connections that are only loaded and driven, at ``companion_tone_hz``.
        tone_hz: Tone of the channels under test.
        supply_volts: What the supply is set to.
        sensitivity_dbv: Input level for about full output, controls in test position; the run starts 20 dB below.
        burst: What is sent in burst mode, at its own tone; None in the steady modes.
        target_watts: What each connection under test is to hold in proof mode.
        policy: Whether ``supply_volts`` are held, or only where a bank starts from.
        clamp_zero_amps: As zeroed before power; measured afresh where None.
        loads: As measured before power, by connection number; measured afresh where None.
        companion_levels_dbv: Of companions whose own certified level is known, a little below it; others go low.
    """

    under_test: tuple[Connection, ...]
    companions: tuple[Connection, ...]
    tone_hz: float
    companion_tone_hz: float
    supply_volts: float
    sensitivity_dbv: float
    method: MethodProfile = field(default_factory=MethodProfile)
    mode: Mode = Mode.CERTIFIED
    burst: BurstProfile | None = None
    policy: SupplyPolicy = SupplyPolicy.HELD
    clamp_zero_amps: float | None = None
    loads: Mapping[int, Load] | None = None
    companion_levels_dbv: Mapping[int, float] = field(default_factory=dict)
    target_watts: float | None = None


@dataclass(frozen=True, slots=True)
class StartDelayed:
    """The start window is not met yet."""

    at: float
    outside: OutOfWindow


@dataclass(frozen=True, slots=True)
class Prepared:
    """The bench is ready: volts before the run, the clamp's zero, loads as measured, and how warm it starts.

    ``outside`` is what was not within the start window when somebody chose not to wait for it. ``trims_db`` is what the
    levels of channels under test are set apart by, so that they give alike; ``companions_full`` whether all companions
    give what they certify themselves, None where there are none.
    """

    at: float
    start_volts: float
    clamp_zero_amps: float
    loads: dict[int, Load]
    bench: dict[str, str]
    sink_c: float
    load_c: float
    outside: OutOfWindow | None = None
    trims_db: Mapping[int, float] = field(default_factory=dict)
    companions_full: bool | None = None


@dataclass(frozen=True, slots=True)
class LevelSet:
    """The source went to a level."""

    at: float
    level_dbv: float


@dataclass(frozen=True, slots=True)
class PointRead:
    """A point was measured; of bursts, the pulses of the first channel under test are drawn along."""

    at: float
    point: Point
    phase: str
    over_limit: bool
    pulses: Pulses | None = None


@dataclass(frozen=True, slots=True)
class Finished:
    """The run is over; the bench is safe."""

    at: float
    outcome: Outcome
    fault: str = ""


RunEvent = StartDelayed | Prepared | LevelSet | PointRead | Finished


@dataclass(frozen=True, slots=True)
class Conducted:
    """What a conducted run leaves: its outcome and the capture that its reading was taken from."""

    outcome: Outcome
    reading_capture: Capture | None


def conduct(
    bench: Bench,
    setup: RunSetup,
    report: Callable[[RunEvent], None],
    switch: Switch | None = None,
    hurry: threading.Event | None = None,
) -> Conducted:
    """Prepare the bench, run the mode's procedure and leave the bench safe.

    A lost link ends the run as ``link_lost`` with all that was measured, a thrown ``switch`` as whatever it was thrown
    for. If ``report`` raises, the bench is made safe and the error goes on; it must not block, because the bench is
    powered while it runs. ``hurry`` starts the run although its start window is not met yet.
    """
    switch, hurry = switch or Switch(), hurry or threading.Event()
    switch.attach(bench)
    guarded = Guarded(bench, switch)
    try:
        prepared = _prepare(guarded, setup, report, switch, hurry)
        conducted, fault = _conduct(guarded, setup, prepared, report, switch)
    except BenchFault as error:
        # The link was gone, or the switch thrown, before the search began.
        end = switch.thrown or End.LINK_LOST
        conducted, fault = Conducted(Outcome(end, None, None, None, ()), None), switch.fault or _fault(switch, error)
    finally:
        unsafe = make_safe(bench)
    report(Finished(bench.now(), conducted.outcome, " ".join(one for one in (fault, unsafe) if one)))
    return conducted


class _Reader:
    """Turns captures into points and keeps the captures of the last ones under the limit: a reading comes from them."""

    def __init__(self, setup: RunSetup, loads: dict[int, Load], zero: float, coherent: bool) -> None:
        self._setup, self._zero, self._coherent = setup, zero, coherent
        self._loads = {link.number: loads[link.number] for link in setup.under_test}
        self._companions = {link.number: loads[link.number] for link in setup.companions}
        self.pulses: Pulses | None = None
        self._quiet: tuple[float, Quiet] | None = None
        self._latest: tuple[Point, Capture] | None = None
        self._kept: deque[tuple[Point, Capture]] = deque(maxlen=2)  # the reading is the last but one at the most

    def read(self, capture: Capture, level_dbv: float) -> Point:
        band, burst = self._setup.method.band, self._setup.burst
        if burst is not None:
            lead = burst.lead_seconds
            if self._quiet is None or level_dbv < self._quiet[0]:
                self._quiet = level_dbv, Quiet(capture, lead)
            point = read_burst_point(
                capture,
                level_dbv=level_dbv,
                loads=self._loads,
                profile=burst,
                band=band,
                lead_seconds=lead,
                quiet=self._quiet[1],
            )
            self.pulses = pulses(capture, min(self._loads), burst, lead)
        else:
            point = read_point(
                capture,
                level_dbv=level_dbv,
                loads=self._loads,
                tone_hz=self._setup.tone_hz,
                band=band,
                clamp_zero_amps=self._zero,
                companions=self._companions,
                coherent=self._coherent,
            )
        self._latest = (point, capture)
        return point

    def keep(self) -> None:
        if self._latest is not None:
            self._kept.append(self._latest)

    def captured(self, reading: Point | None) -> Capture | None:
        return next((capture for point, capture in self._kept if point is reading), None)


def _prepare(
    bench: Bench,
    setup: RunSetup,
    report: Callable[[RunEvent], None],
    switch: Switch,
    hurry: threading.Event,
) -> Prepared:
    everything = setup.under_test + setup.companions
    bench.source.make_safe()
    bench.supply.make_safe()
    bench.loads.connect(everything)
    zero = bench.supply.idle_clamp_amps() if setup.clamp_zero_amps is None else setup.clamp_zero_amps
    power_up(bench, setup.supply_volts, setup.policy)
    tone = setup.burst.hz if setup.burst else setup.tone_hz
    bench.recorder.set_bandwidth(band_for_tone(setup.method.band, tone).high_hz)
    bench.source.set_tone(_channels(setup.under_test), setup.burst.hz if setup.burst else setup.tone_hz)
    bench.source.set_burst(_channels(setup.under_test), None)
    bench.source.set_tone(_channels(setup.companions), setup.companion_tone_hz)
    bench.source.set_burst(_channels(setup.companions), None)
    bench.wait(setup.method.settle_seconds)
    outside = await_window(
        bench,
        setup.supply_volts,
        setup.policy,
        setup.method,
        lambda what: report(StartDelayed(bench.now(), what)),
        (switch.event, hurry),
    )
    loads = dict(setup.loads) if setup.loads is not None else bench.loads.measured()
    start_volts, warm = bench.supply.terminal_volts(), bench.temperatures()
    known = [link.number in setup.companion_levels_dbv for link in setup.companions]
    prepared = Prepared(
        at=bench.now(),
        start_volts=start_volts,
        clamp_zero_amps=zero,
        loads=loads,
        bench=bench.describe(),
        sink_c=warm.sink_c,
        load_c=warm.load_c,
        outside=outside,
        trims_db=_trims(bench, setup),
        companions_full=all(known) if known else None,
    )
    report(prepared)
    bench.source.set_burst(_channels(setup.under_test), setup.burst)
    low = setup.sensitivity_dbv + setup.method.companion_level_db
    for link in setup.companions:
        bench.source.set_level(link.channels, setup.companion_levels_dbv.get(link.number, low))
    return prepared


def _trims(bench: Bench, setup: RunSetup) -> dict[int, float]:
    """By how many dB each connection's level is set apart, so that all give alike; nothing where there is none to set.

    What is further apart than the method trims is no matter of tolerances: it stays as it is, for the checks to tell.
    """
    if not bench.source.level_per_channel or len(setup.under_test) < 2:
        return {}
    bench.source.set_level(_channels(setup.under_test), setup.sensitivity_dbv - START_BELOW_SENSITIVITY_DB)
    bench.wait(setup.method.settle_seconds)
    tone = setup.burst.hz if setup.burst else setup.tone_hz
    outputs = bench.recorder.capture(capture_seconds(setup.method, tone), None).outputs()
    squares = {link.number: mean_square(outputs[link.number]) for link in setup.under_test}
    if min(squares.values()) <= 0:
        return {}
    middle = math.fsum(10 * math.log10(one) for one in squares.values()) / len(squares)
    apart = {number: middle - 10 * math.log10(one) for number, one in squares.items()}
    if max(abs(trim) for trim in apart.values()) > setup.method.trim_maximum_db:
        return {}
    return {number: round(trim, 2) for number, trim in apart.items()}


def _conduct(
    bench: Bench,
    setup: RunSetup,
    prepared: Prepared,
    report: Callable[[RunEvent], None],
    switch: Switch,
) -> tuple[Conducted, str]:
    reader = _Reader(setup, prepared.loads, prepared.clamp_zero_amps, bench.recorder.shares_clock)
    settings = search_settings(
        setup.method,
        setup.mode,
        start_level_dbv=setup.sensitivity_dbv - START_BELOW_SENSITIVITY_DB,
        highest_level_dbv=bench.source.highest_level_dbv - max(0.0, *prepared.trims_db.values(), 0.0),
        tone_hz=setup.tone_hz,
        burst=setup.burst,
        target_watts=setup.target_watts,
    )
    procedure = PROCEDURES[setup.mode](settings, reader.read)
    answer: Answer = None
    fault = ""
    while True:
        try:
            step = procedure.send(answer)
        except StopIteration as finished:
            outcome: Outcome = finished.value
            return Conducted(outcome, reader.captured(outcome.reading)), fault or switch.fault
        if isinstance(step, Measured) and not step.over_limit and step.phase != "pushing_on":
            reader.keep()
        try:
            answer = _act(bench, setup, prepared, reader, step, report, switch)
        except BenchFault as error:
            fault = switch.fault or _fault(switch, error)
            answer = _interrupt(procedure, step, Interrupted(switch.thrown or End.LINK_LOST))


def _act(
    bench: Bench,
    setup: RunSetup,
    prepared: Prepared,
    reader: _Reader,
    step: Request,
    report: Callable[[RunEvent], None],
    switch: Switch,
) -> Answer:
    match step:
        case SetLevel(level_dbv):
            for link in setup.under_test:
                bench.source.set_level(link.channels, level_dbv + prepared.trims_db.get(link.number, 0.0))
            report(LevelSet(bench.now(), level_dbv))
        case Settle(seconds):
            _wait(bench, seconds, switch)
        case TakeCapture(seconds, at_burst):
            if switch.thrown:
                return Interrupted(switch.thrown)
            lead = setup.burst.lead_seconds if setup.burst is not None and at_burst else None
            capture = bench.recorder.capture(seconds, lead)
            return Interrupted(switch.thrown) if switch.thrown else capture
        case Restart():
            bench.supply.make_safe()
            _wait(bench, setup.method.recovery_seconds, switch)
            if not switch.thrown:
                bench.supply.switch_on()
        case Measured(point, phase, over_limit):
            report(PointRead(bench.now(), point, phase, over_limit, reader.pulses))
    return None


def _wait(bench: Bench, seconds: float, switch: Switch) -> None:
    """Wait in short pieces, so that *off* is obeyed at once."""
    left = seconds
    while left > 0 and not switch.thrown:
        piece = min(left, 0.25)
        bench.wait(piece)
        left -= piece


def _fault(switch: Switch, error: BenchFault) -> str:
    """A switch that somebody threw is no fault."""
    return "" if switch.thrown else error.what


def _interrupt(procedure: Generator[Request, Answer, Outcome], step: Request, interruption: Interrupted) -> Answer:
    """Lead the procedure on to its next capture, where it can be told that the run cannot go on."""
    while not isinstance(step, TakeCapture):
        step = procedure.send(None)
    return interruption


def _channels(connections: tuple[Connection, ...]) -> tuple[int, ...]:
    return tuple(channel for link in connections for channel in link.channels)
