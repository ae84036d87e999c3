"""Recorded files over HTTP: send one, say what it is, watch it being read, keep it or let it go."""

from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query, Request
from pydantic import Field
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from rulvek.api.bench import RunIn
from rulvek.api.context import Person, Use
from rulvek.api.line import Body
from rulvek.core.errors import BadInput
from rulvek.core.measure.capture import Role
from rulvek.core.planning.wiring import RunSpec
from rulvek.services.views.outside import RecordingView, TypedKept
from rulvek.services.waiting import Setup
from rulvek.store.recordings import MOST_COLUMNS, Row

router = APIRouter(tags=["recordings"])
RecordingId = Annotated[str, Path(pattern="^[0-9a-f]{16}$")]
Quantity = Literal["output_volts", "output_amps", "input_volts", "supply_volts", "supply_amps"]


class RowIn(Body):
    """What a column (counted from 0) is, and the factor that makes volts or amps of its numbers."""

    column: int = Field(ge=0, lt=MOST_COLUMNS)
    quantity: Quantity
    channel: int = Field(0, ge=0, le=16)
    factor: float = Field(1.0, ge=-1e6, le=1e6)


class RecordedIn(Body):
    """What a person says of a recording."""

    unit_id: int = Field(ge=1, le=2**62)
    run: RunIn
    rows: list[RowIn] = Field(min_length=1, max_length=MOST_COLUMNS)
    instrument: str = Field("", max_length=120)
    accuracy_percent: float = Field(1.0, ge=0, le=50)
    load_measured: float | None = Field(None, gt=0.05, le=100)
    time_column: int | None = Field(None, ge=0, lt=MOST_COLUMNS)
    sample_rate: float | None = Field(None, gt=0, le=1e8)
    start_volts: float | None = Field(None, gt=0, le=30)
    loaded_volts: float | None = Field(None, gt=0, le=30)
    amps: float | None = Field(None, ge=0, le=2_000)
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    remark: str = Field("", max_length=2_000)

    def setup(self) -> Setup:
        """As the services know it.

        Raises:
            BadInput: a factor of 0.
        """
        rest = self.model_dump(exclude={"unit_id", "run", "rows"})
        if any(row.factor == 0 for row in self.rows):
            raise BadInput("A factor of 0 makes nothing of a column.", field="rows")
        rows = tuple(Row(row.column, Role(row.quantity, row.channel), row.factor) for row in self.rows)
        return Setup(spec=RunSpec(**self.run.model_dump()), rows=rows, **rest)


@router.post("/recordings", status_code=201)
async def send_recording(
    request: Request, use: Use, name: Annotated[str, Query(min_length=1, max_length=200)]
) -> RecordingView:
    """Take a file in as it is sent, WAV or CSV; it waits until it is read and kept, or let go."""
    arriving = await run_in_threadpool(use.recordings.arriving, name)
    try:
        async for part in request.stream():
            await run_in_threadpool(arriving.write, part)
    except ClientDisconnect:
        arriving.abandon()
        raise BadInput("The file did not arrive in full.", todo="Send it again.", field="file") from None
    except BaseException:
        arriving.abandon()
        raise
    return await run_in_threadpool(arriving.finish)


@router.get("/recordings/{recording_id}")
def get_recording(recording_id: RecordingId, use: Use) -> RecordingView:
    """How far it has come, and what was found."""
    return use.recordings.view(recording_id)


@router.post("/recordings/{recording_id}/read")
def read_recording(recording_id: RecordingId, body: RecordedIn, use: Use) -> RecordingView:
    """Begin to read it, in the background."""
    return use.recordings.read(recording_id, body.unit_id, body.setup())


@router.post("/recordings/{recording_id}/stop")
def stop_recording(recording_id: RecordingId, use: Use) -> RecordingView:
    """Stop reading; the file stays."""
    return use.recordings.stop(recording_id)


@router.delete("/recordings/{recording_id}", status_code=204)
def let_recording_go(recording_id: RecordingId, use: Use) -> None:
    """Delete the file."""
    use.recordings.let_go(recording_id)


@router.post("/recordings/{recording_id}/keep", status_code=201)
def keep_recording(recording_id: RecordingId, use: Use, person: Person) -> TypedKept:
    """Put what was read on record."""
    return TypedKept(attempt_id=use.recordings.keep(recording_id, person))
