"""The one place where errors become responses."""

import math
from collections.abc import Mapping
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from rulvek import malformed
from rulvek.core.errors import (
    BadInput,
    BenchFault,
    Conflict,
    NoRoom,
    NotAllowed,
    NotFound,
    NotSignedIn,
    RulvekError,
    Stale,
    TooSoon,
    Unreadable,
)

STATUS: Mapping[type[RulvekError], int] = {
    BadInput: 422,
    NotFound: 404,
    Conflict: 409,
    Stale: 412,
    NotSignedIn: 401,
    NotAllowed: 403,
    TooSoon: 429,
    Unreadable: 409,
    NoRoom: 507,
    BenchFault: 503,
    RulvekError: 500,
}


class Problem(BaseModel):
    """What every error answers with: a stable code, what happened, what to do, and the field it is about."""

    code: str
    what: str
    todo: str
    field: str | None


RESPONSES: dict[int | str, dict[str, Any]] = {
    401: {"model": Problem, "description": "Nobody is signed in"},
    403: {"model": Problem, "description": "Not allowed to this person, or not from there"},
    404: {"model": Problem, "description": "Not on record"},
    409: {"model": Problem, "description": "Clashes with what is there or going on"},
    412: {"model": Problem, "description": "Changed since it was looked at"},
    413: {"model": Problem, "description": "Too large"},
    415: {"model": Problem, "description": "Not a kind of body that is taken here"},
    421: {"model": Problem, "description": "Asked by a name that this server does not have"},
    422: {"model": Problem, "description": "Cannot be used as it was sent"},
    429: {"model": Problem, "description": "Tried too often"},
    507: {"model": Problem, "description": "The disk of the records is full"},
}


def install(app: FastAPI) -> None:
    """Answer every error of our tree, and every request that does not parse, as a :class:`Problem`."""

    @app.exception_handler(RulvekError)
    async def _ours(_request: Request, error: RulvekError) -> JSONResponse:
        status = next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)
        answer = _answer(status, Problem(code=error.code, what=error.what, todo=error.todo, field=error.field))
        if isinstance(error, TooSoon):
            answer.headers["Retry-After"] = str(math.ceil(error.seconds))
        return answer

    @app.exception_handler(OSError)
    async def _of_the_machine(request: Request, error: OSError) -> JSONResponse:
        if error.errno in NoRoom.ERRNO:
            return await _ours(request, NoRoom())
        return await _fault(request, error)

    @app.exception_handler(Exception)
    async def _fault(_request: Request, error: Exception) -> JSONResponse:
        # What went wrong stands in the log: it may name what is nobody's business.
        problem = Problem(
            code="fault",
            what=f"Rulvek failed at this ({type(error).__name__}): it is a fault of the program, told in its log.",
            todo="What was kept before is whole. Do it again, or tell an admin.",
            field=None,
        )
        return _answer(500, problem)

    @app.exception_handler(RequestValidationError)
    async def _malformed(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        problem = Problem(code=BadInput.code, what=malformed.sentence(first), todo="", field=malformed.field_of(first))
        return _answer(422, problem)

    @app.exception_handler(HTTPException)
    async def _framework(_request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == 400:  # a body that is not even text
            return _answer(422, Problem(code=BadInput.code, what="The request is not valid JSON.", todo="", field=None))
        return _answer(error.status_code, Problem(code="http", what=f"{error.detail}.", todo="", field=None))


def _answer(status: int, problem: Problem) -> JSONResponse:
    return JSONResponse(problem.model_dump(), status_code=status)
