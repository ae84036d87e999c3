"""Plans before they are conducted: proposed from a model's loads and claims, changed by people, always costed."""

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from rulvek.core.errors import RulvekError
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.edits import carry_over
from rulvek.core.planning.equipment import Equipment
from rulvek.core.planning.plan import Plan, assess, propose, refuse_impossible
from rulvek.core.planning.prediction import KnownPower
from rulvek.core.records.product import Model
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.spec import RunSpec
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.campaign import PlanView, plan_view
from rulvek.store import load, methods
from rulvek.store.engine import Database


@dataclass(frozen=True, slots=True)
class Edited:
    """A plan after changes by hand, and what had been proposed before them."""

    proposed: tuple[RunSpec, ...]
    runs: tuple[RunSpec, ...]


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
        edited: Edited | None = None,
    ) -> PlanView:
        """A unit's plan by some wishes; of the given runs in the given order, or of those that are proposed.

        Args:
            edited: What was changed by hand in an earlier proposal; as far as it still applies it is taken over.

        Raises:
            BadInput: wishes or runs that this model cannot have.
        """
        equipment = self._equipment_of(bench)
        with self._database.reading() as session:
            unit = load.unit(session, unit_id)
            model = load.model(session, unit.model_id)
            known = self._conclusions.known(session, model)
            method = method or methods.usual(session)
        lost: tuple[str, ...] = ()
        proposed = propose(model.product, model.standing_claims, wishes, method, equipment)
        if specs is None and edited is not None:
            judge = method  # known from here on
            carried = carry_over(
                proposed, edited.proposed, edited.runs, lambda spec: refuse_impossible(spec, model.product, judge)
            )
            specs, lost = carried.runs, carried.lost
        planned = plan_of(model, wishes, specs if specs is not None else proposed, known, method, equipment)
        return plan_view(unit, model, planned, method, equipment, proposed, lost)


def plan_of(
    model: Model,
    wishes: Wishes,
    specs: Sequence[RunSpec] | None,
    known: Sequence[KnownPower],
    method: MethodProfile,
    equipment: Equipment,
    read_already: bool = False,
) -> Plan:
    """The core's plan of a unit of a model; its runs may have been ``read_already``."""
    product, claims = model.product, model.standing_claims
    if specs is None:
        specs = propose(product, claims, wishes, method, equipment)
    return assess(specs, product, claims, known, method, equipment, wishes, read_already)


def plan_there(
    model: Model,
    wishes: Wishes,
    specs: Sequence[RunSpec],
    known: Sequence[KnownPower],
    method: MethodProfile,
    equipment: Equipment,
) -> Plan | None:
    """Runs planned on a bench; None where something stands in their way there."""
    with contextlib.suppress(RulvekError):
        plan = plan_of(model, wishes, specs, known, method, equipment, read_already=True)
        return None if any(run.prediction.obstacles for run in plan.runs) else plan
    return None
