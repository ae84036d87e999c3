"""The order of what waits, against first come, first served and against all orders that there are."""

import itertools
import math
import random
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput
from rulvek.core.planning.queue import (
    Job,
    Queue,
    Standing,
    by_hand,
    first_come,
    planned,
    still,
)
from tests.examples import examples

BENCHES = ("Bench 1", "Bench 2", "Bench 3")
WIRINGS = st.sampled_from(["4+4", "2+2", "8+8", "4", "bridged 4"])
JOBS = st.lists(
    st.tuples(
        st.sets(st.sampled_from(BENCHES), min_size=1),
        st.integers(300, 20_000),
        WIRINGS,
        WIRINGS,
        st.one_of(st.just(math.inf), st.integers(0, 60_000).map(float)),
    ),
    max_size=12,
).map(
    lambda rows: [Job(at, tuple(sorted(names)), float(s), a, b, due) for at, (names, s, a, b, due) in enumerate(rows)]
)
THERE = st.tuples(*(st.tuples(st.integers(0, 5_000), st.one_of(st.none(), WIRINGS)) for _ in BENCHES)).map(
    lambda rows: [Standing(name, float(free), wiring) for name, (free, wiring) in zip(BENCHES, rows, strict=True)]
)


def refuse_impossible(queue: Queue, jobs: list[Job], there: list[Standing]) -> None:
    """Everybody once, on a bench that can, one after the other, loads wired as they are said to be."""
    assert sorted(one.job.id for one in queue.slots) + sorted(one.id for one in queue.unplaced) == sorted(
        job.id for job in jobs
    ) or {one.job.id for one in queue.slots} | {one.id for one in queue.unplaced} == {job.id for job in jobs}
    assert len(queue.slots) + len(queue.unplaced) == len(jobs)
    for standing in there:
        at, wiring = standing.free_seconds, standing.wiring
        for slot in queue.of(standing.name):
            assert standing.name in slot.job.benches and slot.rewired == (slot.job.first != wiring)
            assert slot.start == pytest.approx(at + standing.exchange_seconds + standing.rewire_seconds * slot.rewired)
            assert slot.end == pytest.approx(slot.start + slot.job.seconds)
            at, wiring = slot.end, slot.job.last


def test_while_a_unit_cools_what_begins_first_elsewhere_is_named() -> None:
    there = [Standing("Bench 1"), Standing("Bench 2", free_seconds=900), Standing("Bench 3")]
    jobs = [Job(1, ("Bench 1",), 600.0, "4", "4"), Job(2, ("Bench 2",), 600.0, "4", "4")]
    jobs += [Job(3, ("Bench 3",), 600.0, "4", "4"), Job(4, ("Bench 3",), 600.0, "4", "4")]
    found = planned(jobs, there)
    elsewhere = found.meanwhile("Bench 1")
    assert elsewhere is not None
    assert (elsewhere.bench, elsewhere.start) == ("Bench 3", min(one.start for one in found.of("Bench 3")))
    assert planned(jobs[:1], there).meanwhile("Bench 1") is None


@examples(150)
@given(jobs=JOBS, there=THERE)
def test_it_is_never_worse_than_first_come_first_served(jobs: list[Job], there: list[Standing]) -> None:
    found, usual = planned(jobs, there), first_come(jobs, there)
    refuse_impossible(found, jobs, there)
    refuse_impossible(usual, jobs, there)
    assert found.rewirings <= usual.rewirings and found.late_seconds <= usual.late_seconds + 1e-3


@examples(150)
@given(jobs=JOBS, there=THERE, later=THERE, data=st.data())
def test_an_order_that_is_gone_by_later_is_never_worse_than_first_come_either(
    jobs: list[Job], there: list[Standing], later: list[Standing], data: st.DataObject
) -> None:
    found = planned(jobs, there)
    times = data.draw(st.lists(st.floats(0.1, 10), min_size=len(jobs), max_size=len(jobs)))
    now = [replace(job, seconds=job.seconds * by) for job, by in zip(jobs, times, strict=True)]
    kept, usual = still(found, now, later), first_come(now, later)
    if kept is None:
        return
    refuse_impossible(kept, now, later)
    assert kept.rewirings <= usual.rewirings and kept.late_seconds <= usual.late_seconds + 1e-3
    for name in BENCHES:
        assert [one.job.id for one in kept.of(name)] == [one.job.id for one in found.of(name)]


@examples(150)
@given(jobs=JOBS, there=THERE, people=st.integers(1, 3))
def test_so_many_people_set_up_so_many_benches_at_a_time(jobs: list[Job], there: list[Standing], people: int) -> None:
    found, usual = planned(jobs, there, people=people), first_come(jobs, there, people)
    for queue in (found, usual):
        known = {one.name: one for one in there}
        taken = []
        for name, bench in known.items():
            at = bench.free_seconds
            for slot in queue.of(name):
                takes = bench.exchange_seconds + bench.rewire_seconds * slot.rewired
                assert slot.start - takes >= at - 1e-6 and slot.end == pytest.approx(slot.start + slot.job.seconds)
                taken.append((slot.start - takes, slot.start))
                at = slot.end
        for begins, _ in taken:
            assert sum(one - 1e-6 <= begins < end - 1e-6 for one, end in taken) <= people
    assert found.rewirings <= usual.rewirings and found.late_seconds <= usual.late_seconds + 1e-3
    assert still(found, jobs, there, people) == found
    if people == len(there):
        assert found == planned(jobs, there)


