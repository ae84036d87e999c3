"""The product line: what is made, what is claimed of it, and which units are here."""

import math
from collections.abc import Sequence
from datetime import UTC, datetime, time

from rulvek.bench.benches import refuse_unfit_stand_in
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.judgement.conclusion import UnitConclusion
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.quantities import refuse_impossible_day, refuse_out_of_bounds
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import ClaimTerms, Withdrawal
from rulvek.core.records.entered import ModelEntry, SeriesEntry, StandInEntry, UnitEntry, refuse_unnamed
from rulvek.core.records.product import Model
from rulvek.core.runs.spec import same_place
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.base import history_view
from rulvek.services.views.campaign import campaign_row
from rulvek.services.views.line import (
    CampaignRow,
    LineView,
    ModelView,
    NameView,
    ReachView,
    SeriesView,
    UnitRow,
    UnitView,
    VerdictView,
    claim_views,
    defaults_view,
    group_views,
    model_row,
    reach_views,
    verdict_views,
)
from rulvek.store import audit, load, save, seals
from rulvek.store.engine import Database, Session
from rulvek.store.queries import campaigns as campaign_queries
from rulvek.store.queries import line as line_queries
from rulvek.store.queries import records as record_queries

MODELS = 100
UNITS = 50
CAMPAIGNS = 20
FOUND = 9


