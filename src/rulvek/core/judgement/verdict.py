"""What one unit's runs say of a claim: a verdict, the reason in one line, and what would settle it."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from math import inf

from rulvek.core.judgement.checks import Leaning
from rulvek.core.judgement.evidence import Doubt, Evidence, fitted
from rulvek.core.judgement.uncertainty import Budget, how_to_get_closer
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.rounding import hertz, with_u
from rulvek.core.runs.modes import ENDS, End, Mode, reached
from rulvek.core.runs.settings import limit_ratio
from rulvek.core.runs.spec import each_channels_place, same_place
from rulvek.core.signals.power import ratio_db

SAID_FROM = 0.002
"""A figure that is further than this from what was read says what was read."""
AS_MAXIMUM = (1.75, 2.1)
"""Times the continuous power that “maximum” and music figures usually are (common practice, no source)."""
ANOTHER_LOAD = 0.10
"""Measured ohms further than this from the claim's are another load (ours)."""


class VerdictKind(StrEnum):
    """The verdicts, the gravest first."""

    SHORT = "short"
    CONFLICTS = "conflicts"
    TOO_CLOSE = "too_close"
    ONE_TONE = "backed_at_one_tone_only"
    ABOVE_RATED_ONLY = "backed_above_rated_voltage_only"
    ESTIMATED = "estimated"
    NO_EVIDENCE = "no_evidence"
    BACKED = "backed"


