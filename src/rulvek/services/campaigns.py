"""Campaigns: planned from the model's rated loads, followed while they run, read as a sheet."""

from datetime import UTC, datetime
from typing import Literal

from rulvek.core.errors import BadInput
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.steps import End
from rulvek.core.planning.ladder import PlannedRun, certified_ladder
from rulvek.services.judging import ModelJudgement
from rulvek.services.records import attempt_view, chosen_attempt, core_group, method_of, standing_claims, step_view
from rulvek.services.views import CampaignList, CampaignRow, CampaignView, CompanionView, RunView, StepView, VerdictView
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database, Session

PAGE = 50


class Campaigns:
    """Plans campaigns and reads what came of them."""

    def __init__(self, database: Database, bench_name: str = "Bench 1") -> None:
        self._database, self._bench_name = database, bench_name

    def create(
        self, unit_id: int, person: str, supply_volts: float | None = None, method: MethodProfile | None = None
    ) -> CampaignView:
        """Plan certified runs of a unit at every rated load, at one supply setting.

        Raises:
            BadInput: a supply voltage outside of the model's range.
        """
        method = method or MethodProfile()
        volts = method.reference_volts if supply_volts is None else supply_volts
        with self._database.writing() as session:
            unit = queries.get(session, tables.Unit, unit_id)
            model = unit.model
            if not model.supply_low_volts <= volts <= model.supply_high_volts:
                raise BadInput(
                    f"{model.name} takes {model.supply_low_volts:g} to {model.supply_high_volts:g} V, not {volts:g} V.",
                    field="supply_volts",
                )
            campaign = queries.add(
                session,
                tables.Campaign(
                    unit_id=unit_id,
                    bench=self._bench_name,
                    supply_volts=volts,
                    method=method.as_data(),
                    created_by=person,
                    created_at=datetime.now(UTC),
                ),
            )
            groups = [core_group(group) for group in model.groups]
            for position, planned in enumerate(certified_ladder(groups, standing_claims(model), method, volts), 1):
                queries.add(session, _run_row(campaign.id, position, planned))
            text = f"{unit.serial}, certified, {volts:g} V"
            audit.note(session, person, "planned a campaign", f"campaign/{campaign.id}", text=text)
        return self.get(campaign.id)

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


def _run_row(campaign_id: int, position: int, planned: PlannedRun) -> tables.Run:
    return tables.Run(
        campaign_id=campaign_id,
        position=position,
        mode="certified",
        group=planned.group,
        channels=list(planned.channels),
        load_ohms=planned.load_ohms,
        bridged=planned.bridged,
        tone_hz=planned.tone_hz,
        supply_volts=planned.supply_volts,
        companions=[list(pair) for pair in planned.companion_loads],
        reason=planned.reason,
    )


def campaign_row(row: tables.Campaign) -> CampaignRow:
    """A campaign in a list."""
    return CampaignRow(
        id=row.id,
        unit_id=row.unit_id,
        unit_serial=row.unit.serial,
        model_id=row.unit.model_id,
        model_name=row.unit.model.name,
        bench=row.bench,
        supply_volts=row.supply_volts,
        created_by=row.created_by,
        created_at=row.created_at,
        runs=len(row.runs),
        runs_done=sum(_state(run) == "done" for run in row.runs),
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
        thd_n_limit_percent=method.thd_n_limit_percent,
        reference_volts=method.reference_volts,
        method_name=method.name,
        created_by=row.created_by,
        created_at=row.created_at,
        runs=[run_view(run, method, by_attempt) for run in row.runs],
        claims=judgement.claim_views(),
        reaches=judgement.reaches(row.unit),
        last_step_id=queries.last_step_id(session),
    )


def run_view(
    run: tables.Run, method: MethodProfile, by_attempt: dict[int | None, list[VerdictView]] | None = None
) -> RunView:
    """A run with its attempts and the verdicts that rest on the chosen one."""
    chosen = chosen_attempt(run)
    return RunView(
        id=run.id,
        position=run.position,
        mode=run.mode,
        group=run.group,
        channels=run.channels,
        load_ohms=run.load_ohms,
        bridged=run.bridged,
        tone_hz=run.tone_hz,
        supply_volts=run.supply_volts,
        companions=[CompanionView(channel=channel, load_ohms=ohms) for channel, ohms in run.companions],
        reason=run.reason,
        state=_state(run),
        attempts=[attempt_view(attempt, method) for attempt in run.attempts],
        chosen=attempt_view(chosen, method) if chosen else None,
        verdicts=(by_attempt or {}).get(chosen.id, []) if chosen else [],
    )


_DONE = {End.LIMIT, End.CLIP, End.NO_MORE_OUTPUT, End.PROTECTED, End.RECOVERING, End.INPUT_EXHAUSTED}


def _state(run: tables.Run) -> Literal["waiting", "running", "done"]:
    """A run that an operator, a fault, the supply or the heat ended still waits to be done."""
    if any(attempt.ending is None for attempt in run.attempts):
        return "running"
    if any(attempt.ending is not None and attempt.ending.end in _DONE for attempt in run.attempts):
        return "done"
    return "waiting"
