"""The bench: campaigns, runs, and their events as they happen."""

import asyncio
from collections.abc import AsyncIterator
from dataclasses import replace
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Header, Path, Query, Response
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import Field

from rulvek.api.context import AnyPerson, Person, Use
from rulvek.api.line import Body, Id
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.equipment import SupplyPolicy
from rulvek.core.planning.plan import Loading, Wishes
from rulvek.core.planning.wiring import Order, RunSpec
from rulvek.services.before_power import Item
from rulvek.services.exports import sheet_csv
from rulvek.services.records import Cause
from rulvek.services.views.attempt import StepView
from rulvek.services.views.campaign import BenchView, CampaignView, PlanView
from rulvek.services.views.line import CampaignList

router = APIRouter(tags=["bench"])
HEARTBEAT_SECONDS = 15.0
Before = Annotated[int | None, Query(ge=1, le=2**53, description="`next` of the page before")]
Limit = Annotated[int, Query(ge=1, le=200)]


Hz = Annotated[float, Field(ge=10, le=20_000)]
Name = Annotated[str, Field(max_length=80)]
Text = Annotated[str, Field(max_length=500)]
MOST_RUNS = 300


class RunIn(Body):
    """What people decide of a run; the rest follows from the model and the other runs."""

    mode: Mode
    group: Name
    load_ohms: float = Field(gt=0.05, le=100)
    bridged: bool = False
    tone_hz: Hz
    supply_volts: float = Field(gt=0, le=30)
    burst: Name = ""


class PlanIn(Body):
    """What a plan is made by. With ``runs`` given, those are taken as they are, in their order."""

    modes: list[Mode] = Field(default_factory=lambda: list(Mode), max_length=3)
    order: Order = Order.BY_LOAD
    loading: Loading = Loading.EACH
    policy: SupplyPolicy = SupplyPolicy.HELD
    held_volts: float | None = Field(None, gt=0, le=30, description="the method's reference when left out")
    tones: dict[Name, Hz] = Field(default_factory=dict, max_length=10, description="Hz by channel group")
    bursts: dict[Name, Name] = Field(default_factory=dict, max_length=10, description="burst profile by channel group")
    exploratory: bool = False
    dwell: Literal["standard", "long", "soak"] = "standard"
    thd_n_limit: float = Field(1.0, gt=0, le=10, description="of certified runs and burst onsets, percent")
    runs: list[RunIn] | None = Field(None, max_length=MOST_RUNS)

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

    def specs(self) -> list[RunSpec] | None:
        """The runs as the core knows them."""
        return None if self.runs is None else [RunSpec(**run.model_dump()) for run in self.runs]

    def method(self) -> MethodProfile:
        """The method with the wished dwell and limit."""
        return replace(MethodProfile.with_dwell(self.dwell), thd_n_limit_percent=self.thd_n_limit)


class CampaignIn(Body):
    """A new campaign of one unit."""

    unit_id: int = Field(ge=1, le=2**53)
    plan: PlanIn = Field(default_factory=PlanIn)


class AttemptIn(Body):
    """A try at a run; a repeat says why."""

    cause: Cause | None = None
    reason: Text = ""


class ReasonIn(Body):
    """Why."""

    reason: Text = ""


class PreparationIn(Body):
    """What is seen to before power. ``skip`` leaves it out, for that reason."""

    item: Item
    ticked: list[Text] = Field(default_factory=list, max_length=50)
    turn: bool = Field(False, description="turn the gains of a simulated unit until they match")
    overlap_db: float = Field(0.0, ge=-20, le=40)
    skip: Text | None = None


class ChoiceIn(Body):
    """Which attempt stands for a run."""

    attempt_id: int = Field(ge=1, le=2**53)
    reason: Text = ""


class RemarkIn(Body):
    """A note on an attempt."""

    text: str = Field("", max_length=2000)


class OverrulingIn(Body):
    """A finding that somebody sets aside."""

    code: Name
    reason: Text = ""


class AnswerIn(Body):
    """The holder's answer to someone who asks for the bench."""

    grant: bool


@router.get("/bench")
def get_bench(use: Use) -> BenchView:
    """What the bench is doing."""
    return use.bench.state()


@router.post("/bench/off")
def switch_off(use: Use, person: AnyPerson) -> BenchView:
    """Stop whatever is running and make the bench safe; needs no name."""
    use.bench.stop(person)
    return use.bench.state()


@router.post("/bench/hold")
def ask_for_bench(use: Use, person: Person) -> BenchView:
    """Take the bench if it is free, else ask the one who holds it."""
    use.bench.hold.ask(person, use.bench.state().state != "idle")
    return use.bench.state()


@router.post("/bench/hold/answer")
def answer_for_bench(body: AnswerIn, use: Use, person: Person) -> BenchView:
    """Hand the bench over, or keep it."""
    use.bench.hold.answer(person, body.grant)
    return use.bench.state()


@router.post("/bench/hold/leave")
def leave_bench(use: Use, person: Person) -> BenchView:
    """Leave the bench free for others."""
    use.bench.hold.leave(person)
    return use.bench.state()


