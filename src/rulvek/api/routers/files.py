"""Files that people bring, and take along again."""

from typing import Annotated

from fastapi import Path, Query, Request
from fastapi.responses import FileResponse
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from rulvek.api.asking import Person, Use
from rulvek.api.calls import Calls
from rulvek.core.errors import BadInput
from rulvek.services.views.kept import FileView

router = Calls("files")
Digest = Annotated[str, Path(pattern="^[0-9a-f]{64}$")]
SHOWN = frozenset({"image/jpeg"})
"""Kinds that a page shows; everything else is only taken along, so that nothing in it runs here."""


@router.post("/files", status_code=201)
async def send_file(
    request: Request, use: Use, person: Person, name: Annotated[str, Query(min_length=1, max_length=200)]
) -> FileView:
    """Take a file in as it is sent: a picture, a PDF, or a WAV recording."""
    try:
        content = await request.body()
    except ClientDisconnect:
        raise BadInput("The file did not arrive in full.", todo="Send it again.", field="file") from None
    return await run_in_threadpool(use.kept_files.take, content, name, person)


@router.get("/files/{sha256}", response_class=FileResponse)
def get_file(sha256: Digest, use: Use) -> FileResponse:
    """A file as it is kept."""
    return _answer(use, sha256, small=False)


@router.get("/files/{sha256}/small", response_class=FileResponse)
def get_thumbnail(sha256: Digest, use: Use) -> FileResponse:
    """A small picture of a picture."""
    return _answer(use, sha256, small=True)


def _answer(use: Use, sha256: str, *, small: bool) -> FileResponse:
    file, path = use.kept_files.path(sha256, small)
    how = "inline" if file.media in SHOWN else "attachment"
    # The bytes never change under this name; a browser may keep them, but only for who is signed in.
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return FileResponse(path, media_type=file.media, filename=file.name, headers=headers, content_disposition_type=how)
