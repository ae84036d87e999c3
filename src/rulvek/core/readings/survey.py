"""Recordings that nobody triggered: find the tone, the bursts or the level steps in a long record by itself.

A record may be far longer than memory, so it is surveyed once, piece by piece, down to its power by the millisecond.
From that come the stretches worth reading; only those are read again, through the same analysis as the bench's.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Protocol

import numpy as np
import scipy
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture
from rulvek.core.signals.bursts import BurstProfile, cycles_profile
from rulvek.core.signals.capture import Signal
from rulvek.core.signals.distortion import FEWEST_SAMPLES

CELL_SECONDS = 1e-3
MOST_CELLS = 1_800_000  # half an hour; a longer record has longer cells
BLOCK_SAMPLES = 1 << 18
FRAME_SECONDS = 0.05
FRAME_CYCLES = 4
LONGEST_WINDOW_SECONDS = 2.0
COLUMNS = 1000

LOWEST_TONE_HZ = 10.0
HIGHEST_TONE_HZ = 20_000.0
_QUIET = 1e-4  # of the strongest cell's power: −40 dB
_SAME_LEVEL_DB = (0.02, 0.08)  # as the frames' own scatter has it
_SCATTER_FACTOR = 6.0
_STEPS_SPAN_DB = 1.0
_LONGEST_BURST_SECONDS = 0.6
_LONGEST_BURST_CYCLES = 21
_LONGEST_SLOW_BURST_SECONDS = 1.1
_CONTRAST = 4.0  # a burst is at least 6 dB above the rest around it
_FEWEST_FRAMES = 3
_MOST_SECTIONS = 400


class LongRecord(Protocol):
    """A long record, delivered piece by piece in volts and amps; ``roles`` say what each row is."""

    sample_rate: float
    frames: int
    roles: tuple[Signal, ...]

    def read(self, start: int, stop: int) -> NDArray[np.float64]:
        """Samples of all rows, shape ``(rows, stop - start)``."""


class Kind(StrEnum):
    """What a record holds."""

    STEADY = "steady"
    SWEEP = "sweep"
    BURSTS = "bursts"


@dataclass(frozen=True, slots=True)
class Survey:
    """A record in small.

    Attributes:
        seconds: Its length.
        powers: Mean square of all outputs together, their DC taken off, by cell of ``cell`` samples, V².
        lows, highs: By output channel, the extremes in ``COLUMNS`` (or fewer) even columns, V; for people to look at.
    """

    sample_rate: float
    frames: int
    cell: int
    powers: NDArray[np.float64]
    channels: tuple[int, ...]
    lows: NDArray[np.float64]
    highs: NDArray[np.float64]

    @property
    def seconds(self) -> float:
        """Length of the record."""
        return self.frames / self.sample_rate


@dataclass(frozen=True, slots=True)
class Section:
    """A stretch of one level, or one burst; ``window`` is the part of it that is read. All in samples."""

    start: int
    stop: int
    window: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Found:
    """What a record holds; ``profile`` describes its bursts, where it holds any."""

    kind: Kind
    tone_hz: float
    sections: tuple[Section, ...]
    profile: BurstProfile | None = None


Tell = Callable[[float], None]
"""Hears how much is done, 0 to 1; may raise to stop."""


def survey(source: LongRecord, tell: Tell = lambda _done: None) -> Survey:
    """Go through a record once.

    Raises:
        BadCapture: no output channel, no samples, or a sample that is no number.
    """
    rows = [(index, role.channel) for index, role in enumerate(source.roles) if role.quantity == "output_volts"]
    if not rows:
        raise BadCapture("No column of the recording is the output of a channel.", field="roles")
    if source.frames < 2:
        raise BadCapture("The recording is empty: it holds no samples.", field="samples")
    cell = max(1, round(CELL_SECONDS * source.sample_rate), math.ceil(source.frames / MOST_CELLS))
    columns = min(COLUMNS, source.frames)
    edges = np.arange(columns + 1) * source.frames // columns
    lows, highs = np.full((len(rows), columns), np.inf), np.full((len(rows), columns), -np.inf)
    powers = np.zeros(math.ceil(source.frames / cell))
    offsets: NDArray[np.float64] | None = None
    for start, block in _blocks(source, max(1, BLOCK_SAMPLES // cell) * cell):
        outputs = block[[index for index, _ in rows]]
        if offsets is None:
            offsets = np.median(outputs, axis=1, keepdims=True)  # a mean would hold a piece of a cycle
        _reduce_columns(outputs, start, edges, lows, highs)
        squares = np.sum((outputs - offsets) ** 2, axis=0)
        first, size = start // cell, squares.size
        at = np.arange(0, size, cell)
        powers[first : first + at.size] = np.add.reduceat(squares, at) / np.diff([*at, size])
        tell((start + size) / source.frames)
    return Survey(source.sample_rate, source.frames, cell, powers, tuple(c for _, c in rows), lows, highs)


def _blocks(source: LongRecord, size: int) -> Iterator[tuple[int, NDArray[np.float64]]]:
    for start in range(0, source.frames, size):
        block = source.read(start, min(source.frames, start + size))
        if not np.isfinite(block).all():
            row, at = (int(i) for i in np.argwhere(~np.isfinite(block))[0])
            raise BadCapture(f"Column {row + 1} holds a value that is no number at sample {start + at}.", field="file")
        yield start, block


def _reduce_columns(
    outputs: NDArray[np.float64],
    start: int,
    edges: NDArray[np.int64],
    lows: NDArray[np.float64],
    highs: NDArray[np.float64],
) -> None:
    """Fold a block's extremes into the columns that it reaches."""
    stop = start + outputs.shape[1]
    first = int(np.searchsorted(edges, start, side="right")) - 1
    last = int(np.searchsorted(edges, stop, side="left"))
    at = np.maximum(edges[first:last] - start, 0)
    columns = slice(first, last)
    lows[:, columns] = np.minimum(lows[:, columns], np.minimum.reduceat(outputs, at, axis=1))
    highs[:, columns] = np.maximum(highs[:, columns], np.maximum.reduceat(outputs, at, axis=1))


