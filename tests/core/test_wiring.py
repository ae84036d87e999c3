"""Wirings and orders of runs: against brute force on small plans, and the habits of the job."""

from dataclasses import replace
from itertools import permutations
from itertools import product as combinations

from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.electrical.loads import Connection
from rulvek.core.planning.wiring import in_order, is_exploratory, rewirings, wiring_key, wirings
from rulvek.core.records.product import ChannelGroup, Product
from rulvek.core.records.wishes import Order
from rulvek.core.runs.modes import SWEEPS, Mode
from rulvek.core.runs.spec import RunSpec
from tests.examples import examples

MAIN = ChannelGroup("main", (1, 2, 3, 4), (4.0, 2.0), (4.0,))
BASS = ChannelGroup("bass", (5,), (4.0, 2.0, 1.0), bass=True)
FIVE = Product((MAIN, BASS))
PLACES = [("main", 4.0, False), ("main", 2.0, False), ("main", 4.0, True), ("bass", 4.0, False), ("bass", 2.0, False)]
MODES = list(SWEEPS)


def spec(mode: Mode, group: str, load: float, bridged: bool = False) -> RunSpec:
    return RunSpec(mode, group, load, 1000.0, 14.4, bridged, "1 kHz" if mode is Mode.BURST else "")


def keys(specs: tuple[RunSpec, ...] | list[RunSpec], product: Product = FIVE) -> list[str]:
    wired = wirings(specs, product)
    return [wiring_key(wired[s.place]) for s in specs]


SPECS = st.lists(
    st.builds(lambda mode, place: spec(mode, *place), st.sampled_from(MODES), st.sampled_from(PLACES)),
    min_size=1,
    max_size=6,
    unique=True,
)


@examples(60)
@given(SPECS)
def test_no_order_by_load_needs_fewer_rewirings(specs: list[RunSpec]) -> None:
    """Brute force over every order of up to six runs."""
    found = rewirings(keys(in_order(specs, FIVE, Order.BY_LOAD)))
    assert found == min(rewirings(keys(list(order))) for order in permutations(specs))


@examples(60)
@given(SPECS)
def test_no_order_by_mode_needs_fewer_rewirings(specs: list[RunSpec]) -> None:
    """Brute force over every order that keeps the modes together, in turn, and begins with the lightest load."""
    ordered = in_order(specs, FIVE, Order.BY_MODE)
    assert [s.mode for s in ordered] == sorted((s.mode for s in specs), key=MODES.index)
    lightest = keys(ordered)[0]
    best = min(
        rewirings(keys(list(order)))
        for order in permutations(specs)
        if [s.mode for s in order] == [s.mode for s in ordered] and keys(list(order))[0] == lightest
    )
    assert rewirings(keys(ordered)) == best


@examples(60)
@given(SPECS)
def test_no_choice_of_companions_needs_fewer_wirings(specs: list[RunSpec]) -> None:
    """Brute force: every way for the other group to be loaded, at a rated load, while one group is read."""
    wanted = {s.place for s in specs}
    rated = {"main": PLACES[:3], "bass": [("bass", ohms, False) for ohms in BASS.rated_loads]}
    whole = [set(pair) for pair in combinations(rated["main"], rated["bass"])]
    fewest = next(
        size
        for size in range(1, 6)
        if any(wanted <= set().union(*chosen) for chosen in combinations(whole, repeat=size))
    )
    assert len(set(keys(specs))) == fewest


@given(SPECS, st.sampled_from(list(Order)))
def test_orders_lose_nothing_and_start_light(specs: list[RunSpec], order: Order) -> None:
    ordered = in_order(specs, FIVE, order)
    assert sorted(map(str, ordered)) == sorted(map(str, specs))
    first_block = [s for s in ordered if order is Order.BY_LOAD or s.mode is ordered[0].mode]
    for group in ("main", "bass"):
        own = [s for s in first_block if s.group == group]
        if own:
            per_channel = [s.load_ohms / 2 if s.bridged else s.load_ohms for s in own]
            assert per_channel[0] == max(per_channel)


def test_groups_share_wirings_lightest_with_lightest() -> None:
    specs = [spec(Mode.CERTIFIED, *place) for place in PLACES]
    wired = wirings(specs, FIVE)
    assert wired["main", 4.0, False] == wired["bass", 4.0, False]
    assert wired["main", 2.0, False] == wired["bass", 2.0, False]
    bridged = wired["main", 4.0, True]
    assert Connection((1, 2), 4.0) in bridged and Connection((3, 4), 4.0) in bridged
    assert Connection((5,), 4.0) in bridged  # the bass channel waits at its lightest load, and stays loaded
    assert all({c for link in w for c in link.channels} == {1, 2, 3, 4, 5} for w in wired.values())


def test_loads_below_the_rating_come_last_and_strain_nobody_else() -> None:
    low = spec(Mode.BURST, "main", 1.0)
    specs = [low, spec(Mode.BURST, "bass", 0.5), *(spec(Mode.CERTIFIED, *place) for place in PLACES)]
    assert is_exploratory(low, FIVE) and not is_exploratory(specs[2], FIVE)
    for order in Order:
        ordered = in_order(specs, FIVE, order)
        assert [s.load_ohms for s in ordered[-2:]] == [1.0, 0.5]
    wired = wirings(specs, FIVE)
    assert Connection((5,), 4.0) in wired["main", 1.0, False]
    assert Connection((1,), 4.0) in wired["bass", 0.5, False]


def test_by_mode_goes_back_through_the_loads_it_finds_wired() -> None:
    specs = [spec(mode, *place) for mode in SWEEPS for place in PLACES[:3]]
    ordered = in_order(specs, FIVE, Order.BY_MODE)
    assert [s.load_ohms if not s.bridged else 99 for s in ordered] == [4.0, 2.0, 99, 99, 2.0, 4.0, 4.0, 2.0, 99]
    assert rewirings(keys(ordered)) == 6
    assert rewirings(keys(in_order(specs, FIVE, Order.BY_LOAD))) == 2
    proofs = [replace(spec(Mode.PROOF, *place), tone_hz=hz, watts=50.0) for place in PLACES[:3] for hz in (20.0, 2e4)]
    with_proofs = in_order([*specs, *proofs], FIVE, Order.BY_MODE)
    assert rewirings(keys(with_proofs)) == 6  # they are quick, and go with the certified runs
    assert {s.mode for s in with_proofs[:9]} == {Mode.CERTIFIED, Mode.PROOF}
