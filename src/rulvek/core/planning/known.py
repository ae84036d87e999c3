"""What is known of a model's power from its units, in as few figures as a plan needs."""

from collections.abc import Iterable

from rulvek.core.judgement.evidence import Evidence
from rulvek.core.planning.prediction import KnownPower
from rulvek.core.runs.modes import ENDS, Mode, reached
from rulvek.core.runs.spec import place_key


def known_powers(found: Iterable[tuple[str, Evidence]]) -> tuple[KnownPower, ...]:
    """Powers from evidence, the latest attempt first, each with where it was found.

    What the day cut short, or was only held, sizes nothing.
    """
    kept = sorted(
        ((where, e) for where, e in found if not ENDS[e.end].of_the_day and e.mode is not Mode.PROOF),
        key=lambda pair: -pair[1].attempt_id,
    )
    return tuple(
        KnownPower(*e.place, e.mode, e.weakest, e.supply_volts, e.supply_amps, where, at_limit=reached(e.mode, e.end))
        for where, e in kept
    )


def summarised(known: Iterable[KnownPower]) -> tuple[KnownPower, ...]:
    """At most three for each load and mode: the latest, the one with most watts, the one with most amps."""
    by_key: dict[tuple[object, ...], list[KnownPower]] = {}
    for one in known:
        by_key.setdefault((*place_key(one.place), one.mode), []).append(one)
    kept: list[KnownPower] = []
    for many in by_key.values():
        at_limit = [one for one in many if one.at_limit] or many
        most, drawn = max(at_limit, key=_watts_at_a_volt), max(many, key=_amps)
        kept += dict.fromkeys((many[0], most, drawn))
    return tuple(kept)


def _watts_at_a_volt(one: KnownPower) -> float:
    return one.watts / one.supply_volts**2


def _amps(one: KnownPower) -> float:
    return one.supply_amps or 0.0 if one.mode is not Mode.BURST else 0.0
