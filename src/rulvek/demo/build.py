"""Builds the demo records: writes the line down, then conducts every campaign on the simulated bench."""

from collections.abc import Callable
from dataclasses import asdict
from datetime import UTC, datetime, timedelta

from rulvek.api.context import Services
from rulvek.demo.scenario import ENGINEER, LINE, TECHNICIAN, DemoModel, DemoUnit
from rulvek.store import queries, tables

Tell = Callable[[str], None]


def build(services: Services, tell: Tell) -> None:
    """Fill empty records with the demo; ``tell`` hears what is being done."""
    conduct: list[tuple[int, DemoUnit]] = []
    for series in LINE:
        with services.database.writing() as session:
            row = queries.add(session, tables.Series(name=series.name, purpose=series.purpose))
        for model in series.models:
            conduct += _write_model(services, row.id, model)
    for number, (unit_id, unit) in enumerate(conduct, 1):
        for volts in unit.supply_volts:
            tell(f"unit {number} of {len(conduct)}: {unit.serial} at {volts:g} V")
            _conduct(services, unit_id, volts)


def _write_model(services: Services, series_id: int, model: DemoModel) -> list[tuple[int, DemoUnit]]:
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
            ),
        )
        for group in model.groups:
            fields = {key: list(value) if isinstance(value, tuple) else value for key, value in asdict(group).items()}
            queries.add(session, tables.ChannelGroup(model_id=row.id, **fields))
        units = []
        for age, unit in enumerate(model.units):
            received = datetime.now(UTC) - timedelta(days=9 - 3 * age)
            kept = tables.Unit(
                model_id=row.id,
                serial=unit.serial,
                lot=unit.lot,
                revision=unit.revision,
                origin=unit.origin,
                received_at=received,
            )
            units.append((queries.add(session, kept).id, unit))
    for claim in model.claims:
        services.catalogue.add_claim(row.id, claim, ENGINEER)
    return units


def _conduct(services: Services, unit_id: int, volts: float) -> None:
    campaign = services.campaigns.create(unit_id, ENGINEER, volts)
    for run in campaign.runs:
        services.bench.start(run.id, TECHNICIAN)
        services.bench.wait()
