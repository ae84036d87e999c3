"""Accounts, as admins look after them: made, given roles, closed, given a new code, given tokens for scripts."""

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta

from rulvek.core.errors import BadInput, Conflict
from rulvek.core.records.actor import Actor
from rulvek.core.records.people import Role, refuse_no_admin, refuse_unfit_name
from rulvek.services.people import secrets
from rulvek.services.tokens import digest, new_token
from rulvek.services.views.people import CodeView, NewTokenView, PersonView, TokenView, person_view
from rulvek.store import audit, people
from rulvek.store.engine import Database, Session

CODE_HOLDS = timedelta(hours=24)
LONGEST_TOKEN_DAYS = 366


class Accounts:
    """Every change is in the audit chain; nobody's account is ever deleted."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def everybody(self) -> list[PersonView]:
        """All accounts by name, the closed ones too."""
        with self._database.reading() as session:
            return [person_view(one) for one in people.everybody(session)]

    def make(self, name: str, roles: Iterable[Role], actor: Actor, demo: bool = False) -> CodeView:
        """Make an account, with a one-time code by which its person sets a password.

        Raises:
            BadInput: no role, or a name that will not do.
            Conflict: somebody has that name; also somebody who left, who stays named in what they did.
        """
        kept, given = refuse_unfit_name(name), _some(roles)
        with self._database.writing() as session:
            if (other := people.named(session, kept)) is not None:
                left = " and left" if other[0].closed_at else ""
                raise Conflict(f"There is {other[0].name} already{left}: take a name that tells them apart.")
            identity = people.add_person(session, kept, given, datetime.now(UTC), demo)
            _note(session, actor, "made an account", identity, kept, roles=_words(given))
            return self._new_code(session, identity)

    def set_roles(self, person_id: int, roles: Iterable[Role], actor: Actor) -> PersonView:
        """Give somebody these roles in place of those they had.

        Raises:
            BadInput: no role, or nobody would be left to look after the accounts.
        """
        given = _some(roles)
        with self._database.writing() as session:
            before = people.person(session, person_id)
            people.set_roles(session, person_id, given)
            refuse_no_admin(people.everybody(session))
            was = _words(before.roles)
            _note(session, actor, "changed roles", person_id, before.name, before=was, after=_words(given))
            return person_view(people.person(session, person_id))

    def close(self, person_id: int, actor: Actor) -> PersonView:
        """Close the account of somebody who left: sessions and tokens end at once.

        Raises:
            BadInput: nobody would be left to look after the accounts.
        """
        with self._database.writing() as session:
            now = datetime.now(UTC)
            before = people.person(session, person_id)
            if before.closed_at is None:
                people.set_closed(session, person_id, now)
                refuse_no_admin(people.everybody(session))
                people.set_secrets(session, person_id, people.Secrets())
                people.end_sessions(session, person_id, now)
                _note(session, actor, "closed an account", person_id, before.name)
            return person_view(people.person(session, person_id))

    def reopen(self, person_id: int, actor: Actor) -> CodeView:
        """Open a closed account again, with a one-time code."""
        with self._database.writing() as session:
            before = people.person(session, person_id)
            people.set_closed(session, person_id, None)
            _note(session, actor, "opened an account again", person_id, before.name)
            return self._new_code(session, person_id)

    def reset(self, person_id: int, actor: Actor) -> CodeView:
        """A one-time code for somebody who forgot their password, which holds no more; their sessions end.

        Raises:
            Conflict: the account is closed.
        """
        with self._database.writing() as session:
            person = people.person(session, person_id)
            if person.closed_at is not None:
                raise Conflict(f"The account of {person.name} is closed.", todo="Open it again.")
            people.end_sessions(session, person_id, datetime.now(UTC))
            _note(session, actor, "gave a new code", person_id, person.name)
            return self._new_code(session, person_id)

    def tokens(self) -> list[TokenView]:
        """All tokens of scripts, the latest first."""
        with self._database.reading() as session:
            names = {one.id: one.name for one in people.everybody(session)}
            return [_token_view(row, names[row.person_id]) for row in people.tokens(session)]

    def give_token(self, person_id: int, name: str, roles: Iterable[Role], days: int, actor: Actor) -> NewTokenView:
        """Make a token with which a script acts as somebody; it is shown this once.

        Raises:
            BadInput: no name, no role, one that the person has not, or too many days.
            Conflict: the account is closed.
        """
        kept, given = " ".join(name.split()), _some(roles)
        if not kept or len(kept) > 80 or not kept.isprintable():
            raise BadInput("Name the token after what uses it, in 1 to 80 characters.", field="name")
        if not 1 <= days <= LONGEST_TOKEN_DAYS:
            raise BadInput(f"A token holds for 1 to {LONGEST_TOKEN_DAYS} days.", field="days")
        token, now = new_token(secrets.TOKEN_START), datetime.now(UTC)
        with self._database.writing() as session:
            person = people.person(session, person_id)
            if person.closed_at is not None:
                raise Conflict(f"The account of {person.name} is closed.", todo="Open it again.")
            if not given <= person.roles:
                raise BadInput(f"{person.name} has not all of these roles.", field="roles")
            until = now + timedelta(days=days)
            identity = people.add_token(session, person_id, kept, given, digest(token), now, until)
            _note(session, actor, "gave a token", person_id, f"{kept}, for {person.name}", roles=_words(given))
            row = next(one for one in people.tokens(session) if one.id == identity)
            return NewTokenView(token=token, of=_token_view(row, person.name))

    def end_token(self, token_id: int, actor: Actor) -> TokenView:
        """End a token at once."""
        with self._database.writing() as session:
            row = people.end_token(session, token_id, datetime.now(UTC))
            person = people.person(session, row.person_id)
            _note(session, actor, "ended a token", person.id, f"{row.name}, for {person.name}")
            return _token_view(row, person.name)

    def _new_code(self, session: Session, person_id: int) -> CodeView:
        code, until = secrets.new_code(), datetime.now(UTC) + CODE_HOLDS
        people.set_secrets(session, person_id, people.Secrets("", digest(code), until))
        return CodeView(person=person_view(people.person(session, person_id)), code=code, until=until)


def _some(roles: Iterable[Role]) -> frozenset[Role]:
    given = frozenset(roles)
    if not given:
        raise BadInput("Give at least one role.", field="roles")
    return given


def _words(roles: Iterable[Role]) -> str:
    return ", ".join(role.value for role in Role if role in set(roles))


def _note(session: Session, actor: Actor, action: str, person_id: int, text: str, **detail: str) -> None:
    audit.note(session, actor, action, f"person/{person_id}", (), text=text, **detail)


def _token_view(row: people.TokenRow, person: str) -> TokenView:
    return TokenView(
        id=row.id,
        name=row.name,
        person=person,
        roles=[role for role in Role if role in row.roles],
        made_at=row.made_at,
        until=row.until,
        ended=row.ended_at is not None,
    )
