"""From rows to records: the one place where that is done, each in a number of statements that no archive changes."""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

from sqlalchemy import ColumnElement, Select, and_, select
from sqlalchemy.orm import Session, aliased

from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import NotFound, RulvekError, Unreadable
from rulvek.core.method.profile import MethodProfile
from rulvek.core.quantities import field_names
from rulvek.core.readings.point import Load
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
from rulvek.core.records.before_power import Item, Preparation, Skip
from rulvek.core.records.campaigns import SIMULATED, Campaign, Choice, Expected, Run, Unit
from rulvek.core.records.claims import Claim, ClaimTerms, Withdrawal
from rulvek.core.records.instruments import InstrumentRole, Instruments, InstrumentUsed, Specification
from rulvek.core.records.outside import HandChannel, Origin, Outside, Vehicle
from rulvek.core.records.product import ChannelGroup, Model, Product
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.cause import Cause
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.store import tables as t

Condition = ColumnElement[bool]
UNITS_AT_ONCE = 40


def model(session: Session, model_id: int) -> Model:
    """A model with its groups and claims.

    Raises:
        NotFound: there is none.
    """
    found = models(session, [model_id])
    if not found:
        raise NotFound(f"There is no model number {model_id}.")
    return found[0]


def models(session: Session, ids: Sequence[int]) -> list[Model]:
    """Models with their groups and claims, in the order of their ids as given."""
    wanted = t.Model.id.in_(ids)
    groups = _grouped(
        session.scalars(select(t.ChannelGroup).where(t.ChannelGroup.model_id.in_(ids)).order_by(t.ChannelGroup.id)),
        "model_id",
    )
    claims: dict[int, list[Claim]] = defaultdict(list)
    statement = select(t.Claim, t.ClaimWithdrawal).outerjoin(t.ClaimWithdrawal).where(t.Claim.model_id.in_(ids))
    for row, gone in session.execute(statement.order_by(t.Claim.id)):
        claims[row.model_id].append(_claim(row, gone))
    rows = {
        row.id: (row, series_name)
        for row, series_name in session.execute(
            select(t.Model, t.Series.name).join(t.Series, t.Series.id == t.Model.series_id).where(wanted)
        )
    }
    return [_model(*rows[one], groups[one], claims[one]) for one in ids if one in rows]


def _claim(row: t.Claim, gone: t.ClaimWithdrawal | None) -> Claim:
    terms = row.terms
    return Claim(
        *(getattr(terms, name) for name in field_names(ClaimTerms)),
        id=row.id,
        added_by=row.added_by,
        added_at=row.added_at,
        withdrawn=Withdrawal(gone.reason, gone.withdrawn_by, gone.withdrawn_at) if gone else None,
    )


def _model(row: t.Model, series_name: str, groups: Sequence[t.ChannelGroup], claims: Sequence[Claim]) -> Model:
    return Model(
        id=row.id,
        series_name=series_name,
        name=row.name,
        description=row.description,
        product=Product(
            groups=tuple(
                ChannelGroup(
                    g.name,
                    tuple(g.channels),
                    tuple(g.rated_loads),
                    tuple(g.bridged_loads),
                    g.bass,
                    g.topology,
                    g.band_low_hz,
                    g.band_high_hz,
                )
                for g in groups
            ),
            topology=row.topology,
            regulated=row.regulated,
            supply_range=(row.supply_low_volts, row.supply_high_volts),
            fuse_amps=tuple(row.fuse_amps),
        ),
        sensitivity_volts=row.sensitivity_volts,
        test_controls=tuple(row.test_controls),
        design=row.design,
        described_design=row.described_design,
        claims=tuple(claims),
        facts=row.facts,
    )


def unit(session: Session, unit_id: int) -> Unit:
    """A unit.

    Raises:
        NotFound: there is none.
    """
    row = session.get(t.Unit, unit_id)
    if row is None:
        raise NotFound(f"There is no unit number {unit_id}.")
    return unit_of(row)


def unit_by_serial(session: Session, serial: str) -> Unit:
    """The unit of a serial number.

    Raises:
        NotFound: there is none.
    """
    row = session.scalars(select(t.Unit).where(t.Unit.serial == serial)).first()
    if row is None:
        raise NotFound(f"There is no unit with the serial number “{serial}”.")
    return unit_of(row)


