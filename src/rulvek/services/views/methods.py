"""Answers about the methods that campaigns were planned under."""

from datetime import datetime

from rulvek.services.views.base import View, view


@view
class MethodDifferenceView(View):
    """What a method has otherwise than this program proposes today; ``origin`` is where today's value is from."""

    field: str
    here: str
    today: str
    origin: str


@view
class MethodUsedView(View):
    """A method with the campaigns under it; no difference where it is what is proposed today."""

    name: str
    campaigns: int
    first: datetime
    last: datetime
    latest_campaign_id: int
    differences: list[MethodDifferenceView]
