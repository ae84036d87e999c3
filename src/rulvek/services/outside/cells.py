"""Figures in a table's cells as people type them: with a point or a comma, with or without their unit."""

import math
import re
from collections.abc import Mapping

from rulvek.core.errors import BadInput
from rulvek.core.quantities import typed_number
from rulvek.services.outside.headings import Field

_WORDS: Mapping[str, str] = {
    "W": "power in W",
    "V": "voltage in V",
    "A": "current in A",
    "Ω": "load in Ω",
    "Hz": "tone in Hz",
    "%": "share in %",
}
_UNIT_OF: Mapping[Field, str] = {
    **dict.fromkeys(("watts", "tripped_watts"), "W"),
    **dict.fromkeys(("volts_rms", "volts_peak", "supply_volts", "start_volts", "loaded_volts"), "V"),
    **dict.fromkeys(("amps", "idle_amps", "charger_amps"), "A"),
    **dict.fromkeys(("load_ohms", "load_measured"), "Ω"),
    "tone_hz": "Hz",
    "thd_n_percent": "%",
}
_TYPED: Mapping[str, str] = {
    "W": r"w|watts?|w ?rms",
    "V": r"v|volts?|v ?rms|v ?pk?|v ?peak|v ?dc|v ?ac",
    "A": r"a|amps?|amperes?|a ?dc",
    "Ω": r"Ω|ω|ohms?|r",
    "Hz": r"hz|hertz|cps",
    "%": r"%|percent|pct",
}
_FACTORS: Mapping[str, float] = {"": 1.0, "k": 1e3, "K": 1e3, "m": 1e-3}
_CELL = re.compile(r"([+-]?[0-9.,'’ ]*[0-9][.,]?(?:[eE][+-]?[0-9]{1,3})?)\s*(.*)")
_THOUSANDS = re.compile(r"[+-]?[0-9]{1,3}([.,' ’][0-9]{3})+([.,][0-9]+)?")
_MAYBE_THOUSANDS = re.compile(r"[+-]?[1-9][0-9]{0,2}([.,])[0-9]{3}")


def words_of(field: Field) -> str:
    """What a column is called in a sentence.

    >>> words_of("load_ohms"), words_of("serial")
    ('load in Ω', 'serial')
    """
    return _WORDS.get(_UNIT_OF.get(field, ""), field.replace("_", " "))


def factor_in(heading: str, field: Field) -> float:
    """What the figures of a column are multiplied by: its heading may have them in kHz, kW or mV.

    >>> factor_in("Frequency [kHz]", "tone_hz"), factor_in("Output (mV)", "volts_rms"), factor_in("Watts", "watts")
    (1000.0, 0.001, 1.0)
    """
    unit = _UNIT_OF.get(field)
    if unit is None:
        return 1.0
    words = re.split(r"[\s()\[\],;:/]+", heading.strip())
    found = (_factor(word, unit) for word in reversed(words) if len(word) > 1)
    return next((one for one in found if one is not None and one != 1.0), 1.0)


def figure(field: Field, text: str, decimal: str, factor: float = 1.0) -> float | None:
    """A cell's figure in its field's unit; None of an empty cell.

    Args:
        decimal: The table's usual decimal sign. A comma is one in a table of points, too, unless it may part thousands.
        factor: Of the column, for cells that name no unit of their own.

    >>> figure("watts", "80,5", "."), figure("tone_hz", "1 kHz", "."), figure("load_ohms", "2,67 Ω", ",")
    (80.5, 1000.0, 2.67)

    Raises:
        BadInput: it is no such figure.
    """
    said = re.sub(r"[−–]", "-", text.strip())
    if said == "":
        return None
    what = f"“{text.strip()[:40]}”"
    unit = _UNIT_OF.get(field, "")
    name = words_of(field)
    found = _CELL.fullmatch(said)
    number = found[1].strip() if found else ""
    own = _factor(found[2], unit) if found and found[2] else factor
    if own is None or not number:
        raise BadInput(f"{what} is no {name}.", field=field)
    maybe = _MAYBE_THOUSANDS.fullmatch(number)
    try:
        value = typed_number(number) * own
    except ValueError:
        value = math.nan
    if (maybe and maybe[1] != decimal) or (math.isnan(value) and _THOUSANDS.fullmatch(number)):
        raise BadInput(f"{what} is to be written without signs between thousands.", field=field)
    if math.isnan(value):
        raise BadInput(f"{what} is no {name}.", field=field)
    return value


def _factor(typed: str, unit: str) -> float | None:
    """What a unit as it is typed makes of a figure; None where it is another unit.

    A capital M is no prefix: nobody has megavolts, and whoever writes all in capitals may mean either.
    """
    words = _TYPED.get(unit)
    said = typed.strip().rstrip(".")
    if words is None:
        return None
    for prefix, factor in _FACTORS.items():
        rest = said[len(prefix) :].strip()
        if said.startswith(prefix) and rest and re.fullmatch(words, rest, re.IGNORECASE):
            return factor
    return None
