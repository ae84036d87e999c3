"""From records to rows: the one place where that is done. Each call belongs to its caller's transaction.

Whatever a conclusion rests on is written here and nowhere else, so that every such write moves the version that the
conclusion was drawn at (:func:`_touched`).
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, fields
from datetime import datetime
from typing import Any

from sqlalchemy import Update, delete, func, insert, select, update
from sqlalchemy.orm import Session

from rulvek.core.quantities import field_names
from rulvek.core.records.attempts import (
    Attempt,
    Ending,
    KeptFile,
    Reading,
    ReadingWithdrawal,
    Remark,
    SecondReading,
    SetAside,
)
from rulvek.core.records.before_power import Preparation
from rulvek.core.records.benches import SelfTest
from rulvek.core.records.campaigns import Choice, Run, Unit
from rulvek.core.records.claims import ClaimTerms, Withdrawal
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.instruments import InstrumentEntry, Instruments
from rulvek.core.records.outside import Outside
from rulvek.core.records.product import Model, Product
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import ENDS
from rulvek.store import tables as t

OF_THE_DAY = [end.value for end, meaning in ENDS.items() if meaning.of_the_day]


def series(session: Session, new: SeriesEntry) -> int:
    """A series; returns its id."""
    return all_series(session, [new])[0]


def all_series(session: Session, new: Sequence[SeriesEntry]) -> list[int]:
    """Series; returns their ids, in order."""
    return _many(session, t.Series, [asdict(one) for one in new])


def model(session: Session, series_id: int, new: Model) -> int:
    """A model with its channel groups, without its claims; returns its id."""
    return models(session, [(series_id, new)])[0]


def models(session: Session, new: Sequence[tuple[int, Model]]) -> list[int]:
    """Models, each of a series, with their channel groups, without claims; returns their ids, in order."""
    rows = [
        _model_row(model) | {"series_id": series_id, "design": model.design, "described_design": model.described_design}
        for series_id, model in new
    ]
    ids = _many(session, t.Model, rows)
    _groups(session, {identity: model.product for identity, (_, model) in zip(ids, new, strict=True)})
    return ids


def _model_row(model: Model) -> dict[str, Any]:
    """What a form says of a model."""
    product = model.product
    return {
        "name": model.name,
        "topology": product.topology,
        "description": model.description,
        "regulated": product.regulated,
        "supply_low_volts": product.supply_range[0],
        "supply_high_volts": product.supply_range[1],
        "sensitivity_volts": model.sensitivity_volts,
        "test_controls": list(model.test_controls),
        "fuse_amps": list(product.fuse_amps),
        "facts": model.facts,
    }


def _groups(session: Session, products: Mapping[int, Product]) -> None:
    rows = [
        {
            "model_id": model_id,
            "name": group.name,
            "channels": list(group.channels),
            "rated_loads": list(group.rated_loads),
            "bridged_loads": list(group.bridged_loads),
            "bass": group.bass,
            "topology": group.topology,
            "band_low_hz": group.band_low_hz,
            "band_high_hz": group.band_high_hz,
        }
        for model_id, product in products.items()
        for group in product.groups
    ]
    _rows(session, t.ChannelGroup, rows)


def changed_series(session: Session, new: Mapping[int, SeriesEntry]) -> None:
    """Fields of series, by their ids, in place of those they had."""
    _by_id(session, t.Series, [asdict(one) | {"id": series_id} for series_id, one in new.items()])


def changed_models(session: Session, new: Mapping[int, Model]) -> None:
    """Fields and channel groups of models in place of those they had; what was concluded of them is drawn again."""
    _by_id(session, t.Model, [_model_row(model) | {"id": model_id} for model_id, model in new.items()])
    session.execute(delete(t.ChannelGroup).where(t.ChannelGroup.model_id.in_(list(new))))
    _groups(session, {model_id: model.product for model_id, model in new.items()})
    _claims_touched(session, new)


def changed_units(session: Session, new: Mapping[int, Unit]) -> None:
    """Fields of units in place of those they had; what was concluded of them carries their serial numbers."""
    _by_id(session, t.Unit, [_unit_row(unit) | {"id": unit_id} for unit_id, unit in new.items()])
    session.execute(update(t.Unit).where(t.Unit.id.in_(list(new))).values(version=t.Unit.version + 1))
    _units_touched(session, {unit.model_id for unit in new.values()})


def _unit_row(unit: Unit) -> dict[str, Any]:
    """What a form says of a unit."""
    return {
        "serial": unit.serial,
        "lot": unit.lot,
        "revision": unit.revision,
        "origin": unit.origin,
        "received_at": unit.received_at,
        "facts": unit.facts,
    }


def _units_touched(session: Session, model_ids: Iterable[int]) -> None:
    session.execute(update(t.Model).where(t.Model.id.in_(list(model_ids))).values(version=t.Model.version + 1))


def stand_in(session: Session, model_id: int, design: str, described: str) -> None:
    """Which simulated amplifier stands in for a model: one by name, or one that is described."""
    row = session.get_one(t.Model, model_id)
    row.design, row.described_design = design, described


def unit(session: Session, new: Unit) -> int:
    """A unit of its model; returns its id."""
    return units(session, [new])[0]


def units(session: Session, new: Sequence[Unit]) -> list[int]:
    """Units of their models; returns their ids, in order."""
    rows = [_unit_row(unit) | {"model_id": unit.model_id, "design": unit.design or None} for unit in new]
    ids = _many(session, t.Unit, rows)
    _units_touched(session, {unit.model_id for unit in new})
    return ids


def claim(session: Session, model_id: int, terms: ClaimTerms, by: str, at: datetime) -> int:
    """A claim; returns its id."""
    return claims(session, [(model_id, terms)], by, at)[0]


def claims(session: Session, new: Sequence[tuple[int, ClaimTerms]], by: str, at: datetime) -> list[int]:
    """Claims, each of a model; returns their ids, in order."""
    rows = [
        {name: getattr(terms, name) for name in field_names(ClaimTerms)}
        | {"model_id": model_id, "added_by": by, "added_at": at}
        for model_id, terms in new
    ]
    _claims_touched(session, {model_id for model_id, _ in new})
    return _many(session, t.Claim, rows)


def withdrawal(session: Session, model_id: int, claim_id: int, gone: Withdrawal) -> None:
    """That a claim is no longer made."""
    session.execute(
        insert(t.ClaimWithdrawal).values(
            claim_id=claim_id, reason=gone.reason, withdrawn_by=gone.by, withdrawn_at=gone.at
        )
    )
    _claims_touched(session, [model_id])


def campaign(
    session: Session,
    *,
    unit_id: int,
    bench: str,
    supply_volts: float,
    method: dict[str, Any],
    wishes: Wishes,
    by: str,
    at: datetime,
    runs: Sequence[Run],
    arriving: bool = False,
    came_from: str = "",
) -> tuple[int, list[int]]:
    """A campaign with its runs as planned; returns its id and theirs, in their order."""
    campaign_id = _one(
        session,
        t.Campaign,
        unit_id=unit_id,
        bench=bench,
        supply_volts=supply_volts,
        method=method,
        wishes=wishes.as_data(),
        runs_left=0 if came_from else len(runs),
        arriving=arriving,
        came_from=came_from,
        created_by=by,
        created_at=at,
    )
    rows = [
        {
            "campaign_id": campaign_id,
            "position": run.position,
            "mode": run.spec.mode.value,
            "group": run.spec.group,
            "channels": list(run.channels),
            "load_ohms": run.spec.load_ohms,
            "bridged": run.spec.bridged,
            "tone_hz": run.spec.tone_hz,
            "supply_volts": run.spec.supply_volts,
            "companions": [[list(link.channels), link.nominal_ohms] for link in run.companions],
            "reason": run.reason,
            "burst": run.spec.burst,
            "hold_watts": run.spec.watts,
            "exploratory": run.exploratory,
            "wiring": run.wiring,
            "wiring_key": run.wiring_key,
            "predicted": {name: value for name, value in asdict(run.expected).items() if value is not None},
        }
        for run in runs
    ]
    return campaign_id, _many(session, t.Run, rows)


def arrived(session: Session, campaign_ids: Sequence[int]) -> None:
    """Show campaigns that were written in pieces, all at once."""
    _updated(session, update(t.Campaign).where(t.Campaign.id.in_(campaign_ids)).values(arriving=False))
    _stale(session, campaign_ids)


def remove_arriving(session: Session, campaign_id: int, limit: int) -> int:
    """Remove some of what a table left that was never shown; returns how many attempts, the campaign with the last."""
    of_campaign = select(t.Attempt.id).join(t.Run, t.Run.id == t.Attempt.run_id).where(t.Run.campaign_id == campaign_id)
    ids = list(session.scalars(of_campaign.limit(limit)))
    for kind in (t.AttemptEnding, t.Reading, t.Remark):
        session.execute(delete(kind).where(kind.attempt_id.in_(ids)))
    session.execute(delete(t.Attempt).where(t.Attempt.id.in_(ids)))
    if not ids:
        session.execute(delete(t.Run).where(t.Run.campaign_id == campaign_id))
        session.execute(delete(t.Campaign).where(t.Campaign.id == campaign_id, t.Campaign.arriving))
    return len(ids)


def attempts(session: Session, new: Sequence[tuple[int, Attempt]]) -> list[int]:
    """Attempts at runs, with endings, readings and remarks as far as they have them; returns their ids in order."""
    ids = _many(session, t.Attempt, [_attempt_row(run_id, attempt) for run_id, attempt in new])
    pairs = list(zip(ids, (attempt for _, attempt in new), strict=True))
    ended = [(identity, attempt.ending) for identity, attempt in pairs if attempt.ending]
    _rows(session, t.AttemptEnding, [_ending_row(identity, ending) for identity, ending in ended])
    _rows(session, t.Reading, [_reading_row(identity, r) for identity, attempt in pairs for r in attempt.readings])
    remarks = [(identity, remark) for identity, attempt in pairs for remark in attempt.remarks]
    _rows(session, t.Remark, [{"attempt_id": identity} | asdict(remark) for identity, remark in remarks])
    return ids


def attempt(session: Session, campaign_id: int, run_id: int, new: Attempt) -> int:
    """An attempt at a run; returns its id."""
    (identity,) = attempts_of(session, campaign_id, [(run_id, new)])
    return identity


def attempts_of(session: Session, campaign_id: int, new: Sequence[tuple[int, Attempt]]) -> list[int]:
    """Attempts at a campaign's runs; what was concluded of it is stale if any of them has ended."""
    ids = attempts(session, new)
    if any(attempt.ending is not None for _, attempt in new):
        _touched(session, [campaign_id])
    return ids


