"""The voltage exponent of a unit, from its own records: what it goes by, and what goes by it."""

import pytest

from rulvek.composition import Services
from rulvek.core.electrical.supply import LARGEST_EXPONENT
from rulvek.core.records.outside import Origin, Outside
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import End, Mode
from rulvek.store import load
from tests.conftest import TAMSIN, put_attempt


def run_at(services: Services, unit_id: int, volts: float, watts: float, end: End = End.LIMIT, **more: object) -> int:
    wishes = Wishes(modes=(Mode.CERTIFIED,), held_volts=volts)
    campaign = services.campaigns.create(unit_id, TAMSIN, wishes)
    return put_attempt(services, campaign.id, (watts, watts + 1), volts, end, **more)


def exponent_in_the_budget(services: Services, attempt_id: int) -> float:
    """The supply's sensitivity is n·P/V."""
    page = services.evidence.attempt(attempt_id)
    assert page.budget is not None and page.attempt.supply_volts is not None
    line = next(c for c in page.budget.components if c.name == "supply")
    middle = (1 + 10 ** (0.03 / 10)) / 2  # the estimate is the middle of the bracket
    return line.sensitivity * page.attempt.supply_volts / page.budget.watts * middle


def test_three_voltages_tell_the_exponent_that_budgets_go_by(services: Services, unit_id: int) -> None:
    """Runs made to follow P = k·V^1.5."""
    attempts = [run_at(services, unit_id, volts, 80.0 * (volts / 14.4) ** 1.5) for volts in (12.5, 13.5)]
    assert exponent_in_the_budget(services, attempts[0]) == pytest.approx(LARGEST_EXPONENT)  # two tell nothing yet
    attempts.append(run_at(services, unit_id, 14.4, 80.0))
    for attempt_id in attempts:
        assert exponent_in_the_budget(services, attempt_id) == pytest.approx(1.5, abs=1e-6)


def test_runs_that_stopped_short_or_were_typed_do_not_bend_the_fit(services: Services, unit_id: int) -> None:
    attempts = [run_at(services, unit_id, volts, 80.0 * (volts / 14.4) ** 1.5) for volts in (12.5, 13.5, 14.4)]
    run_at(services, unit_id, 15.5, 10.0, End.OPERATOR)
    run_at(services, unit_id, 15.0, 5.0, outside=Outside(Origin.BY_HAND))
    with services.database.reading() as session:
        unit = load.unit(session, unit_id)
        (fit,) = services.conclusions.fits(session, [unit])[unit_id].values()
    assert fit.exponent == pytest.approx(1.5, abs=1e-6)
    assert exponent_in_the_budget(services, attempts[0]) == pytest.approx(1.5, abs=1e-6)
    curve = services.catalogue.unit(unit_id).voltage[0]  # the chart goes by the same fit
    assert curve.exponent == fit.exponent and len(curve.points) == 3
