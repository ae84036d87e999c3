"""Readings by hand, from a meter and a clamp or an oscilloscope: the same arithmetic and checks as the bench's."""

import math
from collections.abc import Callable, Sequence
from datetime import datetime

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.quantities import refuse_impossible_day, refuse_out_of_bounds
from rulvek.core.readings.point import Load
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt, Ending, Reading, Remark
from rulvek.core.records.campaigns import Campaign
from rulvek.core.records.instruments import InstrumentEntry, Instruments
from rulvek.core.records.outside import HandReading, Origin, Outside
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import limit_end, refuse_end
from rulvek.services.campaigns import save_campaign
from rulvek.services.conclusions import Conclusions
from rulvek.services.outside.kept import (
    NOBODY,
    Background,
    OutsideCampaign,
    background,
    entry_named,
    now,
    outside_campaign,
    refuse_policy,
    taken_at,
)
from rulvek.services.outside.unseen import show_together, write_unseen
from rulvek.services.views.outside import HandChannelView, HandView, SheetView, hand_view
from rulvek.store import audit, save, seals
from rulvek.store.engine import Database

EquipmentOf = Callable[[str | None], Equipment]
MEASURED_LOAD_TOLERANCE = 0.01  # beyond the meter: contacts, and the heat since


class ByHand:
    """Works a reading out as it is typed, and keeps it as an attempt of a campaign of its own."""

    def __init__(self, database: Database, conclusions: Conclusions, equipment_of: EquipmentOf) -> None:
        self._database, self._conclusions, self._equipment_of = database, conclusions, equipment_of

    def preview(self, unit_id: int, hand: HandReading) -> HandView:
        """The arithmetic and the checks; keeps nothing.

        Raises:
            BadInput: a run that this model cannot have, or more channels than it has.
        """
        return self._worked_out(unit_id, hand, NOBODY)[1]

    def keep(self, unit_id: int, hand: HandReading, actor: Actor) -> int:
        """Put it on record as the attempt of a campaign of its own; returns the attempt's id.

        Raises:
            BadInput: an instrument without a name, or a channel without a figure.
        """
        made, shown = self._worked_out(unit_id, hand, actor)
        if not hand.instrument.strip():
            raise BadInput("Name the instrument that was read.", field="instrument")
        if not shown.complete:
            raise BadInput("Every channel needs watts, or volts to work them out from.", field="channels")
        if hand.end is None:
            raise BadInput("Say how the run ended.", field="end")
        attempt = made.campaign.runs[0].attempts[0]
        with self._database.writing() as session:
            campaign_id, (run_id,) = save_campaign(session, made.campaign)
            attempt_id = save.attempt(session, campaign_id, run_id, attempt)
            text = f"{hand.run.mode}, {hand.run.load_ohms:g} Ω {hand.run.group}, by {hand.instrument.strip()}"
            session.flush()
            sealed = seals.attempt_seals(session, [attempt_id], {})
            audit.note(session, actor, "typed a reading", f"campaign/{campaign_id}", seals=sealed, text=text)
        self._conclusions.changed(made.model.id, made.campaign.unit.id)
        return attempt_id

    def preview_sheet(self, unit_id: int, hands: Sequence[HandReading]) -> SheetView:
        """A unit's readings together, each held against the others; keeps nothing.

        Raises:
            BadInput: a reading that cannot be, by its place in the sheet.
        """
        return self._sheet(unit_id, hands, NOBODY)[1]

    def keep_sheet(self, unit_id: int, hands: Sequence[HandReading], actor: Actor) -> int:
        """Put a unit's readings on record as one campaign; returns its id.

        Raises:
            BadInput: a reading that is not complete, by its place in the sheet; nothing is kept.
        """
        made, shown = self._sheet(unit_id, hands, actor)
        if not hands[0].instrument.strip():
            raise BadInput("Name the instrument that was read.", field="instrument")
        wanting = next((n for n, cell in enumerate(shown.cells) if not cell.complete), None)
        if wanting is not None:
            raise BadInput("Every channel of a cell needs a figure.", field=f"{wanting}.channels")
        written = write_unseen(self._database, made.campaign)
        text = f"{len(written.attempt_ids)} readings, by {hands[0].instrument.strip()}"
        show_together(self._database, [written], [text], "typed a sheet", actor)
        self._conclusions.changed(made.model.id, made.campaign.unit.id)
        return written.campaign_id

    def _sheet(self, unit_id: int, hands: Sequence[HandReading], actor: Actor) -> tuple[OutsideCampaign, SheetView]:
        if len({(hand.policy, hand.vehicle, hand.read_on, hand.instrument) for hand in hands}) != 1:
            raise BadInput("A sheet has one day, one supply policy and one instrument.", field="policy")
        for number, hand in enumerate(hands):
            try:
                refuse_unlikely(hand)
            except BadInput as wrong:
                raise BadInput(wrong.what, field=f"{number}.{wrong.field}") from None
        refuse_policy(hands[0].policy)
        if hands[0].read_on is not None:
            refuse_impossible_day(hands[0].read_on, now().date(), "read_on")
        with self._database.reading() as session:
            behind = background(session, self._conclusions, unit_id)
            entry = entry_named(session, hands[0].instrument)
        return worked_out_together(behind, hands, entry, actor, self._equipment_of(None))

    def _worked_out(self, unit_id: int, hand: HandReading, actor: Actor) -> tuple[OutsideCampaign, HandView]:
        refuse_unlikely(hand)
        refuse_policy(hand.policy)
        if hand.read_on is not None:
            refuse_impossible_day(hand.read_on, now().date(), "read_on")
        with self._database.reading() as session:
            behind = background(session, self._conclusions, unit_id)
            entry = entry_named(session, hand.instrument)
        return worked_out(behind, hand, entry, actor, self._equipment_of(None))


