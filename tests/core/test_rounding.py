"""How a figure with its U is written.

Source: JCGM 100:2008 (GUM), 7.2.6 and the worked examples of its annex H.1 (l = 50.000 838 mm, u = 32 nm) and H.2.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.rounding import decimals_of, rounded, with_u
from tests.examples import examples


@pytest.mark.parametrize(
    ("value", "expanded", "written"),
    [
        (50.000838, 0.000032, "50.000838 ± 0.000032 mm"),  # GUM H.1.6, from memory
        (62.504, 0.78, "62.50 ± 0.78 mm"),
        (712.04, 9.04, "712.0 ± 9.0 mm"),
        (1259.94, 16.04, "1260 ± 16 mm"),
        (1259.94, 99.6, "1260 ± 100 mm"),  # what rounds up to three digits keeps two
        (-0.004, 0.5, "0.00 ± 0.50 mm"),  # no minus before nothing
        (2.5, 2.5, "2.5 ± 2.5 mm"),
    ],
)
def test_two_digits_of_u_decide(value: float, expanded: float, written: str) -> None:
    assert with_u(value, expanded, "mm") == written


def test_without_a_u_there_are_two_decimals() -> None:
    assert rounded(3.14159, None) == "3.14" and rounded(0.001, 0.0) == "0.00"


@pytest.mark.parametrize("none", [0.0, -1.0, math.inf, math.nan])
def test_what_is_no_uncertainty_has_no_digits(none: float) -> None:
    with pytest.raises(ValueError, match="above 0 and finite"):
        decimals_of(none)


@examples(100)
@given(st.floats(1e-3, 1e5), st.floats(1e-3, 1e4))
def test_what_is_written_differs_by_half_a_digit_at_most(value: float, expanded: float) -> None:
    text, u = (float(part) for part in with_u(value, expanded, "W").removesuffix(" W").split(" ± "))
    step = 10.0 ** -decimals_of(expanded)
    assert abs(text - value) <= 0.5001 * step and abs(u - expanded) <= 0.5001 * step
    assert 10 <= round(u / step) <= 100
