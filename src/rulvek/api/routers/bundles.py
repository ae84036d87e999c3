"""Bundles: what one lab hands to another, out and in."""

from typing import Annotated, Any

from fastapi import Path, Query, Request
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.downloads import named
from rulvek.api.receiving import received
from rulvek.api.schemas import Id
from rulvek.core.records.bundles import Scope
from rulvek.services.bundles import bundle_schema
from rulvek.services.views.bundles import BundleView, TakenInView

router = Calls("bundles")
BundleId = Annotated[str, Path(pattern="^[0-9a-f]{16}$")]


@router.get("/models/{model_id}/bundle", response_class=FileResponse, dependencies=HEAVY)
def get_model_bundle(model_id: Id, use: Use, person: Person) -> FileResponse:
    """A model with all of its units, for another lab."""
    return _packed(use, Scope.MODEL, model_id, person)


@router.get("/units/{unit_id}/bundle", response_class=FileResponse, dependencies=HEAVY)
def get_unit_bundle(unit_id: Id, use: Use, person: Person) -> FileResponse:
    """A unit with all of its campaigns, and what its model is, for another lab."""
    return _packed(use, Scope.UNIT, unit_id, person)


@router.get("/campaigns/{campaign_id}/bundle", response_class=FileResponse, dependencies=HEAVY)
def get_campaign_bundle(campaign_id: Id, use: Use, person: Person) -> FileResponse:
    """A campaign, its unit, and what its model is, for another lab."""
    return _packed(use, Scope.CAMPAIGN, campaign_id, person)


@router.post("/bundles", status_code=201)
async def send_bundle(
    request: Request, use: Use, name: Annotated[str, Query(min_length=1, max_length=200)]
) -> BundleView:
    """Send a bundle of another lab, and hear what would become of it; nothing of it is on record yet."""
    arriving = await run_in_threadpool(use.bundles.arriving, name)
    await received(request, arriving)
    return await run_in_threadpool(use.bundles.arrived, arriving)


@router.get("/bundles/{bundle_id}", dependencies=HEAVY)
def get_bundle(bundle_id: BundleId, use: Use) -> BundleView:
    """What would become of a bundle now."""
    return use.bundles.view(bundle_id)


@router.post("/bundles/{bundle_id}/taking-in", status_code=201, dependencies=HEAVY)
def take_in_bundle(bundle_id: BundleId, use: Use, person: Person) -> TakenInView:
    """Take a bundle in: all of what is new in it, or nothing while something clashes."""
    return use.bundles.take_in(bundle_id, person)


@router.delete("/bundles/{bundle_id}", status_code=204)
def let_bundle_go(bundle_id: BundleId, use: Use) -> None:
    """Delete a bundle that waits."""
    use.bundles.let_go(bundle_id)


def _packed(use: Use, scope: Scope, identity: int, person: Person) -> FileResponse:
    packed = use.bundles.pack(scope, identity, person)
    away = BackgroundTask(packed.path.unlink, missing_ok=True)
    headers = {"Content-Disposition": named(packed.name)}
    return FileResponse(packed.path, media_type="application/zip", headers=headers, background=away)


@router.get("/schema/bundle")
def get_bundle_schema() -> dict[str, Any]:
    """The JSON Schema of a bundle's JSON."""
    return bundle_schema()
