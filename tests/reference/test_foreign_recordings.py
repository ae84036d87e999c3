"""The importers, from the file to the record, against captures of other programs: see ``captures/README.md``."""

import math
import re
from pathlib import Path

import pytest

from rulvek.composition import Services
from rulvek.core.errors import BadCapture
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.outside import RecordingSetup
from rulvek.services.views.outside import RecordingView
from rulvek.store.formats.recorded_files import ColumnUse
from tests.conftest import JOREN

CAPTURES = Path(__file__).parent / "captures"
MAIN = RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4, False)
BRIDGED = RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4, True)  # a pair of the test model: one reading
BURST = RunSpec(Mode.BURST, "main", 4.0, 1000.0, 14.4, True, "1 kHz")


def read(services: Services, unit_id: int, name: str, spec: RunSpec, *rows: ColumnUse, **more: float) -> RecordingView:
    arriving = services.recordings.arriving(name, JOREN)
    arriving.write((CAPTURES / name).read_bytes())
    waiting = arriving.finish()
    setup = RecordingSetup(spec, rows, "Another program", time_column=waiting.layout.time_column, **more)  # type: ignore[arg-type]
    services.recordings.read(waiting.id, unit_id, setup)
    return services.recordings.wait(waiting.id)


def output(channel: int, column: int = 0, factor: float = 60.0) -> ColumnUse:
    return ColumnUse(column, "output_volts", channel, factor)


def test_a_circuit_simulators_text_of_time_volts_and_amps(services: Services, unit_id: int) -> None:
    """Expected: the simulator's own Fourier table, and the 4 Ω of its netlist."""
    table = (CAPTURES / "follower_amps.fourier.txt").read_text()
    magnitudes = [float(volts) for volts in re.findall(r"^ *\d+ +[\d.e+-]+ +([\d.e+-]+)", table, re.MULTILINE)]
    whole = math.sqrt(sum(v * v for v in magnitudes[1:]))
    distortion = math.sqrt(sum(v * v for v in magnitudes[2:]))
    rows = (output(1, 1, 1.0), ColumnUse(2, "output_amps", 1, 1.0))
    shown = read(services, unit_id, "follower_amps.txt", BRIDGED, *rows)
    assert shown.layout.separator == " " and shown.layout.time_column == 0
    assert [column.name for column in shown.layout.columns] == ["time", "v(out)", "i(vs)"]
    # The wave has 1.08 % THD by the simulator's own words: over the limit, so there is no certified reading in it.
    assert distortion / whole > 0.0107
    assert shown.state == "failed" and "over 1 % THD+N" in shown.problem
    setup = RecordingSetup(
        RunSpec(Mode.UNCERTIFIED, "main", 4.0, 1000.0, 14.4, True), rows, "Another program", time_column=0
    )
    services.recordings.read(shown.id, unit_id, setup)
    again = services.recordings.wait(shown.id)
    assert again.attempt is not None and again.found is not None, again.problem
    (reading,) = again.attempt.readings
    assert again.found.tone_hz == pytest.approx(1000.0, rel=1e-6)
    assert reading.thd_n_percent == pytest.approx(100 * distortion / whole, rel=5e-3)
    assert reading.load_measured == pytest.approx(4.0, rel=1e-6)
    assert reading.watts == pytest.approx((magnitudes[0] ** 2 + whole**2 / 2) / 4, rel=1e-3)


def test_a_signal_tools_steps_are_found_as_four_levels(services: Services, unit_id: int) -> None:
    """Peaks of 0.2, 0.25, 0.3 and 0.4 of 60 V."""
    shown = read(services, unit_id, "sox_steps.wav", BRIDGED, output(1))
    assert shown.found is not None and shown.found.kind == "sweep", shown.problem
    peaks = [math.sqrt(2 * 4 * section.weakest_watts) / 60 for section in shown.found.sections]
    assert peaks == pytest.approx([0.2, 0.25, 0.3, 0.4], rel=1e-4)
    assert [round(section.start, 1) for section in shown.found.sections] == [0.0, 0.5, 1.0, 1.5]
    # Clean to its end: stopped short; it began with a quarter of the last power, with no silence before it.
    assert shown.attempt is not None and shown.attempt.end == "operator"
    assert [finding.code for finding in shown.attempt.findings] == ["bad-start", "stopped-short"]


def test_a_signal_tools_bursts_are_found_as_four_bursts(services: Services, unit_id: int) -> None:
    """20 cycles of 1 kHz after 0.2 s of silence, four times."""
    shown = read(services, unit_id, "sox_bursts.wav", BURST, output(1))
    assert shown.found is not None and shown.found.kind == "bursts", shown.problem
    starts = [section.start for section in shown.found.sections]
    assert starts == pytest.approx([0.2, 0.62, 1.04, 1.46], abs=2e-3)
    assert shown.found.burst == "20 cycles"
    peaks = [math.sqrt(2 * 4 * section.weakest_watts) / 60 for section in shown.found.sections]
    assert peaks == pytest.approx([0.2, 0.25, 0.3, 0.4], rel=1e-3)


def test_a_recording_goes_on_record_with_its_wave_its_points_and_its_original(services: Services, unit_id: int) -> None:
    shown = read(services, unit_id, "sox_997.wav", BRIDGED, output(1, factor=80.0), loaded_volts=14.35)
    attempt_id = services.recordings.keep(shown.id, JOREN)
    page = services.evidence.attempt(attempt_id)
    assert page.attempt.origin == "recorded" and page.attempt.file == "sox_997.wav"
    assert page.attempt.weakest_watts == pytest.approx((0.25 * 80) ** 2 / 8, rel=1e-4)
    assert page.attempt.supply_volts == 14.35 and page.attempt.readings[0].expanded_watts > 0
    assert len(page.points) == 1 and page.captures[0].intact
    assert services.evidence.spectrum(attempt_id, 1).fundamental_hz == pytest.approx(997.0, abs=1e-3)
    assert services.evidence.original_path(attempt_id).read_bytes() == (CAPTURES / "sox_997.wav").read_bytes()
    assert list((services.files.root.parent / "arriving").iterdir()) == []


def test_a_channel_that_the_run_reads_must_be_in_the_recording(services: Services, unit_id: int) -> None:
    shown = read(services, unit_id, "sox_997.wav", MAIN, output(1))
    assert shown.state == "failed" and shown.problem.startswith("The run reads channel 2")
    services.recordings.let_go(shown.id)
    assert services.campaigns.listed().items == []
    with pytest.raises(BadCapture):
        broken = services.recordings.arriving("broken.wav", JOREN)
        broken.write((CAPTURES / "sox_997.wav").read_bytes()[:30_000])
        broken.finish()
    assert list((services.files.root.parent / "arriving").iterdir()) == []
