"""The searches: generators of steps that find the level at which an amplifier reaches a limit.

Certified, uncertified and burst runs climb, close in and dwell in the same way. They differ in the limit, in the
signal that is sent and read, and in what comes after: see :mod:`rulvek.core.runs.procedures`.
"""

from collections.abc import Callable, Generator
from dataclasses import dataclass, field
from math import log10

from rulvek.core.readings.point import ChannelReading, Point
from rulvek.core.runs.modes import End
from rulvek.core.runs.requests import (
    Answer,
    Interrupted,
    Measured,
    Outcome,
    Phase,
    Request,
    SetLevel,
    Settle,
    TakeCapture,
)
from rulvek.core.signals.capture import Capture
from rulvek.core.signals.clipping import SINE_SHARE


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchSettings:
    """What a search goes by; ratios, dB, seconds, volts and °C.

    They come from the method and the run: see :func:`rulvek.core.runs.settings.search_settings`. ``reached`` is the
    end that reaching the THD+N limit means. Above ``fine_above_thd_n`` the steps are ``FINE_STEP_DB``: the way from the
    onset of clipping to the limit is short.

    ``supply_minimum_volts`` and ``temperature_maximum_c`` end the run early; ``stop_at_clipping`` ends it at the
    first visibly flat top even where THD+N is still under the limit. Captures ``at_burst`` begin shortly before one.
    """

    thd_n_limit: float
    start_level_dbv: float
    highest_level_dbv: float
    coarse_step_db: float
    bracket_db: float
    settle_seconds: float
    capture_seconds: float
    dwell_seconds: float
    recovery_seconds: float
    supply_minimum_volts: float
    temperature_maximum_c: float
    stop_at_clipping: bool
    reached: End
    fine_above_thd_n: float
    at_burst: bool


Read = Callable[[Capture, float], Point]
"""Turns a capture taken at a level (dBV) into a point; see ``reading.read_point``."""

FINE_STEP_DB = 0.5
NO_MORE_OUTPUT_RATIO = 0.2  # less than 0.1 dB more output for 0.5 dB more drive
_FLAT_TOP_SHARE = 2 * SINE_SHARE
_FOOTING_STEP_DB = 6.0
_FOOTING_TRIES = 5
_DWELL_TRIES = 20
_HARMLESS_DB = 10.0  # a tenth of the power at which it tripped
_ALIVE_WATTS = 0.01
_MOSTLY_CLIPPED = 0.10


class _EndedError(Exception):
    def __init__(self, end: End) -> None:
        super().__init__(end)
        self.end = end


@dataclass(slots=True)
class _Progress:
    points: list[Point] = field(default_factory=list)
    best: Point | None = None  # highest level at or under the limit
    over_dbv: float | None = None  # lowest level over it
    largest: Point | None = None  # most power, limit or not
    trips: int = 0
    tripped_watts: float | None = None