def units_by_serial(session: Session, serials: Iterable[str]) -> dict[str, Unit]:
    """Units by their serial numbers; those that are not on record are left out."""
    rows = session.scalars(select(t.Unit).where(t.Unit.serial.in_(set(serials))))
    return {row.serial: unit_of(row) for row in rows}


def unit_of(row: t.Unit) -> Unit:
    """A unit's row as a record."""
    return Unit(
        id=row.id,
        model_id=row.model_id,
        serial=row.serial,
        lot=row.lot,
        revision=row.revision,
        origin=row.origin,
        received_at=row.received_at,
        design=row.design or "",
        facts=row.facts,
    )


def campaign(session: Session, campaign_id: int) -> Campaign:
    """A whole campaign.

    Raises:
        NotFound: there is none.
    """
    found = _campaigns(session, t.Campaign.id == campaign_id, t.Run.campaign_id == campaign_id)
    if not found:
        raise NotFound(f"There is no campaign number {campaign_id}.")
    return found[0]


def campaigns_of_unit(session: Session, unit_id: int) -> list[Campaign]:
    """All of a unit's campaigns, the oldest first, with what evidence rests on."""
    return next(campaigns_by_unit(session, [unit_id]))


def campaigns_by_unit(session: Session, unit_ids: Sequence[int]) -> Iterator[list[Campaign]]:
    """The same of several units, one after the other; many are read at once, which costs hardly more than one."""
    for at in range(0, len(unit_ids), UNITS_AT_ONCE):
        some = unit_ids[at : at + UNITS_AT_ONCE]
        condition = and_(t.Campaign.unit_id.in_(some), ~t.Campaign.arriving)
        found: dict[int, list[Campaign]] = defaultdict(list)
        for one in _campaigns(session, condition, t.Run.campaign_id.in_(select(t.Campaign.id).where(condition))):
            found[one.unit.id].append(one)
        for unit_id in some:
            yield found.pop(unit_id, [])


def campaign_of_run(session: Session, run_id: int) -> tuple[Campaign, Run]:
    """A campaign by one of its runs.

    Raises:
        NotFound: there is no such run.
    """
    row = session.get(t.Run, run_id)
    if row is None:
        raise NotFound(f"There is no run number {run_id}.")
    whole = campaign(session, row.campaign_id)
    return whole, next(run for run in whole.runs if run.id == run_id)


def around_attempts(session: Session, attempt_ids: Sequence[int]) -> list[Campaign]:
    """Parts of campaigns: the runs of some attempts and all other runs there whose channels are loaded alike.

    That is all that findings, uncertainties and verdicts of those attempts ask of their campaigns.
    """
    own, other = aliased(t.Run), aliased(t.Run)
    runs = (
        select(other.id)
        .join(
            own,
            and_(
                own.campaign_id == other.campaign_id,
                own.group == other.group,
                own.load_ohms == other.load_ohms,
                own.bridged == other.bridged,
            ),
        )
        .join(t.Attempt, t.Attempt.run_id == own.id)
        .where(t.Attempt.id.in_(attempt_ids))
    )
    campaigns = select(t.Run.campaign_id).join(t.Attempt).where(t.Attempt.id.in_(attempt_ids))
    return _campaigns(session, t.Campaign.id.in_(campaigns), t.Run.id.in_(runs), prepared=False)


def attempt(session: Session, attempt_id: int) -> tuple[Campaign, Run, Attempt]:
    """An attempt in its part of its campaign; see :func:`around_attempts`.

    Raises:
        NotFound: there is none.
    """
    for found in around_attempts(session, [attempt_id]):
        for run, one in found.attempts():
            if one.id == attempt_id:
                return found, run, one
        for problem in found.unreadable:
            if problem.subject == attempt_id:
                raise problem
    raise NotFound(f"There is no attempt number {attempt_id}.")


def run_of_attempt(session: Session, attempt_id: int) -> int:
    """The run that an attempt is at.

    Raises:
        NotFound: there is no such attempt.
    """
    run_id = session.scalar(select(t.Attempt.run_id).where(t.Attempt.id == attempt_id))
    if run_id is None:
        raise NotFound(f"There is no attempt number {attempt_id}.")
    return run_id


