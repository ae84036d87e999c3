"""Plans before they are conducted: proposed from a model's loads and claims, changed by people, always costed."""

from collections.abc import Callable, Sequence

from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.equipment import Equipment
from rulvek.core.planning.plan import Plan, assess, propose
from rulvek.core.planning.prediction import KnownPower
from rulvek.core.records.product import Model
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.spec import RunSpec
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.campaign import PlanView, plan_view
from rulvek.store import load
from rulvek.store.engine import Database

EquipmentOf = Callable[[str | None], Equipment]
"""What a bench has to offer, by its name; by None, the first one."""


class Planner:
    """Proposes and costs plans; keeps nothing."""

    def __init__(self, database: Database, conclusions: Conclusions, equipment_of: EquipmentOf) -> None:
        self._database, self._conclusions, self._equipment_of = database, conclusions, equipment_of

    def plan(
        self,
        unit_id: int,
        wishes: Wishes,
        specs: Sequence[RunSpec] | None = None,
        method: MethodProfile | None = None,
        bench: str | None = None,
    ) -> PlanView:
        """A unit's plan by some wishes; of the given runs in the given order, or of those that are proposed.

        Raises:
            BadInput: wishes or runs that this model cannot have.
        """
        equipment = self._equipment_of(bench)
        with self._database.reading() as session:
            unit = load.unit(session, unit_id)
            model = load.model(session, unit.model_id)
            known = self._conclusions.known(session, model)
        return plan_view(unit, model, plan_of(model, wishes, specs, known, method, equipment), equipment)


def plan_of(
    model: Model,
    wishes: Wishes,
    specs: Sequence[RunSpec] | None,
    known: Sequence[KnownPower],
    method: MethodProfile | None,
    equipment: Equipment,
) -> Plan:
    """The core's plan of a unit of a model."""
    method, product, claims = method or MethodProfile(), model.product, model.standing_claims
    if specs is None:
        specs = propose(product, claims, wishes, method, equipment)
    return assess(specs, product, claims, known, method, equipment, wishes)
