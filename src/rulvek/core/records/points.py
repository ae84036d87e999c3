"""A point of a run as plain values, to be kept as a step and read back."""

from collections.abc import Mapping
from typing import Any

from rulvek.core.readings.point import ChannelReading, Load, Point


def point_data(point: Point, phase: str, over_limit: bool) -> dict[str, Any]:
    """Everything of a point, in SI units and ratios."""
    return {
        "level_dbv": point.level_dbv,
        "phase": phase,
        "over_limit": over_limit,
        "channels": [
            {
                "channel": c.channel,
                "volts_rms": c.volts_rms,
                "watts": c.watts,
                "watts_at_start": c.watts_at_start,
                "thd_n": c.thd_n,
                "thd": c.thd,
                "clipped_share": c.clipped_share,
                "kept_up": c.kept_up,
                "outside_share": c.outside_share,
                "weakest_part": c.weakest_part,
            }
            for c in point.channels
        ],
        "supply_volts": point.supply_volts,
        "supply_lowest": point.supply_lowest,
        "supply_amps": point.supply_amps,
        "temperature_c": point.temperature_c,
        "companion_watts": point.companion_watts,
        "load_c": point.load_c,
        "band_high_hz": point.band_high_hz,
    }


def point_from(data: Mapping[str, Any]) -> Point:
    """A kept point, as it was read."""
    return Point(
        level_dbv=data["level_dbv"],
        channels=tuple(ChannelReading(**channel) for channel in data["channels"]),
        supply_volts=data["supply_volts"],
        supply_lowest=data["supply_lowest"],
        supply_amps=data["supply_amps"],
        temperature_c=data["temperature_c"],
        companion_watts=data["companion_watts"],
        load_c=data.get("load_c"),
        band_high_hz=data.get("band_high_hz"),
    )


_REGISTERED = ("inductance_uh", "ppm_per_kelvin")
"""What is known of a load by its bench's register, kept where somebody measured it."""


def loads_data(loads: Mapping[int, Load]) -> dict[str, dict[str, float]]:
    """Loads by connection number, as they are kept."""
    return {
        str(number): {"nominal": load.nominal_ohms, "measured": load.measured_ohms, "tolerance": load.tolerance}
        | {name: found for name in _REGISTERED if (found := getattr(load, name)) is not None}
        for number, load in loads.items()
    }


def loads_from(data: Mapping[str, Mapping[str, float]]) -> dict[int, Load]:
    """Kept loads, as they were measured."""
    return {
        int(number): Load(one["nominal"], one["measured"], one["tolerance"], *(one.get(name) for name in _REGISTERED))
        for number, one in data.items()
    }
