"""The built front end, answered from memory: a first visit asks for a dozen files at once."""

import gzip
import mimetypes
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

FIRST_ANSWER = "</api/line?limit=50>; rel=preload; as=fetch; crossorigin=anonymous"
"""The first page's answer is asked for while its script still comes."""
CALLS = ("/api/", "/metrics")
"""What no page is shown at."""
FOR_EVER = "public, max-age=31536000, immutable"
"""Built files carry a hash in their names."""


@dataclass(frozen=True)
class _File:
    """One file as it is sent; ``packed`` where a browser may have it smaller."""

    kind: str
    plain: bytes
    packed: bytes | None
    keep: str

    def answer(self, headers: Headers) -> Response:
        answer = Response(self.plain, media_type=self.kind, headers={"Cache-Control": self.keep})
        if self.packed is not None:
            answer.headers["Vary"] = "Accept-Encoding"
            if "gzip" in headers.get("accept-encoding", ""):
                answer = Response(self.packed, media_type=self.kind, headers=dict(answer.headers))
                answer.headers["Content-Encoding"] = "gzip"
                answer.headers["Content-Length"] = str(len(self.packed))
        return answer


class FrontEnd:
    """Answers what is no call: a built file by its name, and the one page at every other address."""

    def __init__(self, app: ASGIApp, folder: Path) -> None:
        self._app = app
        self._files = _read(folder)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope.get("path", "")
        if scope["type"] != "http" or scope["method"] not in ("GET", "HEAD") or path.startswith(CALLS):
            await self._app(scope, receive, send)
            return
        await self._found(path, scope)(scope, receive, send)

    def _found(self, path: str, scope: Scope) -> Response:
        headers = Headers(scope=scope)
        if path in self._files:
            return self._files[path].answer(headers)
        if path.startswith("/assets/"):
            return Response(status_code=404)
        # Every other address of the front end is the same page; its own router shows the rest.
        page = self._files["/index.html"].answer(headers)
        if path in ("/", "/line") and not scope["query_string"]:
            page.headers["Link"] = FIRST_ANSWER
        return page


@cache
def _read(folder: Path) -> dict[str, _File]:
    """All files by the path that they are asked by, read once a process."""
    files = {}
    for file in folder.rglob("*"):
        if not file.is_file() or file.suffix == ".gz":
            continue
        packed = file.with_name(f"{file.name}.gz")
        path = f"/{file.relative_to(folder).as_posix()}"
        plain = file.read_bytes()
        is_text = file.suffix in (".js", ".css")
        files[path] = _File(
            mimetypes.guess_type(file.name)[0] or "application/octet-stream",
            plain,
            # Packed when it was built; one that was not is packed here, once.
            (packed.read_bytes() if packed.is_file() else gzip.compress(plain)) if is_text else None,
            FOR_EVER if path.startswith("/assets/") else "no-cache",
        )
    return files
