"""Seeing to things before power: measured on the bench, ticked by a person, or skipped with a reason."""

import math
from collections.abc import Sequence
from typing import Any

from rulvek import clock
from rulvek.bench.before_power import GainMatch, match_gains, measure_loads, out_of_window, power_up, zero_clamp
from rulvek.bench.protocols import Bench, Connection
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.records.actor import Actor
from rulvek.core.records.before_power import ITEM_NAMES, Item, Preparation, open_items
from rulvek.core.records.campaigns import Campaign, Run
from rulvek.core.records.points import loads_data
from rulvek.core.records.product import ChannelGroup, Model
from rulvek.core.signals.power import volts_of
from rulvek.services.before_power import standing_preparations
from rulvek.services.benches.attempt_log import outside_in_words
from rulvek.services.benches.rooms import Benches
from rulvek.store import audit, load, save
from rulvek.store.engine import Database

MOST_TURNS = 4


class Preparations:
    """Works through the list before power of a campaign's wirings."""

    def __init__(self, database: Database, benches: Benches) -> None:
        self._database, self._benches = database, benches

    def see_to(
        self,
        campaign_id: int,
        wiring: int,
        item: Item,
        actor: Actor,
        ticked: Sequence[str] = (),
        turn: bool = False,
        overlap_db: float = 0.0,
    ) -> None:
        """Measure or tick one item and keep what was found.

        Args:
            wiring: Its number in the campaign's plan.
            ticked: For the controls: those that are in test position.
            turn: For the gains: whether to turn them on the (simulated) unit until they match.
            overlap_db: For the gains: how much harder than full output the source may drive.

        Raises:
            BadInput: a control that is not in test position.
            Conflict: gains apart, or a supply outside of its start window; nothing is kept as done.
        """
        campaign, run, model = self._load(campaign_id, wiring)
        room = self._benches.room(campaign.bench)
        if item is Item.CONTROLS:
            missing = [c for c in model.test_controls if c not in ticked]
            if missing:
                raise BadInput(f"Not in test position yet: {'; '.join(missing)}.", field="ticked")
            room.hold.require(actor.name)
            data: dict[str, Any] = {"ticked": list(ticked)}
        else:
            with room.borrowed(campaign, run, actor) as bench:
                data = _measured(bench, item, campaign, run, model, turn, overlap_db)
        self._keep(campaign_id, run.wiring_key, item, actor, True, "", data)
        _refuse_misfit(item, data)

    def skip(self, campaign_id: int, wiring: int, item: Item, actor: Actor, reason: str) -> None:
        """Leave an item out; the reason stands with every attempt of this wiring.

        Raises:
            BadInput: no reason.
        """
        if not reason.strip():
            raise BadInput(f"Say why the {ITEM_NAMES[item]} can be left out.", field="reason")
        campaign, run, _ = self._load(campaign_id, wiring)
        self._benches.room(campaign.bench).hold.require(actor.name)
        self._keep(campaign_id, run.wiring_key, item, actor, False, reason.strip(), {})

    def see_to_all(self, campaign_id: int, wiring: int, actor: Actor, leave_out: Sequence[Item] = ()) -> None:
        """Everything that is still open, without anybody at the bench: simulated hands turn the gains."""
        campaign, run, model = self._load(campaign_id, wiring)
        with self._database.reading() as session:
            holds = standing_preparations(session, campaign)[run.wiring_key]
        for item in open_items(holds.seen):
            if item not in leave_out:
                self.see_to(campaign_id, wiring, item, actor, ticked=model.test_controls, turn=True)

    def _load(self, campaign_id: int, wiring: int) -> tuple[Campaign, Run, Model]:
        with self._database.reading() as session:
            campaign = load.campaign(session, campaign_id)
            model = load.model(session, campaign.unit.model_id)
        run = next((run for run in campaign.runs if run.wiring == wiring), None)
        if run is None:
            raise NotFound(f"Campaign {campaign.id} has no wiring {wiring}.")
        return campaign, run, model

    def _keep(
        self, campaign_id: int, wiring_key: str, item: Item, actor: Actor, done: bool, reason: str, data: dict[str, Any]
    ) -> None:
        done = done and not data.get("misfit")
        with self._database.writing() as session:
            if done or reason:
                kept = Preparation(wiring_key, item, done, reason, actor.name, clock.now(), data)
                save.preparation(session, campaign_id, kept)
            action = "skipped before power" if reason else "saw to before power" if done else "found before power"
            text = f"{ITEM_NAMES[item]}" + (f": {reason or data.get('misfit')}" if reason or not done else "")
            audit.note(session, actor, action, f"campaign/{campaign_id}", text=text)


