"""Claims against evidence: verdicts by unit and by model, and the reach bars that show both."""

import math
from collections.abc import Sequence

from rulvek.core.electrical.supply import fit_voltage
from rulvek.core.judgement.checks import Severity
from rulvek.core.judgement.claims import Claim, ClaimKind, conflicts
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.judgement.verdict import Evidence, Verdict, VerdictKind, gravest, judge
from rulvek.core.measure.burst import headroom_db
from rulvek.core.measure.steps import End, Mode
from rulvek.services.checking import comparable_watts, standing
from rulvek.services.gear import instruments_of
from rulvek.services.records import all_driven, chosen_attempt, core_claim, method_of, said_of, standing_claims
from rulvek.services.views.line import (
    ClaimView,
    NotchView,
    ReachView,
    RunSpecView,
    VerdictView,
    VoltageEstimateView,
    VoltageFitView,
    VoltagePointView,
    WithdrawalView,
)
from rulvek.services.voltage import fit_of
from rulvek.store import tables

CURVE_STEPS = 30


class ModelJudgement:
    """All standing claims of a model, judged by some of its units. The latest campaign's evidence is the last.

    With ``only`` given, nothing but that campaign's evidence counts. ``guarded`` is the decision rule (ILAC-G8).
    """

    def __init__(
        self,
        model: tables.Model,
        units: Sequence[tables.Unit],
        only: tables.Campaign | None = None,
        guarded: bool = True,
    ) -> None:
        self.model, self.units = model, units
        self.claims = standing_claims(model)
        self.conflicts = conflicts(self.claims)
        self.method = MethodProfile(guarded=guarded)
        self.evidence = {unit.id: evidence_of([only] if only else unit.campaigns) for unit in units}
        self.verdicts = {
            (claim.id, unit.id): judge(claim, self.evidence[unit.id], self.method, self.conflicts.get(claim.id, ()))
            for claim in self.claims
            for unit in units
        }

    def of_unit(self, claim: Claim, unit_id: int) -> VerdictView:
        """One unit's verdict on a claim."""
        return self._view(claim, self.verdicts[claim.id, unit_id], unit_id)

    def together(self, claim: Claim) -> VerdictView:
        """The gravest verdict among the units."""
        if not self.units:
            return self._view(claim, judge(claim, (), self.method, self.conflicts.get(claim.id, ())), None)
        mine = [self.verdicts[claim.id, unit.id] for unit in self.units]
        kind = gravest(verdict.kind for verdict in mine)
        return self._view(claim, next(verdict for verdict in mine if verdict.kind is kind), None)

    def _view(self, claim: Claim, verdict: Verdict, unit_id: int | None) -> VerdictView:
        return VerdictView(
            claim_id=verdict.claim_id,
            unit_id=unit_id,
            kind=verdict.kind,
            reason=" ".join([verdict.reason, *(f"In doubt: {doubt}" for doubt in verdict.doubts)]),
            settle=verdict.settle,
            settling_run=self._settling(claim) if verdict.settle else None,
            settling_limit=claim.thd_n_percent if verdict.settle else None,
            attempt_id=verdict.run_id,
            watts=verdict.watts,
            expanded_watts=verdict.expanded_watts,
            estimate_low_watts=verdict.interval[0] if verdict.interval else None,
            estimate_high_watts=verdict.interval[1] if verdict.interval else None,
            doubts=list(verdict.doubts),
        )

    def _settling(self, claim: Claim) -> RunSpecView:
        """The run that would settle a claim, as the planner takes it."""
        bass = any(group.bass for group in self.model.groups if group.name == claim.group)
        steady = claim.kind is ClaimKind.CONTINUOUS
        burst = self.method.burst_of(bass)
        volts = self.method.reference_volts if claim.supply_volts is None else claim.supply_volts
        return RunSpecView(
            mode=Mode.CERTIFIED if steady else Mode.BURST,
            group=claim.group,
            load_ohms=claim.load_ohms,
            bridged=claim.bridged,
            tone_hz=_tone_within(claim, self.method.tone_of(bass)) if steady else burst.hz,
            supply_volts=volts,
            burst="" if steady else burst.name,
        )

    def claim_views(self) -> list[ClaimView]:
        """All claims, withdrawn ones last, with their verdicts."""
        rows = sorted(self.model.claims, key=lambda row: (row.withdrawal is not None, row.id))
        return [self._claim_view(row) for row in rows]

    def _claim_view(self, row: tables.Claim) -> ClaimView:
        claim, gone = core_claim(row), row.withdrawal
        return ClaimView(
            id=row.id,
            group=row.group,
            document=row.document,
            watts=row.watts,
            load_ohms=row.load_ohms,
            bridged=row.bridged,
            kind=claim.kind,
            supply_volts=row.supply_volts,
            thd_n_percent=row.thd_n_percent,
            band_low_hz=row.band_low_hz,
            band_high_hz=row.band_high_hz,
            missing_conditions=list(claim.missing_conditions),
            added_by=row.added_by,
            added_at=row.added_at,
            withdrawn=None
            if gone is None
            else WithdrawalView(reason=gone.reason, by=gone.withdrawn_by, at=gone.withdrawn_at),
            conflicts_with=list(self.conflicts.get(row.id, ())),
            verdict=None if gone else self.together(claim),
            unit_verdicts=[] if gone else [self.of_unit(claim, unit.id) for unit in self.units],
        )

    def reaches(self, unit: tables.Unit | None = None) -> list[ReachView]:
        """Reach bars for every load that is rated or claimed: of one unit, or of the weakest at the reference volts."""
        return [self._reach(*place, unit) for place in self._places()]

    def _places(self) -> list[tuple[str, float, bool]]:
        """Group, load and wiring: by group, per channel before bridged, lightest load first."""
        places: dict[tuple[str, float, bool], None] = {}
        for group in self.model.groups:
            own = [(group.name, load, False) for load in group.rated_loads]
            own += [(group.name, load, True) for load in group.bridged_loads]
            own += [(c.group, c.load_ohms, c.bridged) for c in self.claims if c.group == group.name]
            for place in sorted(own, key=lambda p: (p[2], -p[1])):
                places[place] = None
        return list(places)

    def _reach(self, group: str, load: float, bridged: bool, unit: tables.Unit | None) -> ReachView:
        units = [unit] if unit is not None else self.units
        latest = [(u, e) for u in units if (e := _latest(self.evidence[u.id], group, load, bridged)) is not None]
        rated, tolerance = self.method.reference_volts, self.method.reference_volts_tolerance
        # A unit that was run at another voltage must not pass for the weakest one.
        comparable = [pair for pair in latest if abs(pair[1].supply_volts - rated) <= tolerance] or latest
        weakest = min(comparable, key=lambda pair: pair[1].weakest) if comparable else None
        unit_evidence = self.evidence[weakest[0].id] if weakest else [e for u in units for e in self.evidence[u.id]]
        clipping = _latest(unit_evidence, group, load, bridged, Mode.UNCERTIFIED)
        burst = _latest(unit_evidence, group, load, bridged, Mode.BURST)
        here = [c for c in self.claims if (c.group, c.load_ohms, c.bridged) == (group, load, bridged)]
        return ReachView(
            group=group,
            load_ohms=load,
            bridged=bridged,
            certified_watts=weakest[1].weakest if weakest else None,
            expanded_watts=weakest[1].budget.expanded if weakest else None,
            at_limit=weakest is not None and weakest[1].end is End.LIMIT,
            uncertified_watts=clipping.weakest if clipping else None,
            uncertified_expanded_watts=clipping.budget.expanded if clipping else None,
            burst_watts=burst.weakest if burst else None,
            burst_expanded_watts=burst.budget.expanded if burst else None,
            burst_largest_watts=burst.largest_watts if burst else None,
            headroom_db=headroom(burst, weakest[1] if weakest else None),
            supply_volts=weakest[1].supply_volts if weakest else None,
            unit_serial=weakest[0].serial if weakest else None,
            attempt_id=weakest[1].run_id if weakest else None,
            notches=[
                NotchView(
                    claim_id=claim.id,
                    watts=claim.watts,
                    document=claim.document,
                    kind=claim.kind,
                    verdict=verdict.kind,
                    doubted=bool(verdict.doubts),
                )
                for claim in here
                for verdict in [self.of_unit(claim, unit.id) if unit else self.together(claim)]
            ],
        )

    def voltage_fits(self, unit_id: int) -> list[VoltageFitView]:
        """Power against supply voltage at every load that the unit was run at more than one voltage."""
        fits = []
        for group, load, bridged in self._places():
            mine = [
                e
                for e in self.evidence[unit_id]
                if (e.group, e.load_ohms, e.bridged, e.mode) == (group, load, bridged, Mode.CERTIFIED)
                and e.end is End.LIMIT
                and not e.invalid
            ]
            if max((e.supply_volts for e in mine), default=0) - min((e.supply_volts for e in mine), default=0) > 0.5:
                claimed = {
                    c.supply_volts for c in self.claims if (c.group, c.load_ohms, c.bridged) == (group, load, bridged)
                }
                fits.append(_fit_view(group, load, bridged, mine, sorted(v for v in claimed if v), self.model))
        return fits

    def attention(self) -> list[str]:
        """What someone should look at, in short sentences."""
        notes = []
        kinds = [self.together(claim).kind for claim in self.claims]
        short = sum(kind is VerdictKind.SHORT for kind in kinds)
        if short:
            notes.append(f"{short} claim{'s' if short > 1 else ''} short")
        if self.conflicts:
            notes.append(f"{len(self.conflicts)} claims conflict")
        vague = sum(c.supply_volts is None and c.kind is ClaimKind.CONTINUOUS for c in self.claims)
        if vague:
            notes.append(f"{vague} without a voltage")
        untested = sum(not self.evidence[unit.id] for unit in self.units)
        if untested:
            notes.append(f"{untested} unit{'s' if untested > 1 else ''} untested")
        return notes


