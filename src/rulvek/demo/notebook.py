"""A technician's notebook: readings by hand and recordings, with the mistakes that people make.

The figures are read off the simulated bench like all others, by a meter that is off by its own error; what is wrong
with a note is what was done wrong, never its arithmetic.
"""

import csv
import io
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
import soundfile

from rulvek.bench.conductor import Conducted, Prepared, RunEvent, RunSetup, conduct
from rulvek.bench.sim.bench import SAMPLE_RATES, SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.supply import RegulatedDesign
from rulvek.composition import Services
from rulvek.core.electrical.loads import Connection
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.point import Point
from rulvek.core.records.actor import Actor
from rulvek.core.records.outside import HandChannel, HandReading, OtherReading
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.power import unclipped_sine_watts
from rulvek.services.outside.earlier_results import Table
from rulvek.services.outside.inbox import RecordingSetup
from rulvek.store.formats.recorded_files import ColumnUse

METER = "Meter 4"
SCOPE = "Oscilloscope 2"
RECORDER = "Field recorder"
METER_ERROR = 1.004
OHMS = 4.0
VOLTS = 14.4
CHARGER_AMPS = 12.0
FULL_SCALE = 64.0
LEFT_LOUD_DB = -3.0


class Note(StrEnum):
    """What is in a notebook."""

    CLIPPED_PEAK = "a peak read off the screen while it clipped"
    WEAK_SUPPLY = "thin cables, a charger past the clamp, the clamp not zeroed"
    TWO_MOMENTS = "watts and volts noted at different levels"
    BURST_WITH_AMPS = "a burst with the clamp's mean, started with the level already up"
    ONE_AT_A_TIME = "one channel at a time, into a load that is off, controls as they came"
    STRAIGHT_AFTER_PLAY = "straight after an hour of music"
    OLD_TABLE = "two results of a former year, in a table"
    RECORDED_SWEEP = "a sweep on the field recorder, an oscilloscope beside it"
    RECORDED_STEADY = "a steady tone on the field recorder, well under the limit"


@dataclass(frozen=True, slots=True)
class _Met:
    """What one run on the bench showed: its preparation, its reading and all points."""

    start_volts: float
    sink_c: float | None
    conducted: Conducted
    bench: SimulatedBench

    @property
    def reading(self) -> Point:
        reading = self.conducted.outcome.reading
        assert reading is not None
        return reading

    def volts(self, point: Point | None = None) -> tuple[float, ...]:
        """By channel, as the meter shows them."""
        channels = (point or self.reading).channels
        return tuple(round(channel.volts_rms * METER_ERROR, 2) for channel in channels)

    def lower(self, below_db: float) -> Point:
        """The point of the way up that lies nearest to so many dB under the reading."""
        wanted = self.reading.level_dbv - below_db
        return min(self.conducted.outcome.points, key=lambda point: abs(point.level_dbv - wanted))


@dataclass(frozen=True, slots=True)
class UnitOnBench:
    """One unit on the simulated bench, and where its notes are kept."""

    services: Services
    unit_id: int
    serial: str
    design: str
    actor: Actor

    def meet(
        self,
        mode: Mode = Mode.CERTIFIED,
        supply: RegulatedDesign | None = None,
        channels: tuple[int, ...] = (1, 2),
        ohms: float = OHMS,
        warm_up_seconds: float = 0.0,
    ) -> _Met:
        """Conduct one run and look at it."""
        bench = SimulatedBench(DESIGNS[self.design], self.serial, supply=supply)
        links = tuple(Connection((channel,), ohms) for channel in channels)
        if warm_up_seconds:
            _play(bench, links, warm_up_seconds)
        method = replace(MethodProfile(), start_sink_maximum_c=200.0)  # the note-taker does not wait
        burst = method.burst_of(False) if mode is Mode.BURST else None
        setup = RunSetup(links, (), 1000.0, 40.0, VOLTS, 0.0, method=method, mode=mode, burst=burst)
        prepared: list[Prepared] = []

        def hear(event: RunEvent) -> None:
            if isinstance(event, Prepared):
                prepared.append(event)

        conducted = conduct(bench, setup, hear)
        return _Met(prepared[0].start_volts, prepared[0].sink_c, conducted, bench)

    def spec(self, mode: Mode = Mode.CERTIFIED) -> RunSpec:
        """The run that a note is of."""
        return RunSpec(mode, "main", OHMS, 1000.0, VOLTS, False, "1 kHz" if mode is Mode.BURST else "")

    def note(self, met: _Met, remark: Note, mode: Mode = Mode.CERTIFIED) -> HandReading:
        """A note without a mistake, of what the meter and the clamp showed."""
        reading = met.reading
        thd_n = reading.worst_thd_n
        return HandReading(
            run=self.spec(mode),
            channels=tuple(HandChannel(volts_rms=volts) for volts in met.volts()),
            instrument=METER,
            accuracy_percent=0.5,
            start_volts=round(met.start_volts, 2),
            loaded_volts=round(reading.supply_volts or 0.0, 2),
            amps=None if reading.supply_amps is None else round(reading.supply_amps, 1),
            thd_n_percent=None if mode is Mode.BURST else round(100 * thd_n, 2),
            end=End.CLIP if mode is Mode.UNCERTIFIED else End.LIMIT,
            clamp_zeroed=True,
            controls_in_position=True,
            remark=remark.value.capitalize(),
        )

    def keep(self, note: HandReading) -> int:
        """Put a note on record."""
        return self.services.by_hand.keep(self.unit_id, note, self.actor)

    def keep_recording(self, name: str, content: bytes, setup: RecordingSetup) -> int:
        """Send a recording in, have it read, and keep it."""
        arriving = self.services.recordings.arriving(name, self.actor)
        arriving.write(content)
        waiting = arriving.finish()
        self.services.recordings.read(waiting.id, self.unit_id, setup)
        read = self.services.recordings.wait(waiting.id)
        if read.attempt is None:
            raise RuntimeError(read.problem)
        return self.services.recordings.keep(waiting.id, self.actor)


