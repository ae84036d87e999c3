"""Physical bounds of what people and files bring in, in one place: every way in refuses by these and by no others.

A shape that is entered declares its fields with them, as ``watts: Watts``; :func:`refuse_out_of_bounds` holds a made
shape to its own declaration, and frameworks that read ``annotated_types`` refuse by the same bounds before it is made.
Nothing that reads 0, is denormal, infinite or no number passes where it could be divided by.
"""

import math
import re
import unicodedata
from dataclasses import fields, is_dataclass
from datetime import date
from functools import cache
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from annotated_types import Ge, Gt, Le, Len, Lt, Predicate

from rulvek.core.errors import BadInput

Watts = Annotated[float, Ge(0.001), Le(100_000)]
"""Output of a channel or a pair; a milliwatt is the least that is a reading."""
Volts = Annotated[float, Ge(0.001), Le(1_000)]
"""At a load, rms or peak."""
SupplyVolts = Annotated[float, Ge(1), Le(30)]
Ohms = Annotated[float, Ge(0.05), Le(100)]
Amps = Annotated[float, Ge(0), Le(2_000)]
Hertz = Annotated[float, Ge(10), Le(20_000)]
BandHertz = Annotated[float, Ge(1), Le(200_000)]
Percent = Annotated[float, Ge(0.0001), Le(100)]
Share = Annotated[float, Ge(0), Le(100)]
"""Percent that may be nothing."""
InstrumentPercent = Annotated[float, Ge(0), Le(50)]
Celsius = Annotated[float, Ge(-40), Le(250)]
Size = Annotated[float, Ge(0), Le(1_000_000)]
Identity = Annotated[int, Ge(1), Le(2**53)]
Channel = Annotated[int, Ge(1), Le(64)]


def is_one_line(text: str) -> bool:
    """Whether every character of a text shows, and none ends its line.

    >>> is_one_line("4 Ω, “left”"), is_one_line("left\\nright"), is_one_line("left\\0")
    (True, False, False)
    """
    return text.isprintable() or not any(unicodedata.category(one) in _UNSEEN for one in text)


def is_plain(text: str) -> bool:
    """The same of a text that may have several lines."""
    return is_one_line(text.translate(_LINE_ENDS))


_UNSEEN = frozenset({"Cc", "Cs", "Zl", "Zp"})
_LINE_ENDS = dict.fromkeys(map(ord, "\n\r\t"), " ")
Name = Annotated[str, Len(0, 80), Predicate(is_one_line)]
InstrumentName = Annotated[str, Len(0, 120), Predicate(is_one_line)]
Title = Annotated[str, Len(0, 200), Predicate(is_one_line)]
Reason = Annotated[str, Len(0, 500), Predicate(is_plain)]
Text = Annotated[str, Len(0, 2_000), Predicate(is_plain)]

UNSEEN = "holds a character that no page can show, or a line end where one line is asked"

EARLIEST = date(1950, 1, 1)
"""No power amplifier for vehicles is older."""

ENTERED = {"extra": "forbid", "allow_inf_nan": False, "str_strip_whitespace": True}
"""What a shape that is entered tells Pydantic: what is not known is refused, not dropped."""


_TYPED_NUMBER = re.compile(r"[+-]?([0-9]+([.,][0-9]*)?|[.,][0-9]+)([eE][+-]?[0-9]{1,3})?")


def typed_number(text: str) -> float:
    """A number as people type it: with a decimal point or comma, without signs between thousands.

    >>> typed_number("2,67"), typed_number("−9"), typed_number("1.2e3")
    (2.67, -9.0, 1200.0)

    Raises:
        ValueError: it is none, or a float cannot hold it.
    """
    said = re.sub(r"[−–]", "-", text.strip())
    value = float(said.replace(",", ".")) if _TYPED_NUMBER.fullmatch(said) else math.nan
    if not math.isfinite(value):
        raise ValueError(f"no number: {text[:40]}")
    return value


def refuse_out_of_bounds(shape: Any, named: str = "") -> None:
    """Hold a dataclass, and those in it, to the bounds that its fields declare.

    Args:
        named: Goes before the fields' names, as in "channels.1.".

    Raises:
        BadInput: the first field that is out of its bounds, by name and with the bound.
    """
    kind: Any = type(shape)
    for name, own, of_each in _declared(kind):
        value = getattr(shape, name)
        is_many = isinstance(value, tuple | list)
        if is_many:
            _refuse(value, own, f"{named}{name}")
        for place, one in _each(value, name):
            if is_dataclass(one) and not isinstance(one, type):
                refuse_out_of_bounds(one, f"{named}{place}.")
            elif one is not None:
                _refuse(one, of_each if is_many else own, f"{named}{place}")


def refuse_impossible_day(day: date, today: date, field: str) -> None:
    """A day on which something was read or calibrated.

    Raises:
        BadInput: it has not come yet, or lies before there was anything to read.
    """
    if day > today:
        raise BadInput(f"{day.isoformat()} has not come yet.", field=field)
    if day < EARLIEST:
        raise BadInput(f"{day.isoformat()} is too long ago to be right.", field=field)


def _each(value: Any, name: str) -> list[tuple[str, Any]]:
    if isinstance(value, tuple | list):
        return [(f"{name}.{index}", one) for index, one in enumerate(value)]
    return [(name, value)]


Bounds = tuple[Any, ...]


@cache
def _declared(kind: Any) -> tuple[tuple[str, Bounds, Bounds], ...]:
    hints = get_type_hints(kind, include_extras=True)
    return tuple((item.name, *_bounds_of(hints[item.name])) for item in fields(kind))


def _bounds_of(hint: Any) -> tuple[Bounds, Bounds]:
    """Bounds that a type declares, of an optional value too: its own, and those of each of many."""
    if get_origin(hint) is Annotated:
        inner, *notes = get_args(hint)
        own, of_each = _bounds_of(inner)
        return (*own, *notes), of_each
    found = [_bounds_of(inner) for inner in get_args(hint)]
    own = tuple(bound for bounds, _ in found for bound in bounds)
    if get_origin(hint) in (tuple, list):
        return (), own
    return own, tuple(bound for _, bounds in found for bound in bounds)


def _refuse(value: Any, bounds: tuple[Any, ...], field: str) -> None:
    if isinstance(value, float) and not math.isfinite(value):
        raise BadInput(f"{field} must be a finite number.", field=field)
    for bound in bounds:
        match bound:
            case Ge(ge=low) if value < low:
                wrong = f"at least {low:g}"
            case Gt(gt=low) if value <= low:
                wrong = f"above {low:g}"
            case Le(le=high) if value > high:
                wrong = f"at most {high:g}"
            case Lt(lt=high) if value >= high:
                wrong = f"below {high:g}"
            case Len(max_length=most) if most is not None and len(value) > most:
                what = "characters" if isinstance(value, str) else "entries"
                raise BadInput(f"{field} takes at most {most} {what}.", field=field)
            case Predicate(func=holds) if not holds(value):
                raise BadInput(f"{field} {UNSEEN}.", field=field)
            case _:
                continue
        raise BadInput(f"{field} must be {wrong}, got {value:g}.", field=field)


def field_names(shape: Any) -> tuple[str, ...]:
    """The fields of a dataclass by name, in their order."""
    return tuple(item.name for item in fields(shape))
