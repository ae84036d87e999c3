"""What waits, put in an order for each bench: fewest rewirings across units, as little as possible late.

It begins with what first come, first served would give, and takes only what is better in one and worse in nothing:
whatever comes of it is never later and never rewired more often than that.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from rulvek.core.errors import BadInput
from rulvek.core.planning.equipment import REWIRE_MINUTES, SETUP_MINUTES

MOST_ROUNDS = 30
MOST_STEPS = 600_000
"""Campaigns that are looked at while one order is bettered: forty on three benches are done long before, hundreds are
not, and nobody waits for their best order."""
_SAME = 1e-6


@dataclass(frozen=True, slots=True)
class Job:
    """A campaign that waits.

    Attributes:
        id: In the order in which they came.
        benches: That can stand it, and on which it may be run.
        seconds: What is left of it, its own rewirings and rests included.
        first, last: How loads are wired when it begins and when it ends.
        due_seconds: From now until it is to be done; infinite where nobody waits for it.
        place: Where somebody put it by hand: before all that nobody did, in rising order.
    """

    id: int
    benches: tuple[str, ...]
    seconds: float
    first: str
    last: str
    due_seconds: float = math.inf
    place: int | None = None


@dataclass(frozen=True, slots=True)
class Standing:
    """A bench: for how long it is still busy, and how its loads are wired then; None where nobody knows.

    ``exchange_seconds`` take a unit off it and the next one on it, ``rewire_seconds`` wire its loads otherwise.
    """

    name: str
    free_seconds: float = 0.0
    wiring: str | None = None
    exchange_seconds: float = 60 * SETUP_MINUTES
    rewire_seconds: float = 60 * REWIRE_MINUTES

    def start(self, at: float, wiring: str | None, job: Job) -> float:
        """When a job can begin that comes after something ended."""
        return at + self.exchange_seconds + self.rewire_seconds * (job.first != wiring)


@dataclass(frozen=True, slots=True)
class Slot:
    """A campaign at its time, in seconds from now; ``rewired`` is whether loads are wired otherwise for it first."""

    job: Job
    bench: str
    start: float
    end: float
    rewired: bool

    @property
    def late_seconds(self) -> float:
        """How long after it was to be done."""
        return max(0.0, self.end - self.job.due_seconds)


@dataclass(frozen=True, slots=True)
class Queue:
    """What comes when; ``unplaced`` can be run on no bench that there is."""

    slots: tuple[Slot, ...] = ()
    unplaced: tuple[Job, ...] = ()

    @property
    def rewirings(self) -> int:
        """How often loads are wired otherwise between campaigns."""
        return sum(one.rewired for one in self.slots)

    @property
    def late_seconds(self) -> float:
        """All lateness together."""
        return math.fsum(one.late_seconds for one in self.slots)

    @property
    def end(self) -> float:
        """When the last is done."""
        return max((one.end for one in self.slots), default=0.0)

    def of(self, bench: str) -> tuple[Slot, ...]:
        """What comes on a bench, in order."""
        return tuple(one for one in self.slots if one.bench == bench)

    def meanwhile(self, bench: str) -> Slot | None:
        """What can be seen to while a unit cools on a bench: what begins first on another; None where nothing does."""
        elsewhere = (one for one in self.slots if one.bench != bench)
        return min(elsewhere, key=lambda one: (one.start, one.job.id), default=None)


@dataclass(frozen=True, slots=True)
class _Cost:
    late: float
    rewirings: int
    ends: float

    def __add__(self, other: "_Cost") -> "_Cost":
        return _Cost(self.late + other.late, self.rewirings + other.rewirings, self.ends + other.ends)

    def beats(self, other: "_Cost") -> bool:
        """Worse in nothing that matters and better in something; when things end on an average breaks ties."""
        if self.late > other.late + _SAME or self.rewirings > other.rewirings:
            return False
        return self.late < other.late - _SAME or self.rewirings < other.rewirings or self.ends < other.ends - _SAME


_Order = dict[str, tuple[Job, ...]]


@dataclass(slots=True)
class _Search:
    """Orders for each bench, and what each costs; a bench's is worked out anew only where it changed."""

    standings: Mapping[str, Standing]
    order: _Order
    costs: dict[str, _Cost] = field(default_factory=dict)
    steps_left: int = MOST_STEPS

    def __post_init__(self) -> None:
        self.costs = {name: self.cost(name, jobs) for name, jobs in self.order.items()}

    def cost(self, bench: str, jobs: Sequence[Job]) -> _Cost:
        late, rewired, ends = 0.0, 0, 0.0
        standing = self.standings[bench]
        at, wiring = standing.free_seconds, standing.wiring
        for job in jobs:
            at = standing.start(at, wiring, job) + job.seconds
            rewired += job.first != wiring
            late += max(0.0, at - job.due_seconds)
            ends += at
            wiring = job.last
        return _Cost(late, rewired, ends)

    @property
    def total(self) -> _Cost:
        return sum(self.costs.values(), _Cost(0.0, 0, 0.0))

    def take(self, changed: _Order) -> bool:
        """Change some benches' orders if that beats what there is, and there is time to look."""
        self.steps_left -= sum(map(len, changed.values()))
        if self.steps_left < 0:
            return False
        new = {name: self.cost(name, jobs) for name, jobs in changed.items()}
        before = sum((self.costs[name] for name in changed), _Cost(0.0, 0, 0.0))
        if not sum(new.values(), _Cost(0.0, 0, 0.0)).beats(before):
            return False
        self.order.update(changed)
        self.costs.update(new)
        return True


