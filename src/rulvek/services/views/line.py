"""Answers about the line: models, units, claims, verdicts, reach bars and voltage fits."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any, Generic, Literal, TypeVar

from rulvek.core.electrical.policy import THREE_POINTS, SupplyPolicy
from rulvek.core.judgement.claims import conflicts
from rulvek.core.judgement.comparisons import Comparison
from rulvek.core.judgement.conclusion import ModelConclusion, VoltageCurve
from rulvek.core.judgement.reach import Reach
from rulvek.core.judgement.verdict import Verdict, VerdictKind, VerdictOutcome
from rulvek.core.method.profile import MethodProfile
from rulvek.core.planning.settling import settling_runs
from rulvek.core.quantities import field_names
from rulvek.core.records.claims import Claim, ClaimKind, ClaimTerms, Withdrawal
from rulvek.core.records.facts import ModelFacts, UnitFacts, said
from rulvek.core.records.product import ChannelGroup, Model
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec, same_place
from rulvek.core.signals.bursts import BURSTS
from rulvek.services.views.base import HistoryView, Page, View, view


@view
class VerdictView(View):
    """A verdict on a claim, of one unit or (``unit_id`` null) of all units together."""

    claim_id: int
    unit_id: int | None
    kind: VerdictKind
    outcome: VerdictOutcome
    reason: str
    settle: str
    settling_runs: list[RunSpec]
    settling_limit: float | None
    attempt_id: int | None
    watts: float | None
    expanded_watts: float | None
    estimate_low_watts: float | None
    estimate_high_watts: float | None
    doubts: list[str]
    simulated: bool


@view
class ClaimView(ClaimTerms):
    """A published figure with its conditions, its contradictions and its verdicts."""

    id: int
    missing_conditions: list[str]
    added_by: str
    added_at: datetime
    withdrawn: Withdrawal | None
    conflicts_with: list[int]
    verdict: VerdictView | None
    unit_verdicts: list[VerdictView]


@view
class NotchView(View):
    """A claim on a reach bar."""

    claim_id: int
    watts: float
    document: str
    kind: ClaimKind
    verdict: VerdictKind
    doubted: bool


@view
class ReachView(Reach):
    """A reach bar with the claims on it."""

    notches: list[NotchView]


@view
class ModelRow(View):
    """A model on the line board."""

    id: int
    name: str
    topology: str
    description: str
    regulated: bool
    channels: int
    units: int
    tested_units: int
    reaches: list[ReachView]
    attention: list[str]
    states: list[VerdictKind]


@view
class SeriesView(View):
    """A series with its models."""

    id: int
    name: str
    purpose: str
    models: list[ModelRow]


@view
class LineView(View):
    """The product line."""

    series: list[SeriesView]
    last_step_id: int
    next: int | None


@view
class CampaignRow(View):
    """A campaign in a list."""

    id: int
    unit_id: int
    unit_serial: str
    model_id: int
    model_name: str
    bench: str
    supply_volts: float
    policy: SupplyPolicy
    modes: list[Mode]
    created_by: str
    created_at: datetime
    minutes_left: float | None
    runs: int
    runs_done: int
    running: bool


@view
class UnitRow(View):
    """A unit in a model's list."""

    id: int
    serial: str
    lot: str
    revision: str
    origin: str
    received_at: datetime
    facts: UnitFacts
    campaigns: list[CampaignRow]
    next_campaign: int | None
    reaches: list[ReachView]
    verdicts: list[VerdictView]


@view
class ReadPlaceView(View):
    """What is read as one: a channel, or a bridged pair, which goes by its first channel."""

    channel: int
    name: str


@view
class GroupView(ChannelGroup):
    """A channel group with what is read in each wiring, and the method's tone and burst for it."""

    singles: list[ReadPlaceView]
    pairs: list[ReadPlaceView]
    tone_hz: float
    burst: str


@view
class DefaultsView(View):
    """What the method proposes where people decide: proposed, shown, changed at will, never filed unseen."""

    supply_volts: float
    thd_n_limit_percent: float
    bursts: list[str]
    three_points: list[float]


@view
class SaidView(View):
    """Something that is said of a model or a unit besides what its tests rest on."""

    label: str
    words: str


@view
class ModelView(View):
    """A model with claims, units and what they gave; ``stand_in`` is what a simulated bench has in its place."""

    id: int
    name: str
    series_name: str
    topology: str
    description: str
    regulated: bool
    supply_low_volts: float
    supply_high_volts: float
    sensitivity_volts: float
    test_controls: list[str]
    fuse_amps: list[float]
    said: list[SaidView]
    groups: list[GroupView]
    defaults: DefaultsView
    claims: list[ClaimView]
    units: list[UnitRow]
    units_in_all: int
    next_unit: int | None
    reaches: list[ReachView]
    stand_in: str
    stand_in_described: str


@view
class UnitView(View):
    """A unit with its model's claims as it backs them; ``attention`` is what is odd about it, beside its readings."""

    unit: UnitRow
    attention: list[str]
    said: list[SaidView]
    model: ModelView
    voltage: list[VoltageCurve]
    comparisons: list[Comparison]
    history: list[HistoryView]


@view
class CampaignList(Page):
    """A page of campaigns, the newest first."""

    items: list[CampaignRow]


@view
class EnteredView(View):
    """What was put on record, by its number."""

    id: int


E = TypeVar("E")


@view
class EntryView(View, Generic[E]):
    """Something as it was entered, with the number of the version that holds."""

    number: int
    entry: E


