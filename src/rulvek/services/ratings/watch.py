"""What is on record today as far as ratings ask: their samples, what was withdrawn, what a calibration found."""

import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from datetime import date

from rulvek import clock
from rulvek.core.ratings.sample import SampleRow, sample_rows
from rulvek.core.ratings.unsettled import OutOfTolerance, Today
from rulvek.core.records.audit_plans import AuditPlanEntry
from rulvek.core.records.instruments import AsFound
from rulvek.core.records.kept import Kind
from rulvek.services.conclusions import Conclusions
from rulvek.services.later import Later
from rulvek.services.ratings.samples import UnitsSeen
from rulvek.store import conclusions, kept, load, ratings
from rulvek.store.engine import Database, Session
from rulvek.store.queries import records as record_queries
from rulvek.store.ratings import RatingRow

MOST_HELD = 300
"""Ratings whose samples are held in memory."""
_NO_PLAN = AuditPlanEntry(date.min)
"""Where nobody audits a model, its charts are looked at by all rules."""


class RatingWatch:
    """Looks at every unit once a version of its model, and keeps what it saw for the next who asks."""

    def __init__(self, database: Database, conclusions: Conclusions, later: Later) -> None:
        self._database, self._conclusions, self._later = database, conclusions, later
        self._seen = UnitsSeen()
        self._held: OrderedDict[int, tuple[str, tuple[SampleRow, ...]]] = OrderedDict()
        self._lock = threading.Lock()

    def today(self, session: Session, rows: Sequence[RatingRow]) -> dict[int, Today]:
        """What some ratings are held against."""
        versions = conclusions.model_versions(session, sorted({row.model_id for row in rows}))
        wanted = {row.id: ratings.sample_version(versions[row.model_id], row) for row in rows}
        known = self._known(session, wanted)
        revisions = kept.names(session, Kind.REVISION, sorted(versions))
        withdrawn, out = record_queries.withdrawn(session), _out_of_tolerance(session)
        plans = _audit_plans(session, sorted(versions))
        day = clock.now().date()
        return {
            row.id: Today(
                day=day,
                rows=known[row.id] if row.id in known else self._look(session, row, wanted[row.id]),
                withdrawn=withdrawn,
                revisions=revisions.get(row.model_id, ()),
                out_of_tolerance=out,
                runs=(plan := plans.get(row.model_id, _NO_PLAN)).runs,
                good_lot_percent=plan.good_lot_percent,
            )
            for row in rows
        }

    def _known(self, session: Session, wanted: Mapping[int, str]) -> dict[int, tuple[SampleRow, ...]]:
        """Samples that were worked out at these versions: those that this process read last need not be read again."""
        with self._lock:
            found = {one: self._held[one][1] for one, at in wanted.items() if self._held.get(one, ("",))[0] == at}
        if left := {one: at for one, at in wanted.items() if one not in found}:
            read = ratings.samples(session, left)
            with self._lock:
                self._held.update((one, (left[one], rows)) for one, rows in read.items())
                while len(self._held) > MOST_HELD:
                    self._held.popitem(last=False)
            found |= read
        return found

    def _look(self, session: Session, row: RatingRow, version: str) -> tuple[SampleRow, ...]:
        model = load.model(session, row.model_id)
        shown = self._seen.of(session, model.id, model.product)
        method = self._conclusions.method_today(session)
        rows = sample_rows(row.terms.at, shown.units, method, row.terms.without, shown.taken_back)
        self._later.do(lambda: self._keep(row.id, version, rows))
        return rows

    def _keep(self, rating_id: int, version: str, rows: tuple[SampleRow, ...]) -> None:
        with self._database.writing() as session:
            ratings.keep_sample(session, rating_id, version, rows)


def _audit_plans(session: Session, models: Sequence[int]) -> dict[int, AuditPlanEntry]:
    """By which plan each model is audited: the one that was made last, if there are several."""
    found = kept.all_of(session, Kind.AUDIT_PLAN, models)
    return {one.of_id: one.entry for one in found if not one.closed}


def _out_of_tolerance(session: Session) -> tuple[OutOfTolerance, ...]:
    """Instruments that a calibration found out, each since the calibration before."""
    calibrated: dict[str, date] = {}
    found = []
    for one in record_queries.register(session):
        entry = one.entry
        if entry.calibrated_on is None:
            continue
        if entry.as_found is AsFound.OUT:
            found.append(OutOfTolerance(entry.full_name, calibrated.get(entry.full_name), entry.calibrated_on))
        calibrated[entry.full_name] = entry.calibrated_on
    return tuple(found)
