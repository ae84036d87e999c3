"""The plan of a campaign: which runs, in which order, why each is there, and what the whole of it costs."""

from collections.abc import Sequence
from dataclasses import dataclass

from rulvek.core.electrical.loads import Connection
from rulvek.core.electrical.policy import THREE_POINTS, SupplyPolicy
from rulvek.core.errors import BadInput
from rulvek.core.judgement.verdict import proof_watts
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.planning.prediction import Circumstances, KnownPower, Prediction, predict
from rulvek.core.planning.settling import proof_tones
from rulvek.core.planning.wiring import Wiring, connections, in_order, is_exploratory, rewirings, wiring_key, wirings
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.product import ChannelGroup, Product
from rulvek.core.records.wishes import Loading, Wishes
from rulvek.core.runs.modes import SWEEPS, Mode
from rulvek.core.runs.spec import RunSpec, each_channels_place, place_key, same_place


@dataclass(frozen=True, slots=True)
class PlannedRun:
    """One run: a group under test, every other channel loaded and driven as a companion.

    ``wiring`` counts from 1 in the order in which the plan comes to them; ``serves`` holds claim ids.
    """

    spec: RunSpec
    under_test: tuple[Connection, ...]
    companions: tuple[Connection, ...]
    wiring: int
    wiring_key: str
    exploratory: bool
    serves: tuple[int, ...]
    reason: str
    prediction: Prediction


@dataclass(frozen=True, slots=True)
class Plan:
    """Ordered runs with what they cost. ``unserved`` are claims that the plan leaves without evidence.

    ``fewest_rewirings`` is what the best order of the same runs would need.
    """

    runs: tuple[PlannedRun, ...]
    wirings: tuple[Wiring, ...]
    rewirings: int
    fewest_rewirings: int
    wiring_minutes: float
    running_minutes: float
    cooling_minutes: float
    unserved: tuple[int, ...]

    @property
    def minutes(self) -> float:
        """All of it."""
        return self.wiring_minutes + self.running_minutes + self.cooling_minutes


def propose(
    product: Product, claims: Sequence[Claim], wishes: Wishes, method: MethodProfile, equipment: Equipment
) -> tuple[RunSpec, ...]:
    """Every wished mode at every rated or claimed load of every group, at every supply setting, in the wished order.

    Proofs are of the claims that state a band: at its edges, at the highest setting that is no more than they state.

    Raises:
        BadInput: no mode, a supply voltage outside of the model's range, or a bank that the bench does not have.
    """
    if not wishes.modes:
        raise BadInput("Choose at least one mode.", field="modes")
    equipment.refuse_lacking(wishes.policy)
    volts = supply_settings(product, wishes, method, equipment)
    specs = []
    for group in product.groups:
        for mode in SWEEPS:
            if mode in wishes.modes:
                for load, bridged in _loads(group, claims, wishes.loading):
                    specs += [_spec(mode, group, load, bridged, v, wishes, method) for v in volts]
        if Mode.PROOF in wishes.modes:
            specs += _proofs(group, claims, wishes, volts, method)
        if wishes.exploratory:
            below = min(group.rated_loads) / 2
            specs.append(_spec(Mode.BURST, group, below, False, volts[-1], wishes, method))
    return in_order(list(dict.fromkeys(specs)), product, wishes.order)


def _proofs(
    group: ChannelGroup, claims: Sequence[Claim], wishes: Wishes, volts: Sequence[float], method: MethodProfile
) -> list[RunSpec]:
    """One proof for each place and tone, of the most that is claimed there."""
    usual = wishes.tones.get(group.name, method.tone_of(group.bass))
    found: dict[tuple[object, float], RunSpec] = {}
    for claim in sorted((c for c in claims if c.group == group.name), key=lambda c: c.each_watts):
        rated = method.reference_volts if claim.supply_volts is None else claim.supply_volts
        fit = [v for v in volts if v <= rated + method.reference_volts_tolerance] or list(volts[:1])
        load, bridged, watts = claim.load_ohms, claim.bridged, proof_watts(claim, method)
        if _by_pairs(group, claim, wishes, method):
            load, bridged, watts = 2 * load, True, 2 * watts
        if not group.is_rated(load, bridged):
            continue
        for hz in proof_tones(claim, method, usual):
            spec = RunSpec(Mode.PROOF, group.name, load, hz, max(fit), bridged, watts=watts)
            found[place_key(spec.place), hz] = spec
    return list(found.values())


