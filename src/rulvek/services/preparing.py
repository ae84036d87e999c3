"""Seeing to things before power: measured on the bench, ticked by a person, or skipped with a reason."""

import math
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any

from rulvek.bench.instruments import Connection
from rulvek.bench.preparing import GainMatch, match_gains, measure_loads, out_of_window, power_up, zero_clamp
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.services.attempt_log import loads_data, outside_in_words
from rulvek.services.before_power import NAMES, Item, latest
from rulvek.services.bench_room import BenchRoom
from rulvek.services.records import companions_of, method_of, policy_of, under_test_of
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database

MOST_TURNS = 4


class Preparing:
    """Works through the list before power of a campaign's wirings."""

    def __init__(self, database: Database, room: BenchRoom) -> None:
        self._database, self._room = database, room

    def see_to(
        self,
        campaign_id: int,
        wiring: int,
        item: Item,
        person: str,
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
        with self._database.reading() as session:
            run = _first_run(queries.campaign(session, campaign_id), wiring)
            data = self._find(run, item, person, ticked, turn, overlap_db)
        self._keep(campaign_id, run.wiring_key, item, person, True, "", data)
        self._refuse_misfit(run, item, data)

    def skip(self, campaign_id: int, wiring: int, item: Item, person: str, reason: str) -> None:
        """Leave an item out; the reason stands with every attempt of this wiring.

        Raises:
            BadInput: no reason.
        """
        if not reason.strip():
            raise BadInput(f"Say why the {NAMES[item]} can be left out.", field="reason")
        with self._database.reading() as session:
            run = _first_run(queries.campaign(session, campaign_id), wiring)
        self._room.hold.require(person)
        self._keep(campaign_id, run.wiring_key, item, person, False, reason.strip(), {})

    def see_to_all(self, campaign_id: int, wiring: int, person: str, leave_out: Sequence[Item] = ()) -> None:
        """Everything that is still open, without anybody at the bench: simulated hands turn the gains."""
        with self._database.reading() as session:
            campaign = queries.campaign(session, campaign_id)
            run = _first_run(campaign, wiring)
            left = [item for item in Item if item not in latest(campaign, run.wiring_key)]
            controls = list(campaign.unit.model.test_controls)
        for item in left:
            if item not in leave_out:
                self.see_to(campaign_id, wiring, item, person, ticked=controls, turn=True)

    def _find(
        self, run: tables.Run, item: Item, person: str, ticked: Sequence[str], turn: bool, overlap_db: float
    ) -> dict[str, Any]:
        everything = (*under_test_of(run), *companions_of(run))
        if item is Item.CONTROLS:
            missing = [c for c in run.campaign.unit.model.test_controls if c not in ticked]
            if missing:
                raise BadInput(f"Not in test position yet: {'; '.join(missing)}.", field="ticked")
            self._room.hold.require(person)
            return {"ticked": list(ticked)}
        with self._room.borrowed(run, person) as bench:
            if item is Item.CLAMP:
                return {"zero_amps": zero_clamp(bench, everything)}
            if item is Item.LOADS:
                return {"loads": loads_data(measure_loads(bench, everything))}
            if item is Item.SUPPLY:
                return _supply(bench, run, everything)
            return _gains(bench, run, everything, turn, overlap_db)

    def _keep(
        self, campaign_id: int, wiring_key: str, item: Item, person: str, done: bool, reason: str, data: dict[str, Any]
    ) -> None:
        done = done and not data.get("misfit")
        with self._database.writing() as session:
            if done or reason:
                row = tables.Preparation(
                    campaign_id=campaign_id,
                    wiring_key=wiring_key,
                    item=item.value,
                    done=done,
                    reason=reason,
                    data=data,
                    by=person,
                    at=datetime.now(UTC),
                )
                queries.add(session, row)
            action = "skipped before power" if reason else "saw to before power" if done else "found before power"
            text = f"{NAMES[item]}" + (f": {reason or data.get('misfit')}" if reason or not done else "")
            audit.note(session, person, action, f"campaign/{campaign_id}", text=text)

    def _refuse_misfit(self, run: tables.Run, item: Item, data: dict[str, Any]) -> None:
        misfit = data.get("misfit")
        if not misfit:
            return
        todo = "Turn the gains as said and match them again." if item is Item.GAINS else "Wait, or set it right."
        raise Conflict(f"{misfit}.", todo=todo, code=f"{item.value}-misfit")


def _first_run(campaign: tables.Campaign, wiring: int) -> tables.Run:
    run = next((run for run in campaign.runs if run.wiring == wiring), None)
    if run is None:
        raise NotFound(f"Campaign {campaign.id} has no wiring {wiring}.")
    return run


def _supply(bench: SimulatedBench, run: tables.Run, everything: Sequence[Connection]) -> dict[str, Any]:
    method, policy = method_of(run.campaign), policy_of(run.campaign)
    bench.connect(everything)
    power_up(bench, run.supply_volts, policy)
    bench.wait(method.settle_seconds)
    outside = out_of_window(bench, run.supply_volts, policy, method)
    volts = bench.supply.terminal_volts()
    found: dict[str, Any] = {"volts": volts}
    if outside is not None and outside.what == "supply":
        found["misfit"] = outside_in_words(outside).capitalize()
    return found


def _gains(
    bench: SimulatedBench, run: tables.Run, everything: Sequence[Connection], turn: bool, overlap_db: float
) -> dict[str, Any]:
    """Match the gains of each group whose channels are read together; the deviations are of the last look."""
    method, model = method_of(run.campaign), run.campaign.unit.model
    found: dict[str, Any] = {"deviations_db": {}, "worst_db": 0.0, "turned_db": {}}
    for group in model.groups:
        links = [link for link in everything if link.number in group.channels]
        if len(links) < 2:
            continue
        for _ in range(MOST_TURNS if turn else 1):
            match = match_gains(
                bench,
                everything,
                links,
                hz=method.bass_tone_hz if group.bass else method.full_range_tone_hz,
                sensitivity_dbv=20 * math.log10(model.sensitivity_volts),
                supply_volts=run.supply_volts,
                policy=policy_of(run.campaign),
                method=method,
            )
            if not turn or match.worst_db <= method.gain_match_db / 2:
                break
            for link in links:
                by_db = -match.deviations_db[link.number]
                for channel in link.channels:
                    bench.turn_gain(channel, by_db)
                    turned = found["turned_db"]
                    turned[str(channel)] = turned.get(str(channel), 0.0) + by_db
        found["deviations_db"] |= {str(number): value for number, value in match.deviations_db.items()}
        found["worst_db"] = max(found["worst_db"], match.worst_db)
        found["source_dbv"] = match.source_dbv(_full_volts(run, model, group), overlap_db)
        if match.worst_db > method.gain_match_db:
            found["misfit"] = _misfit(match, method.gain_match_db)
    return found


def _full_volts(run: tables.Run, model: tables.Model, group: tables.ChannelGroup) -> float:
    """Output volts at the power that the plan expects of the run, or of the group's largest claim."""
    if run.group == group.name and run.predicted.get("watts"):
        return math.sqrt(float(run.predicted["watts"]) * run.load_ohms)
    claims = [claim.watts * claim.load_ohms for claim in model.claims if claim.group == group.name]
    return math.sqrt(max(claims, default=100.0))


def _misfit(match: GainMatch, allowed_db: float) -> str:
    apart = max(match.deviations_db.items(), key=lambda pair: abs(pair[1]))
    way = "down" if apart[1] > 0 else "up"
    return (
        f"Gains are {match.worst_db:.2f} dB apart, at most {allowed_db:g} dB: "
        f"turn channel {apart[0]} {way} by {abs(apart[1]):.2f} dB"
    )
