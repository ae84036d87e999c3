"""People, as they are shown; nothing secret but what is told once."""

from datetime import datetime

from rulvek.core.records.people import Deed, Person, Role
from rulvek.services.views.base import View, view


@view
class PersonView(View):
    """An account. ``waiting``: its person has not set a password yet."""

    id: int
    name: str
    roles: list[Role]
    closed: bool
    demo: bool
    waiting: bool


@view
class MeView(View):
    """Who is signed in, and what they may do; ``person`` is null where nobody is.

    Attributes:
        is_new: Nobody has an account yet: the first is made with the code that the terminal printed.
        demo: Whom a newcomer may be with one click.
        running: Whether a bench has something on, so that it can be switched off from anywhere.
    """

    person: PersonView | None
    may: list[Deed]
    is_new: bool
    demo: list[PersonView]
    running: bool


@view
class SessionView(View):
    """A browser that one is signed in with; ``this`` is the one that asks."""

    id: int
    began_at: datetime
    seen_at: datetime
    address: str
    browser: str
    this: bool


@view
class CodeView(View):
    """A one-time code, told this once: whoever has it sets the password of that person."""

    person: PersonView
    code: str
    until: datetime


@view
class TokenView(View):
    """A script's token, without the token."""

    id: int
    name: str
    person: str
    roles: list[Role]
    made_at: datetime
    until: datetime
    ended: bool


@view
class NewTokenView(View):
    """A token, told this once."""

    token: str
    of: TokenView


def person_view(person: Person) -> PersonView:
    """An account, as it is shown."""
    return PersonView(
        id=person.id,
        name=person.name,
        roles=[role for role in Role if role in person.roles],
        closed=person.closed_at is not None,
        demo=person.demo,
        waiting=not person.has_password and not person.demo,
    )
