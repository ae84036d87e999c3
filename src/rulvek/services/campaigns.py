"""Campaigns: put on record from a plan, followed while they run, read as a sheet."""

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Literal

from rulvek.bench.sim.catalogue import EQUIPMENT
from rulvek.core.errors import BadInput
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.burst import headroom_db
from rulvek.core.measure.power import ratio_db
from rulvek.core.measure.steps import End, Mode
from rulvek.core.planning.equipment import SupplyPolicy
from rulvek.core.planning.plan import PlannedRun, Wishes
from rulvek.core.planning.wiring import RunSpec, rewirings
from rulvek.services.before_power import preparation_views
from rulvek.services.checking import findings, questioned_view
from rulvek.services.judging import ModelJudgement
from rulvek.services.planner import boxes_in_words, connection_view, plan_for
from rulvek.services.records import (
    STOPPED_SHORT,
    chosen_attempt,
    companions_of,
    method_of,
    policy_of,
    step_view,
    under_test_of,
    wishes_data,
)
from rulvek.services.views.attempt import AttemptView, ChoiceView, DifferenceView, StepView
from rulvek.services.views.campaign import CampaignView, RunView, WiringView
from rulvek.services.views.line import CampaignList, CampaignRow, VerdictView
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database, Session

POLICY_WORDS = {
    SupplyPolicy.HELD: "held at",
    SupplyPolicy.BANK: "floating bank from",
    SupplyPolicy.THREE_POINTS: "three points up to",
}
PAGE = 50


class Campaigns:
    """Plans campaigns and reads what came of them."""

    def __init__(self, database: Database, bench_name: str = "Bench 1") -> None:
        self._database, self._bench_name = database, bench_name

    def create(
        self,
        unit_id: int,
        person: str,
        wishes: Wishes | None = None,
        specs: Sequence[RunSpec] | None = None,
        method: MethodProfile | None = None,
    ) -> CampaignView:
        """Put a plan on record: of the given runs in the given order, or of those that the wishes propose.

        Raises:
            BadInput: wishes or runs that this model cannot have, or no run at all.
        """
        with self._database.writing() as session:
            campaign = self.create_in(session, unit_id, person, wishes or Wishes(), specs, method)
        return self.get(campaign.id)

    def create_in(
        self,
        session: Session,
        unit_id: int,
        person: str,
        wishes: Wishes,
        specs: Sequence[RunSpec] | None,
        method: MethodProfile | None = None,
    ) -> tables.Campaign:
        """The same within the caller's transaction."""
        method = method or MethodProfile()
        unit = queries.get(session, tables.Unit, unit_id)
        plan = plan_for(session, unit, wishes, specs, method)
        if not plan.runs:
            raise BadInput("A plan needs at least one run.", field="runs")
        volts = max(run.spec.supply_volts for run in plan.runs)
        campaign = queries.add(
            session,
            tables.Campaign(
                unit_id=unit_id,
                bench=self._bench_name,
                supply_volts=volts,
                method=method.as_data(),
                wishes=wishes_data(wishes),
                created_by=person,
                created_at=datetime.now(UTC),
            ),
        )
        for position, planned in enumerate(plan.runs, 1):
            queries.add(session, _run_row(campaign.id, position, planned))
        modes = ", ".join(dict.fromkeys(run.spec.mode.value for run in plan.runs))
        text = f"{unit.serial}, {modes}, {_runs(len(plan.runs))}, {POLICY_WORDS[wishes.policy]} {volts:g} V"
        audit.note(session, person, "planned a campaign", f"campaign/{campaign.id}", text=text)
        return campaign

    def choose(self, run_id: int, attempt_id: int, person: str, reason: str) -> CampaignView:
        """Say which attempt stands for a run, and why; all are kept.

        Raises:
            BadInput: no reason, or an attempt that is not one of the run's or did not end.
        """
        if not reason.strip():
            raise BadInput("Say why this attempt stands for the run.", field="reason")
        with self._database.writing() as session:
            run = queries.get(session, tables.Run, run_id)
            attempt = next((a for a in run.attempts if a.id == attempt_id), None)
            if attempt is None or attempt.ending is None:
                raise BadInput(f"Run {run_id} has no ended attempt {attempt_id}.", field="attempt_id")
            row = tables.AttemptChoice(
                run_id=run_id, attempt_id=attempt_id, reason=reason.strip(), by=person, at=datetime.now(UTC)
            )
            queries.add(session, row)
            text = f"{run.mode}, {run.load_ohms:g} Ω {run.group}: attempt {attempt.number}, {reason.strip()}"
            audit.note(session, person, "chose an attempt", f"campaign/{run.campaign_id}", text=text)
            campaign_id = run.campaign_id
        return self.get(campaign_id)

    def remark(self, attempt_id: int, person: str, text: str) -> CampaignView:
        """Note something about an attempt.

        Raises:
            BadInput: nothing to note.
        """
        if not text.strip():
            raise BadInput("Write what there is to remark.", field="text")
        with self._database.writing() as session:
            attempt = queries.get(session, tables.Attempt, attempt_id)
            queries.add(
                session, tables.Remark(attempt_id=attempt_id, text=text.strip(), by=person, at=datetime.now(UTC))
            )
            campaign_id = attempt.run.campaign_id
            audit.note(session, person, "remarked", f"campaign/{campaign_id}", text=text.strip())
        return self.get(campaign_id)

    def overrule(self, attempt_id: int, code: str, person: str, reason: str) -> CampaignView:
        """Set a finding aside, for a reason that is recorded and signed by name.

        Raises:
            BadInput: no reason, or nothing of that code was found.
        """
        if not reason.strip():
            raise BadInput("Say why the finding can be set aside.", field="reason")
        with self._database.writing() as session:
            attempt = queries.get(session, tables.Attempt, attempt_id)
            _overruled(attempt, code, method_of(attempt.run.campaign))
            row = tables.Overruling(
                attempt_id=attempt_id, code=code, reason=reason.strip(), by=person, at=datetime.now(UTC)
            )
            queries.add(session, row)
            campaign_id = attempt.run.campaign_id
            text = f"attempt {attempt.number}, {code}: {reason.strip()}"
            audit.note(session, person, "overruled a finding", f"campaign/{campaign_id}", text=text)
        return self.get(campaign_id)

    def get(self, campaign_id: int) -> CampaignView:
        """A campaign as the live bench and the sheet show it."""
        with self._database.reading() as session:
            return campaign_view(session, queries.campaign(session, campaign_id))

    def listed(self, before: int | None = None, limit: int = PAGE) -> CampaignList:
        """Campaigns, the newest first."""
        with self._database.reading() as session:
            rows = queries.campaigns(session, before, limit + 1)
            items = [campaign_row(row) for row in rows[:limit]]
        return CampaignList(items=items, next=items[-1].id if len(rows) > limit else None)

    def steps(self, attempt_id: int) -> list[StepView]:
        """All steps of an attempt so far."""
        with self._database.reading() as session:
            queries.get(session, tables.Attempt, attempt_id)
            return [step_view(step) for step in queries.steps(session, attempt_id)]

    def steps_after(self, campaign_id: int, after: int) -> list[StepView]:
        """A campaign's steps past a step id, for watchers."""
        with self._database.reading() as session:
            return [step_view(step) for step in queries.campaign_steps_after(session, campaign_id, after)]


