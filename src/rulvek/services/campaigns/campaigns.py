"""Campaigns: put on record from a plan, followed while they run, read as a sheet."""

from collections.abc import Sequence

from rulvek import clock
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.judgement.checks import Severity
from rulvek.core.judgement.findings import questions
from rulvek.core.judgement.judged import JudgedCampaign, judge_campaign
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.plan import Plan, PlannedRun
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import ReadingWithdrawal, Remark, SetAside
from rulvek.core.records.campaigns import Campaign, Choice, Expected, Run, Unit
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.spec import RunSpec
from rulvek.services.before_power import standing_preparations
from rulvek.services.campaigns.planner import EquipmentOf, plan_of
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.attempt import StepView, step_view
from rulvek.services.views.campaign import CampaignView, campaign_row, campaign_view
from rulvek.services.views.line import CampaignList
from rulvek.store import audit, load, save
from rulvek.store.engine import Database, Session
from rulvek.store.queries import campaigns as queries
from rulvek.store.queries import records as record_queries

POLICY_WORDS = {
    SupplyPolicy.HELD: "held at",
    SupplyPolicy.BANK: "floating bank from",
    SupplyPolicy.THREE_POINTS: "three points up to",
}
PAGE = 50


class Campaigns:
    """Plans campaigns and reads what came of them."""

    def __init__(self, database: Database, conclusions: Conclusions, equipment_of: EquipmentOf) -> None:
        self._database, self._conclusions, self._equipment_of = database, conclusions, equipment_of

    def create(
        self,
        unit_id: int,
        actor: Actor,
        wishes: Wishes | None = None,
        specs: Sequence[RunSpec] | None = None,
        method: MethodProfile | None = None,
        bench: str | None = None,
    ) -> CampaignView:
        """Put a plan on record: of the given runs in the given order, or of those that the wishes propose.

        Raises:
            BadInput: wishes or runs that this model cannot have, or no run at all.
        """
        wishes = wishes or Wishes()
        equipment = self._equipment_of(bench)
        with self._database.reading() as session:
            unit = load.unit(session, unit_id)
            model = load.model(session, unit.model_id)
            known = self._conclusions.known(session, model)
            method = self._conclusions.method_today(session, method)
        plan = plan_of(model, wishes, specs, known, method, equipment)
        planned = written_campaign(unit, plan, wishes, method, equipment.name, actor)
        with self._database.writing() as session:
            campaign_id, _ = save_campaign(session, planned)
            text = campaign_words(planned)
            audit.note(session, actor, "planned a campaign", f"campaign/{campaign_id}", text=text)
        return self.get(campaign_id)

    def choose(self, run_id: int, attempt_id: int, actor: Actor, reason: str) -> CampaignView:
        """Say which attempt stands for a run, and why; all are kept.

        Raises:
            BadInput: no reason, or an attempt that is not one of the run's or did not end.
            Conflict: its reading was withdrawn.
        """
        if not reason.strip():
            raise BadInput("Say why this attempt stands for the run.", field="reason")
        with self._database.reading() as session:
            campaign, run = load.campaign_of_run(session, run_id)
        attempt = next((a for a in run.attempts if a.id == attempt_id), None)
        if attempt is None or attempt.ending is None:
            raise BadInput(f"Run {run_id} has no ended attempt {attempt_id}.", field="attempt_id")
        if attempt.withdrawn is not None:
            raise Conflict(f"The reading of attempt {attempt.number} was withdrawn: {attempt.withdrawn.reason}.")
        with self._database.writing() as session:
            save.choice(session, campaign.id, run_id, Choice(attempt_id, reason.strip(), actor.name, clock.now()))
            spec = run.spec
            text = f"{spec.mode}, {spec.load_ohms:g} Ω {spec.group}: attempt {attempt.number}, {reason.strip()}"
            audit.note(session, actor, "chose an attempt", f"campaign/{campaign.id}", text=text)
        return self._changed(campaign)

    def remark(self, attempt_id: int, actor: Actor, text: str) -> CampaignView:
        """Note something about an attempt.

        Raises:
            BadInput: nothing to note.
        """
        if not text.strip():
            raise BadInput("Write what there is to remark.", field="text")
        with self._database.reading() as session:
            campaign, _, _ = load.attempt(session, attempt_id)
        with self._database.writing() as session:
            save.remark(session, attempt_id, Remark(text.strip(), actor.name, clock.now()))
            audit.note(session, actor, "remarked", f"campaign/{campaign.id}", text=text.strip())
        return self.get(campaign.id)

    def weight_of(self, attempt_id: int, code: str) -> Severity:
        """How heavy a finding of an attempt is.

        Raises:
            BadInput: nothing of that code was found.
        """
        with self._database.reading() as session:
            campaign, _, _ = load.attempt(session, attempt_id)
            model = load.model(session, campaign.unit.model_id)
        for finding, _ in questions(campaign, model.product)[attempt_id].findings:
            if finding.code == code:
                return finding.severity
        raise BadInput(f"The checks found no “{code}” in this attempt.", field="code")

    def set_aside(self, attempt_id: int, code: str, actor: Actor, reason: str) -> CampaignView:
        """Set a finding aside, for a reason that is recorded and signed by name.

        Raises:
            BadInput: no reason, or nothing of that code was found.
        """
        if not reason.strip():
            raise BadInput("Say why the finding can be set aside.", field="reason")
        with self._database.reading() as session:
            campaign, _, attempt = load.attempt(session, attempt_id)
            model = load.model(session, campaign.unit.model_id)
        found = questions(campaign, model.product)[attempt_id].findings
        if code not in {finding.code for finding, _ in found}:
            raise BadInput(f"The checks found no “{code}” in this attempt.", field="code")
        with self._database.writing() as session:
            aside = SetAside(code, reason.strip(), actor.name, clock.now())
            save.set_aside(session, campaign.id, attempt_id, aside)
            text = f"attempt {attempt.number}, {code}: {reason.strip()}"
            audit.note(session, actor, "overruled a finding", f"campaign/{campaign.id}", text=text)
        return self._changed(campaign)

    def withdraw(self, attempt_id: int, actor: Actor, reason: str, withdrawn: bool = True) -> CampaignView:
        """Withdraw a reading, which stays on record and counts nowhere; or let it count again.

        Raises:
            BadInput: no reason.
            Conflict: there is no reading yet, or it is withdrawn already, or counts already.
        """
        if not reason.strip():
            why = "is withdrawn" if withdrawn else "counts again"
            raise BadInput(f"Say why the reading {why}.", field="reason")
        with self._database.reading() as session:
            campaign, _, attempt = load.attempt(session, attempt_id)
        if attempt.ending is None or not attempt.readings:
            raise Conflict(f"Attempt {attempt.number} has no reading.")
        if (attempt.withdrawn is not None) == withdrawn:
            state = "was withdrawn" if withdrawn else "counts"
            raise Conflict(f"The reading of attempt {attempt.number} {state} already.")
        entry = ReadingWithdrawal(withdrawn, reason.strip(), actor.name, clock.now())
        with self._database.writing() as session:
            save.reading_withdrawal(session, campaign.id, attempt_id, entry)
            done = "withdrew a reading" if withdrawn else "let a reading count again"
            text = f"attempt {attempt.number}: {reason.strip()}"
            audit.note(session, actor, done, f"campaign/{campaign.id}", text=text)
        return self._changed(campaign)

    def get(self, campaign_id: int, rule: DecisionRule = DecisionRule.AS_STORED) -> CampaignView:
        """A campaign as the live bench and the sheet show it."""
        with self._database.reading() as session:
            judged = self._judged(session, campaign_id, rule)
            holds = standing_preparations(session, judged.campaign)
            last, head = queries.last_step_id(session), audit.head(session)
            benches = {bench.name: bench.id for bench in record_queries.benches(session)}
        name = judged.campaign.bench
        equipment = self._equipment_of(name if name in benches else None)
        return campaign_view(judged, holds, equipment, benches.get(name), last, head)

    def judged(self, campaign_id: int, rule: DecisionRule = DecisionRule.AS_STORED) -> JudgedCampaign:
        """A campaign with all that is worked out from it, for sheets."""
        with self._database.reading() as session:
            return self._judged(session, campaign_id, rule)

    def _judged(self, session: Session, campaign_id: int, rule: DecisionRule) -> JudgedCampaign:
        campaign = load.campaign(session, campaign_id)
        model = load.model(session, campaign.unit.model_id)
        fits = self._conclusions.fits(session, [campaign.unit])[campaign.unit.id]
        return judge_campaign(campaign, model, fits, rule)

    def listed(
        self, before: int | None = None, limit: int = PAGE, which: queries.Which = "all", unit_id: int | None = None
    ) -> CampaignList:
        """Campaigns, the newest first; all, or those with runs left, or those without."""
        with self._database.reading() as session:
            rows, following = queries.campaigns_page(session, before, limit, which, unit_id)
        return CampaignList(items=[campaign_row(row) for row in rows], next=following)

    def require(self, campaign_id: int) -> None:
        """See that a campaign is on record.

        Raises:
            NotFound: it is not.
        """
        with self._database.reading() as session:
            if not queries.campaign_exists(session, campaign_id):
                raise NotFound(f"There is no campaign number {campaign_id}.")

    def steps(self, attempt_id: int) -> list[StepView]:
        """All steps of an attempt so far."""
        with self._database.reading() as session:
            load.run_of_attempt(session, attempt_id)
            return [_step_view(step) for step in queries.steps(session, attempt_id)]

    def steps_after(self, campaign_id: int, after: int) -> list[StepView]:
        """A campaign's steps past a step id, for watchers."""
        with self._database.reading() as session:
            return [_step_view(step) for step in queries.steps_after(session, campaign_id, after)]

    def _changed(self, campaign: Campaign) -> CampaignView:
        self._conclusions.changed(campaign.unit.model_id, campaign.unit.id)
        return self.get(campaign.id)