def ending(session: Session, campaign_id: int, attempt_id: int, end: Ending, readings: Sequence[Reading]) -> None:
    """How an attempt ended, with its readings."""
    _rows(session, t.AttemptEnding, [_ending_row(attempt_id, end)])
    _rows(session, t.Reading, [_reading_row(attempt_id, reading) for reading in readings])
    _touched(session, [campaign_id])


def steps(session: Session, attempt_id: int, new: Sequence[tuple[str, float, dict[str, Any]]]) -> None:
    """What happened in an attempt: kind, seconds since its start, data."""
    steps_of(session, {attempt_id: new})


def steps_of(session: Session, new: Mapping[int, Sequence[tuple[str, float, dict[str, Any]]]]) -> None:
    """What happened in attempts, by their ids."""
    rows = [
        {"attempt_id": attempt_id, "kind": kind, "at_seconds": at, "data": data}
        for attempt_id, happened in new.items()
        for kind, at, data in happened
    ]
    _rows(session, t.Step, rows)


def captures(session: Session, new: Sequence[tuple[int, KeptFile]]) -> None:
    """Kept waveforms, each with its attempt."""
    _rows(session, t.CaptureFile, [{"attempt_id": attempt_id} | asdict(kept) for attempt_id, kept in new])


def capture_found(
    session: Session, campaign_id: int, attempt_id: int, sha256: str, changed_at: datetime | None
) -> None:
    """A capture was found to be other than it was kept, or to be as it was again."""
    which = (t.CaptureFile.attempt_id == attempt_id, t.CaptureFile.sha256 == sha256)
    session.execute(update(t.CaptureFile).where(*which).values(changed_at=changed_at))
    _touched(session, [campaign_id])


