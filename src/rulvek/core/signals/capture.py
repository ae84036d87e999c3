"""A capture: what the bench or a file delivers, frozen, with what is needed to read it."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from rulvek.core.errors import BadCapture

Quantity = Literal["output_volts", "output_amps", "input_volts", "supply_volts", "supply_amps"]


@dataclass(frozen=True, slots=True)
class Signal:
    """What one row of a capture is: a quantity at an amplifier channel, counted from 1; the supply's is 0."""

    quantity: Quantity
    channel: int


@dataclass(frozen=True, slots=True, eq=False)
class SupplyTrace:
    """Terminal volts and indicated amps of the supply, sampled alongside, shape ``(m,)``; amps None if not read."""

    volts: NDArray[np.float64]
    amps: NDArray[np.float64] | None
    sample_rate: float

    @property
    def mean_volts(self) -> float:
        """Mean volts at the amplifier's terminals over the capture."""
        return float(np.mean(self.volts))

    @property
    def lowest_volts(self) -> float:
        """Lowest sampled volts at the amplifier's terminals."""
        return float(np.min(self.volts))

    @property
    def mean_amps(self) -> float | None:
        """Mean indicated amps over the capture, the clamp's zero not yet taken off; None where they were not read."""
        return None if self.amps is None else float(np.mean(self.amps))


@dataclass(frozen=True, slots=True, eq=False)
class Capture:
    """Simultaneous waveforms, in volts (or amps, by role).

    Args:
        samples: Shape ``(channels, n)`` with both at least 1; copied to float64 and made read-only.
        sample_rate: Hz, finite and > 0.
        roles: One per row; rows are "output_volts" of channels 1, 2, … when left out.
        supply: Volts and amps of the supply over the same stretch of time.
        temperature_c: Heat-sink temperature at the end of the capture, where it is known.
        load_c: The hottest dummy load's, then.

    Raises:
        BadCapture: no samples, a non-finite sample, a bad rate, or roles that do not match the rows.
    """

    samples: NDArray[np.float64]
    sample_rate: float
    roles: tuple[Signal, ...] = ()
    supply: SupplyTrace | None = None
    temperature_c: float | None = field(default=None)
    load_c: float | None = field(default=None)

    def __post_init__(self) -> None:
        samples = checked_samples(self.samples)
        samples.flags.writeable = False
        if not (np.isfinite(self.sample_rate) and self.sample_rate > 0):
            raise BadCapture(f"The sample rate must be above 0 Hz, got {self.sample_rate}.", field="sample_rate")
        roles = self.roles or tuple(Signal("output_volts", row + 1) for row in range(len(samples)))
        if len(roles) != len(samples):
            raise BadCapture(f"The capture has {len(samples)} channels but {len(roles)} roles.", field="roles")
        object.__setattr__(self, "samples", samples)
        object.__setattr__(self, "roles", roles)

    @property
    def seconds(self) -> float:
        """Length of the capture in seconds."""
        return int(self.samples.shape[1]) / self.sample_rate

    def outputs(self) -> dict[int, NDArray[np.float64]]:
        """Output volts by amplifier channel number."""
        return {
            role.channel: self.samples[row] for row, role in enumerate(self.roles) if role.quantity == "output_volts"
        }


def checked_samples(samples: ArrayLike) -> NDArray[np.float64]:
    """Return a float64 copy of shape ``(channels, n)``.

    Raises:
        BadCapture: empty, more than two dimensions, or a sample that is not a finite number.
    """
    array = np.array(samples, dtype=np.float64, ndmin=2)
    if array.ndim != 2:
        raise BadCapture(f"A capture has channels and samples, got {array.ndim} dimensions.", field="samples")
    if array.size == 0:
        raise BadCapture("The capture is empty: it holds no samples.", field="samples")
    if not np.isfinite(array).all():
        row, at = (int(i) for i in np.argwhere(~np.isfinite(array))[0])
        raise BadCapture(f"Channel {row + 1} holds a value that is no number at sample {at}.", field="samples")
    return array
