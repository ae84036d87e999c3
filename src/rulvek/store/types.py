"""Column types: moments in UTC, words of the core's enumerations, and columns made from a core shape."""

from dataclasses import fields, is_dataclass
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any, get_args, get_type_hints

from pydantic import TypeAdapter
from sqlalchemy import JSON, Boolean, DateTime, Double, Integer, String, TypeDecorator
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import MappedColumn, mapped_column
from sqlalchemy.types import TypeEngine

PLAIN: dict[type, TypeEngine[Any]] = {float: Double(), int: Integer(), bool: Boolean(), str: String(200)}
"""Column types of a shape's plain fields."""


class UtcDateTime(TypeDecorator[datetime]):
    """SQLite forgets time zones; everything is kept in UTC and comes back saying so."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a moment without a time zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.replace(tzinfo=UTC)


class Word(TypeDecorator[StrEnum]):
    """A member of one of the core's enumerations, stored as its word."""

    impl = String(200)
    cache_ok = True

    def __init__(self, kind: type[StrEnum]) -> None:
        super().__init__()
        self.kind = kind

    def process_bind_param(self, value: StrEnum | None, dialect: Dialect) -> str | None:
        return None if value is None else self.kind(value).value

    def process_result_value(self, value: str | None, dialect: Dialect) -> StrEnum | None:
        return None if value is None else self.kind(value)


class Shape(TypeDecorator[Any]):
    """A frozen shape of the core, stored as JSON; fields that came later read as their defaults."""

    impl = JSON
    cache_ok = True

    def __init__(self, kind: type[Any]) -> None:
        super().__init__()
        self.kind = kind
        self._adapter: TypeAdapter[Any] = TypeAdapter(kind)

    def process_bind_param(self, value: Any, dialect: Dialect) -> Any:
        return None if value is None else self._adapter.dump_python(value, mode="json")

    def process_result_value(self, value: Any, dialect: Dialect) -> Any:
        return None if value is None else self._adapter.validate_python(value)


def columns_of(shape: Any) -> list[MappedColumn[Any]]:
    """A column for each field of a frozen core shape, in their order, to be put together again as that shape."""
    if not is_dataclass(shape):
        raise TypeError(f"{shape} is no dataclass")
    hints = get_type_hints(shape)
    return [_column(item.name, hints[item.name]) for item in fields(shape)]


def _column(name: str, hint: Any) -> MappedColumn[Any]:
    kinds = get_args(hint) or (hint,)
    kind = next(one for one in kinds if one is not type(None))
    if issubclass(kind, StrEnum):
        return mapped_column(name, Word(kind), nullable=type(None) in kinds)
    return mapped_column(name, PLAIN[kind], nullable=type(None) in kinds)