def _campaigns(session: Session, which: Condition, which_runs: Condition, prepared: bool = True) -> list[Campaign]:
    statement = select(t.Campaign, t.Unit).join(t.Unit, t.Unit.id == t.Campaign.unit_id).where(which)
    rows = session.execute(statement.order_by(t.Campaign.id)).all()
    problems: dict[int, list[Unreadable]] = defaultdict(list)
    runs = _runs(session, which_runs, problems)
    preparations: dict[int, list[t.Preparation]] = defaultdict(list)
    if prepared:
        asked = select(t.Preparation).join(t.Campaign, t.Campaign.id == t.Preparation.campaign_id).where(which)
        preparations = _grouped(session.scalars(asked.order_by(t.Preparation.id)), "campaign_id")
    return [
        Campaign(
            id=row.id,
            unit=unit_of(of_unit),
            bench=row.bench,
            came_from=row.came_from,
            supply_volts=row.supply_volts,
            method=MethodProfile.from_data(row.method),
            wishes=Wishes.from_data(row.wishes),
            created_by=row.created_by,
            created_at=row.created_at,
            runs=tuple(runs[row.id]),
            preparations=tuple(
                Preparation(p.wiring_key, Item(p.item), p.done, p.reason, p.by, p.at, p.data)
                for p in preparations[row.id]
            ),
            unreadable=tuple(problem for run in runs[row.id] for problem in problems[run.id]),
        )
        for row, of_unit in rows
    ]


def _runs(session: Session, which: Condition, problems: dict[int, list[Unreadable]]) -> dict[int, list[Run]]:
    """Runs by campaign, in their order, each with all of its attempts that can be read."""
    attempts = _attempts(session, which, problems)
    asked = select(t.AttemptChoice).join(t.Run, t.Run.id == t.AttemptChoice.run_id).where(which)
    choices = _grouped(session.scalars(asked.order_by(t.AttemptChoice.id)), "run_id")
    found: dict[int, list[Run]] = defaultdict(list)
    for row in session.scalars(select(t.Run).where(which).order_by(t.Run.campaign_id, t.Run.position)):
        found[row.campaign_id].append(
            Run(
                id=row.id,
                position=row.position,
                spec=RunSpec(
                    Mode(row.mode),
                    row.group,
                    row.load_ohms,
                    row.tone_hz,
                    row.supply_volts,
                    row.bridged,
                    row.burst,
                    row.hold_watts,
                ),
                channels=tuple(row.channels),
                companions=tuple(Connection(tuple(channels), float(ohms)) for channels, ohms in row.companions),
                reason=row.reason,
                exploratory=row.exploratory,
                wiring=row.wiring,
                wiring_key=row.wiring_key,
                expected=Expected(**{name: row.predicted.get(name) for name in ("watts", "amps", "minutes")}),
                attempts=tuple(attempts[row.id]),
                choices=tuple(Choice(c.attempt_id, c.reason, c.by, c.at) for c in choices[row.id]),
            )
        )
    return found


def _attempts(
    session: Session, which_runs: Condition, problems: dict[int, list[Unreadable]]
) -> dict[int, list[Attempt]]:
    """Attempts by run, in their order, with everything that hangs on them; one that cannot be read names itself."""

    def of_attempts(kind: Any) -> Mapping[int, list[Any]]:
        asked: Select[Any] = select(kind).join(t.Attempt, t.Attempt.id == kind.attempt_id)
        asked = asked.join(t.Run, t.Run.id == t.Attempt.run_id).where(which_runs)
        return _grouped(session.scalars(asked.order_by(kind.id)), "attempt_id")

    readings, remarks, aside = of_attempts(t.Reading), of_attempts(t.Remark), of_attempts(t.Overruling)
    withdrawals = of_attempts(t.ReadingWithdrawal)
    seconds, captures = of_attempts(t.SecondReading), of_attempts(t.CaptureFile)
    statement = select(t.Attempt, t.AttemptEnding, t.Bench.kind).join(t.Run, t.Run.id == t.Attempt.run_id)
    statement = statement.join(t.Campaign, t.Campaign.id == t.Run.campaign_id)
    statement = statement.outerjoin(t.Bench, t.Bench.name == t.Campaign.bench)
    statement = statement.outerjoin(t.AttemptEnding, t.AttemptEnding.attempt_id == t.Attempt.id).where(which_runs)
    found: dict[int, list[Attempt]] = defaultdict(list)
    for row, ending, kind in session.execute(statement.order_by(t.Attempt.number)):
        one = row.id
        try:
            made = _attempt(row, ending, readings[one], remarks[one], aside[one], seconds[one], captures[one])
            simulated = row.simulated if row.simulated is not None else kind == SIMULATED and made.outside is None
            made = replace(made, withdrawals=_withdrawals(withdrawals[one]), simulated=simulated)
        except Unreadable as problem:
            problems[row.run_id].append(problem)
        else:
            found[row.run_id].append(made)
    return found


