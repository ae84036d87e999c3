"""Plans before they are conducted: proposed from a model's loads and claims, changed by people, always costed."""

from collections.abc import Sequence

from rulvek.bench.sim.catalogue import EQUIPMENT
from rulvek.core.electrical.loads import Connection
from rulvek.core.electrical.networks import networks
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.plan import Plan, PlannedRun, Wishes, assess, propose
from rulvek.core.planning.prediction import KnownPower
from rulvek.core.planning.wiring import RunSpec, Wiring
from rulvek.services.records import chosen_attempt, core_claim, core_product, standing_claims
from rulvek.services.views.campaign import (
    ConnectionView,
    LoadHeatView,
    ObstacleView,
    PlannedRunView,
    PlanView,
    UnservedView,
    WiringView,
)
from rulvek.services.views.line import GroupView, RunSpecView
from rulvek.store import queries, tables
from rulvek.store.database import Database, Session


class Planner:
    """Proposes and costs plans; keeps nothing."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def plan(
        self, unit_id: int, wishes: Wishes, specs: Sequence[RunSpec] | None = None, method: MethodProfile | None = None
    ) -> PlanView:
        """A unit's plan by some wishes; of the given runs in the given order, or of those that are proposed.

        Raises:
            BadInput: wishes or runs that this model cannot have.
        """
        with self._database.reading() as session:
            unit = queries.get(session, tables.Unit, unit_id)
            return _plan_view(unit, plan_for(session, unit, wishes, specs, method or MethodProfile()))


def plan_for(
    session: Session, unit: tables.Unit, wishes: Wishes, specs: Sequence[RunSpec] | None, method: MethodProfile
) -> Plan:
    """The core's plan of a unit."""
    product, claims = core_product(unit.model), standing_claims(unit.model)
    if specs is None:
        specs = propose(product, claims, wishes, method, EQUIPMENT)
    known = _known(queries.units_with_evidence(session, unit.model_id))
    return assess(specs, product, claims, known, method, EQUIPMENT, wishes)


def _known(units: Sequence[tables.Unit]) -> list[KnownPower]:
    """What units of the model gave before, the latest first."""
    found = []
    for unit in units:
        for campaign in unit.campaigns:
            for run in campaign.runs:
                attempt = chosen_attempt(run)
                if attempt is None or not attempt.readings or attempt.ending is None:
                    continue
                if attempt.ending.supply_volts is None:
                    continue
                found.append(
                    KnownPower(
                        group=run.group,
                        load_ohms=run.load_ohms,
                        bridged=run.bridged,
                        mode=Mode(run.mode),
                        watts=min(reading.watts for reading in attempt.readings),
                        supply_volts=attempt.ending.supply_volts,
                        supply_amps=attempt.ending.supply_amps,
                        where=f"{unit.serial}, campaign {campaign.id}",
                    )
                )
    return found[::-1]


def boxes_in_words(link: Connection) -> str:
    """What the bench makes a load of; empty where it has nothing that makes it."""
    made = networks(EQUIPMENT.boxes, link.nominal_ohms)
    if not made:
        return ""
    return f"{link.nominal_ohms:g} Ω box" if made[0].how == "single" else made[0].how


def connection_view(link: Connection) -> ConnectionView:
    """A connection, as people see it."""
    return ConnectionView(channels=list(link.channels), ohms=link.nominal_ohms)


def _plan_view(unit: tables.Unit, plan: Plan) -> PlanView:
    model = unit.model
    claims = {row.id: core_claim(row) for row in model.claims}
    return PlanView(
        unit_id=unit.id,
        unit_serial=unit.serial,
        model_id=model.id,
        model_name=model.name,
        series_name=model.series.name,
        supply_low_volts=model.supply_low_volts,
        supply_high_volts=model.supply_high_volts,
        groups=[group_view(group) for group in model.groups],
        test_controls=list(model.test_controls),
        bench=EQUIPMENT.name,
        runs=[_run_view(run) for run in plan.runs],
        wirings=[_wiring_view(number, wiring, plan) for number, wiring in enumerate(plan.wirings, 1)],
        rewirings=plan.rewirings,
        fewest_rewirings=plan.fewest_rewirings,
        wiring_minutes=plan.wiring_minutes,
        running_minutes=plan.running_minutes,
        cooling_minutes=plan.cooling_minutes,
        minutes=plan.minutes,
        unserved=[
            UnservedView(
                claim_id=identity,
                group=claims[identity].group,
                watts=claims[identity].watts,
                load_ohms=claims[identity].load_ohms,
                bridged=claims[identity].bridged,
                kind=claims[identity].kind,
                document=claims[identity].document,
            )
            for identity in plan.unserved
        ],
    )


def group_view(group: tables.ChannelGroup) -> GroupView:
    """A channel group, as people see it."""
    return GroupView(
        name=group.name,
        channels=group.channels,
        rated_loads=group.rated_loads,
        bridged_loads=group.bridged_loads,
        bass=group.bass,
    )


def _wiring_view(number: int, wiring: Wiring, plan: Plan) -> WiringView:
    return WiringView(
        number=number,
        connections=[connection_view(link) for link in wiring],
        boxes=[boxes_in_words(link) for link in wiring],
        exploratory=any(run.exploratory for run in plan.runs if run.wiring == number),
        preparations=[],
    )


def _run_view(run: PlannedRun) -> PlannedRunView:
    p, spec = run.prediction, run.spec
    return PlannedRunView(
        spec=RunSpecView(
            mode=spec.mode,
            group=spec.group,
            load_ohms=spec.load_ohms,
            bridged=spec.bridged,
            tone_hz=spec.tone_hz,
            supply_volts=spec.supply_volts,
            burst=spec.burst,
        ),
        under_test=[connection_view(link) for link in run.under_test],
        wiring=run.wiring,
        exploratory=run.exploratory,
        serves=list(run.serves),
        reason=run.reason,
        watts=p.watts,
        basis=p.basis,
        amps=p.amps,
        volts_before=p.volts_before,
        volts_loaded=p.volts_loaded,
        cable_volts=p.cable_volts,
        cable_watts=p.cable_watts,
        fuse_percent=None if p.fuse_share is None else 100 * p.fuse_share,
        fuse_stress_percent=None if p.fuse_stress is None else 100 * p.fuse_stress,
        heat=[
            LoadHeatView(
                connection=connection_view(heat.connection),
                boxes=boxes_in_words(heat.connection),
                watts=heat.watts,
                celsius=heat.celsius,
            )
            for heat in p.heat
        ],
        minutes=p.run_seconds / 60,
        cooling_minutes=p.cooling_seconds / 60,
        obstacles=[ObstacleView(code=o.code, what=o.what, remedy=o.remedy) for o in p.obstacles],
    )
