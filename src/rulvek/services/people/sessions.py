"""Signing in, and who is signed in: sessions of browsers, and tokens of scripts."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import structlog

from rulvek.core.errors import BadInput, NotAllowed, NotSignedIn
from rulvek.core.records.actor import Actor
from rulvek.core.records.people import Deed, Person, Role, may, refuse_unfit_name
from rulvek.services.later import Later
from rulvek.services.people import secrets
from rulvek.services.people.throttle import Throttle
from rulvek.services.tokens import digest, new_token
from rulvek.services.views.people import PersonView, SessionView, person_view
from rulvek.store import audit, people
from rulvek.store.engine import Database

log = structlog.get_logger()
SEEN_EVERY = timedelta(minutes=1)
NOT_RIGHT = "That name and password do not belong together."
"""The same for a name that nobody has: who works here is nobody else's business."""
NO_SUCH_CODE = "That name and code do not belong together, or the code has lapsed."
FOUNDER = (Role.ADMIN, Role.MANAGER, Role.ENGINEER)
"""Roles of the first account, who has everything still to enter."""


@dataclass(frozen=True, slots=True)
class Limits:
    """How long a session lasts: unused, and at all."""

    idle: timedelta = timedelta(hours=12)
    whole: timedelta = timedelta(days=7)


