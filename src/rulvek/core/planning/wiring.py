"""Wirings: which loads hang on which channels at the same time, and orders of runs that rewire least."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from rulvek.core.electrical.loads import Connection
from rulvek.core.records.product import ChannelGroup, Product
from rulvek.core.records.wishes import Order
from rulvek.core.runs.modes import SWEEPS, Mode
from rulvek.core.runs.spec import Place, RunSpec

Wiring = tuple[Connection, ...]


def wiring_key(wiring: Iterable[Connection]) -> str:
    """A wiring as a short text that is the same for the same loads on the same channels.

    >>> wiring_key([Connection((1, 2), 4.0), Connection((3,), 2.0)])
    '1+2:4 3:2'
    """
    parts = sorted(("+".join(str(c) for c in link.channels), f"{link.nominal_ohms:g}") for link in wiring)
    return " ".join(f"{channels}:{ohms}" for channels, ohms in parts)


def connections(group: ChannelGroup, ohms: float, bridged: bool) -> Wiring:
    """A group loaded alike on all its channels, or on all its bridged pairs."""
    return tuple(Connection(channels, ohms) for channels in group.read(bridged))


def is_exploratory(spec: RunSpec, product: Product) -> bool:
    """Whether the load is below what the model is rated for: never evidence."""
    return not product.group(spec.group).is_rated(spec.load_ohms, spec.bridged)


def wirings(specs: Iterable[RunSpec], product: Product) -> dict[Place, Wiring]:
    """The whole amplifier's wiring for each load that some group is to be read at, lightest first.

    Every channel is always loaded. Groups share wirings: the lightest load of one hangs beside the lightest of the
    others, and so on, which takes as many wirings as the group with most loads has, and no order needs fewer. A group
    that has run out of loads waits at its lightest rated one. Loads below the rated minimum come last, and no other
    group is ever kept below its own.
    """
    wanted = {spec.place: is_exploratory(spec, product) for spec in specs}
    found: dict[Place, Wiring] = {}
    for exploratory in (False, True):
        by_group = {
            group.name: sorted(
                (state for state, explores in wanted.items() if state[0] == group.name and explores is exploratory),
                key=lambda state: _lightness(*state[1:]),
            )
            for group in product.groups
        }
        for place in range(max((len(states) for states in by_group.values()), default=0)):
            # Below the rated minimum, one group at a time: the others must not be strained along with it.
            here = [states[place] for states in by_group.values() if place < len(states)]
            for together in [[state] for state in here] if exploratory else [here]:
                wiring = _together(together, product)
                found.update(dict.fromkeys(together, wiring))
    return found


def _together(states: Sequence[Place], product: Product) -> Wiring:
    chosen = {group: (ohms, bridged) for group, ohms, bridged in states}
    return tuple(
        link
        for group in product.groups
        for link in connections(group, *chosen.get(group.name, (max(group.rated_loads), False)))
    )


def _lightness(ohms: float, bridged: bool) -> tuple[float, bool]:
    return -(ohms / 2 if bridged else ohms), bridged


def rewirings(keys: Sequence[str]) -> int:
    """How often loads have to be moved in a sequence of wirings; the first set-up is not counted."""
    return sum(one != other for one, other in pairwise(keys))


def in_order(specs: Sequence[RunSpec], product: Product, order: Order) -> tuple[RunSpec, ...]:
    """Sort runs so that nothing is rewired that a better order would save.

    The lightest load comes first, so that trouble shows while the stakes are low, and loads below the rated minimum
    come last whatever the order. By mode, every second mode goes back through the loads it finds wired.
    """
    wired = wirings(specs, product)
    places = {key: place for place, key in enumerate(dict.fromkeys(wiring_key(w) for w in wired.values()))}
    place_of = {state: places[wiring_key(wiring)] for state, wiring in wired.items()}
    groups, modes = [group.name for group in product.groups], list(Mode)

    def within(spec: RunSpec) -> tuple[float, int, int, float]:
        return spec.supply_volts, groups.index(spec.group), modes.index(spec.mode), spec.tone_hz

    rated = [spec for spec in specs if not is_exploratory(spec, product)]
    explored = [spec for spec in specs if is_exploratory(spec, product)]
    ordered: list[RunSpec] = []
    if order is Order.BY_LOAD:
        ordered = sorted(rated, key=lambda spec: (place_of[spec.place], *within(spec)))
    else:
        blocks = [(mode, sorted({place_of[s.place] for s in rated if _block(s) is mode})) for mode in SWEEPS]
        for mode, visits in _least_rewiring([block for block in blocks if block[1]]):
            mine = [spec for spec in rated if _block(spec) is mode]
            ordered += sorted(mine, key=lambda spec: (visits.index(place_of[spec.place]), *within(spec)))
    return (*ordered, *sorted(explored, key=lambda spec: (place_of[spec.place], *within(spec))))


def _block(spec: RunSpec) -> Mode:
    """With which mode's runs one goes: a proof is quick, and goes with the certified runs of its load."""
    return Mode.CERTIFIED if spec.mode is Mode.PROOF else spec.mode


@dataclass(frozen=True, slots=True, order=True)
class _Way:
    """One way through some blocks; compared by what it costs: rewirings, then turns back within a block."""

    changes: int
    turns: int
    visits: list[list[int]] = field(compare=False)


def _least_rewiring(blocks: Sequence[tuple[Mode, list[int]]]) -> list[tuple[Mode, list[int]]]:
    """Order the places within each block so that as many blocks as possible begin where the one before ended.

    Found by dynamic programming over the last place of each block. Of equally cheap ways the one that goes
    straight up or down through the loads is taken; the first block always begins with its lightest load.
    """
    ways: dict[int, _Way] = {}
    for index, (_mode, places) in enumerate(blocks):
        longer: dict[int, _Way] = {}
        for visit in _visits(places):
            if index == 0 and visit[0] != places[0]:
                continue
            turns = sum(one != other for one, other in pairwise(a < b for a, b in pairwise(visit)))
            for before, way in ways.items() or [(None, _Way(0, 0, []))]:
                changes = way.changes + len(visit) - (before is None or before == visit[0])
                candidate = _Way(changes, way.turns + turns, [*way.visits, visit])
                known = longer.get(visit[-1])
                if known is None or candidate < known:
                    longer[visit[-1]] = candidate
        ways = longer
    best = min(ways.values()) if ways else _Way(0, 0, [])
    return [(mode, visits) for (mode, _), visits in zip(blocks, best.visits, strict=True)]


def _visits(places: list[int]) -> Iterable[list[int]]:
    """Ways through the places, by where they begin and end; between, going up or going down."""
    if len(places) == 1:
        yield places
        return
    for first in places:
        for last in places:
            if first != last:
                between = [place for place in places if place not in (first, last)]
                yield [first, *between, last]
                yield [first, *reversed(between), last]
