"""Audio interfaces as PortAudio has them; the only place that knows its Python binding."""

import contextlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from rulvek.core.errors import BenchFault

Turn = Callable[[NDArray[np.float32], NDArray[np.float32], str], None]
"""Takes what came in, fills what goes out, each ``(frames, channels)``, and hears what is told of lost frames."""
SOUND = "sound:"
"""What the address of an audio interface begins with; its name follows."""


@dataclass(frozen=True, slots=True)
class SoundDevice:
    """An audio interface: its name, by which of the machine's systems it is reached, and how many channels it has."""

    name: str
    system: str
    inputs: int
    outputs: int

    @property
    def address(self) -> str:
        """Of a bench's station."""
        return f"{SOUND}{self.name}"


class Stream(Protocol):
    """A stream that runs."""

    @property
    def latency_seconds(self) -> float:
        """From an output to an input, as the driver tells."""

    def close(self) -> None:
        """End it; what goes out falls silent."""


def devices() -> list[SoundDevice]:
    """All that have an input and an output.

    Raises:
        BenchFault: this machine has no PortAudio.
    """
    sounddevice = _portaudio()
    systems = [one["name"] for one in sounddevice.query_hostapis()]
    return [
        SoundDevice(one["name"], systems[one["hostapi"]], one["max_input_channels"], one["max_output_channels"])
        for one in sounddevice.query_devices()
        if one["max_input_channels"] and one["max_output_channels"]
    ]


def open_stream(name: str, rate: float, inputs: int, outputs: int, turn: Turn) -> Stream:
    """Run an interface, in and out in one clock.

    Raises:
        BenchFault: there is none of that name, it has fewer channels, or it cannot be had at that rate.
    """
    sounddevice = _portaudio()
    found = next((one for one in devices() if one.name == name), None)
    if found is None:
        there = ", ".join(f"“{one.name}”" for one in devices()) or "none"
        raise BenchFault(f"There is no audio interface “{name}” on this machine.", todo=f"There: {there}.")
    if found.inputs < inputs or found.outputs < outputs:
        raise BenchFault(
            f"{name} has {found.inputs} inputs and {found.outputs} outputs; {inputs} and {outputs} are described."
        )

    def called(taken: NDArray[np.float32], sent: NDArray[np.float32], _frames: int, _when: Any, status: Any) -> None:
        turn(taken, sent, str(status) if status else "")

    numbers = [at for at, one in enumerate(sounddevice.query_devices()) if one["name"] == name]
    try:
        stream = sounddevice.Stream(
            device=(numbers[0], numbers[0]),
            samplerate=rate,
            channels=(inputs, outputs),
            dtype="float32",  # what is converted to whole numbers on its way is not what was sent
            latency="high",
            callback=called,
        )
        stream.start()
    except sounddevice.PortAudioError as error:
        raise BenchFault(f"{name} cannot be had at {rate:g} Hz: {error.args[0]}.") from error
    return _Running(stream)


class _Running:
    def __init__(self, stream: Any) -> None:
        self._stream = stream

    @property
    def latency_seconds(self) -> float:
        """As the driver tells."""
        return float(sum(self._stream.latency))

    def close(self) -> None:
        """End it at once."""
        with contextlib.suppress(_portaudio().PortAudioError):
            self._stream.abort()
            self._stream.close()


def _portaudio() -> Any:
    try:
        import sounddevice
    except (OSError, ImportError) as error:  # the library itself is not there
        raise BenchFault(
            "This machine has no PortAudio, by which an audio interface is reached.",
            todo="Install it: the package libportaudio2 on Debian.",
        ) from error
    return sounddevice