@router.post("/bench/hurry")
def hurry(body: ReasonIn, use: Use, person: Person) -> BenchView:
    """Start the waiting run although its start window is not met."""
    use.bench.hurry(person, body.reason)
    return use.bench.state()


@router.post("/units/{unit_id}/plan")
def plan(unit_id: Id, body: PlanIn, use: Use) -> PlanView:
    """Propose a plan, or cost one that was changed; nothing is kept."""
    return use.planner.plan(unit_id, body.wishes(), body.specs(), body.method())


@router.get("/campaigns")
def list_campaigns(use: Use, before: Before = None, limit: Limit = 50) -> CampaignList:
    """Campaigns, the newest first."""
    return use.campaigns.listed(before, limit)


@router.post("/campaigns", status_code=201)
def create_campaign(body: CampaignIn, use: Use, person: Person) -> CampaignView:
    """Put a unit's plan on record."""
    plan = body.plan
    return use.campaigns.create(body.unit_id, person, plan.wishes(), plan.specs(), plan.method())


@router.post("/campaigns/{campaign_id}/wirings/{wiring}/preparations")
def prepare(
    campaign_id: Id, wiring: Annotated[int, Path(ge=1, le=10_000)], body: PreparationIn, use: Use, person: Person
) -> CampaignView:
    """See to one item before power: measure it, tick it, or skip it with a reason."""
    if body.skip is not None:
        use.preparing.skip(campaign_id, wiring, body.item, person, body.skip)
    else:
        use.preparing.see_to(campaign_id, wiring, body.item, person, body.ticked, body.turn, body.overlap_db)
    return use.campaigns.get(campaign_id)


@router.post("/runs/{run_id}/choice")
def choose_attempt(run_id: Id, body: ChoiceIn, use: Use, person: Person) -> CampaignView:
    """Say which attempt stands for a run."""
    return use.campaigns.choose(run_id, body.attempt_id, person, body.reason)


@router.post("/attempts/{attempt_id}/overrulings", status_code=201)
def overrule(attempt_id: Id, body: OverrulingIn, use: Use, person: Person) -> CampaignView:
    """Set a finding of the checks aside, for a reason."""
    return use.campaigns.overrule(attempt_id, body.code, person, body.reason)


@router.post("/attempts/{attempt_id}/remarks", status_code=201)
def remark(attempt_id: Id, body: RemarkIn, use: Use, person: Person) -> CampaignView:
    """Note something about an attempt."""
    return use.campaigns.remark(attempt_id, person, body.text)


@router.get("/campaigns/{campaign_id}")
def get_campaign(campaign_id: Id, use: Use) -> CampaignView:
    """A campaign with its runs; as JSON this is also its export."""
    return use.campaigns.get(campaign_id)


@router.get("/campaigns/{campaign_id}/sheet.csv", response_class=Response)
def get_sheet(campaign_id: Id, use: Use) -> Response:
    """The campaign sheet as CSV."""
    campaign = use.campaigns.get(campaign_id)
    name = f"{campaign.unit_serial}-campaign-{campaign_id}.csv"
    return Response(
        sheet_csv(campaign),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@router.post("/runs/{run_id}/attempts", status_code=201)
def start_attempt(run_id: Id, body: AttemptIn, use: Use, person: Person) -> BenchView:
    """Start an attempt at a run."""
    use.bench.start(run_id, person, body.cause, body.reason)
    return use.bench.state()


@router.get("/attempts/{attempt_id}/steps")
def get_steps(attempt_id: Id, use: Use) -> list[StepView]:
    """All steps of an attempt so far."""
    return use.campaigns.steps(attempt_id)


def existing_campaign(campaign_id: Id, use: Use) -> int:
    """Answer 404 before a byte is streamed: a response that has begun cannot become another one."""
    use.campaigns.get(campaign_id)
    return campaign_id


@router.get("/campaigns/{campaign_id}/events", response_class=EventSourceResponse)
async def campaign_events(
    campaign: Annotated[int, Depends(existing_campaign)],
    use: Use,
    after: Annotated[int, Query(ge=0, le=2**53)] = 0,
    last_event_id: Annotated[int | None, Header(ge=0, le=2**53)] = None,
) -> AsyncIterator[ServerSentEvent]:
    """Steps of the campaign from past `after` on, each once and in order.

    A browser that lost the connection resumes by itself with `Last-Event-ID`.
    """
    seen = last_event_id if last_event_id is not None else after
    with use.hub.watching() as news:
        while True:
            news.clear()  # before looking: what is written meanwhile sets it again
            steps = await asyncio.to_thread(use.campaigns.steps_after, campaign, seen)
            for step in steps:
                seen = step.id
                yield ServerSentEvent(id=str(step.id), data=step)
            try:
                await asyncio.wait_for(news.wait(), HEARTBEAT_SECONDS)
            except TimeoutError:
                yield ServerSentEvent(comment="still here")