def first_come(jobs: Iterable[Job], standings: Sequence[Standing]) -> Queue:
    """Each in the order in which it came, on whichever of its benches is done with it first; by hand goes before."""
    return _queue(_first_come(jobs, standings), standings, _unplaced(jobs, standings))


def planned(jobs: Sequence[Job], standings: Sequence[Standing]) -> Queue:
    """The best order that is found: never later in all and never with more rewirings than first come, first served.

    >>> wired = {"A": ("4+4", "2+2"), "B": ("8+8", "8+8"), "C": ("2+2", "2+2")}
    >>> waits = [Job(at, ("Bench 1",), 3600, *wired[one]) for at, one in enumerate("ABC", 1)]
    >>> there = [Standing("Bench 1", wiring="4+4")]
    >>> [slot.job.id for slot in planned(waits, there).slots], planned(waits, there).rewirings
    ([1, 3, 2], 1)
    >>> first_come(waits, there).rewirings
    2

    Raises:
        BadInput: two benches of one name, or the same campaign twice.
    """
    if len({one.name for one in standings}) < len(standings):
        raise BadInput("Two benches have one name.", field="benches")
    if len({one.id for one in jobs}) < len(jobs):
        raise BadInput("A campaign waits twice.", field="campaigns")
    known = {one.name: one for one in standings}
    best = _Search(known, _first_come(jobs, standings))
    for begun in _beginnings(best, jobs, standings):
        other = _Search(known, begun)
        _improve(other)
        if other.total.beats(best.total):
            best = other
    _improve(best)
    return _queue(best.order, standings, _unplaced(jobs, standings))


def by_hand(jobs: Iterable[Job], place: Sequence[int]) -> list[Job]:
    """Jobs with some of them put in an order by hand; the others are no longer."""
    at = {one: number for number, one in enumerate(place)}
    return [replace(job, place=at.get(job.id)) for job in jobs]