@dataclass(frozen=True, slots=True)
class Visitor:
    """Where a request comes from. ``local``: from this machine itself, through no proxy."""

    address: str
    browser: str = ""
    local: bool = False


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Somebody who is signed in; ``session_id`` is 0 for a script, whose token may have fewer roles than its person."""

    person: Person
    roles: frozenset[Role]
    session_id: int = 0

    @property
    def actor(self) -> Actor:
        """As whom they act."""
        return Actor(self.person.name)

    def may(self, *deeds: Deed) -> bool:
        """Whether they may do any of the deeds."""
        return may(self.roles, *deeds)


@dataclass(frozen=True, slots=True)
class Entry:
    """A session that has just begun; its token is told this once."""

    token: str
    signed_in: SignedIn


class Sessions:
    """Begins, knows and ends sessions. Tokens are random; only their hashes are kept."""

    def __init__(self, database: Database, later: Later, limits: Limits) -> None:
        self._database, self._later, self.limits = database, later, limits
        self._throttle = Throttle(database)
        self._first_code = ""
        self._names: dict[str, str] = {}

    def first_code(self) -> str:
        """A one-time code for the first account, told in the terminal; empty where there are accounts."""
        with self._database.reading() as session:
            if people.any_person(session):
                return ""
        self._first_code = self._first_code or secrets.new_code()
        return self._first_code

    def is_new(self) -> bool:
        """Whether nobody has an account yet."""
        with self._database.reading() as session:
            return not people.any_person(session)

    def demo_people(self, visitor: Visitor) -> list[PersonView]:
        """Whom a newcomer may be with one click: the demo's people, on the machine itself."""
        if not visitor.local:
            return []
        with self._database.reading() as session:
            return [person_view(one) for one in people.everybody(session) if one.demo and one.closed_at is None]

    def by_session(self, token: str) -> SignedIn | None:
        """Whose session this is; None once it was ended, has lapsed, or its person left."""
        now = datetime.now(UTC)
        with self._database.reading() as session:
            found = people.by_session(session, digest(token))
        if found is None:
            return None
        person, row = found
        if now - row.seen_at > self.limits.idle or now - row.began_at > self.limits.whole:
            return None
        if now - row.seen_at > SEEN_EVERY:
            self._later.do(lambda: self._seen(row.id, now))
        self._names[token] = person.name
        return SignedIn(person, person.roles, row.id)

    def by_token(self, token: str) -> SignedIn | None:
        """For whom a script's token acts: never with more than the person has."""
        with self._database.reading() as session:
            found = people.by_token(session, digest(token), datetime.now(UTC))
        return None if found is None else SignedIn(found[0], found[0].roles & found[1].roles)

    def name_remembered(self, token: str) -> str:
        """Whose session a token was when it last was asked for; from memory, as Off must not wait for the records."""
        return self._names.get(token, "")

    def sign_in(self, name: str, password: str, visitor: Visitor) -> Entry:
        """Begin a session with a password.

        Raises:
            NotSignedIn: name and password do not belong together, or the person left.
            TooSoon: it was tried too often.
        """
        self._throttle.take(name, visitor.address, datetime.now(UTC))
        with self._database.reading() as session:
            found = people.named(session, name)
        right = secrets.is_password(password, found[1].password if found else "")
        if found is None or not right or found[0].closed_at is not None:
            log.info("sign-in refused", address=visitor.address)
            raise NotSignedIn(NOT_RIGHT)
        self._throttle.succeeded(name, visitor.address)
        return self._begin(found[0], visitor)

    def sign_in_by_code(self, name: str, code: str, password: str, visitor: Visitor) -> Entry:
        """Begin a session with a one-time code, and set the password that holds from now on; other sessions end.

        Raises:
            NotSignedIn: name and code do not belong together, or the code lapsed.
            BadInput: a password that is too weak; the code stays good.
            TooSoon: it was tried too often.
        """
        now = datetime.now(UTC)
        self._throttle.take(name, visitor.address, now)
        with self._database.reading() as session:
            found = people.named(session, name)
        kept = found[1] if found else people.Secrets()
        in_time = kept.code_until is not None and kept.code_until > now
        if found is None or not secrets.is_code(code, kept.code) or not in_time or found[0].closed_at is not None:
            raise NotSignedIn(NO_SUCH_CODE)
        person = found[0]
        self._throttle.succeeded(name, visitor.address)
        secrets.refuse_weak(password, person.name)
        fresh = people.Secrets(secrets.hashed_password(password))
        with self._database.writing() as session:
            again = people.named(session, name)
            if again is None or again[1].code != kept.code:
                raise NotSignedIn(NO_SUCH_CODE)
            people.set_secrets(session, person.id, fresh)
            people.end_sessions(session, person.id, now)
            audit.note(session, person_actor(person), "set a password by code", f"person/{person.id}", text=person.name)
        return self._begin(person, visitor)

    def found(self, code: str, name: str, password: str, visitor: Visitor) -> Entry:
        """Make the first account, which looks after all others.

        Raises:
            NotAllowed: there are accounts already.
            NotSignedIn: not the code that the terminal printed.
            BadInput: a name or a password that will not do.
        """
        self._throttle.take("", visitor.address, datetime.now(UTC))
        if not secrets.is_code(code, digest(self._first_code) if self._first_code else ""):
            if not self.is_new():
                raise NotAllowed("There are accounts already: ask an admin for one.")
            raise NotSignedIn("That is not the code that the terminal printed.")
        self._throttle.succeeded("", visitor.address)
        kept = refuse_unfit_name(name)
        secrets.refuse_weak(password, kept)
        fresh = people.Secrets(secrets.hashed_password(password))
        with self._database.writing() as session:
            if people.any_person(session):
                raise NotAllowed("There are accounts already: ask an admin for one.")
            identity = people.add_person(session, kept, FOUNDER, datetime.now(UTC))
            people.set_secrets(session, identity, fresh)
            person = people.person(session, identity)
            audit.note(session, person_actor(person), "made the first account", f"person/{identity}", text=kept)
        self._first_code = ""
        return self._begin(person, visitor)

    def be_demo(self, person_id: int, visitor: Visitor) -> Entry:
        """Be one of the demo's people, without a password, on the machine itself.

        Raises:
            NotAllowed: from elsewhere, or not one of the demo's people.
        """
        with self._database.reading() as session:
            person = people.person(session, person_id)
        if not (visitor.local and person.demo) or person.closed_at is not None:
            raise NotAllowed("Only the demo's people can be taken, and only on the machine itself.")
        return self._begin(person, visitor)

    def mine(self, who: SignedIn) -> list[SessionView]:
        """One's own sessions that still hold."""
        now = datetime.now(UTC)
        with self._database.reading() as session:
            rows = people.sessions_of(session, who.person.id)
        return [
            SessionView(
                id=row.id,
                began_at=row.began_at,
                seen_at=row.seen_at,
                address=row.address,
                browser=row.browser,
                this=row.id == who.session_id,
            )
            for row in rows
            if now - row.seen_at <= self.limits.idle and now - row.began_at <= self.limits.whole
        ]

    def end(self, who: SignedIn, session_id: int | None = None) -> None:
        """End one of one's own sessions; the one that asks where none is named."""
        with self._database.writing() as session:
            people.end_sessions(session, who.person.id, datetime.now(UTC), only=session_id or who.session_id)

    def change_password(self, who: SignedIn, old: str, new: str, visitor: Visitor) -> None:
        """Take another password; all other sessions end.

        Raises:
            BadInput: not the old password, or one that is too weak.
            TooSoon: it was tried too often.
        """
        self._throttle.take(who.person.name, visitor.address, datetime.now(UTC))
        with self._database.reading() as session:
            kept = people.named(session, who.person.name)
        if kept is None or not secrets.is_password(old, kept[1].password):
            raise BadInput("That is not the password that holds now.", field="old")
        self._throttle.succeeded(who.person.name, visitor.address)
        secrets.refuse_weak(new, who.person.name)
        fresh = people.Secrets(secrets.hashed_password(new))
        with self._database.writing() as session:
            people.set_secrets(session, who.person.id, fresh)
            people.end_sessions(session, who.person.id, datetime.now(UTC), but=who.session_id)
            audit.note(session, who.actor, "changed their password", f"person/{who.person.id}", text=who.person.name)

    def _begin(self, person: Person, visitor: Visitor) -> Entry:
        """A new session at each sign-in: a token that somebody planted before is worth nothing."""
        token = new_token()
        with self._database.writing() as session:
            at = datetime.now(UTC)
            identity = people.begin_session(session, person.id, digest(token), at, visitor.address, visitor.browser)
        return Entry(token, SignedIn(person, person.roles, identity))

    def _seen(self, session_id: int, at: datetime) -> None:
        with self._database.writing() as session:
            people.seen(session, session_id, at)


def person_actor(person: Person) -> Actor:
    """As whom a person acts."""
    return Actor(person.name)