def remark(session: Session, attempt_id: int, new: Remark) -> None:
    """A note on an attempt."""
    _rows(session, t.Remark, [{"attempt_id": attempt_id} | asdict(new)])


def set_aside(session: Session, campaign_id: int, attempt_id: int, new: SetAside) -> None:
    """A finding that somebody set aside."""
    _rows(session, t.Overruling, [{"attempt_id": attempt_id} | asdict(new)])
    _touched(session, [campaign_id])


def reading_withdrawal(session: Session, campaign_id: int, attempt_id: int, new: ReadingWithdrawal) -> None:
    """That a reading was withdrawn, or counts again."""
    _rows(session, t.ReadingWithdrawal, [{"attempt_id": attempt_id} | asdict(new)])
    _touched(session, [campaign_id])


def choice(session: Session, campaign_id: int, run_id: int, new: Choice) -> None:
    """Which attempt stands for a run."""
    _rows(session, t.AttemptChoice, [{"run_id": run_id} | asdict(new)])
    _touched(session, [campaign_id])


def second_readings(session: Session, campaign_id: int, attempt_id: int, new: Sequence[SecondReading]) -> list[int]:
    """What another instrument read; returns the ids in order."""
    ids = _many(session, t.SecondReading, [{"attempt_id": attempt_id} | asdict(one) for one in new])
    _touched(session, [campaign_id])
    return ids


