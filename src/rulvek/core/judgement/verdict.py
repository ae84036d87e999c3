"""What one unit's runs say of a claim: a verdict, the reason in one line, and what would settle it."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from math import inf

from rulvek.core.judgement.evidence import Evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.rounding import with_u
from rulvek.core.runs.modes import ENDS, End, Mode
from rulvek.core.runs.spec import same_place


class VerdictKind(StrEnum):
    """The verdicts, the gravest first."""

    SHORT = "short"
    CONFLICTS = "conflicts"
    TOO_CLOSE = "too_close"
    ABOVE_RATED_ONLY = "backed_above_rated_voltage_only"
    ESTIMATED = "estimated"
    NO_EVIDENCE = "no_evidence"
    BACKED = "backed"


class DecisionRule(StrEnum):
    """By which rule of ILAC-G8 verdicts are given: each campaign's own, or one for all of them."""

    AS_STORED = "as_stored"
    GUARDED = "guarded"
    SIMPLE = "simple"

    def under(self, method: MethodProfile) -> MethodProfile:
        """A campaign's method with this rule in the place of its own."""
        guarded = self.guards(method)
        return method if guarded is method.guarded else replace(method, guarded=guarded)

    def guards(self, method: MethodProfile) -> bool:
        """Whether ± U is kept free on both sides of a claim where a campaign is stored with that method."""
        return method.guarded if self is DecisionRule.AS_STORED else self is DecisionRule.GUARDED

    @property
    def words(self) -> str:
        """What it is called beside a verdict."""
        return {
            DecisionRule.AS_STORED: "each campaign’s own rule",
            DecisionRule.GUARDED: "guarded rule: ± U kept free",
            DecisionRule.SIMPLE: "simple rule: the figure as it is",
        }[self]

    def in_force(self, method: MethodProfile) -> "DecisionRule":
        """The rule that a campaign's verdicts are given by, by name."""
        return DecisionRule.GUARDED if self.guards(method) else DecisionRule.SIMPLE


@dataclass(frozen=True, slots=True)
class Verdict:
    """A verdict with its figures. ``watts`` and ``expanded_watts`` are of the weakest channel; ``interval`` is an
    estimate's, in watts; ``settle`` says what run would settle it, empty when it is settled."""

    claim_id: int
    kind: VerdictKind
    reason: str
    settle: str = ""
    attempt_id: int | None = None
    watts: float | None = None
    expanded_watts: float | None = None
    interval: tuple[float, float] | None = None
    conflicts_with: tuple[int, ...] = ()
    doubts: tuple[str, ...] = ()


def judge(
    claim: Claim,
    evidence: Sequence[Evidence],
    method: MethodProfile,
    conflicts_with: tuple[int, ...] = (),
    rule: DecisionRule = DecisionRule.AS_STORED,
) -> Verdict:
    """Judge one claim by one unit's evidence, the latest last.

    Continuous figures are judged by certified readings. Burst, "maximum" and music figures are judged by bursts: by
    the onset of clipping where a THD+N limit is stated, else by the largest that was found.

    Evidence counts when group, load, wiring and tone match and all channels were driven. At a loaded voltage no
    higher than the claim's plus the tolerance it is direct; a pass at a lower voltage is all the stronger.

    Args:
        method: For evidence that brings none of its own, and for the run that would settle it.
        rule: The decision rule that somebody looks by; as stored, it is each reading's own.
    """
    verdict = _judge(claim, [replace(e, method=rule.under(e.method or method)) for e in evidence], method)
    undecided = verdict.kind is VerdictKind.NO_EVIDENCE and claim.kind is ClaimKind.CONTINUOUS
    kind = VerdictKind.CONFLICTS if conflicts_with and undecided else verdict.kind
    doubts = next((e.doubts for e in evidence if e.attempt_id == verdict.attempt_id), ())
    return replace(verdict, kind=kind, conflicts_with=conflicts_with, doubts=doubts)


def _method(e: Evidence) -> MethodProfile:
    if e.method is None:
        raise ValueError("evidence is judged under a method")
    return e.method


def gravest(kinds: Iterable[VerdictKind]) -> VerdictKind:
    """The verdict that several units give together: the gravest one that rests on direct evidence.

    A unit that was run above the claim's voltage or only allows an estimate says less than one that was measured as
    claimed; one without evidence says nothing.
    """
    kinds = list(kinds)
    untested = (VerdictKind.NO_EVIDENCE, VerdictKind.CONFLICTS)
    indirect = (VerdictKind.ESTIMATED, VerdictKind.ABOVE_RATED_ONLY)
    direct = [kind for kind in kinds if kind not in (*untested, *indirect)]
    tested = [kind for kind in kinds if kind not in untested]
    order = list(VerdictKind)
    return min(direct or tested or kinds or [VerdictKind.NO_EVIDENCE], key=order.index)


