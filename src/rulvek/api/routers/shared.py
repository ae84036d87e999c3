"""Ratings for others: links that a manager makes, and what they open without an account."""

from typing import Annotated

from fastapi import Path
from fastapi.responses import FileResponse, Response
from pydantic import Field
from starlette.background import BackgroundTask

from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.downloads import download
from rulvek.api.schemas import Body, Id
from rulvek.core.quantities import Name
from rulvek.services.views.rating_links import MadeLinkView, RatingLinkView, SharedRatingView

router = Calls("shared")
Token = Annotated[str, Path(min_length=1, max_length=100, description="as it was told when the link was made")]


class LinkIn(Body):
    """For whom a link is, for how many days, and whether it hands out the records too."""

    meant_for: Name
    days: int = Field(30, ge=1, le=366)
    with_records: bool = False


@router.get("/ratings/{rating_id}/links")
def list_rating_links(rating_id: Id, use: Use) -> list[RatingLinkView]:
    """All links to a rating, the latest first."""
    return use.rating_links.of(rating_id)


@router.post("/ratings/{rating_id}/links", status_code=201)
def make_rating_link(rating_id: Id, body: LinkIn, use: Use, person: Person) -> MadeLinkView:
    """Make a link under which somebody without an account sees a published rating."""
    return use.rating_links.make(rating_id, body.meant_for, body.days, body.with_records, person)


@router.post("/rating-links/{link_id}/end")
def end_rating_link(link_id: Id, use: Use, person: Person) -> RatingLinkView:
    """Let a link open nothing any more."""
    return use.rating_links.end(link_id, person)


@router.get("/shared/{token}", dependencies=HEAVY)
def get_shared(token: Token, use: Use) -> SharedRatingView:
    """A rating as a link shows it."""
    return use.rating_links.opened(token)


@router.get("/shared/{token}/dossier.pdf", response_class=Response, dependencies=HEAVY)
def get_shared_dossier(token: Token, use: Use) -> Response:
    """The dossier of a rating that a link shows, signed with the lab's certificate."""
    return download(use.rating_links.dossier(token), "application/pdf", "dossier.pdf")


@router.get("/shared/{token}/dossier.zip", response_class=FileResponse, dependencies=HEAVY)
def get_shared_records(token: Token, use: Use) -> FileResponse:
    """The dossier with its records, where the link hands them out."""
    path = use.rating_links.records(token)
    sent = BackgroundTask(path.unlink, missing_ok=True)
    return FileResponse(path, filename="dossier.zip", media_type="application/zip", background=sent)
