"""Calls to a practice house, at an address of its own: answered by the same calls on the house's own records."""

import re
from collections.abc import Callable
from weakref import WeakKeyDictionary

from fastapi import FastAPI
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.types import ASGIApp, Receive, Scope, Send

from rulvek.api.asking import PRACTISES, signed_in
from rulvek.api.guard import refusal
from rulvek.composition import Services
from rulvek.core.errors import Conflict, NotFound
from rulvek.practising import PracticeHouse, PracticeHouses

AT = re.compile(r"/practice-bench/([1-9][0-9]{0,8})(/api/.*)")


class AtPractice:
    """Hands a call on to the house that its address names, in the name of whoever is signed in here."""

    def __init__(self, app: ASGIApp, houses: PracticeHouses, app_for: Callable[[Services], FastAPI]) -> None:
        self._app, self._houses, self._app_for = app, houses, app_for
        self._apps: WeakKeyDictionary[PracticeHouse, FastAPI] = WeakKeyDictionary()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        found = AT.fullmatch(scope["path"]) if scope["type"] == "http" else None
        if found is None:
            await self._app(scope, receive, send)
            return
        try:
            house = await run_in_threadpool(self._house, Request(scope), int(found[1]))
        except (NotFound, Conflict) as failure:
            status = 404 if isinstance(failure, NotFound) else 409
            await refusal(status, failure.code, failure.what, failure.todo)(scope, receive, send)
            return
        inner = dict(scope, path=found[2], raw_path=found[2].encode())
        if house is None or found[2].startswith("/api/sign-"):  # one comes in and goes out by the real house alone
            await self._app(inner, receive, send)
            return
        app = self._apps.get(house) or self._apps.setdefault(house, self._app_for(house.services))
        await app(inner | {"app": app, "state": {}, PRACTISES: house.who}, receive, send)

    def _house(self, request: Request, job_id: int) -> PracticeHouse | None:
        who = signed_in(request)
        return None if who is None else self._houses.enter(job_id, who.actor)