def _runs(count: int) -> str:
    return "1 run" if count == 1 else f"{count} runs"


def _overruled(attempt: tables.Attempt, code: str, method: MethodProfile) -> None:
    """Refuse to set aside what was not found."""
    if code not in {finding.code for finding in findings(attempt, method)}:
        raise BadInput(f"The checks found no “{code}” in this attempt.", field="code")


def _run_row(campaign_id: int, position: int, planned: PlannedRun) -> tables.Run:
    spec, expected = planned.spec, planned.prediction
    return tables.Run(
        campaign_id=campaign_id,
        position=position,
        mode=spec.mode.value,
        group=spec.group,
        channels=[link.number for link in planned.under_test],
        load_ohms=spec.load_ohms,
        bridged=spec.bridged,
        tone_hz=spec.tone_hz,
        burst=spec.burst,
        supply_volts=spec.supply_volts,
        companions=[[list(link.channels), link.nominal_ohms] for link in planned.companions],
        exploratory=planned.exploratory,
        wiring=planned.wiring,
        wiring_key=planned.wiring_key,
        predicted={
            "watts": expected.watts,
            "amps": expected.amps,
            "minutes": (expected.run_seconds + expected.cooling_seconds) / 60,
        },
        reason=planned.reason,
    )


def campaign_row(row: tables.Campaign) -> CampaignRow:
    """A campaign in a list."""
    left = [run for run in row.runs if _state(run) != "done"]
    known = all("minutes" in run.predicted for run in left)
    moved = rewirings([run.wiring_key for run in left])
    return CampaignRow(
        id=row.id,
        unit_id=row.unit_id,
        unit_serial=row.unit.serial,
        model_id=row.unit.model_id,
        model_name=row.unit.model.name,
        bench=row.bench,
        supply_volts=row.supply_volts,
        policy=policy_of(row),
        modes=list(dict.fromkeys(Mode(run.mode) for run in row.runs)),
        created_by=row.created_by,
        created_at=row.created_at,
        minutes_left=(
            sum(run.predicted["minutes"] for run in left) + moved * EQUIPMENT.rewire_minutes if known and left else None
        ),
        runs=len(row.runs),
        runs_done=len(row.runs) - len(left),
        running=any(_state(run) == "running" for run in row.runs),
    )


