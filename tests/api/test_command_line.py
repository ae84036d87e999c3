"""The command line: figures from WAV files, tones, and one clear sentence for bad input."""

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile
from typer.testing import CliRunner, Result

from rulvek.cli import app

RATE = 48_000


def call(*words: object) -> Result:
    return CliRunner().invoke(app, [str(word) for word in words])


@pytest.fixture
def stereo(tmp_path: Path) -> Path:
    t = np.arange(RATE) / RATE
    left = 0.5 * np.sin(2 * np.pi * 997.3 * t)
    right = 0.25 * np.sin(2 * np.pi * 997.3 * t) + 0.0025 * np.sin(2 * np.pi * 2 * 997.3 * t) + 0.01
    path = tmp_path / "capture.wav"
    soundfile.write(path, np.column_stack([left, right]), RATE, subtype="FLOAT")
    return path


def test_analyse_prints_one_object(stereo: Path) -> None:
    result = call("analyse", stereo, "--volts-full-scale", 60, "--load", 4, "--json")
    assert result.exit_code == 0, result.output
    report = json.loads(result.stdout)
    left, right = report["channels"]
    assert report["sample_rate"] == RATE
    # 0.5 × 60 V peak: 450 V² mean square, 112.5 W into 4 Ω.
    assert left["watts"] == pytest.approx(112.5, rel=1e-4)
    assert left["rms_volts"] == pytest.approx(30 / 2**0.5, rel=1e-4)
    assert left["fundamental_hz"] == pytest.approx(997.3, abs=1e-4)
    assert right["thd_percent"] == pytest.approx(1.0, rel=1e-3)
    assert right["harmonics_db"][0] == pytest.approx(-40.0, abs=0.01)
    assert right["dc_volts"] == pytest.approx(0.6, rel=1e-3)
    assert set(left) == {
        "rms_volts",
        "watts",
        "fundamental_hz",
        "thd_percent",
        "thd_n_percent",
        "harmonics_db",
        "clipped_share",
        "dc_volts",
    }


def test_analyse_speaks_to_people_too(stereo: Path) -> None:
    result = call("analyse", stereo, "--volts-full-scale", 60, "--load", 4, "--tone", 1000)
    assert "channel 1: 112.5 W into 4 Ω" in result.stdout and "channel 2" in result.stdout


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--load", 0), "--load must be above 0"),
        (("--load", -4), "--load must be above 0"),
        (("--load", "nan"), "--load must be above 0"),
        (("--volts-full-scale", 0), "--volts-full-scale"),
        (("--band-high", 30_000), "above half the sample rate"),
        (("--band-low", 500, "--band-high", 100), "run upwards"),
        (("--tone", 440), "no steady tone at 440 Hz"),
        (("--tone", 30_000), "outside of the band"),
    ],
)
def test_bad_options_end_with_one_sentence(stereo: Path, options: tuple[object, ...], words: str) -> None:
    given = {"--volts-full-scale": 60, "--load": 4} | dict(zip(options[::2], options[1::2], strict=True))
    result = call("analyse", stereo, *(word for pair in given.items() for word in pair))
    assert result.exit_code == 2 and words in result.stderr
    assert "Traceback" not in result.output and result.stderr.count("\n") == 1


def test_bad_files_end_with_one_sentence(tmp_path: Path) -> None:
    cases = {
        "text.wav": None,
        "empty.wav": np.zeros((0, 1)),
        "zeros.wav": np.zeros(4800),
        "nan.wav": np.full(4800, np.nan),
    }
    words = {
        "text.wav": "not a WAV file",
        "empty.wav": "holds no samples",
        "zeros.wav": "all zeros",
        "nan.wav": "no number",
        "missing.wav": "no file",
    }
    for name, samples in cases.items():
        if samples is None:
            (tmp_path / name).write_text("this is not sound")
        else:
            soundfile.write(tmp_path / name, samples, RATE, subtype="FLOAT")
    soundfile.write(tmp_path / "other.flac", np.zeros(480), RATE, format="FLAC")
    words["other.flac"] = "not a WAV file but FLAC"
    for name, expected in words.items():
        result = call("analyse", tmp_path / name, "--volts-full-scale", 60, "--load", 4)
        assert result.exit_code == 2 and expected in result.stderr, (name, result.output)


