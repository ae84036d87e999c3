"""Reach bars: what one unit gives at one load, in every mode, and what is claimed there."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from rulvek.core.judgement.evidence import Evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.burst_point import headroom_db
from rulvek.core.runs.modes import ENDS, End, Mode
from rulvek.core.runs.spec import Place, place_key


@dataclass(frozen=True, slots=True)
class Reach:
    """A bar of one unit, whose serial number it carries; None where nothing was read in that mode.

    ``headroom_db`` is burst over certified at the same setting of the supply; None where there is no such pair.
    """

    group: str
    load_ohms: float
    bridged: bool
    unit_serial: str | None = None
    certified_watts: float | None = None
    expanded_watts: float | None = None
    at_limit: bool = False
    uncertified_watts: float | None = None
    uncertified_expanded_watts: float | None = None
    burst_watts: float | None = None
    burst_expanded_watts: float | None = None
    burst_largest_watts: float | None = None
    headroom_db: float | None = None
    supply_volts: float | None = None
    attempt_id: int | None = None
    comparable: bool = False
    simulated: bool = False

    @property
    def place(self) -> Place:
        """How the group is loaded."""
        return self.group, self.load_ohms, self.bridged


def unit_reaches(places: Sequence[Place], evidence: Sequence[Evidence], serial: str) -> tuple[Reach, ...]:
    """One unit's bars, by its latest readings that are the unit's own and not the day's."""
    by_place: dict[object, list[Evidence]] = {}
    for one in evidence:
        if one.stands and not ENDS[one.end].of_the_day:
            by_place.setdefault(place_key(one.place), []).append(one)
    return tuple(_reach(place, by_place.get(place_key(place), ()), serial) for place in places)


def _reach(place: Place, here: Sequence[Evidence], serial: str) -> Reach:
    certified = _latest(here, Mode.CERTIFIED, None)
    setting = certified.set_volts if certified else None
    clipping, burst = (_latest(here, mode, setting) for mode in (Mode.UNCERTIFIED, Mode.BURST))
    first = certified or clipping or burst
    if first is None:
        return Reach(*place)
    return Reach(
        *place,
        unit_serial=serial,
        certified_watts=certified.weakest if certified else None,
        expanded_watts=certified.budget.expanded if certified else None,
        at_limit=certified is not None and certified.end is End.LIMIT,
        uncertified_watts=clipping.weakest if clipping else None,
        uncertified_expanded_watts=clipping.budget.expanded if clipping else None,
        burst_watts=burst.weakest if burst else None,
        burst_expanded_watts=burst.budget.expanded if burst else None,
        burst_largest_watts=burst.largest_watts if burst else None,
        headroom_db=_headroom(burst, certified),
        supply_volts=first.supply_volts,
        attempt_id=first.attempt_id,
        comparable=_at_reference(first),
        simulated=first.simulated,
    )


def _latest(here: Iterable[Evidence], mode: Mode, setting: float | None) -> Evidence | None:
    """The latest of a mode: at the same setting of the supply, where there is one."""
    mine = [one for one in here if one.mode is mode]
    alike = [one for one in mine if setting is None or one.set_volts == setting]
    return alike[-1] if alike else mine[-1] if mine else None


def _at_reference(e: Evidence) -> bool:
    method = e.method or MethodProfile()
    return abs(e.supply_volts - method.reference_volts) <= method.reference_volts_tolerance


def _headroom(burst: Evidence | None, certified: Evidence | None) -> float | None:
    if burst is None or certified is None or burst.set_volts != certified.set_volts:
        return None
    return headroom_db(burst.weakest, certified.weakest)


def weakest_reaches(places: Sequence[Place], units: Iterable[Sequence[Reach]]) -> tuple[Reach, ...]:
    """A model's bars: each is the one of its weakest unit, whose serial number it carries.

    Units that were run at the reference come before those that were not: one at another voltage must not pass for the
    weakest. Units with a certified reading come before those without.
    """
    by_place: Mapping[object, list[Reach]] = {place_key(place): [] for place in places}
    for reaches in units:
        for reach in reaches:
            if reach.unit_serial is not None and place_key(reach.place) in by_place:
                by_place[place_key(reach.place)].append(reach)
    return tuple(_weakest(place, by_place[place_key(place)]) for place in places)


def _weakest(place: Place, reaches: Sequence[Reach]) -> Reach:
    read = [reach for reach in reaches if reach.certified_watts is not None]
    comparable = [reach for reach in read or reaches if reach.comparable] or read or reaches
    return min(comparable, key=_least, default=Reach(*place))


def _least(reach: Reach) -> float:
    return next(w for w in (reach.certified_watts, reach.uncertified_watts, reach.burst_watts) if w is not None)
