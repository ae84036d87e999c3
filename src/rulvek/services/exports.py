"""The campaign sheet in the open: CSV after RFC 4180 with units in the headings, and JSON."""

import csv
import io

from rulvek.services.views.attempt import FindingView, ReadingView
from rulvek.services.views.campaign import CampaignView

HEADINGS = (
    "Run",
    "Mode",
    "Group",
    "Load (Ω)",
    "Bridged",
    "Tone (Hz)",
    "Attempt",
    "Origin",
    "Read with",
    "End",
    "Channel",
    "Power (W)",
    "U, 95 % (W)",
    "Output (V rms)",
    "THD+N (%)",
    "Load measured (Ω)",
    "Weakest (W)",
    "Average (W)",
    "Bridged equivalent",
    "Burst, largest (W)",
    "Headroom (dB)",
    "Supply before (V)",
    "Supply at reading (V)",
    "Supply lowest (V)",
    "Sag (V)",
    "Supply current (A)",
    "Efficiency (%)",
    "Heat sink (°C)",
    "Hottest load (°C)",
    "Attempts",
    "Skipped before power",
    "Evidence",
    "Findings",
    "Verdicts",
)


def sheet_csv(campaign: CampaignView) -> str:
    """One line per channel of each run's chosen attempt; CRLF line ends, a byte-order mark for spreadsheets."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEADINGS)
    claims = {claim.id: claim for claim in campaign.claims}
    for run in campaign.runs:
        attempt = run.chosen
        if attempt is None:
            continue
        verdicts = "; ".join(f"{claims[v.claim_id].watts:g} W {v.kind.replace('_', ' ')}" for v in run.verdicts)
        shared_before = (run.position, run.mode, run.group, run.load_ohms, _yes(run.bridged), run.tone_hz)
        readings: list[ReadingView | None] = [*attempt.readings] or [None]
        for reading in readings:
            writer.writerow(
                [
                    *shared_before,
                    attempt.number,
                    f"{attempt.origin} {attempt.file}".strip(),
                    attempt.instrument,
                    attempt.end.value if attempt.end else "running",
                    reading.channel if reading else "",
                    _figure(reading.watts if reading else None, 2),
                    _figure(reading.expanded_watts if reading else None, 2),
                    _figure(reading.volts_rms if reading else None, 3),
                    _figure(reading.thd_n_percent if reading else None, 4),
                    _figure(reading.load_measured if reading else None, 4),
                    _figure(attempt.weakest_watts, 2),
                    _figure(attempt.average_watts, 2),
                    attempt.equivalent or "",
                    _figure(attempt.largest_watts, 2),
                    _figure(run.headroom_db, 2),
                    _figure(attempt.start_volts, 3),
                    _figure(attempt.supply_volts, 3),
                    _figure(attempt.supply_lowest, 3),
                    _figure(attempt.sag_volts, 3),
                    _figure(attempt.supply_amps, 2),
                    _figure(attempt.efficiency_percent, 1),
                    _figure(attempt.temperature_c, 1),
                    _figure(attempt.load_c, 1),
                    len(run.attempts),
                    "; ".join(attempt.skipped),
                    "no, below the rated load" if run.exploratory else "yes",
                    "; ".join(_finding(finding) for finding in attempt.findings),
                    verdicts,
                ]
            )
    return "\ufeff" + out.getvalue()


def _finding(finding: FindingView) -> str:
    aside = f" (set aside by {finding.overruled_by}: {finding.overruled_because})" if finding.overruled_by else ""
    return f"{finding.severity.value} {finding.code}{aside}"


def _figure(value: float | None, digits: int) -> str:
    return "" if value is None else f"{value:.{digits}f}"


def _yes(value: bool) -> str:
    return "yes" if value else "no"
