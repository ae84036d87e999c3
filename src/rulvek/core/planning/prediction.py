"""What a run will ask of the bench, worked out before anyone starts: watts, amps, volts, fuses, heat, minutes."""

import math
from collections.abc import Container, Iterator, Sequence
from dataclasses import dataclass, replace

from rulvek.core.electrical.fuses import opens_between, stress
from rulvek.core.electrical.loads import Connection, LoadBox
from rulvek.core.electrical.networks import LoadNetwork, networks
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.product import Product
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.settings import search_settings
from rulvek.core.runs.spec import Place, RunSpec, same_place

EFFICIENCY = {"AB": 0.55, "D": 0.82}
"""Middle of what is usual at full power (common practice, no source)."""
CLIPPING_GAIN = 1.2305  # 10 % over 1 % THD+N of a hard-clipped sine, from its definition
BURST_GAIN = {True: 1.05, False: 1.25}
"""Burst over certified power with a regulated (True) and a following supply; ours, to size the bench by."""
MAXIMUM_OVER_CONTINUOUS = 2.0  # a "maximum" figure is about twice the continuous one (common practice)
PER_HALVED_LOAD = 1.75  # power at half the load, of an amplifier whose rails give way (common practice)
_LEVELS = {
    Mode.CERTIFIED: 26,
    Mode.UNCERTIFIED: 30,
    Mode.BURST: 32,
    Mode.PROOF: 10,
}  # captures in a search, as the bench counts them
_NEAR_FULL = 7  # of those at more than about 70 % of full power
_STEADY_EXPONENT = {True: 0.0, False: 2.0}


@dataclass(frozen=True, slots=True)
class KnownPower:
    """Weakest watts that a unit of this model has already given, with the supply at the reading.

    Only readings that the day did not cut short are known; ``at_limit`` are those that reached what their mode seeks.
    """

    group: str
    load_ohms: float
    bridged: bool
    mode: Mode
    watts: float
    supply_volts: float
    supply_amps: float | None
    where: str
    at_limit: bool = True

    @property
    def place(self) -> Place:
        """How the group was loaded."""
        return self.group, self.load_ohms, self.bridged


@dataclass(frozen=True, slots=True)
class LoadHeat:
    """One dummy load: the boxes that make it (None where none do), its watts and its temperature after the run."""

    connection: Connection
    network: LoadNetwork | None
    watts: float
    celsius: float | None


@dataclass(frozen=True, slots=True)
class Obstacle:
    """Why the bench cannot stand a run, and what would make it possible."""

    code: str
    what: str
    remedy: str


@dataclass(frozen=True, slots=True)
class Prediction:
    """What a run is expected to ask. ``watts`` is per channel (per pair where bridged); ``amps`` at full power.

    ``fuse_share`` is the current over the sum of the fuses, ``fuse_stress`` the share of a fuse's shortest time to
    open that the run uses up; both None where the model has no fuses on record. ``basis`` says where the watts are
    taken from.
    """

    watts: float
    basis: str
    amps: float
    volts_before: float
    volts_loaded: float
    cable_volts: float
    cable_watts: float
    fuse_share: float | None
    fuse_stress: float | None
    heat: tuple[LoadHeat, ...]
    run_seconds: float
    cooling_seconds: float
    obstacles: tuple[Obstacle, ...]


@dataclass(frozen=True, slots=True)
class Circumstances:
    """What predictions are made for: a model on a bench, under a method and a supply policy."""

    product: Product
    equipment: Equipment
    method: MethodProfile
    policy: SupplyPolicy