def preparation(session: Session, campaign_id: int, new: Preparation) -> None:
    """Something seen to before power, or skipped."""
    row = {item.name: getattr(new, item.name) for item in fields(new)}
    _rows(session, t.Preparation, [row | {"campaign_id": campaign_id, "item": new.item.value, "data": dict(new.data)}])


def instrument(session: Session, new: InstrumentEntry, by: str, at: datetime) -> int:
    """An instrument of the register; returns its id."""
    row = {item.name: getattr(new, item.name) for item in fields(new)}
    return _one(session, t.Instrument, **row | {"role": new.role.value, "entered_by": by, "entered_at": at})


def bench(session: Session, name: str, kind: str, assembly: str = "") -> int:
    """A bench; returns its id."""
    return _one(session, t.Bench, name=name, kind=kind, assembly=assembly)


def only_bench(session: Session, name: str, kind: str, assembly: str) -> None:
    """The one bench of records that have no other yet."""
    session.execute(update(t.Bench).values(name=name, kind=kind, assembly=assembly))


def changed_bench(session: Session, bench_id: int, assembly: str, seen: int, at: datetime) -> bool:
    """What a bench is made of from now on; False where somebody changed it since ``seen``."""
    done = session.execute(
        update(t.Bench)
        .where(t.Bench.id == bench_id, t.Bench.version == seen)
        .values(assembly=assembly, version=seen + 1, changed_at=at)
    )
    return done.rowcount == 1  # type: ignore[attr-defined,no-any-return]


def self_test(session: Session, made: SelfTest) -> int:
    """How a bench was found; returns its id."""
    looked = [asdict(one) for one in made.looked]
    values = {"at": made.at, "by": made.by, "channels": made.channels, "powered": made.powered, "looked": looked}
    return _one(session, t.SelfTest, bench_id=made.bench_id, **values)


def _touched(session: Session, campaign_ids: Sequence[int]) -> None:
    """What campaigns show has changed: conclusions on units and models are stale, the runs left counted anew."""
    _stale(session, campaign_ids)
    count_left(session, campaign_ids)


def _stale(session: Session, campaign_ids: Sequence[int]) -> None:
    of_unit = select(t.Campaign.unit_id).where(t.Campaign.id.in_(campaign_ids))
    _updated(session, update(t.Unit).where(t.Unit.id.in_(of_unit)).values(version=t.Unit.version + 1))
    of_model = select(t.Unit.model_id).where(t.Unit.id.in_(of_unit)).distinct()
    _updated(session, update(t.Model).where(t.Model.id.in_(of_model)).values(version=t.Model.version + 1))