def _measured(
    bench: Bench, item: Item, campaign: Campaign, run: Run, model: Model, turn: bool, overlap_db: float
) -> dict[str, Any]:
    match item:
        case Item.CLAMP:
            return {"zero_amps": zero_clamp(bench, run.wired)}
        case Item.LOADS:
            return {"loads": loads_data(measure_loads(bench, run.wired))}
        case Item.SUPPLY:
            return _supply(bench, campaign, run)
        case _:
            return _gains(bench, campaign, run, model, turn, overlap_db)


def _refuse_misfit(item: Item, data: dict[str, Any]) -> None:
    misfit = data.get("misfit")
    if not misfit:
        return
    todo = "Turn the gains as said and match them again." if item is Item.GAINS else "Wait, or set it right."
    raise Conflict(f"{misfit}.", todo=todo, code=f"{item.value}-misfit")


def _supply(bench: Bench, campaign: Campaign, run: Run) -> dict[str, Any]:
    method, policy, set_volts = campaign.method, campaign.policy, run.spec.supply_volts
    bench.loads.connect(run.wired)
    power_up(bench, set_volts, policy)
    bench.wait(method.settle_seconds)
    outside = out_of_window(bench, set_volts, policy, method)
    found: dict[str, Any] = {"volts": bench.supply.terminal_volts()}
    if outside is not None and outside.what == "supply":
        found["misfit"] = outside_in_words(outside).capitalize()
    return found


def _gains(bench: Bench, campaign: Campaign, run: Run, model: Model, turn: bool, overlap_db: float) -> dict[str, Any]:
    """Match the gains of each group whose channels are read together; the deviations are of the last look."""
    method = campaign.method
    found: dict[str, Any] = {"deviations_db": {}, "worst_db": 0.0, "turned_db": {}}
    for group in model.product.groups:
        links = [link for link in run.wired if link.number in group.channels]
        if len(links) < 2:
            continue
        for _ in range(MOST_TURNS if turn else 1):
            match = match_gains(
                bench,
                run.wired,
                links,
                hz=method.tone_of(group.bass),
                sensitivity_dbv=20 * math.log10(model.sensitivity_volts),
                supply_volts=run.spec.supply_volts,
                policy=campaign.policy,
                method=method,
            )
            if not turn or match.worst_db <= method.gain_match_db / 2:
                break
            _turn(bench, links, match, found["turned_db"])
        found["deviations_db"] |= {str(number): value for number, value in match.deviations_db.items()}
        found["worst_db"] = max(found["worst_db"], match.worst_db)
        found["source_dbv"] = match.source_dbv(_full_volts(run, model, group), overlap_db)
        if match.worst_db > method.gain_match_db:
            found["misfit"] = _misfit(match, method.gain_match_db)
    return found


def _turn(bench: Bench, links: Sequence[Connection], match: GainMatch, turned: dict[str, float]) -> None:
    for link in links:
        by_db = -match.deviations_db[link.number]
        for channel in link.channels:
            bench.turn_gain(channel, by_db)
            turned[str(channel)] = turned.get(str(channel), 0.0) + by_db


def _full_volts(run: Run, model: Model, group: ChannelGroup) -> float:
    """Output volts at the power that the plan expects of the run, or of the group's largest claim."""
    if run.spec.group == group.name and run.expected.watts:
        return volts_of(run.expected.watts, run.spec.load_ohms)
    claimed = [volts_of(claim.watts, claim.load_ohms) for claim in model.claims if claim.group == group.name]
    return max(claimed, default=10.0)


def _misfit(match: GainMatch, allowed_db: float) -> str:
    apart = max(match.deviations_db.items(), key=lambda pair: abs(pair[1]))
    way = "down" if apart[1] > 0 else "up"
    return (
        f"Gains are {match.worst_db:.2f} dB apart, at most {allowed_db:g} dB: "
        f"turn channel {apart[0]} {way} by {abs(apart[1]):.2f} dB"
    )