class Catalogue:
    """Reads the line and keeps what is entered of it."""

    def __init__(self, database: Database, conclusions: Conclusions) -> None:
        self._database, self._conclusions = database, conclusions

    def line(
        self, rule: DecisionRule = DecisionRule.AS_STORED, after: int | None = None, limit: int = MODELS
    ) -> LineView:
        """The line with reach bars and verdicts, from past a model on."""
        with self._database.reading() as session:
            page, following = line_queries.series_page(session, after, limit)
            models = {m.id: m for m in load.models(session, [one for series in page for one in series.models])}
            drawn = self._conclusions.models(session, list(models.values()), rule)
            return LineView(
                series=[
                    SeriesView(
                        id=series.id,
                        name=series.name,
                        purpose=series.purpose,
                        models=[model_row(models[one], drawn[one]) for one in series.models],
                    )
                    for series in page
                ],
                last_step_id=campaign_queries.last_step_id(session),
                next=following,
            )

    def find(self, words: str, limit: int = FOUND) -> list[NameView]:
        """Models, units, campaigns, attempts, claims and instruments by any part of their names."""
        wanted = words.replace("\0", " ").strip()  # nothing is called that, and the index would end there
        if not wanted:
            return []
        with self._database.reading() as session:
            found = line_queries.find(session, wanted, limit)
            models = line_queries.models_of_claims(session, [one.id for one in found if one.kind == "claim"])
        return [
            NameView(
                kind=one.kind,  # type: ignore[arg-type]  # the index holds no others
                id=one.id,
                name=one.name,
                of=one.of,
                model_id=models.get(one.id) if one.kind == "claim" else None,
            )
            for one in found
        ]

    def model(
        self,
        model_id: int,
        rule: DecisionRule = DecisionRule.AS_STORED,
        after: int | None = None,
        limit: int = UNITS,
    ) -> ModelView:
        """One model with claims, verdicts and a page of its units."""
        with self._database.reading() as session:
            model = load.model(session, model_id)
            units, following = line_queries.units_page(session, model_id, after, limit)
            return self._model_view(session, model, units, following, rule)

    def unit(self, unit_id: int, rule: DecisionRule = DecisionRule.AS_STORED, before: int | None = None) -> UnitView:
        """One unit, with its model as this unit alone backs it, and a page of its campaigns."""
        with self._database.reading() as session:
            unit = load.unit(session, unit_id)
            model = load.model(session, unit.model_id)
            drawn = self._conclusions.units(session, model, [unit_id], rule)[unit_id]
            rows, following = campaign_queries.campaigns_page(session, before, CAMPAIGNS, unit_id=unit_id)
            campaigns = [campaign_row(row) for row in rows]
            row = _unit_row(unit, model, drawn, campaigns, following)
            alone = verdict_views(drawn.verdicts, model, None)
            subjects = [f"unit/{unit_id}", *(f"campaign/{c.id}" for c in campaigns)]
            return UnitView(
                unit=row,
                model=_model_view(model, alone, {v.claim_id: [v] for v in row.verdicts}, [row], 1, None, row.reaches),
                voltage=list(self._conclusions.curves(session, model, unit_id, rule)),
                comparisons=list(drawn.comparisons),
                history=[
                    history_view(h.at, h.actor, h.action, h.text, h.hash)
                    for h in record_queries.history(session, subjects)
                ],
            )

    def _model_view(
        self, session: Session, model: Model, units: Sequence[Unit], following: int | None, rule: DecisionRule
    ) -> ModelView:
        together = self._conclusions.models(session, [model], rule)[model.id]
        drawn = self._conclusions.units(session, model, [unit.id for unit in units], rule)
        rows = [_unit_row(unit, model, drawn[unit.id], [], None) for unit in units]
        by_claim: dict[int, list[VerdictView]] = {}
        for row in rows:
            for verdict in row.verdicts:
                by_claim.setdefault(verdict.claim_id, []).append(verdict)
        verdicts = verdict_views(together.verdicts, model, None)
        reaches = reach_views(together.reaches, model, verdicts)
        return _model_view(model, verdicts, by_claim, rows, together.units, following, reaches)

    def add_series(self, entry: SeriesEntry, actor: Actor) -> int:
        """Put a series on record; returns its id.

        Raises:
            BadInput: no name.
            Conflict: there is one of that name.
        """
        refuse_unnamed(entry)
        name = entry.name.strip()
        with self._database.writing() as session:
            if line_queries.is_named(session, "series", name):
                raise Conflict(f"There is a series “{name}” already.")
            series_id = save.series(session, name, entry.purpose.strip())
            audit.note(session, actor, "entered a series", f"series/{series_id}", text=name)
        return series_id

    def add_model(self, series_id: int, entry: ModelEntry, actor: Actor) -> int:
        """Put a model on record; returns its id.

        Raises:
            BadInput: a field by its name.
            NotFound: no such series.
            Conflict: there is a model of that name.
        """
        name, product = entry.name.strip(), entry.product()
        new = Model(
            id=0,
            series_name="",
            name=name,
            description=entry.description.strip(),
            product=product,
            sensitivity_volts=entry.sensitivity_volts,
            test_controls=tuple(control.strip() for control in entry.test_controls if control.strip()),
            design="",
        )
        with self._database.writing() as session:
            if not line_queries.has_series(session, series_id):
                raise NotFound(f"There is no series number {series_id}.")
            if line_queries.is_named(session, "model", name):
                raise Conflict(f"There is a model “{name}” already.")
            model_id = save.model(session, series_id, new)
            groups = ", ".join(f"{group.name} {len(group.channels)}" for group in product.groups)
            audit.note(session, actor, "entered a model", f"model/{model_id}", text=f"{name}: {groups}")
        return model_id

    def set_stand_in(self, model_id: int, entry: StandInEntry, actor: Actor) -> ModelView:
        """Say which simulated amplifier stands in for a model on a simulated bench.

        Raises:
            BadInput: no such design, a description that is none, or another number of channels.
            NotFound: no such model.
        """
        described = entry.described.strip()
        with self._database.reading() as session:
            model = load.model(session, model_id)
        if entry.design or described:
            channels = sum(len(group.channels) for group in model.product.groups)
            refuse_unfit_stand_in(entry.design, described, channels)
        words = "one that is described" if described else entry.design or "none"
        with self._database.writing() as session:
            save.stand_in(session, model_id, "" if described else entry.design, described)
            before = "one that is described" if model.described_design else model.design or "none"
            audit.note(session, actor, "chose a simulated stand-in", f"model/{model_id}", text=words, before=before)
        return self.model(model_id)

    def receive_unit(self, model_id: int, entry: UnitEntry, actor: Actor) -> int:
        """Put a unit on record; returns its id.

        Raises:
            BadInput: no serial number, or a day that cannot be.
            Conflict: the serial number is on record.
        """
        refuse_unnamed(entry)
        today = datetime.now(UTC)
        if entry.received_on is not None:
            refuse_impossible_day(entry.received_on, today.date(), "received_on")
        received = today if entry.received_on is None else datetime.combine(entry.received_on, time(12), UTC)
        serial = entry.serial.strip()
        with self._database.writing() as session:
            model = load.model(session, model_id)
            if line_queries.is_named(session, "unit", serial):
                raise Conflict(f"The serial number {serial} is on record already.")
            new = Unit(0, model_id, serial, entry.lot.strip(), entry.revision.strip(), entry.origin.strip(), received)
            unit_id = save.unit(session, new)
            audit.note(session, actor, "received a unit", f"unit/{unit_id}", text=f"{serial}, {model.name}")
        self._conclusions.changed(model_id, unit_id)
        return unit_id

    def add_claim(self, model_id: int, terms: ClaimTerms, actor: Actor) -> ModelView:
        """Put a published figure on record.

        Raises:
            BadInput: a group that the model does not have, or conditions that contradict themselves.
            Conflict: the same document already states a figure for the same conditions.
        """
        _check_terms(terms)
        with self._database.reading() as session:
            _check_against(load.model(session, model_id), terms)
        with self._database.writing() as session:
            model = load.model(session, model_id)
            _refuse_duplicate(model, terms)
            claim_id = save.claim(session, model_id, terms, actor.name, datetime.now(UTC))
            where = f"{terms.watts:g} W at {terms.load_ohms:g} Ω, {terms.document}"
            seal = seals.claim_seal(session, claim_id)
            audit.note(
                session,
                actor,
                "added a claim",
                f"model/{model_id}",
                seals=[seal] if seal else [],
                claim=claim_id,
                text=where,
            )
        return self.model(model_id)

    def withdraw_claim(self, claim_id: int, reason: str, actor: Actor) -> ModelView:
        """Record that a claim is no longer made; it stays on record.

        Raises:
            BadInput: no reason given.
            Conflict: it was withdrawn before.
        """
        if not reason.strip():
            raise BadInput("Say why the claim is withdrawn.", field="reason")
        with self._database.writing() as session:
            model_id = line_queries.model_of_claim(session, claim_id)
            if model_id is None:
                raise NotFound(f"There is no claim number {claim_id}.")
            claim = next(one for one in load.model(session, model_id).claims if one.id == claim_id)
            if claim.withdrawn is not None:
                raise Conflict(f"This claim was already withdrawn by {claim.withdrawn.by}.")
            gone = Withdrawal(reason.strip(), actor.name, datetime.now(UTC))
            save.withdrawal(session, model_id, claim_id, gone)
            text = f"{claim.watts:g} W at {claim.load_ohms:g} Ω, {claim.document}: {gone.reason}"
            audit.note(session, actor, "withdrew a claim", f"model/{model_id}", claim=claim_id, text=text)
        return self.model(model_id)


