"""Proposals, the reasons for runs, and what they are predicted to ask of a bench."""

from dataclasses import replace

import pytest

from rulvek.core.electrical.cables import Cable
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.planning.plan import Plan, assess, propose
from rulvek.core.planning.prediction import CLIPPING_GAIN, KnownPower
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.product import ChannelGroup, Product
from rulvek.core.records.wishes import Loading, Order, Wishes
from rulvek.core.runs.modes import SWEEPS, Mode
from rulvek.core.runs.spec import RunSpec

METHOD = MethodProfile()
MAIN = ChannelGroup("main", (1, 2, 3, 4), (2.0, 4.0), (4.0,))
BASS = ChannelGroup("bass", (5,), (4.0, 2.0), bass=True)
FIVE = Product((MAIN, BASS), "D", fuse_amps=(40.0, 40.0))
FOUR = Product((MAIN,), "AB", fuse_amps=(30.0, 30.0))
BENCH = Equipment(
    name="Bench 1",
    inputs=8,
    supply_limit_amps=200.0,
    bank_volts=15.0,
    bank_ohms=0.003,
    bank_limit_amps=600.0,
    cable=Cable("2/0", 1.5),
    boxes=(LoadBox(8.0, 500.0, 4), LoadBox(4.0, 600.0, 6), LoadBox(2.0, 900.0, 6), LoadBox(1.0, 2000.0, 2)),
)
CLAIMS = [
    Claim("Manual", "main", 75.0, 4.0, supply_volts=14.4, thd_n_percent=1.0, band_low_hz=20, band_high_hz=20_000, id=1),
    Claim("Carton", "bass", 1200.0, 2.0, kind=ClaimKind.MAXIMUM, id=2),
    Claim("Web", "main", 90.0, 3.0, supply_volts=14.4, id=3),
    Claim("Old manual", "main", 60.0, 4.0, supply_volts=12.5, id=4),
    Claim("Web", "bass", 500.0, 2.0, band_low_hz=100.0, band_high_hz=200.0, id=5),
]


def plan(wishes: Wishes | None = None, product: Product = FIVE, bench: Equipment = BENCH, **known: KnownPower) -> Plan:
    wishes = wishes or Wishes()
    specs = propose(product, CLAIMS, wishes, METHOD, bench)
    return assess(specs, product, CLAIMS, list(known.values()), METHOD, bench, wishes)


def test_every_mode_at_every_rated_and_claimed_load() -> None:
    made = plan()
    states = {(r.spec.mode, *r.spec.place) for r in made.runs if r.spec.mode is not Mode.PROOF}
    places = [("main", 4.0, False), ("main", 3.0, False), ("main", 2.0, False), ("main", 4.0, True)]
    places += [("bass", 4.0, False), ("bass", 2.0, False)]
    assert states == {(mode, *place) for mode in SWEEPS for place in places}
    proofs = [(*r.spec.place, r.spec.tone_hz, r.spec.watts, r.serves) for r in made.runs if r.spec.mode is Mode.PROOF]
    assert proofs == [
        ("main", 4.0, False, 20.0, 76.5, (1,)),  # 75 W and 2 % more, at the edges of the band that is claimed
        ("main", 4.0, False, 20_000.0, 76.5, (1,)),
        ("bass", 2.0, False, 100.0, 510.0, (5,)),
        ("bass", 2.0, False, 200.0, 510.0, (5,)),
    ]
    assert len(made.wirings) == 4 and made.rewirings == made.fewest_rewirings == 3
    assert all({c for link in w for c in link.channels} == {1, 2, 3, 4, 5} for w in made.wirings)
    assert {r.spec.tone_hz for r in made.runs if r.spec.group == "bass" and r.spec.mode is not Mode.PROOF} == {40.0}


def test_a_method_names_tones_of_its_own_for_proofs() -> None:
    method = MethodProfile(proof_tones_hz=(50.0, 120.0, 1000.0, 6300.0, 30_000.0))
    specs = propose(FIVE, CLAIMS, Wishes(), method, BENCH)
    tones = [(spec.group, spec.tone_hz) for spec in specs if spec.mode is Mode.PROOF]
    assert sorted(hz for group, hz in tones if group == "main") == [20.0, 50.0, 120.0, 1000.0, 6300.0, 20_000.0]
    assert sorted(hz for group, hz in tones if group == "bass") == [100.0, 120.0, 200.0]  # within the claimed band


