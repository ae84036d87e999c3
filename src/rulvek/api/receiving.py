"""Taking a large file in as it is sent, so that none of it is ever in memory as a whole."""

from typing import Protocol

from fastapi import Request
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from rulvek.core.errors import BadInput


class Arriving(Protocol):
    """A file that grows."""

    def write(self, part: bytes) -> None:
        """Add a part."""

    def abandon(self) -> None:
        """It will not be complete."""


async def received(request: Request, arriving: Arriving) -> None:
    """Hand the body over as it comes; of one that does not come in full nothing stays.

    Raises:
        BadInput: it did not arrive in full, or grew beyond what is taken.
    """
    try:
        async for part in request.stream():
            await run_in_threadpool(arriving.write, part)
    except ClientDisconnect:
        arriving.abandon()
        raise BadInput("The file did not arrive in full.", todo="Send it again.", field="file") from None
    except BaseException:
        arriving.abandon()
        raise
