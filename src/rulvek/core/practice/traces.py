"""What on a sheet shows each fault, in figures of that sheet."""

from collections.abc import Callable, Mapping

from rulvek.core.practice.faults import Fault
from rulvek.core.practice.sheet import RunSheet, Sheet
from rulvek.core.runs.modes import Mode


def trace(fault: Fault, sheet: Sheet) -> str:
    """A sentence with the figures that show a fault."""
    return _TRACES[fault](sheet)


def _first(sheet: Sheet) -> RunSheet:
    return sheet.runs[0]


def _level(sheet: Sheet) -> str:
    points = _first(sheet).outcome.points
    if not points:
        return "The run ended before a point was read."
    most = max(one.weakest_watts for one in points)
    return f"The first point has {points[0].weakest_watts:.3g} W already; the run came to {most:.3g} W."


def _volts(sheet: Sheet) -> str:
    point = _first(sheet).reading
    under = f", {point.supply_volts:.2f} V at the reading" if point and point.supply_volts else ""
    return f"{sheet.before.start_volts:.2f} V at the terminals at rest{under}."


def _loads(sheet: Sheet) -> str:
    told = (f"{key}: {one.measured_ohms:.2f} Ω for {one.nominal_ohms:g} Ω" for key, one in sheet.before.loads.items())
    return f"Measured before the run: {'; '.join(told)}."


def _contacts(sheet: Sheet) -> str:
    before, after = sheet.before.loads, sheet.before.loads_after
    worst = max(before, key=lambda key: abs(after[key].measured_ohms / before[key].measured_ohms - 1))
    pair = (before[worst].measured_ohms, after[worst].measured_ohms)
    return f"Connection {worst}: {pair[0]:.2f} Ω before the run, {pair[1]:.2f} Ω after it."


def _clamp(sheet: Sheet) -> str:
    return (
        f"The clamp indicates {sheet.before.clamp_indicates:+.1f} A with the amplifier off; "
        f"{sheet.before.clamp_zero:+.1f} A are taken off."
    ).replace("-", "−")


def _efficiency(sheet: Sheet) -> str:
    run = _first(sheet)
    percent = run.efficiency_percent
    if percent is None:
        return "The clamp reads less than nothing while the amplifier gives power."
    return f"The output comes to {percent:.0f} % of what the clamp tells, at {_amps(run)}."


def _amps(run: RunSheet) -> str:
    point = run.outcome.reading
    return "no reading" if point is None or point.supply_amps is None else f"{point.supply_amps:.1f} A"


def _gains(sheet: Sheet) -> str:
    gains = sheet.before.gains_db
    low, high = min(gains, key=gains.__getitem__), max(gains, key=gains.__getitem__)
    return f"Channel {high} has {gains[high]:.2f} dB, channel {low} {gains[low]:.2f} dB."


def _boost(sheet: Sheet) -> str:
    before = sheet.before
    channel = next(iter(before.gains_db))
    return (
        f"Channel {channel} has {before.gains_db[channel]:.1f} dB at {before.tone_hz:g} Hz and "
        f"{before.beside_db[channel]:.1f} dB at {before.beside_hz:g} Hz."
    )


def _pair(sheet: Sheet) -> str:
    points = _first(sheet).outcome.points
    most = max((one.weakest_watts for one in points), default=0.0)
    gains = ", ".join(f"{one:.1f}" for one in sheet.before.gains_db.values())
    return f"No more than {most:.2g} W at the weaker pair, where each channel alone has its gain ({gains} dB)."


def _peak(sheet: Sheet) -> str:
    run = _first(sheet)
    channel, watts = min(run.read_watts.items(), key=lambda item: item[1])
    point = run.reading
    rms = next((one.watts for one in point.channels if one.channel == channel), 0.0) if point else 0.0
    return f"{run.peak_volts[channel]:.1f} V peak were taken for {watts:.4g} W; true rms tells {rms:.4g} W."


def _driven(sheet: Sheet) -> str:
    return f"Driven: {', '.join(map(str, _first(sheet).driven))}, of {len(sheet.before.gains_db)} channels."


def _burst(sheet: Sheet) -> str:
    steady, burst = (
        next(one.reading for one in sheet.runs if one.mode is mode) for mode in (Mode.CERTIFIED, Mode.BURST)
    )
    told = ("none" if one is None else f"{one.weakest_watts:.4g} W" for one in (burst, steady))
    return "The burst comes to {}, the steady tone to {}.".format(*told)


def _hum(sheet: Sheet) -> str:
    points = _first(sheet).outcome.points
    cleanest = min((one.worst_thd_n for one in points), default=0.0)
    return f"A line beside the tone's harmonics in the spectrum; THD+N is never under {100 * cleanest:.2g} %."


def _hot(sheet: Sheet) -> str:
    return f"{sheet.before.sink_c:.0f} °C on the heat sink before the first point."


def _maximum(sheet: Sheet) -> str:
    return f"“{sheet.claim.words}” names no load."


def _fuses(sheet: Sheet) -> str:
    point = _first(sheet).reading
    watts = "nothing" if point is None else f"{point.weakest_watts:.4g} W a channel"
    return f"{' + '.join(f'{one:g}' for one in sheet.fuses)} A of fuses; measured is {watts}."


_TRACES: Mapping[Fault, Callable[[Sheet], str]] = {
    Fault.LEVEL_UP: _level,
    Fault.FLAT_BANK: _volts,
    Fault.WRONG_LOAD: _loads,
    Fault.BAD_CONTACT: _contacts,
    Fault.CLAMP_NOT_ZEROED: _clamp,
    Fault.CHARGER_ON: _efficiency,
    Fault.GAINS_APART: _gains,
    Fault.BOOST_ON: _boost,
    Fault.BRIDGE_SWAPPED: _pair,
    Fault.CLIPPED_PEAK: _peak,
    Fault.NOT_ALL_DRIVEN: _driven,
    Fault.RAILS_SWITCH: _burst,
    Fault.HUM: _hum,
    Fault.HOT_UNIT: _hot,
    Fault.MAXIMUM_QUOTED: _maximum,
    Fault.FUSES_FOR_POWER: _fuses,
    Fault.SENSED_AT_SUPPLY: _volts,
}