def take_down(note: Note, bench: UnitOnBench) -> None:
    """Make one note of a unit on the bench, and keep it."""
    _NOTES[note](bench)


def _play(bench: SimulatedBench, links: tuple[Connection, ...], seconds: float) -> None:
    """Music at an eighth of full power and more, for as long as it takes to get warm."""
    bench.connect(links)
    bench.supply.set_volts(VOLTS)
    bench.supply.switch_on()
    bench.set_level([link.number for link in links], -4.0)
    bench.wait(seconds)


def _clipped_peak(bench: UnitOnBench) -> None:
    met = bench.meet(Mode.UNCERTIFIED)
    capture = met.conducted.reading_capture
    assert capture is not None
    peaks = [round(float(np.max(np.abs(volts))), 1) for volts in capture.outputs().values()]
    note = bench.note(met, Note.CLIPPED_PEAK, Mode.UNCERTIFIED)
    channels = tuple(HandChannel(volts_peak=peak) for peak in peaks)
    bench.keep(replace(note, channels=channels, instrument=SCOPE, accuracy_percent=3.0, amps=None))


def _weak_supply(bench: UnitOnBench) -> None:
    thin = RegulatedDesign(cable_ohms=0.045, remote_sense=False)
    met = bench.meet(supply=thin)
    note = bench.note(met, Note.WEAK_SUPPLY)
    past_the_clamp = round((met.reading.supply_amps or 0.0) - CHARGER_AMPS, 1)
    bench.keep(replace(note, amps=past_the_clamp, charger_amps=CHARGER_AMPS, clamp_zeroed=False))


def _two_moments(bench: UnitOnBench) -> None:
    met = bench.meet()
    note = bench.note(met, Note.TWO_MOMENTS)
    earlier = [round(channel.watts, 1) for channel in met.lower(1.0).channels]
    pairs = zip(earlier, met.volts(), strict=True)
    bench.keep(replace(note, channels=tuple(HandChannel(watts=w, volts_rms=v) for w, v in pairs)))


def _burst_with_amps(bench: UnitOnBench) -> None:
    met = bench.meet(Mode.BURST)
    capture = met.conducted.reading_capture
    assert capture is not None and capture.supply is not None
    note = bench.note(met, Note.BURST_WITH_AMPS, Mode.BURST)
    already = round(met.lower(-LEFT_LOUD_DB).weakest_watts, 1)
    bench.keep(replace(note, amps=round(capture.supply.mean_amps or 0.0, 1), start_watts=already))


def _one_at_a_time(bench: UnitOnBench) -> None:
    high = 3.86
    met = [bench.meet(channels=(channel,), ohms=high) for channel in (1, 2)]
    note = bench.note(met[0], Note.ONE_AT_A_TIME)
    channels = tuple(HandChannel(volts_rms=one.volts()[0]) for one in met)
    bench.keep(replace(note, channels=channels, load_measured=high, all_loaded=False, controls_in_position=False))


def _straight_after_play(bench: UnitOnBench) -> None:
    met = bench.meet(Mode.UNCERTIFIED, warm_up_seconds=3600.0)
    note = bench.note(met, Note.STRAIGHT_AFTER_PLAY, Mode.UNCERTIFIED)
    bench.keep(replace(note, sink_c=None if met.sink_c is None else round(met.sink_c)))


