"""Revisions of a model and the lots it was made in."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Le

from rulvek.core.quantities import ENTERED, Name, Text

LotSize = Annotated[int, Ge(1), Le(10_000_000)]


@dataclass(frozen=True, slots=True)
class RevisionEntry:
    """A revision of a model: what changed, and since when it is made so."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    changed: Text = ""
    since: date | None = None


@dataclass(frozen=True, slots=True)
class LotEntry:
    """A lot: of which revision, when it was made, and how many; None where it is not known."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Name
    revision: Name = ""
    made_on: date | None = None
    count: LotSize | None = None
    remarks: Text = ""