def find(source: LongRecord, seen: Survey) -> Found:
    """Tell what a surveyed record holds, and where to read it.

    Raises:
        BadCapture: silence, or nothing in it that is steady enough to be read.
    """
    if seen.frames < FEWEST_SAMPLES:
        raise BadCapture(
            f"The recording has {seen.frames} samples; at least {FEWEST_SAMPLES} are needed.", field="file"
        )
    strongest = float(np.max(seen.powers))
    if strongest <= 1e-12:
        raise BadCapture("The recording is silent: there is no signal to measure.", field="samples")
    hz = _coarse_tone(source, seen)
    bursts = _bursts(seen, hz, strongest)
    if bursts:
        return _as_bursts(seen, hz, bursts)
    return _as_levels(seen, hz, strongest)


def _coarse_tone(source: LongRecord, seen: Survey) -> float:
    """The strongest component between 10 Hz and 20 kHz in half a second around the loudest moment."""
    smooth = scipy.ndimage.uniform_filter1d(seen.powers, max(1, round(0.02 * seen.sample_rate / seen.cell)))
    middle = int(np.argmax(smooth)) * seen.cell
    half = round(0.25 * seen.sample_rate)
    start = max(0, min(middle - half, seen.frames - 2 * half))
    piece = source.read(start, min(seen.frames, start + 2 * half))
    outputs = piece[[index for index, role in enumerate(source.roles) if role.quantity == "output_volts"]]
    volts = outputs[int(np.argmax(np.var(outputs, axis=1)))]
    bins = np.abs(np.fft.rfft((volts - volts.mean()) * np.hanning(volts.size)))
    bin_hz = seen.sample_rate / volts.size
    first = max(1, math.ceil(LOWEST_TONE_HZ / bin_hz))
    last = min(bins.size - 2, math.floor(HIGHEST_TONE_HZ / bin_hz))
    if last <= first:
        raise BadCapture("The recording is too short for a tone of 10 Hz to 20 kHz.", field="samples")
    peak = first + int(np.argmax(bins[first : last + 1]))
    left, top, right = (math.log(max(float(bins[peak + shift]), 1e-30)) for shift in (-1, 0, 1))
    bend = left - 2 * top + right
    shift = 0.5 * (left - right) / bend if bend < 0 else 0.0
    # Beside a peak at the range's end the parabola may run away; a maximum never lies further off than half a bin.
    hz = float((peak + min(max(shift, -0.5), 0.5)) * bin_hz)
    return min(max(hz, LOWEST_TONE_HZ), HIGHEST_TONE_HZ)


