"""Answers about links to ratings."""

from datetime import datetime

from rulvek.core.ratings.links import RatingLink
from rulvek.services.views.base import View, view
from rulvek.services.views.rating_lives import RatingView


@view
class RatingLinkView(View):
    """A link under which a rating is seen without an account; ``opens`` until it lapses or is ended."""

    id: int
    meant_for: str
    with_records: bool
    made_by: str
    made_at: datetime
    until: datetime
    ended_at: datetime | None
    opens: bool


@view
class MadeLinkView(View):
    """A link that was just made; its token is told this once."""

    token: str
    link: RatingLinkView


@view
class SharedRatingView(View):
    """A rating as a link shows it, and until when."""

    rating: RatingView
    lab: str
    until: datetime
    with_records: bool


def link_view(one: RatingLink, at: datetime) -> RatingLinkView:
    """A link as people see it."""
    return RatingLinkView(
        id=one.id,
        meant_for=one.meant_for,
        with_records=one.with_records,
        made_by=one.made_by,
        made_at=one.made_at,
        until=one.until,
        ended_at=one.ended_at,
        opens=one.opens(at),
    )