def campaign_view(session: Session, row: tables.Campaign) -> CampaignView:
    """A campaign with its runs, judged by what this campaign alone shows."""
    method, model = method_of(row), row.unit.model
    judgement = ModelJudgement(model, [row.unit], only=row)
    by_attempt: dict[int | None, list[VerdictView]] = {}
    for claim in judgement.claims:
        verdict = judgement.of_unit(claim, row.unit.id)
        by_attempt.setdefault(verdict.attempt_id, []).append(verdict)
    certified = {_condition(run): run for run in row.runs if run.mode == Mode.CERTIFIED}
    return CampaignView(
        id=row.id,
        unit_id=row.unit_id,
        unit_serial=row.unit.serial,
        model_id=model.id,
        model_name=model.name,
        series_name=model.series.name,
        test_controls=list(model.test_controls),
        bench=row.bench,
        supply_volts=row.supply_volts,
        policy=policy_of(row),
        modes=list(dict.fromkeys(Mode(run.mode) for run in row.runs)),
        rewirings=rewirings([run.wiring_key for run in row.runs]),
        wirings=_wiring_views(row),
        thd_n_limit_percent=method.thd_n_limit_percent,
        uncertified_limit_percent=method.uncertified_limit_percent,
        gain_match_db=method.gain_match_db,
        reference_volts=method.reference_volts,
        method_name=method.name,
        created_by=row.created_by,
        created_at=row.created_at,
        runs=[run_view(run, method, by_attempt, certified.get(_condition(run))) for run in row.runs],
        claims=judgement.claim_views(),
        reaches=judgement.reaches(row.unit),
        last_step_id=queries.last_step_id(session),
    )


def _condition(run: tables.Run) -> tuple[str, float, bool, float]:
    return run.group, run.load_ohms, run.bridged, run.supply_volts


def _wiring_views(row: tables.Campaign) -> list[WiringView]:
    firsts = {run.wiring: run for run in reversed(row.runs)}
    views = []
    for number, run in sorted(firsts.items()):
        links = sorted((*under_test_of(run), *companions_of(run)), key=lambda link: link.number)
        views.append(
            WiringView(
                number=number,
                connections=[connection_view(link) for link in links],
                boxes=[boxes_in_words(link) for link in links],
                exploratory=run.exploratory,
                preparations=preparation_views(row, run.wiring_key),
            )
        )
    return views


def run_view(
    run: tables.Run,
    method: MethodProfile,
    by_attempt: dict[int | None, list[VerdictView]],
    certified: tables.Run | None,
) -> RunView:
    """A run with its attempts and the verdicts that rest on the chosen one; headroom is over ``certified``."""
    chosen = chosen_attempt(run)
    choice = run.choices[-1] if run.choices else None
    attempts = [questioned_view(attempt, method) for attempt in run.attempts]
    chosen_view = next((a for a in attempts if chosen is not None and a.id == chosen.id), None)
    return RunView(
        id=run.id,
        position=run.position,
        mode=Mode(run.mode),
        group=run.group,
        channels=run.channels,
        load_ohms=run.load_ohms,
        bridged=run.bridged,
        tone_hz=run.tone_hz,
        burst=run.burst,
        supply_volts=run.supply_volts,
        companions=[connection_view(link) for link in companions_of(run)],
        exploratory=run.exploratory,
        wiring=run.wiring,
        predicted_watts=run.predicted.get("watts"),
        predicted_amps=run.predicted.get("amps"),
        predicted_minutes=run.predicted.get("minutes"),
        reason=run.reason,
        state=_state(run),
        attempts=attempts,
        chosen=chosen_view,
        choice=ChoiceView(attempt_id=choice.attempt_id, reason=choice.reason, by=choice.by, at=choice.at)
        if choice
        else None,
        differences=_differences(attempts, chosen_view),
        headroom_db=_headroom(run, certified, chosen_view),
        verdicts=by_attempt.get(chosen.id, []) if chosen else [],
    )


def _differences(attempts: Sequence[AttemptView], chosen: AttemptView | None) -> list[DifferenceView]:
    if chosen is None or not chosen.weakest_watts:
        return []
    return [
        DifferenceView(
            attempt_id=attempt.id,
            db=ratio_db(attempt.weakest_watts, chosen.weakest_watts),
            percent=100 * (attempt.weakest_watts / chosen.weakest_watts - 1),
        )
        for attempt in attempts
        if attempt.id != chosen.id and attempt.weakest_watts
    ]


def _headroom(run: tables.Run, certified: tables.Run | None, chosen: AttemptView | None) -> float | None:
    steady = chosen_attempt(certified) if certified is not None and run.mode == Mode.BURST else None
    if steady is None or not steady.readings or chosen is None or not chosen.weakest_watts:
        return None
    return headroom_db(chosen.weakest_watts, min(reading.watts for reading in steady.readings))


def _state(run: tables.Run) -> Literal["waiting", "running", "done"]:
    """A run that an operator, a fault, the supply or the heat ended still waits to be done."""
    if any(attempt.ending is None for attempt in run.attempts):
        return "running"
    if any(a.ending is not None and End(a.ending.end) not in STOPPED_SHORT for a in run.attempts):
        return "done"
    return "waiting"
