"""The evidence behind a figure: an attempt's page, its wave and spectrum, the list of all attempts."""

from pathlib import Path

import numpy as np

from rulvek.core.errors import Conflict, NotFound
from rulvek.core.judgement.method import ORIGINS
from rulvek.core.measure.burst import counted_cycles
from rulvek.core.measure.distortion import analyse_tone
from rulvek.core.measure.spectrum import level_columns
from rulvek.core.measure.steps import Mode
from rulvek.services.campaigns import PAGE, campaign_view
from rulvek.services.catalogue import history
from rulvek.services.checking import budget_view, questioned_view
from rulvek.services.records import method_of, percent, point_view
from rulvek.services.second import second_views
from rulvek.services.views.evidence import (
    AttemptList,
    AttemptPage,
    AttemptRow,
    CaptureView,
    HarmonicView,
    SpectrumView,
    WaveView,
)
from rulvek.store import queries, tables
from rulvek.store.captures import CaptureFolder
from rulvek.store.database import Database

HARMONICS_SHOWN = 12


class EvidenceRoom:
    """Reads attempts and their captures."""

    def __init__(self, database: Database, captures: Path) -> None:
        self.captures = captures
        self._database, self._captures = database, CaptureFolder(captures)

    def attempts(self, before: int | None = None, limit: int = PAGE, model_id: int | None = None) -> AttemptList:
        """All attempts, the newest first."""
        with self._database.reading() as session:
            rows = queries.attempts(session, before, limit + 1, model_id)
            items = [_row(row) for row in rows[:limit]]
        return AttemptList(items=items, next=items[-1].id if len(rows) > limit else None)

    def attempt(self, attempt_id: int) -> AttemptPage:
        """Everything on one attempt."""
        with self._database.reading() as session:
            row = queries.attempt(session, attempt_id)
            campaign = row.run.campaign
            method = method_of(campaign)
            steps = queries.steps(session, attempt_id)
            prepared = next((step.data for step in steps if step.kind == "prepared"), None)
            sheet = campaign_view(session, queries.campaign(session, campaign.id))
            return AttemptPage(
                attempt=questioned_view(row, method),
                run=next(run for run in sheet.runs if run.id == row.run_id),
                campaign_id=campaign.id,
                unit_id=campaign.unit_id,
                unit_serial=campaign.unit.serial,
                model_id=campaign.unit.model_id,
                model_name=campaign.unit.model.name,
                bench=prepared["bench"] if prepared else {},
                budget=budget_view(row),
                seconds=second_views(row),
                clamp_zero_amps=prepared["clamp_zero_amps"] if prepared else None,
                method=dict(campaign.method),
                method_origins=dict(ORIGINS),
                points=[point_view(step.data) for step in steps if step.kind == "point"],
                captures=[self._capture_view(capture) for capture in row.captures],
                history=history(session, [f"campaign/{campaign.id}"]),
            )

    def wave(self, attempt_id: int, channel: int, cycles: float = 3.0) -> WaveView:
        """A few cycles from the middle of the reading's capture."""
        volts, rate, tone_hz = self._channel(attempt_id, channel)
        count = max(2, min(volts.size, round(cycles * rate / tone_hz)))
        start = (volts.size - count) // 2
        stride = max(1, count // 1200)
        part = volts[start : start + count : stride]
        milliseconds = np.arange(part.size) * stride / rate * 1000
        return WaveView(channel=channel, milliseconds=_rounded(milliseconds, 5), volts=_rounded(part, 4))

    def spectrum(self, attempt_id: int, channel: int) -> SpectrumView:
        """Levels up to the band's limit, with the harmonics marked."""
        volts, rate, tone_hz = self._channel(attempt_id, channel)
        with self._database.reading() as session:
            run = queries.attempt(session, attempt_id).run
            method = method_of(run.campaign)
            band = method.band
        if run.mode == Mode.BURST:  # the silence around a burst is no part of its spectrum
            counted = counted_cycles(volts, rate, method.burst_named(run.burst, run.tone_hz))
            volts = volts if counted is None else counted
        tone = analyse_tone(volts, rate, band=band, tone_hz=tone_hz, coherent=True)
        hz, db = level_columns(volts, rate, band.low_hz, band.high_hz, tone.fundamental_volts)
        return SpectrumView(
            channel=channel,
            hz=_rounded(hz, 2),
            db=_rounded(db, 2),
            fundamental_hz=tone.fundamental_hz,
            fundamental_volts=tone.fundamental_volts,
            thd_percent=100 * tone.thd,
            thd_n_percent=percent(tone.thd_n) or 0.0,
            harmonics=[
                HarmonicView(order=order, hz=order * tone.fundamental_hz, db=level)
                for order, level in enumerate(tone.harmonics_db[:HARMONICS_SHOWN], 2)
            ],
        )

    def capture_path(self, attempt_id: int) -> Path:
        """The WAV file of an attempt's reading.

        Raises:
            NotFound: the attempt kept none, or the file is gone.
        """
        with self._database.reading() as session:
            kept = queries.attempt(session, attempt_id).captures
        if not kept:
            raise NotFound(f"Attempt {attempt_id} kept no capture.")
        path = self._captures.root / kept[0].path
        if not path.is_file():
            raise NotFound(f"The capture file {kept[0].path} is gone from the folder of captures.")
        return path

    def original_path(self, attempt_id: int) -> Path:
        """The file that a recorded attempt was read from, as it was sent.

        Raises:
            NotFound: the attempt was not recorded, or the file is gone.
        """
        with self._database.reading() as session:
            kept = queries.attempt(session, attempt_id).recorded
        if not kept:
            raise NotFound(f"Attempt {attempt_id} was not read from a file.")
        path = self._captures.root / str(kept["original"])
        if not path.is_file():
            raise NotFound(f"The recording {kept['file']} is gone from the folder of captures.")
        return path

    def _channel(self, attempt_id: int, channel: int) -> tuple[np.ndarray, float, float]:
        with self._database.reading() as session:
            row = queries.attempt(session, attempt_id)
            tone_hz, kept = row.run.tone_hz, row.captures
        if not kept:
            raise NotFound(f"Attempt {attempt_id} kept no capture.")
        if self._captures.fingerprint(kept[0].path) != kept[0].sha256:
            raise Conflict(
                f"The capture file {kept[0].path} is not the one that was kept: its fingerprint differs.",
                todo="Restore it from a backup.",
                code="capture-changed",
            )
        capture = self._captures.load(kept[0].path)
        outputs = capture.outputs()
        if channel not in outputs:
            raise NotFound(f"The capture of attempt {attempt_id} has no channel {channel}.")
        return outputs[channel], capture.sample_rate, tone_hz

    def _capture_view(self, row: tables.CaptureFile) -> CaptureView:
        try:
            intact = self._captures.fingerprint(row.path) == row.sha256
        except NotFound:
            intact = False
        return CaptureView(
            id=row.id, path=row.path, sha256=row.sha256, bytes=row.bytes, kept_at=row.kept_at, intact=intact
        )


def _row(row: tables.Attempt) -> AttemptRow:
    run, ending = row.run, row.ending
    view = questioned_view(row, method_of(run.campaign))
    return AttemptRow(
        id=row.id,
        campaign_id=run.campaign_id,
        unit_serial=run.campaign.unit.serial,
        model_name=run.campaign.unit.model.name,
        mode=Mode(run.mode),
        group=run.group,
        load_ohms=run.load_ohms,
        bridged=run.bridged,
        tone_hz=run.tone_hz,
        number=row.number,
        started_by=row.started_by,
        started_at=row.started_at,
        end=view.end,
        at_limit=view.at_limit,
        origin=view.origin,
        findings=view.findings,
        weakest_watts=view.weakest_watts,
        expanded_watts=view.expanded_watts,
        supply_volts=ending.supply_volts if ending else None,
    )


def _rounded(values: np.ndarray, digits: int) -> list[float]:
    return [float(value) for value in np.round(values, digits)]
