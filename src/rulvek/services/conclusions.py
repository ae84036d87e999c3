"""What evidence comes to: read as it was concluded where that still holds, else drawn afresh and kept for the next."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial

from rulvek.core.electrical.supply import VoltageFit
from rulvek.core.judgement.conclusion import (
    ModelConclusion,
    UnitConclusion,
    VoltageCurve,
    conclude_model,
    conclude_unit,
    voltage_curves,
)
from rulvek.core.judgement.evidence import Evidence, UnitEvidence, unit_evidence
from rulvek.core.judgement.repeatability import conducted_repeats, pooled
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.judgement.voltage import FitKey
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.known import known_powers, summarised
from rulvek.core.planning.prediction import KnownPower
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.product import Model
from rulvek.services.later import Later
from rulvek.store import conclusions, load, methods
from rulvek.store.conclusions import DrawnModel, DrawnUnit
from rulvek.store.engine import Database, Session
from rulvek.store.queries import line as line_queries

Fits = Mapping[FitKey, VoltageFit]
MODELS_AT_ONCE = 5


class Conclusions:
    """Draws and keeps them. Each is bound to the version of what it rests on, so that a stale one is never read."""

    def __init__(self, database: Database, later: Later) -> None:
        self._database, self._later = database, later

    def models(self, session: Session, models: Sequence[Model], rule: DecisionRule) -> dict[int, ModelConclusion]:
        """What some models' units come to."""
        versions = conclusions.model_versions(session, [model.id for model in models])
        found = conclusions.models(session, versions, rule)
        for model in models:
            if model.id not in found:
                found[model.id] = self._draw_model(session, model, versions[model.id], rule).conclusion
        return found

    def units(
        self, session: Session, model: Model, unit_ids: Sequence[int], rule: DecisionRule
    ) -> dict[int, UnitConclusion]:
        """What some units of a model come to."""
        versions = conclusions.unit_versions(session, unit_ids)
        found = conclusions.units(session, versions, rule)
        stale = {one: versions[one] for one in unit_ids if one not in found}
        found |= {one: unit.conclusion for one, unit in self._draw_units(session, model, stale, rule)}
        return found

    def curves(self, session: Session, model: Model, unit_id: int, rule: DecisionRule) -> tuple[VoltageCurve, ...]:
        """How a unit's power follows its supply, to be drawn."""
        version = conclusions.unit_versions(session, [unit_id])[unit_id]
        found = conclusions.curves(session, unit_id, version, rule)
        return self._draw_unit(session, model, unit_id, version, rule).voltage if found is None else found

    def fits(self, session: Session, units: Sequence[Unit]) -> dict[int, Fits]:
        """How some units' power follows their supply, to go by."""
        versions = conclusions.unit_versions(session, [unit.id for unit in units])
        found: dict[int, Fits] = conclusions.fits(session, versions, DecisionRule.AS_STORED)
        stale = {unit.id: unit.model_id for unit in units if unit.id not in found}
        if stale:
            models = {model.id: model for model in load.models(session, sorted(set(stale.values())))}
            for one, model_id in stale.items():
                drawn = self._draw_unit(session, models[model_id], one, versions[one], DecisionRule.AS_STORED)
                found[one] = dict(drawn.fits)
        return found

    def known(self, session: Session, model: Model) -> tuple[KnownPower, ...]:
        """What a plan needs of a model's units."""
        version = conclusions.model_versions(session, [model.id])[model.id]
        found = conclusions.known_of_model(session, model.id, version, DecisionRule.AS_STORED)
        return self._draw_model(session, model, version, DecisionRule.AS_STORED).known if found is None else found

    def method_today(self, session: Session, method: MethodProfile | None = None) -> MethodProfile:
        """A method, or the usual one, as it is gone by today: with the repeatability that the records show."""
        return pooled(method or methods.usual(session), conclusions.repeats(session))

    def changed(self, model_id: int, *unit_ids: int) -> None:
        """Draw a model's and some of its units' conclusions in the background, so that the next page finds them."""

        def draw() -> None:
            with self._database.reading() as session:
                model = load.model(session, model_id)
                self.units(session, model, unit_ids, DecisionRule.AS_STORED)
                self.models(session, [model], DecisionRule.AS_STORED)

        self._later.do(draw)

    def stale(self) -> tuple[int, int]:
        """How many models' conclusions do not hold any more, and of how many."""
        with self._database.reading() as session:
            return conclusions.stale_models(session, DecisionRule.AS_STORED)

    def warm(self) -> None:
        """Draw every conclusion that is stale; for the start of a server on records of before."""
        self._later.do(lambda: self._warm_from(None))

    def _warm_from(self, after: int | None) -> None:
        """Draw those of some models, then of the next: what was drawn, here or for a page, is kept in between."""
        with self._database.reading() as session:
            page, after = line_queries.series_page(session, after, MODELS_AT_ONCE)
            models = load.models(session, [one for series in page for one in series.models])
            self.models(session, models, DecisionRule.AS_STORED)
        if after is not None:
            self._later.do(lambda: self._warm_from(after))

    def flush(self) -> None:
        """Wait for what is being drawn."""
        self._later.flush()

    def _draw_unit(self, session: Session, model: Model, unit_id: int, version: str, rule: DecisionRule) -> DrawnUnit:
        return next(self._draw_units(session, model, {unit_id: version}, rule))[1]

    def _draw_units(
        self, session: Session, model: Model, versions: Mapping[int, str], rule: DecisionRule
    ) -> Iterator[tuple[int, DrawnUnit]]:
        method = methods.usual(session)
        for unit_id, campaigns in zip(versions, load.campaigns_by_unit(session, list(versions)), strict=True):
            unit = campaigns[0].unit if campaigns else load.unit(session, unit_id)
            shown = unit_evidence(campaigns, model.product)
            drawn = DrawnUnit(
                conclusion=conclude_unit(unit, shown, model, method, rule),
                voltage=voltage_curves(model, shown),
                fits=tuple(shown.fits.items()),
                known=summarised(known_powers(_where(unit, shown))),
                repeats=conducted_repeats(campaigns),
            )
            self._keep(partial(_keep_unit, unit_id, versions[unit_id], rule, drawn))
            yield unit_id, drawn

    def _draw_model(self, session: Session, model: Model, version: str, rule: DecisionRule) -> DrawnModel:
        unit_ids = line_queries.unit_ids(session, model.id)
        versions = conclusions.unit_versions(session, unit_ids)
        found = conclusions.units(session, versions, rule)
        known = conclusions.known_of_units(session, versions, rule)
        stale = {one: versions[one] for one in unit_ids if one not in found or one not in known}
        for one, unit in self._draw_units(session, model, stale, rule):
            found[one], known[one] = unit.conclusion, unit.known
        latest_first = [power for one in reversed(unit_ids) for power in known[one]]
        together = conclude_model(model, [found[one] for one in unit_ids], methods.usual(session), rule)
        drawn = DrawnModel(together, summarised(latest_first))
        self._keep(lambda writing: conclusions.keep_model(writing, model.id, version, rule, drawn))
        return drawn

    def _keep(self, write: Callable[[Session], None]) -> None:
        def keep() -> None:
            with self._database.writing() as session:
                write(session)

        self._later.do(keep)


def _keep_unit(unit_id: int, version: str, rule: DecisionRule, drawn: DrawnUnit, writing: Session) -> None:
    conclusions.keep_unit(writing, unit_id, version, rule, drawn)


def _where(unit: Unit, shown: UnitEvidence) -> list[tuple[str, Evidence]]:
    return [(f"{unit.serial}, campaign {e.campaign_id}", e) for e in shown.evidence]
