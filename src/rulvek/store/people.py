"""Accounts, sessions, tokens and waits on record. Secrets come here hashed, and leave no other way."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from rulvek.core.errors import NotFound
from rulvek.core.records.people import Person, Role
from rulvek.store import tables as t


@dataclass(frozen=True, slots=True)
class Secrets:
    """What somebody may sign in with: a password's hash, or a one-time code's until it lapses; empty for none."""

    password: str = ""
    code: str = ""
    code_until: datetime | None = None


@dataclass(frozen=True, slots=True)
class SessionRow:
    """A browser that somebody signed in with."""

    id: int
    person_id: int
    began_at: datetime
    seen_at: datetime
    address: str
    browser: str


@dataclass(frozen=True, slots=True)
class TokenRow:
    """A script's token, without the token."""

    id: int
    person_id: int
    name: str
    roles: frozenset[Role]
    made_at: datetime
    until: datetime
    ended_at: datetime | None


def folded(name: str) -> str:
    """A name as names are compared: two people never differ by case or spaces alone."""
    return " ".join(name.split()).casefold()


def any_person(session: Session) -> bool:
    """Whether there is an account at all."""
    return session.scalar(select(t.Person.id).limit(1)) is not None


def is_demo(session: Session, name: str) -> bool:
    """Whether somebody of that name belongs to the demo."""
    return session.scalar(select(t.Person.demo).where(t.Person.folded == folded(name))) is True


def everybody(session: Session) -> list[Person]:
    """All accounts, the closed ones too, by name."""
    return [_person(row) for row in session.scalars(select(t.Person).order_by(t.Person.folded))]


def person(session: Session, person_id: int) -> Person:
    """An account.

    Raises:
        NotFound: there is none.
    """
    return _person(_row(session, person_id))


def named(session: Session, name: str) -> tuple[Person, Secrets] | None:
    """Whoever has a name, with what they may sign in with."""
    row = session.scalar(select(t.Person).where(t.Person.folded == folded(name)))
    return None if row is None else (_person(row), Secrets(row.password, row.code, row.code_until))


def add_person(session: Session, name: str, roles: Iterable[Role], at: datetime, demo: bool = False) -> int:
    """Put an account on record that nobody can sign in with yet; returns its id."""
    row = t.Person(name=name, folded=folded(name), roles=_words(roles), made_at=at, demo=demo)
    session.add(row)
    session.flush()
    return row.id


def set_secrets(session: Session, person_id: int, secrets: Secrets) -> None:
    """Replace what somebody may sign in with."""
    row = _row(session, person_id)
    row.password, row.code, row.code_until = secrets.password, secrets.code, secrets.code_until


def set_roles(session: Session, person_id: int, roles: Iterable[Role]) -> None:
    """Give somebody these roles in place of those they had."""
    _row(session, person_id).roles = _words(roles)


def set_closed(session: Session, person_id: int, at: datetime | None) -> None:
    """Close an account, or open it again."""
    _row(session, person_id).closed_at = at


def begin_session(session: Session, person_id: int, token: str, at: datetime, address: str, browser: str) -> int:
    """Put a session on record by its token's hash; returns its id."""
    row = t.PersonSession(
        person_id=person_id, token=token, began_at=at, seen_at=at, address=address[:200], browser=browser[:200]
    )
    session.add(row)
    session.flush()
    return row.id


def by_session(session: Session, token: str) -> tuple[Person, SessionRow] | None:
    """Whose session has this token's hash, unless it was ended or its person left."""
    found = session.execute(
        select(t.PersonSession, t.Person)
        .join(t.Person, t.Person.id == t.PersonSession.person_id)
        .where(t.PersonSession.token == token, t.PersonSession.ended_at.is_(None), t.Person.closed_at.is_(None))
    ).first()
    return None if found is None else (_person(found[1]), _session(found[0]))


