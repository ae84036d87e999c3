"""The campaign sheet in the open: CSV after RFC 4180 with units in the headings, and JSON."""

import csv
import io

from rulvek.core.judgement.checks import Finding
from rulvek.core.judgement.judged import JudgedAttempt, JudgedCampaign, JudgedRun
from rulvek.core.records.attempts import Reading, SetAside
from rulvek.core.records.campaigns import SIMULATED
from rulvek.core.rounding import rounded

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
HEADINGS = (
    "Run",
    "Mode",
    "Group",
    "Load (Ω)",
    "Bridged",
    "Tone (Hz)",
    "To hold (W)",
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
    "Proof",
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
    "Decision rule",
    "Verdicts",
)


def sheet_csv(judged: JudgedCampaign) -> str:
    """One line per channel of each run's standing attempt; CRLF line ends, a byte-order mark for spreadsheets."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEADINGS)
    claims = {claim.id: claim for claim in judged.model.claims}
    for run in judged.runs:
        if run.standing is None:
            continue
        verdicts = "; ".join(f"{claims[v.claim_id].watts:g} W {v.kind.replace('_', ' ')}" for v in run.verdicts)
        readings: list[Reading | None] = [*run.standing.attempt.readings] or [None]
        for reading in readings:
            cells = [*_run_cells(run), *_reading_cells(run.standing, reading), *_attempt_cells(run)]
            writer.writerow([_shown(cell) for cell in (*cells, judged.rule.words, verdicts)])
    return "\ufeff" + out.getvalue()


def _shown(cell: object) -> object:
    """A cell as it is read: text that begins as a formula would is never carried out."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(_FORMULA) else cell


def _run_cells(run: JudgedRun) -> list[object]:
    spec = run.run.spec
    return [
        run.run.position,
        spec.mode,
        spec.group,
        spec.load_ohms,
        _yes(spec.bridged),
        spec.tone_hz,
        _figure(spec.watts, 1),
    ]


def _reading_cells(judged: JudgedAttempt, reading: Reading | None) -> list[object]:
    attempt, file = judged.attempt, judged.attempt.outside.file if judged.attempt.outside else ""
    thd_n = reading.thd_n if reading else None
    return [
        attempt.number,
        f"{SIMULATED if attempt.simulated else attempt.origin} {file}".strip(),
        attempt.instruments.output_name,
        attempt.ending.end.value if attempt.ending else "running",
        reading.channel if reading else "",
        _with_u(reading.watts, judged.expanded[reading.channel]) if reading else "",
        _with_u(judged.expanded[reading.channel], judged.expanded[reading.channel]) if reading else "",
        _figure(reading.volts_rms if reading else None, 3),
        _figure(None if thd_n is None else 100 * thd_n, 4),
        _figure(reading.load.measured_ohms if reading else None, 4),
    ]


def _attempt_cells(run: JudgedRun) -> list[object]:
    judged = run.standing
    assert judged is not None
    attempt, ending = judged.attempt, judged.attempt.ending
    share, equivalent = judged.efficiency, judged.equivalent
    return [
        _with_u(attempt.weakest_watts, judged.weakest_expanded),
        _figure(judged.average_watts, 2),
        f"{equivalent[0]} × {equivalent[1]:.1f} W at {equivalent[2]:g} Ω" if equivalent else "",
        _figure(ending.largest_watts if ending else None, 2),
        _figure(run.headroom_db, 2),
        run.proof.words if run.proof else "",
        _figure(ending.start_volts if ending else None, 3),
        _figure(ending.supply_volts if ending else None, 3),
        _figure(ending.supply_lowest if ending else None, 3),
        _figure(judged.sag_volts, 3),
        _figure(ending.supply_amps if ending else None, 2),
        _figure(None if share is None else 100 * share, 1),
        _figure(ending.temperature_c if ending else None, 1),
        _figure(ending.load_c if ending else None, 1),
        len(run.attempts),
        "; ".join(attempt.circumstances),
        "no, below the rated load" if run.run.exploratory else "yes",
        "; ".join(_finding(finding, aside) for finding, aside in judged.question.findings),
    ]


def _finding(finding: Finding, aside: SetAside | None) -> str:
    words = f" (set aside by {aside.by}: {aside.reason})" if aside else ""
    return f"{finding.severity.value} {finding.code}{words}"


def _with_u(value: float | None, expanded: float | None) -> str:
    return "" if value is None else rounded(value, expanded)


def _figure(value: float | None, digits: int) -> str:
    return "" if value is None else f"{value:.{digits}f}"


def _yes(value: bool) -> str:
    return "yes" if value else "no"
