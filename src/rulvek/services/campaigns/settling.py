"""Runs that would settle a claim, over the whole line: of which models, how long, and which benches can stand them."""

from collections import defaultdict

from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.planning.settling import OpenClaims, open_claims
from rulvek.core.records.wishes import Wishes
from rulvek.services.campaigns.planner import EquipmentOf, plan_there
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.queue import SettlingsView, SettlingView
from rulvek.store import load, methods
from rulvek.store.engine import Database
from rulvek.store.queries import campaigns as campaign_queries
from rulvek.store.queries import line as line_queries
from rulvek.store.queries import records as record_queries

LISTED = 12
MOST_WAITING = 200


class Settling:
    """Reads what is open; keeps nothing."""

    def __init__(self, database: Database, conclusions: Conclusions, equipment_of: EquipmentOf) -> None:
        self._database, self._conclusions, self._equipment_of = database, conclusions, equipment_of

    def view(self) -> SettlingsView:
        """The models of which most claims are open, on their latest units, with what their runs would take."""
        with self._database.reading() as session:
            page, _ = line_queries.series_page(session, None, line_queries.EVERYTHING)
            models = {one.id: one for one in load.models(session, [one for series in page for one in series.models])}
            drawn = self._conclusions.models(session, list(models.values()), DecisionRule.AS_STORED)
            method = methods.usual(session)
            found: list[tuple[int, OpenClaims]] = [
                (model.id, one)
                for model in models.values()
                for one in open_claims(model.standing_claims, drawn[model.id].verdicts, model.product, method)
            ]
            found.sort(key=lambda one: (-one[1].claims, one[0]))
            listed = found[:LISTED]
            units = line_queries.latest_units(session, [model_id for model_id, _ in listed], 1)
            benches = [self._equipment_of(row.name) for row in record_queries.benches(session)]
            waiting: dict[int, list[int]] = defaultdict(list)
            for row in campaign_queries.campaigns_page(session, None, MOST_WAITING, "open")[0]:
                waiting[row.model_id].append(row.id)
            known = {one: self._conclusions.known(session, models[one]) for one, _ in listed}
        views = []
        for model_id, one in listed:
            plans = {
                bench.name: plan_there(models[model_id], Wishes(), one.runs, known[model_id], method, bench)
                for bench in benches
            }
            unit = next(iter(units.get(model_id, [])), None)
            views.append(
                SettlingView(
                    model_id=model_id,
                    model_name=models[model_id].name,
                    unit_id=unit.id if unit else None,
                    unit_serial=unit.serial if unit else "",
                    claims=one.claims,
                    runs=list(one.runs),
                    limit_percent=one.limit_percent,
                    minutes=next((plan.minutes for plan in plans.values() if plan), None),
                    benches=[name for name, plan in plans.items() if plan],
                    waiting=waiting[model_id],
                )
            )
        return SettlingsView(settling=views, more=len(found) - len(listed))