def _by_pairs(group: ChannelGroup, claim: Claim, wishes: Wishes, method: MethodProfile) -> bool:
    wished = wishes.loading is Loading.PAIRS and bool(group.bridged_loads)
    return wished and method.pairs_back_channels and not claim.bridged


def supply_settings(product: Product, wishes: Wishes, method: MethodProfile, equipment: Equipment) -> tuple[float, ...]:
    """Volts of the policy; of a bank, those it starts from.

    Raises:
        BadInput: a held voltage outside of the model's range.
    """
    low, high = product.supply_range
    if wishes.policy is SupplyPolicy.BANK:
        return (equipment.bank_volts,)
    if wishes.policy is SupplyPolicy.THREE_POINTS:
        return tuple(volts for volts in THREE_POINTS if low <= volts <= high)
    volts = method.reference_volts if wishes.held_volts is None else wishes.held_volts
    if not low <= volts <= high:
        raise BadInput(f"This model takes {low:g} to {high:g} V, not {volts:g} V.", field="supply_volts")
    return (volts,)


def assess(
    specs: Sequence[RunSpec],
    product: Product,
    claims: Sequence[Claim],
    known: Sequence[KnownPower],
    method: MethodProfile,
    equipment: Equipment,
    wishes: Wishes,
    read_already: bool = False,
) -> Plan:
    """Say of runs, in the order given, how they are wired, why each is there, what it asks, and what all of it costs.

    Raises:
        BadInput: a run that this model cannot have, or a bank that the bench does not.
    """
    equipment.refuse_lacking(wishes.policy)
    for spec in specs:
        refuse_impossible(spec, product, method, read_already)
    wired = wirings(specs, product)
    keys = [wiring_key(wired[spec.place]) for spec in specs]
    numbers = {key: number for number, key in enumerate(dict.fromkeys(keys), 1)}
    bench = Circumstances(product, equipment, method, wishes.policy)
    certified = {
        (link, spec.supply_volts)
        for spec in specs
        if spec.mode is Mode.CERTIFIED
        for link in connections(product.group(spec.group), spec.load_ohms, spec.bridged)
    }
    runs = []
    for spec, key in zip(specs, keys, strict=True):
        group = product.group(spec.group)
        under_test = connections(group, spec.load_ohms, spec.bridged)
        companions = tuple(link for link in wired[spec.place] if link.number not in group.channels)
        # Whichever of them comes first, the other is driven as far as that one went.
        driven_full = [link for link in companions if (link, spec.supply_volts) in certified]
        served = tuple(c.id for c in claims if _serves(spec, c, method, product, wishes.policy))
        runs.append(
            PlannedRun(
                spec=spec,
                under_test=under_test,
                companions=companions,
                wiring=numbers[key],
                wiring_key=key,
                exploratory=is_exploratory(spec, product),
                serves=served,
                reason=_reason(spec, product, [c for c in claims if c.id in served]),
                prediction=predict(spec, under_test, companions, bench, claims, known, driven_full),
            )
        )
    best = in_order(specs, product, wishes.order)
    moved = rewirings(keys)
    setup = equipment.setup_minutes if runs else 0.0
    return Plan(
        runs=tuple(runs),
        wirings=tuple(next(w for w in wired.values() if wiring_key(w) == key) for key in numbers),
        rewirings=moved,
        fewest_rewirings=rewirings([wiring_key(wired[spec.place]) for spec in best]),
        wiring_minutes=setup + moved * equipment.rewire_minutes,
        running_minutes=sum(run.prediction.run_seconds for run in runs) / 60,
        cooling_minutes=sum(run.prediction.cooling_seconds for run in runs) / 60,
        unserved=tuple(c.id for c in claims if not any(c.id in run.serves for run in runs)),
    )