def test_one_person_sets_up_one_bench_after_the_other() -> None:
    jobs = [Job(at, (name,), 3_600, "4", "4") for at, name in enumerate(BENCHES)]
    there = [Standing(name, wiring="4", exchange_seconds=600) for name in BENCHES]
    assert [slot.start for slot in planned(jobs, there, people=1).slots] == [600, 1200, 1800]
    assert [slot.start for slot in planned(jobs, there, people=2).slots] == [600, 600, 1200]
    assert [slot.start for slot in planned(jobs, there).slots] == [600, 600, 600]
    with pytest.raises(BadInput):
        planned(jobs, there, people=0)


@examples(40)
@given(jobs=JOBS, there=THERE)
def test_an_order_is_gone_by_while_nothing_changes_and_not_once_anything_does(
    jobs: list[Job], there: list[Standing]
) -> None:
    found = planned(jobs, there)
    assert still(found, jobs, there) == found
    if not jobs:
        return
    one = jobs[0]
    changes = ({"benches": ("Bench 9",)}, {"first": "16"}, {"last": "16"}, {"place": 7})
    for other in (replace(one, **change) for change in changes):  # type: ignore[arg-type]
        assert still(found, [other, *jobs[1:]], there) is None
    assert still(found, jobs[1:], there) is None
    assert still(found, [*jobs, replace(one, id=99)], there) is None
    assert still(found, [replace(one, id=99), *jobs[1:]], there) is None
    for gone in {slot.bench for slot in found.slots}:
        assert still(found, jobs, [bench for bench in there if bench.name != gone]) is None


@examples(40)
@given(jobs=JOBS, there=THERE, data=st.data())
def test_what_is_put_by_hand_stays_in_front_in_its_order(
    jobs: list[Job], there: list[Standing], data: st.DataObject
) -> None:
    chosen = data.draw(st.lists(st.sampled_from(jobs), unique_by=lambda job: job.id, max_size=4)) if jobs else []
    found = planned(by_hand(jobs, [job.id for job in chosen]), there)
    for name in BENCHES:
        places = [slot.job.place for slot in found.of(name)]
        put = [place for place in places if place is not None]
        assert put == sorted(put) and places[: len(put)] == put
    usual = first_come(by_hand(jobs, [job.id for job in chosen]), there)
    assert found.rewirings <= usual.rewirings and found.late_seconds <= usual.late_seconds + 1e-3


@pytest.mark.parametrize("seed", range(12))
def test_of_few_on_one_bench_hardly_an_order_is_better(seed: int) -> None:
    """Against every order of six: none that is worse in nothing has two rewirings less."""
    draw = random.Random(seed)
    there = [Standing("Bench 1", 0.0, "4+4")]
    wirings = ("4+4", "2+2", "8+8")
    jobs = [
        Job(at, ("Bench 1",), draw.randint(600, 6_000), draw.choice(wirings), draw.choice(wirings)) for at in range(6)
    ]
    fewest = len(jobs)
    for order in itertools.permutations(jobs):
        wiring, count = "4+4", 0
        for job in order:
            count += job.first != wiring
            wiring = job.last
        fewest = min(fewest, count)
    assert fewest <= planned(jobs, there).rewirings <= fewest + 1


def test_what_is_due_comes_first_where_that_rewires_nothing_more() -> None:
    jobs = [Job(1, ("Bench 1",), 7_200, "4", "4"), Job(2, ("Bench 1",), 3_600, "4", "4", due_seconds=4_500)]
    found = planned(jobs, [Standing("Bench 1", wiring="4")])
    assert [slot.job.id for slot in found.slots] == [2, 1] and found.late_seconds == 0
    assert first_come(jobs, [Standing("Bench 1", wiring="4")]).late_seconds > 0


def test_a_bench_that_is_free_is_used() -> None:
    jobs = [Job(at, BENCHES[:2], 3_600, "4", "4") for at in range(4)]
    found = planned(jobs, [Standing("Bench 1", wiring="4"), Standing("Bench 2", wiring="4")])
    assert len(found.of("Bench 1")) == len(found.of("Bench 2")) == 2


def test_what_no_bench_can_stand_is_told_apart() -> None:
    jobs = [Job(1, ("Bench 9",), 60, "4", "4"), Job(2, BENCHES, 60, "4", "4")]
    found = planned(jobs, [Standing("Bench 1")])
    assert [one.id for one in found.unplaced] == [1] and [one.job.id for one in found.slots] == [2]
    assert planned([], []).slots == () and planned([], []).end == 0


def test_the_same_twice_is_refused() -> None:
    job = Job(1, BENCHES, 60, "4", "4")
    for jobs, there in (([job, job], [Standing("Bench 1")]), ([job], [Standing("Bench 1"), Standing("Bench 1")])):
        with pytest.raises(BadInput):
            planned(jobs, there)


def many(count: int) -> list[Job]:
    draw = random.Random(4)
    wirings = ("4+4", "2+2", "8+8", "4", "2")
    return [
        Job(
            at,
            tuple(draw.sample(BENCHES, draw.randint(1, 3))),
            draw.uniform(900, 9_000),
            draw.choice(wirings),
            draw.choice(wirings),
            draw.choice([math.inf, draw.uniform(0, 100_000)]),
        )
        for at in range(count)
    ]


@pytest.mark.parametrize("count", [40, 200])
def test_many_on_three_benches_are_planned_alike_each_time(count: int) -> None:
    """How long it takes, `make bench` tells; hundreds are not looked at to the end."""
    jobs, there = many(count), [Standing(name, 0.0, "4+4") for name in BENCHES]
    found, usual = planned(jobs, there), first_come(jobs, there)
    assert found == planned(jobs, there)
    assert found.rewirings < usual.rewirings and found.late_seconds < usual.late_seconds