def _judge(claim: Claim, evidence: Sequence[Evidence], method: MethodProfile) -> Verdict:
    mode = Mode.CERTIFIED if claim.kind is ClaimKind.CONTINUOUS else Mode.BURST
    same_load = [_as_claimed(claim, e) for e in evidence if e.mode is mode and same_place(claim.place, e.place)]
    settle = _settling_run(claim, method)
    if not same_load and mode is Mode.BURST:
        reason = f"A {claim.kind} figure: continuous power neither backs nor refutes it."
        return Verdict(claim.id, VerdictKind.NO_EVIDENCE, reason, settle)
    if not same_load:
        return Verdict(claim.id, VerdictKind.NO_EVIDENCE, f"Nobody has tested it at {claim.load_ohms:g} Ω.", settle)
    unfit = [(e, _unfit(claim, e)) for e in same_load]
    fit = [e for e, why in unfit if why is None]
    if not fit:
        reasons = [why for _, why in unfit if why]
        return Verdict(claim.id, VerdictKind.NO_EVIDENCE, reasons[-1], settle)
    direct = [e for e in fit if e.supply_volts <= _claim_volts(claim, _method(e)) + _tolerance(e)]
    if direct:
        near = [e for e in direct if e.supply_volts >= _claim_volts(claim, _method(e)) - _tolerance(e)]
        return _direct(claim, (near or direct)[-1], settle)
    return _above_rated(claim, fit[-1], settle)


def _tolerance(e: Evidence) -> float:
    return _method(e).reference_volts_tolerance


def _direct(claim: Claim, e: Evidence, settle: str) -> Verdict:
    method = _method(e)
    u = e.budget.expanded
    kind = _decide(e.weakest, u, claim.watts, method.guarded)
    rated = _claim_volts(claim, method)
    sort = "" if e.mode is Mode.CERTIFIED else f"a {claim.kind} figure, judged by the burst: "
    figures = f"{sort}{with_u(e.weakest, u, 'W')} from the weakest channel at {e.supply_volts:.2f} V"
    figures = figures[0].upper() + figures[1:]
    where = _stated(claim, method)
    if kind is VerdictKind.BACKED:
        reason = f"{figures}: no less than the {claim.watts:g} W claimed{where}."
        return Verdict(claim.id, kind, reason, "", e.attempt_id, e.weakest, u)
    if e.supply_volts < rated - method.reference_volts_tolerance:
        low, high = e.at_volts(rated)
        if _short_at_any_volts(claim, e):
            reason = f"{figures}, at most {high:.0f} W at {rated:g} V: short of the {claim.watts:g} W claimed{where}."
            return Verdict(claim.id, VerdictKind.SHORT, reason, settle, e.attempt_id, e.weakest, u, (low, high))
        reason = f"{figures}; at {rated:g} V it would give an estimated {low:.0f} to {high:.0f} W."
        return Verdict(claim.id, VerdictKind.ESTIMATED, reason, settle, e.attempt_id, e.weakest, u, (low, high))
    if kind is VerdictKind.TOO_CLOSE:
        reason = f"{figures}: the {claim.watts:g} W claimed{where} lie within what the measurement can tell."
        closer = "A smaller U: measure the load more closely and repeat the run."
        return Verdict(claim.id, kind, reason, closer, e.attempt_id, e.weakest, u)
    tripped = ""
    if e.end in (End.PROTECTED, End.RECOVERING) and e.tripped_watts is not None:
        tripped = f"; protection tripped at {e.tripped_watts:.0f} W"
    missing = claim.watts - e.weakest
    reason = f"{figures}: {missing:.0f} W short of the {claim.watts:g} W claimed{where}{tripped}."
    return Verdict(claim.id, kind, reason, "", e.attempt_id, e.weakest, u)


def _above_rated(claim: Claim, e: Evidence, settle: str) -> Verdict:
    method = _method(e)
    u, rated = e.budget.expanded, _claim_volts(claim, method)
    low, high = e.at_volts(rated)
    figures = f"{with_u(e.weakest, u, 'W')}, but at {e.supply_volts:.2f} V, above the {rated:g} V of the claim"
    kind, outcome = VerdictKind.ESTIMATED, f"there it would give an estimated {low:.0f} to {high:.0f} W"
    decided = _decide(e.weakest, u, claim.watts, method.guarded)
    if decided is VerdictKind.BACKED:
        kind = VerdictKind.ABOVE_RATED_ONLY
    elif decided is VerdictKind.SHORT:
        kind, outcome = VerdictKind.SHORT, f"short of the {claim.watts:g} W claimed even so"
    reason = f"{figures}; {outcome}."
    return Verdict(claim.id, kind, reason, settle, e.attempt_id, e.weakest, u, (low, high))


