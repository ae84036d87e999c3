"""What calibrations found: errors before and after adjusting, beside the limits of the instrument."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date

from rulvek.core.errors import BadInput
from rulvek.core.records.instruments import AsFound, InstrumentEntry, InstrumentRole


@dataclass(frozen=True, slots=True)
class CalibrationPoint:
    """One calibration, in percent of the value that was checked; None where nothing was said."""

    on: date
    certificate: str
    found_percent: float | None
    left_percent: float | None
    limit_percent: float
    as_found: AsFound


@dataclass(frozen=True, slots=True)
class CalibrationHistory:
    """An instrument's calibrations, the oldest first."""

    role: InstrumentRole
    name: str
    points: tuple[CalibrationPoint, ...]


def judged(entry: InstrumentEntry) -> InstrumentEntry:
    """An entry that says what its figures say of the instrument as it was found.

    >>> from datetime import date
    >>> entry = InstrumentEntry(
    ...     InstrumentRole.OUTPUT, "Meter 4", percent_of_reading=0.5, calibrated_on=date(2026, 3, 2),
    ...     checked_at=20.0, found=20.3, left=20.01,
    ... )
    >>> judged(entry).as_found.value
    'out'

    Raises:
        BadInput: figures without a day or without what they were checked at, figures that say the opposite of what is
            said, an instrument that was left out of its limits.
    """
    told = [name for name in ("found", "left") if getattr(entry, name) is not None]
    if not told and entry.checked_at is None:
        return entry
    if entry.calibrated_on is None:
        raise BadInput("Say on which day it was calibrated.", field="calibrated_on")
    if not entry.checked_at:
        raise BadInput("Say at which value it was checked.", field="checked_at")
    if entry.left is not None and _is_out(entry, entry.left):
        limits = entry.specification.in_words
        what = f"It was left at {entry.left:g} where {entry.checked_at:g} is right: out of its own limits, {limits}."
        raise BadInput(what, field="left")
    if entry.found is None:
        return entry
    found = AsFound.OUT if _is_out(entry, entry.found) else AsFound.WITHIN
    if entry.as_found not in (AsFound.UNSAID, found):
        where = "out of" if found is AsFound.OUT else "within"
        what = f"It showed {entry.found:g} where {entry.checked_at:g} is right: that is {where} its limits."
        raise BadInput(what, field="as_found")
    return replace(entry, as_found=found)


def histories(register: Iterable[InstrumentEntry]) -> list[CalibrationHistory]:
    """Of every instrument of which a calibration told a figure; ``register`` is the oldest first."""
    points: dict[tuple[InstrumentRole, str], list[CalibrationPoint]] = {}
    for entry in register:
        if entry.calibrated_on is None or not entry.checked_at:
            continue
        point = CalibrationPoint(
            on=entry.calibrated_on,
            certificate=entry.certificate,
            found_percent=_percent(entry, entry.found),
            left_percent=_percent(entry, entry.left),
            limit_percent=100 * entry.specification.half_width(entry.checked_at) / entry.checked_at,
            as_found=entry.as_found,
        )
        points.setdefault((entry.role, entry.full_name), []).append(point)
    return [
        CalibrationHistory(role, name, tuple(sorted(some, key=lambda one: one.on)))
        for (role, name), some in points.items()
    ]


def _is_out(entry: InstrumentEntry, shown: float) -> bool:
    """By more than rounding of figures that people type."""
    right = entry.checked_at or 0.0
    return abs(shown - right) > entry.specification.half_width(right) * (1 + 1e-9) + 1e-12


def _percent(entry: InstrumentEntry, shown: float | None) -> float | None:
    return None if shown is None or not entry.checked_at else 100 * (shown / entry.checked_at - 1)