def test_reasons_name_the_claims_that_are_served() -> None:
    made = plan()
    reasons = {(r.spec.mode, *r.spec.place): r.reason for r in made.runs}
    assert reasons[Mode.CERTIFIED, "main", 4.0, False] == "serves 75 W (Manual)"
    assert reasons[Mode.BURST, "bass", 2.0, False] == "serves 1200 W (Carton)"  # “maximum” is for the burst to judge
    assert reasons[Mode.CERTIFIED, "bass", 2.0, False] == "completes the sheet"  # 40 Hz lies outside of that band
    assert reasons[Mode.UNCERTIFIED, "main", 4.0, False] == "completes the sheet"
    assert set(made.unserved) == {4}  # 14.4 V flatters a claim at 12.5 V
    low = plan(Wishes(held_volts=12.5))
    assert set(low.unserved) == set()  # a pass at a lower voltage is the stronger
    sweeps = plan(Wishes(modes=SWEEPS, held_volts=12.5))
    assert set(sweeps.unserved) == {5}  # nothing but a proof is at its tones
    assert set(plan(Wishes(modes=(Mode.BURST,))).unserved) == {1, 3, 4, 5}


def test_three_points_a_bank_and_a_held_voltage() -> None:
    three = plan(Wishes(modes=(Mode.CERTIFIED,), policy=SupplyPolicy.THREE_POINTS), FOUR)
    assert [r.spec.supply_volts for r in three.runs[:3]] == [12.5, 13.8, 14.4]
    assert three.rewirings == 3  # a voltage is set, not wired
    assert {r.spec.supply_volts for r in plan(Wishes(policy=SupplyPolicy.BANK)).runs} == {15.0}
    narrow = replace(FOUR, supply_range=(11.0, 14.0))
    points = plan(Wishes(policy=SupplyPolicy.THREE_POINTS, modes=(Mode.CERTIFIED,)), narrow)
    assert {r.spec.supply_volts for r in points.runs} == {12.5, 13.8}
    with pytest.raises(BadInput, match=r"10\.5 to 16 V, not 24 V"):
        plan(Wishes(held_volts=24.0))
    with pytest.raises(BadInput, match="at least one mode"):
        plan(Wishes(modes=()))


def test_bridged_pairs_stand_for_loads_on_each_channel() -> None:
    """8 Ω across a pair is 4 Ω per channel, 4 Ω is 2 Ω (circuit theory)."""
    pairs = plan(Wishes(loading=Loading.PAIRS, modes=(Mode.CERTIFIED,)), FOUR)
    assert [(r.spec.load_ohms, r.spec.bridged) for r in pairs.runs] == [(8.0, True), (4.0, True)]
    assert [link.channels for link in pairs.runs[0].under_test] == [(1, 2), (3, 4)]


def test_pairs_serve_claims_per_channel_with_half_of_what_they_give() -> None:
    pairs = plan(Wishes(loading=Loading.PAIRS), FOUR)
    served = {(r.spec.mode, r.spec.load_ohms, r.spec.tone_hz): r for r in pairs.runs if 1 in r.serves}
    assert set(served) == {(Mode.CERTIFIED, 8.0, 1000.0), (Mode.PROOF, 8.0, 20.0), (Mode.PROOF, 8.0, 20_000.0)}
    assert {r.spec.watts for r in served.values()} == {None, 153.0}
    refused = replace(METHOD, pairs_back_channels=False)
    specs = propose(FOUR, CLAIMS, Wishes(loading=Loading.PAIRS), refused, BENCH)
    made = assess(specs, FOUR, CLAIMS, [], refused, BENCH, Wishes(loading=Loading.PAIRS))
    assert not any(1 in r.serves for r in made.runs if r.spec.bridged)


def test_tones_bursts_and_exploration_as_wished() -> None:
    wishes = Wishes(tones={"bass": 50.0}, bursts={"main": "8 cycles", "bass": "20 cycles"}, exploratory=True)
    made = plan(wishes)
    bursts = {r.spec.group: (r.spec.burst, r.spec.tone_hz) for r in made.runs if r.spec.mode is Mode.BURST}
    assert bursts == {"main": ("8 cycles", 1000.0), "bass": ("20 cycles", 50.0)}
    last = made.runs[-2:]
    assert [(r.spec.load_ohms, r.exploratory, r.spec.mode) for r in last] == [(1.0, True, Mode.BURST)] * 2
    assert {r.reason for r in last} == {"explores below the rated load; not evidence"} and not last[0].serves


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"group": "rear"}, "group"),
        ({"group": "bass", "bridged": True}, "bridged"),
        ({"load_ohms": 1.0}, "load_ohms"),
        ({"mode": Mode.BURST, "burst": "loud"}, "burst"),
    ],
)
def test_runs_that_the_model_cannot_have(change: dict, field: str) -> None:  # type: ignore[type-arg]
    spec = replace(RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4, False), **change)
    with pytest.raises(BadInput) as refused:
        assess([spec], FIVE, [], [], METHOD, BENCH, Wishes())
    assert refused.value.field == field


