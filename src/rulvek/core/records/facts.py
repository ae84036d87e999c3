"""What a lab keeps of a model or a unit besides what its tests rest on: nothing here changes a verdict."""

from collections.abc import Iterator
from dataclasses import dataclass, is_dataclass
from datetime import date
from enum import StrEnum
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Le, Len

from rulvek.core.errors import BadInput
from rulvek.core.quantities import ENTERED, BandHertz, Name, Text, Title, Volts, field_names, refuse_impossible_day

Millimetres = Annotated[float, Ge(1), Le(3_000)]
Kilograms = Annotated[float, Ge(0.01), Le(200)]
SquareMillimetres = Annotated[float, Ge(0.05), Le(200)]
Money = Annotated[float, Ge(0), Le(1_000_000)]
Currency = Annotated[str, Len(0, 3)]
Decibels = Annotated[float, Ge(-60), Le(60)]
Count = Annotated[int, Ge(0), Le(10_000)]


@dataclass(frozen=True, slots=True)
class Price:
    """So much money on a day; the currency by its three letters (ISO 4217)."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    amount: Money
    currency: Currency
    day: date | None = None


class ControlKind(StrEnum):
    """What a control sets."""

    GAIN = "gain"
    LOW_PASS = "low-pass"
    HIGH_PASS = "high-pass"
    BOOST = "boost"
    PHASE = "phase"
    INPUT_MODE = "input mode"
    MASTER = "master or slave"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Control:
    """A control with what it reaches; of a boost None where the papers do not state it."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    kind: ControlKind
    reaches: Title = ""
    slope_db_per_octave: Decibels | None = None
    boost_db: Decibels | None = None
    boost_hz: BandHertz | None = None


@dataclass(frozen=True, slots=True)
class Terminal:
    """A terminal with the wire that the papers state and the one that really fits, in mm²."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    of: Name
    kind: Title = ""
    stated_mm2: SquareMillimetres | None = None
    fitting_mm2: SquareMillimetres | None = None


class Life(StrEnum):
    """Where a model is in its life."""

    IN_DEVELOPMENT = "in development"
    CURRENT = "current"
    DISCONTINUED = "discontinued"


@dataclass(frozen=True, slots=True)
class ModelFacts:
    """What is said of a model besides what its tests rest on; None and empty where nobody said so.

    Attributes:
        regulation_known: Whether it is known that its supply is regulated or not; judged as entered until it is.
        linkable: Whether two units can work as a pair.
        fuses_external: Whether its fuses are in the supply lead rather than on the unit.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    intended_use: Title = ""
    life: Life = Life.CURRENT
    regulation_known: bool = True
    sensitivity_low_volts: Volts | None = None
    sensitivity_high_volts: Volts | None = None
    linkable: bool | None = None
    fuses_external: bool | None = None
    fan: bool | None = None
    controls: Annotated[tuple[Control, ...], Len(0, 20)] = ()
    terminals: Annotated[tuple[Terminal, ...], Len(0, 12)] = ()
    length_mm: Millimetres | None = None
    width_mm: Millimetres | None = None
    height_mm: Millimetres | None = None
    weight_kg: Kilograms | None = None
    list_price: Price | None = None
    street_price: Price | None = None


class Came(StrEnum):
    """How a unit came."""

    FROM_PRODUCTION = "pulled from production"
    SAMPLE = "sample"
    BOUGHT = "bought"
    RETURNED = "returned"
    REFURBISHED = "refurbished"
    ON_LOAN = "on loan"


class UnitState(StrEnum):
    """What is done with a unit at present."""

    WAITING = "waiting"
    ON_THE_BENCH = "on the bench"
    MEASURED = "measured"
    KEPT = "kept"
    SENT_BACK = "sent back"
    SCRAPPED = "scrapped"


@dataclass(frozen=True, slots=True)
class Content:
    """What a unit came with, and how many of it."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    what: Name
    count: Count = 1


@dataclass(frozen=True, slots=True)
class UnitFacts:
    """What is said of a unit besides where it belongs; None and empty where nobody said so."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    came: Came | None = None
    from_whom: Title = ""
    price_paid: Price | None = None
    contents: Annotated[tuple[Content, ...], Len(0, 40)] = ()
    missing: Text = ""
    first_power_up: date | None = None
    state: UnitState = UnitState.WAITING
    whereabouts: Title = ""