def predict(
    spec: RunSpec,
    under_test: Sequence[Connection],
    companions: Sequence[Connection],
    bench: Circumstances,
    claims: Sequence[Claim],
    known: Sequence[KnownPower],
    driven_full: Container[Connection] = (),
) -> Prediction:
    """Predict one run from what this model gave before, else from its claims, else from its other loads.

    Companions among ``driven_full`` are driven close to their own certified level, the others low.
    """
    product, equipment, method = bench.product, bench.equipment, bench.method
    watts, basis = expected_watts(spec, product, claims, known)
    below = {True: -method.companion_below_db, False: method.companion_level_db}
    companion_watts = [
        _companion_watts(link, spec, product, claims, known) * 10 ** (below[link in driven_full] / 10)
        for link in companions
    ]
    most = max(watts, *_asked_for(spec, product, claims, known), 0.0)
    amps, loaded = _current(most * len(under_test) + sum(companion_watts), spec.supply_volts, bench)
    measured = _measured_amps(spec, product, known)
    if measured > amps:
        amps, loaded = measured, max(equipment.loaded_volts(bench.policy, spec.supply_volts, measured), 0.0)
    run_seconds, near_full = _seconds(spec, method)
    on = method.burst_named(spec.burst, spec.tone_hz) if spec.mode is Mode.BURST else None
    duty = 1.0 if on is None else on.on_seconds / on.period_seconds
    rating = sum(product.fuse_amps)
    per_load = [*((link, watts * duty) for link in under_test), *zip(companions, companion_watts, strict=True)]
    heat = tuple(_heat(link, w, near_full, bench) for link, w in per_load)
    prediction = Prediction(
        watts=watts,
        basis=basis,
        amps=amps,
        volts_before=spec.supply_volts,
        volts_loaded=loaded,
        cable_volts=equipment.cable.drop(amps),
        cable_watts=equipment.cable.loss(amps),
        fuse_share=amps / rating if rating else None,
        fuse_stress=stress(amps, near_full if on is None else on.on_seconds, rating) if rating else None,
        heat=heat,
        run_seconds=run_seconds,
        cooling_seconds=max(_recovery(bench), *(_cooling(h, near_full, bench) for h in heat)),
        obstacles=(),
    )
    found = _obstacles(spec, len(under_test), prediction, bench, near_full if on is None else on.on_seconds)
    return replace(prediction, obstacles=found)


def expected_watts(
    spec: RunSpec, product: Product, claims: Sequence[Claim], known: Sequence[KnownPower]
) -> tuple[float, str]:
    """Watts per channel (or pair) to be expected, and what that rests on."""
    if spec.watts is not None:
        return spec.watts, "what it is to hold"
    factor = _factors(product)
    here = [k for k in known if same_place(k.place, spec.place)]
    for k in sorted(here, key=lambda k: k.mode is not spec.mode):  # the same mode first, the latest unit as it comes
        return _scaled(k, spec, product), f"measured before: {k.where}"
    exponent = _STEADY_EXPONENT[product.regulated]
    claimed = [c for c in claims if same_place(c.place, spec.place)]
    continuous = [c for c in claims if c in claimed and c.kind is ClaimKind.CONTINUOUS]
    if continuous:
        claim = max(continuous, key=lambda c: c.each_watts)
        volts = claim.supply_volts or spec.supply_volts
        return (
            claim.each_watts * (spec.supply_volts / volts) ** exponent * factor[spec.mode],
            f"claimed: {claim.each_watts:g} W, {claim.document}",
        )
    if claimed:
        claim = max(claimed, key=lambda c: c.each_watts)
        return claim.each_watts / MAXIMUM_OVER_CONTINUOUS * factor[
            spec.mode
        ], f"half of the {claim.each_watts:g} W {claim.kind}"
    nearest = _nearest(spec, claims, known)
    if nearest is not None:
        ohms, watts = nearest
        per_channel = spec.load_ohms / 2 if spec.bridged else spec.load_ohms
        scaled = watts * PER_HALVED_LOAD ** math.log2(ohms / per_channel) * (2 if spec.bridged else 1)
        return scaled * factor[spec.mode], f"scaled from {ohms:g} Ω per channel"
    guess = product.supply_range[1] ** 2 * 2 / (spec.load_ohms / 2 if spec.bridged else spec.load_ohms)
    return guess * factor[spec.mode], "nothing is known; sized by the supply alone"


def _factors(product: Product) -> dict[Mode, float]:
    """Watts of each mode over certified ones."""
    return {
        Mode.CERTIFIED: 1.0,
        Mode.UNCERTIFIED: CLIPPING_GAIN,
        Mode.BURST: BURST_GAIN[product.regulated],
        Mode.PROOF: 1.0,
    }


