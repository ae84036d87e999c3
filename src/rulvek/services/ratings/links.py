"""Links under which somebody without an account sees a rating and what it rests on: made by a manager, for a time."""

from pathlib import Path

from rulvek import clock
from rulvek.core.errors import NotFound
from rulvek.core.ratings.links import RatingLink, lapses
from rulvek.core.records.actor import Actor
from rulvek.services.ratings.dossiers import RatingDossiers
from rulvek.services.ratings.lives import RatingLives
from rulvek.services.tokens import digest, new_token
from rulvek.services.views.rating_links import MadeLinkView, RatingLinkView, SharedRatingView, link_view
from rulvek.store import audit, rating_links, ratings
from rulvek.store.engine import Database

GONE = "This link does not open anything."


class RatingLinks:
    """Opens a rating to whoever holds a link, and to nobody longer than was said."""

    def __init__(self, database: Database, lives: RatingLives, dossiers: RatingDossiers) -> None:
        self._database, self._lives, self._dossiers = database, lives, dossiers

    def make(self, rating_id: int, meant_for: str, days: int, with_records: bool, actor: Actor) -> MadeLinkView:
        """Make a link; its token is told this once.

        Raises:
            BadInput: nobody is named, or it is to hold for less than a day or more than a year.
            Conflict: the rating was never published.
        """
        token, now = new_token(), clock.now()
        with self._database.writing() as session:
            until = lapses(meant_for, days, ratings.one(session, rating_id).life.state, now)
            kept = rating_links.add(
                session, rating_id, digest(token), meant_for.strip(), with_records, actor.name, now, until
            )
            text = f"for {kept.meant_for}, until {until.date().isoformat()}{', with its records' * with_records}"
            audit.note(session, actor, "made a link to a rating", f"rating/{rating_id}", text=text)
        return MadeLinkView(token=token, link=link_view(kept, now))

    def of(self, rating_id: int) -> list[RatingLinkView]:
        """All links to a rating, the latest first."""
        now = clock.now()
        with self._database.reading() as session:
            ratings.one(session, rating_id)
            return [link_view(one, now) for one in rating_links.of_rating(session, rating_id)]

    def end(self, link_id: int, actor: Actor) -> RatingLinkView:
        """Let a link open nothing any more."""
        now = clock.now()
        with self._database.writing() as session:
            ended = rating_links.end(session, link_id, now)
            audit.note(
                session, actor, "ended a link to a rating", f"rating/{ended.rating_id}", text=f"for {ended.meant_for}"
            )
        return link_view(ended, now)

    def opened(self, token: str) -> SharedRatingView:
        """What a link shows: the rating as it stands today.

        Raises:
            NotFound: it opens nothing; whether it ever did is not told.
        """
        link = self._link(token)
        return SharedRatingView(
            rating=self._lives.one(link.rating_id),
            lab=self._dossiers.lab,
            until=link.until,
            with_records=link.with_records,
        )

    def dossier(self, token: str) -> bytes:
        """The signed dossier, for whoever holds a link.

        Raises:
            NotFound: it opens nothing.
        """
        return self._dossiers.signed(self._link(token).rating_id)

    def records(self, token: str) -> Path:
        """The dossier with its records, for whoever holds a link that says so.

        Raises:
            NotFound: it opens nothing, or no records.
        """
        link = self._link(token)
        if not link.with_records:
            raise NotFound("This link does not hand out records.", todo="Ask whoever made it.")
        return self._dossiers.with_records(link.rating_id, Actor(link.made_by))

    def _link(self, token: str) -> RatingLink:
        with self._database.reading() as session:
            found = rating_links.by_token(session, digest(token), clock.now())
        if found is None:
            raise NotFound(GONE, todo="It may have lapsed: ask whoever made it for another one.")
        return found