class VerdictOutcome(StrEnum):
    """Which way a verdict goes, clear of all that is uncertain in it."""

    PASSES = "passes"
    OPEN = "open"
    FAILS = "fails"


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
    estimate's, in watts; ``outcome`` says which way it goes; ``settle`` says what run would settle it, empty when it is
    settled. ``doubts`` are those that could change it, ``tones_left`` the edges of its band, Hz, that nothing backs;
    ``simulated`` is what rests on a simulated bench."""

    claim_id: int
    kind: VerdictKind
    reason: str
    settle: str = ""
    attempt_id: int | None = None
    watts: float | None = None
    expanded_watts: float | None = None
    interval: tuple[float, float] | None = None
    outcome: VerdictOutcome = VerdictOutcome.OPEN
    conflicts_with: tuple[int, ...] = ()
    doubts: tuple[str, ...] = ()
    tones_left: tuple[float, ...] = ()
    simulated: bool = False


def judge(
    claim: Claim,
    evidence: Sequence[Evidence],
    method: MethodProfile,
    conflicts_with: tuple[int, ...] = (),
    rule: DecisionRule = DecisionRule.AS_STORED,
) -> Verdict:
    """Judge one claim by one unit's evidence, the latest last.

    Continuous figures are judged by steady readings whose THD+N the claim allows, whatever their mode is called. Burst,
    "maximum" and music figures are judged by bursts: by the onset of clipping where a THD+N limit is stated, else by
    the largest that was found.

    Evidence counts when group, load, wiring and tone match and all channels were driven; bridged pairs into twice the
    load give the mean of two channels each. Readings within the window of the claim's voltage come first, then those at
    fewer volts (a pass there is all the stronger), then those at more. A later reading replaces an earlier one at the
    same conditions only; over tones the weakest decides.

    Args:
        method: For evidence that brings none of its own, and for the run that would settle it.
        rule: The decision rule that somebody looks by; as stored, it is each reading's own.
    """
    verdict = _judge(claim, [replace(e, method=rule.under(e.method or method)) for e in evidence], method)
    undecided = verdict.kind is VerdictKind.NO_EVIDENCE and claim.kind is ClaimKind.CONTINUOUS
    kind = VerdictKind.CONFLICTS if conflicts_with and undecided else verdict.kind
    told = next((e.doubts for e in evidence if e.attempt_id == verdict.attempt_id), ())
    simulated = any(e.simulated for e in evidence if e.attempt_id == verdict.attempt_id)
    could = tuple(doubt.text for doubt in told if _could_change(verdict, claim, doubt))
    doubts = (*could, *verdict.doubts)
    return replace(verdict, kind=kind, conflicts_with=conflicts_with, doubts=doubts, simulated=simulated)


def _could_change(verdict: Verdict, claim: Claim, doubt: Doubt) -> bool:
    """What makes a reading too high leaves a shortfall firm, and a pass that has that much to spare; so vice versa."""
    if doubt.leans is Leaning.NEITHER or (verdict.outcome is VerdictOutcome.FAILS and doubt.leans is Leaning.HIGH):
        return False
    if verdict.outcome is not VerdictOutcome.PASSES:
        return True
    if doubt.leans is not Leaning.HIGH or doubt.at_most is None or verdict.watts is None:
        return doubt.leans is not Leaning.LOW
    return verdict.watts * (1 - doubt.at_most) - (verdict.expanded_watts or 0.0) < claim.each_watts


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
    steady = claim.kind is ClaimKind.CONTINUOUS
    modes = (Mode.CERTIFIED, Mode.UNCERTIFIED, Mode.PROOF) if steady else (Mode.BURST,)
    told = [_as_claimed(claim, e) for e in evidence if e.mode in modes]
    if not steady and claim.thd_n_percent is None:
        told = list(fitted(told).evidence)  # the largest follow the supply in a way of their own, not as onsets do
    same_load = [e for e in told if same_place(claim.place, e.place)]
    settle = _settling_run(claim, method)
    if claim.linked:
        reason = "Two units on one load: no run of a single one speaks to that."
        return Verdict(claim.id, VerdictKind.NO_EVIDENCE, reason, "A test of both together, read by hand.")
    if not same_load and not steady:
        reason = f"A {claim.kind} figure: continuous power neither backs nor refutes it."
        return Verdict(claim.id, VerdictKind.NO_EVIDENCE, reason, settle)
    if not same_load:
        return Verdict(claim.id, VerdictKind.NO_EVIDENCE, f"Nobody has tested it at {claim.load_ohms:g} Ω.", settle)
    unfit = [(e, _unfit(claim, e)) for e in same_load]
    fit = [e for e, why in unfit if why is None]
    if not fit:
        reasons = [why for e, why in unfit if why and e.mode is not Mode.UNCERTIFIED] or [
            why for _, why in unfit if why
        ]
        return Verdict(claim.id, VerdictKind.NO_EVIDENCE, reasons[-1], settle)
    held = [e for e in fit if e.end is End.HELD]  # at the claim, not at the unit's limit: says that, and no figure
    fit = [e for e in fit if e.end is not End.HELD] or held
    fit = [e for e in fit if e.volts_between is None] or fit
    if fit[0].volts_between is not None:
        return _volts_unread(claim, decisive(fit), settle)
    direct = [e for e in fit if e.supply_volts <= _claim_volts(claim, _method(e)) + _tolerance(e)]
    near = [e for e in direct if e.supply_volts >= _claim_volts(claim, _method(e)) - _tolerance(e)]
    pool = near or direct or fit
    nearest = (max if direct else min)(e.supply_volts for e in pool)
    pool = near or [e for e in pool if abs(e.supply_volts - nearest) <= _tolerance(e)]
    # A channel by itself says more than the mean of two, a run to the claim's own limit more than one beyond it.
    pool = [e for e in pool if not e.by_pairs] or pool
    pool = [e for e in pool if e.mode is not Mode.UNCERTIFIED] or pool
    e = decisive(pool)
    verdict = _direct(claim, e, settle) if direct else _above_rated(claim, e, settle)
    within = [one for one in fit if one.volts_between is None and _short_within_the_range(claim, one)]
    if within and verdict.kind is not VerdictKind.SHORT:
        pool, e = within, decisive(within)
        verdict = _above_rated(claim, e, settle)
    elsewhere = _short_at_another_tone(claim, evidence, {_alike(one) for one in pool}, method)
    if elsewhere is not None and verdict.kind is not VerdictKind.SHORT:
        return elsewhere
    verdict = _over_the_band(claim, verdict, [*pool, *held], method)
    outcome = _outcome(verdict, e, claim)
    apart = _apart(e, pool)
    return replace(
        verdict,
        outcome=outcome,
        settle=verdict.settle if outcome is VerdictOutcome.OPEN else "",
        doubts=(apart,) if apart else (),
    )


def _short_at_another_tone(
    claim: Claim, evidence: Sequence[Evidence], seen: set[str], method: MethodProfile
) -> Verdict | None:
    """A tone that was read at other volts only, and is short all the same: readings at the claim's do not hide it."""
    tones = sorted({_alike(e) for e in evidence} - seen)
    each = [_judge(claim, [e for e in evidence if _alike(e) == tone], method) for tone in tones]
    short = [verdict for verdict in each if verdict.kind is VerdictKind.SHORT]
    return min(short, key=lambda verdict: verdict.watts or 0.0, default=None)


