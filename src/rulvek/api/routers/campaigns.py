"""Campaigns: planned, prepared, run, and their events as they happen."""

import asyncio
from collections.abc import AsyncIterator
from functools import partial
from typing import Annotated, Literal

from fastapi import Depends, Header, Path, Query, Response
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import Field, TypeAdapter

from rulvek.api.asking import HEAVY, Arrived, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.downloads import download
from rulvek.api.schemas import LARGEST_ID, Before, Body, Id, Limit, Rule
from rulvek.composition import Services
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.method.profile import MethodProfile
from rulvek.core.quantities import Hertz, Name, Reason, SupplyVolts
from rulvek.core.records.before_power import Item
from rulvek.core.records.wishes import Loading, Order, Wishes
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.reports.sheet_csv import sheet_csv
from rulvek.services.campaigns.planner import Edited
from rulvek.services.views.attempt import StepView
from rulvek.services.views.campaign import BenchView, CampaignView, PlanView
from rulvek.services.views.line import CampaignList

router = Calls("campaigns")
HEARTBEAT_SECONDS = 15.0
ELSEWHERE_SECONDS = 1.0
_STEP = TypeAdapter(StepView)
MOST_RUNS = 300


class EditedIn(Body):
    """A plan after changes by hand, and what had been proposed before them."""

    proposed: list[RunSpec] = Field(max_length=MOST_RUNS)
    runs: list[RunSpec] = Field(max_length=MOST_RUNS)


class PlanIn(Body):
    """What a plan is made by. With ``runs`` given, those are taken as they are, in their order."""

    modes: list[Mode] = Field(default_factory=lambda: list(Mode), max_length=4)
    order: Order = Order.BY_LOAD
    loading: Loading = Loading.EACH
    policy: SupplyPolicy = SupplyPolicy.HELD
    held_volts: SupplyVolts | None = Field(None, description="the method's reference when left out")
    tones: dict[Name, Hertz] = Field(default_factory=dict, max_length=10, description="Hz by channel group")
    bursts: dict[Name, Name] = Field(default_factory=dict, max_length=10, description="burst profile by channel group")
    exploratory: bool = False
    dwell: Literal["standard", "long", "soak"] = "standard"
    method: Name | None = Field(None, description="one of the lab's methods by its name; the usual one left out")
    thd_n_limit: float | None = Field(
        None, gt=0, le=10, description="of certified runs and burst onsets, percent; the method's when left out"
    )
    runs: list[RunSpec] | None = Field(None, max_length=MOST_RUNS)
    edited: EditedIn | None = Field(None, description="changes by hand to take over where ``runs`` is left out")
    bench: Name | None = Field(None, description="the bench by its name; the first one left out")

    def wishes(self) -> Wishes:
        """As the core knows them."""
        return Wishes(
            modes=tuple(self.modes),
            order=self.order,
            loading=self.loading,
            policy=self.policy,
            held_volts=self.held_volts,
            tones=self.tones,
            bursts=self.bursts,
            exploratory=self.exploratory,
        )

    def under(self, use: Use) -> MethodProfile:
        """The method with the wished dwell and limit."""
        return use.methods.wished(self.method, self.dwell, self.thd_n_limit)


class CampaignIn(Body):
    """A new campaign of one unit."""

    unit_id: int = Field(ge=1, le=LARGEST_ID)
    plan: PlanIn = Field(default_factory=PlanIn)


class AttemptIn(Body):
    """A try at a run; a repeat says why."""

    cause: Cause | None = None
    reason: Reason = ""


class PreparationIn(Body):
    """What is seen to before power. ``skip`` leaves it out, for that reason."""

    item: Item
    ticked: list[Reason] = Field(default_factory=list, max_length=50)
    turn: bool = Field(False, description="turn the gains of a simulated unit until they match")
    overlap_db: float = Field(0.0, ge=-20, le=40)
    skip: Reason | None = None


class ChoiceIn(Body):
    """Which attempt stands for a run."""

    attempt_id: int = Field(ge=1, le=LARGEST_ID)
    reason: Reason = ""


@router.post("/units/{unit_id}/plan")
def plan(unit_id: Id, body: PlanIn, use: Use) -> PlanView:
    """Propose a plan, or cost one that was changed; nothing is kept."""
    edited = Edited(tuple(body.edited.proposed), tuple(body.edited.runs)) if body.edited else None
    return use.planner.plan(unit_id, body.wishes(), body.runs, body.under(use), body.bench, edited)


