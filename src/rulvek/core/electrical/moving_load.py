"""A loudspeaker as a load: it moves, so that it is no resistor, and is known only by its volts and amps."""

import cmath
import math
from dataclasses import dataclass

from rulvek.core.errors import BadInput


@dataclass(frozen=True, slots=True)
class MovingLoad:
    """What a load is while it is driven; None where only meters were read, which tell no phase.

    Attributes:
        impedance_ohms: |Z| = V/I, of rms values.
        volt_amps: Apparent power V·I: no less than the real one, and no power rating.
        watts: Real power.
        power_factor: Real over apparent power.
        resistance_ohms, reactance_ohms: Of Z at the tone; reactance above 0 is inductive.
    """

    impedance_ohms: float
    volt_amps: float
    watts: float | None
    power_factor: float | None
    resistance_ohms: float | None
    reactance_ohms: float | None


def moving_load(
    volts: float, amps: float, phase_degrees: float | None = None, watts: float | None = None
) -> MovingLoad:
    """A load from rms volts and amps at its wire, and from the phase by which the volts lead, where it is known.

    At a tone the real power is V·I·cos φ; of music it is what was averaged, given as ``watts``.

    >>> load = moving_load(20.0, 5.0, 60.0)
    >>> load.impedance_ohms, load.volt_amps, round(load.watts, 6), round(load.reactance_ohms, 4)
    (4.0, 100.0, 50.0, 3.4641)
    >>> moving_load(20.0, 5.0).watts is None
    True

    Raises:
        BadInput: no volts or no amps.
    """
    if volts <= 0 or amps <= 0:
        raise BadInput("Volts and amps at the speaker wire must be above 0.", field="amps")
    z = volts / amps
    complex_z = None if phase_degrees is None else cmath.rect(z, math.radians(phase_degrees))
    if watts is None and phase_degrees is not None:
        watts = volts * amps * math.cos(math.radians(phase_degrees))
    return MovingLoad(
        impedance_ohms=z,
        volt_amps=volts * amps,
        watts=watts,
        power_factor=None if watts is None else watts / (volts * amps),
        resistance_ohms=complex_z.real if complex_z is not None else None,
        reactance_ohms=complex_z.imag if complex_z is not None else None,
    )
