"""Conclusions as they were drawn, and the versions that say whether they still hold."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import and_, delete, insert, select
from sqlalchemy.orm import Session

import rulvek.core
from rulvek.core.electrical.supply import VoltageFit
from rulvek.core.judgement.conclusion import ModelConclusion, UnitConclusion, VoltageCurve
from rulvek.core.judgement.repeatability import Repeats
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.judgement.voltage import FitKey
from rulvek.core.planning.prediction import KnownPower
from rulvek.store import methods
from rulvek.store import tables as t

Fits = tuple[tuple[FitKey, VoltageFit], ...]
Known = tuple[KnownPower, ...]
LATEST_UNITS = 500


_UNIT: TypeAdapter[UnitConclusion] = TypeAdapter(UnitConclusion)
_MODEL: TypeAdapter[ModelConclusion] = TypeAdapter(ModelConclusion)
_CURVES: TypeAdapter[tuple[VoltageCurve, ...]] = TypeAdapter(tuple[VoltageCurve, ...])
_FITS: TypeAdapter[Fits] = TypeAdapter(Fits)
_KNOWN: TypeAdapter[Known] = TypeAdapter(Known)


@cache
def rules_in_force() -> str:
    """A fingerprint of the core: conclusions drawn by other rules are stale."""
    digest = sha256()
    for path in sorted(Path(rulvek.core.__path__[0]).rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()[:16]


def _judged_by(method_id: int | None) -> str:
    """The rules, and the method that they go by where evidence brings none."""
    return rules_in_force() if method_id is None else f"{rules_in_force()}.m{method_id}"


def unit_versions(session: Session, unit_ids: Sequence[int]) -> dict[int, str]:
    """What a unit's conclusion must have been drawn at to hold."""
    rows = session.execute(
        select(t.Unit.id, t.Unit.version, t.Model.claims_version, methods.usual_id())
        .join(t.Model, t.Model.id == t.Unit.model_id)
        .where(t.Unit.id.in_(unit_ids))
    )
    return {one: f"{version}.{claims}.{_judged_by(method)}" for one, version, claims, method in rows}


def model_versions(session: Session, model_ids: Sequence[int]) -> dict[int, str]:
    """What a model's conclusion must have been drawn at to hold."""
    rows = session.execute(select(t.Model.id, t.Model.version, methods.usual_id()).where(t.Model.id.in_(model_ids)))
    return {one: _model_version(version, method) for one, version, method in rows}


def _model_version(version: int, method_id: int | None) -> str:
    return f"{version}.{_judged_by(method_id)}"


@dataclass(frozen=True, slots=True)
class DrawnUnit:
    """A unit's conclusion with what else was worked out on the way."""

    conclusion: UnitConclusion
    voltage: tuple[VoltageCurve, ...]
    fits: Fits
    known: Known
    repeats: Repeats


@dataclass(frozen=True, slots=True)
class DrawnModel:
    """A model's conclusion, and what a plan needs of its units."""

    conclusion: ModelConclusion
    known: Known


def units(session: Session, versions: Mapping[int, str], rule: DecisionRule) -> dict[int, UnitConclusion]:
    """Those units' conclusions that hold."""
    statement = select(t.UnitConclusion.unit_id, t.UnitConclusion.version, t.UnitConclusion.data)
    rows = session.execute(statement.where(t.UnitConclusion.unit_id.in_(versions), t.UnitConclusion.rule == rule.value))
    return {one: _UNIT.validate_json(data) for one, version, data in rows if version == versions[one]}


def curves(session: Session, unit_id: int, version: str, rule: DecisionRule) -> tuple[VoltageCurve, ...] | None:
    """How a unit follows its supply; None where that does not hold any more."""
    row = _of_unit(session, t.UnitConclusion.voltage, unit_id, version, rule)
    return None if row is None else _CURVES.validate_json(row)


def fits(session: Session, versions: Mapping[int, str], rule: DecisionRule) -> dict[int, Mapping[FitKey, VoltageFit]]:
    """Those units' voltage fits that hold."""
    statement = select(t.UnitConclusion.unit_id, t.UnitConclusion.version, t.UnitConclusion.fits)
    rows = session.execute(statement.where(t.UnitConclusion.unit_id.in_(versions), t.UnitConclusion.rule == rule.value))
    return {one: dict(_FITS.validate_json(data)) for one, version, data in rows if version == versions[one]}