def _decide(watts: float, expanded: float, claimed: float, guarded: bool) -> VerdictKind:
    """Guarded acceptance keeps ± U free on both sides; simple acceptance (ILAC-G8) takes the figure as it is."""
    if not guarded:
        return VerdictKind.BACKED if watts >= claimed else VerdictKind.SHORT
    if watts - expanded >= claimed:
        return VerdictKind.BACKED
    return VerdictKind.SHORT if watts + expanded < claimed else VerdictKind.TOO_CLOSE


def _short_at_any_volts(claim: Claim, e: Evidence) -> bool:
    """Whether not even the claim's volts could make up for what is missing; more than those make up for nothing."""
    method = _method(e)
    rated = _claim_volts(claim, method)
    if e.supply_volts >= rated - method.reference_volts_tolerance:
        return True
    _, high = e.at_volts(rated)
    return _decide(high, e.budget.expanded, claim.watts, method.guarded) is VerdictKind.SHORT


def _as_claimed(claim: Claim, e: Evidence) -> Evidence:
    """A burst's evidence for a figure without a THD+N limit is the largest that it gave."""
    if e.mode is Mode.BURST and claim.thd_n_percent is None and e.largest_watts is not None:
        return replace(e, watts=(max(e.largest_watts, e.weakest),), bracket_db=e.largest_bracket_db)
    return e


def _thd_n_limit(claim: Claim, method: MethodProfile) -> float:
    """Percent that the claim allows; a burst or "maximum" figure that states none sets no limit."""
    if claim.thd_n_percent is not None:
        return claim.thd_n_percent
    return method.thd_n_limit_percent if claim.kind is ClaimKind.CONTINUOUS else inf


def _unfit(claim: Claim, e: Evidence) -> str | None:
    """Why this evidence cannot speak to the claim, or None when it can."""
    method = _method(e)
    if e.invalid:
        return f"The reading is no evidence: {e.invalid}"
    if not e.all_driven:
        return "The run at this load did not have all channels driven."
    if claim.band_low_hz is not None and claim.band_high_hz is not None:
        if not claim.band_low_hz <= e.tone_hz <= claim.band_high_hz:
            return f"The tone of {e.tone_hz:g} Hz lies outside of the claim's band."
    limit = _thd_n_limit(claim, method)
    decided = _decide(e.weakest, e.budget.expanded, claim.watts, method.guarded)
    passes = decided is VerdictKind.BACKED
    fails = decided is VerdictKind.SHORT and _short_at_any_volts(claim, e)
    if e.thd_n == inf and limit < inf and not fails:
        return "The reading's THD+N is not known."
    if e.thd_n * 100 > limit * 1.0001 and not fails:
        return f"The reading has {e.thd_n:.2%} THD+N, the claim allows {limit:g} %."
    if e.thd_n * 100 < limit / 2 < inf and e.end is End.LIMIT and not passes:
        return f"The run stopped at {e.thd_n:.2%} THD+N; the claim allows {limit:g} %, where more may be had."
    if not ENDS[e.end].gave_all and not passes:
        return f"The run stopped short of the limit ({ENDS[e.end].words}) at {e.weakest:.0f} W."
    return None


def _claim_volts(claim: Claim, method: MethodProfile) -> float:
    return method.reference_volts if claim.supply_volts is None else claim.supply_volts


def _stated(claim: Claim, method: MethodProfile) -> str:
    if claim.supply_volts is not None:
        return f" at {claim.supply_volts:g} V"
    return f" (no voltage stated; judged at the reference {method.reference_volts:g} V)"


def _settling_run(claim: Claim, method: MethodProfile) -> str:
    wiring = "bridged " if claim.bridged else ""
    mode = "certified" if claim.kind is ClaimKind.CONTINUOUS else "burst"
    limit = _thd_n_limit(claim, method)
    to = "" if limit in (inf, method.thd_n_limit_percent) else f" to {limit:g} % THD+N"
    volts = _claim_volts(claim, method)
    return f"A {mode} run{to} at {claim.load_ohms:g} Ω {wiring}and {volts:g} V, all channels driven."
