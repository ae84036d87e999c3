"""The evidence behind a figure: an attempt's page, its wave and spectrum, the list of all attempts."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from rulvek.core.errors import Conflict, NotFound
from rulvek.core.judgement.checks import Severity
from rulvek.core.judgement.judged import judge_campaign, judged_attempts
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.method.origins import ORIGINS
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.attempts import Attempt, KeptFile
from rulvek.core.records.campaigns import Run
from rulvek.core.records.summaries import AttemptFilter
from rulvek.core.runs.modes import Mode
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.attempt import attempt_view, point_view, second_views
from rulvek.services.views.base import history_view
from rulvek.services.views.campaign import run_view
from rulvek.services.views.evidence import (
    AttemptList,
    AttemptPage,
    AttemptRow,
    CaptureView,
    SpectrumView,
    WaveView,
    attempt_row,
    budget_view,
    spectrum_view,
    wave_view,
)
from rulvek.services.views.line import verdict_views
from rulvek.store import load
from rulvek.store.engine import Database, Session
from rulvek.store.files import FileStore
from rulvek.store.queries import campaigns as queries
from rulvek.store.queries import records as record_queries

PAGE = 50

ANY_ATTEMPT = AttemptFilter()
MOST_PAGES = 10


class EvidencePages:
    """Reads attempts and their captures."""

    def __init__(self, database: Database, conclusions: Conclusions, files: FileStore) -> None:
        self._database, self._conclusions, self._files = database, conclusions, files

    def attempts(
        self, before: int | None = None, limit: int = PAGE, wanted: AttemptFilter = ANY_ATTEMPT
    ) -> AttemptList:
        """Attempts, the newest first.

        What the checks say, and which attempt stands, is worked out attempt by attempt: where that is asked for, so
        many pages at most are gone through for one; ``next`` says where to read on.
        """
        items: list[AttemptRow] = []
        unreadable: list[str] = []
        worked_out = bool(wanted.check) or wanted.stands is not None
        with self._database.reading() as session:
            for _ in range(MOST_PAGES if worked_out else 1):
                places, before = queries.attempts_page(session, before, limit, wanted)
                rows, problems = self._rows(session, places)
                found = (rows[place.attempt_id] for place in places if place.attempt_id in rows)
                items += [row for row in found if _is_wanted(row, wanted)]
                unreadable += problems
                if before is None or len(items) >= limit:
                    break
        return AttemptList(items=items, unreadable=unreadable, next=before)

    def _rows(
        self, session: Session, places: Sequence[queries.AttemptPlace]
    ) -> tuple[dict[int, AttemptRow], list[str]]:
        names = {place.attempt_id: place.model_name for place in places}
        campaigns = load.around_attempts(session, list(names))
        units = {campaign.unit.id: campaign.unit for campaign in campaigns}
        models = {m.id: m for m in load.models(session, sorted({unit.model_id for unit in units.values()}))}
        fits = self._conclusions.fits(session, list(units.values()))
        rows: dict[int, AttemptRow] = {}
        for campaign in campaigns:
            product = models[campaign.unit.model_id].product
            for one, judged in judged_attempts(campaign, product, fits[campaign.unit.id]).items():
                if one in names:
                    rows[one] = attempt_row(judged, campaign, names[one])
        problems = {p.subject: p.what for campaign in campaigns for p in campaign.unreadable}
        return rows, [problems[one] for one in names if one in problems]

    def attempt(self, attempt_id: int, rule: DecisionRule = DecisionRule.AS_STORED) -> AttemptPage:
        """Everything on one attempt."""
        with self._database.reading() as session:
            campaign, run, attempt = load.attempt(session, attempt_id)
            model = load.model(session, campaign.unit.model_id)
            fits = self._conclusions.fits(session, [campaign.unit])[campaign.unit.id]
            steps = queries.steps(session, attempt_id)
            history = record_queries.history(session, [f"campaign/{campaign.id}"])
        judged = judge_campaign(campaign, model, fits, rule)
        judged_run = next(one for one in judged.runs if one.run.id == run.id)
        mine = next(one for one in judged_run.attempts if one.attempt.id == attempt_id)
        prepared = next((step.data for step in steps if step.kind == "prepared"), None)
        verdicts = verdict_views(judged.verdicts.values(), model, campaign.method, campaign.unit.id)
        return AttemptPage(
            attempt=attempt_view(mine),
            run=run_view(judged_run, verdicts),
            campaign_id=campaign.id,
            unit_id=campaign.unit.id,
            unit_serial=campaign.unit.serial,
            model_id=model.id,
            model_name=model.name,
            bench=prepared["bench"] if prepared else {},
            budget=budget_view(mine),
            seconds=second_views(attempt, campaign.method),
            clamp_zero_amps=prepared["clamp_zero_amps"] if prepared else None,
            method=campaign.method.as_data(),
            method_origins=dict(ORIGINS),
            points=[point_view(step.data) for step in steps if step.kind == "point"],
            captures=[self._capture_view(number, kept) for number, kept in enumerate(attempt.captures, 1)],
            rule=judged.rule,
            history=[history_view(h.at, h.actor, h.action, h.text, h.hash) for h in history],
        )

    def wave(self, attempt_id: int, channel: int, cycles: float = 3.0) -> WaveView:
        """A few cycles from the middle of the reading's capture."""
        volts, rate, run, _ = self._channel(attempt_id, channel)
        return wave_view(channel, volts, rate, run.spec.tone_hz, cycles)

    def spectrum(self, attempt_id: int, channel: int) -> SpectrumView:
        """Levels up to the band's limit (or to where the capture ends), with the harmonics marked."""
        volts, rate, run, method = self._channel(attempt_id, channel)
        burst = method.burst_named(run.spec.burst, run.spec.tone_hz) if run.spec.mode is Mode.BURST else None
        return spectrum_view(channel, volts, rate, run.spec.tone_hz, method.band, burst)

    def capture_path(self, attempt_id: int) -> Path:
        """The WAV file of an attempt's reading.

        Raises:
            NotFound: the attempt kept none, or the file is gone.
            Conflict: it is not the file that was kept.
        """
        return self._files.path(self._intact_capture(self._load(attempt_id)[1]).path)

    def original_path(self, attempt_id: int) -> Path:
        """The file that a recorded attempt was read from, as it was sent.

        Raises:
            NotFound: the attempt was not recorded, or the file is gone.
        """
        _, attempt, _ = self._load(attempt_id)
        if attempt.outside is None or not attempt.outside.original:
            raise NotFound(f"Attempt {attempt_id} was not read from a file.")
        return self._files.path(attempt.outside.original)

    def _load(self, attempt_id: int) -> tuple[Run, Attempt, MethodProfile]:
        with self._database.reading() as session:
            campaign, run, attempt = load.attempt(session, attempt_id)
        return run, attempt, campaign.method

    def _channel(self, attempt_id: int, channel: int) -> tuple[np.ndarray, float, Run, MethodProfile]:
        run, attempt, method = self._load(attempt_id)
        capture = self._files.load_capture(self._intact_capture(attempt))
        outputs = capture.outputs()
        if channel not in outputs:
            raise NotFound(f"The capture of attempt {attempt_id} has no channel {channel}.")
        return outputs[channel], capture.sample_rate, run, method

    def _intact_capture(self, attempt: Attempt) -> KeptFile:
        kept = _first_capture(attempt)
        if not self._files.is_intact(kept):
            raise Conflict(
                f"The capture file {kept.path} is not the one that was kept: its fingerprint differs.",
                todo="Restore it from a backup.",
                code="capture-changed",
            )
        return kept

    def _capture_view(self, number: int, kept: KeptFile) -> CaptureView:
        return CaptureView(
            id=number,
            path=kept.path,
            sha256=kept.sha256,
            bytes=kept.bytes,
            kept_at=kept.kept_at,
            intact=self._files.is_intact(kept),
        )


def _first_capture(attempt: Attempt) -> KeptFile:
    if not attempt.captures:
        raise NotFound(f"Attempt {attempt.id} kept no capture.")
    return attempt.captures[0]


def _is_wanted(row: AttemptRow, wanted: AttemptFilter) -> bool:
    open_findings = [finding for finding in row.findings if finding.overruled_by is None]
    if wanted.check == "any" and not any(finding.severity is not Severity.NOTE for finding in open_findings):
        return False
    if wanted.check not in ("", "any") and wanted.check not in {finding.code for finding in open_findings}:
        return False
    return wanted.stands in (None, row.stands)
