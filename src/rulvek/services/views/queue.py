"""Answers about what waits for the benches."""

from datetime import date, datetime

from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.views.base import View, view


@view
class SlotView(View):
    """A campaign at its proposed time.

    ``rewired`` is whether loads are wired otherwise for it first; ``by_hand`` whether somebody put it there;
    ``planned_for`` is another bench than this one where it is proposed to be moved; ``begun`` one stays where it is.
    ``clash`` is another bench on which its unit is to lie at the same time, empty where on none.
    """

    campaign_id: int
    unit_id: int
    unit_serial: str
    model_name: str
    modes: list[Mode]
    runs_left: int
    planned_for: str
    starts_at: datetime
    ends_at: datetime
    minutes: float
    rewired: bool
    due_on: date | None
    late_minutes: float
    by_hand: bool
    anywhere: bool
    begun: bool
    clash: str


@view
class MeanwhileView(View):
    """What can be seen to on another bench while a unit cools."""

    bench: str
    campaign_id: int
    unit_serial: str
    starts_at: datetime


@view
class DayView(View):
    """What comes on a bench, one after the other; ``running`` is the campaign that it is busy with.

    ``meanwhile`` is what can be begun elsewhere while a unit cools on it, null where nothing waits there.
    """

    bench_id: int
    bench: str
    running: int | None
    free_at: datetime
    slots: list[SlotView]
    meanwhile: MeanwhileView | None


@view
class OrderView(View):
    """What an order comes to."""

    rewirings: int
    late_minutes: float
    ends_at: datetime


@view
class UnplacedView(View):
    """A campaign that no bench can run."""

    campaign_id: int
    unit_serial: str
    bench: str


@view
class SettlingView(View):
    """Runs that would settle what is claimed of a model, on its latest unit; ``unit_id`` null where none came yet.

    ``minutes`` are what they would take, rewirings and rests included, on the first of the ``benches`` that can stand
    them; ``limit_percent`` is the THD+N that the claims allow where it is not the method's. ``waiting`` are campaigns
    of the model that wait already.
    """

    model_id: int
    model_name: str
    unit_id: int | None
    unit_serial: str
    claims: int
    runs: list[RunSpec]
    limit_percent: float | None
    minutes: float | None
    benches: list[str]
    waiting: list[int]


@view
class SettlingsView(View):
    """The models of which most is open first; how many more there are."""

    settling: list[SettlingView]
    more: int


@view
class QueueView(View):
    """The day's order for each bench, beside first come, first served, and by what runs took before.

    ``hours`` are those in which the lab works, in words; empty where it is always. ``people`` can set up benches at the
    same time; None where there are enough of them.
    """

    now: datetime
    hours: str
    people: int | None
    days: list[DayView]
    unplaced: list[UnplacedView]
    proposed: OrderView
    first_come: OrderView
    pace: float
    pace_low: float
    pace_high: float
    paced_runs: int
