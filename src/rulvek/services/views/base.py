"""What all answers share: their form, their history, their paging.

Watts are per channel (per pair where bridged); THD figures are percent here.
"""

from dataclasses import dataclass
from datetime import datetime
from typing import ClassVar, TypeVar, dataclass_transform

from pydantic import ConfigDict

from rulvek.core.records.actor import Actor

T = TypeVar("T")


ANSWERED = ConfigDict(allow_inf_nan=False, json_schema_serialization_defaults_required=True)
"""What an answer tells Pydantic, whatever shape of the core it is made from."""


class View:
    """Base of all answers. A number that is not finite is a fault, never an answer: null must not mean two things."""

    __pydantic_config__: ClassVar[ConfigDict] = ANSWERED


@dataclass_transform(kw_only_default=True, frozen_default=True)
def view(cls: type[T]) -> type[T]:
    """A frozen dataclass whose fields are given by name."""
    cls.__pydantic_config__ = ANSWERED  # type: ignore[attr-defined]  # also where it extends a shape of the core
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


def history_view(at: datetime, actor: Actor, action: str, text: str, digest: str) -> HistoryView:
    """An entry of the audit chain, as people see it."""
    return HistoryView(at=at, person=actor.words, action=action, detail=text, hash=digest)
