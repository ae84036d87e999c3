"""Today: what waits for the benches, in the order that is proposed, and what people want of it."""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

from rulvek import clock
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.planning.equipment import Equipment
from rulvek.core.planning.hours import Hours
from rulvek.core.planning.queue import Job, Queue, Slot, Standing, first_come
from rulvek.core.planning.today import Pace, Wanted, job_of, pace_of, standing_of
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Campaign
from rulvek.core.records.summaries import CampaignSummary
from rulvek.services.campaigns.campaigns import campaign_words, save_campaign, written_campaign
from rulvek.services.campaigns.orders import Orders
from rulvek.services.campaigns.planner import EquipmentOf, plan_there
from rulvek.services.conclusions import Conclusions
from rulvek.services.later import Later
from rulvek.services.views.queue import DayView, MeanwhileView, OrderView, QueueView, SlotView, UnplacedView
from rulvek.store import audit, load, save
from rulvek.store.engine import Database, Session
from rulvek.store.queries import campaigns as campaign_queries
from rulvek.store.queries import queue as queries
from rulvek.store.queries import records as record_queries

MOST = 200
"""So many wait at most for one order; older ones are done, or given up."""
LEARNED_OF = 300
FARTHEST_DAYS = 3_660
Busy = Callable[[], Mapping[str, int]]
"""Which campaign each bench is busy with, by the benches' names."""


@dataclass(frozen=True, slots=True)
class _Waiting:
    campaign: CampaignSummary
    wanted: Wanted
    begun: bool
    job: Job


