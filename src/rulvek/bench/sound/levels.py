"""What an audio interface's full scale is in volts, found beside a meter, and how its response is put right."""

import json
from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import Annotated, Any, ClassVar

import numpy as np
import scipy
from annotated_types import Ge, Gt, Le, Len
from numpy.typing import NDArray

from rulvek.core.errors import BenchFault
from rulvek.core.quantities import ENTERED, Text

HALF_TAPS = 2048
"""Samples on either side of a record that putting its response right takes."""
FULL = 0.9999
"""From here on a converter is at its end."""
Scale = Annotated[float, Gt(0), Le(1_000)]


@dataclass(frozen=True, slots=True)
class ResponsePoint:
    """By how much a channel is up or down at a frequency."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    hz: Annotated[float, Gt(0), Le(200_000)]
    db: Annotated[float, Ge(-60), Le(60)]


Response = Annotated[tuple[ResponsePoint, ...], Len(0, 200)]


@dataclass(frozen=True, slots=True)
class Levels:
    """One interface as it was calibrated.

    Attributes:
        output_volts: Rms of a sine at digital full scale, of each output.
        input_volts: Rms of the sine that comes to digital full scale, of each input.
        at_hz: Where that was found.
        u_percent: Expanded uncertainty (k = 2) of these.
        on: The day of it.
        meter: Beside which meter.
        output_response: dB re ``at_hz`` by ascending frequency, of all outputs.
        input_response: Likewise of all inputs.
        inverted_inputs: Which have the other polarity, counted from 1.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    output_volts: Annotated[tuple[Scale, ...], Len(1, 64)]
    input_volts: Annotated[tuple[Scale, ...], Len(1, 64)]
    at_hz: Annotated[float, Gt(0)] = 1000.0
    u_percent: Annotated[float, Ge(0), Le(20)] = 1.0
    on: date | None = None
    meter: Text = ""
    output_response: Response = ()
    input_response: Response = ()
    inverted_inputs: tuple[int, ...] = ()

    def amplitude(self, channel: int, volts: float, hz: float) -> float:
        """The digital amplitude that gives so many volts rms at an output.

        >>> response = (ResponsePoint(20.0, -1.0), ResponsePoint(1000.0, 0.0))
        >>> levels = Levels((2.0,), (4.0,), output_response=response)
        >>> levels.amplitude(1, 1.0, 1000.0)
        0.5
        >>> round(levels.amplitude(1, 1.0, 20.0), 4)
        0.561

        Raises:
            BenchFault: it is more than the output has.
        """
        found = volts / self.output_volts[channel - 1] / 10 ** (_at(self.output_response, hz) / 20)
        if found > 1.0:
            most = volts / found
            raise BenchFault(f"Output {channel} of the interface gives {most:.4g} V at {hz:g} Hz, not {volts:.4g} V.")
        return found

    def volts(self, taken: NDArray[np.float32], rate: float) -> NDArray[np.float64]:
        """A record in volts at the inputs.

        Args:
            taken: As it came, shape ``(inputs, HALF_TAPS + n + HALF_TAPS)``.

        Returns:
            Shape ``(inputs, n)``, with the response put right.

        Raises:
            BenchFault: an input was at its end.
        """
        if over := [at for at, row in enumerate(taken, 1) if np.abs(row).max() >= FULL]:
            raise BenchFault(
                f"Input {over[0]} of the interface is over its range.", todo="Put a larger divider before it."
            )
        signs = np.ones(len(taken))
        signs[[one - 1 for one in self.inverted_inputs]] = -1
        scale = signs * np.sqrt(2) * np.array(self.input_volts[: len(taken)])
        volts = taken.astype(np.float64) * scale[:, None]
        if not self.input_response:
            return np.asarray(volts[:, HALF_TAPS:-HALF_TAPS])
        taps = _put_right(self.input_response, rate)
        found: NDArray[np.float64] = scipy.signal.oaconvolve(volts, taps[None, :], mode="valid", axes=1)
        return found


def _at(response: Response, hz: float) -> float:
    if not response:
        return 0.0
    return float(np.interp(np.log(hz), np.log([one.hz for one in response]), [one.db for one in response]))


@lru_cache(8)
def _put_right(response: Response, rate: float) -> NDArray[np.float64]:
    """A filter of linear phase that takes a response back out; what lies beyond its ends is as at them."""
    grid = np.linspace(0, rate / 2, 4 * HALF_TAPS + 1)
    decibels = np.array([_at(response, max(hz, 1e-3)) for hz in grid])
    found: NDArray[np.float64] = scipy.signal.firwin2(2 * HALF_TAPS + 1, grid, 10 ** (-decibels / 20), fs=rate)
    return found


def as_toml(levels: Levels) -> str:
    """Levels as a bench's file has them, to six digits.

    >>> print(as_toml(Levels((2.0, 2.0), (4.0,), on=date(2026, 3, 2), meter="Meter 4")))
    [levels]
    output_volts = [2, 2]
    input_volts = [4]
    at_hz = 1000
    u_percent = 1
    on = 2026-03-02
    meter = "Meter 4"
    """
    lines = {
        "output_volts": _numbers(levels.output_volts),
        "input_volts": _numbers(levels.input_volts),
        "at_hz": f"{levels.at_hz:g}",
        "u_percent": f"{levels.u_percent:g}",
        "on": str(levels.on or ""),
        "meter": json.dumps(levels.meter, ensure_ascii=False) if levels.meter else "",
        "output_response": _pairs(levels.output_response),
        "input_response": _pairs(levels.input_response),
        "inverted_inputs": str(list(levels.inverted_inputs)) if levels.inverted_inputs else "",
    }
    return "\n".join(["[levels]", *(f"{name} = {value}" for name, value in lines.items() if value)])


def _numbers(values: tuple[float, ...]) -> str:
    return f"[{', '.join(f'{one:.6g}' for one in values)}]"


def _pairs(response: Response) -> str:
    pairs = (f"{{ hz = {one.hz:g}, db = {one.db:.4g} }}" for one in response)
    return f"[{', '.join(pairs)}]" if response else ""