def refuse_unlikely_model(facts: ModelFacts) -> None:
    """Hold a model's facts to what can be.

    Raises:
        BadInput: a field by its name.
    """
    low, high = facts.sensitivity_low_volts, facts.sensitivity_high_volts
    if low is not None and high is not None and low > high:
        raise BadInput(
            "The sensitivity's upper end must not lie below its lower one.", field="facts.sensitivity_high_volts"
        )
    for field in ("list_price", "street_price"):
        _refuse_nameless_money(getattr(facts, field), field)


def refuse_unlikely_unit(facts: UnitFacts, today: date) -> None:
    """Hold a unit's facts to what can be.

    Raises:
        BadInput: a field by its name.
    """
    _refuse_nameless_money(facts.price_paid, "price_paid")
    if facts.first_power_up is not None:
        refuse_impossible_day(facts.first_power_up, today, "facts.first_power_up")
    for at, one in enumerate(facts.contents):
        if not one.what.strip():
            raise BadInput("Say what it came with.", field=f"facts.contents.{at}.what")


def _refuse_nameless_money(price: Price | None, field: str) -> None:
    if price is not None:
        refuse_no_currency(price.currency, f"facts.{field}.currency")


def refuse_no_currency(letters: str, field: str) -> None:
    """A currency goes by its three letters.

    >>> refuse_no_currency("EUR", "currency")

    Raises:
        BadInput: it does not.
    """
    if not (len(letters) == 3 and letters.isascii() and letters.isalpha() and letters.isupper()):
        raise BadInput(f"A currency goes by three capital letters, as EUR; “{letters}” does not.", field=field)


def said(facts: ModelFacts | UnitFacts) -> Iterator[tuple[str, str]]:
    """What is said, as pairs of a label and words; what nobody said is left out.

    >>> dict(said(ModelFacts(length_mm=310.0, life=Life.CURRENT, linkable=False)))
    {'life': 'current', 'linkable': 'no', 'length, mm': '310'}
    """
    for name in field_names(facts):
        value = getattr(facts, name)
        if name == "regulation_known" or value is None or value in ("", ()):
            continue
        yield label_of(name), in_words(value)


_UNITS = {"mm": "mm", "kg": "kg", "volts": "V", "watts": "W", "hz": "Hz"}


def label_of(field: str) -> str:
    """A field's name as people read it, with its unit after a comma.

    >>> label_of("sensitivity_low_volts"), label_of("from_whom")
    ('sensitivity low, V', 'from whom')
    """
    *words, last = field.split("_")
    if words and last in _UNITS:
        return f"{' '.join(words)}, {_UNITS[last]}"
    return " ".join([*words, last])


def differing(before: Any, after: Any) -> Iterator[str]:
    """Labels of the fields in which two of a shape differ, those of shapes within them too.

    >>> list(differing(ModelFacts(weight_kg=2.0), ModelFacts(weight_kg=2.5, linkable=True)))
    ['linkable', 'weight, kg']
    """
    for name in field_names(after):
        old, new = getattr(before, name), getattr(after, name)
        if old == new:
            continue
        if is_dataclass(old) and is_dataclass(new):
            yield from differing(old, new)
        else:
            yield label_of(name)


def in_words(value: Any) -> str:
    """A value as people read it.

    >>> in_words(Price(129.0, "EUR")), in_words((Content("Bass remote", 1), Content("Fuse 40 A", 2)))
    ('129.00 EUR', '1 × Bass remote, 2 × Fuse 40 A')
    """
    match value:
        case bool():
            return "yes" if value else "no"
        case float():
            return f"{value:g}"
        case tuple():
            return ", ".join(in_words(one) for one in value)
        case Price(amount, currency, day):
            return f"{amount:.2f} {currency}" + (f", {day.isoformat()}" if day else "")
        case Content(what, count):
            return f"{count} × {what}"
        case Control(kind, reaches, slope, boost, hertz):
            more = [f"{slope:g} dB per octave"] if slope is not None else []
            if kind is ControlKind.BOOST:
                more.append("dB not stated" if boost is None else f"{boost:g} dB")
                more.append("Hz not stated" if hertz is None else f"at {hertz:g} Hz")
            return " ".join([kind.value, ", ".join(filter(None, [reaches, *more]))]).strip()
        case Terminal(of, kind, stated, fitting):
            wires = [f"{mm2:g} mm² {how}" for mm2, how in ((stated, "stated"), (fitting, "fits")) if mm2 is not None]
            return " ".join([of, ", ".join(filter(None, [kind, *wires]))]).strip()
        case _:
            return str(value)