def test_costs_follow_the_order_that_people_choose() -> None:
    good = plan(Wishes(modes=(Mode.CERTIFIED,)), FOUR)
    specs = [run.spec for run in good.runs]
    shuffled = [*specs[1:], specs[0], specs[1]]
    worse = assess(shuffled, FOUR, CLAIMS, [], METHOD, BENCH, Wishes())
    assert (good.rewirings, worse.rewirings, worse.fewest_rewirings) == (3, 4, 3)
    assert worse.wiring_minutes - good.wiring_minutes == pytest.approx(BENCH.rewire_minutes)
    assert worse.minutes == pytest.approx(worse.wiring_minutes + worse.running_minutes + worse.cooling_minutes)
    by_mode = plan(Wishes(order=Order.BY_MODE), FOUR)
    assert by_mode.rewirings == 9 and plan(product=FOUR).rewirings == 3
    dropped = assess(specs[1:], FOUR, CLAIMS, [], METHOD, BENCH, Wishes())
    assert 1 in dropped.unserved and 1 not in good.unserved
    assert assess([], FOUR, [], [], METHOD, BENCH, Wishes()).minutes == 0


def run_at(made: Plan, mode: Mode, group: str, load: float):  # type: ignore[no-untyped-def]
    return next(
        r
        for r in made.runs
        if (r.spec.mode, r.spec.group, r.spec.load_ohms, r.spec.bridged) == (mode, group, load, False)
    )


def test_watts_come_from_evidence_then_claims_then_other_loads() -> None:
    claimed = run_at(plan(), Mode.CERTIFIED, "main", 4.0).prediction
    assert claimed.watts == 75 and claimed.basis == "claimed: 75 W, Manual"
    known = KnownPower("main", 4.0, False, Mode.CERTIFIED, 80.0, 12.0, 30.0, "T-1")
    seen = run_at(plan(known=known), Mode.CERTIFIED, "main", 4.0).prediction
    assert seen.basis == "measured before: T-1"
    assert seen.watts == pytest.approx(80 * (14.4 / 12) ** 2)  # rails follow the supply
    regulated = run_at(plan(product=replace(FIVE, regulated=True), known=known), Mode.CERTIFIED, "main", 4.0)
    assert regulated.prediction.watts == pytest.approx(80.0)
    clipping = run_at(plan(known=known), Mode.UNCERTIFIED, "main", 4.0).prediction
    # 10 % over 1 % THD+N of a hard clipper is 1.2305, from its definition
    assert clipping.watts == pytest.approx(seen.watts * CLIPPING_GAIN) and CLIPPING_GAIN == 1.2305
    scaled = run_at(plan(), Mode.CERTIFIED, "main", 2.0).prediction
    assert scaled.basis == "scaled from 3 Ω per channel" and scaled.watts > 90
    burst = RunSpec(Mode.BURST, "bass", 2.0, 40.0, 14.4, False, "40 Hz")
    halved = assess([burst], FIVE, CLAIMS[1:2], [], METHOD, BENCH, Wishes()).runs[0].prediction
    assert halved.basis == "half of the 1200 W maximum" and halved.watts == pytest.approx(1200 / 2 * 1.25)
    bare = assess([RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4, False)], FOUR, [], [], METHOD, BENCH, Wishes())
    assert "nothing is known" in bare.runs[0].prediction.basis


def test_current_is_watts_over_volts_over_efficiency() -> None:
    """The handbook's example: 3 kW at 1 Ω draws 240 A and more (common practice)."""
    mono = Product((ChannelGroup("bass", (1,), (1.0,), bass=True),), "D")
    claim = Claim("Manual", "bass", 3000.0, 1.0, supply_volts=14.4, id=1)
    spec = RunSpec(Mode.CERTIFIED, "bass", 1.0, 40.0, 14.4, False)
    held = assess([spec], mono, [claim], [], METHOD, BENCH, Wishes()).runs[0].prediction
    assert held.amps == pytest.approx(3000 / 14.4 / 0.82) and held.amps > 240
    assert held.volts_loaded == 14.4  # remote sense
    assert held.cable_volts == pytest.approx(held.amps * BENCH.cable.ohms)
    assert held.cable_watts == pytest.approx(held.amps**2 * BENCH.cable.ohms)
    bank = Wishes(policy=SupplyPolicy.BANK)
    floating = assess([replace(spec, supply_volts=15.0)], mono, [claim], [], METHOD, BENCH, bank).runs[0].prediction
    assert floating.volts_loaded == pytest.approx(15.0 - floating.amps * (0.003 + BENCH.cable.ohms), abs=1e-3)
    # The power is that of the claim moved to the bank's volts; it is drawn at what the bank leaves of them.
    assert floating.watts == pytest.approx(floating.amps * floating.volts_loaded * 0.82, rel=1e-3)


