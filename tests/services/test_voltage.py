"""The voltage exponent of a unit, from its own rows: what it goes by, and what goes by it."""

import pytest

from rulvek.api.context import Services
from rulvek.core.electrical.supply import LARGEST_EXPONENT
from rulvek.core.measure.steps import Mode
from rulvek.core.planning.plan import Wishes
from rulvek.services.checking import budget_view
from rulvek.services.voltage import fit_of
from rulvek.store import queries, tables
from tests.services.test_judging import conduct_by_hand


def run_at(services: Services, unit_id: int, volts: float, watts: float, end: str = "limit") -> int:
    wishes = Wishes(modes=(Mode.CERTIFIED,), held_volts=volts)
    campaign = services.campaigns.create(unit_id, "Tamsin Oduwell", wishes)
    return conduct_by_hand(services, campaign.id, (watts, watts + 1), volts, end)


def exponent_in_the_budget(services: Services, attempt_id: int) -> float:
    """The supply's sensitivity is n·P/V."""
    with services.database.reading() as session:
        attempt = queries.get(session, tables.Attempt, attempt_id)
        budget = budget_view(attempt)
        assert budget is not None and attempt.ending is not None and attempt.ending.supply_volts is not None
        line = next(c for c in budget.components if c.name == "supply")
        return line.sensitivity * attempt.ending.supply_volts / budget.watts


def test_three_voltages_tell_the_exponent_that_budgets_go_by(services: Services, unit_id: int) -> None:
    """Runs made to follow P = k·V^1.5."""
    attempts = [run_at(services, unit_id, volts, 80.0 * (volts / 14.4) ** 1.5) for volts in (12.5, 13.5)]
    assert exponent_in_the_budget(services, attempts[0]) == pytest.approx(LARGEST_EXPONENT)  # two tell nothing yet
    attempts.append(run_at(services, unit_id, 14.4, 80.0))
    for attempt_id in attempts:
        assert exponent_in_the_budget(services, attempt_id) == pytest.approx(1.5, abs=1e-6)


def test_runs_that_stopped_short_or_were_typed_do_not_bend_the_fit(services: Services, unit_id: int) -> None:
    attempts = [run_at(services, unit_id, volts, 80.0 * (volts / 14.4) ** 1.5) for volts in (12.5, 13.5, 14.4)]
    run_at(services, unit_id, 15.5, 10.0, "operator")
    far_off = run_at(services, unit_id, 15.0, 5.0)
    with services.database.writing() as session:
        queries.get(session, tables.Attempt, far_off).typed = {"channels": []}
    with services.database.reading() as session:
        fit = fit_of(queries.get(session, tables.Attempt, attempts[0]).run)
        assert fit is not None and fit.exponent == pytest.approx(1.5, abs=1e-6)
