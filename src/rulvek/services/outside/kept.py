"""Readings from outside as they would stand on record: worked out and judged without being stored, then stored as is.

The preview of a reading and the reading on record are the same attempt through the same judgement.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time

from rulvek import clock
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput
from rulvek.core.judgement.judged import JudgedAttempt, judged_attempts
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.planning.prediction import KnownPower
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.campaigns import Campaign, Unit
from rulvek.core.records.instruments import InstrumentEntry
from rulvek.core.records.product import Model
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.spec import RunSpec
from rulvek.services.campaigns import plan_of, written_campaign
from rulvek.services.conclusions import Conclusions, Fits
from rulvek.store import load, methods
from rulvek.store.engine import Session
from rulvek.store.queries import records as record_queries

NOBODY = Actor("")
"""Who takes a reading that is only looked at."""


@dataclass(frozen=True, slots=True)
class Background:
    """What readings of one unit are worked out by: its model, the method, and what is known of it."""

    unit: Unit
    model: Model
    method: MethodProfile
    known: tuple[KnownPower, ...]
    fits: Fits


def background(session: Session, conclusions: Conclusions, unit_id: int) -> Background:
    """Read what readings of a unit are worked out by."""
    return backgrounds(session, conclusions, [load.unit(session, unit_id)])[unit_id]


def backgrounds(session: Session, conclusions: Conclusions, units: Sequence[Unit]) -> dict[int, Background]:
    """Read what readings of some units are worked out by; what is of their models is read once a model."""
    models = {model.id: model for model in load.models(session, sorted({unit.model_id for unit in units}))}
    known = {model.id: conclusions.known(session, model) for model in models.values()}
    fits, method = conclusions.fits(session, units), methods.usual(session)
    return {
        unit.id: Background(unit, models[unit.model_id], method, known[unit.model_id], fits[unit.id]) for unit in units
    }


@dataclass(frozen=True, slots=True)
class OutsideCampaign:
    """A campaign of readings from outside, not on record yet: its attempts stand at its runs, numbered from 1."""

    campaign: Campaign
    model: Model
    fits: Fits

    def judged(self) -> list[JudgedAttempt]:
        """Every attempt as it would stand on record, with its checks and its uncertainty, in the order of its id."""
        found = judged_attempts(self.campaign, self.model.product, self.fits)
        return [found[one] for one in sorted(found)]


def outside_campaign(
    behind: Background,
    specs: Sequence[RunSpec],
    attempts_at: Callable[[Campaign], Sequence[tuple[int, Attempt]]],
    actor: Actor,
    equipment: Equipment,
    policy: SupplyPolicy = SupplyPolicy.HELD,
) -> OutsideCampaign:
    """Plan a campaign of the given runs, and put attempts at them.

    Args:
        attempts_at: Makes the attempts, each with the position of its run, from the campaign as planned.

    Raises:
        BadInput: a run that this model cannot have.
    """
    wishes = Wishes(
        modes=tuple(dict.fromkeys(spec.mode for spec in specs)),
        policy=policy,
        held_volts=specs[0].supply_volts if policy is SupplyPolicy.HELD else None,
    )
    plan = plan_of(behind.model, wishes, specs, behind.known, behind.method, equipment, read_already=True)
    planned = written_campaign(behind.unit, plan, wishes, behind.method, equipment.name, actor)
    by_position: dict[int, list[Attempt]] = {}
    for identity, (position, attempt) in enumerate(attempts_at(planned), 1):
        mine = by_position.setdefault(position, [])
        mine.append(replace(attempt, id=identity, number=len(mine) + 1))
    runs = tuple(
        replace(run, id=run.position, attempts=tuple(by_position.get(run.position, ()))) for run in planned.runs
    )
    return OutsideCampaign(replace(planned, runs=runs), behind.model, behind.fits)


def refuse_policy(policy: SupplyPolicy) -> None:
    """Refuse a supply policy that a single reading cannot have.

    Raises:
        BadInput: three points, which are three readings.
    """
    if policy is SupplyPolicy.THREE_POINTS:
        raise BadInput("A reading has one supply: held at a voltage, or a floating bank.", field="policy")


def entry_named(session: Session, name: str) -> InstrumentEntry | None:
    """What the register has on an instrument that somebody named."""
    return record_queries.instrument_named(session, name)


def taken_at(day: date | None) -> datetime:
    """When a reading was taken of which only the day is known: at noon of it; now where it is today's, or not told."""
    return now() if day is None or day == now().date() else datetime.combine(day, time(12), UTC)


def now() -> datetime:
    """The moment at which something is taken in."""
    return clock.now()
