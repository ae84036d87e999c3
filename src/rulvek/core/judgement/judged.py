"""A campaign as it is looked at: every attempt with its figures, U and findings; every run with its verdicts."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from rulvek.core.electrical.loads import bridged_equivalent
from rulvek.core.electrical.supply import VoltageFit, efficiency, exponent_for, sag
from rulvek.core.judgement.claims import conflicts
from rulvek.core.judgement.derived import average_expanded, efficiency_expanded, headroom_expanded, sag_expanded
from rulvek.core.judgement.evidence import Evidence, campaign_evidence
from rulvek.core.judgement.findings import Question, questions
from rulvek.core.judgement.uncertainty import Budget, allowances_of, meters_of, reading_budget
from rulvek.core.judgement.verdict import DecisionRule, Verdict, judge
from rulvek.core.judgement.voltage import FitKey, known_fit
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.burst_point import headroom_db
from rulvek.core.records.attempts import Attempt, Reading
from rulvek.core.records.campaigns import Campaign, Run
from rulvek.core.records.instruments import InstrumentRole, Specification
from rulvek.core.records.product import Model, Product
from rulvek.core.records.standing import RunState, comparable_watts, conditions_key, standing_attempt, state_of
from rulvek.core.runs.modes import Mode, reached
from rulvek.core.runs.settings import limit_ratio
from rulvek.core.signals.power import ratio_db


@dataclass(frozen=True)
class JudgedAttempt:
    """An attempt with all that is worked out from it.

    ``fit`` is how its unit follows the supply there; ``comparable`` its own weakest watts and those of its likes.
    """

    attempt: Attempt
    run: Run
    method: MethodProfile
    question: Question
    fit: VoltageFit | None
    comparable: tuple[float, ...] = ()

    def budget(self, reading: Reading) -> Budget | None:
        """The budget of one channel's watts; None where it read nothing.

        The spread of comparable attempts counts in proportion to the channel's own watts.
        """
        if reading.watts <= 0:
            return None
        compared = self.comparable
        scale = reading.watts / compared[0] if compared and compared[0] > 0 else 1.0
        ending = self.attempt.ending
        return reading_budget(
            reading.watts,
            reading.load.measured_ohms,
            reading.load.tolerance,
            meters_of(self.attempt.instruments, self.method),
            ending.bracket_db if ending else None,
            ending.supply_volts if ending else None,
            exponent_for(self.fit),
            np.asarray(compared, dtype=float) * scale,
            allowances_of(
                self.method,
                reading.load.measured_ohms,
                self.run.spec.tone_hz,
                ending.load_c if ending else None,
                ending.limit_slope if ending and self.at_limit else None,
                reading.load.inductance_uh,
                reading.load.ppm_per_kelvin,
            ),
        )

    @cached_property
    def expanded(self) -> Mapping[int, float | None]:
        """U in W by channel; None where it read nothing."""
        budgets = {reading.channel: self.budget(reading) for reading in self.attempt.readings}
        return {channel: budget.expanded if budget else None for channel, budget in budgets.items()}

    @property
    def weakest_expanded(self) -> float | None:
        """U of the weakest channel."""
        weakest = self.attempt.weakest
        budget = self.budget(weakest) if weakest else None
        return budget.expanded if budget else None

    @property
    def at_limit(self) -> bool:
        """Whether there is a reading at the end that the mode is meant to have."""
        ending = self.attempt.ending
        return ending is not None and bool(self.attempt.readings) and reached(self.run.spec.mode, ending.end)

    @property
    def average_watts(self) -> float | None:
        """Mean watts of the channels under test."""
        watts = [reading.watts for reading in self.attempt.readings]
        return sum(watts) / len(watts) if watts else None

    @cached_property
    def budgets(self) -> tuple[Budget, ...]:
        """Of every channel that read something, the weakest first."""
        budgets = [budget for reading in self.attempt.readings if (budget := self.budget(reading)) is not None]
        return tuple(sorted(budgets, key=lambda budget: budget.estimate))

    @property
    def average_expanded(self) -> float | None:
        """U of that mean."""
        return average_expanded(self.budgets)

    @property
    def efficiency_expanded(self) -> float | None:
        """U of the efficiency, a ratio."""
        ending, share = self.attempt.ending, self.efficiency
        if share is None or ending is None or not self.budgets or not ending.supply_volts or not ending.supply_amps:
            return None
        supply = meters_of(self.attempt.instruments, self.method).supply
        clamp = self.attempt.instruments.get(InstrumentRole.CLAMP)
        unknown = Specification("clamp", percent_of_reading=self.method.unknown_clamp_percent)
        return efficiency_expanded(
            share, self.budgets[0], ending.supply_volts, ending.supply_amps, supply, clamp or unknown
        )

    @property
    def sag_expanded(self) -> float | None:
        """U of the sag, in V."""
        supply = meters_of(self.attempt.instruments, self.method).supply
        return None if self.sag_volts is None else sag_expanded(self.sag_volts, supply)

    @property
    def efficiency(self) -> float | None:
        """Output over input, a ratio, of a steady mode; a burst's amps are averaged over the silence, and give none."""
        ending = self.attempt.ending
        if ending is None or self.run.spec.mode is Mode.BURST or not self.attempt.readings:
            return None
        if ending.supply_volts is None or ending.supply_amps is None or not self.run.read_wholly(self.attempt):
            return None
        output = sum(reading.watts for reading in self.attempt.readings) + (ending.companion_watts or 0.0)
        return efficiency(output, ending.supply_volts, ending.supply_amps)

    @property
    def sag_volts(self) -> float | None:
        """How far the supply fell from before the run to the reading."""
        ending = self.attempt.ending
        if ending is None or ending.start_volts is None or ending.supply_volts is None:
            return None
        return sag(ending.start_volts, ending.supply_volts)

    @property
    def equivalent(self) -> tuple[int, float, float] | None:
        """What a bridged reading stands for: so many channels, watts and ohms of each; None of others."""
        watts = self.attempt.weakest_watts
        if not self.run.spec.bridged or watts is None:
            return None
        return (2 * len(self.run.channels), *bridged_equivalent(watts, self.run.spec.load_ohms))


