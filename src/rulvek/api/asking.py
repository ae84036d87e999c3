"""What every request may need: the services, who is asking, and whether they may."""

from collections.abc import AsyncIterator
from typing import Annotated

import anyio
from fastapi import Depends, Request
from fastapi.routing import APIRoute
from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp, Receive, Scope, Send

from rulvek.api.allowed import ALLOWED, PUBLIC
from rulvek.api.guard import cookie_name, is_loopback
from rulvek.composition import Services
from rulvek.core.errors import Conflict, NotAllowed, NotSignedIn
from rulvek.core.records.actor import UNNAMED, Actor
from rulvek.core.records.people import DEED_WORDS, Deed, who_may
from rulvek.practising import PracticeHouses
from rulvek.services.benches import Arrival
from rulvek.services.people import SignedIn, Visitor

HEAVY_AT_ONCE = 3
PRACTISES = "rulvek.practises"
"""In the scope of a request to a practice house: who is in it."""


class Arrivals:
    """Marks each request as it comes in, before it waits for a thread: an Off after it must win."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http":
            services: Services = scope["app"].state.services
            scope.setdefault("state", {})["arrival"] = services.benches.arrival()
        await self._app(scope, receive, send)


# What only looks something up is asynchronous: everything else waits for a thread of the pool first.
async def _services(request: Request) -> Services:
    return services_of(request)


def services_of(request: Request) -> Services:
    """The use cases that the application is made of."""
    services: Services = request.app.state.services
    return services


def session_token(request: Request) -> str:
    """The token of a browser's session; empty without one."""
    return request.cookies.get(cookie_name(request.scope), "")


def signed_in(request: Request) -> SignedIn | None:
    """Who is asking: by a script's token where there is one, else by the browser's session.

    In a practice house it is who came in by the real one.
    """
    if (practises := request.scope.get(PRACTISES)) is not None:
        found: SignedIn = practises
        return found
    sessions = services_of(request).sessions
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    if kind.lower() == "bearer":
        return sessions.by_token(token.strip())
    token = session_token(request)
    return sessions.by_session(token) if token else None


async def allowed(request: Request) -> None:
    """Let a request through whose person may use the call; the one place where that is decided.

    Raises:
        NotSignedIn: nobody is signed in.
        NotAllowed: it takes another role.
    """
    route: APIRoute = request.scope["route"]
    if route.name in PUBLIC:
        return
    who = await run_in_threadpool(signed_in, request)
    if who is None:
        raise NotSignedIn("Nobody is signed in.", todo="Sign in.")
    require(who, *ALLOWED.get(route.name, ()))
    request.state.who = who


def require(who: SignedIn, *deeds: Deed) -> None:
    """Hold somebody to what their roles allow.

    Raises:
        NotAllowed: none of the deeds is.
    """
    if not deeds:
        raise NotAllowed("Nobody may use this call: it has no entry in the table of roles.")
    if not who.may(*deeds):
        raise NotAllowed(
            f"To {DEED_WORDS[deeds[0]]} takes {who_may(*deeds)}.", todo="Ask one, or an admin for the role."
        )


async def _who(request: Request) -> SignedIn:
    who: SignedIn = request.state.who
    return who


async def _person(request: Request) -> Actor:
    who: SignedIn = request.state.who
    return who.actor


async def _person_remembered(request: Request) -> Actor:
    name = services_of(request).sessions.name_remembered(session_token(request))
    return Actor(name) if name else UNNAMED


def visitor_of(request: Request) -> Visitor:
    """Where a request comes from."""
    client = request.client.host if request.client else ""
    behind = any(name in request.headers for name in ("forwarded", "x-forwarded-for", "x-real-ip"))
    local = is_loopback(client) and is_loopback(request.url.hostname or "") and not behind
    return Visitor(client, request.headers.get("user-agent", ""), local)


async def _one_of_few(request: Request) -> AsyncIterator[None]:
    """Heavy pages take turns: a crowd of them must not keep what is urgent from a thread and a core."""
    state = request.app.state
    if not hasattr(state, "heavy"):
        state.heavy = anyio.Semaphore(HEAVY_AT_ONCE)
    async with state.heavy:
        yield


async def _visitor(request: Request) -> Visitor:
    return visitor_of(request)


async def _arrival(request: Request) -> Arrival:
    arrival: Arrival = request.state.arrival
    return arrival


async def _houses(request: Request) -> PracticeHouses:
    if PRACTISES in request.scope:
        raise Conflict("You are at a practice bench already.", todo="Leave it, and open another one.")
    houses: PracticeHouses = request.app.state.houses
    return houses


Use = Annotated[Services, Depends(_services)]
Person = Annotated[Actor, Depends(_person)]
"""Who does something that is stored."""
Who = Annotated[SignedIn, Depends(_who)]
"""Who is asking, with their roles."""
From = Annotated[Visitor, Depends(_visitor)]
"""Where a request comes from."""
Arrived = Annotated[Arrival, Depends(_arrival)]
"""When the request came in, for what an Off overtakes."""
AnyPerson = Annotated[Actor, Depends(_person_remembered)]
"""For what must never wait for a name, nor for the records: switching off."""
Houses = Annotated[PracticeHouses, Depends(_houses)]
"""Practice benches with all that belongs to them."""
HEAVY = [Depends(_one_of_few)]
"""For routes that work long for their answer."""