def _fit_view(
    group: str, load: float, bridged: bool, runs: Sequence[Evidence], claimed: Sequence[float], model: tables.Model
) -> VoltageFitView:
    fit = fit_voltage([(e.supply_volts, e.weakest) for e in runs])

    def estimate(volts: float) -> VoltageEstimateView:
        watts, low, high = fit.estimate(volts)
        return VoltageEstimateView(volts=volts, watts=watts, low=low, high=high)

    span = model.supply_high_volts - model.supply_low_volts
    return VoltageFitView(
        group=group,
        load_ohms=load,
        bridged=bridged,
        exponent=fit.exponent,
        exponent_low=fit.low,
        exponent_high=fit.high,
        points=[
            VoltagePointView(
                volts=e.supply_volts, watts=e.weakest, expanded_watts=e.budget.expanded, attempt_id=e.run_id
            )
            for e in sorted(runs, key=lambda e: e.supply_volts)
        ],
        curve=[estimate(model.supply_low_volts + span * step / CURVE_STEPS) for step in range(CURVE_STEPS + 1)],
        at_claims=[estimate(volts) for volts in claimed],
    )


def _tone_within(claim: Claim, usual_hz: float) -> float:
    """The usual tone, or the middle of a claim's band that leaves it out."""
    if claim.band_low_hz is None or claim.band_high_hz is None or claim.band_low_hz <= usual_hz <= claim.band_high_hz:
        return usual_hz
    return round(math.sqrt(claim.band_low_hz * claim.band_high_hz))