def _scaled(k: KnownPower, spec: RunSpec, product: Product) -> float:
    """What a known reading comes to in another mode and at another voltage."""
    factor, ratio = _factors(product), spec.supply_volts / k.supply_volts
    return k.watts * float(ratio ** _STEADY_EXPONENT[product.regulated]) * factor[spec.mode] / factor[k.mode]


def _asked_for(
    spec: RunSpec, product: Product, claims: Sequence[Claim], known: Sequence[KnownPower]
) -> Iterator[float]:
    """Watts that the claims and the readings at their limit ask of the bench: a plan must not be sized below them."""
    for k in known:
        if k.at_limit and same_place(k.place, spec.place):
            yield _scaled(k, spec, product)
    here = [c for c in claims if same_place(c.place, spec.place)]
    if here:
        yield expected_watts(spec, product, here, ())[0]


def _measured_amps(spec: RunSpec, product: Product, known: Sequence[KnownPower]) -> float:
    """The most amps that units of this model drew at this load, brought to this run's mode and volts; 0 if none."""
    factor = _factors(product)
    drawn = [
        k.supply_amps
        * factor[spec.mode]
        / factor[k.mode]
        * (spec.supply_volts / k.supply_volts) ** (_STEADY_EXPONENT[product.regulated] - 1)
        for k in known
        if k.supply_amps is not None and k.mode is not Mode.BURST and same_place(k.place, spec.place)
    ]
    return max(drawn, default=0.0)


def _nearest(spec: RunSpec, claims: Sequence[Claim], known: Sequence[KnownPower]) -> tuple[float, float] | None:
    """Ω and watts per channel of the nearest load of the same group that anything is known of."""
    per_channel = spec.load_ohms / 2 if spec.bridged else spec.load_ohms
    found = [(k.load_ohms, k.bridged, k.watts) for k in known if k.group == spec.group and k.mode is Mode.CERTIFIED]
    found += [
        (c.load_ohms, c.bridged, c.each_watts)
        for c in claims
        if c.group == spec.group and c.kind is ClaimKind.CONTINUOUS
    ]
    each = [(ohms / 2, watts / 2) if bridged else (ohms, watts) for ohms, bridged, watts in found]
    return min(each, key=lambda pair: abs(math.log(pair[0] / per_channel)), default=None)


def _companion_watts(
    link: Connection, spec: RunSpec, product: Product, claims: Sequence[Claim], known: Sequence[KnownPower]
) -> float:
    group = next(g.name for g in product.groups if link.number in g.channels)
    beside = RunSpec(Mode.CERTIFIED, group, link.nominal_ohms, spec.tone_hz, spec.supply_volts, link.bridged)
    return expected_watts(beside, product, claims, known)[0]


def _current(output_watts: float, set_volts: float, bench: Circumstances) -> tuple[float, float]:
    """Amps and loaded volts that belong together: watts ÷ volts ÷ efficiency, the volts falling with the amps."""
    share = EFFICIENCY.get(bench.product.topology, min(EFFICIENCY.values()))
    volts = set_volts
    amps = output_watts / share / volts
    for _ in range(30):  # a contraction for every supply that is worth the name
        volts = max(bench.equipment.loaded_volts(bench.policy, set_volts, amps), 0.3 * set_volts)
        amps = output_watts / share / volts
    return amps, volts


def _seconds(spec: RunSpec, method: MethodProfile) -> tuple[float, float]:
    """Length of a run, and how much of it is near full power."""
    burst = method.burst_named(spec.burst, spec.tone_hz) if spec.mode is Mode.BURST else None
    each = search_settings(method, spec.mode, -20.0, 15.0, spec.tone_hz, burst)
    if burst is not None:
        one = each.settle_seconds + burst.period_seconds
        return _LEVELS[spec.mode] * one, _NEAR_FULL * one
    one = each.settle_seconds + each.capture_seconds
    return _LEVELS[spec.mode] * one + each.dwell_seconds, _NEAR_FULL * one + each.dwell_seconds


def _heat(link: Connection, watts: float, seconds: float, bench: Circumstances) -> LoadHeat:
    """The load that the bench can make of its boxes, and how warm its hottest box is after the run."""
    made = networks(bench.equipment.boxes, link.nominal_ohms)
    if not made:
        return LoadHeat(link, None, watts, None)
    strong = [network for network in made if network.watts >= watts]
    network = strong[0] if strong else max(made, key=lambda n: n.watts)
    ambient = bench.equipment.ambient_c
    hottest = max(box.after(ambient, share, seconds, ambient) for box, share in network.shares(watts))
    return LoadHeat(link, network, watts, hottest)


