"""Each check on both sides of its threshold, and what the trade's worked examples say."""

import math
from dataclasses import replace

import pytest
from clipper import closed_form
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.judgement.checks import CHECKS, Severity, check, normalised_error
from rulvek.core.judgement.figures import Compared, Figures
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End, Mode

METHOD = MethodProfile()
SOUND = Figures(
    mode=Mode.CERTIFIED,
    topology="AB",
    end=End.LIMIT,
    thd_n_percent=0.95,
    load_nominal=4.0,
    load_measured=3.98,
    watts=80.0,
    channel_watts=(80.0, 82.0),
    output_watts=162.0,
    volts_rms=math.sqrt(80.0 * 3.98),
    set_volts=14.4,
    start_volts=14.41,
    supply_volts=14.37,
    amps=21.0,
    clamp_zeroed=True,
    sink_start_c=30.0,
    controls_in_position=True,
    all_loaded=True,
    beside={Mode.UNCERTIFIED: 98.0, Mode.BURST: 83.0},
    attempts=(80.5,),
    held=True,
    outside_percent=0.01,
)

BOTH_SIDES = [
    # code, severity, figures that just pass, figures that just do not
    ("supply-out-of-window", Severity.DOUBT, {"supply_volts": 14.5, "start_volts": 14.5}, {"supply_volts": 14.51}),
    ("supply-out-of-window", Severity.NOTE, {"supply_volts": 14.3}, {"supply_volts": 14.29}),
    (
        "supply-out-of-window",
        Severity.DOUBT,
        {"floating": True, "set_volts": None, "supply_volts": 15.5, "start_volts": 15.5},
        {"floating": True, "set_volts": None, "supply_volts": 15.51},
    ),
    ("supply-sag", Severity.DOUBT, {"start_volts": 15.16}, {"start_volts": 15.18}),
    (
        "load-off-nominal",
        Severity.DOUBT,
        {"load_measured": 4.079, "volts_rms": None},
        {"load_measured": 4.081, "volts_rms": None},
    ),
    ("clamp-not-zeroed", Severity.DOUBT, {"clamp_zeroed": None}, {"clamp_zeroed": False}),
    ("charger-on", Severity.DOUBT, {"charger_amps": 0.5}, {"charger_amps": 10.0}),
    (
        "burst-current",
        Severity.DOUBT,
        {"mode": Mode.BURST, "amps": None, "beside": {}},
        {"mode": Mode.BURST, "beside": {}},
    ),
    ("efficiency-impossible", Severity.INVALID, {"amps": 162 / 14.37 / 0.784}, {"amps": 162 / 14.37 / 0.786}),
    ("efficiency-impossible", Severity.INVALID, {"topology": "D", "amps": 11.28}, {"topology": "D", "amps": 11.2}),
    ("efficiency-unusual", Severity.NOTE, {"amps": 162 / 14.37 / 0.451}, {"amps": 162 / 14.37 / 0.449}),
    (
        "efficiency-unusual",
        Severity.NOTE,
        {"topology": "D", "amps": 162 / 14.37 / 0.76},
        {"topology": "D", "amps": 162 / 14.37 / 0.74},
    ),
    (
        "figures-disagree",
        Severity.INVALID,
        {"volts_rms": math.sqrt(80 * 3.98 * 1.049)},
        {"volts_rms": math.sqrt(80 * 3.98 * 1.051)},
    ),
    (
        "instruments-disagree",
        Severity.DOUBT,
        {"seconds": (Compared(1, "Meter 4", 80.0, 1.0, 81.4, 1.0),)},
        {"seconds": (Compared(1, "Meter 4", 80.0, 1.0, 81.5, 1.0),)},
    ),
    (
        "order-unusual",
        Severity.DOUBT,
        {"mode": Mode.UNCERTIFIED, "end": End.CLIP, "beside": {Mode.CERTIFIED: 83.7}},
        {"mode": Mode.UNCERTIFIED, "end": End.CLIP, "beside": {Mode.CERTIFIED: 83.9}},
    ),
    (
        "order-unusual",
        Severity.NOTE,
        {"mode": Mode.BURST, "amps": None, "beside": {Mode.CERTIFIED: 83.7}},
        {"mode": Mode.BURST, "amps": None, "beside": {Mode.CERTIFIED: 160.0}},
    ),
    ("channels-apart", Severity.DOUBT, {"channel_watts": (80.0, 89.7)}, {"channel_watts": (80.0, 89.9)}),
    ("bad-start", Severity.DOUBT, {"start_watts": 16.0}, {"start_watts": 16.1}),
    ("protection", Severity.NOTE, {}, {"end": End.PROTECTED, "tripped_watts": 84.0}),
    ("protection", Severity.NOTE, {}, {"end": End.RECOVERING}),
    ("below-rated-load", Severity.INVALID, {}, {"exploratory": True}),
    ("controls-off", Severity.DOUBT, {"controls_in_position": None}, {"controls_in_position": False}),
    ("channels-not-loaded", Severity.INVALID, {"all_loaded": None}, {"all_loaded": False}),
    ("hot-start", Severity.NOTE, {"sink_start_c": 50.0}, {"sink_start_c": 50.1}),
    ("not-repeatable", Severity.DOUBT, {"attempts": (83.7,)}, {"attempts": (80.1, 83.9)}),
    ("instrument-unknown", Severity.DOUBT, {"output_known": True}, {"output_known": False}),
    ("out-of-calibration", Severity.DOUBT, {}, {"overdue": ("Meter 2",)}),
    ("companions-low", Severity.DOUBT, {}, {"companions_low": True}),
    ("capture-changed", Severity.DOUBT, {"capture_changed": False}, {"capture_changed": True}),
    ("not-held", Severity.DOUBT, {"held": None}, {"held": False}),
    ("thd-n-falls-again", Severity.NOTE, {"beyond_watts": None}, {"beyond_watts": 91.0}),
    ("out-of-band", Severity.NOTE, {"outside_percent": 1.0}, {"outside_percent": 1.01}),
    ("stopped-short", Severity.NOTE, {}, {"end": End.OPERATOR}),
    ("clipped-peak-reading", Severity.INVALID, {"volts_peak": 25.2}, {"volts_peak": 25.2, "thd_n_percent": 1.01}),
]


