"""Builds the demo records: writes the line down, then conducts every campaign on simulated benches, one per core."""

import math
import multiprocessing
import os
import queue
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

from rulvek import clock, logs
from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.composition import Services, make_services
from rulvek.core.records.actor import PROGRAM, Actor
from rulvek.core.records.before_power import Item
from rulvek.core.records.campaigns import SIMULATED, Unit
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.product import Model, Product
from rulvek.core.runs.cause import Cause
from rulvek.demo import dossiers, ratings
from rulvek.demo.notebook import UnitOnBench, take_down
from rulvek.demo.scenario import (
    BENCHES,
    ENGINEER,
    LINE,
    PEOPLE,
    SECOND,
    TECHNICIAN,
    DemoCampaign,
    DemoModel,
    DemoUnit,
    clamp,
    instruments,
    instruments_of_the_second,
)
from rulvek.services.benches import conduct_all
from rulvek.services.beside import stand_back
from rulvek.services.catalogue.named import note_lots
from rulvek.store import save
from rulvek.store.engine import Database

Tell = Callable[[str, int, int], None]
"""Hears which unit was conducted, how many are, and of how many."""
LISTEN_SECONDS = 0.2
NICE = 5
"""Those who already look at the records come first."""
MOVED_IN, EARLY = timedelta(days=45), timedelta(days=40)
"""How long ago the lab began, and measured what came early."""
MEASURED_ALONE = "Gain controls left as they came, to see how they stood"


@dataclass(frozen=True)
class Work:
    """A unit on record with what is to be done on it, and the simulated amplifier behind it."""

    unit_id: int
    unit: DemoUnit
    design: str


@dataclass(frozen=True)
class Described:
    """The demo's line as it is before anything was measured."""

    models: dict[str, int]
    units: dict[str, int]
    work: list[Work]
    today: date


def build(services: Services, tell: Tell, processes: int | None = None) -> None:
    """Fill empty records with the demo; ``tell`` hears what was done. Each bench works in a process of its own."""
    conduct(services, describe(services), tell, processes)


def describe(services: Services) -> Described:
    """Write down who works here, what is measured and with what: the part that takes seconds."""
    for name, roles in PEOPLE.items() if services.sessions.is_new() else ():
        services.accounts.make(name, roles, PROGRAM, demo=True)
    today = clock.now().date()
    known = [(series, model) for series in LINE for model in series.models]
    work: list[Work] = []
    with clock.set_back(MOVED_IN):
        models = _move_in(services, today)
        for _, model in known:
            work += _receive(services, models[model.name], model, early=True)
    for _, model in known:
        work += _receive(services, models[model.name], model, early=False)
    dossiers.keep_models(services, models)
    units = {one.unit.serial: one.unit_id for one in work}
    dossiers.keep_units(services, units, today)
    work = [one for one in work if one.unit.campaigns or one.unit.notes]
    return Described(models, units, work, today)


def conduct(services: Services, described: Described, tell: Tell, processes: int | None = None) -> None:
    """Conduct every campaign, and take the ratings through their lives."""
    work, models, today = described.work, described.models, described.today
    done = 0

    def told(serial: str) -> None:
        nonlocal done
        done += 1
        tell(serial, done, len(work))

    _conduct_all(services, [one for one in work if one.unit.early], told, processes)
    with clock.set_back(EARLY):
        ratings.publish_early(services, models)
    services.gear.enter(clamp(today), Actor(ENGINEER))
    _conduct_all(services, [one for one in work if not (one.unit.early or one.unit.later)], told, processes)
    ratings.publish_all(services, models)
    _conduct_all(services, [one for one in work if one.unit.later], told, processes)
    ratings.unsettle(services, models, today)
    ratings.read_again(services, models)
    ratings.audit(services, models, described.units, today)


def _conduct_all(services: Services, work: list[Work], conducted: Callable[[str], None], processes: int | None) -> None:
    where = services.database.url, services.files.root
    if not work:
        return
    if processes == 1:
        for one in work:
            conduct_unit(*where, one)
            conducted(one.unit.serial)
        return
    spawn = multiprocessing.get_context("spawn")
    told: multiprocessing.Queue[str] = spawn.Queue()
    # They end with this process, however it ends: a demo that was cut short is built anew.
    benches = [
        spawn.Process(target=conduct_units, args=(*where, _of_bench(work, name), told), name=name, daemon=True)
        for name in BENCHES
        if _of_bench(work, name)
    ]
    for bench in benches:
        bench.start()
    waiting = {one.unit.serial for one in work}
    while waiting:
        try:
            serial = told.get(timeout=LISTEN_SECONDS)
        except queue.Empty:
            if failed := next((one for one in benches if one.exitcode), None):
                raise RuntimeError(f"{failed.name} ended in the middle of the demo") from None
            continue
        waiting.discard(serial)
        conducted(serial)
    for bench in benches:
        bench.join()


