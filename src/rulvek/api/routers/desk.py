"""The desk's calculators over HTTP."""

import io
from typing import Annotated

from fastapi import Path, Query
from pydantic import Field
from starlette.responses import Response

from rulvek.api.asking import Use
from rulvek.api.calls import Calls
from rulvek.api.downloads import download
from rulvek.api.schemas import Body
from rulvek.core.quantities import Name
from rulvek.core.signals.bursts import BURSTS
from rulvek.services.desk import ToneSpec, write_tone
from rulvek.services.views.desk import CalculatorView, ComposedView, ResultView

router = Calls("desk")


class ValuesIn(Body):
    """What was typed into a calculator, by field."""

    values: dict[Annotated[str, Field(max_length=40)], float] = Field(max_length=20)


@router.get("/desk")
def list_calculators(use: Use) -> list[CalculatorView]:
    """All calculators with their formulas, sources and fields."""
    return use.desk.calculators()


class ComposeIn(Body):
    """A wanted load and the resistors on the shelf, as “4 × 4 Ω 500 W; 2 × 8 Ω 300 W”."""

    shelf: str = Field("", max_length=500, description="empty for the bench's own")
    ohms: float = Field(gt=0, le=1000)
    watts: float = Field(gt=0, le=100_000)
    tolerance: float = Field(2.0, gt=0, le=50, description="percent")
    bench: Name | None = Field(None, description="whose boxes, where no shelf is typed; the first one's without it")


@router.post("/desk/loads/networks")
def compose_load(body: ComposeIn, use: Use) -> ComposedView:
    """The best networks of a shelf's resistors for a wanted value and power."""
    return use.desk.compose(body.shelf, body.ohms, body.watts, body.tolerance, body.bench)


@router.get("/desk/bursts")
def list_bursts() -> list[str]:
    """The burst profiles by name, as a tone can be made of."""
    return list(BURSTS)


@router.get("/desk/tone.wav", response_class=Response)
def save_tone(
    hz: Annotated[float, Query(ge=1, le=90_000)] = 1000.0,
    seconds: Annotated[float, Query(gt=0, le=300)] = 10.0,
    level: Annotated[list[float] | None, Query(max_length=60, description="peak, dB re full scale")] = None,
    rate: Annotated[int, Query(ge=8_000, le=192_000)] = 48_000,
    depth: Annotated[str, Query(max_length=10)] = "pcm24",
    burst: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """A test tone to play from any source: a sine, a stepped sine, or bursts; WAV."""
    out = io.BytesIO()
    write_tone(out, ToneSpec(hz, seconds, tuple(level or [0.0]), rate, depth, burst))
    name = f"{burst or f'{hz:g} Hz'}.wav".replace(" ", "-")
    return download(out.getvalue(), "audio/wav", name)


@router.post("/desk/{name}")
def work_out(name: Annotated[str, Path(max_length=40)], body: ValuesIn, use: Use) -> list[ResultView]:
    """Work a calculator out; nothing is kept."""
    return use.desk.work(name, body.values)
