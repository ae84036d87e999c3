"""Answers about the methods that campaigns were planned under."""

from datetime import datetime

from rulvek.services.views.base import View, view


@view
class MethodDifferenceView(View):
    """What a method has otherwise than another: what ships ``today``, or of a version the one before it.

    ``origin`` is where the value that ships is from.
    """

    field: str
    here: str
    today: str
    origin: str


@view
class MethodFieldView(View):
    """A field that a version may change: what it holds, its unit, its bounds, and what ships."""

    name: str
    kind: str
    unit: str
    usual: str
    origin: str


@view
class MethodVersionView(View):
    """A version of one of the lab's methods; ``differences`` from the version before, or from what ships.

    ``campaigns`` were planned under it; ``in_use`` is the version that was approved last.
    """

    id: int
    name: str
    number: int
    title: str
    reason: str
    proposed_by: str
    proposed_at: datetime
    approved_by: str
    approved_at: datetime | None
    in_use: bool
    campaigns: int
    latest_campaign_id: int | None
    thd_n_limit_percent: float
    reference_volts: float
    full_range_tone_hz: float
    bass_tone_hz: float
    burst_full_range: str
    burst_bass: str
    differences: list[MethodDifferenceView]


@view
class LabMethodsView(View):
    """The lab's own methods, the latest proposed first, and what may be changed in one."""

    versions: list[MethodVersionView]
    fields: list[MethodFieldView]


@view
class MethodUsedView(View):
    """A method with the campaigns under it; no difference where it is what is proposed today."""

    name: str
    campaigns: int
    first: datetime
    last: datetime
    latest_campaign_id: int
    differences: list[MethodDifferenceView]
