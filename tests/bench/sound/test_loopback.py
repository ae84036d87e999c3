"""An audio interface looked at through its own cables, and its levels found beside a meter."""

import math
import threading
import tomllib
from collections.abc import Iterator
from datetime import date

import numpy as np
import pytest
from pydantic import TypeAdapter
from scipy.signal import lfilter

from rulvek.bench.sound.calibration import AMPLITUDE, calibrated
from rulvek.bench.sound.devices import devices
from rulvek.bench.sound.duplex import Duplex
from rulvek.bench.sound.levels import HALF_TAPS, Levels, ResponsePoint, as_toml
from rulvek.bench.sound.loopback import look_at
from rulvek.core.errors import BenchFault
from tests.bench.sound.fake import LATENCY, FakePortAudio

RATE = 48_000


@pytest.fixture
def interface(card: FakePortAudio) -> Iterator[Duplex]:
    made = Duplex("Interface", 2, 2)
    made.open(RATE)
    yield made
    made.close()


def found(interface: Duplex) -> dict[str, tuple[str, bool]]:
    return {one.at: (one.found, one.passed) for one in look_at(interface, 2.0)}


def test_a_bare_wire_passes(interface: Duplex) -> None:
    looked = found(interface)
    words, passed = looked["output 1 to input 1"]
    assert passed and f"{LATENCY} samples (44.3 ms), +0 than is told" in words
    residual = float(words.split("residual ")[1].split(" dB")[0])
    assert residual < -130  # what float32 leaves
    assert looked["polarity of input 2"] == ("as it is sent", True)
    assert looked["slips"][1]


def test_what_is_wrong_with_the_cables_is_told(interface: Duplex, card: FakePortAudio) -> None:
    card.wire = lambda sent: np.stack([-sent[:, 0], 0 * sent[:, 1]], axis=1)
    looked = found(interface)
    assert looked["polarity of input 1"][0] == "inverted"
    assert looked["output 2"] == ("does not come back at input 2", False)
    card.wire = lambda sent: np.stack([sent[:, 0] + 0.01 * sent[:, 1], sent[:, 1] + 0.01 * sent[:, 0]], axis=1)
    words, passed = found(interface)["output 1 to input 1"]
    assert not passed and "cross-talk -40.0 dB" in words
    card.wire = lambda sent: sent + 0.001 * sent**3
    words, passed = found(interface)["output 1 to input 1"]
    # a³ makes a third harmonic of a quarter of it: 0.00025 a² re the fundamental
    residual = 20 * math.log10(0.00025 * 10 ** (-6 / 20))
    assert not passed and float(words.split("residual ")[1].split(" dB")[0]) == pytest.approx(residual, abs=0.1)


def test_one_lost_sample_is_found_where_nothing_is_told(interface: Duplex, card: FakePortAudio) -> None:
    looks = look_at(interface, 8.0)
    for _ in range(4):
        next(looks)
    threading.Timer(0.05, lambda: setattr(card, "lose_at", 100)).start()
    slips = next(looks)
    assert (slips.found, slips.passed) == ("1 samples in 8 s", False)


def test_the_latency_is_what_it_is_and_not_what_is_told(card: FakePortAudio) -> None:
    card.late = 123
    interface = Duplex("Interface", 2, 2)
    interface.open(RATE)
    words, _ = found(interface)["output 1 to input 1"]
    interface.close()
    assert f"{LATENCY + 123} samples" in words and "+123 than is told" in words


def test_levels_come_from_a_meter(interface: Duplex, card: FakePortAudio) -> None:
    """Outputs of 3 V and 5 V full scale that roll off by a pole, inputs of 6 V and 2 V."""
    out, into = np.array([3.0, 5.0]), np.array([6.0, 2.0])
    state = np.zeros((1, 2))
    pole = 0.5

    def wire(sent: np.ndarray) -> np.ndarray:
        nonlocal state
        volts, state = lfilter([1 - pole], [1, -pole], sent.astype(np.float64), axis=0, zi=state)
        return (volts * out / into).astype(np.float32)

    def response(hz: float) -> float:
        return abs((1 - pole) / (1 - pole * np.exp(-2j * np.pi * hz / RATE)))

    card.wire = wire
    asked: list[str] = []

    def meter(words: str) -> float:
        asked.append(words)
        output, hz = int(words.split()[1]) - 1, float(words.split("sends ")[1].split(" Hz")[0])
        return AMPLITUDE * float(out[output]) * response(hz)

    levels = calibrated(interface, meter, (20.0, 10_000.0), date(2026, 3, 2), "Meter 4", 0.5)
    flat = response(1000.0)
    assert levels.output_volts == pytest.approx((3 * flat, 5 * flat), rel=1e-4)
    assert levels.input_volts == pytest.approx((6.0, 2.0), rel=1e-4)
    assert {one.hz: one.db for one in levels.output_response}[10_000.0] == pytest.approx(
        20 * math.log10(response(10_000.0) / flat), abs=1e-3
    )
    assert [one.db for one in levels.input_response] == pytest.approx([0, 0, 0], abs=1e-3)
    assert len(asked) == 4 and "Output 2 sends 1000 Hz" in asked[1]
    again = TypeAdapter(Levels).validate_python(tomllib.loads(as_toml(levels))["levels"])
    assert again.output_volts == pytest.approx(levels.output_volts, rel=1e-5) and again.on == levels.on


@pytest.mark.parametrize(("down_db", "within"), [(0.3, 1e-4), (3.0, 1e-3)])
def test_a_response_is_taken_back_out(down_db: float, within: float) -> None:
    """An input that is down at 10 kHz reads there what it reads at 1 kHz, at the record's ends as well."""
    points = ((20.0, 0.0), (1000.0, 0.0), (10_000.0, -down_db), (20_000.0, -down_db))
    response = tuple(ResponsePoint(hz, db) for hz, db in points)
    levels = Levels((1.0,), (2.0,), input_response=response)
    moments = np.arange(HALF_TAPS + 9_600 + HALF_TAPS) / 96_000
    for hz, db in ((1000.0, 0.0), (10_000.0, -down_db)):
        taken = (0.5 * 10 ** (db / 20) * np.sin(2 * np.pi * hz * moments)).astype(np.float32)[None, :]
        volts = levels.volts(taken, 96_000)[0]
        assert len(volts) == 9_600
        parts = np.sqrt(np.mean(np.square(volts.reshape(10, -1)), axis=1))
        assert parts == pytest.approx(1.0, rel=within)


def test_who_is_not_there_or_cannot_is_told(card: FakePortAudio) -> None:
    assert [one.address for one in devices()] == ["sound:Interface"]
    with pytest.raises(BenchFault, match="no audio interface “Other” on this machine"):
        Duplex("Other", 2, 2).open(RATE)
    with pytest.raises(BenchFault, match="has 2 inputs and 2 outputs; 8 and 8 are described"):
        Duplex("Interface", 8, 8).open(RATE)
    with pytest.raises(BenchFault, match="cannot be had at 44100 Hz: Invalid sample rate"):
        Duplex("Interface", 2, 2).open(44_100)
