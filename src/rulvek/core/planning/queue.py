"""What waits, put in an order for each bench: fewest rewirings across units, as little as possible late.

It begins with what first come, first served would give, and takes only what is better in one and worse in nothing:
whatever comes of it is never later and never rewired more often than that.
"""

import math
from bisect import bisect_left
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from heapq import heapify, heappop, heappush

from rulvek.core.errors import BadInput
from rulvek.core.planning.equipment import REWIRE_MINUTES, SETUP_MINUTES

MOST_ROUNDS = 30
MOST_LOOKS = 60_000
"""Changes that are looked at until an order is proposed: forty campaigns on three benches are done before, hundreds are
not, and nobody waits for their best order."""
LOOKS_OF_AN_EXCHANGE = 4
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


class _Line:
    """A bench's order with its moments: what one campaign more costs is told without going through all of it again.

    What comes after it is later by the same for all, wired as it was, but for the next one.
    """

    __slots__ = ("_due", "_standing", "_states", "jobs", "places")

    def __init__(self, standing: Standing, jobs: Sequence[Job]) -> None:
        self._standing, self.jobs = standing, tuple(jobs)
        self.places = {job.id: place for place, job in enumerate(self.jobs)}
        at, wiring, late, rewired, ends = standing.free_seconds, standing.wiring, 0.0, 0, 0.0
        self._states = [(at, wiring, late, rewired, ends)]
        self._due: list[tuple[int, float, float]] = []
        for place, job in enumerate(self.jobs):
            at = standing.start(at, wiring, job) + job.seconds
            rewired += job.first != wiring
            if job.due_seconds < math.inf:
                late += max(0.0, at - job.due_seconds)
                self._due.append((place, at, job.due_seconds))
            ends += at
            wiring = job.last
            self._states.append((at, wiring, late, rewired, ends))

    def __len__(self) -> int:
        return len(self.jobs)

    @property
    def cost(self) -> _Cost:
        _, _, late, rewired, ends = self._states[-1]
        return _Cost(late, rewired, ends)

    def rewired_by(self, place: int, job: Job, instead: bool = False) -> int:
        """How many rewirings more it has with a campaign before the one at a place, or instead of it."""
        wiring, last = self._states[place][1], self._states[place + instead][1]
        more = (job.first != wiring) - (instead and self.jobs[place].first != wiring)
        if place + instead == len(self.jobs):
            return more
        following = self.jobs[place + instead].first
        return more + (following != job.last) - (following != last)

    def with_job(self, place: int, job: Job) -> tuple[Job, ...]:
        return (*self.jobs[:place], job, *self.jobs[place:])

    def cost_with(self, place: int, job: Job) -> _Cost:
        """What its order costs with a campaign put before the one at a place."""
        at, wiring, late, _, ends = self._states[place]
        _, _, _, rewired, ends_in_all = self._states[-1]
        at = self._standing.start(at, wiring, job) + job.seconds
        late += max(0.0, at - job.due_seconds)
        rewired += self.rewired_by(place, job)
        if place == len(self.jobs):
            return _Cost(late, rewired, ends + at)
        following = self.jobs[place]
        later = self._standing.start(at, job.last, following) + following.seconds - self._states[place + 1][0]
        after = bisect_left(self._due, (place,))
        late += sum(max(0.0, end + later - due) for _, end, due in self._due[after:])
        return _Cost(late, rewired, ends_in_all + at + later * (len(self.jobs) - place))


@dataclass(slots=True)
class _Budget:
    """How much more is looked at."""

    left: int

    def spend(self, looks: int) -> bool:
        """Whether there was as much."""
        self.left -= looks
        return self.left >= 0


class _Search:
    """Orders for each bench, and what each costs; a bench's is worked out anew only where it changed."""

    def __init__(self, standings: Mapping[str, Standing], order: _Order, budget: _Budget) -> None:
        self._standings, self.budget = standings, budget
        self.lines = {name: self.line(name, jobs) for name, jobs in order.items()}

    def line(self, bench: str, jobs: Sequence[Job]) -> _Line:
        return _Line(self._standings[bench], jobs)

    @property
    def order(self) -> _Order:
        return {name: line.jobs for name, line in self.lines.items()}

    @property
    def total(self) -> _Cost:
        return _together(line.cost for line in self.lines.values())

    def take(self, changed: _Order) -> bool:
        """Change some benches' orders if that beats what there is."""
        new = {name: self.line(name, jobs) for name, jobs in changed.items()}
        before = _together(self.lines[name].cost for name in changed)
        if not _together(line.cost for line in new.values()).beats(before):
            return False
        self.lines.update(new)
        return True