def _first_come(jobs: Iterable[Job], standings: Sequence[Standing]) -> _Order:
    order: dict[str, list[Job]] = {one.name: [] for one in standings}
    known = {one.name: one for one in standings}
    ends = {one.name: one.free_seconds for one in standings}
    wirings = {one.name: one.wiring for one in standings}
    for job in sorted(jobs, key=_as_they_came):
        able = [name for name in ends if name in job.benches]
        if not able:
            continue
        done = {name: known[name].start(ends[name], wirings[name], job) + job.seconds for name in able}
        bench = min(able, key=lambda name: done[name])
        order[bench].append(job)
        ends[bench], wirings[bench] = done[bench], job.last
    return {name: tuple(placed) for name, placed in order.items()}


def _as_they_came(job: Job) -> tuple[bool, int, int]:
    return job.place is None, job.place or 0, job.id


def _beginnings(there: _Search, jobs: Sequence[Job], standings: Sequence[Standing]) -> Iterable[_Order]:
    """Other orders to begin with: what is due first, and what is wired alike one after the other."""
    for key in (lambda job: (job.due_seconds, job.id), lambda job: (job.first, job.last, job.due_seconds, job.id)):
        ranked = {job.id: at for at, job in enumerate(sorted(jobs, key=key))}
        moved = [replace(job, id=ranked[job.id]) for job in jobs]
        back = {ranked[job.id]: job for job in jobs}
        yield {name: tuple(back[one.id] for one in placed) for name, placed in _first_come(moved, standings).items()}


def _improve(search: _Search) -> None:
    """Move one campaign elsewhere, or exchange two, for as long as that beats what there is."""
    for _ in range(MOST_ROUNDS):
        if not (_moved_one(search) | _exchanged_two(search)):
            return


def _moved_one(search: _Search) -> bool:
    found = False
    for bench in list(search.order):
        for job in search.order[bench]:
            found |= job.place is None and _moved(search, bench, job)
    return found


def _moved(search: _Search, bench: str, job: Job) -> bool:
    rest = tuple(one for one in search.order[bench] if one is not job)
    for to in job.benches:
        if to not in search.order:
            continue
        there = rest if to == bench else search.order[to]
        for at in range(_by_hand_in(there), len(there) + 1):
            if search.steps_left < 0:
                return False
            put = (*there[:at], job, *there[at:])
            if search.take({bench: put} if to == bench else {bench: rest, to: put}):
                return True
    return False


def _exchanged_two(search: _Search) -> bool:
    found = False
    free = [(name, job) for name, jobs in search.order.items() for job in jobs if job.place is None]
    for number, (one_bench, one) in enumerate(free):
        for other_bench, other in free[number + 1 :]:
            if search.steps_left < 0:
                return found
            found |= _exchanged(search, one_bench, one, other_bench, other)
    return found


def _exchanged(search: _Search, one_bench: str, one: Job, other_bench: str, other: Job) -> bool:
    if one not in search.order[one_bench] or other not in search.order[other_bench]:
        return False  # moved meanwhile
    if other_bench not in one.benches or one_bench not in other.benches:
        return False
    put = {one.id: other, other.id: one}
    return search.take(
        {
            bench: tuple(put.get(job.id, job) for job in search.order[bench])
            for bench in dict.fromkeys((one_bench, other_bench))
        }
    )


def _by_hand_in(jobs: Sequence[Job]) -> int:
    """How many of a bench's were put there by hand: they stay in front."""
    return sum(job.place is not None for job in jobs)


def _unplaced(jobs: Iterable[Job], standings: Sequence[Standing]) -> tuple[Job, ...]:
    names = {one.name for one in standings}
    return tuple(job for job in jobs if not names & set(job.benches))


def _queue(order: _Order, standings: Sequence[Standing], unplaced: tuple[Job, ...]) -> Queue:
    slots = []
    for standing in standings:
        at, wiring = standing.free_seconds, standing.wiring
        for job in order[standing.name]:
            start = standing.start(at, wiring, job)
            slots.append(Slot(job, standing.name, start, start + job.seconds, job.first != wiring))
            at, wiring = start + job.seconds, job.last
    return Queue(tuple(slots), unplaced)
