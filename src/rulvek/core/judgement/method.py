"""The method profile: every number of the procedure that a lab may set, as data that is stored with each run.

The texts of the standards were not at hand; a lab sets these fields from its own licensed copy. ``ORIGINS`` says
where each default comes from.
"""

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any

from rulvek.core.errors import BadInput
from rulvek.core.measure.distortion import SPECTRAL_CYCLES, Band
from rulvek.core.measure.search import CertifiedSettings


@dataclass(frozen=True, slots=True)
class MethodProfile:
    """Defaults of a certified test; percent, volts, ohms, Hz, seconds, dB and °C as the names say."""

    name: str = "Standard"
    thd_n_limit_percent: float = 1.0
    reference_volts: float = 14.4
    reference_volts_tolerance: float = 0.1
    reference_load_ohms: float = 4.0
    load_tolerance_percent: float = 2.0
    band_low_hz: float = 10.0
    band_high_hz: float = 20_000.0
    full_range_tone_hz: float = 1000.0
    bass_tone_hz: float = 40.0
    coarse_step_db: float = 1.0
    bracket_db: float = 0.05
    settle_seconds: float = 0.3
    capture_seconds: float = 0.2
    dwell_seconds: float = 1.0
    recovery_seconds: float = 3.0
    supply_minimum_volts: float = 10.5
    temperature_maximum_c: float = 90.0
    companion_level_db: float = -9.0
    stop_at_clipping: bool = False
    guarded: bool = True
    coverage_factor: float = 2.0

    def __post_init__(self) -> None:
        for item in fields(self):
            value = getattr(self, item.name)
            if isinstance(value, float | int) and not math.isfinite(value):
                raise BadInput(f"{item.name} must be a finite number, got {value}.", field=item.name)
        for name in (
            "thd_n_limit_percent",
            "reference_volts",
            "reference_load_ohms",
            "coarse_step_db",
            "bracket_db",
            "capture_seconds",
            "dwell_seconds",
            "coverage_factor",
        ):
            if getattr(self, name) <= 0:
                raise BadInput(f"{name} must be above 0, got {getattr(self, name):g}.", field=name)

    @property
    def band(self) -> Band:
        """The band in which THD+N is measured."""
        return Band(self.band_low_hz, self.band_high_hz)

    def certified(self, start_level_dbv: float, highest_level_dbv: float, tone_hz: float) -> CertifiedSettings:
        """Settings of a certified search between two source levels.

        A capture holds at least 20 cycles of the tone, so that a bass tone is read as well as any other.
        """
        return CertifiedSettings(
            thd_n_limit=self.thd_n_limit_percent / 100,
            start_level_dbv=start_level_dbv,
            highest_level_dbv=highest_level_dbv,
            coarse_step_db=self.coarse_step_db,
            bracket_db=self.bracket_db,
            settle_seconds=self.settle_seconds,
            capture_seconds=max(self.capture_seconds, SPECTRAL_CYCLES / tone_hz),
            dwell_seconds=self.dwell_seconds,
            recovery_seconds=self.recovery_seconds,
            supply_minimum_volts=self.supply_minimum_volts,
            temperature_maximum_c=self.temperature_maximum_c,
            stop_at_clipping=self.stop_at_clipping,
        )

    def as_data(self) -> dict[str, Any]:
        """Plain values, to be stored with a run."""
        return asdict(self)

    @classmethod
    def from_data(cls, data: Mapping[str, Any]) -> "MethodProfile":
        """Read a stored profile back.

        Raises:
            BadInput: a field that this profile does not have; a misspelt one must not be dropped silently.
        """
        known = {item.name for item in fields(cls)}
        unknown = sorted(set(data) - known)
        if unknown:
            raise BadInput(f"A method profile has no field “{unknown[0]}”.", field=unknown[0])
        return cls(**data)


ORIGINS: Mapping[str, str] = {
    "thd_n_limit_percent": "CTA-2006, from memory",
    "reference_volts": "CTA-2006, from memory",
    "reference_volts_tolerance": "ours",
    "reference_load_ohms": "CTA-2006, from memory",
    "load_tolerance_percent": "ours",
    "band_low_hz": "AES17 practice, from memory",
    "band_high_hz": "AES17 practice, from memory",
    "full_range_tone_hz": "common practice, no source",
    "bass_tone_hz": "common practice, no source",
    "companion_level_db": "ours: channels not under test stay loaded and driven at 1/8 of full power",
    "dwell_seconds": "ours",
    "bracket_db": "ours",
    "guarded": "ILAC-G8, guarded acceptance, from memory",
    "coverage_factor": "JCGM 100, about 95 % of a normal distribution",
}
