"""People: signing in and out, one's own sessions, and what admins do with accounts."""

from typing import Annotated

from fastapi import Path, Request, Response
from pydantic import Field

from rulvek.api.asking import From, Person, Use, Who, session_token, signed_in, visitor_of
from rulvek.api.calls import Calls
from rulvek.api.guard import cookie_name
from rulvek.api.schemas import LARGEST_ID, Body, Id
from rulvek.core.records.people import Deed, Role
from rulvek.services.people import Entry, SignedIn
from rulvek.services.views.people import CodeView, MeView, NewTokenView, PersonView, SessionView, TokenView, person_view

router = Calls("people")
Typed = Annotated[str, Field(max_length=200)]
Roles = Annotated[list[Role], Field(max_length=len(Role))]


class SignInIn(Body):
    """A name and its password."""

    name: Typed
    password: Typed


class CodeIn(SignInIn):
    """A name, the one-time code that was given for it, and the password that is to hold from now on."""

    code: Typed


class DemoIn(Body):
    """Which of the demo's people to be."""

    person_id: Annotated[int, Field(ge=1, le=LARGEST_ID)]


class PasswordIn(Body):
    """The password that holds now, and the one that is to hold."""

    old: Typed
    password: Typed


class PersonIn(Body):
    """A new account."""

    name: Typed
    roles: Roles


class RolesIn(Body):
    """All roles of a person."""

    roles: Roles


class TokenIn(Body):
    """A token for a script."""

    name: Typed
    roles: Roles
    days: int = 90


@router.get("/me")
def get_me(request: Request) -> MeView:
    """Who is signed in here, and what they may do."""
    return _me(request, signed_in(request))


@router.post("/sign-in")
def sign_in(body: SignInIn, request: Request, response: Response, use: Use, visitor: From) -> MeView:
    """Begin a session with a password."""
    return _entered(use.sessions.sign_in(body.name, body.password, visitor), request, response)


@router.post("/sign-in/code")
def sign_in_by_code(body: CodeIn, request: Request, response: Response, use: Use, visitor: From) -> MeView:
    """Begin a session with a one-time code, and set the password that holds from now on."""
    entry = use.sessions.sign_in_by_code(body.name, body.code, body.password, visitor)
    return _entered(entry, request, response)


@router.post("/sign-in/first", status_code=201)
def make_first_account(body: CodeIn, request: Request, response: Response, use: Use, visitor: From) -> MeView:
    """Make the first account, with the code that the terminal printed."""
    return _entered(use.sessions.found(body.code, body.name, body.password, visitor), request, response)


@router.post("/sign-in/demo")
def be_demo_person(body: DemoIn, request: Request, response: Response, use: Use, visitor: From) -> MeView:
    """Be one of the demo's people; only on the machine itself."""
    return _entered(use.sessions.be_demo(body.person_id, visitor), request, response)


@router.post("/sign-out", status_code=204)
def sign_out(request: Request, response: Response, use: Use) -> None:
    """End this session."""
    who = signed_in(request)
    if who is not None and who.session_id:
        use.sessions.end(who)
    response.delete_cookie(cookie_name(request.scope), path="/", httponly=True, samesite="strict")


@router.get("/me/sessions")
def list_my_sessions(use: Use, who: Who) -> list[SessionView]:
    """The browsers in which one is signed in."""
    return use.sessions.mine(who)


@router.delete("/me/sessions/{session_id}", status_code=204)
def end_my_session(session_id: Id, use: Use, who: Who) -> None:
    """End one of one's own sessions."""
    use.sessions.end(who, session_id)


@router.post("/me/password", status_code=204)
def change_my_password(body: PasswordIn, use: Use, who: Who, visitor: From) -> None:
    """Take another password; one's other sessions end."""
    use.sessions.change_password(who, body.old, body.password, visitor)


@router.get("/people")
def list_people(use: Use) -> list[PersonView]:
    """Everybody with an account, those who left too."""
    return use.accounts.everybody()


@router.post("/people", status_code=201)
def add_person(body: PersonIn, use: Use, person: Person) -> CodeView:
    """Make an account; the one-time code is told this once."""
    return use.accounts.make(body.name, body.roles, person)


PersonId = Annotated[int, Path(ge=1, le=LARGEST_ID)]


@router.put("/people/{person_id}/roles")
def set_roles(person_id: PersonId, body: RolesIn, use: Use, person: Person) -> PersonView:
    """Give somebody these roles."""
    return use.accounts.set_roles(person_id, body.roles, person)


@router.post("/people/{person_id}/closing")
def close_account(person_id: PersonId, use: Use, person: Person) -> PersonView:
    """Close the account of somebody who left."""
    return use.accounts.close(person_id, person)


@router.post("/people/{person_id}/opening")
def open_account(person_id: PersonId, use: Use, person: Person) -> CodeView:
    """Open a closed account again."""
    return use.accounts.reopen(person_id, person)


@router.post("/people/{person_id}/code")
def give_code(person_id: PersonId, use: Use, person: Person) -> CodeView:
    """A one-time code for somebody who forgot their password."""
    return use.accounts.reset(person_id, person)


@router.get("/tokens")
def list_tokens(use: Use) -> list[TokenView]:
    """All tokens of scripts."""
    return use.accounts.tokens()


@router.post("/people/{person_id}/tokens", status_code=201)
def give_token(person_id: PersonId, body: TokenIn, use: Use, person: Person) -> NewTokenView:
    """Make a token with which a script acts as somebody; it is told this once."""
    return use.accounts.give_token(person_id, body.name, body.roles, body.days, person)


@router.delete("/tokens/{token_id}")
def end_token(token_id: Id, use: Use, person: Person) -> TokenView:
    """End a token at once."""
    return use.accounts.end_token(token_id, person)


def _entered(entry: Entry, request: Request, response: Response) -> MeView:
    services: Use = request.app.state.services
    old = session_token(request)
    if old and (before := services.sessions.by_session(old)) is not None:
        services.sessions.end(before)  # a browser has one session
    response.set_cookie(
        cookie_name(request.scope),
        entry.token,
        max_age=round(services.sessions.limits.whole.total_seconds()),
        path="/",
        secure=request.url.scheme == "https",
        httponly=True,
        samesite="strict",
    )
    return _me(request, entry.signed_in)


def _me(request: Request, who: SignedIn | None) -> MeView:
    services: Use = request.app.state.services
    visitor = visitor_of(request)
    return MeView(
        person=None if who is None else person_view(who.person),
        may=[] if who is None else [deed for deed in Deed if who.may(deed)],
        is_new=who is None and services.sessions.is_new(),
        demo=services.sessions.demo_people(visitor) if who is None else [],
        running=any(bench.state != "idle" for bench in services.benches.states()),
    )
