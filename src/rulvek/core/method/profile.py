"""The method profile: every number of the procedure that a lab may set, as data that is stored with each run.

The texts of the standards were not at hand; a lab sets these fields from its own licensed copy. ``ORIGINS`` says
where each default comes from.
"""

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any

from rulvek.core.errors import BadInput
from rulvek.core.signals.bursts import BURSTS, CYCLES, PROFILES, BurstProfile, cycles_profile
from rulvek.core.signals.distortion import Band


@dataclass(frozen=True, slots=True)
class MethodProfile:
    """Defaults of a certified test; percent, volts, ohms, Hz, seconds, dB and °C as the names say."""

    name: str = "Standard"
    thd_n_limit_percent: float = 1.0
    uncertified_limit_percent: float = 10.0
    reference_volts: float = 14.4
    reference_volts_tolerance: float = 0.1
    load_tolerance_percent: float = 2.0
    band_low_hz: float = 10.0
    band_high_hz: float = 20_000.0
    full_range_tone_hz: float = 1000.0
    bass_tone_hz: float = 40.0
    band_edge_octaves: float = 1 / 3
    proof_margin_percent: float = 2.0
    proof_tones_hz: tuple[float, ...] = ()
    burst_full_range: str = "1 kHz"
    burst_bass: str = "40 Hz"
    coarse_step_db: float = 1.0
    bracket_db: float = 0.05
    settle_seconds: float = 0.3
    capture_seconds: float = 0.2
    dwell_seconds: float = 1.0
    recovery_seconds: float = 3.0
    more_trips: int = 3
    supply_minimum_volts: float = 10.5
    temperature_maximum_c: float = 90.0
    companion_level_db: float = -9.0
    companion_below_db: float = 0.5
    start_sink_maximum_c: float = 50.0
    start_load_maximum_c: float = 120.0
    start_held_tolerance_volts: float = 0.1
    start_bank_low_volts: float = 12.0
    start_bank_high_volts: float = 15.5
    start_wait_maximum_seconds: float = 1800.0
    gain_match_db: float = 0.1
    gain_match_below_db: float = 20.0
    trim_maximum_db: float = 0.15
    preparations_hold_hours: float = 12.0
    self_test_hours: float = 24.0
    check_sag_volts: float = 0.8
    check_charger_amps: float = 0.5
    check_efficiency_ab_bound_percent: float = 78.5
    check_efficiency_ab_low_percent: float = 45.0
    check_efficiency_ab_high_percent: float = 65.0
    check_efficiency_d_low_percent: float = 75.0
    check_efficiency_d_high_percent: float = 92.0
    check_figures_percent: float = 5.0
    check_order_db: float = 0.2
    check_channels_db: float = 0.5
    check_start_percent: float = 20.0
    check_repeat_db: float = 0.2
    check_tones_db: float = 0.5
    check_clipped_share: float = 0.13
    check_outside_percent: float = 1.0
    repeatability_percent: float = 0.3
    repeatability_freedom: float = 30.0
    recorder_response_percent: float = 0.05
    sense_cable_milliohms: float = 2.0
    load_inductance_uh: float = 2.0
    load_ppm_per_kelvin: float = 100.0
    thd_n_reading_percent: float = 2.0
    unknown_volts_percent: float = 1.0
    unknown_supply_percent: float = 0.5
    unknown_clamp_percent: float = 2.0
    stop_at_clipping: bool = False
    guarded: bool = True
    pairs_back_channels: bool = True
    unread: Mapping[str, Any] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for item in fields(self):
            value = getattr(self, item.name)
            if isinstance(value, float | int) and not math.isfinite(value):
                raise BadInput(f"{item.name} must be a finite number, got {value}.", field=item.name)
        for hz in self.proof_tones_hz:
            if not (isinstance(hz, float | int) and 0 < hz < math.inf):
                raise BadInput(f"proof_tones_hz are tones in Hz above 0, got {hz!r}.", field="proof_tones_hz")
        for name, hz in (("burst_full_range", self.full_range_tone_hz), ("burst_bass", self.bass_tone_hz)):
            try:
                self.burst_named(getattr(self, name), hz)
            except BadInput as refused:
                raise BadInput(f"{name}: {refused.what}", field=name) from None
        for name in (
            "thd_n_limit_percent",
            "uncertified_limit_percent",
            "reference_volts",
            "coarse_step_db",
            "bracket_db",
            "capture_seconds",
            "dwell_seconds",
            "preparations_hold_hours",
            "repeatability_freedom",
        ):
            if getattr(self, name) <= 0:
                raise BadInput(f"{name} must be above 0, got {getattr(self, name):g}.", field=name)

    @property
    def band(self) -> Band:
        """The band in which THD+N is measured."""
        return Band(self.band_low_hz, self.band_high_hz)

    @staticmethod
    def burst_named(name: str, hz: float) -> BurstProfile:
        """A burst profile: one of the named ones with their own tone, or "20 cycles" and the like of ``hz``.

        Raises:
            BadInput: there is no such profile.
        """
        if name in PROFILES:
            return PROFILES[name]
        if name in CYCLES:
            return cycles_profile(hz, CYCLES[name])
        known = ", ".join(BURSTS)
        raise BadInput(f"There is no burst profile “{name}”; there is {known}.", field="burst")

    def tone_of(self, bass: bool) -> float:
        """Hz for a group of channels."""
        return self.bass_tone_hz if bass else self.full_range_tone_hz

    def burst_of(self, bass: bool) -> BurstProfile:
        """The burst for a group of channels."""
        return self.burst_named(self.burst_bass if bass else self.burst_full_range, self.tone_of(bass))

    def with_dwell(self, name: str) -> "MethodProfile":
        """This method with another dwell at the reading: "long" or "soak"; "standard" is its own.

        >>> MethodProfile().with_dwell("soak").name
        'Standard, soak'

        Raises:
            BadInput: no such dwell.
        """
        if name not in DWELLS:
            raise BadInput(f"There is no dwell “{name}”; there is {', '.join(DWELLS)}.", field="dwell")
        return replace(self, name=f"{self.name}, {name}", dwell_seconds=dwell) if (dwell := DWELLS[name]) else self

    def as_data(self) -> dict[str, Any]:
        """Plain values, to be stored with a run, fields of another version among them."""
        data = asdict(self)
        unread: dict[str, Any] = data.pop("unread")
        return unread | data | {"proof_tones_hz": list(self.proof_tones_hz)}

    @classmethod
    def from_data(cls, data: Mapping[str, Any]) -> "MethodProfile":
        """Read a stored profile back; fields of an older or newer version are kept, and go along when it is stored."""
        known = {item.name for item in fields(cls)} - {"unread"}
        read: dict[str, Any] = {name: value for name, value in data.items() if name in known}
        if "proof_tones_hz" in read:
            read["proof_tones_hz"] = tuple(read["proof_tones_hz"])
        return cls(
            **read,
            unread={name: value for name, value in data.items() if name not in known},
        )


DWELLS: Mapping[str, float | None] = {"standard": None, "long": 30.0, "soak": 300.0}
"""Seconds at the reading after settling, ours; None is the method's own."""
