"""How long and how large a request may be before anything is done for it: its headers, and the pace of its body."""

import asyncio
from typing import Any

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEADERS_SECONDS = 10.0
MOST_HEADER_BYTES = 64 * 2**10
BODY_SECONDS = 30.0
"""Until more of a body comes: a file over a slow line comes slowly, but it comes."""
_LATE = b"HTTP/1.1 408 Request Timeout\r\nConnection: close\r\nContent-Length: 0\r\n\r\n"
_LARGE = b"HTTP/1.1 431 Request Header Fields Too Large\r\nConnection: close\r\nContent-Length: 0\r\n\r\n"


class PatientProtocol(HttpToolsProtocol):
    """Hangs up on whoever does not get to the end of a request's headers."""

    _begun = False
    _header_bytes = 0
    _timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        if self._timer is None and not self._in_body():
            self._wait()
        if self._timer is not None:
            self._header_bytes += len(data)
        super().data_received(data)
        if self._timer is not None and self._header_bytes > MOST_HEADER_BYTES:
            self._hang_up(_LARGE)

    def on_headers_complete(self) -> None:
        self._at_ease()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        self._at_ease()
        super().connection_lost(exc)

    def _in_body(self) -> bool:
        return self.cycle is not None and self.cycle.more_body

    def _wait(self) -> None:
        self._header_bytes = 0
        self._timer = self.loop.call_later(HEADERS_SECONDS, self._hang_up, _LATE)

    def _at_ease(self) -> None:
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None

    def _hang_up(self, words: bytes) -> None:
        self._at_ease()
        if not self.transport.is_closing():
            self.transport.write(words)
            self.transport.close()


class Pace:
    """Gives up on a body of which nothing comes any more."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        whole = scope["type"] != "http"

        async def in_time() -> Message:
            nonlocal whole
            if whole:
                return await receive()
            try:
                message = await asyncio.wait_for(receive(), BODY_SECONDS)
            except TimeoutError:
                raise HTTPException(408, f"Nothing more of the request came for {BODY_SECONDS:g} s") from None
            whole = not message.get("more_body", False)
            return message

        await self._app(scope, in_time, send)