def band_edges(claim: Claim, method: MethodProfile, tones: Iterable[float]) -> tuple[float, ...]:
    """The edges of a claim's band that none of these tones is near; none where it states no band."""
    if claim.kind is not ClaimKind.CONTINUOUS or claim.band_low_hz is None or claim.band_high_hz is None:
        return ()
    near = 2**method.band_edge_octaves
    edges = dict.fromkeys((claim.band_low_hz, claim.band_high_hz))
    tones = list(tones)
    return tuple(edge for edge in edges if not any(edge / near <= hz <= edge * near for hz in tones))


def _over_the_band(claim: Claim, verdict: Verdict, shown: Sequence[Evidence], method: MethodProfile) -> Verdict:
    """A figure over a band is backed where its edges are, too: by readings of their own or by proofs."""
    if verdict.kind is not VerdictKind.BACKED:
        return verdict
    passing = sorted({e.tone_hz for e in shown if _passes(claim, e)})
    left = band_edges(claim, method, passing)
    if not left:
        return verdict
    at, nowhere, edges = _tones(passing), _tones(left), "the edges" if len(left) > 1 else "an edge"
    reason = f"{verdict.reason.removesuffix('.')}, at {at} only: nothing backs it at {nowhere}, {edges} of its band."
    settle = f"Proof runs at {nowhere}: {proof_watts(claim, method):.4g} W into {claim.load_ohms:g} Ω, held."
    return replace(verdict, kind=VerdictKind.ONE_TONE, reason=reason, settle=settle, tones_left=left)


def proof_watts(claim: Claim, method: MethodProfile) -> float:
    """What a proof run holds: the claimed watts, and about as much more as their U is."""
    return float(f"{claim.each_watts * (1 + method.proof_margin_percent / 100):.4g}")


def _passes(claim: Claim, e: Evidence) -> bool:
    if e.volts_between is not None or e.supply_volts > _claim_volts(claim, _method(e)) + _tolerance(e):
        return False
    told = _at_claim(claim, e)
    return _decide(told.estimate, told.expanded, claim.each_watts, _method(e).guarded) is VerdictKind.BACKED


def _tones(tones_hz: Iterable[float]) -> str:
    return " and ".join(map(hertz, tones_hz))


def _volts_unread(claim: Claim, e: Evidence, settle: str) -> Verdict:
    """Nobody read the loaded volts: what is decided is so for all that they may have been."""
    method, rated, told = _method(e), _claim_volts(claim, _method(e)), _at_claim(claim, e)
    watts, u = told.estimate, told.expanded
    low, high = (one * watts / e.weakest for one in e.at_volts_unread(rated))
    least, most = e.volts_between or (rated, rated)
    figures = f"{with_u(watts, u, 'W')} {_of(e)}, loaded volts not read (between {least:.1f} and {most:.1f} V)"
    figures = f"{figures[0].upper()}{figures[1:]}: an estimated {low:.0f} to {high:.0f} W at {rated:g} V"
    kind, outcome, says = VerdictKind.ESTIMATED, VerdictOutcome.OPEN, ""
    if _decide(low, u, claim.each_watts, method.guarded) is VerdictKind.BACKED:
        kind, outcome, says = VerdictKind.BACKED, VerdictOutcome.PASSES, ", no less than"
    elif _decide(high, u, claim.each_watts, method.guarded) is VerdictKind.SHORT:
        kind, outcome, says = VerdictKind.SHORT, VerdictOutcome.FAILS, ", short of"
    if says:
        figures, settle = f"{figures}{says} the {claim.each_watts:g} W claimed{_stated(claim, method)}", ""
    return Verdict(claim.id, kind, f"{figures}.", settle, e.attempt_id, watts, u, (low, high), outcome)


def decisive(pool: Sequence[Evidence]) -> Evidence:
    """The reading that a verdict rests on: the latest of each tone, and of these the weakest.

    Of readings of the same moment the weakest counts, in whatever order they were entered.
    """
    alike: dict[str, list[Evidence]] = {}
    for e in pool:
        alike.setdefault(_alike(e), []).append(e)
    return min((_latest(group) for group in alike.values()), key=lambda e: e.weakest)


def _alike(e: Evidence) -> str:
    return f"{e.tone_hz:.3g}"


