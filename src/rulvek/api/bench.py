"""The bench: campaigns, runs, and their events as they happen."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Depends, Header, Query, Response
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import Field

from rulvek.api.context import AnyPerson, Person, Use
from rulvek.api.line import Body, Id
from rulvek.services.exports import sheet_csv
from rulvek.services.views import BenchView, CampaignList, CampaignView, StepView

router = APIRouter(tags=["bench"])
HEARTBEAT_SECONDS = 15.0
Before = Annotated[int | None, Query(ge=1, le=2**53, description="`next` of the page before")]
Limit = Annotated[int, Query(ge=1, le=200)]


class CampaignIn(Body):
    """A new certified campaign of one unit."""

    unit_id: int = Field(ge=1, le=2**53)
    supply_volts: float | None = Field(None, gt=0, le=30, description="the method's reference when left out")


class AttemptIn(Body):
    """A try at a run; a repeat says why."""

    reason: str = Field("", max_length=500)


@router.get("/bench")
def get_bench(use: Use) -> BenchView:
    """What the bench is doing."""
    return use.bench.state()


@router.post("/bench/off")
def switch_off(use: Use, person: AnyPerson) -> BenchView:
    """Stop whatever is running and make the bench safe; needs no name."""
    use.bench.stop(person)
    return use.bench.state()


@router.get("/campaigns")
def list_campaigns(use: Use, before: Before = None, limit: Limit = 50) -> CampaignList:
    """Campaigns, the newest first."""
    return use.campaigns.listed(before, limit)


@router.post("/campaigns", status_code=201)
def create_campaign(body: CampaignIn, use: Use, person: Person) -> CampaignView:
    """Plan a unit's certified runs at every rated load."""
    return use.campaigns.create(body.unit_id, person, body.supply_volts)


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
    use.bench.start(run_id, person, body.reason)
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