def refuse_unlikely(hand: HandReading) -> None:
    """Hold what was written down to its bounds.

    Raises:
        BadInput: a field out of its bounds, or a supply that takes current back.
    """
    refuse_out_of_bounds(hand)
    refuse_end(hand.run.mode, hand.end)
    if hand.vehicle is not None and hand.policy is not SupplyPolicy.BANK:
        raise BadInput("A vehicle's supply is not held at a voltage: say “floating”.", field="policy")
    if hand.supply_amps is not None and hand.supply_amps < 0:
        idle = "" if hand.idle_amps is None else f", with the {hand.idle_amps:g} A at idle taken off,"
        raise BadInput(
            f"A current of {hand.supply_amps:g} A{idle} flows the wrong way: turn the clamp, or read it at idle.",
            field="amps",
        )


def worked_out(
    behind: Background, hand: HandReading, entry: InstrumentEntry | None, actor: Actor, equipment: Equipment
) -> tuple[OutsideCampaign, HandView]:
    """A reading by hand as it would stand on record, and as people see it.

    Raises:
        BadInput: a group, or more channels than the model has.
    """
    made, shown = worked_out_together(behind, [hand], entry, actor, equipment)
    return made, shown.cells[0]


def worked_out_together(
    behind: Background,
    hands: Sequence[HandReading],
    entry: InstrumentEntry | None,
    actor: Actor,
    equipment: Equipment,
) -> tuple[OutsideCampaign, SheetView]:
    """Readings by hand of one unit as they would stand on record in one campaign, and as people see them.

    Raises:
        BadInput: a group, or more channels than the model has.
    """
    specs = list(dict.fromkeys(hand.run for hand in hands))
    named = [_named(behind, hand) for hand in hands]

    def attempts(_planned: Campaign) -> list[tuple[int, Attempt]]:
        return [
            (specs.index(hand.run) + 1, hand_attempt(hand, names, entry, behind.method, actor, taken_at(hand.read_on)))
            for hand, names in zip(hands, named, strict=True)
        ]

    made = outside_campaign(behind, specs, attempts, actor, equipment, hands[0].policy)
    cells = []
    for hand, names, judged in zip(hands, named, made.judged(), strict=True):
        channels = [
            HandChannelView(channel=name, watts=read.watts_into(hand.ohms), how=read.how(hand.ohms))
            for name, read in zip(names, hand.channels, strict=False)
        ]
        read = len(judged.attempt.readings)
        complete = (read == len(names) or (hand.others_unread and read > 0)) and bool(hand.instrument.strip())
        cells.append(hand_view(judged, channels, complete))
    return made, SheetView(cells=cells)


def _named(behind: Background, hand: HandReading) -> tuple[int, ...]:
    """The channels (of pairs the first) that a reading is of."""
    group = behind.model.product.group(hand.run.group)
    names = tuple(channels[0] for channels in group.read(hand.run.bridged))
    if len(hand.channels) > len(names):
        raise BadInput(
            f"The group “{group.name}” has {len(names)} to read, not {len(hand.channels)}.", field="channels"
        )
    return names


def hand_attempt(
    hand: HandReading,
    names: tuple[int, ...],
    entry: InstrumentEntry | None,
    method: MethodProfile,
    actor: Actor,
    at: datetime,
    file: str = "",
) -> Attempt:
    """A reading by hand as an attempt; ``file`` names the table that it comes from, if any."""
    doubtful = 2 * method.load_tolerance_percent / 100  # a load that nobody measured
    load = Load(hand.run.load_ohms, hand.ohms, MEASURED_LOAD_TOLERANCE if hand.load_measured else doubtful)
    readings = tuple(
        Reading(
            channel=name,
            watts=watts,
            volts_rms=math.sqrt(watts * hand.ohms),
            thd_n=None if hand.thd_n_percent is None else hand.thd_n_percent / 100,
            thd=None,
            load=load,
        )
        for name, read in zip(names, hand.channels, strict=False)
        if (watts := read.watts_into(hand.ohms)) is not None
    )
    remark = hand.remark.strip()
    return Attempt(
        id=0,
        number=1,
        reason=hand.reason.strip(),
        cause=hand.cause or (Cause.OTHER if hand.reason.strip() else None),
        started_by=actor.name,
        started_at=at,
        instruments=Instruments.named(hand.instrument.strip(), hand.accuracy_percent, entry.due_on if entry else None),
        outside=Outside(
            origin=Origin.TABLE if file else Origin.BY_HAND,
            file=file,
            clamp_zeroed=True if hand.idle_amps is not None else hand.clamp_zeroed,
            controls_in_position=hand.controls_in_position,
            all_loaded=hand.all_loaded,
            charger_amps=hand.charger_amps,
            vehicle=hand.vehicle,
            read=tuple(read for read in hand.channels if read.watts_into(hand.ohms) is not None),
        ),
        ending=Ending(
            end=hand.end or limit_end(hand.run.mode),
            ended_at=at,
            start_volts=hand.start_volts,
            supply_volts=hand.loaded_volts,
            supply_amps=hand.supply_amps,
            tripped_watts=hand.tripped_watts,
            start_watts=hand.start_watts,
            start_sink_c=hand.sink_c,
        ),
        readings=readings,
        remarks=(Remark(remark, actor.name, at),) if remark else (),
    )
