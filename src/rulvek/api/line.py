"""The line: series, models, units and claims."""

from typing import Annotated

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, ConfigDict, Field

from rulvek.api.context import Person, Use
from rulvek.core.judgement.claims import ClaimKind
from rulvek.services.catalogue import NewClaim
from rulvek.services.views.line import LineView, ModelView, UnitView

router = APIRouter(tags=["line"])
Id = Annotated[int, Path(ge=1, le=2**53)]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]


class Body(BaseModel):
    """Base of everything that is sent in: what is not known is refused, not dropped."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, str_strip_whitespace=True)


class ClaimIn(Body):
    """A published figure with the conditions that its document states; leave out what it does not."""

    group: str = Field(min_length=1, max_length=60)
    document: str = Field(min_length=1, max_length=200)
    watts: Positive = Field(le=100_000, description="per channel; per pair where bridged")
    load_ohms: Positive = Field(le=100)
    bridged: bool = False
    kind: ClaimKind = ClaimKind.CONTINUOUS
    supply_volts: Positive | None = Field(None, le=100)
    thd_n_percent: Positive | None = Field(None, le=100)
    band_low_hz: Positive | None = Field(None, le=200_000)
    band_high_hz: Positive | None = Field(None, le=200_000)


class WithdrawIn(Body):
    """Why a claim is no longer made."""

    reason: str = Field(min_length=1, max_length=500)


Guarded = Annotated[bool, Query(description="the guarded rule of ILAC-G8; simple acceptance where false")]


@router.get("/line")
def get_line(use: Use, guarded: Guarded = True) -> LineView:
    """The whole product line with reach bars and verdicts."""
    return use.catalogue.line(guarded)


@router.get("/models/{model_id}")
def get_model(model_id: Id, use: Use, guarded: Guarded = True) -> ModelView:
    """A model with claims, units and verdicts."""
    return use.catalogue.model(model_id, guarded)


@router.post("/models/{model_id}/claims", status_code=201)
def add_claim(model_id: Id, body: ClaimIn, use: Use, person: Person) -> ModelView:
    """Put a published figure on record."""
    return use.catalogue.add_claim(model_id, NewClaim(**body.model_dump()), person)


@router.post("/claims/{claim_id}/withdrawal", status_code=201)
def withdraw_claim(claim_id: Id, body: WithdrawIn, use: Use, person: Person) -> ModelView:
    """Record that a claim is no longer made; it stays on record."""
    return use.catalogue.withdraw_claim(claim_id, body.reason, person)


@router.get("/units/{unit_id}")
def get_unit(unit_id: Id, use: Use, guarded: Guarded = True) -> UnitView:
    """A unit with its campaigns."""
    return use.catalogue.unit(unit_id, guarded)
