"""What unsettles a published rating: each cause with what changed, and what would settle it. Nothing withdraws it."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum

from rulvek.core.errors import RulvekError
from rulvek.core.ratings.acceptance import GOOD_CHANCE, Acceptance, accept
from rulvek.core.ratings.basis import SAME, Basis, worked_out
from rulvek.core.ratings.charts import Limits, Signalled, limits_of, moving_ranges, signals
from rulvek.core.ratings.life import Life, RatingState
from rulvek.core.ratings.sample import SampleRow
from rulvek.core.rounding import told_apart

ALIKE = 1e-5
"""Relative difference up to which a waveform that was read again comes to the same watts."""

DUE_SOON_DAYS = 60
"""Before its validity ends somebody is told (ours)."""


class Cause(StrEnum):
    """Why a rating has to be looked at again, the gravest first."""

    READING = "reading"
    CALIBRATION = "calibration"
    UNIT_BELOW = "unit_below"
    DRIFT = "drift"
    REVISION = "revision"
    METHOD = "method"
    VALIDITY = "validity"


CONFIRMABLE: Mapping[Cause, bool] = {
    Cause.READING: False,
    Cause.CALIBRATION: True,
    Cause.UNIT_BELOW: True,
    Cause.DRIFT: True,
    Cause.REVISION: False,
    Cause.METHOD: False,
    Cause.VALIDITY: True,
}
"""Whether a reviewer may say that the figure holds all the same. What is not in the sample any more, what the rating
never spoke of, and what comes out otherwise today takes a new proposal; but for waveforms that were read again by
another method and still bear what is promised."""


@dataclass(frozen=True, slots=True)
class OutOfTolerance:
    """An instrument that a calibration found out of tolerance, and since when it may have been."""

    instrument: str
    since: date | None
    until: date


@dataclass(frozen=True, slots=True)
class Today:
    """What is on record today, as far as a rating asks.

    Attributes:
        rows: The sample as it would be today, at the rating's conditions; units in the order in which they came.
        withdrawn: Why readings were withdrawn, by their attempts.
        revisions: Of the model.
        runs, good_lot_percent: By which rules charts and lots are looked at, as the plan of the model's audit says.
    """

    day: date
    rows: tuple[SampleRow, ...]
    withdrawn: Mapping[int, str] = field(default_factory=dict)
    revisions: tuple[str, ...] = ()
    out_of_tolerance: tuple[OutOfTolerance, ...] = ()
    runs: bool = True
    good_lot_percent: float = 100 * GOOD_CHANCE


@dataclass(frozen=True, slots=True)
class Unsettling:
    """Something that unsettles a rating.

    Attributes:
        key: The same for the same thing: whoever confirms a rating says which of them were looked at.
        what: What changed, a sentence.
        settle: What would settle it, a sentence.
        still_borne: Whether it was worked out anew with what changed, and bears what is promised.
    """

    cause: Cause
    key: str
    what: str
    settle: str
    still_borne: bool = False

    @property
    def confirmable(self) -> bool:
        """Whether a reviewer may say that the figure holds all the same."""
        return CONFIRMABLE[self.cause] or self.still_borne


def unsettled(basis: Basis, life: Life, today: Today) -> tuple[Unsettling, ...]:
    """What unsettles a rating today, the gravest first, without what a reviewer looked at and confirmed.

    A rating that is on its way is held against the same, but for its validity: it is what would make it stale.
    """
    if life.state in (RatingState.DRAFT, RatingState.SUPERSEDED, RatingState.WITHDRAWN, RatingState.DROPPED):
        return ()
    found = [
        *_readings(basis, today),
        *_calibrations(basis, today),
        *_below(basis, today),
        *_drift(basis, today),
        *_revisions(basis, today),
        *_method(basis, today),
        *_validity(basis, life, today),
    ]
    settled = life.settled
    return tuple(one for one in found if not (one.confirmable and one.key in settled))


def valid_until(basis: Basis, life: Life) -> date | None:
    """Until when it holds without being looked at; None while nobody answered for it, and of what is over."""
    answered = life.answered_at
    if answered is None or life.state in (RatingState.SUPERSEDED, RatingState.WITHDRAWN):
        return None
    months = answered.month - 1 + basis.terms.valid_months
    year, month = answered.year + months // 12, months % 12 + 1
    for day in range(answered.day, 0, -1):
        try:
            return date(year, month, day)
        except ValueError:  # no such day in that month
            continue
    return None


def ends_soon(until: date | None, day: date) -> bool:
    """Whether a rating's validity ends within 60 days, so that somebody looks at it in time.

    >>> ends_soon(date(2026, 12, 31), date(2026, 11, 30)), ends_soon(date(2026, 11, 1), date(2026, 11, 30))
    (True, False)
    """
    return until is not None and 0 <= (until - day).days <= DUE_SOON_DAYS


def _readings(basis: Basis, today: Today) -> Iterator[Unsettling]:
    now = {row.unit_id: row for row in today.rows}
    for row in basis.rows:
        if not row.counts or row.attempt_id is None:
            continue
        key = f"reading:{row.attempt_id}"
        settle = "Measure the unit again or leave it out, and propose anew."
        if row.attempt_id in today.withdrawn:
            why = today.withdrawn[row.attempt_id]
            yield Unsettling(Cause.READING, key, f"The reading of unit {row.serial} was withdrawn: {why}", settle)
            continue
        found = now.get(row.unit_id)
        if found is None or not found.counts:
            why = found.left_out if found else "It is not on record."
            yield Unsettling(Cause.READING, key, f"Unit {row.serial} does not count any more. {why}", settle)
        elif found.attempt_id != row.attempt_id and not found.read_again:
            watts = f"{found.watts:.4g} W" if found.watts else "nothing"
            what = f"Another reading of unit {row.serial} stands now, of {watts}; the rating has {row.watts:.4g} W."
            yield Unsettling(Cause.READING, f"{key}:{found.attempt_id}", what, "Propose anew with it.")


def _calibrations(basis: Basis, today: Today) -> Iterator[Unsettling]:
    for one in today.out_of_tolerance:
        touched = [
            reading
            for reading in basis.readings
            if one.instrument in reading.instruments
            and (one.since is None or reading.taken_at.date() >= one.since)
            and reading.taken_at.date() <= one.until
        ]
        if touched:
            what = (
                f"{one.instrument} was found out of tolerance on {one.until.isoformat()}:"
                f" {len(touched)} of {len(basis.readings)} readings were taken with it since the calibration before."
            )
            settle = "Judge what it was off by, and measure again what that could change."
            yield Unsettling(Cause.CALIBRATION, f"calibration:{one.instrument}:{one.until.isoformat()}", what, settle)


def _below(basis: Basis, today: Today) -> Iterator[Unsettling]:
    known = {row.attempt_id for row in basis.rows}
    for row in came_later(basis, today):
        if row.attempt_id in known or row.censored or row.watts is None or row.watts >= basis.terms.watts:
            continue
        what = f"Unit {row.serial} gives {row.watts:.4g} W, less than the {basis.terms.watts:g} W that are promised."
        settle = "Look at the unit and its lot; propose a figure that it reaches, or confirm this one with the reason."
        yield Unsettling(Cause.UNIT_BELOW, f"below:{row.attempt_id}", what, settle)


def _drift(basis: Basis, today: Today) -> Iterator[Unsettling]:
    chart = individuals(basis, today)
    points = chart.points if chart else ()
    down = [(one.row, one.signal.signal) for one in points if one.signal is not None and one.signal.down]
    if not down:
        return
    (first, signal), (last, _) = down[0], down[-1]
    more = f", and {len(down) - 1} more since" if len(down) > 1 else ""
    what = f"Production drifts down: {signal.value} at unit {first.serial}{more}."
    settle = "Find what changed in production; confirm the figure with the reason, or propose anew."
    yield Unsettling(Cause.DRIFT, f"drift:{last.attempt_id}", what, settle)


@dataclass(frozen=True, slots=True)
class ChartPoint:
    """A unit on a chart of individuals; ``since`` came after the basis was frozen, and only those can signal.

    ``moved`` is its moving range, in watts: how far it is from the unit before; None for the first.
    """

    row: SampleRow
    watts: float
    since: bool
    signal: Signalled | None = None
    moved: float | None = None


@dataclass(frozen=True, slots=True)
class IndividualsChart:
    """A rating's sample and what came since, in the order in which units came, between limits by the sample."""

    limits: Limits
    points: tuple[ChartPoint, ...]