@dataclass(frozen=True, slots=True)
class Proof:
    """What came of a proof.

    Attributes:
        watts: What was to be held.
        margin_db: Where it passed, how far THD+N stayed under the limit (None where nobody read it); where it failed,
            how much power was missing, below 0.
    """

    passed: bool
    watts: float
    margin_db: float | None

    @property
    def words(self) -> str:
        """“holds 76.5 W, THD+N 28.1 dB under the limit”."""
        if not self.passed:
            return f"{-(self.margin_db or 0.0):.2f} dB under the {self.watts:.4g} W to hold"
        under = "" if self.margin_db is None else f", THD+N {self.margin_db:.1f} dB under the limit"
        return f"holds {self.watts:.4g} W{under}"


@dataclass(frozen=True)
class JudgedRun:
    """A run with its attempts, the one that stands, and the verdicts that rest on it."""

    run: Run
    state: RunState
    attempts: tuple[JudgedAttempt, ...]
    standing: JudgedAttempt | None
    headroom_db: float | None
    headroom_expanded: float | None
    verdicts: tuple[Verdict, ...]

    @property
    def proof(self) -> Proof | None:
        """What came of it where it was to hold something; None where nothing was read, or of other modes."""
        target, judged = self.run.spec.watts, self.standing
        watts = judged.attempt.weakest_watts if judged else None
        if target is None or judged is None or not watts:
            return None
        if not judged.at_limit:
            return Proof(False, target, ratio_db(watts, target))
        read = [reading.thd_n for reading in judged.attempt.readings if reading.thd_n]
        limit = limit_ratio(judged.method, Mode.PROOF)
        return Proof(True, target, 20 * math.log10(limit / max(read)) if read else None)

    @property
    def differences(self) -> list[tuple[int, float, float]]:
        """How the other attempts' weakest channels differ from the standing one's: id, dB, percent."""
        base = self.standing.attempt.weakest_watts if self.standing else None
        if self.standing is None or not base or base <= 0:
            return []
        return [
            (one.attempt.id, ratio_db(watts, base), 100 * (watts / base - 1))
            for one in self.attempts
            if one.attempt.id != self.standing.attempt.id and (watts := one.attempt.weakest_watts) and watts > 0
        ]


