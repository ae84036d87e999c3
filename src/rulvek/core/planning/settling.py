"""The runs that would settle a claim, and those by which a unit proves one."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from rulvek.core.judgement.verdict import Verdict, VerdictKind, band_edges, proof_watts
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.product import Product
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec


def settling_runs(claim: Claim, product: Product, method: MethodProfile, verdict: Verdict) -> tuple[RunSpec, ...]:
    """The runs that would settle a claim, as the planner takes them: where its band is left, a proof at each edge."""
    if not verdict.settle:
        return ()
    if verdict.kind is not VerdictKind.ONE_TONE:
        return (_run_to_the_limit(claim, product, method),)
    return _held(claim, method, verdict.tones_left)


@dataclass(frozen=True, slots=True)
class OpenClaims:
    """Claims of a model that allow the same THD+N and are open: how many, and the runs that would settle them.

    ``limit_percent`` is None where they state none.
    """

    limit_percent: float | None
    claims: int
    runs: tuple[RunSpec, ...]


def open_claims(
    claims: Iterable[Claim], verdicts: Iterable[Verdict], product: Product, method: MethodProfile
) -> tuple[OpenClaims, ...]:
    """What a model's verdicts leave open, each run once; claims for two units on one load are for no run."""
    by_id = {claim.id: claim for claim in claims}
    found: dict[float | None, list[tuple[RunSpec, ...]]] = {}
    for verdict in verdicts:
        claim = by_id[verdict.claim_id]
        runs = () if claim.linked else settling_runs(claim, product, method, verdict)
        if runs:
            found.setdefault(claim.thd_n_percent, []).append(runs)
    return tuple(
        OpenClaims(limit, len(each), tuple(dict.fromkeys(run for runs in each for run in runs)))
        for limit, each in found.items()
    )


def proofs_of(claim: Claim, product: Product, method: MethodProfile) -> tuple[RunSpec, ...]:
    """The runs by which a unit shows that it gives what is claimed: held at the usual tone and at the band's edges.

    What is claimed of bursts cannot be held: a run of them goes to its limit.
    """
    if claim.kind is not ClaimKind.CONTINUOUS:
        return (_run_to_the_limit(claim, product, method),)
    usual = _tone_within(claim, method.tone_of(product.group(claim.group).bass))
    return _held(claim, method, sorted({usual, *proof_tones(claim, method, usual)}))


def proof_tones(claim: Claim, method: MethodProfile, usual_hz: float) -> list[float]:
    """The edges of the claimed band that the usual tone is not near, and the method's own tones within it."""
    low, high = claim.band_low_hz, claim.band_high_hz
    named = [hz for hz in method.proof_tones_hz if low is not None and high is not None and low <= hz <= high]
    return sorted({*band_edges(claim, method, (usual_hz,)), *named})


def _held(claim: Claim, method: MethodProfile, tones: Iterable[float]) -> tuple[RunSpec, ...]:
    volts = method.reference_volts if claim.supply_volts is None else claim.supply_volts
    watts = proof_watts(claim, method)
    return tuple(
        RunSpec(Mode.PROOF, claim.group, claim.load_ohms, hz, volts, claim.bridged, watts=watts) for hz in tones
    )


def _run_to_the_limit(claim: Claim, product: Product, method: MethodProfile) -> RunSpec:
    bass = product.group(claim.group).bass
    steady = claim.kind is ClaimKind.CONTINUOUS
    burst = method.burst_of(bass)
    return RunSpec(
        mode=Mode.CERTIFIED if steady else Mode.BURST,
        group=claim.group,
        load_ohms=claim.load_ohms,
        bridged=claim.bridged,
        tone_hz=_tone_within(claim, method.tone_of(bass)) if steady else burst.hz,
        supply_volts=method.reference_volts if claim.supply_volts is None else claim.supply_volts,
        burst="" if steady else burst.name,
    )


def _tone_within(claim: Claim, usual_hz: float) -> float:
    """The usual tone, or the middle of a claim's band that leaves it out."""
    if claim.band_low_hz is None or claim.band_high_hz is None or claim.band_low_hz <= usual_hz <= claim.band_high_hz:
        return usual_hz
    return round(math.sqrt(claim.band_low_hz * claim.band_high_hz))