class Today:
    """Reads what waits and proposes an order; moves by hand what people move."""

    def __init__(
        self,
        database: Database,
        conclusions: Conclusions,
        equipment_of: EquipmentOf,
        busy: Busy,
        later: Later,
        hours: Hours | None = None,
        people: int | None = None,
    ) -> None:
        self._database, self._conclusions, self._equipment_of, self._busy = database, conclusions, equipment_of, busy
        self._hours, self._people, self._orders = hours, people, Orders(later, people)
        self._wirings: tuple[object, Mapping[str, str | None]] = (None, {})

    def queue(self) -> QueueView:
        """The proposed order."""
        now = clock.now().replace(second=0, microsecond=0)
        with self._database.reading() as session:
            benches = {row.name: row.id for row in record_queries.benches(session)}
            equipment = {name: self._equipment_of(name) for name in benches}
            pace = pace_of(queries.took(session, LEARNED_OF))
            waiting = self._waiting(session, equipment, pace, now)
            wirings = self._wired(session, benches)
        busy = {name: one for name, one in self._busy().items() if name in benches}
        running = {one.job.id: one for one in waiting if one.job.id in busy.values()}
        standings = [
            standing_of(
                name,
                wirings[name],
                running[busy[name]].job if busy.get(name) in running else None,
                equipment[name].setup_minutes,
                equipment[name].rewire_minutes,
            )
            for name in benches
        ]
        rest = [one for one in waiting if one.job.id not in busy.values()]
        jobs = [one.job for one in rest]
        wanted = tuple((one.job.id, one.wanted) for one in rest)
        orders = self._orders.proposed(wanted, jobs, standings), first_come(jobs, standings, self._people)
        return _view(now.astimezone(), self._hours, self._people, benches, busy, standings, rest, *orders, pace)

    def want(self, campaign_id: int, due_on: date | None, anywhere: bool, actor: Actor) -> QueueView:
        """Say until when a campaign is wanted, and whether any bench that can stand it may have it.

        Raises:
            NotFound: no such campaign.
            BadInput: a day that is over, or years away.
        """
        today = clock.now().astimezone().date()
        if due_on is not None and not today <= due_on <= today + timedelta(days=FARTHEST_DAYS):
            raise BadInput(f"It is wanted from today on, within ten years, not on {due_on}.", field="due_on")
        with self._database.reading() as session:
            campaign = load.campaign(session, campaign_id)
            held = queries.wanted(session).get(campaign_id, Wanted())
        with self._database.writing() as session:
            new = replace(held, due_on=due_on, anywhere=anywhere)
            queries.put(session, campaign_id, new, actor.name, clock.now())
            text = f"{campaign.unit.serial}: {'wanted on ' + due_on.isoformat() if due_on else 'not wanted by a day'}"
            text += ", on any bench that can stand it" if anywhere else ""
            audit.note(session, actor, "said when it is wanted", f"campaign/{campaign_id}", text=text)
        return self.queue()

    def put_in_order(self, campaigns: Sequence[int], actor: Actor) -> QueueView:
        """Put campaigns in front by hand, each on its bench in this order; all others are no longer.

        Raises:
            NotFound: no such campaign.
            BadInput: one that is there twice.
        """
        if len(set(campaigns)) < len(campaigns):
            raise BadInput("A campaign has one place.", field="campaigns")
        with self._database.reading() as session:
            for one in campaigns:
                load.campaign(session, one)
        with self._database.writing() as session:
            held = queries.wanted(session)
            places = {one: at for at, one in enumerate(campaigns)}
            changed = {one for one, wanted in held.items() if wanted.place is not None} | set(campaigns)
            for one in sorted(changed):
                new = replace(held.get(one, Wanted()), place=places.get(one))
                queries.put(session, one, new, actor.name, clock.now())
            text = ", ".join(str(one) for one in campaigns)[:160] or "by the proposal"
            audit.note(session, actor, "ordered the day", "queue", text=text)
        return self.queue()

    def move(self, campaign_id: int, bench: str, actor: Actor) -> QueueView:
        """Plan a campaign for another bench, of which nothing was begun yet.

        Raises:
            NotFound: no such campaign or bench.
            Conflict: something of it was begun, or that bench cannot stand it.
        """
        equipment = self._equipment_of(bench)
        with self._database.reading() as session:
            campaign = load.campaign(session, campaign_id)
            begun = campaign_id in queries.begun(session, [campaign_id])
            fits = self._can_stand(session, campaign, equipment)
        if begun:
            raise Conflict("Something of this campaign was begun: it stays on its bench.", code="begun")
        if not fits:
            raise Conflict(f"{bench} cannot stand this campaign.", todo="Plan it there to see what is in the way.")
        with self._database.writing() as session:
            queries.move(session, campaign_id, bench)
            text = f"{campaign.unit.serial}: from {campaign.bench} to {bench}"
            audit.note(session, actor, "moved a campaign", f"campaign/{campaign_id}", text=text)
        return self.queue()

    def take_wiring(self, campaign_id: int, wiring: int, bench: str, actor: Actor) -> int:
        """Have a wiring of a campaign run on another bench, as a campaign of its own there; its id.

        A unit lies on one bench at a time: benches share a campaign only where somebody says so, who carries it over.

        Raises:
            NotFound: no such campaign, wiring or bench.
            Conflict: it is on that bench, it is all that is left, it was begun, or that bench cannot stand it.
        """
        equipment = self._equipment_of(bench)
        with self._database.reading() as session:
            campaign = load.campaign(session, campaign_id)
            model = load.model(session, campaign.unit.model_id)
            specs = [run.spec for run in campaign.runs if run.wiring == wiring]
            known = self._conclusions.known(session, model)
        none = NotFound(f"Campaign {campaign_id} has no wiring {wiring}.")
        if not specs:
            raise none
        if bench == campaign.bench:
            raise Conflict(f"It is on {bench} already.")
        plan = plan_there(model, campaign.wishes, specs, known, campaign.method, equipment)
        if plan is None:
            raise Conflict(f"{bench} cannot stand this wiring.", todo="Plan it there to see what is in the way.")
        taken = written_campaign(campaign.unit, plan, campaign.wishes, campaign.method, bench, actor)
        with self._database.writing() as session:
            if queries.begun_of_wiring(session, campaign_id, wiring):
                what = f"A run on wiring {wiring} was begun: it stays on {campaign.bench}."
                raise Conflict(what, code="begun")
            gone, stay = queries.take_off(session, campaign_id, wiring)
            if gone < len(specs):  # somebody was faster
                raise none
            if not stay:
                raise Conflict("It is all that this campaign has.", todo="Move the campaign as a whole, on Today.")
            save.count_left(session, [campaign_id])
            new, _ = save_campaign(session, taken)
            text = (
                f"{campaign.unit.serial}: wiring {wiring} of campaign {campaign_id}, from {campaign.bench} to {bench}"
            )
            audit.note(session, actor, "took a wiring to another bench", f"campaign/{campaign_id}", text=text)
            audit.note(session, actor, "planned a campaign", f"campaign/{new}", text=campaign_words(taken))
        return new

    def _waiting(
        self, session: Session, equipment: Mapping[str, Equipment], pace: Pace, now: datetime
    ) -> list[_Waiting]:
        rows, _ = campaign_queries.campaigns_page(session, None, MOST, "open")
        wanted = queries.wanted(session)
        begun = queries.begun(session, [row.id for row in rows])
        of_unit = Counter(row.unit_id for row in rows)
        found = []
        for row in rows:
            asked = wanted.get(row.id, Wanted())
            may = [row.bench]
            # A unit with several campaigns lies on one bench at a time: none of them is spread.
            if asked.anywhere and row.id not in begun and of_unit[row.unit_id] == 1:
                campaign = load.campaign(session, row.id)
                others = (name for name in equipment if name != row.bench)
                may += [name for name in others if self._can_stand(session, campaign, equipment[name])]
            there = equipment.get(row.bench)
            rewire = 60 * (there.rewire_minutes if there else 0.0)
            job = job_of(row, asked, may, pace, rewire, now.astimezone(), self._hours)
            if job is not None:
                found.append(_Waiting(row, asked, row.id in begun, job))
        return found

    def _can_stand(self, session: Session, campaign: Campaign, equipment: Equipment) -> bool:
        """Whether nothing stands in the way of a campaign's runs on a bench."""
        model = load.model(session, campaign.unit.model_id)
        specs = [run.spec for run in campaign.runs]
        known = self._conclusions.known(session, model)
        return plan_there(model, campaign.wishes, specs, known, campaign.method, equipment) is not None

    def _wired(self, session: Session, benches: Iterable[str]) -> Mapping[str, str | None]:
        """How the loads of each bench were wired last; looked for anew once something was set up anywhere."""
        key = campaign_queries.newest_set_up(session), frozenset(benches)
        known, found = self._wirings
        if known != key:
            last = {name: campaign_queries.last_set_up(session, name) for name in benches}
            found = {name: one.wiring_key if one else None for name, one in last.items()}
            self._wirings = key, found
        return found


