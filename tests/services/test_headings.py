"""Headings of tables as reasonable people type them."""

import pytest

from rulvek.services.outside.headings import Field, recognised

TYPED: dict[Field, tuple[str, ...]] = {
    "serial": ("Serial", "S/N", "SN", "Serial no.", "Unit", "Sample", "DUT", "Unit serial number"),
    "mode": ("Mode", "Test", "Test mode", "Run type", "Type", "Cert/uncert"),
    "load_ohms": ("Load", "Load (Ω)", "Ohms", "Load, ohms", "Impedance", "Nominal load [Ohm]", "R (Ω)", "Z"),
    "load_measured": ("Load measured (Ω)", "Measured load", "Actual ohms", "Load warm, Ω", "Measured R"),
    "watts": (
        "Power",
        "Power (W)",
        "Watts",
        "W",
        "Output (W)",
        "Pout [W]",
        "Ch 1 (W)",
        "CH2 W",
        "Left W",
        "Watts/ch",
        "Wattage",
        "P1",
        "W 2",
    ),
    "volts_rms": ("V rms", "Vrms", "Output V", "Output (V rms)", "Vout", "VAC", "Ch 1 Vrms", "Right (V)", "Volts rms"),
    "volts_peak": ("V peak", "Vpk", "Output (V peak)", "Peak volts"),
    "thd_n_percent": ("THD+N (%)", "THD", "THD+N", "Distortion %", "T.H.D. (%)"),
    "supply_volts": ("Supply", "Supply (V)", "Battery", "Voltage", "Volts", "V", "Held at (V)", "DC input", "V in"),
    "start_volts": ("Supply before (V)", "V before", "Battery at rest", "Volts unloaded", "Batt. idle V"),
    "loaded_volts": ("Supply loaded", "Loaded V", "Battery under load (V)", "Volts at reading", "V loaded"),
    "amps": ("Amps", "Current (A)", "Supply current", "A", "I dc", "Clamp (A)", "Supply amps", "Amperage"),
    "idle_amps": ("Idle current (A)", "Clamp zero", "Amps idle", "Clamp offset (A)"),
    "charger_amps": ("Charger (A)", "Alternator amps"),
    "tripped_watts": ("Tripped at (W)", "Protection at watts", "Watts at trip"),
    "tone_hz": ("Tone (Hz)", "Frequency", "Freq.", "Hz"),
    "burst": ("Burst profile", "Cycles"),
    "channel": ("Channel", "Ch"),
    "bridged": ("Bridged", "BTL", "Bridged?"),
    "group": ("Group", "Section"),
    "supply": ("Supply kind", "Type of supply", "Fed by", "Powered from", "Engine", "Power source"),
    "reason": ("Reason", "Why again", "Reason for retest", "Cause"),
    "others_unread": ("Others not read", "Unread", "Only some read"),
    "end": ("End", "Ended", "Stopped by", "Limited by"),
    "instrument": ("Instrument", "Meter", "Read with", "Scope", "Analyser"),
    "date": ("Date", "Day", "Tested on"),
    "remark": ("Remark", "Notes", "Comment", "Observations"),
}


@pytest.mark.parametrize(("field", "heading"), [(field, one) for field, many in TYPED.items() for one in many])
def test_a_heading_is_recognised_as_it_is_typed(field: Field, heading: str) -> None:
    assert recognised([heading]) == [field]
    assert recognised([heading.upper()]) == [field] and recognised([f"  {heading.replace(' ', '_')} "]) == [field]


def test_there_are_more_than_sixty_and_none_twice() -> None:
    typed = [heading.lower() for many in TYPED.values() for heading in many]
    assert len(typed) == len(set(typed)) >= 60


def test_only_watts_and_volts_stand_in_several_columns() -> None:
    assert recognised(["Unit", "Serial", "Ch 1 W", "Ch 2 W", "Amps", "Current"]) == [
        "serial",
        None,
        "watts",
        "watts",
        "amps",
        None,
    ]
    assert recognised(["", "Weather", "Colour"]) == [None, None, None]
    assert recognised(["Power (dBW)", "Level, dBV", "Gain dB"]) == [None, None, None]  # levels are no watts
