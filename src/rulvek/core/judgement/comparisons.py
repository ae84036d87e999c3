"""What a unit's readings say of each other, whatever campaign or hand they come from."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import permutations

from rulvek.core.judgement.checks import BURST_IS_LESS
from rulvek.core.judgement.evidence import Evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import ENDS, End, Mode
from rulvek.core.runs.spec import each_channels_place, same_place
from rulvek.core.signals.power import ratio_db

ALIKE_VOLTS = 0.3
"""Readings whose loaded volts differ by more are not held against each other (ours)."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """Two readings that do not go together: what is odd, what to look for, and the attempts they are of."""

    code: str
    message: str
    advice: str
    attempt_ids: tuple[int, ...]


Rule = Callable[[Evidence, Evidence, MethodProfile], Comparison | None]


def comparisons(evidence: Sequence[Evidence], method: MethodProfile) -> tuple[Comparison, ...]:
    """Hold the latest reading of each mode, place and tone against the others taken at like volts.

    Args:
        evidence: One unit's, the oldest first.
        method: For its thresholds.
    """
    latest = list({_conditions(e): e for e in evidence if _counts(e)}.values())
    return tuple(
        found
        for one, other in _pairs(latest)
        for rule in (_modes, _tones, _loads, _pairs_and_channels)
        if (found := rule(one, other, method)) is not None
    )


def _conditions(e: Evidence) -> tuple[object, ...]:
    return e.mode, e.place, f"{e.tone_hz:.2g}", round(e.supply_volts / ALIKE_VOLTS)


def _counts(e: Evidence) -> bool:
    return e.stands and not ENDS[e.end].of_the_day and e.end is not End.HELD and e.volts_between is None


def _pairs(latest: Sequence[Evidence]) -> Iterator[tuple[Evidence, Evidence]]:
    for one, other in permutations(latest, 2):
        if one.group == other.group and abs(one.supply_volts - other.supply_volts) <= ALIKE_VOLTS:
            yield one, other


def _modes(one: Evidence, steady: Evidence, m: MethodProfile) -> Comparison | None:
    """A burst or an uncertified reading below the certified one."""
    if steady.mode is not Mode.CERTIFIED or one.mode not in (Mode.BURST, Mode.UNCERTIFIED):
        return None
    if not same_place(one.place, steady.place) or ratio_db(steady.weakest, one.weakest) <= m.check_order_db:
        return None
    burst = one.mode is Mode.BURST
    if not burst and f"{one.tone_hz:.2g}" != f"{steady.tone_hz:.2g}":
        return None
    name = "burst" if burst else "uncertified reading"
    message = f"{_at(one)} the {name} gives {one.weakest:.4g} W, less than the certified {steady.weakest:.4g} W."
    look = BURST_IS_LESS if burst else "a bad start, a flat supply, heat"
    return Comparison("order-unusual", message, f"Look, in this order, for {look}.", _ids(one, steady))


def _tones(one: Evidence, other: Evidence, m: MethodProfile) -> Comparison | None:
    """A tone that gives clearly less than another at the same load."""
    both = one.mode is other.mode is Mode.CERTIFIED and same_place(one.place, other.place)
    if not both or max(one.tone_hz, other.tone_hz) < 2 * min(one.tone_hz, other.tone_hz):
        return None
    if ratio_db(other.weakest, one.weakest) <= m.check_tones_db:
        return None
    less = ratio_db(other.weakest, one.weakest)
    message = (
        f"{_at(one)} {one.tone_hz:g} Hz gives {one.weakest:.4g} W, {less:.1f} dB less than {other.tone_hz:g} Hz with "
        f"{other.weakest:.4g} W."
    )
    advice = "Look for a filter that is on, rails that sag with a slow tone, or an output filter that takes a fast one."
    return Comparison("tones-apart", message, advice, _ids(one, other))


def _loads(lower: Evidence, higher: Evidence, _m: MethodProfile) -> Comparison | None:
    """Half the load gives no less, and from the same rails never more than twice as much (Ohm's law)."""
    alike = lower.mode is higher.mode is Mode.CERTIFIED and lower.bridged is higher.bridged
    alike = alike and f"{lower.tone_hz:.2g}" == f"{higher.tone_hz:.2g}"
    if not alike or lower.load_ohms * 1.05 > higher.load_ohms:
        return None
    most = higher.weakest * higher.load_ohms / lower.load_ohms
    pair = f"{lower.weakest:.4g} W into {lower.load_ohms:g} Ω, {higher.weakest:.4g} W into {higher.load_ohms:g} Ω"
    if lower.weakest < higher.weakest:
        return Comparison(
            "less-at-lower-load",
            f"{lower.group}: {pair}: less at the lower load.",
            "Look for protection or a current limit, and for volts that fall on the way to the terminals.",
            _ids(lower, higher),
        )
    if lower.weakest > 1.05 * most:
        return Comparison(
            "too-much-at-lower-load",
            f"{lower.group}: {pair}: more than the same volts can give ({most:.4g} W).",
            "Look for a load that is not what it says, gains that were turned in between, or other supply volts.",
            _ids(lower, higher),
        )
    return None


def _pairs_and_channels(pair: Evidence, each: Evidence, m: MethodProfile) -> Comparison | None:
    """A bridged pair gives twice what each channel gives into half of its load (circuit theory)."""
    if not pair.bridged or each.bridged or not pair.mode is each.mode is Mode.CERTIFIED:
        return None
    apart = ratio_db(pair.weakest / 2, each.weakest)
    if not same_place(each_channels_place(pair.place), each.place) or abs(apart) <= m.check_channels_db:
        return None
    message = (
        f"{pair.group}: bridged pairs give {pair.weakest:.4g} W into {pair.load_ohms:g} Ω, two channels "
        f"{2 * each.weakest:.4g} W into {each.load_ohms:g} Ω each."
    )
    advice = "Look for a pair whose channels are not driven alike, for a load off its value, and for a bad contact."
    return Comparison("pair-and-channels-apart", message, advice, _ids(pair, each))


def _at(e: Evidence) -> str:
    return f"{e.group}, {e.load_ohms:g} Ω{' bridged' if e.bridged else ''}:"


def _ids(one: Evidence, other: Evidence) -> tuple[int, int]:
    return one.attempt_id, other.attempt_id