@dataclass(frozen=True)
class JudgedCampaign:
    """A campaign judged by what it alone shows, under its stored method; ``rule`` is the decision rule in force."""

    campaign: Campaign
    model: Model
    runs: tuple[JudgedRun, ...]
    verdicts: Mapping[int, Verdict]
    evidence: tuple[Evidence, ...]
    rule: DecisionRule


def judge_campaign(
    campaign: Campaign,
    model: Model,
    fits: Mapping[FitKey, VoltageFit],
    rule: DecisionRule = DecisionRule.AS_STORED,
) -> JudgedCampaign:
    """Judge a campaign; ``fits`` are its unit's."""
    evidence = campaign_evidence(campaign, model.product, fits)
    against = conflicts(model.standing_claims)
    verdicts = {
        claim.id: judge(claim, evidence, campaign.method, against.get(claim.id, ()), rule)
        for claim in model.standing_claims
    }
    resting: dict[int | None, list[Verdict]] = {}
    for verdict in verdicts.values():
        resting.setdefault(verdict.attempt_id, []).append(verdict)
    attempts = judged_attempts(campaign, model.product, fits)
    certified = {conditions_key(run): run for run in campaign.runs if run.spec.mode is Mode.CERTIFIED}
    return JudgedCampaign(
        campaign,
        model,
        tuple(_judged_run(run, attempts, certified.get(conditions_key(run)), resting) for run in campaign.runs),
        verdicts,
        evidence,
        rule.in_force(campaign.method),
    )


def judged_attempts(
    campaign: Campaign, product: Product, fits: Mapping[FitKey, VoltageFit]
) -> Mapping[int, JudgedAttempt]:
    """Every attempt of a campaign, on record or not, among the campaign's others; ``fits`` are its unit's."""
    asked = questions(campaign, product)
    found: dict[int, JudgedAttempt] = {}
    for run in campaign.runs:
        comparable, fit = comparable_watts(run), known_fit(fits, run.spec.place, run.spec.mode)
        for one in run.attempts:
            found[one.id] = JudgedAttempt(one, run, campaign.method, asked[one.id], fit, comparable[one.id])
    return found


def _judged_run(
    run: Run,
    judged: Mapping[int, JudgedAttempt],
    certified: Run | None,
    resting: Mapping[int | None, list[Verdict]],
) -> JudgedRun:
    attempts = tuple(judged[attempt.id] for attempt in run.attempts)
    chosen = standing_attempt(run)
    standing = next((one for one in attempts if chosen is not None and one.attempt.id == chosen.id), None)
    return JudgedRun(
        run,
        state_of(run),
        attempts,
        standing,
        *_headroom(run, certified, standing, judged),
        tuple(resting.get(chosen.id, ())) if chosen else (),
    )


def _headroom(
    run: Run, certified: Run | None, standing: JudgedAttempt | None, judged: Mapping[int, JudgedAttempt]
) -> tuple[float | None, float | None]:
    """Burst over certified in dB, with its U; None of other modes, and where either is missing."""
    steady = standing_attempt(certified) if certified is not None and run.spec.mode is Mode.BURST else None
    base = steady.weakest_watts if steady is not None else None
    watts = standing.attempt.weakest_watts if standing is not None else None
    if steady is None or standing is None or not watts or not base:
        return None, None
    both = standing.budgets, judged[steady.id].budgets
    expanded = headroom_expanded(both[0][0], both[1][0]) if all(both) else None
    return headroom_db(watts, base), expanded