def _of_bench(work: list[Work], bench: str) -> list[Work]:
    """A bench's units, in the order of the line: which bench measures a unit is part of the scenario."""
    return [one for one in work if one.unit.bench == bench]


def conduct_units(url: str, captures: Path, work: list[Work], told: "multiprocessing.Queue[str]") -> None:
    """Conduct some units on one bench; tells the serial number of each."""
    stand_back(NICE)
    logs.configure(least="warning")
    for one in work:
        conduct_unit(url, captures, one)
        told.put(one.unit.serial)


def conduct_unit(url: str, captures: Path, work: Work) -> None:
    """Take one unit's notes down and conduct its campaigns, on a bench of this process, when the scenario has it."""
    with clock.set_back(EARLY if work.unit.early else timedelta(0)):
        _conduct_unit(url, captures, work)


def _conduct_unit(url: str, captures: Path, work: Work) -> None:
    database = Database(url, durable=False)  # a demo that was cut short is simply built again
    services = make_services(database, captures, bench_speed=math.inf, inbox=f"arriving-{os.getpid()}")
    notebook = UnitOnBench(services, work.unit_id, work.unit.serial, work.design, Actor(TECHNICIAN))
    for note in work.unit.notes:
        take_down(note, notebook)
    if work.unit.bench == SECOND and work.unit.campaigns:
        _look_at(services, SECOND)
    for campaign in work.unit.campaigns:
        planned = services.campaigns.create(
            work.unit_id, Actor(ENGINEER), campaign.wishes, campaign.runs or None, bench=work.unit.bench
        )
        _conduct(services, planned.id, campaign)
    services.recordings.close()
    services.close()


def _look_at(services: Services, bench: str) -> None:
    """As each morning: without it nothing is run on a bench of instruments."""
    room = services.benches.room(bench)
    room.look(1, True, Actor(TECHNICIAN))
    room.wait()


def _move_in(services: Services, today: date) -> dict[str, int]:
    """The lab as it began: its instruments, its benches, and the models of its line, by name."""
    engineer, models = Actor(ENGINEER), {}
    for instrument in instruments(today):
        services.gear.enter(instrument, engineer)
    known = {room.name for room in services.benches.rooms()}
    for name in BENCHES:
        if name not in known and name == SECOND:
            services.benches.add(name, OF_INSTRUMENTS, engineer, instruments_of_the_second().as_json())
        elif name not in known:
            services.benches.add(name, SIMULATED, engineer)
    for series in LINE:
        with services.database.writing() as session:
            series_id = save.series(session, SeriesEntry(series.name, series.purpose, 5.0, "EUR"))
        for model in series.models:
            product = Product(model.groups, model.topology, model.regulated, model.supply_range, model.fuses)
            described = Model(0, "", model.name, model.description, product, 1.0, model.controls, model.design)
            with services.database.writing() as session:
                models[model.name] = save.model(session, series_id, described)
            for claim in model.claims:
                services.catalogue.add_claim(models[model.name], claim, engineer)
    return models


def _receive(services: Services, model_id: int, model: DemoModel, early: bool) -> list[Work]:
    """Take a model's units in: the early ones, or all others."""
    kept = []
    with services.database.writing() as session:
        for age, unit in enumerate(model.units):
            if unit.early is not early:
                continue
            received = clock.now() - timedelta(days=max(0, 9 - 3 * age))
            new = Unit(0, model_id, unit.serial, unit.lot, unit.revision, unit.origin, received, unit.design or "")
            kept.append(Work(save.unit(session, new), unit, unit.design or model.design))
            note_lots(session, [new], Actor(ENGINEER))
    return kept


def _conduct(services: Services, campaign_id: int, campaign: DemoCampaign) -> None:
    parts = services.database, services.preparations, services.benches
    technician = Actor(TECHNICIAN)
    if not campaign.gains_found_apart:
        conduct_all(*parts, campaign_id, technician)
        return
    first = services.campaigns.get(campaign_id).runs[0]
    room = services.benches.room_of_campaign(campaign_id)
    services.preparations.skip(campaign_id, first.wiring, Item.GAINS, technician, MEASURED_ALONE)
    services.preparations.see_to_all(campaign_id, first.wiring, technician)
    room.start(first.id, technician)
    room.wait()
    services.preparations.see_to(campaign_id, first.wiring, Item.GAINS, technician, turn=True)
    room.start(first.id, technician, Cause.GAINS)
    room.wait()
    conduct_all(*parts, campaign_id, technician)
