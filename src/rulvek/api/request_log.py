"""One line in the log for each request that matters: what failed, and what took long with what it asked."""

import time

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rulvek.api.metrics import Figures
from rulvek.store.statements import asked

log = structlog.get_logger()
SLOW_SECONDS = 1.0
STREAMS = "/events"


class RequestLog:
    """Logs requests that were answered with a fault of the server or after long; the rest is counted in silence."""

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

        with structlog.contextvars.bound_contextvars(method=scope["method"], path=scope["path"]), asked() as sent:
            try:
                await self._app(scope, receive, watch)
            except Exception:
                log.exception("request failed")
                raise
            finally:
                taken, is_stream = time.perf_counter() - begun, scope["path"].endswith(STREAMS)
                if not is_stream:
                    figures: Figures = scope["app"].state.figures
                    figures.note(getattr(scope.get("route"), "name", ""), scope["method"], status or 500, taken)
            if status >= 500:
                log.error("request answered with a fault", status=status)
            elif taken > SLOW_SECONDS and not is_stream:
                log.warning(
                    "slow request",
                    milliseconds=round(1000 * taken),
                    statements=sent.count,
                    statements_milliseconds=round(1000 * sent.seconds),
                    slowest=[f"{1000 * seconds:.0f} ms {words}" for seconds, words in sent.slowest],
                )
