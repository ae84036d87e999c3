"""The application: routers, errors, the built front end."""

from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import JSONResponse

from rulvek import __version__
from rulvek import settings as configuration
from rulvek.api import errors, metrics
from rulvek.api.asking import Arrivals
from rulvek.api.front_end import FrontEnd
from rulvek.api.guard import Guard
from rulvek.api.once import Once
from rulvek.api.patience import Pace
from rulvek.api.practice_houses import AtPractice
from rulvek.api.request_log import RequestLog
from rulvek.api.routers import ALL
from rulvek.composition import Services, serving
from rulvek.core.errors import NotFound
from rulvek.practising import PracticeHouses


def create_app(settings: configuration.Settings | None = None) -> FastAPI:
    """Make the application on the configured records, brought to the newest schema, with lost runs ended."""
    settings = settings or configuration.Settings()
    return app_for(serving(settings), settings.web_folder, settings.allowed_hosts)


def app_for(services: Services, web: Path | None = None, hosts: Sequence[str] = ()) -> FastAPI:
    """The application on given services; ``hosts`` are names besides the machine's own that it is asked by."""
    houses = PracticeHouses(services)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        yield
        app.state.services.close()  # real benches first
        houses.close()

    app = FastAPI(
        title="Rulvek",
        version=__version__,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        lifespan=lifespan,
    )
    app.state.services = services
    app.state.houses = houses
    app.state.figures = metrics.Figures(services)
    app.add_middleware(Once)
    app.add_middleware(GZipMiddleware, minimum_size=2000)
    app.add_middleware(RequestLog)
    app.add_middleware(Arrivals)
    if web is not None and (web / "index.html").is_file():
        app.add_middleware(FrontEnd, folder=web)
    app.add_middleware(Guard, hosts=hosts)
    app.add_middleware(AtPractice, houses=houses, app_for=lambda own: app_for(own, None, hosts))
    app.add_middleware(Pace)
    errors.install(app)
    for calls in ALL:
        app.router.routes.extend(calls.routes)
    app.include_router(metrics.router)
    _no_other_calls(app)
    return app


def _no_other_calls(app: FastAPI) -> None:
    @app.api_route("/api/{_rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def no_such_call(_rest: str) -> None:
        raise NotFound("There is no such call.", todo="See /api/openapi.json.")

    # Reached only without a front end, which answers every other address.
    @app.get("/{_rest:path}", include_in_schema=False)
    def not_built(_rest: str) -> JSONResponse:
        problem = errors.Problem(code="not-built", what="The front end is not built.", todo="make build", field=None)
        return JSONResponse(problem.model_dump(), status_code=503)