def _whole_cycle_cells(hz: float, cell_seconds: float) -> int:
    """The fewest cells that hold whole cycles, as nearly as cells can."""
    cycle = 1 / (hz * cell_seconds)
    many = [max(1, round(cycle * count)) for count in range(1, 9)]
    return min(many, key=lambda cells: (abs(cells / cycle - max(1, round(cells / cycle))) > 0.02, cells))


def _bursts(seen: Survey, hz: float, strongest: float) -> list[tuple[int, int]]:
    """Pulses with rest on either side, as ranges of cells; empty where something else than pulses is as loud.

    An opening takes away whatever is louder than its surroundings for no longer than a burst lasts, however loud the
    surroundings are: so bursts that rise from one to the next are all found, and the steps of a sweep are not.
    """
    cell = seen.cell / seen.sample_rate
    cycle = _whole_cycle_cells(hz, cell)
    smooth = scipy.ndimage.uniform_filter1d(seen.powers, cycle)
    longest = round(max(_LONGEST_BURST_SECONDS, min(_LONGEST_BURST_CYCLES / hz, _LONGEST_SLOW_BURST_SECONDS)) / cell)
    padded = np.pad(smooth, longest)  # beyond its ends a record is silent
    rest = scipy.ndimage.maximum_filter1d(
        scipy.ndimage.minimum_filter1d(padded, longest), longest, origin=-1 if longest % 2 == 0 else 0
    )
    pulse = (smooth > _CONTRAST * rest[longest:-longest]) & (smooth > _QUIET * strongest)
    if not pulse.any() or float(np.max(smooth, where=~pulse, initial=0.0)) * _CONTRAST > float(np.max(smooth)):
        return []
    edges = np.flatnonzero(np.diff(np.concatenate([[0], pulse.astype(np.int8), [0]])))
    runs = zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
    # What touches an end of the record was cut off.
    return [(start, stop) for start, stop in runs if start > 0 and stop < pulse.size]


def _as_bursts(seen: Survey, hz: float, bursts: list[tuple[int, int]]) -> Found:
    """Bursts with a little rest on either side, and their profile with whole cycles."""
    # As long as its energy lasts at its own level: cells at its edges are only partly filled.
    lengths = []
    for start, stop in bursts:
        quarter = (stop - start) // 4
        level = float(np.mean(seen.powers[start + quarter : stop - quarter]))
        lengths.append(float(np.sum(seen.powers[start - 1 : stop + 1])) / level)
    seconds = float(np.median(lengths)) * seen.cell / seen.sample_rate
    cycles = max(1, round(seconds * hz))
    profile = cycles_profile(hz, cycles)
    if len(bursts) > 1:
        starts = np.array([start for start, _ in bursts])
        period = float(np.median(np.diff(starts))) * seen.cell / seen.sample_rate
        profile = BurstProfile(profile.name, hz, cycles, max(period, 1.5 * cycles / hz))
    lead = round(2 * seen.sample_rate / hz)
    sections = []
    for start, stop in bursts[-_MOST_SECTIONS:]:
        first, last = start * seen.cell, min(seen.frames, stop * seen.cell)
        sections.append(Section(first, last, (max(0, first - lead), min(seen.frames, last + lead))))
    return Found(Kind.BURSTS, hz, tuple(sections), profile)


