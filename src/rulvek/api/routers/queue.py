"""The day's order: what waits for the benches."""

from datetime import date
from typing import Annotated

from fastapi import Path
from pydantic import Field

from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Body, Id
from rulvek.core.quantities import Identity, Name
from rulvek.services.views.campaign import CampaignView
from rulvek.services.views.queue import QueueView, SettlingsView

router = Calls("bench")


class WantedIn(Body):
    """Until when a campaign is wanted, and whether any bench that can stand it may have it."""

    due_on: date | None = None
    anywhere: bool = False


class OrderIn(Body):
    """Campaigns that go before all others, in their order; none to take the proposal."""

    campaigns: list[Identity] = Field(max_length=200)


class MoveIn(Body):
    """For which bench."""

    bench: Name


@router.get("/queue", dependencies=HEAVY)
def get_queue(use: Use) -> QueueView:
    """What waits for each bench, in the order that is proposed."""
    return use.today.queue()


@router.get("/queue/settling", dependencies=HEAVY)
def get_settling(use: Use) -> SettlingsView:
    """Runs that would settle a claim, with what they would take."""
    return use.settling.view()


@router.put("/queue/order", dependencies=HEAVY)
def put_in_order(body: OrderIn, use: Use, person: Person) -> QueueView:
    """Put campaigns in front by hand."""
    return use.today.put_in_order(body.campaigns, person)


@router.put("/queue/{campaign_id}", dependencies=HEAVY)
def want_campaign(campaign_id: Id, body: WantedIn, use: Use, person: Person) -> QueueView:
    """Say until when a campaign is wanted, and whether any bench may have it."""
    return use.today.want(campaign_id, body.due_on, body.anywhere, person)


@router.post("/queue/{campaign_id}/bench", dependencies=HEAVY)
def move_campaign(campaign_id: Id, body: MoveIn, use: Use, person: Person) -> QueueView:
    """Plan a campaign for another bench, of which nothing was begun yet."""
    return use.today.move(campaign_id, body.bench, person)


@router.post("/campaigns/{campaign_id}/wirings/{wiring}/bench", status_code=201, dependencies=HEAVY)
def take_wiring(
    campaign_id: Id, wiring: Annotated[int, Path(ge=1, le=10_000)], body: MoveIn, use: Use, person: Person
) -> CampaignView:
    """Have a wiring, of which nothing was begun yet, run on another bench, as a campaign of its own there."""
    return use.campaigns.get(use.today.take_wiring(campaign_id, wiring, body.bench, person))
