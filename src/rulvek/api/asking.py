"""What every request may need: the services, and who is asking."""

from collections.abc import AsyncIterator
from typing import Annotated
from urllib.parse import unquote

import anyio
from fastapi import Depends, Header, Request
from starlette.types import ASGIApp, Receive, Scope, Send

from rulvek.composition import Services
from rulvek.core.errors import BadInput
from rulvek.core.records.actor import UNNAMED, Actor
from rulvek.services.benches import Arrival

HEAVY_AT_ONCE = 3


class Arrivals:
    """Marks each request as it comes in, before it waits for a thread: an Off after it must win."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http":
            services: Services = scope["app"].state.services
            scope.setdefault("state", {})["arrival"] = services.benches.arrival()
        await self._app(scope, receive, send)


def _services(request: Request) -> Services:
    services: Services = request.app.state.services
    return services


def _person(x_rulvek_person: Annotated[str, Header(description="Who is asking, percent-encoded UTF-8.")] = "") -> Actor:
    name = unquote(x_rulvek_person).strip()
    if not name or len(name) > 80 or not name.isprintable():
        raise BadInput("Say who you are: a name of 1 to 80 characters.", field="person", code="person-missing")
    return Actor(name)


def _person_if_known(x_rulvek_person: Annotated[str, Header()] = "") -> Actor:
    name = unquote(x_rulvek_person).strip()[:80]
    return Actor(name) if name and name.isprintable() else UNNAMED


async def _one_of_few(request: Request) -> AsyncIterator[None]:
    """Heavy pages take turns: a crowd of them must not keep what is urgent from a thread and a core."""
    state = request.app.state
    if not hasattr(state, "heavy"):
        state.heavy = anyio.Semaphore(HEAVY_AT_ONCE)
    async with state.heavy:
        yield


def _arrival(request: Request) -> Arrival:
    arrival: Arrival = request.state.arrival
    return arrival


Use = Annotated[Services, Depends(_services)]
Person = Annotated[Actor, Depends(_person)]
"""Who does something that is stored. Until there are accounts, the name is taken on trust."""
Arrived = Annotated[Arrival, Depends(_arrival)]
"""When the request came in, for what an Off overtakes."""
AnyPerson = Annotated[Actor, Depends(_person_if_known)]
"""For what must never wait for a name: switching off."""
HEAVY = [Depends(_one_of_few)]
"""For routes that work long for their answer."""