def _withdrawals(rows: Sequence[t.ReadingWithdrawal]) -> tuple[ReadingWithdrawal, ...]:
    return tuple(ReadingWithdrawal(w.withdrawn, w.reason, w.by, w.at) for w in rows)


def _attempt(
    row: t.Attempt,
    ending: t.AttemptEnding | None,
    readings: Sequence[t.Reading],
    remarks: Sequence[t.Remark],
    aside: Sequence[t.Overruling],
    seconds: Sequence[t.SecondReading],
    captures: Sequence[t.CaptureFile],
) -> Attempt:
    try:
        return Attempt(
            id=row.id,
            number=row.number,
            started_by=row.started_by,
            started_at=row.started_at,
            cause=Cause(row.cause) if row.cause else None,
            reason=row.reason,
            skipped=tuple(Skip(Item(skip["item"]), skip["reason"], skip["by"]) for skip in row.skipped),
            instruments=_instruments(row.instruments),
            outside=_outside(row),
            ending=_ending(ending) if ending else None,
            readings=tuple(
                Reading(
                    r.channel,
                    r.watts,
                    r.volts_rms,
                    r.thd_n,
                    r.thd,
                    Load(
                        r.load_nominal,
                        r.load_measured,
                        r.load_tolerance,
                        r.load_inductance_uh,
                        r.load_ppm_per_kelvin,
                    ),
                )
                for r in sorted(readings, key=lambda r: r.channel)
            ),
            remarks=tuple(Remark(r.text, r.by, r.at) for r in remarks),
            set_aside=tuple(SetAside(o.code, o.reason, o.by, o.at) for o in aside),
            seconds=tuple(
                SecondReading(s.channel, s.watts, s.volts_rms, s.instrument, s.percent_of_reading, s.by, s.at)
                for s in seconds
            ),
            captures=tuple(_kept_file(c) for c in captures),
            read_again=row.read_again,
        )
    except (ValueError, KeyError, TypeError, RulvekError) as error:
        raise Unreadable(
            f"Attempt {row.id} cannot be read: {error}.", todo="Run rulvek verify.", subject=row.id
        ) from error


def _kept_file(row: t.CaptureFile) -> KeptFile:
    return KeptFile(**{name: getattr(row, name) for name in field_names(KeptFile)})


def _ending(row: t.AttemptEnding) -> Ending:
    values: dict[str, Any] = {name: getattr(row, name) for name in field_names(Ending)}
    return Ending(**values | {"end": End(row.end)})


def _instruments(kept: Mapping[str, Any]) -> Instruments:
    return Instruments(
        {
            InstrumentRole(role): InstrumentUsed(
                Specification(one["name"], **one["specification"]),
                date.fromisoformat(one["due_on"]) if one["due_on"] else None,
            )
            for role, one in kept.items()
        }
    )


def _outside(row: t.Attempt) -> Outside | None:
    kept = row.recorded or row.typed
    if not kept:
        return None
    origin = Origin.RECORDING if row.recorded else Origin.TABLE if kept.get("file") else Origin.BY_HAND
    return Outside(
        origin=origin,
        file=kept.get("file", ""),
        original=kept.get("original", ""),
        original_sha256=kept.get("sha256", ""),
        clamp_zeroed=kept.get("clamp_zeroed"),
        controls_in_position=kept.get("controls_in_position"),
        all_loaded=kept.get("all_loaded", True),
        charger_amps=kept.get("charger_amps"),
        vehicle=Vehicle(kept["vehicle"]) if kept.get("vehicle") else None,
        read=tuple(HandChannel(**channel) for channel in row.typed.get("channels", ())),
    )


def _grouped(rows: Iterable[Any], by: str) -> dict[int, list[Any]]:
    found: dict[int, list[Any]] = defaultdict(list)
    for row in rows:
        found[getattr(row, by)].append(row)
    return found
