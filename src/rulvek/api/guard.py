"""What is refused before anybody is asked who they are: foreign hosts and pages, bodies of a wrong kind or size."""

from collections.abc import Sequence
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

CHANGING = frozenset({"POST", "PUT", "PATCH", "DELETE"})
OFF = "/api/bench/off"
LOOPBACK = frozenset({"localhost", "127.0.0.1", "::1"})
FORMS = ("text/plain", "application/x-www-form-urlencoded", "multipart/form-data")
"""What a foreign page can send without asking first."""
MOST_BYTES = 4 * 2**20
"""Of a body, unless its call says otherwise; a table of 5,000 rows is 2 MB."""
MOST_FIELDS = 50_000
"""Colons in a body that is no file: each field has one, and every other request waits while they are told apart."""
LARGE: Sequence[tuple[str, int]] = (
    ("/api/recordings", 512 * 2**20),
    ("/api/bundles", 2 * 2**30),
    ("/api/files", 41 * 2**20),
    ("/api/line/workbook", 9 * 2**20),
)
"""Calls that take files, by how their path begins."""
PAGE_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",  # the component library puts its style sheets in as it needs them
        "font-src 'self'",
        "img-src 'self' data: blob:",
        "connect-src 'self'",
        "form-action 'none'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "Content-Security-Policy": PAGE_POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def is_loopback(name: str) -> bool:
    """Whether a host or an address is this machine itself.

    >>> is_loopback("127.0.0.1"), is_loopback("bench.lab")
    (True, False)
    """
    return name.lower().strip("[]") in LOOPBACK


def cookie_name(scope: Scope) -> str:
    """The session's cookie. Browsers share cookies between ports, so that two servers of a machine need two names."""
    return f"rulvek_session_{(scope.get('server') or ('', 0))[1]}"


class Guard:
    """Refuses what no page of ours and no honest script would send, and says how browsers must treat every answer."""

    def __init__(self, app: ASGIApp, hosts: Sequence[str] = ()) -> None:
        """``hosts`` are names besides this machine's own under which the server may be asked."""
        self._app = app
        self._hosts = frozenset(host.lower() for host in hosts) | LOOPBACK

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        is_call = scope["path"].startswith("/api/")

        async def marked(message: Message) -> None:
            if message["type"] == "http.response.start":
                answer = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    answer.setdefault(name, value)
                if is_call:
                    answer.setdefault("Cache-Control", "no-store")
            await send(message)

        refused = self._refusal(scope, headers)
        if refused is not None:
            await refused(scope, receive, marked)
            return
        most = _most(scope["path"])
        taken = fields = 0

        async def limited() -> Message:
            nonlocal taken, fields
            message = await receive()
            if message["type"] == "http.request":
                body = message.get("body", b"")
                taken, fields = taken + len(body), fields + body.count(b":")
                if taken > most:
                    raise HTTPException(413, _too_much(most))
                if most == MOST_BYTES and fields > MOST_FIELDS:
                    raise HTTPException(413, f"That has more than the {MOST_FIELDS:,} fields that are taken here")
            return message

        await self._app(scope, limited, marked)

    def _refusal(self, scope: Scope, headers: Headers) -> JSONResponse | None:
        host = urlsplit(f"//{headers.get('host', '')}")
        if (host.hostname or "") not in self._hosts:
            what = "This server does not go by that name."
            return refusal(421, "wrong-host", what, "Name it in RULVEK_HOSTS, or use the name it has.")
        if scope["method"] not in CHANGING:
            return None
        if headers.get("content-type", "").split(";")[0].strip().lower() in FORMS:
            return refusal(415, "wrong-kind", "A call takes JSON, or a file as it is.")
        if _could_be_forged(scope["path"], headers) and not _is_own_page(headers, host.netloc):
            return refusal(403, "foreign-page", "This was asked for by a page of another site.")
        length = headers.get("content-length", "")
        most = _most(scope["path"])
        if length.isdigit() and int(length) > most:
            return refusal(413, "too-large", f"{_too_much(most)}.")
        return None


def _could_be_forged(path: str, headers: Headers) -> bool:
    """Whether a foreign page could make a browser send this: it sends cookies by itself, but never a script's token.

    Coming in would be a gift of somebody else's session; switching off is never refused.
    """
    if path == OFF:
        return False
    return ("cookie" in headers and "authorization" not in headers) or path.startswith("/api/sign-in")


def _is_own_page(headers: Headers, netloc: str) -> bool:
    """Whether a request says that a page of this server made it: browsers say so and pages cannot lie about it."""
    site = headers.get("sec-fetch-site")
    if site is not None:
        return site == "same-origin"
    origin = headers.get("origin")
    return origin is not None and urlsplit(origin).netloc == netloc


def _most(path: str) -> int:
    return next((most for start, most in LARGE if path.startswith(start)), MOST_BYTES)


def _too_much(most: int) -> str:
    return f"That is more than the {most // 2**20} MB that are taken here"


def refusal(status: int, code: str, what: str, todo: str = "") -> JSONResponse:
    """What is answered before any call is reached."""
    return JSONResponse({"code": code, "what": what, "todo": todo, "field": None}, status_code=status)