@pytest.mark.parametrize(("code", "severity", "passes", "fails"), BOTH_SIDES)
def test_both_sides_of_each_threshold(code: str, severity: Severity, passes: dict, fails: dict) -> None:  # type: ignore[type-arg]
    def found(changes: dict) -> dict[str, Severity]:  # type: ignore[type-arg]
        return {f.code: f.severity for f in check(replace(SOUND, **changes), METHOD)}

    assert code not in found(passes)
    assert found(fails).get(code) is severity


def test_a_sound_reading_has_nothing_and_every_code_was_tried() -> None:
    assert check(SOUND, METHOD) == []
    assert {row[0] for row in BOTH_SIDES} == set(CHECKS) and len(CHECKS) == 28


ALWAYS_KNOWN = ("beside", "exploratory", "floating", "channel_watts", "attempts", "overdue")
MAY_BE_UNKNOWN = [name for name in SOUND.__dataclass_fields__ if name not in ALWAYS_KNOWN]


@given(st.sets(st.sampled_from(MAY_BE_UNKNOWN)))
def test_what_is_not_known_is_never_objected_to(unknown: set[str]) -> None:
    """Leaving figures out only silences checks; the supply's set voltage alone falls back to the reference."""
    assert check(replace(SOUND, **dict.fromkeys(unknown)), METHOD) == []


def test_sentences_hold_the_numbers_and_the_gravest_come_first() -> None:
    found = check(
        replace(SOUND, watts=119.0, volts_rms=19.0, load_nominal=2.0, load_measured=None, sink_start_c=62.0), METHOD
    )
    assert [f.code for f in found][:1] == ["figures-disagree"] and found[-1].severity is Severity.NOTE
    # Ohm's law: 19² / 2 = 180.5 W; 119 W would be √238 = 15.43 V
    assert "180.5 W" in found[0].message and "15.43 V" in found[0].message
    assert all(f.message.endswith(".") and f.advice.endswith(".") for f in found)


def test_the_odd_one_out_is_named() -> None:
    def advice(**changes: float) -> str:
        figures = Figures(**changes)  # type: ignore[arg-type]
        return check(figures, METHOD)[0].advice

    # 41.6 V peak taken for rms into 8 Ω gives twice the 108 W (common practice)
    assert "peak value" in advice(load_nominal=8.0, watts=108.16, volts_rms=41.6)
    assert "which would be 4 Ω" in advice(load_nominal=2.0, watts=72.3, volts_rms=17.0)  # 17 V into 4 Ω are 72.3 W


def test_burst_efficiency_is_never_worked_out() -> None:
    """An averaging clamp over the silence makes it hundreds of percent (common practice)."""
    burst = replace(SOUND, mode=Mode.BURST, amps=3.0, beside={})
    assert burst.efficiency is None
    assert {f.code for f in check(burst, METHOD)} == {"burst-current"}


def test_e_n_of_two_instruments() -> None:
    """ISO/IEC 17043, from memory: E_n = (a − b) / √(Ua² + Ub²)."""
    assert normalised_error(103.0, 3.0, 98.0, 4.0) == pytest.approx(1.0)
    with pytest.raises(ValueError, match="above 0"):
        normalised_error(1.0, 0.0, 1.0, 0.0)


@pytest.mark.parametrize(
    ("watts", "is_told"),
    [
        (108.2, False),  # 41.6 V peak into 8 Ω
        (216.3, True),  # the peak taken for true rms
        (95.0, True),
        (closed_form(0.01, 19) * 41.6**2 / 16, False),  # a clipped wave has more power than its peak says
    ],
)
def test_a_peak_and_watts_that_were_both_read_are_held_against_each_other(watts: float, is_told: bool) -> None:
    figures = Figures(mode=Mode.CERTIFIED, load_nominal=8.0, watts=watts, watts_read=watts, volts_peak=41.6)
    codes = [finding.code for finding in check(figures, MethodProfile())]
    assert ("figures-disagree" in codes) is is_told
    distorted = replace(figures, thd_n_percent=3.0)
    assert "clipped-peak-reading" not in [finding.code for finding in check(distorted, MethodProfile())]
    assert "clipped-peak-reading" in [f.code for f in check(replace(distorted, watts_read=None), MethodProfile())]