def _together(costs: Iterable[_Cost]) -> _Cost:
    return sum(costs, _Cost(0.0, 0, 0.0))


def first_come(jobs: Iterable[Job], standings: Sequence[Standing], people: int | None = None) -> Queue:
    """Each in the order in which it came, on whichever of its benches is done with it first; by hand goes before."""
    jobs = list(jobs)
    return _queue(_first_come(jobs, standings), standings, _unplaced(jobs, standings), people)


def planned(
    jobs: Sequence[Job], standings: Sequence[Standing], most_looks: int = MOST_LOOKS, people: int | None = None
) -> Queue:
    """The best order that is found: never later in all and never with more rewirings than first come, first served.

    Args:
        jobs: What waits.
        standings: The benches that there are.
        most_looks: So many changes are looked at; with fewer it comes sooner, and may be less good.
        people: How many can set up benches at the same time; enough where None. Runs go on without them, their own
            rewirings too. Orders are looked for as if there were enough; what comes of it is held to first come.

    >>> wired = {"A": ("4+4", "2+2"), "B": ("8+8", "8+8"), "C": ("2+2", "2+2")}
    >>> waits = [Job(at, ("Bench 1",), 3600, *wired[one]) for at, one in enumerate("ABC", 1)]
    >>> there = [Standing("Bench 1", wiring="4+4")]
    >>> [slot.job.id for slot in planned(waits, there).slots], planned(waits, there).rewirings
    ([1, 3, 2], 1)
    >>> first_come(waits, there).rewirings
    2

    Raises:
        BadInput: two benches of one name, the same campaign twice, or nobody.
    """
    if people is not None and people < 1:
        raise BadInput("Somebody has to be there.", field="people")
    if len({one.name for one in standings}) < len(standings):
        raise BadInput("Two benches have one name.", field="benches")
    if len({one.id for one in jobs}) < len(jobs):
        raise BadInput("A campaign waits twice.", field="campaigns")
    known = {one.name: one for one in standings}
    budget = _Budget(most_looks)
    best = _Search(known, _first_come(jobs, standings), budget)
    for begun in _beginnings(jobs, standings):
        other = _Search(known, begun, budget)
        _improve(other)
        if other.total.beats(best.total):
            best = other
    _improve(best)
    found = _queue(best.order, standings, _unplaced(jobs, standings), people)
    return _held_to(first_come(jobs, standings, people), found) or first_come(jobs, standings, people)


def still(order: Queue, jobs: Iterable[Job], standings: Sequence[Standing], people: int | None = None) -> Queue | None:
    """An order that was found before, at the times of now; None where it is none to go by any longer.

    That is where other campaigns wait, for other benches, wired or put otherwise, or where first come, first served
    would be less late now, or rewired less often. What is due otherwise than before is not noticed.

    >>> waits = [Job(1, ("Bench 1",), 3600, "4+4", "4+4"), Job(2, ("Bench 1",), 3600, "2+2", "2+2")]
    >>> there = [Standing("Bench 1", wiring="2+2", exchange_seconds=0, rewire_seconds=600)]
    >>> found = planned(waits, there)
    >>> later = still(found, [replace(one, seconds=1800) for one in waits], there)
    >>> [(one.job.id, one.end) for one in found.slots], [(one.job.id, one.end) for one in later.slots]
    ([(2, 3600.0), (1, 7800.0)], [(2, 1800.0), (1, 4200.0)])
    >>> still(found, waits[:1], there)
    """
    now = {job.id: job for job in jobs}
    before = (*(slot.job for slot in order.slots), *order.unplaced)
    if len(before) != len(now) or any(job.id not in now or _otherwise(job, now[job.id]) for job in before):
        return None
    if not {slot.bench for slot in order.slots} <= {one.name for one in standings}:
        return None
    same = {one.name: tuple(now[slot.job.id] for slot in order.of(one.name)) for one in standings}
    found = _queue(same, standings, _unplaced(now.values(), standings), people)
    if len(found.unplaced) != len(order.unplaced):
        return None
    return _held_to(first_come(now.values(), standings, people), found)


