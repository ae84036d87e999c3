"""The evidence: attempts, their waves, spectra and files."""

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse

from rulvek.api.bench import Before, Limit
from rulvek.api.context import Use
from rulvek.api.line import Id
from rulvek.services.views.evidence import AttemptList, AttemptPage, SpectrumView, WaveView

router = APIRouter(tags=["evidence"])
Channel = Annotated[int, Query(ge=1, le=64)]


@router.get("/attempts")
def list_attempts(
    use: Use, before: Before = None, limit: Limit = 50, model: Annotated[int | None, Query(ge=1, le=2**53)] = None
) -> AttemptList:
    """All attempts, the newest first."""
    return use.evidence.attempts(before, limit, model)


@router.get("/attempts/{attempt_id}")
def get_attempt(attempt_id: Id, use: Use) -> AttemptPage:
    """Everything on one attempt."""
    return use.evidence.attempt(attempt_id)


@router.get("/attempts/{attempt_id}/wave")
def get_wave(
    attempt_id: Id, use: Use, channel: Channel, cycles: Annotated[float, Query(gt=0, le=50)] = 3.0
) -> WaveView:
    """A few cycles of the capture that the reading was taken from."""
    return use.evidence.wave(attempt_id, channel, cycles)


@router.get("/attempts/{attempt_id}/spectrum")
def get_spectrum(attempt_id: Id, use: Use, channel: Channel) -> SpectrumView:
    """The spectrum of the same capture, harmonics marked."""
    return use.evidence.spectrum(attempt_id, channel)


@router.get("/attempts/{attempt_id}/capture.wav", response_class=FileResponse)
def get_capture(attempt_id: Id, use: Use) -> FileResponse:
    """The capture itself: float32 WAV re the full scale in the JSON beside it."""
    path = use.evidence.capture_path(attempt_id)
    return FileResponse(path, media_type="audio/wav", filename=path.name)


@router.get("/attempts/{attempt_id}/original", response_class=FileResponse)
def get_original(attempt_id: Id, use: Use) -> FileResponse:
    """The file that a recorded attempt was read from, as it was sent."""
    path = use.evidence.original_path(attempt_id)
    return FileResponse(path, media_type="application/octet-stream", filename=path.name)
