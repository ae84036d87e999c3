"""The desk's calculators over HTTP."""

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import Field

from rulvek.api.context import Use
from rulvek.api.line import Body
from rulvek.services.views import CalculatorView, ResultView

router = APIRouter(tags=["desk"])


class ValuesIn(Body):
    """What was typed into a calculator, by field."""

    values: dict[Annotated[str, Field(max_length=40)], float] = Field(max_length=20)


@router.get("/desk")
def list_calculators(use: Use) -> list[CalculatorView]:
    """All calculators with their formulas, sources and fields."""
    return use.desk.calculators()


@router.post("/desk/{name}")
def work_out(name: Annotated[str, Path(max_length=40)], body: ValuesIn, use: Use) -> list[ResultView]:
    """Work a calculator out; nothing is kept."""
    return use.desk.work(name, body.values)
