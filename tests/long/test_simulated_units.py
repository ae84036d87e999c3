"""A sample of what ``make bench`` does with 5,000 units: conducted, judged, held against the closed form of each."""

import pytest
from clipper import closed_form
from verdicts import several

from rulvek.core.judgement.verdict import VerdictOutcome

pytestmark = pytest.mark.long
UNITS = 120


def test_verdicts_on_simulated_units_are_hardly_ever_wrong() -> None:
    found = several(range(100_001, 100_001 + UNITS))
    assert closed_form(0.01, 999) == pytest.approx(1.0475, abs=2e-4)  # of the definition: a hard clipper at 1 %
    assert sum(one.verdict.outcome is not VerdictOutcome.OPEN for one in found) > UNITS / 3
    assert sum(one.wrong for one in found) <= 0.025 * UNITS
    assert not any(one.backed_beyond_u for one in found)
