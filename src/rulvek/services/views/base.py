"""What all answers share: their form, their history, their paging.

Watts are per channel (per pair where bridged); THD figures are percent here.
"""

from dataclasses import dataclass
from datetime import datetime
from typing import ClassVar, TypeVar, dataclass_transform

from pydantic import ConfigDict

T = TypeVar("T")


class View:
    """Base of all answers. A number that is not finite is a fault, never an answer: null must not mean two things."""

    __pydantic_config__: ClassVar[ConfigDict] = ConfigDict(allow_inf_nan=False)


@dataclass_transform(kw_only_default=True, frozen_default=True)
def view(cls: type[T]) -> type[T]:
    """A frozen dataclass whose fields are given by name."""
    return dataclass(frozen=True, kw_only=True)(cls)


@view
class HistoryView(View):
    """An entry of the audit chain."""

    at: datetime
    person: str
    action: str
    detail: str
    hash: str


@view
class Page(View):
    """Position in a list: give ``next`` as ``before`` to read on; null at the end."""

    next: int | None