def obstacles(made: Plan) -> set[str]:
    return {o.code for r in made.runs for o in r.prediction.obstacles}


def test_what_the_bench_cannot_stand_is_said_before_anyone_starts() -> None:
    assert obstacles(plan()) == set()
    weak = plan(bench=replace(BENCH, supply_limit_amps=25.0))
    over = next(o for r in weak.runs for o in r.prediction.obstacles)
    assert over.code == "supply-current" and "the supply gives 25 A" in over.what and over.remedy == "Use the bank."
    assert "A supply for" in next(
        o.remedy
        for r in plan(bench=replace(BENCH, supply_limit_amps=25.0, bank_limit_amps=25.0)).runs
        for o in r.prediction.obstacles
    )
    assert obstacles(plan(bench=replace(BENCH, inputs=2))) == {"inputs"}
    assert obstacles(plan(Wishes(loading=Loading.PAIRS), FOUR, replace(BENCH, inputs=2))) == set()
    assert obstacles(plan(bench=replace(BENCH, boxes=(LoadBox(4.0, 600.0, 6),)))) == {"load-value"}
    small = replace(
        BENCH, boxes=tuple(replace(box, watts=20.0, kelvin_per_watt=8.0, joules_per_kelvin=1.0) for box in BENCH.boxes)
    )
    assert "load-heat" in obstacles(plan(bench=small))
    fused = plan(product=replace(FIVE, fuse_amps=(15.0,)))
    fuse = next(o for r in fused.runs for o in r.prediction.obstacles if o.code == "fuse")
    assert "× the fuses' 15 A" in fuse.what and "never a larger fuse" in fuse.remedy
    sagging = plan(Wishes(policy=SupplyPolicy.BANK), bench=replace(BENCH, bank_ohms=0.2))
    assert "supply-low" in obstacles(sagging)
    outside = RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 18.0, False)
    assert obstacles(assess([outside], FOUR, CLAIMS, [], METHOD, BENCH, Wishes())) == {"supply-range"}


def test_a_long_dwell_takes_its_time_and_its_heat() -> None:
    specs = propose(FOUR, CLAIMS, Wishes(modes=(Mode.CERTIFIED,)), METHOD, BENCH)
    short = assess(specs, FOUR, CLAIMS, [], METHOD, BENCH, Wishes())
    soak = assess(specs, FOUR, CLAIMS, [], MethodProfile().with_dwell("soak"), BENCH, Wishes())
    assert soak.runs[0].prediction.run_seconds - short.runs[0].prediction.run_seconds == pytest.approx(299.0)
    warm = [max(h.celsius or 0 for h in r.prediction.heat) for r in (short.runs[-1], soak.runs[-1])]
    assert warm[1] > warm[0]
    bank = assess(specs, FOUR, CLAIMS, [], METHOD, BENCH, Wishes(policy=SupplyPolicy.BANK))
    assert bank.cooling_minutes == pytest.approx(len(specs) * BENCH.bank_recovery_seconds / 60)
    with pytest.raises(BadInput, match="no dwell"):
        MethodProfile().with_dwell("for ever")


def test_loads_rest_for_as_long_as_their_duty_asks() -> None:
    """75 W for t s, into a box that takes 5 W for ever: it rests for 14 t, whatever its temperature says."""
    specs = [run.spec for run in plan(Wishes(modes=(Mode.CERTIFIED,)), FOUR).runs]
    one = next(spec for spec in specs if spec.load_ohms == 4.0 and not spec.bridged)
    rests = []
    for duty in (1.0, 0.01):
        boxes = tuple(replace(box, watts=500.0, duty=duty, joules_per_kelvin=1e5) for box in BENCH.boxes)
        made = assess([one], FOUR, CLAIMS, [], METHOD, replace(BENCH, boxes=boxes), Wishes()).runs[0].prediction
        rests.append(made.cooling_seconds)
        near_full = made.run_seconds  # at most
    assert rests[0] == 0.0
    box = LoadBox(4.0, 500.0, duty=0.01)
    full_for = rests[1] / (made.watts / 5.0 - 1)
    assert METHOD.dwell_seconds < full_for < near_full
    assert rests[1] == pytest.approx(box.resting_seconds(made.watts, full_for))