def _latest(group: Sequence[Evidence]) -> Evidence:
    moments = [e.at for e in group if e.at is not None]
    if len(moments) < len(group):
        return group[-1]  # as they come
    return min((e for e in group if e.at == max(moments)), key=lambda e: e.weakest)


def _apart(e: Evidence, pool: Sequence[Evidence]) -> str:
    """That readings at the same conditions differ by more than the method lets repeated ones; empty where not."""
    others = [one for one in pool if _alike(one) == _alike(e) and one.attempt_id != e.attempt_id]
    furthest = max(others, key=lambda one: abs(ratio_db(one.weakest, e.weakest)), default=None)
    if furthest is None or abs(ratio_db(furthest.weakest, e.weakest)) <= _method(e).check_repeat_db:
        return ""
    return f"It is not repeatable: at the same conditions it gave {furthest.weakest:.4g} W, and {e.weakest:.4g} W."


def _outcome(verdict: Verdict, e: Evidence, claim: Claim) -> VerdictOutcome:
    if verdict.kind is VerdictKind.BACKED:
        return VerdictOutcome.PASSES
    if verdict.kind is VerdictKind.SHORT:
        return VerdictOutcome.FAILS
    if verdict.interval is not None:
        low = _decide(verdict.interval[0], verdict.expanded_watts or 0.0, claim.each_watts, _method(e).guarded)
        if low is VerdictKind.BACKED:
            return VerdictOutcome.PASSES
    return VerdictOutcome.OPEN


def _short_within_the_range(claim: Claim, e: Evidence) -> bool:
    """Whether a claim for a range of volts falls short above its low end: it is judged where it is worst."""
    rated = _claim_volts(claim, _method(e))
    highest = claim.supply_high_volts or rated
    if not rated + _tolerance(e) < e.supply_volts <= highest + _tolerance(e):
        return False
    told = _at_claim(claim, e)
    return _decide(told.estimate, told.expanded, claim.each_watts, _method(e).guarded) is VerdictKind.SHORT


def _tolerance(e: Evidence) -> float:
    return _method(e).reference_volts_tolerance


def _at_claim(claim: Claim, e: Evidence) -> Budget:
    """The reading at the claim's ohms, and at its volts where it was taken within their window."""
    method = _method(e)
    rated = _claim_volts(claim, method)
    near = e.volts_between is None and abs(e.supply_volts - rated) <= method.reference_volts_tolerance
    return e.brought_to(rated if near else e.supply_volts, claim.load_ohms)


def _direct(claim: Claim, e: Evidence, settle: str) -> Verdict:
    method = _method(e)
    told = _at_claim(claim, e)
    watts, u = told.estimate, told.expanded
    kind = _decide(watts, u, claim.each_watts, method.guarded)
    rated = _claim_volts(claim, method)
    sort = "" if e.mode is not Mode.BURST else f"a {claim.kind} figure, judged by the burst: "
    figures = f"{sort}{with_u(watts, u, 'W')} {_of(e)} at {e.supply_volts:.2f} V{_as_read(e, watts)}{_taken_as(e)}"
    figures = figures[0].upper() + figures[1:]
    where = _stated(claim, method)
    if kind is VerdictKind.BACKED:
        reason = f"{figures}: no less than the {claim.each_watts:g} W claimed{where}."
        return Verdict(claim.id, kind, reason, "", e.attempt_id, watts, u)
    if e.supply_volts < rated - method.reference_volts_tolerance:
        low, high = (one * watts / e.weakest for one in e.at_volts(rated))
        if _short_at_any_volts(claim, e):
            reason = (
                f"{figures}, at most {high:.0f} W at {rated:g} V: short of the {claim.each_watts:g} W claimed{where}."
            )
            return Verdict(claim.id, VerdictKind.SHORT, reason, settle, e.attempt_id, watts, u, (low, high))
        reason = f"{figures}; at {rated:g} V it would give an estimated {low:.0f} to {high:.0f} W."
        return Verdict(claim.id, VerdictKind.ESTIMATED, reason, settle, e.attempt_id, watts, u, (low, high))
    if kind is VerdictKind.TOO_CLOSE:
        reason = f"{figures}: the {claim.each_watts:g} W claimed{where} lie within what the measurement can tell."
        return Verdict(claim.id, kind, reason, how_to_get_closer(told), e.attempt_id, watts, u)
    tripped = ""
    if e.end in (End.PROTECTED, End.RECOVERING) and e.tripped_watts is not None:
        tripped = f"; protection tripped at {e.tripped_watts:.0f} W"
    missing = claim.each_watts - watts
    reason = f"{figures}: {missing:.0f} W short of the {claim.each_watts:g} W claimed{where}{tripped}."
    times = claim.each_watts / watts
    if claim.kind is ClaimKind.CONTINUOUS and AS_MAXIMUM[0] <= times <= AS_MAXIMUM[1]:
        reason += f" It is {times:.2g} times what was measured, as “maximum” and music figures are: is it one of those?"
    return Verdict(claim.id, kind, reason, "", e.attempt_id, watts, u)


