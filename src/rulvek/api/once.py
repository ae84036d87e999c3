"""A request that is sent twice is done once: by a key of the client's own, its first answer is given again."""

import asyncio
import hashlib
import re
from dataclasses import dataclass, field

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rulvek.api.guard import OFF
from rulvek.services.answers import KEPT, Answers
from rulvek.store.answers import Answer

HEADER = "idempotency-key"
LONGEST_KEY = 100
TOLD_ONCE = re.compile(r"/api/(people|people/\d+/(code|opening|tokens)|ratings/\d+/links)")
"""Calls whose answers hold a secret, of which the records keep a hash only: these answers are kept in memory alone."""


@dataclass(slots=True)
class _Asked:
    over: asyncio.Event = field(default_factory=asyncio.Event)
    answer: Answer | None = None


@dataclass(slots=True)
class _Heard:
    """An answer on its way; what it says is taken before others compress it in place."""

    status: int = 500
    content_type: str = ""
    body: bytes = b""

    def take(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.status = message["status"]
            self.content_type = Headers(raw=message["headers"]).get("content-type", "")
        elif message["type"] == "http.response.body":
            self.body += message.get("body", b"")

    def answer(self) -> Answer | None:
        """An answer to give again; None where it was a fault of the server."""
        return None if self.status >= 500 else Answer(self.status, self.content_type, self.body)


class Once:
    """Honours ``Idempotency-Key`` on every POST.

    While the first is at work its twins wait; afterwards they get its answer, for an hour, from the records: also from
    a server that started since, but for what is told once. A first that failed by a fault of the server may be tried
    again.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._asked: dict[str, _Asked] = {}  # what is at work, or answered and not in the records yet

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = Headers(scope=scope) if scope["type"] == "http" and scope["method"] == "POST" else Headers()
        key = headers.get(HEADER, "")[:LONGEST_KEY]
        if not key or scope["path"] == OFF:
            await self._app(scope, receive, send)  # switching off acts each time that it is asked for
            return
        query = scope["query_string"].decode("latin-1")
        mark = "\n".join((scope["path"], query, _whose(headers), key))
        while (known := self._asked.get(mark)) is not None:
            await known.over.wait()
            if known.answer is not None:
                await _respond(known.answer, scope, receive, send)
                return
        await self._first(mark, scope, receive, send)

    async def _first(self, mark: str, scope: Scope, receive: Receive, send: Send) -> None:
        asked = self._asked[mark] = _Asked()
        answers: Answers = scope["app"].state.services.answers
        heard = _Heard()

        async def hear(message: Message) -> None:
            heard.take(message)
            await send(message)

        try:
            if (before := await run_in_threadpool(answers.given, mark)) is not None:
                await _respond(before, scope, receive, send)
                return
            await self._app(scope, receive, hear)
            asked.answer = heard.answer()
            if asked.answer is not None and TOLD_ONCE.fullmatch(scope["path"]):
                asyncio.get_running_loop().call_later(KEPT.total_seconds(), self._forget, mark, asked)
            elif asked.answer is not None:
                answers.keep(mark, asked.answer, lambda: self._forget(mark, asked))
        finally:
            if asked.answer is None:
                self._forget(mark, asked)
            asked.over.set()

    def _forget(self, mark: str, asked: _Asked) -> None:
        if self._asked.get(mark) is asked:
            del self._asked[mark]


async def _respond(answer: Answer, scope: Scope, receive: Receive, send: Send) -> None:
    await Response(answer.body, answer.status, media_type=answer.content_type)(scope, receive, send)


def _whose(headers: Headers) -> str:
    """Whose request it is, without keeping what they prove it with: nobody is given another's answer."""
    secret = headers.get("authorization") or headers.get("cookie", "")
    return hashlib.sha256(secret.encode()).hexdigest() if secret else ""
