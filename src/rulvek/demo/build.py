"""Builds the demo records: writes the line down, then conducts every campaign on simulated benches, one per core."""

import math
import multiprocessing
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict
from datetime import UTC, datetime, timedelta
from pathlib import Path

from rulvek.api.context import Services, make_services
from rulvek.demo.scenario import ENGINEER, LINE, TECHNICIAN, DemoCampaign, DemoModel, instruments
from rulvek.services.before_power import Item
from rulvek.services.records import Cause
from rulvek.services.unattended import conduct_all
from rulvek.store import queries, tables
from rulvek.store.database import Database

Tell = Callable[[str], None]
Planned = list[tuple[int, DemoCampaign]]
MEASURED_ALONE = "Gain controls left as they came, to see how they stood"


def build(services: Services, tell: Tell, benches: int | None = None) -> None:
    """Fill empty records with the demo; ``tell`` hears what was done. Each of the ``benches`` is a process."""
    for instrument in instruments(datetime.now(UTC).date()):
        services.gear.enter(instrument, ENGINEER)
    units: list[tuple[str, Planned]] = []
    for series in LINE:
        with services.database.writing() as session:
            row = queries.add(session, tables.Series(name=series.name, purpose=series.purpose))
        for model in series.models:
            units += _write_model(services, row.id, model)
    work = [(serial, planned) for serial, planned in units if planned]
    benches = benches if benches is not None else min(len(work), os.cpu_count() or 1)
    where = services.database.url, services.evidence.captures
    if benches == 1:
        for serial, planned in work:
            conduct_unit(*where, planned)
            tell(serial)
        return
    # The units with most runs first, so that no bench is left with a long one at the end.
    work.sort(key=lambda item: -sum(len(services.campaigns.get(number).runs) for number, _ in item[1]))
    with ProcessPoolExecutor(benches, mp_context=multiprocessing.get_context("spawn")) as pool:
        waiting = [(serial, pool.submit(conduct_unit, *where, planned)) for serial, planned in work]
        for serial, done in waiting:
            done.result()
            tell(serial)


def conduct_unit(url: str, captures: Path, planned: Sequence[tuple[int, DemoCampaign]]) -> None:
    """Conduct one unit's campaigns, on a bench of this process."""
    database = Database(url, durable=False)  # a demo that was cut short is simply built again
    services = make_services(database, captures, bench_speed=math.inf)
    for campaign_id, campaign in planned:
        _conduct(services, campaign_id, campaign)
    database.close()


def _write_model(services: Services, series_id: int, model: DemoModel) -> list[tuple[str, Planned]]:
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
    for unit_id, unit in kept:
        for reading in unit.typed:
            services.typed.keep(unit_id, reading, TECHNICIAN)
    return [
        (unit.serial, [(services.campaigns.create(unit_id, ENGINEER, c.wishes).id, c) for c in unit.campaigns])
        for unit_id, unit in kept
    ]


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
