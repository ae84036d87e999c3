"""One line in the log for each request that matters: what failed, and what took long."""

import time

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = structlog.get_logger()
SLOW_SECONDS = 1.0
STREAMS = "/events"


class RequestLog:
    """Logs requests that were answered with a fault of the server or after long; the rest is silence."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        begun, status = time.perf_counter(), 0

        async def watch(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
            await send(message)

        with structlog.contextvars.bound_contextvars(method=scope["method"], path=scope["path"]):
            try:
                await self._app(scope, receive, watch)
            except Exception:
                log.exception("request failed")
                raise
            taken = time.perf_counter() - begun
            if status >= 500:
                log.error("request answered with a fault", status=status)
            elif taken > SLOW_SECONDS and not scope["path"].endswith(STREAMS):
                log.warning("slow request", milliseconds=round(1000 * taken))