def _as_levels(seen: Survey, hz: float, strongest: float) -> Found:
    """Stretches of one level. A level that moves all the time is read in short, even pieces."""
    cell = seen.cell / seen.sample_rate
    step = _whole_cycle_cells(hz, cell)
    per_frame = step * max(1, math.ceil(max(FRAME_SECONDS, FRAME_CYCLES / hz) / (step * cell)))
    count = seen.powers.size // per_frame
    if count < 1:
        return Found(Kind.STEADY, hz, (Section(0, seen.frames, (0, seen.frames)),))
    frames = seen.powers[: count * per_frame].reshape(count, per_frame).mean(axis=1)
    decibels = 10 * np.log10(np.maximum(frames, 1e-30))
    active = frames > _QUIET * strongest
    runs = [run for run in _plateaus(decibels, active) if run[1] - run[0] >= _FEWEST_FRAMES]
    trim = 1
    if not runs:
        # The strongest moment may lie past the last whole frame: then none is active, and the strongest one is read.
        loud = np.flatnonzero(active) if active.any() else [np.argmax(frames)]
        runs, trim = [(int(index), int(index) + 1) for index in loud], 0
    levels = [float(decibels[start:stop].mean()) for start, stop in runs]
    if trim and max(levels) - min(levels) < _STEPS_SPAN_DB:
        runs = [_longest_stretch(runs, active)]
    sections = tuple(
        _section(seen, run, per_frame * seen.cell, (trim * (run[0] > 0), trim * (run[1] < count)))
        for run in runs[-_MOST_SECTIONS:]
    )
    return Found(Kind.SWEEP if len(sections) > 1 else Kind.STEADY, hz, sections)


def _plateaus(decibels: NDArray[np.float64], active: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Runs of active frames that stay within a hair of their own mean."""
    inside = active[1:] & active[:-1]
    scatter = float(np.median(np.abs(np.diff(decibels))[inside])) if inside.any() else 0.0
    same = min(max(_SCATTER_FACTOR * scatter, _SAME_LEVEL_DB[0]), _SAME_LEVEL_DB[1])
    runs, start, mean = [], -1, 0.0
    for index, (level, on) in enumerate(zip(decibels.tolist(), active.tolist(), strict=True)):
        if start >= 0 and (not on or abs(level - mean) > same):
            runs.append((start, index))
            start = -1
        if on and start < 0:
            start, mean = index, level
        elif on:
            mean += (level - mean) / (index - start + 1)
    if start >= 0:
        runs.append((start, len(decibels)))
    return runs


def _longest_stretch(runs: list[tuple[int, int]], active: NDArray[np.bool_]) -> tuple[int, int]:
    """One level that drifts is one stretch, as long as it is not interrupted."""
    joined = [runs[0]]
    for start, stop in runs[1:]:
        if bool(active[joined[-1][1] : start].all()):
            joined[-1] = (joined[-1][0], stop)
        else:
            joined.append((start, stop))
    return max(joined, key=lambda run: run[1] - run[0])


def _section(seen: Survey, run: tuple[int, int], width: int, trim: tuple[int, int]) -> Section:
    """A run of frames in samples. Its window is the last of it, without the frames in which it settles and ends."""
    first, last = run[0] * width, min(seen.frames, run[1] * width)
    inner, outer = first + trim[0] * width, last - trim[1] * width
    longest = round(LONGEST_WINDOW_SECONDS * seen.sample_rate)
    return Section(first, last, (max(inner, outer - longest), outer))
