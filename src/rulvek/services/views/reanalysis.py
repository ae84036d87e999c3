"""What the archive comes to when it is read again, as people look at it before they adopt it."""

from datetime import datetime

from rulvek.core.judgement.verdict import VerdictKind
from rulvek.services.views.base import View, view


@view
class ChangedAttemptView(View):
    """An attempt that comes to other figures; ``watts`` is None where it comes to none, by the ``problem``.

    THD+N in percent; None where it was not read.
    """

    attempt_id: int
    serial: str
    was_watts: float
    watts: float | None
    percent: float | None
    was_thd_n_percent: float | None
    thd_n_percent: float | None
    problem: str


@view
class OtherVerdictView(View):
    """A claim on which a unit's verdict would be another one."""

    claim_id: int
    document: str
    group: str
    load_ohms: float
    claimed_watts: float
    unit_id: int
    serial: str
    was: VerdictKind
    now: VerdictKind


@view
class MovedRatingView(View):
    """A signed or published rating that would rest on other figures of ``units`` units.

    Watts are None where nothing is borne any more.
    """

    rating_id: int
    model: str
    promised_watts: float
    units: int
    was_watts: float | None
    bound_watts: float | None
    holds: bool


@view
class ReanalysisView(View):
    """The reading that is under way, or the last one of this server; ``asked_by`` is empty where there was none.

    ``done`` of ``of`` waveforms are read; ``changed`` attempts come to other figures and ``verdicts_changed`` verdicts
    would be others, of which the first are listed. ``not_adopted_because`` is empty where somebody may adopt it;
    ``adopted`` are the campaigns that were made of it.
    """

    asked_by: str
    asked_at: datetime | None
    method: str
    version_id: int | None
    model: str
    running: bool
    done: int
    of: int
    seconds_left: float | None
    complete: bool
    problem: str
    changed: int
    changes: list[ChangedAttemptView]
    verdicts_changed: int
    verdicts: list[OtherVerdictView]
    ratings: list[MovedRatingView]
    not_adopted_because: str
    adopted: list[int]