@router.get("/campaigns")
def list_campaigns(
    use: Use,
    before: Before = None,
    limit: Limit = 50,
    which: Literal["all", "open", "done"] = "all",
    unit: Annotated[int | None, Query(ge=1, le=LARGEST_ID)] = None,
) -> CampaignList:
    """Campaigns, the newest first; all, or those with runs left, or those without."""
    return use.campaigns.listed(before, limit, which, unit)


@router.post("/campaigns", status_code=201)
def create_campaign(body: CampaignIn, use: Use, person: Person) -> CampaignView:
    """Put a unit's plan on record."""
    plan = body.plan
    return use.campaigns.create(body.unit_id, person, plan.wishes(), plan.runs, plan.under(use), plan.bench)


@router.post("/campaigns/{campaign_id}/wirings/{wiring}/preparations")
def prepare(
    campaign_id: Id, wiring: Annotated[int, Path(ge=1, le=10_000)], body: PreparationIn, use: Use, person: Person
) -> CampaignView:
    """See to one item before power: measure it, tick it, or skip it with a reason."""
    if body.skip is not None:
        use.preparations.skip(campaign_id, wiring, body.item, person, body.skip)
    else:
        use.preparations.see_to(campaign_id, wiring, body.item, person, body.ticked, body.turn, body.overlap_db)
    return use.campaigns.get(campaign_id)


@router.post("/runs/{run_id}/choice")
def choose_attempt(run_id: Id, body: ChoiceIn, use: Use, person: Person) -> CampaignView:
    """Say which attempt stands for a run."""
    return use.campaigns.choose(run_id, body.attempt_id, person, body.reason)


@router.get("/campaigns/{campaign_id}", dependencies=HEAVY)
def get_campaign(campaign_id: Id, use: Use, rule: Rule = DecisionRule.AS_STORED) -> CampaignView:
    """A campaign with its runs; as JSON this is also its export."""
    return use.campaigns.get(campaign_id, rule)


@router.get("/campaigns/{campaign_id}/sheet.csv", response_class=Response)
def get_sheet(campaign_id: Id, use: Use, rule: Rule = DecisionRule.AS_STORED) -> Response:
    """The campaign sheet as CSV."""
    judged = use.campaigns.judged(campaign_id, rule)
    name = f"{judged.campaign.unit.serial}-campaign-{campaign_id}.csv"
    return download(sheet_csv(judged), "text/csv; charset=utf-8", name)


@router.post("/runs/{run_id}/attempts", status_code=201)
def start_attempt(run_id: Id, body: AttemptIn, use: Use, person: Person, arrived: Arrived) -> BenchView:
    """Start an attempt at a run; an Off that came with or after this request wins."""
    room = use.benches.room_of_run(run_id)
    room.start(run_id, person, body.cause, body.reason, overtaken=lambda: use.benches.overtaken(arrived))
    return room.state()


def existing_campaign(campaign_id: Id, use: Use) -> int:
    """Answer 404 before a byte is streamed: a response that has begun cannot become another one."""
    use.campaigns.require(campaign_id)
    return campaign_id


def _steps_after(use: Services, campaign: int, after: int) -> list[tuple[int, str]]:
    """Steps by their number as they are told: put into words once for all who watch, and not in the server's loop."""
    return [(step.id, _STEP.dump_json(step).decode()) for step in use.campaigns.steps_after(campaign, after)]


@router.get("/campaigns/{campaign_id}/events", response_class=EventSourceResponse)
async def campaign_events(
    campaign: Annotated[int, Depends(existing_campaign)],
    use: Use,
    after: Annotated[int, Query(ge=0, le=LARGEST_ID)] = 0,
    last_event_id: Annotated[int | None, Header(ge=0, le=LARGEST_ID)] = None,
) -> AsyncIterator[ServerSentEvent]:
    """Steps of the campaign from past `after` on, each once and in order.

    A browser that lost the connection resumes by itself with `Last-Event-ID`.
    """
    seen = last_event_id if last_event_id is not None else after
    silent = 0.0
    with use.hub.watching() as news:
        while True:
            news.clear()  # before looking: what is written meanwhile sets it again
            steps = await use.hub.read_together((campaign, seen), partial(_steps_after, use, campaign, seen))
            for step, told in steps:
                seen = step
                yield ServerSentEvent(id=str(step), raw_data=told)
            if steps:
                continue  # who is far behind is not told all at once: there may be more already
            # A run of another server wakes nobody here, so that its steps are looked for.
            wait = ELSEWHERE_SECONDS if use.benches.any_elsewhere else HEARTBEAT_SECONDS
            try:
                await asyncio.wait_for(news.wait(), wait)
                silent = 0.0
            except TimeoutError:
                silent += wait
                if silent >= HEARTBEAT_SECONDS:
                    silent = 0.0
                    yield ServerSentEvent(comment="still here")
