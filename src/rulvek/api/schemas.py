"""What several routers take: identities, pages, reasons."""

from typing import Annotated

from fastapi import Header, Path, Query
from pydantic import BaseModel, ConfigDict

from rulvek.core.errors import BadInput
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.quantities import Identity, Reason

LARGEST_ID = 2**53
Id = Annotated[int, Path(ge=1, le=LARGEST_ID)]
Before = Annotated[int | None, Query(ge=1, le=LARGEST_ID, description="`next` of the page before")]
After = Annotated[int | None, Query(ge=1, le=LARGEST_ID, description="`next` of the page before")]
Limit = Annotated[int, Query(ge=1, le=200)]
Rule = Annotated[
    DecisionRule, Query(description="the decision rule of ILAC-G8 to judge by; left out, each campaign's own")
]
Seen = Annotated[
    str, Header(alias="If-Match", description="the number of the version that was looked at", max_length=40)
]
SeenIfAny = Annotated[
    str | None, Header(alias="If-Match", description="the number of the entry that was looked at", max_length=40)
]


class Body(BaseModel):
    """Base of what only the API takes: what is not known is refused, not dropped."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, str_strip_whitespace=True)


class ReasonIn(Body):
    """Why."""

    reason: Reason = ""


class HandAnswerIn(Body):
    """The question that is answered, and what was read where a number is asked for."""

    question: Identity
    value: float | None = None


def version_seen(seen: str) -> int:
    """The version that an ``If-Match`` names: quoted as HTTP has it, or bare.

    Raises:
        BadInput: it names none.
    """
    digits = seen.strip().removeprefix("W/").strip('"')
    if not digits.isascii() or not digits.isdigit() or len(digits) > 9:
        raise BadInput("If-Match is the number of the version that was looked at.", field="If-Match")
    return int(digits)