def known_of_units(session: Session, versions: Mapping[int, str], rule: DecisionRule) -> dict[int, Known]:
    """What a plan needs of those units whose conclusions hold."""
    statement = select(t.UnitConclusion.unit_id, t.UnitConclusion.version, t.UnitConclusion.known)
    rows = session.execute(statement.where(t.UnitConclusion.unit_id.in_(versions), t.UnitConclusion.rule == rule.value))
    return {one: _KNOWN.validate_json(data) for one, version, data in rows if version == versions[one]}


def models(session: Session, versions: Mapping[int, str], rule: DecisionRule) -> dict[int, ModelConclusion]:
    """Those models' conclusions that hold."""
    statement = select(t.ModelConclusion.model_id, t.ModelConclusion.version, t.ModelConclusion.data)
    rows = session.execute(
        statement.where(t.ModelConclusion.model_id.in_(versions), t.ModelConclusion.rule == rule.value)
    )
    return {one: _MODEL.validate_json(data) for one, version, data in rows if version == versions[one]}


def stale_models(session: Session, rule: DecisionRule) -> tuple[int, int]:
    """How many models' conclusions do not hold, and of how many models."""
    rows = session.execute(
        select(t.Model.version, t.ModelConclusion.version, methods.usual_id()).outerjoin(
            t.ModelConclusion, and_(t.ModelConclusion.model_id == t.Model.id, t.ModelConclusion.rule == rule.value)
        )
    ).all()
    return sum(kept != _model_version(version, method) for version, kept, method in rows), len(rows)


def known_of_model(session: Session, model_id: int, version: str, rule: DecisionRule) -> Known | None:
    """What a plan needs of a model's units; None where that does not hold any more."""
    row = session.execute(
        select(t.ModelConclusion.version, t.ModelConclusion.known).where(
            t.ModelConclusion.model_id == model_id, t.ModelConclusion.rule == rule.value
        )
    ).first()
    return _KNOWN.validate_json(row.known) if row is not None and row.version == version else None


def repeats(session: Session) -> Repeats:
    """What the latest units' repeated attempts come to, as it was last concluded; as many units as can be read soon."""
    columns = t.UnitConclusion.repeat_squares, t.UnitConclusion.repeat_freedom
    latest = select(*columns).where(t.UnitConclusion.rule == DecisionRule.AS_STORED.value)
    rows = session.execute(latest.order_by(t.UnitConclusion.unit_id.desc()).limit(LATEST_UNITS))
    return sum((Repeats(*row) for row in rows), start=Repeats())


def keep_unit(session: Session, unit_id: int, version: str, rule: DecisionRule, drawn: DrawnUnit) -> None:
    """Keep a unit's conclusion."""
    session.execute(
        delete(t.UnitConclusion).where(t.UnitConclusion.unit_id == unit_id, t.UnitConclusion.rule == rule.value)
    )
    session.execute(
        insert(t.UnitConclusion).values(
            unit_id=unit_id,
            rule=rule.value,
            version=version,
            data=_UNIT.dump_json(drawn.conclusion).decode(),
            voltage=_CURVES.dump_json(drawn.voltage).decode(),
            fits=_FITS.dump_json(drawn.fits).decode(),
            known=_KNOWN.dump_json(drawn.known).decode(),
            repeat_squares=drawn.repeats.squares,
            repeat_freedom=drawn.repeats.freedom,
        )
    )


def keep_model(session: Session, model_id: int, version: str, rule: DecisionRule, drawn: DrawnModel) -> None:
    """Keep a model's conclusion."""
    session.execute(
        delete(t.ModelConclusion).where(t.ModelConclusion.model_id == model_id, t.ModelConclusion.rule == rule.value)
    )
    session.execute(
        insert(t.ModelConclusion).values(
            model_id=model_id,
            rule=rule.value,
            version=version,
            data=_MODEL.dump_json(drawn.conclusion).decode(),
            known=_KNOWN.dump_json(drawn.known).decode(),
        )
    )


def _of_unit(session: Session, column: Any, unit_id: int, version: str, rule: DecisionRule) -> str | None:
    row = session.execute(
        select(t.UnitConclusion.version, column).where(
            t.UnitConclusion.unit_id == unit_id, t.UnitConclusion.rule == rule.value
        )
    ).first()
    return str(row[1]) if row is not None and row[0] == version else None
