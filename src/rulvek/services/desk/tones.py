"""WAV files on the command line: reading a capture's figures, writing tones."""

import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import soundfile

from rulvek.core.errors import BadCapture, BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.signals import tones
from rulvek.core.signals.capture import checked_samples
from rulvek.core.signals.clipping import clipping
from rulvek.core.signals.distortion import Band, analyse_tone

SUBTYPES = {"pcm24": "PCM_24", "float32": "FLOAT"}
MOST_TONE_SAMPLES = 30_000_000  # ten minutes at 48 kHz


def analyse_wav(
    file: Path, volts_full_scale: float, load_ohms: float, tone_hz: float | None, band_low: float, band_high: float
) -> dict[str, Any]:
    """Report every channel of a WAV capture.

    Raises:
        BadInput: a scale, load, band or tone that cannot be used; the sentence names it.
        BadCapture: a file that is not a WAV, is empty, or holds no steady tone; the sentence names the channel.
    """
    _check_positive(volts_full_scale, "volts-full-scale", "V")
    _check_positive(load_ohms, "load", "Ω")
    band = Band(band_low, band_high)
    samples, rate = _read(file)
    channels = []
    for number, row in enumerate(samples, 1):
        volts = row * volts_full_scale
        try:
            tone = analyse_tone(volts, rate, band=band, tone_hz=tone_hz)
        except BadCapture as error:
            raise BadCapture(f"{file.name}, channel {number}: {error.what}", todo=error.todo) from None
        channels.append(
            {
                "rms_volts": tone.rms_volts,
                "watts": tone.rms_volts**2 / load_ohms,
                "fundamental_hz": tone.fundamental_hz,
                "thd_percent": 100 * tone.thd,
                "thd_n_percent": 100 * tone.thd_n,
                "harmonics_db": list(tone.harmonics_db),
                "clipped_share": clipping(volts).share,
                "dc_volts": tone.dc_volts,
            }
        )
    return {"sample_rate": rate, "channels": channels}


@dataclass(frozen=True, slots=True)
class ToneSpec:
    """A test tone: a sine (of several levels one after the other, if there are several), or bursts of a profile.

    Levels are peaks in dB re full scale; ``seconds`` is the length (of each level), in whole cycles or bursts.
    """

    hz: float = 1000.0
    seconds: float = 10.0
    levels: tuple[float, ...] = (0.0,)
    rate: int = 48_000
    depth: str = "pcm24"
    burst: str = ""


def write_tone(file: Path | BinaryIO, tone: ToneSpec) -> int:
    """Write a test tone as WAV, and return the number of samples.

    Raises:
        BadInput: an unknown depth or burst, a tone or level that cannot be made, a file that cannot be written.
    """
    if tone.depth not in SUBTYPES:
        raise BadInput(f"The depth must be pcm24 or float32, got “{tone.depth}”.", field="depth")
    profile = MethodProfile.burst_named(tone.burst, tone.hz) if tone.burst else None
    one = profile.period_seconds if profile else 1 / tone.hz if tone.hz > 0 else 0.0
    seconds = max(tone.seconds, one)
    if math.isfinite(seconds) and seconds * tone.rate * len(tone.levels) > MOST_TONE_SAMPLES:
        raise BadInput(f"{seconds:g} s at {tone.rate} Hz is more than a test tone should take.", field="seconds")
    if profile is not None:
        periods = max(1, round(tone.seconds / profile.period_seconds))
        wave = np.concatenate([tones.bursts(profile, periods, tone.rate, level) for level in tone.levels])
    else:
        wave = tones.stepped_sweep(tone.hz, tone.levels, tone.seconds, tone.rate)
    if tone.depth == "pcm24":
        wave = np.clip(wave, -1.0, 1.0 - 2.0**-23)
    try:
        soundfile.write(file, wave, tone.rate, subtype=SUBTYPES[tone.depth], format="WAV")
    except (soundfile.SoundFileError, OSError):
        raise BadInput(f"{file} cannot be written.", todo="Check the folder.", field="file") from None
    return int(wave.size)


def _read(file: Path) -> tuple[np.ndarray, float]:
    if not file.is_file():
        raise BadInput(f"There is no file {file}.", field="file")
    try:
        with soundfile.SoundFile(file) as wav:
            if wav.format not in ("WAV", "WAVEX", "RF64"):
                raise BadCapture(f"{file.name} is not a WAV file but {wav.format}.", field="file")
            samples, rate = wav.read(dtype="float64", always_2d=True), float(wav.samplerate)
    except (soundfile.SoundFileError, OSError):
        raise BadCapture(f"{file.name} is not a WAV file that can be read.", field="file") from None
    if samples.size == 0:
        raise BadCapture(f"{file.name} is empty: it holds no samples.", field="file")
    return checked_samples(samples.T), rate


def _check_positive(value: float, name: str, unit: str) -> None:
    if not (math.isfinite(value) and value > 0):
        raise BadInput(f"--{name} must be above 0 {unit}, got {value:g}.", field=name)
