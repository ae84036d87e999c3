"""A request that does not parse, in one sentence: which field, as the screens name it, and what would be taken."""

from collections.abc import Callable, Mapping
from typing import Any

from rulvek.core.quantities import UNSEEN

UNITS = {
    "ohms": "Ω",
    "watts": "W",
    "volts": "V",
    "amps": "A",
    "hz": "Hz",
    "percent": "%",
    "seconds": "s",
    "ms": "ms",
    "minutes": "min",
    "hours": "h",
    "db": "dB",
    "farads": "F",
    "c": "°C",
}
ALONE = {"ohms": "Load", "watts": "Power", "volts": "Volts", "amps": "Current"}
"""What a field is called whose name says no more than its unit."""
SPELLED = {"thd n": "THD+N", "thd": "THD", "load": "Load"}


def words_of(field: str) -> str:
    """A field as a screen's label has it.

    >>> words_of("thd_n_percent"), words_of("load_ohms"), words_of("document"), words_of("claims.2.watts")
    ('THD+N, %', 'Load, Ω', 'Document', 'Power, W (claims 3)')
    """
    *around, name = field.split(".")
    if name.isdecimal() and around:
        around, name = around[:-1], f"{around[-1]} {int(name) + 1}"
    words = name.split("_")
    unit = UNITS.get(words[-1])
    plain = " ".join(words[:-1] if unit else words) or ALONE.get(words[-1], words[-1])
    label = SPELLED.get(plain, plain[:1].upper() + plain[1:])
    place = " ".join(str(int(one) + 1) if one.isdecimal() else one.replace("_", " ") for one in around)
    return f"{label}{f', {unit}' if unit else ''}{f' ({place})' if place else ''}"


_Sentence = Callable[[str, Mapping[str, Any]], str]


def _must_be(what: str) -> _Sentence:
    return lambda label, context: f"{label} must be {what.format(**context)}."


_NUMBER, _TEXT, _DAY = _must_be("a number"), _must_be("a text"), _must_be("a date like 2026-03-31")
_MOMENT = _must_be("a date and time like 2026-03-31T14:05:00Z")
_LIST, _FIELDS = _must_be("a list"), _must_be("a set of fields with their values")
SENTENCES: Mapping[str, _Sentence] = {
    "extra_forbidden": lambda label, _: f"There is no field “{label}” here; check its name and unit.",
    "unexpected_keyword_argument": lambda label, _: f"There is no field “{label}” here; check its name and unit.",
    "missing": lambda label, _: f"{label} is missing.",
    "missing_argument": lambda label, _: f"{label} is missing.",
    "json_invalid": lambda _, __: "The request is not valid JSON.",
    "json_type": lambda _, __: "The request is not valid JSON.",
    "float_type": _NUMBER,
    "float_parsing": _NUMBER,
    "decimal_parsing": _NUMBER,
    "finite_number": _must_be("a finite number"),
    "int_type": _must_be("a whole number"),
    "int_parsing": _must_be("a whole number"),
    "int_from_float": _must_be("a whole number"),
    "bool_type": _must_be("true or false"),
    "bool_parsing": _must_be("true or false"),
    "string_type": _TEXT,
    "string_too_long": _must_be("at most {max_length} characters long"),
    "string_too_short": _must_be("at least {min_length} characters long"),
    "predicate_failed": lambda label, _: f"{label} {UNSEEN}.",
    "string_pattern_mismatch": lambda label, _: f"{label} is not written as it must be.",
    "greater_than": _must_be("above {gt:g}"),
    "greater_than_equal": _must_be("{ge:g} or more"),
    "less_than": _must_be("below {lt:g}"),
    "less_than_equal": _must_be("{le:g} or less"),
    "literal_error": _must_be("one of {expected}"),
    "enum": _must_be("one of {expected}"),
    "date_type": _DAY,
    "date_parsing": _DAY,
    "date_from_datetime_parsing": _DAY,
    "date_from_datetime_inexact": _DAY,
    "datetime_type": _MOMENT,
    "datetime_parsing": _MOMENT,
    "datetime_from_date_parsing": _MOMENT,
    "timezone_aware": _must_be("a time with its time zone"),
    "list_type": _LIST,
    "tuple_type": _LIST,
    "too_long": _must_be("a list of at most {max_length}"),
    "too_short": _must_be("a list of at least {min_length}"),
    "dict_type": _FIELDS,
    "model_type": _FIELDS,
    "model_attributes_type": _FIELDS,
    "dataclass_type": _FIELDS,
    "dataclass_exact_type": _FIELDS,
}


def field_of(error: Mapping[str, Any]) -> str | None:
    """The field that an error of the validator is about, as the request names it."""
    places = [str(part) for part in error["loc"] if part not in ("body", "query", "path", "header")]
    return ".".join(places) or None


def sentence(error: Mapping[str, Any]) -> str:
    """What an error of the validator says to a person.

    >>> sentence({"type": "greater_than", "loc": ("body", "watts"), "ctx": {"gt": 0.0}, "msg": ""})
    'Power, W must be above 0.'
    """
    field = field_of(error)
    label = words_of(field) if field else "The request"
    say = SENTENCES.get(error["type"])
    if say is not None:
        return say(label, error.get("ctx", {}))
    if error["type"] in ("value_error", "assertion_error"):
        message = str(error["msg"]).removeprefix("Value error, ").removeprefix("Assertion failed, ")
        return f"{label}: {message[:1].lower()}{message[1:].removesuffix('.')}."
    return f"{label} cannot be taken as it was sent."
