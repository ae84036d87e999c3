"""Plausibility checks: every reading, whatever its origin, passes through all that apply to what is known of it.

Each check is a small function of a reading's figures and the method profile that answers with a finding or None. Where
a figure is not known, the checks that need it are silent.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from rulvek.core.judgement.figures import Compared, Figures
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import ENDS, End, Mode, reached
from rulvek.core.signals.power import ratio_db, rms_watts


class Severity(StrEnum):
    """How much a finding takes from a reading."""

    NOTE = "note"
    """Worth knowing; the figure stands."""
    DOUBT = "doubt"
    """Shows on every verdict that rests on the reading."""
    INVALID = "invalid"
    """Keeps the reading from being evidence."""


class Leaning(StrEnum):
    """Which way a reading would be wrong."""

    HIGH = "high"
    """It reads more than the unit gives as it should be measured: a shortfall stays one."""
    LOW = "low"
    """It reads less: a pass stays one."""
    EITHER = "either"
    NEITHER = "neither"
    """It does not touch the watts, but amps or efficiency."""


@dataclass(frozen=True, slots=True)
class Finding:
    """What a check found: one sentence with the numbers, what to do, and which way the watts would be wrong.

    ``at_most`` is by how much, a ratio; None where nobody can say.
    """

    code: str
    severity: Severity
    message: str
    advice: str
    leans: Leaning = Leaning.EITHER
    at_most: float | None = None


Check = Callable[[Figures, MethodProfile], tuple[Severity, str, str] | None]
CHECKS: dict[str, Check] = {}
"""Every check by its stable code, in the order in which they are made."""
LEANINGS: dict[str, tuple[Leaning, float | None]] = {}
NOT_ALL_DRIVEN = "channels-not-loaded"
COMPANIONS_FLATTER = 0.03
"""A bass channel gave 1.4 to 2.8 % more while the others were driven 9 dB down (common practice, no source)."""


FLAT_HAS_MORE = 0.05
"""At 1 % THD+N a wave that is clipped has up to so much more power than its peak says (closed form of the clipper)."""
BURST_IS_LESS = "a bad start, rails that switch, protection, a regulated supply"
"""What a burst below the certified power asks for, the likeliest first (common practice, no source)."""


def _check(code: str, leans: Leaning = Leaning.EITHER, at_most: float | None = None) -> Callable[[Check], Check]:
    def register(function: Check) -> Check:
        CHECKS[code], LEANINGS[code] = function, (leans, at_most)
        return function

    return register


def check(figures: Figures, method: MethodProfile) -> list[Finding]:
    """Pass a reading through every check; the gravest findings first."""
    found = [
        Finding(code, *answer, *LEANINGS[code])
        for code, function in CHECKS.items()
        if (answer := function(figures, method)) is not None
    ]
    order = [Severity.INVALID, Severity.DOUBT, Severity.NOTE]
    return sorted(found, key=lambda finding: order.index(finding.severity))


@_check("supply-out-of-window", Leaning.HIGH)
def _supply_window(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.supply_volts is None:
        return None
    if f.floating:
        if m.start_bank_low_volts <= f.supply_volts <= m.start_bank_high_volts:
            return None
        low, high = m.start_bank_low_volts, m.start_bank_high_volts
    else:
        wanted = m.reference_volts if f.set_volts is None else f.set_volts
        low, high = wanted - m.reference_volts_tolerance, wanted + m.reference_volts_tolerance
        if low <= f.supply_volts <= high:
            return None
    above = f.supply_volts > high
    message = f"The loaded supply was {f.supply_volts:.2f} V, outside of {low:.2f} to {high:.2f} V."
    if above:
        return Severity.DOUBT, message, "More volts flatter the result: repeat it inside the window."
    return Severity.NOTE, message, "A pass at fewer volts is the stronger; a shortfall needs a repeat in the window."


@_check("supply-sag", Leaning.LOW)
def _sag(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.start_volts is None or f.supply_volts is None:
        return None
    sag = f.start_volts - f.supply_volts
    if sag <= m.check_sag_volts:
        return None
    message = f"The supply sagged by {sag:.2f} V, from {f.start_volts:.2f} to {f.supply_volts:.2f} V."
    return Severity.DOUBT, message, "Stiffer supply, shorter or thicker cables, or let the bank recover."


@_check("load-off-nominal")
def _load(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.load_nominal is None or f.load_measured is None:
        return None
    off = 100 * (f.load_measured / f.load_nominal - 1)
    if abs(off) <= m.load_tolerance_percent:
        return None
    message = f"The load measures {f.load_measured:.3g} Ω, {off:+.1f} % from its nominal {f.load_nominal:g} Ω."
    return Severity.DOUBT, message, "Check contacts and parallel boxes; measure it warm and use the measured value."


@_check("clamp-not-zeroed", Leaning.NEITHER)
def _clamp(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.amps is None or f.clamp_zeroed is not False:
        return None
    message = f"The {f.amps:.1f} A are as indicated: the clamp was not zeroed on the connected, idle bench."
    return Severity.DOUBT, message, "Zero the clamp and repeat; amps and efficiency may be several amperes off."


@_check("charger-on", Leaning.HIGH)
def _charger(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    who = f.adds_amps or "A charger"
    if f.charger_amps is None and f.adds_amps:
        message = f"{who} fed the amplifier as well, with amps that nobody read: they are missing from the input."
        return Severity.DOUBT, message, "Switch it off, or clamp around its lead as well."
    if f.charger_amps is None or f.charger_amps <= m.check_charger_amps:
        return None
    message = f"{who} added up to {f.charger_amps:.0f} A; past the clamp they are missing from the input."
    return Severity.DOUBT, message, "Switch the charger off, or clamp around its lead as well."


@_check("burst-current", Leaning.NEITHER)
def _burst_current(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.mode is not Mode.BURST or f.amps is None:
        return None
    message = f"{f.amps:.1f} A were noted for a burst: an averaging clamp counts the silence between bursts too."
    return Severity.DOUBT, message, "Leave the amps out; they give no efficiency."


@_check("efficiency-impossible")
def _efficiency_bound(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    share = f.efficiency
    if share is None:
        return None
    bound = m.check_efficiency_ab_bound_percent if f.topology == "AB" else 100.0
    if 100 * share <= bound:
        return None
    what = "the theoretical bound of a class AB output stage" if f.topology == "AB" else "all there is"
    message = f"An efficiency of {100 * share:.0f} % is above {bound:g} %, {what}."
    return Severity.INVALID, message, "Check the clamp's zero and direction, a charger past it, the load's ohms."


@_check("efficiency-unusual")
def _efficiency_usual(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    share = f.efficiency
    if share is None or f.topology not in ("AB", "D"):
        return None
    low, high = (
        (m.check_efficiency_ab_low_percent, m.check_efficiency_ab_high_percent)
        if f.topology == "AB"
        else (m.check_efficiency_d_low_percent, m.check_efficiency_d_high_percent)
    )
    bound = m.check_efficiency_ab_bound_percent if f.topology == "AB" else 100.0
    if low <= 100 * share <= high or 100 * share > bound:
        return None
    message = f"An efficiency of {100 * share:.0f} % is unusual for class {f.topology}: {low:g} to {high:g} %."
    return Severity.NOTE, message, "Check the amps, whether all channels' output is counted, and the load's ohms."


@_check("figures-disagree")
def _figures(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    ohms = f.load_measured if f.load_measured is not None else f.load_nominal
    watts = f.watts_read or f.watts
    if ohms is None or watts is None or watts <= 0:
        return None
    tolerance = m.check_figures_percent / 100
    more = tolerance
    if f.volts_rms is not None:
        rms, read, as_read = f.volts_rms, f"{f.volts_rms:.4g} V", 1.0
    elif f.volts_peak is not None and f.mode is not Mode.UNCERTIFIED:
        rms, read, as_read = f.volts_peak / math.sqrt(2), f"{f.volts_peak:.4g} V peak", math.sqrt(2)
        more += FLAT_HAS_MORE if f.watts_read else 0.0
    else:
        return None
    from_volts = rms_watts(rms, ohms)
    if -more <= from_volts / watts - 1 <= tolerance:
        return None
    fits = rms**2 / watts
    message = (
        f"{read} into {ohms:.3g} Ω are {from_volts:.4g} W, not {watts:.4g} W; "
        f"the watts would fit {as_read * math.sqrt(watts * ohms):.4g} V or {fits:.3g} Ω."
    )
    return Severity.INVALID, message, f"One of the three does not fit: most likely {_misfit(f, ohms)}."


def _misfit(f: Figures, ohms: float) -> str:
    """Which of volts, ohms and watts is the odd one out, as far as the figures tell."""
    watts = f.watts_read or f.watts
    if f.volts_rms is None or watts is None:
        return "the watts, typed as if the peak were true rms"
    fits = f.volts_rms**2 / watts
    usual = min((8.0, 4.0, 2.67, 2.0, 1.33, 1.0, 0.5), key=lambda value: abs(math.log(fits / value)))
    if abs(fits / usual - 1) < 0.06 and abs(usual / ohms - 1) > 0.1:
        return f"the load, which would be {usual:g} Ω"
    ratio = f.volts_rms**2 / ohms / watts
    if abs(ratio - 2) < 0.15:
        return "the volts, which look like a peak value"
    return "the volts, read at another moment than the watts"


@_check("instruments-disagree")
def _instruments(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if not f.seconds:
        return None
    worst = max(f.seconds, key=lambda pair: abs(error_number(pair) or 0.0))
    number = error_number(worst)
    if number is None or not disagree(worst):
        return None
    message = (
        f"{worst.instrument} read {worst.other_watts:.4g} W of channel {worst.channel} where {worst.watts:.4g} W "
        f"stand: E_n = {number:.1f}.".replace("-", "−")
    )
    return Severity.DOUBT, message, "Keep both readings; the instrument in calibration decides."


@_check("order-unusual")
def _order(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    order = (Mode.CERTIFIED, Mode.UNCERTIFIED, Mode.BURST)
    if f.mode is None or f.watts is None:
        return None
    below = 10 ** (-m.check_order_db / 10)
    if f.mode is Mode.UNCERTIFIED and f.watts < f.beside.get(Mode.CERTIFIED, 0.0) * below:
        message = f"Uncertified {f.watts:.4g} W is less than certified {f.beside[Mode.CERTIFIED]:.4g} W."
        return Severity.DOUBT, message, "Look for a bad start, a flat supply or heat, and repeat it."
    steady = f.beside.get(Mode.CERTIFIED)
    if f.mode is order[2] and steady is not None and f.watts < steady * below:
        message = f"The burst's {f.watts:.4g} W is less than the certified {steady:.4g} W."
        advice = f"Look, in this order, for {BURST_IS_LESS}."
        return Severity.NOTE, message, advice
    return None


@_check("channels-apart", Leaning.LOW)
def _channels(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if len(f.channel_watts) < 2 or min(f.channel_watts) <= 0:
        return None
    apart = ratio_db(max(f.channel_watts), min(f.channel_watts))
    if apart <= m.check_channels_db:
        return None
    message = f"The channels lie {apart:.2f} dB apart, from {min(f.channel_watts):.4g} to {max(f.channel_watts):.4g} W."
    return Severity.DOUBT, message, "The gains are usually not matched: match them and repeat the run."


@_check("bad-start")
def _bad_start(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.start_watts is None or not f.watts or f.start_watts <= f.watts * m.check_start_percent / 100:
        return None
    message = (
        f"It started with {f.start_watts:.4g} W already there, {100 * f.start_watts / f.watts:.0f} % of the reading."
    )
    return Severity.DOUBT, message, "Start with the level down and repeat."


@_check("protection")
def _protection(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.end not in (End.PROTECTED, End.RECOVERING):
        return None
    at = f" at {f.tripped_watts:.4g} W" if f.tripped_watts is not None else ""
    again = " and came back to trip again" if f.end is End.RECOVERING else ""
    return Severity.NOTE, f"Protection tripped{at}{again}.", "A result in itself; let it cool and repeat to confirm it."


@_check("below-rated-load")
def _below_rated(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if not f.exploratory:
        return None
    load = f"{f.load_nominal:g} Ω" if f.load_nominal is not None else "The load"
    return Severity.INVALID, f"{load} is below the rated minimum: exploratory.", "Never evidence for a rating."


@_check("controls-off")
def _controls(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.controls_in_position is not False:
        return None
    message = "The controls were not confirmed in test position."
    return Severity.DOUBT, message, "Set and tick them; filters and boost change what every channel gives."


@_check(NOT_ALL_DRIVEN, Leaning.HIGH)
def _all_loaded(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.all_loaded is not False:
        return None
    message = "Not all channels were loaded and driven: a single channel flatters the amplifier."
    return Severity.INVALID, message, "Load and drive every channel, and repeat."


@_check("companions-low", Leaning.HIGH, COMPANIONS_FLATTER)
def _companions_low(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if not f.companions_low:
        return None
    message = f"The other channels were loaded, but driven low ({-m.companion_level_db:g} dB below full output)."
    advice = (
        "Repeat the run once their own certified level is known in this campaign: they are driven close to it then."
    )
    return Severity.DOUBT, message, advice


@_check("hot-start")
def _hot_start(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.sink_start_c is None or f.sink_start_c <= m.start_sink_maximum_c:
        return None
    message = f"It started at {f.sink_start_c:.0f} °C on the heat sink, above {m.start_sink_maximum_c:g} °C."
    return Severity.NOTE, message, "Let it cool and repeat; warm output devices give less."


@_check("not-repeatable")
def _repeatable(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if not f.watts or not f.attempts or min(f.attempts) <= 0:
        return None
    ends = (min(f.attempts), max(f.attempts))  # the furthest of thousands is one of these
    furthest = max(ends, key=lambda watts: abs(math.log(watts / (f.watts or 1.0))))
    apart = ratio_db(furthest, f.watts)
    if abs(apart) <= m.check_repeat_db:
        return None
    message = f"Another attempt gave {furthest:.4g} W, {apart:+.2f} dB from this one's {f.watts:.4g} W."
    return Severity.DOUBT, message, "Find what differed between the attempts, and choose the one that stands."


@_check("out-of-calibration")
def _calibration(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if not f.overdue:
        return None
    message = f"Out of calibration on the day: {', '.join(f.overdue)}."
    return Severity.DOUBT, message, "Have it calibrated; its results back to the last calibration are in question."


@_check("instrument-unknown")
def _instrument(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.output_known is not False:
        return None
    message = f"Instrument unknown: U takes ± {m.unknown_volts_percent:g} % of the output volts for it."
    return Severity.DOUBT, message, "Put what reads the output on the register, with its limits, and repeat."


@_check("stopped-short")
def _stopped_short(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.mode is None or f.end is None or reached(f.mode, f.end) or f.end in (End.PROTECTED, End.RECOVERING):
        return None
    if f.mode is Mode.PROOF and ENDS[f.end].gave_all:
        return None  # it went to the unit's own limit, as a certified run does
    thd = f" at {max(f.thd_n_percent, 0.001):.2g} % THD+N" if f.thd_n_percent is not None else ""
    message = f"It stopped short of the limit{thd}: {f.end.replace('_', ' ')}."
    return Severity.NOTE, message, "The reading stands with its own THD+N; it can back a claim but not refute one."


@_check("not-held", Leaning.HIGH)
def _not_held(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.held is not False or f.watts is None:
        return None
    message = f"The {f.watts:.4g} W were there for a moment: the level could not be held for {m.dwell_seconds:g} s."
    return Severity.DOUBT, message, "A stiffer supply, or a cooler start; else it is what the unit gives for a moment."


@_check("thd-n-falls-again")
def _not_monotonic(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.beyond_watts is None:
        return None
    message = (
        f"THD+N passes the limit and falls under it again: up to {f.beyond_watts:.4g} W there are levels within it. "
        "The reading is the level up to which every one is."
    )
    return Severity.NOTE, message, "Look at the sweep: crossover distortion, noise, or a connection that heats up."


@_check("out-of-band")
def _out_of_band(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    if f.outside_percent is None or f.outside_percent <= m.check_outside_percent:
        return None
    message = f"{f.outside_percent:.2g} % of the power in the load lies outside of the band and is not counted."
    return (
        Severity.NOTE,
        message,
        "Residue of a class D carrier, or an offset: a meter without a filter counts it.",
    )


@_check("clipped-peak-reading")
def _clipped_peak(f: Figures, m: MethodProfile) -> tuple[Severity, str, str] | None:
    """From a peak only an unclipped sine's power can be told: ``Vpk² / 2R``."""
    if f.volts_peak is None or f.watts_read is not None:  # the watts are not worked out from it
        return None
    limit = m.thd_n_limit_percent
    flat = f.clipped_share is not None and f.clipped_share > m.check_clipped_share
    distorted = f.thd_n_percent is not None and f.thd_n_percent > limit
    if not (flat or distorted or f.mode is Mode.UNCERTIFIED):
        return None
    message = f"{f.volts_peak:.4g} V peak of a clipped wave tell no power: Vpk²/2R holds for an unclipped sine only."
    return Severity.INVALID, message, "Read true rms, or the peak below the onset of clipping."


