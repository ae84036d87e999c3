"""The line: series, models, units and claims."""

from typing import Annotated

from fastapi import Path, Query, Request
from pydantic import Field
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.downloads import XLSX, download
from rulvek.api.schemas import LARGEST_ID, After, Before, Body, Id, Limit, Rule
from rulvek.bench.benches import StandIn, stand_ins
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.quantities import Reason
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.entered import ModelEntry, SeriesEntry, StandInEntry, UnitEntry
from rulvek.services.catalogue import sort_of
from rulvek.services.views.exchange import ExchangeView
from rulvek.services.views.history import ChangesView
from rulvek.services.views.line import EnteredView, LineView, ModelView, NameView, UnitView
from rulvek.services.views.side_by_side import SideBySideView

router = Calls("line")


class WithdrawIn(Body):
    """Why a claim is no longer made."""

    reason: Reason


@router.get("/line", dependencies=HEAVY)
def get_line(use: Use, rule: Rule = DecisionRule.AS_STORED, after: After = None, limit: Limit = 100) -> LineView:
    """The product line with reach bars and verdicts, a page of models at a time."""
    return use.catalogue.line(rule, after, limit)


@router.get("/line/workbook", response_class=Response, dependencies=HEAVY)
def get_line_workbook(use: Use) -> Response:
    """The whole line as a spreadsheet: series, models, groups, claims, units."""
    return download(use.exchange.workbook(), XLSX, "line.xlsx")


@router.post("/line/workbook/rehearsal", dependencies=HEAVY)
async def rehearse_line_workbook(request: Request, use: Use, person: Person) -> ExchangeView:
    """What would become of each row of a spreadsheet; nothing is stored."""
    return await run_in_threadpool(use.exchange.rehearse, await request.body(), person)


@router.post("/line/workbook", dependencies=HEAVY)
async def take_in_line_workbook(request: Request, use: Use, person: Person) -> ExchangeView:
    """Take a spreadsheet in: all of it, or nothing while a row is refused."""
    return await run_in_threadpool(use.exchange.take_in, await request.body(), person)


@router.get("/find")
def find(use: Use, words: Annotated[str, Query(max_length=80)] = "") -> list[NameView]:
    """Models, units and campaigns by any part of their names."""
    return use.catalogue.find(words)


@router.get("/history/{kind}/{identity}")
def get_history(
    kind: Annotated[str, Path(max_length=20)],
    identity: Annotated[str, Path(max_length=64, pattern="^[0-9a-f]+$")],
    use: Use,
    before: Before = None,
) -> ChangesView:
    """Everything that was done to something, the latest first; of a model and a unit with what belongs to them."""
    return use.histories.of(kind, identity, before)


@router.get("/side-by-side", dependencies=HEAVY)
def get_side_by_side(
    kind: Annotated[str, Query(max_length=20, description="unit, model, revision or lot")],
    id: Annotated[list[Annotated[int, Field(ge=1, le=LARGEST_ID)]], Query(max_length=20)],
    use: Use,
    rule: Rule = DecisionRule.AS_STORED,
) -> SideBySideView:
    """Two or more of a kind in one table of differences."""
    return use.side_by_side.of(sort_of(kind), id, rule)


@router.get("/models/{model_id}", dependencies=HEAVY)
def get_model(
    model_id: Id, use: Use, rule: Rule = DecisionRule.AS_STORED, after: After = None, limit: Limit = 50
) -> ModelView:
    """A model with claims and verdicts, a page of its units at a time."""
    return use.catalogue.model(model_id, rule, after, limit)


@router.post("/series", status_code=201)
def add_series(body: SeriesEntry, use: Use, person: Person) -> EnteredView:
    """Put a series on record."""
    return EnteredView(id=use.catalogue.add_series(body, person))


@router.post("/series/{series_id}/models", status_code=201)
def add_model(series_id: Id, body: ModelEntry, use: Use, person: Person) -> EnteredView:
    """Put a model on record, its channels counted through its groups."""
    return EnteredView(id=use.catalogue.add_model(series_id, body, person))


@router.get("/stand-ins")
def list_stand_ins() -> list[StandIn]:
    """The simulated amplifiers that a model may have in its place on a simulated bench."""
    return list(stand_ins())


@router.put("/models/{model_id}/stand-in")
def set_stand_in(model_id: Id, body: StandInEntry, use: Use, person: Person) -> ModelView:
    """Choose or describe the simulated amplifier that stands in for a model."""
    return use.catalogue.set_stand_in(model_id, body, person)


@router.post("/models/{model_id}/units", status_code=201)
def receive_unit(model_id: Id, body: UnitEntry, use: Use, person: Person) -> EnteredView:
    """Put a unit on record that was received."""
    return EnteredView(id=use.catalogue.receive_unit(model_id, body, person))


@router.post("/models/{model_id}/claims", status_code=201)
def add_claim(model_id: Id, body: ClaimTerms, use: Use, person: Person) -> ModelView:
    """Put a published figure on record."""
    return use.catalogue.add_claim(model_id, body, person)


@router.post("/claims/{claim_id}/withdrawal", status_code=201)
def withdraw_claim(claim_id: Id, body: WithdrawIn, use: Use, person: Person) -> ModelView:
    """Record that a claim is no longer made; it stays on record."""
    return use.catalogue.withdraw_claim(claim_id, body.reason, person)


@router.get("/units/{unit_id}", dependencies=HEAVY)
def get_unit(unit_id: Id, use: Use, rule: Rule = DecisionRule.AS_STORED, before: Before = None) -> UnitView:
    """A unit with a page of its campaigns."""
    return use.catalogue.unit(unit_id, rule, before)