def evidence_of(campaigns: Sequence[tables.Campaign]) -> list[Evidence]:
    """The evidence in some campaigns of one unit, the oldest first.

    Findings that nobody overruled go along: an invalid one keeps the reading from speaking to any claim.
    """
    found = []
    for campaign in campaigns:
        for run in campaign.runs:
            attempt = chosen_attempt(run)
            if attempt is None or attempt.ending is None or not attempt.readings:
                continue
            method = method_of(campaign)
            if run.exploratory:
                continue
            invalid = standing(attempt, method, Severity.INVALID)
            ending = attempt.ending
            worst = max(float("inf") if r.thd_n is None else r.thd_n for r in attempt.readings)
            if ending.supply_volts is None:
                continue
            found.append(
                Evidence(
                    run_id=attempt.id,
                    group=run.group,
                    load_ohms=run.load_ohms,
                    bridged=run.bridged,
                    tone_hz=run.tone_hz,
                    watts=tuple(reading.watts for reading in attempt.readings),
                    supply_volts=ending.supply_volts,
                    all_driven=all_driven(run) and said_of(attempt).get("all_loaded", True),
                    end=End(ending.end),
                    thd_n=worst,
                    bracket_db=ending.bracket_db,
                    instruments=instruments_of(attempt),
                    attempts=comparable_watts(attempt),
                    load_tolerance=max(reading.load_tolerance for reading in attempt.readings),
                    tripped_watts=ending.tripped_watts,
                    mode=Mode(run.mode),
                    largest_watts=ending.largest_watts,
                    fit=fit_of(run),
                    invalid=invalid[0].message if invalid else "",
                    doubts=tuple(finding.message for finding in standing(attempt, method, Severity.DOUBT)),
                )
            )
    return found


def _latest(
    evidence: Sequence[Evidence], group: str, load: float, bridged: bool, mode: Mode = Mode.CERTIFIED
) -> Evidence | None:
    mine = [
        e
        for e in evidence
        if (e.group, e.load_ohms, e.bridged, e.mode) == (group, load, bridged, mode) and not e.invalid
    ]
    return mine[-1] if mine else None


def headroom(burst: Evidence | None, certified: Evidence | None) -> float | None:
    """Burst over certified power in dB, weakest channels; None while one of them is missing."""
    if burst is None or certified is None or not (burst.weakest > 0 and certified.weakest > 0):
        return None
    return headroom_db(burst.weakest, certified.weakest)
