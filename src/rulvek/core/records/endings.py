"""How a run's outcome becomes an ending and its readings."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime

from rulvek.core.readings.point import Load, Point
from rulvek.core.records.attempts import Ending, Reading
from rulvek.core.runs.modes import End
from rulvek.core.runs.requests import Outcome


def ending_of(
    outcome: Outcome,
    at: datetime,
    seconds: float,
    *,
    end: End | None = None,
    fault: str = "",
    start_volts: float | None = None,
    start_sink_c: float | None = None,
    start_outside: str = "",
    companions_full: bool | None = None,
) -> Ending:
    """How a run ended; ``end`` where that was not for the procedure to say."""
    ending = Ending(
        end=end or outcome.end,
        fault=fault or outcome.why_none,
        ended_at=at,
        seconds=seconds,
        start_volts=start_volts,
        bracket_db=outcome.bracket_db,
        tripped_watts=outcome.tripped_watts,
        largest_watts=outcome.largest.weakest_watts if outcome.largest else None,
        start_watts=_started_with(outcome),
        held=outcome.held or outcome.reading is None,
        largest_bracket_db=outcome.largest_bracket_db,
        beyond_watts=outcome.beyond.weakest_watts if outcome.beyond else None,
        start_sink_c=start_sink_c,
        start_outside=start_outside,
        companions_full=companions_full,
        limit_slope=outcome.limit_slope,
    )
    return with_reading(ending, outcome.reading)


def with_reading(ending: Ending, reading: Point | None) -> Ending:
    """An ending with the supply and the heat at its reading."""
    if reading is None:
        return ending
    return replace(
        ending,
        level_dbv=reading.level_dbv,
        supply_volts=reading.supply_volts,
        supply_lowest=reading.supply_lowest,
        supply_amps=reading.supply_amps,
        temperature_c=reading.temperature_c,
        load_c=reading.load_c,
        band_high_hz=reading.band_high_hz,
        outside_share=max(channel.outside_share for channel in reading.channels),
        companion_watts=reading.companion_watts,
    )


def readings_of(reading: Point | None, loads: Mapping[int, Load] | None) -> tuple[Reading, ...]:
    """A point's channels as readings, each with its load."""
    if reading is None or loads is None:
        return ()
    return tuple(Reading(c.channel, c.watts, c.volts_rms, c.thd_n, c.thd, loads[c.channel]) for c in reading.channels)


def _started_with(outcome: Outcome) -> float | None:
    """Watts at the first of several levels; None where there was only one, which then is the reading itself."""
    return outcome.points[0].weakest_watts if len(outcome.points) > 1 else None