@view
class VersionView(View):
    """A version of something that was entered, and which of its fields were others before."""

    number: int
    by: str
    at: datetime
    data: dict[str, Any]
    changed: list[str]


@view
class NameView(View):
    """Something that goes by a name; ``of`` says what it belongs to, ``model_id`` where a claim is shown."""

    kind: Literal["model", "unit", "campaign", "attempt", "claim", "instrument"]
    id: int
    name: str
    of: str
    model_id: int | None


def said_views(facts: ModelFacts | UnitFacts) -> list[SaidView]:
    """What is said of a model or a unit, as people see it."""
    return [SaidView(label=label, words=words) for label, words in said(facts)]


def verdict_view(
    verdict: Verdict, claim: Claim, model: Model, method: MethodProfile, unit_id: int | None
) -> VerdictView:
    """A verdict, as people see it, and the runs that would settle it under a method."""
    return VerdictView(
        claim_id=verdict.claim_id,
        unit_id=unit_id,
        kind=verdict.kind,
        outcome=verdict.outcome,
        reason=" ".join([verdict.reason, *(f"In doubt: {doubt}" for doubt in verdict.doubts)]),
        settle=verdict.settle,
        settling_runs=list(settling_runs(claim, model.product, method, verdict)),
        settling_limit=claim.thd_n_percent if verdict.settle else None,
        attempt_id=verdict.attempt_id,
        watts=verdict.watts,
        expanded_watts=verdict.expanded_watts,
        estimate_low_watts=verdict.interval[0] if verdict.interval else None,
        estimate_high_watts=verdict.interval[1] if verdict.interval else None,
        doubts=list(verdict.doubts),
        simulated=verdict.simulated,
    )


def claim_views(
    model: Model,
    together: Mapping[int, VerdictView],
    by_unit: Mapping[int, list[VerdictView]],
) -> list[ClaimView]:
    """All claims, withdrawn ones last, with their verdicts by claim."""
    against = conflicts(model.standing_claims)
    ordered = sorted(model.claims, key=lambda claim: (claim.withdrawn is not None, claim.id))
    return [
        ClaimView(
            **{name: getattr(claim, name) for name in field_names(ClaimTerms)},
            id=claim.id,
            missing_conditions=list(claim.unstated),
            added_by=claim.added_by,
            added_at=claim.added_at or datetime.min.replace(tzinfo=UTC),
            withdrawn=claim.withdrawn,
            conflicts_with=list(against.get(claim.id, ())),
            verdict=None if claim.withdrawn else together.get(claim.id),
            unit_verdicts=[] if claim.withdrawn else by_unit.get(claim.id, []),
        )
        for claim in ordered
    ]


def reach_views(reaches: Sequence[Reach], model: Model, verdicts: Mapping[int, VerdictView]) -> list[ReachView]:
    """Reach bars with a notch for each standing claim there."""
    return [
        ReachView(
            **{name: getattr(reach, name) for name in field_names(Reach)},
            notches=[
                NotchView(
                    claim_id=claim.id,
                    watts=claim.each_watts,
                    document=claim.document,
                    kind=claim.kind,
                    verdict=verdicts[claim.id].kind,
                    doubted=bool(verdicts[claim.id].doubts),
                )
                for claim in model.standing_claims
                if same_place(claim.place, reach.place)
            ],
        )
        for reach in reaches
    ]


def names_in_words(channels: Sequence[int]) -> str:
    """ "3" of a channel, "1 + 2" of a bridged pair."""
    return " + ".join(str(channel) for channel in channels)


def group_views(model: Model, method: MethodProfile) -> list[GroupView]:
    """A model's channel groups, as people see them, with what a method plays to each."""

    def places(group: ChannelGroup, bridged: bool) -> list[ReadPlaceView]:
        return [ReadPlaceView(channel=read[0], name=names_in_words(read)) for read in group.read(bridged)]

    return [
        GroupView(
            **{name: getattr(group, name) for name in field_names(ChannelGroup)},
            singles=places(group, bridged=False),
            pairs=places(group, bridged=True),
            tone_hz=method.tone_of(group.bass),
            burst=method.burst_of(group.bass).name,
        )
        for group in model.product.groups
    ]


def defaults_view(method: MethodProfile) -> DefaultsView:
    """What a method proposes."""
    return DefaultsView(
        supply_volts=method.reference_volts,
        thd_n_limit_percent=method.thd_n_limit_percent,
        bursts=list(BURSTS),
        three_points=list(THREE_POINTS),
    )


def verdict_views(
    verdicts: Iterable[Verdict], model: Model, method: MethodProfile, unit_id: int | None
) -> dict[int, VerdictView]:
    """Verdicts by claim; see :func:`verdict_view`."""
    claims = {claim.id: claim for claim in model.claims}
    return {
        v.claim_id: verdict_view(v, claims[v.claim_id], model, method, unit_id)
        for v in verdicts
        if v.claim_id in claims
    }


def model_row(model: Model, drawn: ModelConclusion, method: MethodProfile) -> ModelRow:
    """A model on the line board."""
    verdicts = verdict_views(drawn.verdicts, model, method, None)
    return ModelRow(
        id=model.id,
        name=model.name,
        topology=model.product.topology,
        description=model.description,
        regulated=model.product.regulated,
        channels=len(model.product.channels),
        units=drawn.units,
        tested_units=drawn.tested_units,
        reaches=reach_views(drawn.reaches, model, verdicts),
        attention=list(drawn.attention),
        states=[verdict.kind for verdict in drawn.verdicts],
    )
