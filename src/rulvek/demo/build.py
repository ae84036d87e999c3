"""Builds the demo records: writes the line down, then conducts every campaign on simulated benches, one per core."""

import math
import multiprocessing
import os
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from rulvek.api.context import Services, make_services
from rulvek.demo.notebook import Bench, take_down
from rulvek.demo.scenario import ENGINEER, LINE, TECHNICIAN, DemoCampaign, DemoModel, DemoUnit, instruments
from rulvek.services.before_power import Item
from rulvek.services.records import Cause
from rulvek.services.unattended import conduct_all
from rulvek.store import queries, tables
from rulvek.store.database import Database

Tell = Callable[[str], None]
MEASURED_ALONE = "Gain controls left as they came, to see how they stood"


@dataclass(frozen=True)
class Work:
    """A unit on record with what is to be done on it, and the simulated amplifier behind it."""

    unit_id: int
    unit: DemoUnit
    design: str


def build(services: Services, tell: Tell, benches: int | None = None) -> None:
    """Fill empty records with the demo; ``tell`` hears what was done. Each of the ``benches`` is a process."""
    for instrument in instruments(datetime.now(UTC).date()):
        services.gear.enter(instrument, ENGINEER)
    work: list[Work] = []
    for series in LINE:
        with services.database.writing() as session:
            row = queries.add(session, tables.Series(name=series.name, purpose=series.purpose))
        for model in series.models:
            work += _write_model(services, row.id, model)
    work = [one for one in work if one.unit.campaigns or one.unit.notes]
    benches = benches if benches is not None else min(len(work), os.cpu_count() or 1)
    where = services.database.url, services.evidence.captures
    if benches == 1:
        for one in work:
            conduct_unit(*where, one)
            tell(one.unit.serial)
        return
    # The units with most runs first, so that no bench is left with a long one at the end.
    work.sort(key=lambda one: -_runs(services, one))
    with ProcessPoolExecutor(benches, mp_context=multiprocessing.get_context("spawn")) as pool:
        waiting = [(one.unit.serial, pool.submit(conduct_unit, *where, one)) for one in work]
        for serial, done in waiting:
            done.result()
            tell(serial)


def _runs(services: Services, work: Work) -> int:
    return sum(len(services.planner.plan(work.unit_id, campaign.wishes).runs) for campaign in work.unit.campaigns)


def conduct_unit(url: str, captures: Path, work: Work) -> None:
    """Take one unit's notes down and conduct its campaigns, on a bench of this process."""
    database = Database(url, durable=False)  # a demo that was cut short is simply built again
    services = make_services(database, captures, bench_speed=math.inf, arriving=f"arriving-{os.getpid()}")
    notebook = Bench(services, work.unit_id, work.unit.serial, work.design, TECHNICIAN)
    for note in work.unit.notes:
        take_down(note, notebook)
    for campaign in work.unit.campaigns:
        _conduct(services, services.campaigns.create(work.unit_id, ENGINEER, campaign.wishes).id, campaign)
    services.recordings.close()
    database.close()


def _write_model(services: Services, series_id: int, model: DemoModel) -> list[Work]:
    with services.database.writing() as session:
        row = queries.add(
            session,
            tables.Model(
                series_id=series_id,
                name=model.name,
                topology=model.topology,
                description=model.description,
                regulated=model.regulated,
                supply_low_volts=model.supply_range[0],
                supply_high_volts=model.supply_range[1],
                sensitivity_volts=1.0,
                test_controls=list(model.controls),
                design=model.design,
                fuse_amps=list(model.fuses),
            ),
        )
        for group in model.groups:
            fields = {key: list(value) if isinstance(value, tuple) else value for key, value in asdict(group).items()}
            queries.add(session, tables.ChannelGroup(model_id=row.id, **fields))
        kept = []
        for age, unit in enumerate(model.units):
            received = datetime.now(UTC) - timedelta(days=9 - 3 * age)
            made = tables.Unit(
                model_id=row.id,
                serial=unit.serial,
                lot=unit.lot,
                revision=unit.revision,
                origin=unit.origin,
                received_at=received,
                design=unit.design,
            )
            kept.append((queries.add(session, made).id, unit))
    for claim in model.claims:
        services.catalogue.add_claim(row.id, claim, ENGINEER)
    return [Work(unit_id, unit, unit.design or model.design) for unit_id, unit in kept]


def _conduct(services: Services, campaign_id: int, campaign: DemoCampaign) -> None:
    parts = services.campaigns, services.preparing, services.bench
    if not campaign.gains_found_apart:
        conduct_all(*parts, campaign_id, TECHNICIAN)
        return
    first = services.campaigns.get(campaign_id).runs[0]
    services.preparing.skip(campaign_id, first.wiring, Item.GAINS, TECHNICIAN, MEASURED_ALONE)
    services.preparing.see_to_all(campaign_id, first.wiring, TECHNICIAN)
    services.bench.start(first.id, TECHNICIAN)
    services.bench.wait()
    services.preparing.see_to(campaign_id, first.wiring, Item.GAINS, TECHNICIAN, turn=True)
    services.bench.start(first.id, TECHNICIAN, Cause.GAINS)
    services.bench.wait()
    conduct_all(*parts, campaign_id, TECHNICIAN)