def _recovery(bench: Circumstances) -> float:
    """A bank is let recover between runs, however warm the loads are."""
    return bench.equipment.bank_recovery_seconds if bench.policy is SupplyPolicy.BANK else 0.0


def _cooling(heat: LoadHeat, seconds: float, bench: Circumstances) -> float:
    """Until it is cold enough for another run, and has rested for as long as its duty asks."""
    if heat.network is None or heat.celsius is None:
        return 0.0
    rest = max(box.resting_seconds(share, seconds) for box, share in heat.network.shares(heat.watts))
    slowest: LoadBox = max(heat.network.boxes, key=lambda box: box.time_constant)
    start_c, ambient_c = bench.method.start_load_maximum_c, bench.equipment.ambient_c
    return max(rest, slowest.cooling_seconds(heat.celsius, start_c, ambient_c))


def _obstacles(
    spec: RunSpec, readings: int, p: Prediction, bench: Circumstances, full_seconds: float
) -> tuple[Obstacle, ...]:
    equipment, product = bench.equipment, bench.product
    found = []
    limit = equipment.limit_amps(bench.policy)
    if p.amps > limit:
        other = max(equipment.supply_limit_amps, equipment.bank_limit_amps)
        remedy = "Use the bank." if p.amps <= other else f"A supply for {_round_up(p.amps)} A, or a lighter load."
        found.append(Obstacle("supply-current", f"needs {p.amps:.0f} A; the supply gives {limit:.0f} A", remedy))
    low, high = product.supply_range
    if not low <= spec.supply_volts <= high and bench.policy is not SupplyPolicy.BANK:
        what = f"{spec.supply_volts:g} V is outside of the model's {low:g} to {high:g} V"
        found.append(Obstacle("supply-range", what, "Choose a voltage in that range."))
    if p.volts_loaded < bench.method.supply_minimum_volts:
        what = f"the terminals would fall to {p.volts_loaded:.1f} V"
        found.append(Obstacle("supply-low", what, "Shorter or thicker cables, or a stiffer bank."))
    if readings > equipment.inputs:
        what = f"{readings} outputs are read at once; the recorder has {equipment.inputs} inputs"
        found.append(
            Obstacle("inputs", what, "Load the channels as bridged pairs, or use a recorder with more inputs.")
        )
    for heat in p.heat:
        name = f"{heat.connection.nominal_ohms:g} Ω"
        if heat.network is None:
            found.append(Obstacle("load-value", f"no boxes make {name}", f"Add a box that makes {name}."))
        elif heat.network.watts < heat.watts and heat.celsius is not None and heat.celsius > _SAFE_LOAD_C:
            what = f"the {name} load would reach {heat.celsius:.0f} °C at {heat.watts:.0f} W"
            found.append(Obstacle("load-heat", what, f"A load for {_round_up(heat.watts)} W, or a shorter dwell."))
    if p.fuse_share is not None and p.fuse_stress is not None and p.fuse_stress > 1:
        earliest, latest = opens_between(p.fuse_share)
        what = (
            f"{p.fuse_share:.1f} × the fuses' {sum(product.fuse_amps):g} A for {full_seconds:.0f} s; "
            f"they open after {_seconds_text(earliest)} to {_seconds_text(latest)}"
        )
        found.append(
            Obstacle("fuse", what, "A shorter dwell, or the burst only; never a larger fuse than the maker's.")
        )
    unique = {obstacle.code: obstacle for obstacle in reversed(found)}
    return tuple(reversed(unique.values()))


_SAFE_LOAD_C = 250.0  # wire-wound boxes are built for about this at their surface (common practice, no source)


def _seconds_text(seconds: float) -> str:
    if seconds < 120:
        return f"{seconds:.2g} s"
    return f"{seconds / 60:.0f} min" if seconds < 7200 else f"{seconds / 3600:.0f} h"


def _round_up(value: float) -> int:
    step = 50 if value > 200 else 10
    return math.ceil(value / step) * step