def individuals(basis: Basis, today: Today) -> IndividualsChart | None:
    """The chart of a rating's units; None where they are too few to tell limits, or all alike.

    Units of which only a lower limit is known have no place on it.
    """
    sample = [(row, row.watts) for row in basis.rows if row.counts and not row.censored and row.watts]
    limits = limits_of([watts for _, watts in sample])
    if limits is None or limits.sigma <= 0:
        return None
    later = [(row, row.watts) for row in came_later(basis, today) if not row.censored and row.watts]
    found = {one.at: one for one in signals([watts for _, watts in later], limits, today.runs)}
    moved = [None, *moving_ranges([watts for _, watts in (*sample, *later)])]
    points = [ChartPoint(row, watts, since=False, moved=by) for (row, watts), by in zip(sample, moved, strict=False)]
    points += [
        ChartPoint(row, watts, since=True, signal=found.get(at), moved=by)
        for at, ((row, watts), by) in enumerate(zip(later, moved[len(sample) :], strict=True))
    ]
    return IndividualsChart(limits, tuple(points))


@dataclass(frozen=True, slots=True)
class LotSince:
    """A lot whose units came after the basis was frozen; ``found`` is None where they are too few to tell."""

    lot: str
    units: int
    found: Acceptance | None


def lots_since(basis: Basis, today: Today) -> tuple[LotSince, ...]:
    """Whether lots that came since are as good as promised, by variables, in the order in which they came."""
    lots: dict[str, list[float]] = {}
    for row in came_later(basis, today):
        if row.watts and not row.censored:
            lots.setdefault(row.lot, []).append(row.watts)
    terms = basis.terms
    return tuple(
        LotSince(lot, len(each), accept(each, terms.watts, terms.share, today.good_lot_percent / 100))
        for lot, each in lots.items()
    )