@pytest.mark.parametrize(("depth", "subtype", "floor_db"), [("pcm24", "PCM_24", -130), ("float32", "FLOAT", -140)])
def test_tones_are_written_and_read_back_clean(tmp_path: Path, depth: str, subtype: str, floor_db: float) -> None:
    path = tmp_path / "tone.wav"
    assert call("tone", path, "--hz", 997.3, "--seconds", 1, "--level", -3, "--depth", depth).exit_code == 0
    info = soundfile.info(path)
    assert info.subtype == subtype and info.samplerate == RATE
    report = json.loads(call("analyse", path, "--volts-full-scale", 1, "--load", 1, "--json").stdout)
    channel = report["channels"][0]
    assert 20 * np.log10(channel["thd_n_percent"] / 100) < floor_db
    assert channel["watts"] == pytest.approx(10**-0.3 / 2, rel=1e-4)


def test_tones_step_and_refuse(tmp_path: Path) -> None:
    path = tmp_path / "steps.wav"
    assert call("tone", path, "--seconds", 0.5, "--level", -20, "--level", 0).exit_code == 0
    samples, _ = soundfile.read(path)
    assert np.max(np.abs(samples[: RATE // 2])) == pytest.approx(0.1, rel=1e-3)
    assert np.max(np.abs(samples[RATE // 2 :])) == pytest.approx(1.0, rel=1e-3)
    for words in (["--hz", "50000"], ["--depth", "mp3"], ["--level", "3"], ["--seconds", "1e9"], ["--rate", "0"]):
        assert call("tone", path, *words).exit_code == 2
    assert call("tone", tmp_path / "no" / "such.wav").exit_code == 2


def test_every_command_explains_itself() -> None:
    for command in ("serve", "demo", "analyse", "tone"):
        assert len(call(command, "--help").stdout) > 200


def test_a_setting_that_cannot_be_is_named(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("RULVEK_PORT", "eighty")
    result = call("serve")
    assert result.exit_code == 2 and "RULVEK_PORT" in result.stderr


def test_check_questions_typed_figures() -> None:
    """19 V rms into 2 Ω are 180.5 W (Ohm's law), and 119 W of 14.2 V × 23 A are 36 %."""
    typed = "check --mode certified --load 2 --watts 119 --volts-rms 19 --supply-volts 14.2 --amps 23 --class AB"
    done = call(*typed.split(), "--json")
    assert done.exit_code == 0
    found = json.loads(done.stdout)["checks"]
    assert [set(finding) for finding in found] == [{"code", "severity", "message", "advice", "leans", "at_most"}] * len(
        found
    )
    by_code = {finding["code"]: finding for finding in found}
    assert by_code["figures-disagree"]["severity"] == "invalid" and "180.5 W" in by_code["figures-disagree"]["message"]
    assert "36 %" in by_code["efficiency-unusual"]["message"]
    words = call(*typed.split())
    assert "figures-disagree: 19 V into 2 Ω are 180.5 W" in words.stdout
    fine = call("check", "--load", "4", "--watts", "72.25", "--volts-rms", "17")
    assert fine.stdout == "Nothing to object to in what was given.\n"


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["check", "--class", "H"], "--class takes AB or D"),
        (["check", "--amps", "nan"], "--amps must be a finite number"),
        (["exponent", "12.5:301", "14"], "“14” is no run"),
        (["exponent", "12.5:-1"], "volts and watts above 0"),
    ],
)
def test_typed_figures_that_are_none(arguments: list[str], words: str) -> None:
    done = call(*arguments)
    assert done.exit_code == 2 and words in done.stderr and "Traceback" not in done.stderr


def test_exponent_of_three_runs_and_of_too_few() -> None:
    done = json.loads(call("exponent", "12.5:301", "13.8:352", "14.4:380", "--at", "14.4", "--json").stdout)
    assert done["exponent"] == pytest.approx(1.636, abs=0.001)  # slope of ln P on ln V, worked out by hand
    low, high = done["interval"]
    assert low < done["exponent"] < high
    assert done["estimate_interval"][0] < done["estimate_watts"] < done["estimate_interval"][1]
    few = json.loads(call("exponent", "14.4:100", "--at", "12.5", "--json").stdout)
    assert few["exponent"] is None and few["interval"] == [0.0, 2.3]
    assert "between 0 and 2.3" in call("exponent", "14.4:100").stdout
