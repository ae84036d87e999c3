"""``rulvek analyse`` against captures of a circuit simulator and of a signal tool; see ``captures/README.md``."""

import json
import math
import re
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from rulvek.cli import app

CAPTURES = Path(__file__).parent / "captures"
FULL_SCALE = 60.0
HARMONICS = 20  # up to 20 kHz, as both the band and the simulator's table


def analysed(name: str, *more: str, full_scale: float = FULL_SCALE) -> dict[str, Any]:
    words = ["analyse", str(CAPTURES / name), "--volts-full-scale", str(full_scale), "--load", "4", "--json", *more]
    result = CliRunner().invoke(app, words)
    assert result.exit_code == 0, result.output
    return json.loads(result.stdout)["channels"][0]  # type: ignore[no-any-return]


def fourier_table(name: str) -> tuple[float, list[float]]:
    """THD in percent as the simulator states it, and its magnitudes from 0 Hz on, in volts peak."""
    text = (CAPTURES / f"{name}.fourier.txt").read_text()
    stated = re.search(r"THD: ([\d.]+) %", text)
    assert stated is not None
    rows = re.findall(r"^ *(\d+) +[\d.e+-]+ +([\d.e+-]+)", text, re.MULTILINE)
    magnitudes = [float(volts) for _, volts in rows]
    assert len(magnitudes) == HARMONICS + 1
    return float(stated.group(1)), magnitudes


@pytest.mark.parametrize("name", ["diode_clipper", "follower"])
def test_a_circuit_simulators_wave_has_the_harmonics_of_its_own_table(name: str) -> None:
    thd, magnitudes = fourier_table(name)
    found = analysed(f"{name}.wav")
    assert found["fundamental_hz"] == pytest.approx(1000.0, rel=1e-6)
    assert found["thd_percent"] == pytest.approx(thd, rel=2e-3)
    # Parseval: the rms of all that the table holds; what lies above 20 kHz is little of it.
    rms = math.sqrt(magnitudes[0] ** 2 + sum(v**2 for v in magnitudes[1:]) / 2)
    assert found["rms_volts"] == pytest.approx(rms, rel=1e-3)
    assert found["watts"] == pytest.approx(rms**2 / 4, rel=2e-3)
    assert found["dc_volts"] == pytest.approx(magnitudes[0], abs=2e-3)
    distortion = math.sqrt(sum(v**2 for v in magnitudes[2:]))
    whole = math.sqrt(sum(v**2 for v in magnitudes[1:]))
    assert found["thd_n_percent"] == pytest.approx(100 * distortion / whole, rel=2e-3)


def test_a_signal_tools_tone_with_a_known_third_harmonic() -> None:
    """Amplitudes 0.5 and 0.005 of full scale: 1 % THD, and (0.5² + 0.005²)·60²/2 V² mean square."""
    found = analysed("sox_tone.wav")
    assert found["thd_percent"] == pytest.approx(1.0, rel=1e-3)
    assert found["watts"] == pytest.approx((0.5**2 + 0.005**2) * 60**2 / 2 / 4, rel=1e-4)


def test_a_24_bit_tone_that_does_not_fit_the_record() -> None:
    """997 Hz over half a second at 44.1 kHz holds no whole number of cycles; amplitude 0.25, noise of 24 bit."""
    found = analysed("sox_997.wav", full_scale=40.0)
    assert found["fundamental_hz"] == pytest.approx(997.0, abs=1e-4)
    assert found["rms_volts"] == pytest.approx(10 / math.sqrt(2), rel=1e-4)
    assert found["thd_n_percent"] < 0.001