def count_left(session: Session, campaign_ids: Sequence[int]) -> None:
    """Count anew which runs of campaigns are not done yet."""
    done = (
        select(t.Attempt.id)
        .join(t.AttemptEnding, t.AttemptEnding.attempt_id == t.Attempt.id)
        .where(t.Attempt.run_id == t.Run.id, t.AttemptEnding.end.not_in(OF_THE_DAY))
    )
    left = select(func.count()).select_from(t.Run).where(t.Run.campaign_id == t.Campaign.id, ~done.exists())
    of = update(t.Campaign).where(t.Campaign.id.in_(campaign_ids), t.Campaign.came_from == "")
    _updated(session, of.values(runs_left=left.scalar_subquery()))


def _updated(session: Session, statement: Update) -> None:
    """Write without looking which objects of the session it meets: those of one transaction are not read again."""
    session.execute(statement, execution_options={"synchronize_session": False})


def _claims_touched(session: Session, model_ids: Iterable[int]) -> None:
    versions = {"version": t.Model.version + 1, "claims_version": t.Model.claims_version + 1}
    session.execute(update(t.Model).where(t.Model.id.in_(list(model_ids))).values(versions))


def _attempt_row(run_id: int, attempt: Attempt) -> dict[str, Any]:
    recorded, typed = _outside_data(attempt.outside)
    return {
        "run_id": run_id,
        "number": attempt.number,
        "reason": attempt.reason,
        "started_by": attempt.started_by,
        "started_at": attempt.started_at,
        "cause": attempt.cause.value if attempt.cause else "",
        "skipped": [{"item": s.item.value, "reason": s.reason, "by": s.by} for s in attempt.skipped],
        "instruments": _instruments_data(attempt.instruments),
        "typed": typed,
        "recorded": recorded,
        "simulated": attempt.simulated,
        "read_again": attempt.read_again,
    }


def _instruments_data(instruments: Instruments) -> dict[str, Any]:
    return {
        role.value: {
            "name": used.specification.name,
            "specification": {k: v for k, v in asdict(used.specification).items() if k != "name"},
            "due_on": used.due_on.isoformat() if used.due_on else None,
        }
        for role, used in instruments.by_role.items()
    }


def _outside_data(outside: Outside | None) -> tuple[dict[str, Any], dict[str, Any]]:
    """What was recorded, and what was read by hand; one of the two is empty."""
    if outside is None:
        return {}, {}
    data = asdict(outside)
    data["sha256"], data["origin"] = data.pop("original_sha256"), outside.origin.value
    data["channels"] = list(data.pop("read"))
    data["vehicle"] = outside.vehicle.value if outside.vehicle else None
    return (data, {}) if outside.original else ({}, data)


def _ending_row(attempt_id: int, end: Ending) -> dict[str, Any]:
    row = {item.name: getattr(end, item.name) for item in fields(end)}
    return row | {"attempt_id": attempt_id, "end": end.end.value}


def _reading_row(attempt_id: int, reading: Reading) -> dict[str, Any]:
    return {
        "attempt_id": attempt_id,
        "channel": reading.channel,
        "watts": reading.watts,
        "volts_rms": reading.volts_rms,
        "thd_n": reading.thd_n,
        "thd": reading.thd,
        "load_nominal": reading.load.nominal_ohms,
        "load_measured": reading.load.measured_ohms,
        "load_tolerance": reading.load.tolerance,
        "load_inductance_uh": reading.load.inductance_uh,
        "load_ppm_per_kelvin": reading.load.ppm_per_kelvin,
    }


def _one(session: Session, table: Any, **values: Any) -> int:
    (identity,) = _many(session, table, [values])
    return identity


def _many(session: Session, kind: Any, rows: list[dict[str, Any]]) -> list[int]:
    """Insert rows and return their ids in the same order."""
    if not rows:
        return []
    statement = insert(kind).returning(kind.id, sort_by_parameter_order=True)
    return list(session.scalars(statement, rows))


def _by_id(session: Session, kind: Any, rows: list[dict[str, Any]]) -> None:
    """Update rows by their ids; what the session read of them before does not hold any more."""
    if rows:
        session.execute(update(kind), rows)
        session.expire_all()


def _rows(session: Session, kind: Any, rows: list[dict[str, Any]]) -> None:
    if rows:
        session.execute(insert(kind), rows)
