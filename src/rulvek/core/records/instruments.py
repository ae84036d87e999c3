"""Instruments: what they read, how accurate they are by their makers, and what an attempt was read with."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum
from typing import Any, ClassVar, Literal

from rulvek.core.quantities import ENTERED, InstrumentName, Name, Share, Size
from rulvek.core.records.documents import Digest


class InstrumentRole(StrEnum):
    """What an instrument reads on the bench."""

    OUTPUT = "output"
    SUPPLY = "supply"
    CLAMP = "clamp"
    LOADS = "loads"


@dataclass(frozen=True, slots=True)
class Specification:
    """An instrument's accuracy as its maker states it: ± (percent of reading + percent of range + digits).

    ``resolution`` is the weight of one digit, in the unit that is read.
    """

    name: str
    percent_of_reading: float = 0.0
    percent_of_range: float = 0.0
    full_range: float = 0.0
    digits: float = 0.0
    resolution: float = 0.0

    def half_width(self, value: float) -> float:
        """Limits around a reading; a rectangle, as nothing is said of what is likelier within."""
        return (
            abs(value) * self.percent_of_reading / 100
            + self.full_range * self.percent_of_range / 100
            + self.digits * self.resolution
        )

    @property
    def in_words(self) -> str:
        """“± (0.3 % of reading + 0.05 % of 60 + 2 × 0.001)”."""
        parts = [f"{self.percent_of_reading:g} % of reading"] if self.percent_of_reading else []
        parts += [f"{self.percent_of_range:g} % of {self.full_range:g}"] if self.percent_of_range else []
        parts += [f"{self.digits:g} × {self.resolution:g}"] if self.digits else []
        return f"± ({' + '.join(parts)})" if parts else "not stated"


DUE_SOON_DAYS = 30


class AsFound(StrEnum):
    """What a calibration found before anything was adjusted."""

    UNSAID = ""
    WITHIN = "within"
    OUT = "out"


@dataclass(frozen=True, slots=True)
class InstrumentEntry:
    """An instrument, or the same one after a calibration, as somebody enters it on the register.

    ``found`` and ``left`` are what it showed where ``checked_at`` was right, before and after it was adjusted; see
    :mod:`rulvek.core.records.calibrations`. ``certificate`` is its number, ``certificate_file`` what was kept of it.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    role: InstrumentRole
    name: InstrumentName
    serial: Name = ""
    percent_of_reading: Share = 0.0
    percent_of_range: Share = 0.0
    full_range: Size = 0.0
    digits: Size = 0.0
    resolution: Size = 0.0
    calibrated_on: date | None = None
    due_on: date | None = None
    as_found: AsFound = AsFound.UNSAID
    certificate: Name = ""
    certificate_file: Digest | None = None
    checked_at: Size | None = None
    found: Size | None = None
    left: Size | None = None

    @property
    def full_name(self) -> str:
        """Name and serial number."""
        return f"{self.name} {self.serial}".strip()

    def calibration_on(self, day: date) -> Literal["in use", "due soon", "overdue"]:
        """How its calibration stands on a day."""
        left = (self.due_on - day).days if self.due_on else DUE_SOON_DAYS
        return "overdue" if left < 0 else "due soon" if left < DUE_SOON_DAYS else "in use"

    @property
    def specification(self) -> Specification:
        """Its limits."""
        return Specification(
            self.full_name,
            self.percent_of_reading,
            self.percent_of_range,
            self.full_range,
            self.digits,
            self.resolution,
        )


@dataclass(frozen=True, slots=True)
class InstrumentUsed:
    """What an attempt was read with, as it stood on the register then."""

    specification: Specification
    due_on: date | None = None


@dataclass(frozen=True, slots=True)
class Instruments:
    """What a reading was taken with, by role; a role that is missing is not known."""

    by_role: Mapping[InstrumentRole, InstrumentUsed] = field(default_factory=dict)

    def get(self, role: InstrumentRole) -> Specification | None:
        """The limits of what read a role; None where nobody knows."""
        used = self.by_role.get(role)
        return used.specification if used else None

    @property
    def output_name(self) -> str:
        """What the output was read with; empty where that is not known."""
        used = self.get(InstrumentRole.OUTPUT)
        return used.name if used else ""

    def overdue(self, day: date) -> tuple[str, ...]:
        """Instruments whose calibration had run out on a day."""
        return tuple(
            used.specification.name for used in self.by_role.values() if used.due_on is not None and used.due_on < day
        )

    @classmethod
    def named(cls, name: str, percent_of_reading: float, due_on: date | None = None) -> "Instruments":
        """An output instrument that somebody named, with its limit in percent of its volts."""
        used = InstrumentUsed(Specification(name, percent_of_reading=percent_of_reading), due_on)
        return cls({InstrumentRole.OUTPUT: used})