def _revisions(basis: Basis, today: Today) -> Iterator[Unsettling]:
    covered = {name.casefold() for name in basis.covered}
    for name in today.revisions:
        if name.casefold() not in covered:
            what = f"Revision {name} is not covered: no unit of it was measured."
            yield Unsettling(Cause.REVISION, f"revision:{name}", what, f"Measure units of revision {name}.")


def _method(basis: Basis, today: Today) -> Iterator[Unsettling]:
    """The same readings come to other figures by today's rules."""
    now = {row.unit_id: row for row in today.rows if row.counts}
    again = [
        (row, found) for row in basis.rows if row.counts and (found := now.get(row.unit_id)) and _read_again(row, found)
    ]
    if again:
        yield _by_another_method(basis, again)
    for row in basis.rows:
        found = now.get(row.unit_id) if row.counts else None
        if found is None or found.attempt_id != row.attempt_id or not (found.watts and row.watts):
            continue
        if abs(found.watts - row.watts) > SAME * row.watts:
            was, comes = told_apart(row.watts, found.watts)
            what = f"Unit {row.serial} comes to {comes} W by today's method, not to {was} W."
            yield Unsettling(Cause.METHOD, f"method:{row.attempt_id}", what, "Propose anew by today's method.")
            return
    bears, bore = _borne(basis, basis.rows), basis.bound.bound_watts
    if bears is None or bore is None or abs(bears - bore) > SAME * bore:
        what = "The same sample bears another figure by today's method."
        yield Unsettling(Cause.METHOD, "method", what, "Propose anew by today's method.")


def _read_again(row: SampleRow, found: SampleRow) -> bool:
    return found.read_again and found.attempt_id != row.attempt_id


def _moved(row: SampleRow, found: SampleRow) -> float:
    """By how much a unit's figure is another one, relative."""
    return abs((found.watts or 0.0) / row.watts - 1) if row.watts else 0.0


def _by_another_method(basis: Basis, again: Sequence[tuple[SampleRow, SampleRow]]) -> Unsettling:
    """Waveforms of the sample were read once more, and somebody adopted what they come to."""
    old, new = max(again, key=lambda pair: _moved(*pair))
    units = "1 unit was" if len(again) == 1 else f"{len(again)} units were"
    what = f"{units} read again by another method"
    if _moved(old, new) > ALIKE:
        was, comes = told_apart(old.watts or 0.0, new.watts or 0.0)
        what += f": {old.serial} comes to {comes} W, not to {was} W."
    else:
        what += f", and {'comes' if len(again) == 1 else 'come'} to the same watts."
    taken = {before.unit_id: after for before, after in again}
    bears = _borne(basis, [taken.get(one.unit_id, one) for one in basis.rows])
    still = bears is not None and bears >= basis.terms.watts
    if bears is None:
        what += " The sample bears no figure then."
    else:
        enough = "enough for" if still else "less than"
        what += f" The sample bears {bears:.4g} W then, {enough} the {basis.terms.watts:g} W that are promised."
    settle = "Confirm the figure, or propose anew with it." if still else "Propose anew with it."
    return Unsettling(Cause.METHOD, f"method:{max(after.attempt_id or 0 for _, after in again)}", what, settle, still)


def _borne(basis: Basis, rows: Sequence[SampleRow]) -> float | None:
    """What a sample bears by today's rules; None where it bears nothing."""
    try:
        return worked_out(tuple(rows), basis.promise).bound_watts
    except RulvekError:
        return None


def _validity(basis: Basis, life: Life, today: Today) -> Iterator[Unsettling]:
    until = valid_until(basis, life)
    if life.state is RatingState.PUBLISHED and until is not None and today.day > until:
        what = f"It was valid until {until.isoformat()}."
        settle = "Look at what came since; confirm it for as long again, or propose anew."
        yield Unsettling(Cause.VALIDITY, f"validity:{until.isoformat()}", what, settle)


def came_later(basis: Basis, today: Today) -> Sequence[SampleRow]:
    """Units of production that count now and did not when the basis was frozen, in the order in which they came."""
    counted = {row.unit_id for row in basis.rows if row.counts}
    return [row for row in today.rows if row.counts and row.unit_id not in counted]