def _loads(group: ChannelGroup, claims: Sequence[Claim], loading: Loading) -> list[tuple[float, bool]]:
    """Rated loads, and loads that are claimed and not below them; lightest first, per channel before bridged."""
    pairs = loading is Loading.PAIRS and bool(group.bridged_loads)
    own = [(load, True) for load in group.bridged_loads]
    own += [(2 * load, True) for load in group.rated_loads] if pairs else [(load, False) for load in group.rated_loads]
    own += [(c.load_ohms, c.bridged) for c in claims if c.group == group.name and (c.bridged or not pairs)]
    rated = {(load, bridged) for load, bridged in own if group.is_rated(load, bridged)}
    return sorted(rated, key=lambda place: (place[1], -place[0]))


def _spec(
    mode: Mode, group: ChannelGroup, load: float, bridged: bool, volts: float, wishes: Wishes, method: MethodProfile
) -> RunSpec:
    tone = wishes.tones.get(group.name, method.bass_tone_hz if group.bass else method.full_range_tone_hz)
    if mode is not Mode.BURST:
        return RunSpec(mode, group.name, load, tone, volts, bridged)
    profile = method.burst_named(
        wishes.bursts.get(group.name, method.burst_bass if group.bass else method.burst_full_range), tone
    )
    return RunSpec(mode, group.name, load, profile.hz, volts, bridged, profile.name)


def refuse_impossible(spec: RunSpec, product: Product, method: MethodProfile, read_already: bool = False) -> None:
    """See that a model can have a run.

    What was ``read_already`` is not refused for having been dangerous: below the rated load it is exploratory.

    Raises:
        BadInput: it has no such group or pair, the burst is not known, or a steady run lies below the rated load.
    """
    group = product.group(spec.group)
    if spec.bridged and len(group.channels) < 2:
        raise BadInput(f"The group “{spec.group}” has one channel and cannot be bridged.", field="bridged")
    if spec.mode is Mode.PROOF and spec.watts is None and not read_already:
        raise BadInput("Say how many watts a proof is to hold.", field="watts")
    if spec.mode is Mode.BURST:
        method.burst_named(spec.burst, spec.tone_hz)
    elif is_exploratory(spec, product) and not read_already:
        lowest = min(group.bridged_loads if spec.bridged and group.bridged_loads else group.rated_loads)
        raise BadInput(
            f"{spec.load_ohms:g} Ω is below the lowest rated load of {lowest:g} Ω: burst runs only.", field="load_ohms"
        )


def _serves(spec: RunSpec, claim: Claim, method: MethodProfile, product: Product, policy: SupplyPolicy) -> bool:
    """Whether the run can give direct evidence of the claim; of a bank only the run itself can tell."""
    place, watts = spec.place, spec.watts
    if spec.bridged and not claim.bridged and method.pairs_back_channels:
        place, watts = each_channels_place(place), None if watts is None else watts / 2
    if is_exploratory(spec, product) or not same_place(claim.place, place):
        return False
    wanted = (Mode.CERTIFIED, Mode.PROOF) if claim.kind is ClaimKind.CONTINUOUS else (Mode.BURST,)
    if spec.mode not in wanted or (watts is not None and watts < claim.each_watts):
        return False
    if claim.band_low_hz is not None and claim.band_high_hz is not None:
        if not claim.band_low_hz <= spec.tone_hz <= claim.band_high_hz:
            return False
    rated = method.reference_volts if claim.supply_volts is None else claim.supply_volts
    return policy is SupplyPolicy.BANK or spec.supply_volts <= rated + method.reference_volts_tolerance


def _reason(spec: RunSpec, product: Product, served: Sequence[Claim]) -> str:
    if is_exploratory(spec, product):
        return "explores below the rated load; not evidence"
    if served:
        return "serves " + ", ".join(f"{claim.each_watts:g} W ({claim.document})" for claim in served)
    return "completes the sheet"