def _old_table(bench: UnitOnBench) -> None:
    """The second row was read a little under the limit, as the table does not say."""
    met = bench.meet(Mode.UNCERTIFIED)
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["Serial", "Mode", "Load", "V rms 1", "V rms 2", "THD+N (%)", "Supply at reading", "Date"])
    for point, day in ((met.reading, "2025-03-04"), (met.lower(0.5), "2025-03-05")):
        thd_n = f"{100 * point.worst_thd_n:.1f}"
        table.writerow([bench.serial, "uncertified", OHMS, *met.volts(point), thd_n, f"{point.supply_volts:.2f}", day])
    shown = bench.services.earlier_results.inspect("results-2025.csv", out.getvalue())
    mapping = {i: c.field for i, c in enumerate(shown.columns) if c.field} | {3: "volts_rms", 4: "volts_rms"}
    kept = Table("results-2025.csv", out.getvalue(), mapping, METER, 0.5)  # type: ignore[arg-type]
    bench.services.earlier_results.keep(kept, bench.actor)


def _recorded_sweep(bench: UnitOnBench) -> None:
    met = bench.meet()
    wave, supply = _stepped(met, [-12.0, -6.0, -3.0, -2.0, -1.0, -0.5, -0.2, 0.0, 0.05, 0.3, 0.6])
    attempt_id = bench.keep_recording("sweep-4-ohm.wav", _as_wav(wave, supply), _setup(bench))
    peak = FULL_SCALE * float(np.max(np.abs(wave[0])))
    watts = round(unclipped_sine_watts(peak, OHMS), 1)  # from the screen, of a wave that clips by now
    bench.services.second.add(attempt_id, SCOPE, 1.0, [OtherReading(1, watts=watts)], bench.actor)


def _recorded_steady(bench: UnitOnBench) -> None:
    wave, supply = _stepped(bench.meet(), [-3.0] * 4)
    bench.keep_recording("steady-4-ohm.wav", _as_wav(wave, supply), _setup(bench))


def _stepped(met: _Met, steps_db: list[float]) -> tuple[np.ndarray, np.ndarray]:
    """Outputs and supply volts, re full scale, of half a second at each level re the reading's, silence around it."""
    bench, captures = met.bench, []
    links = (Connection((1,), OHMS), Connection((2,), OHMS))
    bench.connect(links)
    bench.supply.set_volts(VOLTS)
    bench.supply.switch_on()
    bench.wait(120.0)
    captures.append(bench.capture(0.3))
    for step in steps_db:
        bench.set_level([1, 2], met.reading.level_dbv + step)
        bench.wait(0.1)
        captures.append(bench.capture(0.5))
    bench.make_safe()
    captures.append(bench.capture(0.3))
    bench.supply.make_safe()
    wave = np.concatenate([capture.samples for capture in captures], axis=1)
    supply = np.concatenate([_supply_of(capture) for capture in captures])
    return wave / FULL_SCALE, supply / FULL_SCALE


def _supply_of(capture: Capture) -> np.ndarray:
    """The supply's volts at every sample of the capture."""
    assert capture.supply is not None
    at = np.arange(capture.samples.shape[1]) / capture.sample_rate
    return np.interp(at, np.arange(capture.supply.volts.size) / capture.supply.sample_rate, capture.supply.volts)


def _as_wav(wave: np.ndarray, supply: np.ndarray) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, np.vstack([wave, supply]).T, round(SAMPLE_RATES[0]), subtype="PCM_24", format="WAV")
    return out.getvalue()


def _setup(bench: UnitOnBench) -> RecordingSetup:
    rows = (
        ColumnUse(0, "output_volts", 1, FULL_SCALE),
        ColumnUse(1, "output_volts", 2, FULL_SCALE),
        ColumnUse(2, "supply_volts", 0, FULL_SCALE),
    )
    return RecordingSetup(bench.spec(), rows, RECORDER, 0.5, load_measured=OHMS, controls_in_position=True)


_NOTES: Mapping[Note, Callable[[UnitOnBench], None]] = {
    Note.CLIPPED_PEAK: _clipped_peak,
    Note.WEAK_SUPPLY: _weak_supply,
    Note.TWO_MOMENTS: _two_moments,
    Note.BURST_WITH_AMPS: _burst_with_amps,
    Note.ONE_AT_A_TIME: _one_at_a_time,
    Note.STRAIGHT_AFTER_PLAY: _straight_after_play,
    Note.OLD_TABLE: _old_table,
    Note.RECORDED_SWEEP: _recorded_sweep,
    Note.RECORDED_STEADY: _recorded_steady,
}