def _clash(slot: Slot, others: Sequence[Slot], by_id: Mapping[int, _Waiting]) -> str:
    """On which other bench a campaign's unit lies at its time; empty where on none."""
    unit = by_id[slot.job.id].campaign.unit_id
    for other in others:
        if other.bench != slot.bench and other.start < slot.end and slot.start < other.end:
            if by_id[other.job.id].campaign.unit_id == unit:
                return other.bench
    return ""


def _view(
    now: datetime,
    hours: Hours | None,
    people: int | None,
    benches: Mapping[str, int],
    busy: Mapping[str, int],
    standings: Sequence[Standing],
    waiting: Sequence[_Waiting],
    proposed: Queue,
    usual: Queue,
    pace: Pace,
) -> QueueView:
    by_id = {one.job.id: one for one in waiting}
    free = {one.name: one.free_seconds for one in standings}

    def at(seconds: float) -> datetime:
        return hours.after(now, seconds) if hours else now + timedelta(seconds=seconds)

    def order(of: Queue) -> OrderView:
        return OrderView(rewirings=of.rewirings, late_minutes=of.late_seconds / 60, ends_at=at(of.end))

    days = []
    for name, identity in benches.items():
        slots = []
        for slot in proposed.of(name):
            one = by_id[slot.job.id]
            slots.append(
                SlotView(
                    campaign_id=one.campaign.id,
                    unit_id=one.campaign.unit_id,
                    unit_serial=one.campaign.unit_serial,
                    model_name=one.campaign.model_name,
                    modes=list(dict.fromkeys(run.mode for run in one.campaign.runs if not run.done)),
                    runs_left=sum(not run.done for run in one.campaign.runs),
                    planned_for=one.campaign.bench,
                    starts_at=at(slot.start),
                    ends_at=at(slot.end),
                    minutes=slot.job.seconds / 60,
                    rewired=slot.rewired,
                    due_on=one.wanted.due_on,
                    late_minutes=slot.late_seconds / 60,
                    by_hand=one.wanted.place is not None,
                    anywhere=one.wanted.anywhere,
                    begun=one.begun,
                    clash=_clash(slot, proposed.slots, by_id),
                )
            )
        other = proposed.meanwhile(name)
        days.append(
            DayView(
                bench_id=identity,
                bench=name,
                running=busy.get(name),
                free_at=at(free[name]),
                slots=slots,
                meanwhile=None
                if other is None
                else MeanwhileView(
                    bench=other.bench,
                    campaign_id=other.job.id,
                    unit_serial=by_id[other.job.id].campaign.unit_serial,
                    starts_at=at(other.start),
                ),
            )
        )
    return QueueView(
        now=now,
        hours=hours.words if hours else "",
        people=people if people is not None and people < len(benches) else None,
        days=days,
        unplaced=[
            UnplacedView(
                campaign_id=job.id,
                unit_serial=by_id[job.id].campaign.unit_serial,
                bench=by_id[job.id].campaign.bench,
            )
            for job in proposed.unplaced
        ],
        proposed=order(proposed),
        first_come=order(usual),
        pace=pace.ratio,
        pace_low=pace.low,
        pace_high=pace.high,
        paced_runs=pace.runs,
    )