def _held_to(usual: Queue, found: Queue) -> Queue | None:
    """An order that is worse than another in nothing that matters; else None."""
    worse = found.rewirings > usual.rewirings or found.late_seconds > usual.late_seconds + _SAME
    return None if worse else found


def _otherwise(job: Job, other: Job) -> bool:
    """Whether more than times differ."""
    return (job.benches, job.first, job.last, job.place) != (other.benches, other.first, other.last, other.place)


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


def _beginnings(jobs: Sequence[Job], standings: Sequence[Standing]) -> Iterable[_Order]:
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
    for bench in list(search.lines):
        for job in search.lines[bench].jobs:
            found |= job.place is None and _moved(search, bench, job)
    return found


def _moved(search: _Search, bench: str, job: Job) -> bool:
    own = search.lines[bench]
    rest = search.line(bench, [one for one in own.jobs if one is not job])
    for to in job.benches:
        if to not in search.lines:
            continue
        there, beside = (rest, None) if to == bench else (search.lines[to], rest)
        before = own.cost if beside is None else own.cost + there.cost
        most = before.rewirings - there.cost.rewirings - (beside.cost.rewirings if beside else 0)
        for place in range(_by_hand_in(there.jobs), len(there) + 1):
            if not search.budget.spend(1):
                return False
            if there.rewired_by(place, job) > most:
                continue
            cost = there.cost_with(place, job)
            if (cost if beside is None else cost + beside.cost).beats(before):
                put = there.with_job(place, job)
                return search.take({bench: put} if beside is None else {bench: rest.jobs, to: put})
    return False


def _exchanged_two(search: _Search) -> bool:
    found = False
    free = [(name, job) for name, line in search.lines.items() for job in line.jobs if job.place is None]
    for number, (one_bench, one) in enumerate(free):
        for other_bench, other in free[number + 1 :]:
            if not search.budget.spend(LOOKS_OF_AN_EXCHANGE):
                return found
            found |= _exchanged(search, one_bench, one, other_bench, other)
    return found


def _exchanged(search: _Search, one_bench: str, one: Job, other_bench: str, other: Job) -> bool:
    here, there = search.lines[one_bench], search.lines[other_bench]
    if one.id not in here.places or other.id not in there.places:
        return False  # moved meanwhile
    if other_bench not in one.benches or one_bench not in other.benches:
        return False
    at, to = here.places[one.id], there.places[other.id]
    apart = here is not there or abs(at - to) > 1
    if apart and here.rewired_by(at, other, instead=True) + there.rewired_by(to, one, instead=True) > 0:
        return False
    put = {one.id: other, other.id: one}
    return search.take(
        {
            bench: tuple(put.get(job.id, job) for job in search.lines[bench].jobs)
            for bench in dict.fromkeys((one_bench, other_bench))
        }
    )


def _by_hand_in(jobs: Sequence[Job]) -> int:
    """How many of a bench's were put there by hand: they stay in front."""
    return sum(job.place is not None for job in jobs)


def _unplaced(jobs: Iterable[Job], standings: Sequence[Standing]) -> tuple[Job, ...]:
    names = {one.name for one in standings}
    return tuple(job for job in jobs if not names & set(job.benches))


def _queue(order: _Order, standings: Sequence[Standing], unplaced: tuple[Job, ...], people: int | None = None) -> Queue:
    """An order with its times: whichever bench is free first is set up first, once one of the people is free."""
    slots: dict[str, list[Slot]] = {one.name: [] for one in standings}
    known = {one.name: one for one in standings}
    wirings = {one.name: one.wiring for one in standings}
    waits = {one.name: list(order[one.name][::-1]) for one in standings}
    benches = [(one.free_seconds, at, one.name) for at, one in enumerate(standings) if waits[one.name]]
    free = [0.0] * min(len(benches), len(benches) if people is None else people)
    heapify(benches)
    while benches:
        at, number, bench = heappop(benches)
        job, wiring = waits[bench].pop(), wirings[bench]
        start = known[bench].start(max(at, heappop(free)), wiring, job)
        heappush(free, start)
        end = start + job.seconds
        slots[bench].append(Slot(job, bench, start, end, job.first != wiring))
        wirings[bench] = job.last
        if waits[bench]:
            heappush(benches, (end, number, bench))
    return Queue(tuple(slot for of in slots.values() for slot in of), unplaced)
