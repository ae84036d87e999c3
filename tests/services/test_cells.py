"""Figures in cells as reasonable people type them; what could be two things is asked about, never guessed."""

import pytest

from rulvek.core.errors import BadInput
from rulvek.services.outside.cells import factor_in, figure
from rulvek.services.outside.headings import Field


@pytest.mark.parametrize(
    ("field", "text", "means"),
    [
        ("watts", "80,5", 80.5),
        ("watts", "80.5 W", 80.5),
        ("watts", "80,5 Watts", 80.5),
        ("watts", "1.2 kW", 1200.0),
        ("volts_rms", "17,9Vrms", 17.9),
        ("volts_peak", "41.6 Vpk", 41.6),
        ("volts_rms", "250 mV", 0.25),
        ("load_ohms", "2 Ω", 2.0),
        ("load_ohms", "2,67 Ohm", 2.67),
        ("load_measured", "3.98R", 3.98),
        ("tone_hz", "1 kHz", 1000.0),
        ("tone_hz", "1kHz", 1000.0),
        ("tone_hz", "1 KHZ", 1000.0),
        ("tone_hz", "997", 997.0),
        ("amps", "−9 A", -9.0),
        ("thd_n_percent", "0,98 %", 0.98),
        ("watts", ".5", 0.5),
        ("watts", "1,2E+02", 120.0),
        ("watts", " ", None),
        ("channel", "2", 2.0),
    ],
)
def test_a_cell_is_read_as_it_is_typed(field: Field, text: str, means: float | None) -> None:
    for decimal in (".", ","):
        found = figure(field, text, decimal)
        assert found is None if means is None else found == pytest.approx(means)


@pytest.mark.parametrize(
    ("field", "text", "decimal", "words"),
    [
        ("watts", "abc", ".", "“abc” is no power in W"),
        ("watts", "80 V", ".", "“80 V” is no power in W"),
        ("load_ohms", "4 W", ".", "is no load in Ω"),
        ("watts", "1,234.5", ".", "signs between thousands"),
        ("watts", "1 234", ",", "signs between thousands"),
        ("watts", "1,234", ".", "signs between thousands"),  # in a table of points a comma with three digits is unsure
        ("watts", "1.234", ",", "signs between thousands"),
        ("watts", "80 / 81", ".", "is no power in W"),
        ("watts", "nan", ".", "is no power in W"),
        ("watts", "1e999", ".", "is no power in W"),
        ("channel", "1a", ".", "is no channel"),
    ],
)
def test_what_is_no_figure_or_could_be_two_says_so(field: Field, text: str, decimal: str, words: str) -> None:
    with pytest.raises(BadInput) as refused:
        figure(field, text, decimal)
    assert words in refused.value.what and refused.value.field == field


@pytest.mark.parametrize(
    ("heading", "field", "factor"),
    [
        ("Frequency [kHz]", "tone_hz", 1000.0),
        ("FREQ (KHZ)", "tone_hz", 1000.0),
        ("Power, kW", "watts", 1000.0),
        ("Ch 1 (mVrms)", "volts_rms", 1e-3),
        ("Load (mΩ)", "load_measured", 1e-3),
        ("Load (Ω)", "load_ohms", 1.0),
        ("Max. watts", "watts", 1.0),
        ("Remark kW", "remark", 1.0),
    ],
)
def test_a_heading_says_in_what_its_figures_are(heading: str, field: Field, factor: float) -> None:
    assert factor_in(heading, field) == factor
    if factor != 1.0:
        assert figure(field, "2", ".", factor) == pytest.approx(2 * factor)


def test_a_cells_own_unit_comes_before_its_headings() -> None:
    assert figure("tone_hz", "40 Hz", ".", 1000.0) == 40.0