def _above_rated(claim: Claim, e: Evidence, settle: str) -> Verdict:
    method = _method(e)
    told, rated = _at_claim(claim, e), _claim_volts(claim, method)
    watts, u = told.estimate, told.expanded
    low, high = (one * watts / e.weakest for one in e.at_volts(rated))
    whose = "of the claim" if claim.supply_volts is not None else "of the reference (the claim states none)"
    figures = (
        f"{with_u(watts, u, 'W')}{_as_read(e, watts)}, but at {e.supply_volts:.2f} V, above the {rated:g} V {whose}"
    )
    kind, outcome = VerdictKind.ESTIMATED, f"there it would give an estimated {low:.0f} to {high:.0f} W"
    decided = _decide(watts, u, claim.each_watts, method.guarded)
    if decided is VerdictKind.BACKED:
        kind = VerdictKind.ABOVE_RATED_ONLY
        if _decide(low, u, claim.each_watts, method.guarded) is VerdictKind.BACKED:
            outcome = f"at the least it would give {low:.0f} W there: it passes all the same"
    elif decided is VerdictKind.SHORT:
        kind, outcome = VerdictKind.SHORT, f"short of the {claim.each_watts:g} W claimed even so"
    reason = f"{figures}; {outcome}."
    return Verdict(claim.id, kind, reason, settle, e.attempt_id, watts, u, (low, high))


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
    told = _at_claim(claim, e)
    high = e.at_volts(rated)[1] * told.estimate / e.weakest
    return _decide(high, told.expanded, claim.each_watts, method.guarded) is VerdictKind.SHORT


def _fails_at_its_limit(claim: Claim, e: Evidence) -> bool:
    """Whether a channel that gave all it has falls short: one that was not at its own limit refutes nothing."""
    own = min(e.at_their_limit)
    if own == e.weakest:
        return True
    told = replace(e, watts=e.at_their_limit)
    budget = _at_claim(claim, told)
    decided = _decide(budget.estimate, budget.expanded, claim.each_watts, _method(e).guarded)
    return decided is VerdictKind.SHORT and _short_at_any_volts(claim, told)


def _as_read(e: Evidence, watts: float) -> str:
    """What was read, where the claim's conditions or the middle of the bracket make it another figure."""
    if abs(watts / e.weakest - 1) < SAID_FROM:
        return ""
    ohms = f", into {e.measured_ohms:.3g} Ω" if e.measured_ohms is not None else ""
    return f" ({e.weakest:.4g} W as read{ohms})"


def _of(e: Evidence) -> str:
    if e.by_pairs:
        return "by bridged pairs, each the mean of two channels,"
    if not e.channels_unread:
        return "from the weakest channel"
    read, several = ("pair", "pairs") if e.bridged else ("channel", "channels")
    if len(e.watts) == 1:
        return f"from the one {read} that was read"
    return f"from the weakest of the {len(e.watts)} {several} that were read"


def _taken_as(e: Evidence) -> str:
    unread = " (THD+N not read, taken as at the limit)" if e.thd_n == inf and reached(e.mode, e.end) else ""
    return unread if e.all_driven else f"{unread} with not all channels driven"