@_check("capture-changed")
def _capture_changed(f: Figures, _m: MethodProfile) -> tuple[Severity, str, str] | None:
    if not f.capture_changed:
        return None
    message = "The capture is not intact: its file is gone, or not the one that was kept, so that nobody can check it."
    return Severity.DOUBT, message, "Restore the file from a backup, or take the reading again."


def error_number(pair: Compared) -> float | None:
    """E_n of a pair; None where neither instrument has an uncertainty."""
    if pair.expanded + pair.other_expanded <= 0:
        return None
    return normalised_error(pair.watts, pair.expanded, pair.other_watts, pair.other_expanded)


def disagree(pair: Compared) -> bool:
    """Whether two instruments tell different things: |E_n| above 1; nothing is told where neither has a U."""
    number = error_number(pair)
    return number is not None and abs(number) > 1


def normalised_error(watts: float, expanded: float, other: float, other_expanded: float) -> float:
    """E_n of two readings of the same thing: their difference over the root sum of squares of their U.

    Source: ISO/IEC 17043, E_n number, from memory. Beyond ±1 they disagree.

    Raises:
        ValueError: both uncertainties are zero.
    """
    together = math.hypot(expanded, other_expanded)
    if together == 0:
        raise ValueError("E_n needs an uncertainty above 0")
    return (watts - other) / together
