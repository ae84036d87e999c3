"""Figures as they are met in practice, and what is to be said of them: common practice, no source."""

import pytest

from rulvek.core.electrical.supply import efficiency, fit_voltage
from rulvek.core.judgement.checks import Severity, check, normalised_error
from rulvek.core.judgement.figures import Figures
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import Mode
from rulvek.core.signals.power import unclipped_sine_watts
from tests.api.test_command_line import call

METHOD = MethodProfile()


@pytest.mark.parametrize(
    ("topology", "watts", "volts", "amps", "percent", "usual"),
    [
        ("AB", 304.0, 14.5, 39.3, 53, True),
        ("AB", 1172.0, 14.4, 178.7, 45.5, True),
        ("D", 920.0, 13.8, 71.0, 94, False),
        ("D", 920.0, 13.8, 71.0 + 9.0, 83, True),  # a clamp that idled at −9 A
    ],
)
def test_efficiencies(topology: str, watts: float, volts: float, amps: float, percent: float, usual: bool) -> None:
    share = efficiency(watts, volts, amps)
    assert share is not None and 100 * share == pytest.approx(percent, abs=0.5)
    figures = Figures(mode=Mode.CERTIFIED, topology=topology, watts=watts, supply_volts=volts, amps=amps)
    found = {one.code for one in check(figures, METHOD)}
    assert ("efficiency-unusual" in found) == (not usual) and "efficiency-impossible" not in found


def test_an_idle_clamp_reading_is_taken_off() -> None:
    """920 W of 13.8 V and 71 A are unusual for class D; with −9 A at idle they are not."""
    typed = "check --mode certified --watts 920 --supply-volts 13.8 --amps 71 --class D --clamp-zeroed"
    assert "efficiency-unusual" in call(*typed.split()).stdout
    assert "efficiency-unusual" not in call(*typed.split(), "--idle-amps", "-9").stdout


def test_a_peak_is_no_rms() -> None:
    assert unclipped_sine_watts(41.6, 8.0) == pytest.approx(108, abs=0.5)

    def found(watts: float) -> dict[str, Severity]:
        figures = Figures(mode=Mode.CERTIFIED, load_nominal=8.0, watts=watts, volts_peak=41.6)
        return {one.code: one.severity for one in check(figures, METHOD)}

    assert "figures-disagree" not in found(108.0)
    assert found(216.0)["figures-disagree"] is Severity.INVALID


def test_the_exponent_of_an_unregulated_unit() -> None:
    fit = fit_voltage([(12.32, 317.0), (13.5, 391.0), (14.14, 429.0)])
    assert fit.exponent == pytest.approx(2.2, abs=0.05)
    assert fit.high <= 2.3


def test_two_meters_that_cannot_both_be_right() -> None:
    """73 and 99 W on one terminal, each within 2 %."""
    assert normalised_error(73.0, 0.02 * 73, 99.0, 0.02 * 99) < -10
