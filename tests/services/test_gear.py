"""The gear register: the latest entry of a role is what is read with; what was read before keeps what it had."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import pytest

from rulvek.composition import Services
from rulvek.core.errors import BadInput
from rulvek.core.records.instruments import InstrumentRole
from tests.conftest import CERTIFIED, RECORDER, TAMSIN, put_attempt

TODAY = datetime.now(UTC).date()


def test_the_latest_of_a_role_is_in_use_and_earlier_readings_keep_theirs(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    first = put_attempt(services, campaign.id, (80.0, 81.0))
    coarse = replace(RECORDER, name="Coarse recorder", serial="C-9", percent_of_reading=3.0)
    services.gear.enter(coarse, TAMSIN)
    second = put_attempt(services, campaign.id, (80.0, 81.0))
    shown = [services.evidence.attempt(one).attempt for one in (first, second)]
    assert [one.instrument for one in shown] == ["Recorder R-1", "Coarse recorder C-9"]
    fine, worse = (one.expanded_watts for one in shown)
    assert fine is not None and worse is not None and worse > 3 * fine
    outputs = [one for one in services.gear.view().instruments if one.entry.role is InstrumentRole.OUTPUT]
    roles = [(one.entry.name, one.state) for one in outputs]
    assert roles == [("Coarse recorder", "in use"), ("Recorder", "replaced")]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": "  "}, "name"),
        ({"calibrated_on": TODAY + timedelta(days=2)}, "calibrated_on"),
        ({"calibrated_on": date(1800, 1, 1)}, "calibrated_on"),
        ({"calibrated_on": date(2026, 3, 1), "due_on": date(2026, 2, 1)}, "due_on"),
        ({"percent_of_reading": 101.0}, "percent_of_reading"),
        ({"percent_of_reading": float("nan")}, "percent_of_reading"),
        ({"resolution": -0.1}, "resolution"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(services: Services, change: dict, field: str) -> None:  # type: ignore[type-arg]
    before = services.gear.view().instruments
    with pytest.raises(BadInput) as refused:
        services.gear.enter(replace(RECORDER, **change), TAMSIN)
    assert refused.value.field == field and services.gear.view().instruments == before


def test_a_calibration_that_ran_out_is_told_and_doubted(services: Services, unit_id: int) -> None:
    overdue = replace(RECORDER, calibrated_on=date(2024, 1, 1), due_on=date(2025, 1, 1))
    services.gear.enter(overdue, TAMSIN)
    attempt_id = put_attempt(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id, (80.0, 81.0))
    codes = [finding.code for finding in services.evidence.attempt(attempt_id).attempt.findings]
    assert "out-of-calibration" in codes


@pytest.mark.parametrize(("days", "state"), [(30, "in use"), (29, "due soon"), (0, "due soon"), (-1, "overdue")])
def test_a_calibration_that_runs_out_is_told_a_month_before(days: int, state: str) -> None:
    day = date(2026, 6, 1)
    assert replace(RECORDER, due_on=day + timedelta(days=days)).calibration_on(day) == state
    assert replace(RECORDER, due_on=None).calibration_on(day) == "in use"


def test_the_register_gives_back_what_was_entered(services: Services, unit_id: int) -> None:
    """So that a calibration can be a new entry with the same limits."""
    entered = replace(RECORDER, name="Meter 9", percent_of_reading=0.3, percent_of_range=0.1, full_range=60.0, digits=2)
    assert services.gear.enter(entered, TAMSIN).instruments[0].entry == entered
