"""Readings by hand over HTTP."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from rulvek.api.bench import RunIn
from rulvek.api.context import Person, Use
from rulvek.api.line import Body, Id
from rulvek.core.measure.steps import End
from rulvek.core.planning.wiring import RunSpec
from rulvek.services.second import NewSecond
from rulvek.services.typed import TypedChannel, TypedReading
from rulvek.services.views.evidence import AttemptPage
from rulvek.services.views.outside import TypedKept, TypedView

router = APIRouter(tags=["typed"])
Watts = Annotated[float | None, Field(ge=0, le=100_000)]
Volts = Annotated[float | None, Field(ge=0, le=1_000)]


class TypedChannelIn(Body):
    """What was read of one channel or pair; one of the three is enough."""

    watts: Watts = None
    volts_rms: Volts = None
    volts_peak: Volts = None


class TypedIn(Body):
    """A reading as a technician writes it down."""

    run: RunIn
    channels: list[TypedChannelIn] = Field(min_length=1, max_length=16)
    instrument: str = Field("", max_length=120)
    accuracy_percent: float = Field(1.0, ge=0, le=50)
    load_measured: float | None = Field(None, gt=0.05, le=100)
    start_volts: float | None = Field(None, gt=0, le=30)
    loaded_volts: float | None = Field(None, gt=0, le=30)
    amps: float | None = Field(None, ge=0, le=2_000)
    charger_amps: float | None = Field(None, ge=0, le=2_000)
    start_watts: float | None = Field(None, ge=0, le=100_000)
    sink_c: float | None = Field(None, ge=-40, le=200)
    thd_n_percent: float | None = Field(None, ge=0, le=100)
    end: End = End.LIMIT
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    remark: str = Field("", max_length=2_000)

    def reading(self) -> TypedReading:
        """As the services know it."""
        rest = self.model_dump(exclude={"run", "channels"})
        channels = tuple(TypedChannel(**channel.model_dump()) for channel in self.channels)
        return TypedReading(spec=RunSpec(**self.run.model_dump()), channels=channels, **rest)


@router.post("/units/{unit_id}/typed/preview")
def preview(unit_id: Id, body: TypedIn, use: Use) -> TypedView:
    """Work a reading out as it is typed; nothing is kept."""
    return use.typed.preview(unit_id, body.reading())


@router.post("/units/{unit_id}/typed", status_code=201)
def keep(unit_id: Id, body: TypedIn, use: Use, person: Person) -> TypedKept:
    """Put a typed reading on record."""
    return TypedKept(attempt_id=use.typed.keep(unit_id, body.reading(), person))


class SecondChannelIn(Body):
    """What another instrument read of one channel or pair; one of the two is enough."""

    channel: int = Field(ge=1, le=16)
    watts: Watts = None
    volts_rms: Volts = None


class SecondIn(Body):
    """Another instrument's reading of an attempt."""

    instrument: str = Field("", max_length=120)
    accuracy_percent: float = Field(1.0, ge=0, le=50)
    channels: list[SecondChannelIn] = Field(min_length=1, max_length=16)


@router.post("/attempts/{attempt_id}/second", status_code=201)
def add_second(attempt_id: Id, body: SecondIn, use: Use, person: Person) -> AttemptPage:
    """Keep what another instrument read at the same attempt."""
    channels = [NewSecond(**channel.model_dump()) for channel in body.channels]
    use.second.add(attempt_id, body.instrument, body.accuracy_percent, channels, person)
    return use.evidence.attempt(attempt_id)
