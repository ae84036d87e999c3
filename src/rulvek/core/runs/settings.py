"""What a run's search goes by, from the method profile and the run itself."""

from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.search import SearchSettings
from rulvek.core.signals.bursts import BurstProfile
from rulvek.core.signals.distortion import SPECTRAL_CYCLES

QUIET_DB = 6.0
"""How far below the start of a burst run the burst is that all others are compared with."""


def search_settings(
    method: MethodProfile,
    mode: Mode,
    start_level_dbv: float,
    highest_level_dbv: float,
    tone_hz: float,
    burst: BurstProfile | None,
    target_watts: float | None = None,
) -> SearchSettings:
    """Settings of a run's search between two source levels.

    A capture of a steady tone holds at least 20 cycles, so that a bass tone is read as well as any other; one of
    bursts holds one burst and a little rest on either side. ``target_watts`` are what a proof run is to hold.
    """
    clipping = mode is Mode.UNCERTIFIED
    capture = capture_seconds(method, tone_hz)
    dwell = method.dwell_seconds
    if burst is not None:
        capture = dwell = burst.triggered_seconds
    return SearchSettings(
        thd_n_limit=limit_ratio(method, mode),
        reached=End.CLIP if clipping else End.LIMIT,
        start_level_dbv=start_level_dbv,
        highest_level_dbv=highest_level_dbv,
        coarse_step_db=method.coarse_step_db,
        bracket_db=method.bracket_db,
        settle_seconds=method.settle_seconds,
        capture_seconds=capture,
        dwell_seconds=dwell,
        recovery_seconds=method.recovery_seconds,
        supply_minimum_volts=method.supply_minimum_volts,
        temperature_maximum_c=method.temperature_maximum_c,
        stop_at_clipping=method.stop_at_clipping and mode is Mode.CERTIFIED,
        fine_above_thd_n=method.thd_n_limit_percent / 100,
        at_burst=burst is not None,
        more_trips=method.more_trips,
        quieter_first_db=QUIET_DB if burst is not None else 0.0,
        target_watts=target_watts,
    )


def capture_seconds(method: MethodProfile, tone_hz: float) -> float:
    """How long a capture of a steady tone is."""
    return max(method.capture_seconds, SPECTRAL_CYCLES / tone_hz)


def limit_ratio(method: MethodProfile, mode: Mode) -> float:
    """THD+N limit of a mode, a ratio; of a burst it holds within the burst."""
    percent = method.uncertified_limit_percent if mode is Mode.UNCERTIFIED else method.thd_n_limit_percent
    return percent / 100
