"""Answers about plans, campaigns and the bench."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, Literal

from rulvek.core.electrical.loads import Connection
from rulvek.core.electrical.networks import networks
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.judgement.judged import JudgedCampaign, JudgedRun
from rulvek.core.judgement.reach import unit_reaches
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import REWIRE_MINUTES, Equipment
from rulvek.core.planning.plan import Plan, PlannedRun
from rulvek.core.planning.prediction import Obstacle
from rulvek.core.planning.wiring import rewirings
from rulvek.core.quantities import field_names
from rulvek.core.records.before_power import Item, Preparation, Standing
from rulvek.core.records.campaigns import Campaign, Choice, Unit
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.product import Model
from rulvek.core.records.standing import RunState
from rulvek.core.records.summaries import CampaignSummary
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.views.attempt import AttemptView, DifferenceView, attempt_view
from rulvek.services.views.base import View, view
from rulvek.services.views.line import (
    CampaignRow,
    ClaimView,
    DefaultsView,
    GroupView,
    ReachView,
    VerdictView,
    claim_views,
    defaults_view,
    group_views,
    names_in_words,
    reach_views,
    verdict_views,
)


@view
class ConnectionView(View):
    """A dummy load at one channel, or across a bridged pair."""

    channels: list[int]
    ohms: float


@view
class RunView(View):
    """A planned run with its attempts; ``chosen`` is the attempt that the sheet shows."""

    id: int
    position: int
    mode: Mode
    group: str
    channels: list[int]
    channel_names: list[str]
    load_ohms: float
    bridged: bool
    tone_hz: float
    burst: str
    hold_watts: float | None
    supply_volts: float
    companions: list[ConnectionView]
    exploratory: bool
    wiring: int
    predicted_watts: float | None
    predicted_amps: float | None
    predicted_minutes: float | None
    reason: str
    state: RunState
    attempts: list[AttemptView]
    chosen: AttemptView | None
    choice: Choice | None
    differences: list[DifferenceView]
    headroom_db: float | None
    headroom_expanded_db: float | None
    proof: str
    verdicts: list[VerdictView]


@view
class PreparationView(View):
    """An item of the list before power; ``deviations`` are the channels' gains in dB from their mean.

    ``lapsed`` says why what was seen to no longer holds; empty where it does, or nothing was.
    """

    item: str
    state: Literal["open", "done", "skipped"]
    found: str
    lapsed: str
    deviations: list[float]
    by: str | None
    at: datetime | None


@view
class WiringView(View):
    """Which loads hang where at the same time; ``boxes`` says what each is made of, where the bench has it."""

    number: int
    connections: list[ConnectionView]
    boxes: list[str]
    exploratory: bool
    preparations: list[PreparationView]


@view
class CampaignView(View):
    """A campaign with its runs, as the live bench and the sheet show it.

    ``chain_entry`` and ``chain_head`` are the audit chain's latest entry and its seal: printed, they show later whether
    the chain was cut short.
    """

    id: int
    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    series_name: str
    test_controls: list[str]
    bench: str
    supply_volts: float
    policy: SupplyPolicy
    modes: list[Mode]
    rewirings: int
    wirings: list[WiringView]
    thd_n_limit_percent: float
    uncertified_limit_percent: float
    gain_match_db: float
    reference_volts: float
    method_name: str
    created_by: str
    created_at: datetime
    runs: list[RunView]
    claims: list[ClaimView]
    reaches: list[ReachView]
    rule: DecisionRule
    unreadable: list[str]
    bench_id: int | None
    came_from: str
    last_step_id: int
    chain_entry: int
    chain_head: str


@view
class HandQuestionView(View):
    """What a bench asks of whoever stands at it: to do something, or to type what is read, in a unit and its limits.

    What is ``urgent`` makes something safe.
    """

    id: int
    words: str
    unit: str
    low: float | None
    high: float | None
    urgent: bool


@view
class BenchView(View):
    """What a bench is doing; ``problem`` is what keeps its records from being written, empty when nothing does.

    ``elsewhere`` says that another server has it: it can be watched here, and switched off. ``off_by`` is who switched
    the last run off, until the next begins.
    """

    id: int
    name: str
    simulated: bool
    state: Literal["idle", "preparing", "running", "testing"]
    supply_volts: float | None
    campaign_id: int | None
    attempt_id: int | None
    unit_serial: str | None
    model_name: str | None
    person: str | None
    holder: str | None
    asked_by: str | None
    asked_seconds_left: float | None
    elsewhere: bool
    problem: str
    off_by: str | None = None
    question: HandQuestionView | None = None


@view
class LoadHeatView(View):
    """A dummy load in a planned run: what it is made of, its watts and its temperature afterwards."""

    connection: ConnectionView
    boxes: str
    watts: float
    celsius: float | None


@view
class PlannedRunView(View):
    """A planned run with what it is expected to ask of the bench."""

    spec: RunSpec
    under_test: list[ConnectionView]
    wiring: int
    exploratory: bool
    serves: list[int]
    reason: str
    watts: float
    basis: str
    amps: float
    volts_before: float
    volts_loaded: float
    cable_volts: float
    cable_watts: float
    fuse_percent: float | None
    fuse_stress_percent: float | None
    heat: list[LoadHeatView]
    minutes: float
    cooling_minutes: float
    obstacles: list[Obstacle]


@view
class UnservedView(ClaimTerms):
    """A claim that a plan leaves without evidence."""

    claim_id: int


@view
class PlanView(View):
    """A plan that is not conducted yet."""

    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    series_name: str
    supply_low_volts: float
    supply_high_volts: float
    groups: list[GroupView]
    defaults: DefaultsView
    test_controls: list[str]
    bench: str
    runs: list[PlannedRunView]
    wirings: list[WiringView]
    rewirings: int
    fewest_rewirings: int
    wiring_minutes: float
    running_minutes: float
    cooling_minutes: float
    minutes: float
    unserved: list[UnservedView]
    proposed: list[RunSpec]
    lost: list[str]


def connection_view(link: Connection) -> ConnectionView:
    """A connection, as people see it."""
    return ConnectionView(channels=list(link.channels), ohms=link.nominal_ohms)


def boxes_in_words(link: Connection, equipment: Equipment) -> str:
    """What the bench makes a load of; empty where it has nothing that makes it."""
    made = networks(equipment.boxes, link.nominal_ohms)
    if not made:
        return ""
    return f"{link.nominal_ohms:g} Ω box" if made[0].how == "single" else made[0].how


def preparation_views(holds: Standing) -> list[PreparationView]:
    """The whole list before power of a wiring, with what was found."""
    return [_preparation_view(item, holds.seen.get(item), holds.lapsed.get(item, "")) for item in Item]


def _preparation_view(item: Item, one: Preparation | None, lapsed: str) -> PreparationView:
    if one is None:
        return PreparationView(item=item.value, state="open", found="", lapsed=lapsed, deviations=[], by=None, at=None)
    return PreparationView(
        item=item.value,
        state="done" if one.done else "skipped",
        found=found_in_words(item, one.data) if one.done else one.reason,
        lapsed="",
        deviations=[float(value) for value in one.data.get("deviations_db", {}).values()],
        by=one.by,
        at=one.at,
    )


def found_in_words(item: Item, data: Mapping[str, Any]) -> str:
    """What was found, in a line."""
    match item:
        case Item.CLAMP:
            return f"reads {data['zero_amps']:+.2f} A with nothing flowing; taken off from now on".replace("-", "−")
        case Item.LOADS:
            off = [100 * (load["measured"] / load["nominal"] - 1) for load in data["loads"].values()]
            return f"{len(off)} measured, {min(off):+.1f} to {max(off):+.1f} % from nominal".replace("-", "−")
        case Item.CONTROLS:
            return f"{len(data['ticked'])} in test position"
        case Item.GAINS:
            if not data["deviations_db"]:
                return "one channel: nothing to match"
            return f"within {data['worst_db']:.2f} dB; source at {data['source_dbv']:.1f} dBV for full output".replace(
                "-", "−"
            )
        case Item.SUPPLY:
            return f"{data['volts']:.2f} V at the terminals, at rest"


def campaign_view(
    judged: JudgedCampaign,
    holds: Mapping[str, Standing],
    equipment: Equipment,
    bench_id: int | None,
    last_step_id: int,
    head: tuple[int, str],
) -> CampaignView:
    """A campaign with its runs, judged by what this campaign alone shows; ``holds`` goes by wiring."""
    campaign, model = judged.campaign, judged.model
    verdicts = verdict_views(judged.verdicts.values(), model, campaign.method, campaign.unit.id)
    runs = [run_view(run, verdicts) for run in judged.runs]
    method = campaign.method
    return CampaignView(
        id=campaign.id,
        unit_id=campaign.unit.id,
        unit_serial=campaign.unit.serial,
        model_id=model.id,
        model_name=model.name,
        series_name=model.series_name,
        test_controls=list(model.test_controls),
        bench=campaign.bench,
        bench_id=bench_id,
        came_from=campaign.came_from,
        supply_volts=campaign.supply_volts,
        policy=campaign.policy,
        modes=list(dict.fromkeys(run.spec.mode for run in campaign.runs)),
        rewirings=rewirings([run.wiring_key for run in campaign.runs]),
        wirings=_wiring_views(campaign, holds, equipment),
        thd_n_limit_percent=method.thd_n_limit_percent,
        uncertified_limit_percent=method.uncertified_limit_percent,
        gain_match_db=method.gain_match_db,
        reference_volts=method.reference_volts,
        method_name=method.name,
        created_by=campaign.created_by,
        created_at=campaign.created_at,
        runs=runs,
        claims=claim_views(model, verdicts, {claim: [one] for claim, one in verdicts.items()}),
        reaches=reach_views(unit_reaches(model.places, judged.evidence, campaign.unit.serial), model, verdicts),
        rule=judged.rule,
        unreadable=[problem.what for problem in campaign.unreadable],
        last_step_id=last_step_id,
        chain_entry=head[0],
        chain_head=head[1],
    )


def _wiring_views(campaign: Campaign, holds: Mapping[str, Standing], equipment: Equipment) -> list[WiringView]:
    firsts = {run.wiring: run for run in reversed(campaign.runs)}
    views = []
    for number, run in sorted(firsts.items()):
        links = sorted(run.wired, key=lambda link: link.number)
        views.append(
            WiringView(
                number=number,
                connections=[connection_view(link) for link in links],
                boxes=[boxes_in_words(link, equipment) for link in links],
                exploratory=run.exploratory,
                preparations=preparation_views(holds[run.wiring_key]),
            )
        )
    return views


def run_view(judged: JudgedRun, verdicts: Mapping[int, VerdictView]) -> RunView:
    """A run with its attempts and the verdicts that rest on the standing one."""
    run, spec = judged.run, judged.run.spec
    return RunView(
        id=run.id,
        position=run.position,
        mode=spec.mode,
        group=spec.group,
        channels=list(run.channels),
        channel_names=[names_in_words(link.channels) for link in run.under_test],
        load_ohms=spec.load_ohms,
        bridged=spec.bridged,
        tone_hz=spec.tone_hz,
        burst=spec.burst,
        hold_watts=spec.watts,
        supply_volts=spec.supply_volts,
        companions=[connection_view(link) for link in run.companions],
        exploratory=run.exploratory,
        wiring=run.wiring,
        predicted_watts=run.expected.watts,
        predicted_amps=run.expected.amps,
        predicted_minutes=run.expected.minutes,
        reason=run.reason,
        state=judged.state,
        attempts=[attempt_view(one) for one in judged.attempts],
        chosen=attempt_view(judged.standing) if judged.standing else None,
        choice=run.choices[-1] if run.choices else None,
        differences=[DifferenceView(attempt_id=i, db=db, percent=percent) for i, db, percent in judged.differences],
        headroom_db=judged.headroom_db,
        headroom_expanded_db=judged.headroom_expanded,
        proof=judged.proof.words if judged.proof else "",
        verdicts=[verdicts[verdict.claim_id] for verdict in judged.verdicts],
    )


def plan_view(
    unit: Unit,
    model: Model,
    plan: Plan,
    method: MethodProfile,
    equipment: Equipment,
    proposed: Sequence[RunSpec],
    lost: Sequence[str],
) -> PlanView:
    """A plan, as people see it; ``lost`` are changes by hand that no longer apply, in words."""
    claims = {claim.id: claim for claim in model.claims}
    return PlanView(
        unit_id=unit.id,
        unit_serial=unit.serial,
        model_id=model.id,
        model_name=model.name,
        series_name=model.series_name,
        supply_low_volts=model.product.supply_range[0],
        supply_high_volts=model.product.supply_range[1],
        groups=group_views(model, method),
        defaults=defaults_view(method),
        test_controls=list(model.test_controls),
        bench=equipment.name,
        proposed=list(proposed),
        lost=list(lost),
        runs=[_planned_run_view(run, equipment) for run in plan.runs],
        wirings=[
            WiringView(
                number=number,
                connections=[connection_view(link) for link in wiring],
                boxes=[boxes_in_words(link, equipment) for link in wiring],
                exploratory=any(run.exploratory for run in plan.runs if run.wiring == number),
                preparations=[],
            )
            for number, wiring in enumerate(plan.wirings, 1)
        ],
        rewirings=plan.rewirings,
        fewest_rewirings=plan.fewest_rewirings,
        wiring_minutes=plan.wiring_minutes,
        running_minutes=plan.running_minutes,
        cooling_minutes=plan.cooling_minutes,
        minutes=plan.minutes,
        unserved=[
            UnservedView(**{name: getattr(claims[one], name) for name in field_names(ClaimTerms)}, claim_id=one)
            for one in plan.unserved
        ],
    )


def _planned_run_view(run: PlannedRun, equipment: Equipment) -> PlannedRunView:
    p = run.prediction
    return PlannedRunView(
        spec=run.spec,
        under_test=[connection_view(link) for link in run.under_test],
        wiring=run.wiring,
        exploratory=run.exploratory,
        serves=list(run.serves),
        reason=run.reason,
        watts=p.watts,
        basis=p.basis,
        amps=p.amps,
        volts_before=p.volts_before,
        volts_loaded=p.volts_loaded,
        cable_volts=p.cable_volts,
        cable_watts=p.cable_watts,
        fuse_percent=None if p.fuse_share is None else 100 * p.fuse_share,
        fuse_stress_percent=None if p.fuse_stress is None else 100 * p.fuse_stress,
        heat=[
            LoadHeatView(
                connection=connection_view(heat.connection),
                boxes=boxes_in_words(heat.connection, equipment),
                watts=heat.watts,
                celsius=heat.celsius,
            )
            for heat in p.heat
        ],
        minutes=p.run_seconds / 60,
        cooling_minutes=p.cooling_seconds / 60,
        obstacles=list(p.obstacles),
    )


def campaign_row(row: CampaignSummary) -> CampaignRow:
    """A campaign in a list."""
    left = [run for run in row.runs if not run.done]
    minutes = [run.minutes for run in left if run.minutes is not None]
    known = bool(left) and len(minutes) == len(left)
    moved = rewirings([run.wiring_key for run in left])
    return CampaignRow(
        id=row.id,
        unit_id=row.unit_id,
        unit_serial=row.unit_serial,
        model_id=row.model_id,
        model_name=row.model_name,
        bench=row.bench,
        supply_volts=row.supply_volts,
        policy=row.policy,
        modes=list(dict.fromkeys(run.mode for run in row.runs)),
        created_by=row.created_by,
        created_at=row.created_at,
        minutes_left=sum(minutes) + moved * REWIRE_MINUTES if known else None,
        runs=len(row.runs),
        runs_done=len(row.runs) - len(left),
        running=any(run.running for run in row.runs),
    )
