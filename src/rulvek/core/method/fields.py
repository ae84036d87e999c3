"""The fields of a method profile as somebody changes them: what each may be, and in which unit."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
from enum import StrEnum
from typing import Any

from rulvek.core.errors import BadInput
from rulvek.core.method.origins import ORIGINS
from rulvek.core.method.profile import MethodProfile
from rulvek.core.quantities import typed_number


class FieldKind(StrEnum):
    """What a field holds."""

    NUMBER = "number"
    WHOLE = "whole"
    SWITCH = "switch"
    WORD = "word"
    TONES = "tones"


@dataclass(frozen=True, slots=True)
class MethodField:
    """A field of the profile: its kind, its unit and bounds where it is a number, and where its usual value is from."""

    name: str
    kind: FieldKind
    unit: str
    low: float
    high: float
    usual: str
    origin: str


BOUNDS: Mapping[str, tuple[str, float, float]] = {
    "percent": ("%", 0.0, 100.0),
    "volts": ("V", 0.0, 60.0),
    "tolerance": ("V", 0.0, 60.0),
    "amps": ("A", 0.0, 1_000.0),
    "hz": ("Hz", 1.0, 200_000.0),
    "seconds": ("s", 0.0, 36_000.0),
    "hours": ("h", 0.0, 8_760.0),
    "db": ("dB", -60.0, 60.0),
    "c": ("°C", 0.0, 200.0),
    "octaves": ("octaves", 0.0, 3.0),
    "milliohms": ("mΩ", 0.0, 1_000.0),
    "uh": ("µH", 0.0, 1_000.0),
    "kelvin": ("ppm/K", 0.0, 10_000.0),
}
"""Unit and bounds by what a field's name has last; shares and counts have none."""
WHOLE_MOST, SHARE_MOST, TONES_MOST = 100.0, 1_000.0, 40


def method_fields() -> tuple[MethodField, ...]:
    """All that somebody may change, in the profile's order.

    >>> next(one for one in method_fields() if one.name == "reference_volts")
    MethodField(name='reference_volts', kind=<FieldKind.NUMBER: 'number'>, unit='V', low=0.0, high=60.0, usual='14.4', \
origin='CTA-2006, from memory')
    """
    return tuple(
        _field(one.name, getattr(MethodProfile(), one.name))
        for one in fields(MethodProfile)
        if one.name not in ("name", "unread")
    )


def said(value: Any) -> str:
    """A value as it is shown and typed.

    >>> said(0.5), said(True), said(()), said((50.0, 5000.0))
    ('0.5', 'yes', 'none', '50, 5000')
    """
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return ", ".join(f"{one:g}" for one in value) or "none"
    return f"{value:g}" if isinstance(value, float | int) else str(value)


def changed(before: MethodProfile, changes: Sequence[tuple[str, str]]) -> MethodProfile:
    """A profile with some fields as they were typed.

    >>> changed(MethodProfile(), [("thd_n_limit_percent", "0,5"), ("guarded", "no")]).thd_n_limit_percent
    0.5

    Raises:
        BadInput: a field that there is not, or that is named twice, or a value that it cannot have, by its place.
    """
    known = {one.name: one for one in method_fields()}
    values: dict[str, Any] = {}
    for at, (name, text) in enumerate(changes):
        if name not in known:
            raise BadInput(f"A method has no field “{name}”.", field=f"changes.{at}.field")
        if name in values:
            raise BadInput(f"{name} is named twice.", field=f"changes.{at}.field")
        try:
            values[name] = _value(known[name], text.strip())
        except ValueError as error:
            raise BadInput(f"{name} is {error}; got “{text[:40]}”.", field=f"changes.{at}.value") from None
    try:
        return replace(before, **values)
    except BadInput as refused:
        at = next((at for at, (name, _) in enumerate(changes) if name == refused.field), 0)
        raise BadInput(refused.what, field=f"changes.{at}.value") from None


def _field(name: str, usual: Any) -> MethodField:
    unit, low, high = BOUNDS.get(name.rsplit("_", 1)[-1], ("", 0.0, SHARE_MOST))
    origin = ORIGINS.get(name, "")
    match usual:
        case bool():
            return MethodField(name, FieldKind.SWITCH, "", 0, 1, said(usual), origin)
        case int():
            return MethodField(name, FieldKind.WHOLE, unit, 0, WHOLE_MOST, said(usual), origin)
        case tuple():
            return MethodField(name, FieldKind.TONES, "Hz", low, high, said(usual), origin)
        case str():
            return MethodField(name, FieldKind.WORD, "", 0, 0, said(usual), origin)
    return MethodField(name, FieldKind.NUMBER, unit, low, high, said(usual), origin)


def _value(field: MethodField, text: str) -> Any:
    match field.kind:
        case FieldKind.SWITCH:
            if text not in ("yes", "no"):
                raise ValueError("“yes” or “no”")
            return text == "yes"
        case FieldKind.WORD:
            return text
        case FieldKind.TONES:
            parts = [one for one in text.replace(";", ",").split(",") if one.strip()] if text != "none" else []
            if len(parts) > TONES_MOST:
                raise ValueError(f"at most {TONES_MOST} tones")
            return tuple(_number(field, one) for one in parts)
        case FieldKind.WHOLE:
            number = _number(field, text)
            if number != int(number):
                raise ValueError("a whole number")
            return int(number)
    return _number(field, text)


def _number(field: MethodField, text: str) -> float:
    within = f"a number from {field.low:g} to {field.high:g} {field.unit}".rstrip()
    try:
        number = typed_number(text)
    except ValueError:
        raise ValueError(within) from None
    if not field.low <= number <= field.high:
        raise ValueError(within)
    return number