def written_campaign(
    unit: Unit, plan: Plan, wishes: Wishes, method: MethodProfile, bench: str, actor: Actor
) -> Campaign:
    """A plan as the campaign that it will be on record; its ids are 0.

    Raises:
        BadInput: a plan without runs.
    """
    if not plan.runs:
        raise BadInput("A plan needs at least one run.", field="runs")
    return Campaign(
        id=0,
        unit=unit,
        bench=bench,
        supply_volts=max(run.spec.supply_volts for run in plan.runs),
        method=method,
        wishes=wishes,
        created_by=actor.name,
        created_at=clock.now(),
        runs=tuple(_run(position, planned) for position, planned in enumerate(plan.runs, 1)),
    )


def save_campaign(session: Session, planned: Campaign, arriving: bool = False) -> tuple[int, list[int]]:
    """Put a campaign on record; returns its id and its runs'."""
    return save.campaign(
        session,
        unit_id=planned.unit.id,
        bench=planned.bench,
        supply_volts=planned.supply_volts,
        method=planned.method.as_data(),
        wishes=planned.wishes,
        by=planned.created_by,
        at=planned.created_at,
        runs=planned.runs,
        arriving=arriving,
        came_from=planned.came_from,
    )


def campaign_words(campaign: Campaign) -> str:
    """“CB1-2604-0117, certified, burst, 6 runs, held at 14.4 V”."""
    modes = ", ".join(dict.fromkeys(run.spec.mode.value for run in campaign.runs))
    count = "1 run" if len(campaign.runs) == 1 else f"{len(campaign.runs)} runs"
    return f"{campaign.unit.serial}, {modes}, {count}, {POLICY_WORDS[campaign.policy]} {campaign.supply_volts:g} V"


def _run(position: int, planned: PlannedRun) -> Run:
    expected = planned.prediction
    minutes = (expected.run_seconds + expected.cooling_seconds) / 60
    return Run(
        id=0,
        position=position,
        spec=planned.spec,
        channels=tuple(link.number for link in planned.under_test),
        companions=planned.companions,
        reason=planned.reason,
        exploratory=planned.exploratory,
        wiring=planned.wiring,
        wiring_key=planned.wiring_key,
        expected=Expected(expected.watts, expected.amps, minutes),
    )


def _step_view(step: queries.StepRow) -> StepView:
    return step_view(step.id, step.attempt_id, step.kind, step.at_seconds, step.data)