def _check_terms(terms: ClaimTerms) -> None:
    refuse_out_of_bounds(terms)
    if not terms.document.strip():
        raise BadInput("Name the document that states the figure.", field="document")
    if (terms.band_low_hz is None) != (terms.band_high_hz is None):
        raise BadInput("A band needs both its limits, or neither.", field="band_high_hz")
    if terms.band_low_hz is not None and terms.band_high_hz is not None and terms.band_low_hz > terms.band_high_hz:
        raise BadInput("The band's lower limit must not lie above its upper one.", field="band_low_hz")
    if terms.supply_high_volts is not None:
        if terms.supply_volts is None:
            raise BadInput("A range of volts needs its lower end, too.", field="supply_volts")
        if terms.supply_high_volts <= terms.supply_volts:
            raise BadInput("The upper end of the volts must lie above the lower one.", field="supply_high_volts")


def _check_against(model: Model, terms: ClaimTerms) -> None:
    group = model.product.group(terms.group)
    if terms.bridged and len(group.channels) < 2:
        raise BadInput(f"The group “{terms.group}” has one channel and cannot be bridged.", field="bridged")


def _refuse_duplicate(model: Model, terms: ClaimTerms) -> None:
    for claim in model.standing_claims:
        alike = same_place(claim.place, terms.place) and (claim.kind, claim.supply_volts, claim.document) == (
            terms.kind,
            terms.supply_volts,
            terms.document,
        )
        if alike and math.isclose(claim.watts, terms.watts):
            raise Conflict("This claim is already on record.", todo="Withdraw the old one first if it changed.")


def _unit_row(
    unit: Unit, model: Model, drawn: UnitConclusion, campaigns: list[CampaignRow], following: int | None
) -> UnitRow:
    verdicts = verdict_views(drawn.verdicts, model, unit.id)
    return UnitRow(
        id=unit.id,
        serial=unit.serial,
        lot=unit.lot,
        revision=unit.revision,
        origin=unit.origin,
        received_at=unit.received_at,
        campaigns=campaigns,
        next_campaign=following,
        reaches=reach_views(drawn.reaches, model, verdicts),
        verdicts=list(verdicts.values()),
    )


def _model_view(
    model: Model,
    together: dict[int, VerdictView],
    by_claim: dict[int, list[VerdictView]],
    rows: list[UnitRow],
    in_all: int,
    following: int | None,
    reaches: list[ReachView],
) -> ModelView:
    product = model.product
    return ModelView(
        id=model.id,
        stand_in=model.design,
        stand_in_described=model.described_design,
        name=model.name,
        series_name=model.series_name,
        topology=product.topology,
        description=model.description,
        regulated=product.regulated,
        supply_low_volts=product.supply_range[0],
        supply_high_volts=product.supply_range[1],
        sensitivity_volts=model.sensitivity_volts,
        test_controls=list(model.test_controls),
        groups=group_views(model),
        defaults=defaults_view(),
        claims=claim_views(model, together, by_claim),
        units=rows,
        units_in_all=in_all,
        next_unit=following,
        reaches=reaches,
    )
