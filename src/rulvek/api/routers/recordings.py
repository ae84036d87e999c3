"""Recorded files over HTTP: send one, say what it is, watch it being read, keep it or let it go."""

from typing import Annotated

from fastapi import Path, Query, Request
from starlette.concurrency import run_in_threadpool

from rulvek.api.asking import Person, Use
from rulvek.api.calls import Calls
from rulvek.api.receiving import received
from rulvek.api.schemas import LARGEST_ID
from rulvek.services.outside.inbox import RecordingSetup
from rulvek.services.views.outside import KeptView, RecordingView

router = Calls("recordings")
RecordingId = Annotated[str, Path(pattern="^[0-9a-f]{16}$")]
UnitId = Annotated[int, Query(ge=1, le=LARGEST_ID)]


@router.post("/recordings", status_code=201)
async def send_recording(
    request: Request, use: Use, person: Person, name: Annotated[str, Query(min_length=1, max_length=200)]
) -> RecordingView:
    """Take a file in as it is sent, WAV or CSV; it waits until it is read and kept, or let go."""
    arriving = await run_in_threadpool(use.recordings.arriving, name, person)
    await received(request, arriving)
    file = await run_in_threadpool(arriving.finish)
    return use.recordings.view(file.id)


@router.get("/recordings/{recording_id}")
def get_recording(recording_id: RecordingId, use: Use) -> RecordingView:
    """How far it has come, and what was found."""
    return use.recordings.view(recording_id)


@router.post("/recordings/{recording_id}/read")
def read_recording(recording_id: RecordingId, unit_id: UnitId, body: RecordingSetup, use: Use) -> RecordingView:
    """Begin to read it, in the background, as a run of a unit."""
    return use.recordings.read(recording_id, unit_id, body)


@router.post("/recordings/{recording_id}/stop")
def stop_recording(recording_id: RecordingId, use: Use) -> RecordingView:
    """Stop reading; the file stays."""
    return use.recordings.stop(recording_id)


@router.delete("/recordings/{recording_id}", status_code=204)
def let_recording_go(recording_id: RecordingId, use: Use) -> None:
    """Delete the file."""
    use.recordings.let_go(recording_id)


@router.post("/recordings/{recording_id}/keep", status_code=201)
def keep_recording(recording_id: RecordingId, use: Use, person: Person) -> KeptView:
    """Put what was read on record."""
    return KeptView(attempt_id=use.recordings.keep(recording_id, person))
