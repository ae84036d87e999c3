"""What full scale is in volts: each output beside a meter, then each input by the output that is cabled to it."""

import math
from collections.abc import Callable, Sequence
from datetime import date

import numpy as np

from rulvek.bench.sound.duplex import Duplex, Sent
from rulvek.bench.sound.levels import FULL, Levels, ResponsePoint
from rulvek.bench.sound.loopback import returned
from rulvek.core.errors import BenchFault
from rulvek.core.signals.distortion import analyse_tone

AT_HZ = 1000.0
AMPLITUDE = 0.1  # 20 dB below full scale: no output is at its end, whatever it has
FEWEST_VOLTS = 1e-4
Meter = Callable[[str], float]
"""Has somebody read a meter, in V rms."""


def calibrated(
    interface: Duplex, meter: Meter, response_hz: Sequence[float], on: date, meter_name: str, u_percent: float
) -> Levels:
    """Levels of an interface that runs, with a cable from each output to the input of its number.

    Args:
        meter: Asked for each output at 1 kHz, and at output 1 for each of ``response_hz``.
        response_hz: Where the response is wanted as well; none of these takes it as flat.
        u_percent: Of the meter, expanded (k = 2), for sines at these frequencies.

    Raises:
        BenchFault: an output that gives nothing, an input that hears nothing or is at its end.
    """
    try:
        outputs, inputs, inverted = [], [], []
        for channel in range(interface.outputs):
            said = _read(interface, channel, AT_HZ, meter)
            outputs.append(said / AMPLITUDE)
            if channel < interface.inputs:
                inputs.append(said / _heard(interface, channel, AT_HZ))
                back = returned(interface, channel)
                if back is not None and back.inverted:
                    inverted.append(channel + 1)
        output_response, input_response = [], []
        for hz in sorted({*response_hz, AT_HZ} if response_hz else ()):
            said = _read(interface, 0, hz, meter) if hz != AT_HZ else outputs[0] * AMPLITUDE
            heard = _heard(interface, 0, hz)
            output_response.append(ResponsePoint(hz, 20 * math.log10(said / AMPLITUDE / outputs[0])))
            input_response.append(ResponsePoint(hz, 20 * math.log10(heard * inputs[0] / said)))
    finally:
        interface.mute()
    return Levels(
        tuple(outputs),
        tuple(inputs),
        AT_HZ,
        u_percent,
        on,
        meter_name,
        tuple(output_response),
        tuple(input_response),
        tuple(inverted),
    )


def _read(interface: Duplex, channel: int, hz: float, meter: Meter) -> float:
    others = {one: Sent() for one in range(interface.outputs)}
    interface.send({**others, channel: Sent(hz, AMPLITUDE)})
    said = meter(f"Output {channel + 1} sends {hz:g} Hz: type what the meter reads")
    if not said > FEWEST_VOLTS:
        raise BenchFault(f"Output {channel + 1} gives {said:g} V: there is nothing to go by.")
    return said


def _heard(interface: Duplex, channel: int, hz: float) -> float:
    """The digital amplitude of a tone at the input of its output's number."""
    interface.send({channel: Sent(hz, AMPLITUDE)})
    taken = interface.take(round(max(0.5, 20 / hz) * interface.rate))[channel].astype(np.float64)
    if np.abs(taken).max() >= FULL:
        raise BenchFault(f"Input {channel + 1} is over its range.", todo="Turn its sensitivity down.")
    if not np.abs(taken).max() > FEWEST_VOLTS * AMPLITUDE:
        raise BenchFault(f"Input {channel + 1} hears nothing of output {channel + 1}.", todo="Connect them.")
    return math.sqrt(2) * analyse_tone(taken, interface.rate, tone_hz=hz).fundamental_volts
