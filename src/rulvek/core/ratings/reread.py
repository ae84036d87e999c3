"""What a rating would rest on if its waveforms were read again: whether that unsettles it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from rulvek.core.errors import RulvekError
from rulvek.core.ratings.basis import Basis, worked_out


@dataclass(frozen=True, slots=True)
class Moved:
    """A basis whose figures would be others: of how many units, and what the sample would bear; None if nothing."""

    units: int
    was_watts: float | None
    bound_watts: float | None

    def holds(self, promised_watts: float) -> bool:
        """Whether the sample would still bear what is promised."""
        return self.bound_watts is not None and self.bound_watts >= promised_watts


def moved(basis: Basis, ratios: Mapping[int, float | None]) -> Moved | None:
    """What a basis would be with some attempts' watts times a ratio, or without them where that is None.

    Args:
        ratios: By attempts; what is not in it stays.

    Returns:
        None where no unit that counts is touched.
    """
    touched = [row for row in basis.rows if row.counts and row.attempt_id in ratios]
    if not touched:
        return None
    rows = []
    for row in basis.rows:
        ratio = ratios.get(row.attempt_id, 1.0) if row.attempt_id is not None else 1.0
        if ratio is None:
            row = replace(row, watts=None, left_out=row.left_out or "Its waveform does not give a reading any more.")
        elif row.watts is not None:
            row = replace(row, watts=row.watts * ratio)
        rows.append(row)
    try:
        bound = worked_out(tuple(rows), basis.promise).bound_watts
    except RulvekError:
        bound = None
    return Moved(len(touched), basis.bound.bound_watts, bound)
