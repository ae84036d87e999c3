"""Digests of what stands on record, to be sealed in the audit chain, and worked out again to verify it."""

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from rulvek.core.quantities import field_names
from rulvek.store import tables as t
from rulvek.store.audit import Seal

_ATTEMPT = (
    *("id", "run_id", "number", "reason", "started_by", "started_at"),
    *("cause", "skipped", "instruments", "typed", "recorded"),
)
_PARTS: Sequence[tuple[Any, tuple[str, ...]]] = (
    (
        t.AttemptEnding,
        (
            "attempt_id",
            "end",
            "fault",
            "ended_at",
            "seconds",
            "start_volts",
            "level_dbv",
            "bracket_db",
            "supply_volts",
            "supply_lowest",
            "supply_amps",
            "temperature_c",
            "companion_watts",
            "tripped_watts",
            "largest_watts",
            "load_c",
            "start_sink_c",
            "start_outside",
            "start_watts",
        ),
    ),
    (t.Reading, ("channel", "watts", "volts_rms", "thd_n", "thd", "load_nominal", "load_measured", "load_tolerance")),
    (t.CaptureFile, ("path", "sha256", "bytes", "described_sha256")),
)
_RUN = (
    "id",
    "campaign_id",
    "mode",
    "group",
    "channels",
    "load_ohms",
    "bridged",
    "tone_hz",
    "supply_volts",
    "companions",
    "burst",
)


_LATER: Mapping[Any, Mapping[str, Any]] = {
    t.AttemptEnding: {
        "held": True,
        "band_high_hz": None,
        "largest_bracket_db": None,
        "beyond_watts": None,
        "outside_share": None,
        "companions_full": None,
        "limit_slope": None,
    },
    t.Attempt: {"simulated": None, "read_again": ""},
    t.Run: {"hold_watts": None},
    t.Reading: {"load_inductance_uh": None, "load_ppm_per_kelvin": None},
}
"""What came later than the first seals, with what it is where nobody said so: sealed only where it says something."""


class StepsDigest:
    """A digest of an attempt's steps, made as they come; what ``finished`` tells stands in the ending."""

    def __init__(self, steps: Iterable[tuple[str, float, dict[str, Any]]] = ()) -> None:
        self._hash = hashlib.sha256()
        for step in steps:
            self.add(*step)

    def add(self, kind: str, at_seconds: float, data: dict[str, Any]) -> None:
        """Take one more step in."""
        if kind != "finished":
            self._hash.update(_canonical([kind, at_seconds, data]))

    @property
    def value(self) -> str:
        """The digest so far."""
        return self._hash.hexdigest()


def attempt_seals(
    session: Session, attempt_ids: Sequence[int], steps: Mapping[int, StepsDigest] | None = None
) -> list[Seal]:
    """Digests of attempts with their runs, endings, readings, files and steps, in the order of the ids.

    ``steps`` are digests that are known already; without them the steps are read.
    """
    rows: dict[int, list[Any]] = {}
    for attempt, run in session.execute(
        select(t.Attempt, t.Run).join(t.Run, t.Run.id == t.Attempt.run_id).where(t.Attempt.id.in_(attempt_ids))
    ):
        rows[attempt.id] = [_values(attempt, _ATTEMPT), _values(run, _RUN)]
    for kind, names in _PARTS:
        key = kind.attempt_id
        order = kind.channel if kind is t.Reading else kind.id if kind is not t.AttemptEnding else key
        for row in session.scalars(select(kind).where(key.in_(attempt_ids)).order_by(key, order)):
            if row.attempt_id in rows:
                rows[row.attempt_id].append([kind.__tablename__, _values(row, names)])
    known = steps if steps is not None else _steps_of(session, attempt_ids)
    nothing = StepsDigest()
    return [
        Seal("attempt", one, _digest([*rows[one], known.get(one, nothing).value])) for one in attempt_ids if one in rows
    ]


def _steps_of(session: Session, attempt_ids: Sequence[int]) -> dict[int, StepsDigest]:
    found: dict[int, StepsDigest] = {}
    statement = select(t.Step.attempt_id, t.Step.kind, t.Step.at_seconds, t.Step.data)
    for one, *step in session.execute(statement.where(t.Step.attempt_id.in_(attempt_ids)).order_by(t.Step.id)):
        found.setdefault(one, StepsDigest()).add(*step)
    return found


def second_reading_seals(session: Session, ids: Sequence[int]) -> list[Seal]:
    """Digests of second instruments' readings."""
    names = ("attempt_id", "channel", "watts", "volts_rms", "instrument", "percent_of_reading", "by", "at")
    statement = select(t.SecondReading).where(t.SecondReading.id.in_(ids)).order_by(t.SecondReading.id)
    return [Seal("second", row.id, _digest(_values(row, names))) for row in session.scalars(statement)]


def rating_seals(session: Session, step_ids: Sequence[int]) -> list[Seal]:
    """Digests of steps in the lives of ratings."""
    names = ("rating_id", "number", "kind", "by", "at", "reason", "digest", "settles", "terms", "basis")
    statement = select(t.RatingStep).where(t.RatingStep.id.in_(step_ids)).order_by(t.RatingStep.id)
    return [Seal("rating", row.id, _digest(_values(row, names))) for row in session.scalars(statement)]


def claim_seal(session: Session, claim_id: int) -> Seal | None:
    """The digest of a claim; None where it is not on record."""
    return next(iter(claim_seals(session, [claim_id])), None)


def claim_seals(session: Session, claim_ids: Sequence[int]) -> list[Seal]:
    """The digests of claims that are on record, in the order of their ids."""
    rows = select(t.Claim).where(t.Claim.id.in_(claim_ids)).order_by(t.Claim.id)
    return [_claim_seal(row) for row in session.scalars(rows)]


def _claim_seal(row: t.Claim) -> Seal:
    columns = {name: getattr(row.terms, name) for name in field_names(row.terms)}
    # A condition that nobody had thought of when the claim was sealed is not stated by it.
    stated = {name: value for name, value in columns.items() if value is not None}
    return Seal("claim", row.id, _digest([row.model_id, row.added_by, row.added_at, stated]))


def _values(row: Any, names: Sequence[str]) -> Mapping[str, Any]:
    later = _LATER.get(type(row), {})
    said = [name for name, unsaid in later.items() if getattr(row, name) != unsaid]
    return {name: getattr(row, name) for name in (*names, *said)}


def _digest(content: Any) -> str:
    return hashlib.sha256(_canonical(content)).hexdigest()


def _canonical(content: Any) -> bytes:
    return json.dumps(content, sort_keys=True, ensure_ascii=False, default=str).encode()
