"""Recorded files over HTTP: send one, say what it is, watch it being read, keep it or let it go."""

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request
from pydantic import Field
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from rulvek.api.asking import Person, Use
from rulvek.api.schemas import LARGEST_ID, Body
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput
from rulvek.core.quantities import Amps, InstrumentPercent, Ohms, SupplyVolts, Text
from rulvek.core.records.outside import InstrumentName
from rulvek.core.runs.modes import End
from rulvek.core.runs.spec import RunSpec
from rulvek.core.signals.capture import Quantity, Signal
from rulvek.services.outside.inbox import RecordingSetup
from rulvek.services.views.outside import KeptView, RecordingView
from rulvek.store.formats.recorded_files import MOST_COLUMNS, ColumnUse

router = APIRouter(tags=["recordings"])
RecordingId = Annotated[str, Path(pattern="^[0-9a-f]{16}$")]


class RowIn(Body):
    """What a column (counted from 0) is, and the factor that makes volts or amps of its numbers."""

    column: int = Field(ge=0, lt=MOST_COLUMNS)
    quantity: Quantity
    channel: int = Field(0, ge=0, le=16)
    factor: float = Field(1.0, ge=-1e6, le=1e6)


class RecordedIn(Body):
    """What a person says of a recording."""

    unit_id: int = Field(ge=1, le=LARGEST_ID)
    run: RunSpec
    rows: list[RowIn] = Field(min_length=1, max_length=MOST_COLUMNS)
    instrument: InstrumentName = ""
    accuracy_percent: InstrumentPercent = 1.0
    load_measured: Ohms | None = None
    time_column: int | None = Field(None, ge=0, lt=MOST_COLUMNS)
    sample_rate: float | None = Field(None, gt=0, le=1e8)
    start_volts: SupplyVolts | None = None
    loaded_volts: SupplyVolts | None = None
    amps: Amps | None = None
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    remark: Text = ""
    policy: SupplyPolicy = SupplyPolicy.HELD
    read_on: date | None = None
    end: End | None = None

    def setup(self) -> RecordingSetup:
        """As the services know it."""
        rest = {name: getattr(self, name) for name in type(self).model_fields if name not in ("unit_id", "rows")}
        rows = tuple(ColumnUse(row.column, Signal(row.quantity, row.channel), row.factor) for row in self.rows)
        return RecordingSetup(rows=rows, **rest)


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
    file = await run_in_threadpool(arriving.finish)
    return use.recordings.view(file.id)


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
def keep_recording(recording_id: RecordingId, use: Use, person: Person) -> KeptView:
    """Put what was read on record."""
    return KeptView(attempt_id=use.recordings.keep(recording_id, person))