def search(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """Raise the level by 1 dB until THD+N passes the limit, bisect the last step to the bracket, and dwell there.

    All channels in the points are driven together, and the first to pass the limit ends the search. Nothing is
    interpolated: the reading is a point that was measured, and the bracket is kept for the uncertainty.
    """
    return (yield from _concluded(settings, read, _Progress(), seek_largest=False))


def search_and_push_on(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """The same search; then on past the limit in fine steps while the output still grows, for the largest power."""
    return (yield from _concluded(settings, read, _Progress(), seek_largest=True))


def _concluded(
    settings: SearchSettings, read: Read, state: _Progress, seek_largest: bool
) -> Generator[Request, Answer, Outcome]:
    try:
        yield from _find_footing(settings, read, state)
        yield from _rise(settings, read, state)
        yield from _close_in(settings, read, state)
        yield from _dwell(settings, read, state)
        end = settings.reached
        if seek_largest:
            yield from _push_on(settings, read, state)
    except _EndedError as ended:
        end = ended.end
    bracket = None
    if state.best is not None and state.over_dbv is not None:
        bracket = state.over_dbv - state.best.level_dbv
    return Outcome(end, state.best, bracket, state.tripped_watts, tuple(state.points), state.largest)


def _push_on(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    """Rise past the limit until no more comes out, the wave is mostly clipped, or the source has no more.

    What ends this does not end the run: the reading at the limit stands.
    """
    certain = _best(state)
    state.largest = certain
    below = certain
    while True:
        level = min(below.level_dbv + FINE_STEP_DB, settings.highest_level_dbv)
        if level <= below.level_dbv:
            return
        try:
            point = yield from _measure(settings, read, state, level, "pushing_on")
        except _EndedError as ended:
            if ended.end in (End.OPERATOR, End.LINK_LOST, End.NOT_RECORDED):
                raise
            return
        if point.weakest_watts > state.largest.weakest_watts:
            state.largest = point
        if _output_gain(below, point) < NO_MORE_OUTPUT_RATIO or point.worst_thd_n > _MOSTLY_CLIPPED:
            return
        below = point


def _find_footing(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    """Get under the limit: go down from a start that is too high, or up from one that drowns in noise."""
    level = settings.start_level_dbv
    point = yield from _measure(settings, read, state, level, "rising")
    for _ in range(_FOOTING_TRIES):
        if _under(settings, point):
            return
        lower = yield from _measure(settings, read, state, level - _FOOTING_STEP_DB, "rising")
        if not _under(settings, lower) and lower.worst_thd_n > point.worst_thd_n:
            break  # quieter is worse: noise, not distortion
        level, point = level - _FOOTING_STEP_DB, lower
    rises = 0
    while not _under(settings, point):
        level += settings.coarse_step_db
        higher = yield from _measure(settings, read, state, _reachable(settings, level), "rising")
        rises = rises + 1 if higher.worst_thd_n >= point.worst_thd_n else 0
        if rises == 2:
            raise _EndedError(settings.reached)  # over the limit at every level: there is no reading
        point = higher


def _rise(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    while state.over_dbv is None:
        below = _best(state)
        step = settings.coarse_step_db if below.worst_thd_n <= settings.fine_above_thd_n else FINE_STEP_DB
        level = _reachable(settings, below.level_dbv + step)
        point = yield from _measure(settings, read, state, level, "rising")
        if _under(settings, point):
            if settings.stop_at_clipping and any(c.clipped_share > _FLAT_TOP_SHARE for c in point.channels):
                raise _EndedError(End.CLIP)
            if _output_gain(below, point) < NO_MORE_OUTPUT_RATIO:
                raise _EndedError(End.NO_MORE_OUTPUT)


def _close_in(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    while state.over_dbv is not None:
        gap = state.over_dbv - _best(state).level_dbv
        if gap <= settings.bracket_db + 1e-9:
            return
        yield from _measure(settings, read, state, _best(state).level_dbv + gap / 2, "closing_in")


def _dwell(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    """Hold the found level; where the heat or the supply pushes it over the limit, give way by one bracket."""
    level = _best(state).level_dbv
    for _ in range(_DWELL_TRIES):
        point = yield from _measure(settings, read, state, level, "dwell")
        if _under(settings, point):
            state.best = point
            return
        state.best, state.over_dbv = None, level
        level -= settings.bracket_db


def _measure(
    settings: SearchSettings,
    read: Read,
    state: _Progress,
    level: float,
    phase: Phase,
) -> Generator[Request, Answer, Point]:
    yield SetLevel(level)
    yield Settle(settings.settle_seconds)
    seconds = settings.dwell_seconds if phase == "dwell" else settings.capture_seconds
    point = yield from _captured(settings, read, level, seconds)
    if any(_collapsed(channel, state.best, level) for channel in point.channels):
        point = yield from _after_trip(settings, read, state, point)
    over = not _under(settings, point)
    state.points.append(point)
    yield Measured(point, phase, over)
    if phase == "pushing_on":
        pass  # what happens past the limit does not touch the reading at it
    elif over:
        state.over_dbv = level if state.over_dbv is None else min(level, state.over_dbv)
    elif state.best is None or level >= state.best.level_dbv:
        state.best = point
        if state.over_dbv is not None and state.over_dbv <= level:
            state.over_dbv = None  # an earlier excess, from noise at a low level, was not the limit
    if point.supply_volts is not None and point.supply_volts < settings.supply_minimum_volts:
        raise _EndedError(End.SUPPLY_LOW)
    if point.temperature_c is not None and point.temperature_c > settings.temperature_maximum_c:
        raise _EndedError(End.TOO_HOT)
    return point


def _captured(settings: SearchSettings, read: Read, level: float, seconds: float) -> Generator[Request, Answer, Point]:
    answer = yield TakeCapture(seconds, settings.at_burst)
    if isinstance(answer, Interrupted):
        raise _EndedError(answer.end)
    if answer is None:
        raise TypeError("a TakeCapture step must be answered with a capture")
    return read(answer, level)


def _after_trip(
    settings: SearchSettings, read: Read, state: _Progress, cut_off: Point
) -> Generator[Request, Answer, Point]:
    """Note the watts, then see at a harmless level whether the output comes back by itself.

    If it stays away, protection holds (``protected``). If it comes back, the level is tried once more: a second trip
    makes it ``recovering``, otherwise the run goes on.
    """
    state.trips += 1
    state.points.append(cut_off)
    yield Measured(cut_off, "rising", True)
    if state.tripped_watts is None:
        at_start = min(channel.watts_at_start for channel in cut_off.channels)
        before = state.best.weakest_watts if state.best is not None else None
        state.tripped_watts = at_start if at_start > _ALIVE_WATTS else before
    if state.trips > 1:
        raise _EndedError(End.RECOVERING)
    harmless = cut_off.level_dbv - _HARMLESS_DB
    yield SetLevel(harmless)
    yield Settle(settings.recovery_seconds)
    quiet = yield from _captured(settings, read, harmless, settings.capture_seconds)
    if any(_collapsed(channel, state.best, harmless) for channel in quiet.channels):
        raise _EndedError(End.PROTECTED)
    yield SetLevel(cut_off.level_dbv)
    yield Settle(settings.settle_seconds)
    again = yield from _captured(settings, read, cut_off.level_dbv, settings.capture_seconds)
    if any(_collapsed(channel, state.best, cut_off.level_dbv) for channel in again.channels):
        state.points.append(again)
        yield Measured(again, "rising", True)
        raise _EndedError(End.RECOVERING)
    return again


def _collapsed(channel: ChannelReading, best: Point | None, level: float) -> bool:
    """Whether an output fell away: within the capture, or against what a lower level already gave."""
    if channel.kept_up < 0.5:
        return True
    if best is None:
        return False
    drop_db = min(0.0, level - best.level_dbv)
    before = next(c.volts_rms for c in best.channels if c.channel == channel.channel)
    return bool(channel.volts_rms < 0.5 * before * 10 ** (drop_db / 20))


def _under(settings: SearchSettings, point: Point) -> bool:
    return point.worst_thd_n <= settings.thd_n_limit  # an infinity, for a channel without a tone, is over


def _best(state: _Progress) -> Point:
    if state.best is None:
        raise _EndedError(End.LIMIT)
    return state.best


def _reachable(settings: SearchSettings, level: float) -> float:
    """The wanted level, or the highest the source has; past that the input is exhausted."""
    if level >= settings.highest_level_dbv + settings.coarse_step_db - 1e-9:
        raise _EndedError(End.INPUT_EXHAUSTED)
    return min(level, settings.highest_level_dbv)


def _output_gain(below: Point, above: Point) -> float:
    """dB more output per dB more drive, of the channel that rises most."""
    drive = above.level_dbv - below.level_dbv
    rises = (
        20 * log10(high.volts_rms / low.volts_rms)
        for low, high in zip(below.channels, above.channels, strict=True)
        if low.volts_rms > 0 and high.volts_rms > 0
    )
    return max(rises, default=0.0) / drive if drive > 0 else 1.0
