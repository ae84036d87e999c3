"""The product line: what is made, what is claimed of it, and which units are here."""

from collections.abc import Sequence

from rulvek import clock
from rulvek.bench.benches import refuse_unfit_stand_in
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.judgement.conclusion import UnitConclusion
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import ClaimTerms, Withdrawal
from rulvek.core.records.entered import (
    ModelEntry,
    SeriesEntry,
    StandInEntry,
    UnitEntry,
)
from rulvek.core.records.inside import fuses_doubted
from rulvek.core.records.kept import Kind
from rulvek.core.records.product import Model
from rulvek.services.catalogue import entering
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
    said_views,
    verdict_views,
)
from rulvek.store import audit, kept, load, methods, save
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
            method = methods.usual(session)
            return LineView(
                series=[
                    SeriesView(
                        id=series.id,
                        name=series.name,
                        purpose=series.purpose,
                        models=[model_row(models[one], drawn[one], method) for one in series.models],
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
            method = methods.usual(session)
            row = _unit_row(unit, model, drawn, method, campaigns, following)
            alone = verdict_views(drawn.verdicts, model, method, None)
            subjects = [f"unit/{unit_id}", *(f"campaign/{c.id}" for c in campaigns)]
            insides = [one.entry for one in kept.all_of(session, Kind.INSIDE, [unit_id]) if not one.closed]
            doubts = [fuses_doubted(inside.fuses, model.product.fuse_amps) for inside in insides[-1:]]
            return UnitView(
                unit=row,
                attention=[doubt for doubt in doubts if doubt],
                said=said_views(unit.facts),
                model=_model_view(
                    model, method, alone, {v.claim_id: [v] for v in row.verdicts}, [row], 1, None, row.reaches
                ),
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
        method = methods.usual(session)
        rows = [_unit_row(unit, model, drawn[unit.id], method, [], None) for unit in units]
        by_claim: dict[int, list[VerdictView]] = {}
        for row in rows:
            for verdict in row.verdicts:
                by_claim.setdefault(verdict.claim_id, []).append(verdict)
        verdicts = verdict_views(together.verdicts, model, method, None)
        reaches = reach_views(together.reaches, model, verdicts)
        return _model_view(model, method, verdicts, by_claim, rows, together.units, following, reaches)

    def add_series(self, entry: SeriesEntry, actor: Actor) -> int:
        """Put a series on record; returns its id. See :func:`entering.enter_series` for what is refused."""
        with self._database.writing() as session:
            return entering.enter_series(session, entry, actor)

    def add_model(self, series_id: int, entry: ModelEntry, actor: Actor) -> int:
        """Put a model on record; returns its id. See :func:`entering.enter_model` for what is refused."""
        with self._database.writing() as session:
            return entering.enter_model(session, series_id, entry, actor)

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
        """Put a unit on record; returns its id. See :func:`entering.enter_unit` for what is refused."""
        with self._database.writing() as session:
            unit_id = entering.enter_unit(session, load.model(session, model_id), entry, actor)
        self._conclusions.changed(model_id, unit_id)
        return unit_id

    def add_claim(self, model_id: int, terms: ClaimTerms, actor: Actor) -> ModelView:
        """Put a published figure on record; see :func:`entering.enter_claim` for what is refused."""
        with self._database.writing() as session:
            entering.enter_claim(session, load.model(session, model_id), terms, actor)
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
            gone = Withdrawal(reason.strip(), actor.name, clock.now())
            save.withdrawal(session, model_id, claim_id, gone)
            text = f"{claim.watts:g} W at {claim.load_ohms:g} Ω, {claim.document}: {gone.reason}"
            audit.note(session, actor, "withdrew a claim", f"model/{model_id}", claim=claim_id, text=text)
        return self.model(model_id)


def _unit_row(
    unit: Unit,
    model: Model,
    drawn: UnitConclusion,
    method: MethodProfile,
    campaigns: list[CampaignRow],
    following: int | None,
) -> UnitRow:
    verdicts = verdict_views(drawn.verdicts, model, method, unit.id)
    return UnitRow(
        id=unit.id,
        serial=unit.serial,
        lot=unit.lot,
        revision=unit.revision,
        origin=unit.origin,
        received_at=unit.received_at,
        facts=unit.facts,
        campaigns=campaigns,
        next_campaign=following,
        reaches=reach_views(drawn.reaches, model, verdicts),
        verdicts=list(verdicts.values()),
    )


def _model_view(
    model: Model,
    method: MethodProfile,
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
        fuse_amps=list(product.fuse_amps),
        said=said_views(model.facts),
        groups=group_views(model, method),
        defaults=defaults_view(method),
        claims=claim_views(model, together, by_claim),
        units=rows,
        units_in_all=in_all,
        next_unit=following,
        reaches=reaches,
    )
