"""The product line: what is made, what is claimed of it, and which units are here."""

import math
from dataclasses import dataclass
from datetime import UTC, datetime

from rulvek.core.errors import BadInput, Conflict
from rulvek.core.judgement.claims import ClaimKind
from rulvek.services.campaigns import campaign_row
from rulvek.services.judging import ModelJudgement
from rulvek.services.planner import group_view
from rulvek.services.views.base import HistoryView
from rulvek.services.views.line import LineView, ModelRow, ModelView, SeriesView, UnitRow, UnitView
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database, Session


@dataclass(frozen=True, slots=True)
class NewClaim:
    """A claim as someone enters it; None where the document states no such condition."""

    group: str
    document: str
    watts: float
    load_ohms: float
    bridged: bool = False
    kind: ClaimKind = ClaimKind.CONTINUOUS
    supply_volts: float | None = None
    thd_n_percent: float | None = None
    band_low_hz: float | None = None
    band_high_hz: float | None = None


class Catalogue:
    """Reads the line and keeps its claims."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def line(self, guarded: bool = True) -> LineView:
        """The whole line with reach bars and verdicts, by the guarded rule or by simple acceptance."""
        with self._database.reading() as session:
            series = [
                SeriesView(
                    id=row.id,
                    name=row.name,
                    purpose=row.purpose,
                    models=[_model_row(model, guarded) for model in row.models],
                )
                for row in queries.line(session)
            ]
            return LineView(series=series, last_step_id=queries.last_step_id(session))

    def model(self, model_id: int, guarded: bool = True) -> ModelView:
        """One model with claims, units and verdicts, by either decision rule."""
        with self._database.reading() as session:
            return _model_view(session, queries.get(session, tables.Model, model_id), guarded=guarded)

    def unit(self, unit_id: int, guarded: bool = True) -> UnitView:
        """One unit, with its model as this unit alone backs it."""
        with self._database.reading() as session:
            row = queries.get(session, tables.Unit, unit_id)
            units = [u for u in queries.units_with_evidence(session, row.model_id) if u.id == unit_id]
            judgement = ModelJudgement(row.model, units, guarded=guarded)
            return UnitView(
                unit=_unit_row(units[0], judgement),
                model=_model_view(session, row.model, units, guarded),
                voltage=judgement.voltage_fits(unit_id),
                history=history(session, [f"unit/{unit_id}", *(f"campaign/{c.id}" for c in row.campaigns)]),
            )

    def add_claim(self, model_id: int, claim: NewClaim, person: str) -> ModelView:
        """Put a published figure on record.

        Raises:
            BadInput: a group that the model does not have, or conditions that contradict themselves.
            Conflict: the same document already states a figure for the same conditions.
        """
        _check_claim(claim)
        with self._database.writing() as session:
            model = queries.get(session, tables.Model, model_id)
            group = next((g for g in model.groups if g.name == claim.group), None)
            if group is None:
                names = ", ".join(g.name for g in model.groups)
                raise BadInput(f"{model.name} has no channel group “{claim.group}”; it has {names}.", field="group")
            if claim.bridged and len(group.channels) < 2:
                raise BadInput(f"The group “{claim.group}” has one channel and cannot be bridged.", field="bridged")
            _refuse_duplicate(model, claim)
            row = queries.add(
                session,
                tables.Claim(
                    model_id=model_id,
                    group=claim.group,
                    document=claim.document.strip(),
                    watts=claim.watts,
                    load_ohms=claim.load_ohms,
                    bridged=claim.bridged,
                    kind=claim.kind.value,
                    supply_volts=claim.supply_volts,
                    thd_n_percent=claim.thd_n_percent,
                    band_low_hz=claim.band_low_hz,
                    band_high_hz=claim.band_high_hz,
                    added_by=person,
                    added_at=datetime.now(UTC),
                ),
            )
            where = f"{claim.watts:g} W at {claim.load_ohms:g} Ω, {claim.document.strip()}"
            audit.note(session, person, "added a claim", f"model/{model_id}", claim=row.id, text=where)
        return self.model(model_id)

    def withdraw_claim(self, claim_id: int, reason: str, person: str) -> ModelView:
        """Record that a claim is no longer made; it stays on record.

        Raises:
            BadInput: no reason given.
            Conflict: it was withdrawn before.
        """
        if not reason.strip():
            raise BadInput("Say why the claim is withdrawn.", field="reason")
        with self._database.writing() as session:
            claim = queries.get(session, tables.Claim, claim_id)
            if claim.withdrawal is not None:
                raise Conflict(f"This claim was already withdrawn by {claim.withdrawal.withdrawn_by}.")
            queries.add(
                session,
                tables.ClaimWithdrawal(
                    claim_id=claim_id, reason=reason.strip(), withdrawn_by=person, withdrawn_at=datetime.now(UTC)
                ),
            )
            text = f"{claim.watts:g} W at {claim.load_ohms:g} Ω, {claim.document}: {reason.strip()}"
            audit.note(session, person, "withdrew a claim", f"model/{claim.model_id}", claim=claim_id, text=text)
            model_id = claim.model_id
        return self.model(model_id)


def _check_claim(claim: NewClaim) -> None:
    if not claim.document.strip():
        raise BadInput("Name the document that states the figure.", field="document")
    if (claim.band_low_hz is None) != (claim.band_high_hz is None):
        raise BadInput("A band needs both its limits, or neither.", field="band_high_hz")
    if claim.band_low_hz is not None and claim.band_high_hz is not None and claim.band_low_hz >= claim.band_high_hz:
        raise BadInput("The band's lower limit must lie below its upper one.", field="band_low_hz")


def _refuse_duplicate(model: tables.Model, claim: NewClaim) -> None:
    conditions = (claim.group, claim.load_ohms, claim.bridged, claim.kind.value, claim.supply_volts)
    for row in model.claims:
        same = (row.group, row.load_ohms, row.bridged, row.kind, row.supply_volts) == conditions
        if same and row.withdrawal is None and row.document == claim.document.strip():
            if math.isclose(row.watts, claim.watts):
                raise Conflict("This claim is already on record.", todo="Withdraw the old one first if it changed.")


def _model_row(model: tables.Model, guarded: bool) -> ModelRow:
    judgement = ModelJudgement(model, model.units, guarded=guarded)
    return ModelRow(
        id=model.id,
        name=model.name,
        topology=model.topology,
        description=model.description,
        regulated=model.regulated,
        channels=sum(len(group.channels) for group in model.groups),
        units=len(model.units),
        tested_units=sum(bool(judgement.evidence[unit.id]) for unit in model.units),
        reaches=judgement.reaches(),
        attention=judgement.attention(),
        states=[judgement.together(claim).kind for claim in judgement.claims],
    )


def _model_view(
    session: Session, model: tables.Model, units: list[tables.Unit] | None = None, guarded: bool = True
) -> ModelView:
    units = list(queries.units_with_evidence(session, model.id)) if units is None else units
    judgement = ModelJudgement(model, units, guarded=guarded)
    return ModelView(
        id=model.id,
        name=model.name,
        series_name=model.series.name,
        topology=model.topology,
        description=model.description,
        regulated=model.regulated,
        supply_low_volts=model.supply_low_volts,
        supply_high_volts=model.supply_high_volts,
        sensitivity_volts=model.sensitivity_volts,
        test_controls=list(model.test_controls),
        groups=[group_view(group) for group in model.groups],
        claims=judgement.claim_views(),
        units=[_unit_row(unit, judgement) for unit in units],
        reaches=judgement.reaches(),
    )


def _unit_row(unit: tables.Unit, judgement: ModelJudgement) -> UnitRow:
    return UnitRow(
        id=unit.id,
        serial=unit.serial,
        lot=unit.lot,
        revision=unit.revision,
        origin=unit.origin,
        received_at=unit.received_at,
        campaigns=[campaign_row(campaign) for campaign in reversed(unit.campaigns)],
        reaches=judgement.reaches(unit),
        verdicts=[judgement.of_unit(claim, unit.id) for claim in judgement.claims],
    )


def history(session: Session, subjects: list[str]) -> list[HistoryView]:
    """Audit entries on some subjects, the oldest first."""
    return [
        HistoryView(
            at=entry.at,
            person=entry.person,
            action=entry.action,
            detail=str(entry.detail.get("text", "")),
            hash=entry.hash,
        )
        for entry in queries.history(session, subjects)
    ]
