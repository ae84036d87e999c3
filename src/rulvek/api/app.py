"""The application: routers, errors, the built front end."""

import mimetypes
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from functools import cache
from pathlib import Path

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.routing import BaseRoute
from starlette.types import Scope

from rulvek import __version__
from rulvek import settings as configuration
from rulvek.api import errors
from rulvek.api.asking import Arrivals, allowed
from rulvek.api.guard import Guard
from rulvek.api.once import Once
from rulvek.api.patience import Pace
from rulvek.api.request_log import RequestLog
from rulvek.api.routers import ALL
from rulvek.composition import Services, serving
from rulvek.core.errors import NotFound


def create_app(settings: configuration.Settings | None = None) -> FastAPI:
    """Make the application on the configured records, brought to the newest schema, with lost runs ended."""
    settings = settings or configuration.Settings()
    return app_for(serving(settings), settings.web_folder, settings.allowed_hosts)


def app_for(services: Services, web: Path | None = None, hosts: Sequence[str] = ()) -> FastAPI:
    """The application on given services; ``hosts`` are names besides the machine's own that it is asked by."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        yield
        app.state.services.close()

    app = FastAPI(
        title="Rulvek",
        version=__version__,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        lifespan=lifespan,
    )
    app.state.services = services
    app.add_middleware(Once)
    app.add_middleware(GZipMiddleware, minimum_size=2000)
    app.add_middleware(RequestLog)
    app.add_middleware(Arrivals)
    app.add_middleware(Guard, hosts=hosts)
    app.add_middleware(Pace)
    errors.install(app)
    app.router.routes.extend(_calls())
    _serve_front_end(app, web)
    return app


@cache
def _calls() -> Sequence[BaseRoute]:
    """All calls: what each takes and answers is worked out once a process, which takes longer than all else here."""
    api = APIRouter(prefix="/api", responses=errors.RESPONSES, dependencies=[Depends(allowed)])
    for router in ALL:
        api.include_router(router)
    whole = APIRouter(generate_unique_id_function=lambda route: route.name)
    whole.include_router(api)
    return tuple(whole.routes)


class _Assets(StaticFiles):
    """Built files carry a hash in their names, so that a browser may keep them for ever."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        # Packed once, as it was built, not by the server for every visitor.
        is_packed = "gzip" in Headers(scope=scope).get("accept-encoding", "") and self.lookup_path(f"{path}.gz")[1]
        response = await super().get_response(f"{path}.gz" if is_packed else path, scope)
        if is_packed:
            response.headers["Content-Encoding"] = "gzip"
            response.headers["Content-Type"] = mimetypes.guess_type(path)[0] or "application/octet-stream"
            response.headers["Vary"] = "Accept-Encoding"
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def _serve_front_end(app: FastAPI, web: Path | None) -> None:
    @app.api_route("/api/{_rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def no_such_call(_rest: str) -> None:
        raise NotFound("There is no such call.", todo="See /api/openapi.json.")

    if web is None or not (web / "index.html").is_file():

        @app.get("/{_rest:path}", include_in_schema=False)
        def not_built(_rest: str) -> JSONResponse:
            problem = errors.Problem(
                code="not-built", what="The front end is not built.", todo="make build", field=None
            )
            return JSONResponse(problem.model_dump(), status_code=503)

        return
    app.mount("/assets", _Assets(directory=web / "assets"), name="assets")

    @app.get("/theme.js", include_in_schema=False)
    def theme() -> FileResponse:
        # A file, as no page may carry a script in itself.
        return FileResponse(web / "theme.js", headers={"Cache-Control": "no-cache"})

    @app.get("/{_rest:path}", include_in_schema=False)
    def page(_rest: str, request: Request) -> FileResponse:
        # Every address of the front end is the same page; its own router shows the rest.
        headers = {"Cache-Control": "no-cache"}
        if _rest in ("", "line") and not request.url.query:
            # The first page's answer is asked for while its script still comes.
            headers["Link"] = "</api/line?limit=50>; rel=preload; as=fetch; crossorigin=anonymous"
        return FileResponse(web / "index.html", headers=headers)
