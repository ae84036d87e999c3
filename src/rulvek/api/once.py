"""A request that is sent twice is done once: by a key of the client's own, its first answer is given again."""

import asyncio
import time
from collections import OrderedDict
from dataclasses import dataclass, field

from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

HEADER = "idempotency-key"
LONGEST_KEY = 100
KEPT_SECONDS = 600.0
MOST_KEPT = 500
MOST_BYTES = 20_000_000
ALWAYS_ACTS = "/api/bench/off"
"""Switching off acts each time that it is asked for."""


@dataclass(slots=True)
class _Asked:
    at: float
    over: asyncio.Event = field(default_factory=asyncio.Event)
    answer: Response | None = None


class Once:
    """Honours ``Idempotency-Key`` on every POST.

    While the first is at work its twins wait; afterwards they get its answer, for ten minutes or until many others came
    after it. A first that failed by a fault of the server may be tried again. The memory is this process's own; a
    restart forgets it.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._asked: OrderedDict[tuple[str, ...], _Asked] = OrderedDict()
        self._bytes = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = Headers(scope=scope) if scope["type"] == "http" and scope["method"] == "POST" else Headers()
        key = headers.get(HEADER, "")[:LONGEST_KEY]
        if not key or scope["path"] == ALWAYS_ACTS:
            await self._app(scope, receive, send)
            return
        mark = (scope["path"], str(scope["query_string"]), headers.get("x-rulvek-person", ""), key)
        while (known := self._asked.get(mark)) is not None:
            await known.over.wait()
            if known.answer is not None:
                await known.answer(scope, receive, send)
                return
        await self._first(mark, scope, receive, send)

    async def _first(self, mark: tuple[str, ...], scope: Scope, receive: Receive, send: Send) -> None:
        asked = _Asked(time.monotonic())
        self._asked[mark] = asked
        self._forget()
        heard: list[Message] = []

        async def hear(message: Message) -> None:
            heard.append(message)
            await send(message)

        try:
            await self._app(scope, receive, hear)
            asked.answer = _answer_of(heard)
        finally:
            if asked.answer is None:
                del self._asked[mark]
            else:
                self._bytes += len(asked.answer.body)
            asked.over.set()

    def _forget(self) -> None:
        oldest = time.monotonic() - KEPT_SECONDS
        for mark, asked in list(self._asked.items()):
            if asked.answer is None:
                continue
            if asked.at > oldest and len(self._asked) <= MOST_KEPT and self._bytes <= MOST_BYTES:
                break
            self._bytes -= len(asked.answer.body)
            del self._asked[mark]


def _answer_of(heard: list[Message]) -> Response | None:
    """An answer to give again; None where it was a fault of the server."""
    body = b"".join(message.get("body", b"") for message in heard if message["type"] == "http.response.body")
    status = next((message["status"] for message in heard if message["type"] == "http.response.start"), 500)
    if status >= 500:
        return None
    answer = Response(body, status)
    answer.raw_headers = [*heard[0]["headers"]]
    return answer