def seen(session: Session, session_id: int, at: datetime) -> None:
    """Somebody used a session."""
    session.execute(update(t.PersonSession).where(t.PersonSession.id == session_id).values(seen_at=at))


def sessions_of(session: Session, person_id: int) -> list[SessionRow]:
    """Somebody's sessions that were not ended, the latest used first."""
    rows = select(t.PersonSession).where(t.PersonSession.person_id == person_id, t.PersonSession.ended_at.is_(None))
    return [_session(row) for row in session.scalars(rows.order_by(t.PersonSession.seen_at.desc()))]


def end_sessions(session: Session, person_id: int, at: datetime, only: int | None = None, but: int = 0) -> int:
    """End somebody's sessions: one, or all but one; returns how many."""
    row = t.PersonSession
    ending = update(row).where(row.person_id == person_id, row.ended_at.is_(None), row.id != but)
    if only is not None:
        ending = ending.where(row.id == only)
    return len(session.execute(ending.values(ended_at=at).returning(row.id)).all())


def add_token(
    session: Session, person_id: int, name: str, roles: Iterable[Role], token: str, at: datetime, until: datetime
) -> int:
    """Put a script's token on record by its hash; returns its id."""
    row = t.ScriptToken(person_id=person_id, name=name, roles=_words(roles), token=token, made_at=at, until=until)
    session.add(row)
    session.flush()
    return row.id


def by_token(session: Session, token: str, at: datetime) -> tuple[Person, TokenRow] | None:
    """Whom the token with this hash acts for, unless it lapsed or was ended, or its person left."""
    found = session.execute(
        select(t.ScriptToken, t.Person)
        .join(t.Person, t.Person.id == t.ScriptToken.person_id)
        .where(t.ScriptToken.token == token, t.ScriptToken.ended_at.is_(None), t.Person.closed_at.is_(None))
    ).first()
    return None if found is None or found[0].until <= at else (_person(found[1]), _token(found[0]))


def tokens(session: Session) -> list[TokenRow]:
    """All tokens, the latest first."""
    return [_token(row) for row in session.scalars(select(t.ScriptToken).order_by(t.ScriptToken.id.desc()))]


def end_token(session: Session, token_id: int, at: datetime) -> TokenRow:
    """End a token.

    Raises:
        NotFound: there is none.
    """
    row = session.get(t.ScriptToken, token_id)
    if row is None:
        raise NotFound(f"There is no token {token_id}.")
    row.ended_at = row.ended_at or at
    return _token(row)


def waits(session: Session, keys: Iterable[str]) -> dict[str, tuple[int, datetime]]:
    """How often each key failed, and until when it must wait."""
    rows = session.scalars(select(t.SignInWait).where(t.SignInWait.key.in_(list(keys))))
    return {row.key: (row.failures, row.until) for row in rows}


def set_wait(session: Session, key: str, failures: int, until: datetime) -> None:
    """Note a failure."""
    session.merge(t.SignInWait(key=key, failures=failures, until=until))


def forget_wait(session: Session, key: str) -> None:
    """Somebody did sign in."""
    row = session.get(t.SignInWait, key)
    if row is not None:
        session.delete(row)


def _row(session: Session, person_id: int) -> t.Person:
    row = session.get(t.Person, person_id)
    if row is None:
        raise NotFound(f"There is no person {person_id}.")
    return row


def _words(roles: Iterable[Role]) -> list[str]:
    return [role.value for role in Role if role in set(roles)]


def _person(row: t.Person) -> Person:
    roles = frozenset(Role(word) for word in row.roles)
    return Person(row.id, row.name, roles, row.closed_at, row.demo, bool(row.password))


def _session(row: t.PersonSession) -> SessionRow:
    return SessionRow(row.id, row.person_id, row.began_at, row.seen_at, row.address, row.browser)


def _token(row: t.ScriptToken) -> TokenRow:
    roles = frozenset(Role(word) for word in row.roles)
    return TokenRow(row.id, row.person_id, row.name, roles, row.made_at, row.until, row.ended_at)
