"""The searches: generators of steps that find the level at which an amplifier reaches a limit.

Certified, uncertified and burst runs climb, close in and dwell in the same way. They differ in the limit, in the
signal that is sent and read, and in what comes after: see :mod:`rulvek.core.runs.procedures`.

The rule of the reading: *every* level up to it is within the limit. Where THD+N rises and falls again (crossover
distortion, a hump), the highest level within the limit is kept beside it and shown when they differ.
"""

from collections.abc import Callable, Generator
from dataclasses import dataclass, field
from math import inf, log10

from rulvek.core.readings.point import ChannelReading, Point
from rulvek.core.runs.modes import ENDS, End
from rulvek.core.runs.requests import (
    Answer,
    Interrupted,
    Measured,
    Outcome,
    Phase,
    Request,
    Restart,
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

    A search for ``target_watts`` ends as ``held`` once the weakest channel gives so much.

    Searches for ``quieter_first_db`` take a capture so far under their start first: what louder bursts are compared
    with.
    After protection acted, the approach to that level goes on until it acted ``more_trips`` times more.

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
    more_trips: int = 3
    quieter_first_db: float = 0.0
    target_watts: float | None = None


Read = Callable[[Capture, float], Point]
"""Turns a capture taken at a level (dBV) into a point; see ``reading.read_point``."""

FINE_STEP_DB = 0.5
NO_MORE_OUTPUT_RATIO = 0.2  # less than 0.1 dB more output for 0.5 dB more drive
_FLAT_TOP_SHARE = 2 * SINE_SHARE
_FOOTING_STEP_DB = 6.0
_FOOTING_TRIES = 5
_DWELL_TRIES = 9
_AND_GOES_ON = 1.5  # a bank has fallen so far, and falls on while the next level is held
_HARMLESS_DB = 10.0  # a tenth of the power at which it tripped
_ALIVE_WATTS = 0.01
TRIP_STEP_DB = 0.1
"""How near to where protection acts a reading is taken."""
FAR_PAST = 5.0  # times the limit: past doubt, so that it need not be seen twice
_BEYOND = 3.0  # times the limit: what is so far over it does not come back under
_FAR_UNDER = 0.25  # of the limit: next to a level over it, that is a leap which must be seen twice
_PATCHY = 0.7  # rms of the weakest part of a steady tone over the middle one: below it something was not recorded
_TAKEN_AGAIN = 2
_LEAP_FROM_DB = 1.5
_HAIR_DB = 0.05  # more than an output that warms up gives way from capture to capture
_TELLING_STEP_DB = 0.3  # of smaller ones noise hides what comes out


class _EndedError(Exception):
    def __init__(self, end: End) -> None:
        super().__init__(end)
        self.end = end


class _TrippedError(Exception):
    """Protection acted, and not just once by mishap."""

    def __init__(self, level: float, comes_back: bool) -> None:
        super().__init__(level)
        self.level, self.comes_back = level, comes_back

    @property
    def end(self) -> End:
        return End.RECOVERING if self.comes_back else End.PROTECTED


@dataclass(slots=True)
class _Progress:
    points: list[Point] = field(default_factory=list)
    best: Point | None = None  # highest level at or under the limit
    over_dbv: float | None = None  # lowest level over it
    largest: Point | None = None  # most power, limit or not
    largest_bracket_db: float | None = None
    beyond: Point | None = None  # highest level under the limit, past others that are over it
    trips: int = 0
    trips_left: int = 0
    is_off: bool = False  # protection holds, and is not to act again
    trip_dbv: float | None = None  # lowest level at which protection acted
    tripped_watts: float | None = None
    unheld: Point | None = None  # what was found, while it is not held yet
    held: bool = False


def search(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """Raise the level by 1 dB until THD+N passes the limit, bisect the last step to the bracket, and dwell there.

    All channels in the points are driven together, and the first to pass the limit ends the search. Nothing is
    interpolated: the reading is a point that was measured, and the bracket is kept for the uncertainty. Where
    protection acts first, the reading is taken within 0.1 dB below it. Whatever the unit's own end was, the reading is
    held for the dwell; one that was not says so (``Outcome.held``).
    """
    return (yield from _concluded(settings, read, _Progress(), seek_largest=False))


def search_and_push_on(settings: SearchSettings, read: Read) -> Generator[Request, Answer, Outcome]:
    """The same search; then on past the limit in fine steps while the output still grows, for the largest power."""
    return (yield from _concluded(settings, read, _Progress(), seek_largest=True))


def _concluded(
    settings: SearchSettings, read: Read, state: _Progress, seek_largest: bool
) -> Generator[Request, Answer, Outcome]:
    state.trips_left = settings.more_trips
    end = settings.reached
    try:
        try:
            yield from _find_footing(settings, read, state)
            yield from _rise(settings, read, state)
            yield from _close_in(settings, read, state)
        except _TrippedError as tripped:
            end = yield from _approach_trip(settings, read, state, tripped)
        except _EndedError as ended:
            end = ended.end
        if not ENDS[end].of_the_day and state.best is not None and not state.is_off:
            yield from _dwell(settings, read, state)
        if seek_largest and end is settings.reached and state.best is not None:
            yield from _push_on(settings, read, state)
    except _EndedError as ended:
        end = ended.end
    reading = state.best or state.unheld
    above = min((level for level in (state.over_dbv, state.trip_dbv) if level is not None), default=None)
    return Outcome(
        end,
        reading,
        None if reading is None or above is None or above <= reading.level_dbv else above - reading.level_dbv,
        state.tripped_watts,
        tuple(state.points),
        state.largest,
        largest_bracket_db=state.largest_bracket_db,
        beyond=state.beyond,
        held=state.held,
    )


def _approach_trip(
    settings: SearchSettings, read: Read, state: _Progress, tripped: _TrippedError
) -> Generator[Request, Answer, End]:
    """Rise once more in fine steps to just below the level at which protection acted; how the run ended."""
    state.trip_dbv = tripped.level
    while state.trips_left > 0 and state.best is not None:
        yield from _revive(settings, state, tripped)
        try:
            while state.trip_dbv - state.best.level_dbv > TRIP_STEP_DB + 1e-9:
                level = min(state.best.level_dbv + TRIP_STEP_DB, state.trip_dbv - TRIP_STEP_DB)
                point = yield from _measure(settings, read, state, level, "closing_in")
                if not _under(settings, point):
                    yield from _close_in(settings, read, state)
                    return settings.reached
            return tripped.end
        except _TrippedError as again:
            tripped = again
            state.trip_dbv = min(state.trip_dbv, again.level)
            state.trips_left -= 1
    state.is_off = True
    return tripped.end


def _revive(settings: SearchSettings, state: _Progress, tripped: _TrippedError) -> Generator[Request, Answer, None]:
    """Bring the output back at a harmless level: by waiting, or by power off and on where protection holds."""
    yield SetLevel(tripped.level - _HARMLESS_DB)
    if not tripped.comes_back:
        yield Restart()
    yield Settle(settings.recovery_seconds)


def _push_on(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    """Rise past the limit until no more comes out, or the source has no more.

    What ends this does not end the run: the reading at the limit stands.
    """
    certain = _best(state)
    state.largest = certain
    below = certain
    while True:
        level = min(below.level_dbv + FINE_STEP_DB, settings.highest_level_dbv)
        if level <= below.level_dbv:
            return
        point = yield from _try_beyond(settings, read, state, level)
        if point is None:
            return
        if point.weakest_watts > state.largest.weakest_watts:
            state.largest = point
        if _output_gain(below, point) < NO_MORE_OUTPUT_RATIO:
            more = point.weakest_watts / below.weakest_watts if below.weakest_watts > 0 else 1.0
            state.largest_bracket_db = max(0.0, 10 * log10(more)) if more > 0 else 0.0
            return
        below = point


def _look_beyond(
    settings: SearchSettings, read: Read, state: _Progress, over: Point
) -> Generator[Request, Answer, None]:
    """Whether THD+N falls under the limit again at higher levels: not where it is far over, or no more comes out."""
    below = over
    while below.worst_thd_n <= _BEYOND * settings.thd_n_limit:
        level = min(below.level_dbv + settings.coarse_step_db, settings.highest_level_dbv)
        if level <= below.level_dbv:
            return
        point = yield from _try_beyond(settings, read, state, level)
        if point is None or _output_gain(below, point) < NO_MORE_OUTPUT_RATIO:
            return
        if _under(settings, point):
            state.beyond = point
        below = point


def _try_beyond(
    settings: SearchSettings, read: Read, state: _Progress, level: float
) -> Generator[Request, Answer, Point | None]:
    """A point past the limit; None where the unit or the supply does not go there."""
    try:
        return (yield from _measure(settings, read, state, level, "pushing_on"))
    except _TrippedError as tripped:
        yield from _revive(settings, state, tripped)
    except _EndedError as ended:
        if ENDS[ended.end].of_the_day and ended.end not in (End.SUPPLY_LOW, End.TOO_HOT):
            raise
    return None


def _find_footing(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    """Get under the limit: go down from a start that is too high, or up from one that drowns in noise."""
    level = settings.start_level_dbv
    if settings.quieter_first_db:  # no point of the run: whoever reads it keeps it to compare with
        yield SetLevel(level - settings.quieter_first_db)
        yield Settle(settings.settle_seconds)
        yield from _captured(settings, read, level - settings.quieter_first_db, settings.capture_seconds)
    point = yield from _measure(settings, read, state, level, "rising")
    for _ in range(_FOOTING_TRIES):
        if _under(settings, point):
            return
        lower = yield from _measure(settings, read, state, level - _FOOTING_STEP_DB, "rising")
        if not _under(settings, lower) and lower.worst_thd_n > point.worst_thd_n:
            break  # quieter is worse: noise or crossover distortion
        level, point = level - _FOOTING_STEP_DB, lower
    cleanest = point
    while not _under(settings, point):
        level = min(point.level_dbv + settings.coarse_step_db, settings.highest_level_dbv)
        if level <= point.level_dbv:
            return (yield from _look_between(settings, read, state, cleanest))
        higher = yield from _measure(settings, read, state, level, "rising")
        if higher.worst_thd_n < cleanest.worst_thd_n:
            cleanest = higher
        if not _under(settings, higher) and _output_gain(point, higher) < NO_MORE_OUTPUT_RATIO:
            return (yield from _look_between(settings, read, state, cleanest))
        point = higher


def _look_between(
    settings: SearchSettings, read: Read, state: _Progress, cleanest: Point
) -> Generator[Request, Answer, None]:
    """Look for a level within the limit beside the cleanest one, where coarse steps may have gone over it."""
    step = settings.coarse_step_db / 2
    while step >= settings.bracket_db and cleanest.worst_thd_n <= _BEYOND * settings.thd_n_limit:
        for level in (cleanest.level_dbv + step, cleanest.level_dbv - step):
            point = yield from _measure(settings, read, state, min(level, settings.highest_level_dbv), "rising")
            if _under(settings, point):
                return
            if point.worst_thd_n < cleanest.worst_thd_n:
                cleanest = point
                break
        step /= 2
    raise _EndedError(settings.reached)  # over the limit at every level: there is no reading


def _rise(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    while state.over_dbv is None:
        below = _best(state)
        step = settings.coarse_step_db if below.worst_thd_n <= settings.fine_above_thd_n else FINE_STEP_DB
        if settings.target_watts is not None:
            step = _towards(settings.target_watts, below, step)
        level = _reachable(settings, below.level_dbv + step)
        point = yield from _measure(settings, read, state, level, "rising")
        if _under(settings, point):
            if settings.stop_at_clipping and any(c.clipped_share > _FLAT_TOP_SHARE for c in point.channels):
                raise _EndedError(End.CLIP)
            drive = point.level_dbv - below.level_dbv
            if drive >= _TELLING_STEP_DB and _output_gain(below, point) < NO_MORE_OUTPUT_RATIO:
                raise _EndedError(End.NO_MORE_OUTPUT)
        elif settings.reached is End.LIMIT and not settings.at_burst:
            yield from _look_beyond(settings, read, state, point)


def _towards(target_watts: float, below: Point, step_db: float) -> float:
    """The step to a level to be held: a leap while it is far, then no further than what is missing and a hair."""
    missing = 10 * log10(target_watts / below.weakest_watts) if below.weakest_watts > 0 else inf
    if missing <= 0:
        raise _EndedError(End.HELD)
    if missing > _LEAP_FROM_DB + step_db:
        return step_db if missing == inf else missing - _LEAP_FROM_DB
    return min(step_db, missing + _HAIR_DB)


def _close_in(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    seen_twice = False
    while state.over_dbv is not None:
        best = _best(state)
        gap = state.over_dbv - best.level_dbv
        if gap > max(settings.bracket_db, _fallen_db(best, state.points[-1])) + 1e-9:
            yield from _measure(settings, read, state, best.level_dbv + gap / 2, "closing_in")
        elif seen_twice or best.worst_thd_n > _FAR_UNDER * settings.thd_n_limit:
            return
        else:
            # A leap from far under the limit to over it: a fault of one capture does not make it.
            seen_twice = True
            again = yield from _measure(settings, read, state, state.over_dbv, "closing_in")
            if _under(settings, again):
                seen_twice = False
                yield from _rise(settings, read, state)


def _dwell(settings: SearchSettings, read: Read, state: _Progress) -> Generator[Request, Answer, None]:
    """Hold the found level; where heat, supply or protection do not let it, give way, each time twice as far.

    Where the supply fell meanwhile (a bank), what can be held fell with it, and will fall for another dwell.
    """
    state.unheld = _best(state)
    level, back = state.unheld.level_dbv, settings.bracket_db
    for _ in range(_DWELL_TRIES):
        try:
            point = yield from _measure(settings, read, state, level, "dwell")
        except _TrippedError as tripped:
            state.best, state.trip_dbv = None, level
            if state.trips_left <= 0:
                return
            state.trips_left -= 1
            yield from _revive(settings, state, tripped)
        else:
            if _under(settings, point):
                state.best, state.held = point, True
                return
            state.best, state.over_dbv = None, level
            level = min(level, state.unheld.level_dbv - _AND_GOES_ON * _fallen_db(state.unheld, point) + back)
        level -= back
        back *= 2


def _fallen_db(since: Point, latest: Point) -> float:
    """By how much the supply has fallen from one point to another, and with it what an amplifier on it can give."""
    if since.supply_volts is None or latest.supply_volts is None or latest.supply_volts <= 0:
        return 0.0
    return max(0.0, 20 * log10(since.supply_volts / latest.supply_volts))


def _measure(
    settings: SearchSettings,
    read: Read,
    state: _Progress,
    level: float,
    phase: Phase,
) -> Generator[Request, Answer, Point]:
    yield SetLevel(level)
    yield Settle(settings.settle_seconds)
    point = yield from _whole_point(settings, read, level, phase)
    if any(_collapsed(channel, state.best, level) for channel in point.channels):
        point = yield from _after_trip(settings, read, state, point)
    over = not _under(settings, point)
    if over and phase in ("rising", "closing_in") and point.worst_thd_n <= FAR_PAST * settings.thd_n_limit:
        again = yield from _captured(settings, read, level, settings.capture_seconds)
        if _under(settings, again) and not any(_collapsed(c, state.best, level) for c in again.channels):
            point, over = again, False  # a click in one capture
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


def _whole_point(settings: SearchSettings, read: Read, level: float, phase: Phase) -> Generator[Request, Answer, Point]:
    """A point from a capture without gaps; one with gaps is taken again."""
    seconds = settings.dwell_seconds if phase == "dwell" else settings.capture_seconds
    point = yield from _captured(settings, read, level, seconds)
    for _ in range(_TAKEN_AGAIN):
        if not any(c.weakest_part < _PATCHY and c.kept_up >= 0.5 for c in point.channels):
            break
        point = yield from _captured(settings, read, level, seconds)
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

    If it stays away, protection holds. If it comes back, the level is tried once more after the first time: a run
    goes on after a single mishap.

    Raises:
        _TrippedError: protection acts at this level.
    """
    level = cut_off.level_dbv
    state.trips += 1
    state.points.append(cut_off)
    yield Measured(cut_off, "rising", True)
    watts = _watts_at(state, cut_off)
    if watts is not None:
        state.tripped_watts = watts if state.tripped_watts is None else min(watts, state.tripped_watts)
    yield SetLevel(level - _HARMLESS_DB)
    yield Settle(settings.recovery_seconds)
    quiet = yield from _captured(settings, read, level - _HARMLESS_DB, settings.capture_seconds)
    if any(_collapsed(channel, state.best, level - _HARMLESS_DB) for channel in quiet.channels):
        raise _TrippedError(level, comes_back=False)
    if state.trips > 1:
        raise _TrippedError(level, comes_back=True)
    yield SetLevel(level)
    yield Settle(settings.settle_seconds)
    again = yield from _captured(settings, read, level, settings.capture_seconds)
    if any(_collapsed(channel, state.best, level) for channel in again.channels):
        state.points.append(again)
        yield Measured(again, "rising", True)
        raise _TrippedError(level, comes_back=True)
    return again


def _watts_at(state: _Progress, cut_off: Point) -> float | None:
    """Weakest channel's watts at the level at which it tripped, from what a lower level gave; else as it began."""
    if state.best is not None:
        return state.best.weakest_watts * float(10 ** ((cut_off.level_dbv - state.best.level_dbv) / 10))
    at_start = min(channel.watts_at_start for channel in cut_off.channels)
    return at_start if at_start > _ALIVE_WATTS else None


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