def _as_claimed(claim: Claim, e: Evidence) -> Evidence:
    """What evidence says in the claim's terms.

    A burst's for a figure without a THD+N limit is the largest that it gave. A bridged pair into twice the load works
    each of its channels into the claimed load: each has half of the watts.
    """
    pairs = e.bridged and not claim.bridged and _method(e).pairs_back_channels
    if pairs and same_place(claim.place, each_channels_place(e.place)):
        half = tuple(watts / 2 for watts in e.watts)
        largest = None if e.largest_watts is None else e.largest_watts / 2
        ohms = None if e.measured_ohms is None else e.measured_ohms / 2
        inductance = None if e.inductance_uh is None else e.inductance_uh / 2
        e = replace(
            e,
            watts=half,
            load_ohms=e.load_ohms / 2,
            bridged=False,
            by_pairs=True,
            largest_watts=largest,
            measured_ohms=ohms,
            inductance_uh=inductance,
            attempts=tuple(watts / 2 for watts in e.attempts),
            fit=None,
        )
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
    if e.measured_ohms is not None and abs(e.measured_ohms / claim.load_ohms - 1) > ANOTHER_LOAD:
        return f"The load measured {e.measured_ohms:.3g} Ω: that is another load than {claim.load_ohms:g} Ω."
    if claim.band_low_hz is not None and claim.band_high_hz is not None:
        if not claim.band_low_hz <= e.tone_hz <= claim.band_high_hz:
            return f"The tone of {e.tone_hz:g} Hz lies outside of the claim's band."
    limit = _thd_n_limit(claim, method)
    told = _at_claim(claim, e)
    decided = _decide(told.estimate, told.expanded, claim.each_watts, method.guarded)
    passes = decided is VerdictKind.BACKED
    fails = decided is VerdictKind.SHORT and _short_at_any_volts(claim, e)
    if not e.all_driven and not fails and not _driven_as_claimed(claim, e):
        return "Not all channels were driven, which flatters the amplifier."
    thd_n = e.thd_n
    if thd_n == inf and reached(e.mode, e.end) and e.mode is not Mode.BURST:
        thd_n = limit_ratio(method, e.mode)  # whoever went to the limit was at it
    if thd_n == inf and limit < inf and not fails:
        return "The reading's THD+N is not known."
    if thd_n * 100 > limit * 1.0001 and not fails:
        return f"The reading has {100 * thd_n:.2g} % THD+N, the claim allows {limit:g} %."
    if thd_n * 100 < limit / 2 < inf and reached(e.mode, e.end) and e.end is not End.HELD and not passes:
        return f"The run stopped at {100 * thd_n:.2g} % THD+N; the claim allows {limit:g} %, where more may be had."
    if fails and claim.driven_channels is not None and claim.driven_channels < _channels_read(e):
        number = "All" if e.all_driven else _channels_read(e)
        return f"{number} channels were driven; the claim is for {claim.driven_channels}, which may give more each."
    if fails and not _fails_at_its_limit(claim, e):
        return f"The weakest channel gave at least {e.weakest:.4g} W: it was not at its own limit when another was."
    if not ENDS[e.end].gave_all and not passes:
        return f"The run stopped short of the limit ({ENDS[e.end].words}) at {e.weakest:.0f} W."
    return None


def _driven_as_claimed(claim: Claim, e: Evidence) -> bool:
    """Whether a claim for some channels driven was tested with as many: those that were read."""
    return claim.driven_channels is not None and claim.driven_channels <= _channels_read(e)


def _channels_read(e: Evidence) -> int:
    return len(e.watts) * (1 + (e.bridged or e.by_pairs))


def _claim_volts(claim: Claim, method: MethodProfile) -> float:
    return method.reference_volts if claim.supply_volts is None else claim.supply_volts


def _stated(claim: Claim, method: MethodProfile) -> str:
    total = f" ({claim.watts:g} W in all)" if claim.total_of else ""
    load = "" if claim.load_stated else f" (no load stated; judged at {claim.load_ohms:g} Ω)"
    volts = f" (no voltage stated; judged at the reference {method.reference_volts:g} V)"
    if claim.supply_volts is not None:
        volts = f" at {claim.supply_volts:g} V"
        if claim.supply_high_volts is not None:
            volts = f" from {claim.supply_volts:g} V to {claim.supply_high_volts:g} V, judged where it is worst"
    return f"{total}{load}{volts}"


def _settling_run(claim: Claim, method: MethodProfile) -> str:
    wiring = "bridged " if claim.bridged else ""
    mode = "certified" if claim.kind is ClaimKind.CONTINUOUS else "burst"
    limit = _thd_n_limit(claim, method)
    to = "" if limit in (inf, method.thd_n_limit_percent) else f" to {limit:g} % THD+N"
    volts = _claim_volts(claim, method)
    few = claim.driven_channels
    driven = "all channels" if few is None else f"{few} channel{'s' if few > 1 else ''}"
    return f"A {mode} run{to} at {claim.load_ohms:g} Ω {wiring}and {volts:g} V, {driven} driven."
