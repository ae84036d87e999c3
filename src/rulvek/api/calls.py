"""The calls of a place of the application."""

from fastapi import APIRouter, Depends

from rulvek.api import errors
from rulvek.api.asking import allowed


class Calls(APIRouter):
    """Calls below ``/api``: each asks who is allowed, and says which errors it answers.

    They are taken by the application as they are. To include a router in another one makes all of its calls anew: what
    each takes and answers is worked out again, which took longer than all else at the start of a server.
    """

    def __init__(self, tag: str) -> None:
        super().__init__(
            prefix="/api",
            tags=[tag],
            responses=errors.RESPONSES,
            dependencies=[Depends(allowed)],
            generate_unique_id_function=lambda route: route.name,
        )
