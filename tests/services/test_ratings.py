"""From units on record to the figure that they bear: which of them count, at which figure, and why others do not."""

import math
from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient
from scipy import stats
from sqlalchemy import text

from rulvek.composition import Services
from rulvek.core.judgement.evidence import LIMITED_BY_VOLTAGE
from rulvek.core.ratings.population import Promise, SampledUnit, bound_of
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.facts import Came
from rulvek.core.runs.modes import End
from rulvek.store import save
from tests.conftest import CERTIFIED, TAMSIN, conducted, new_unit, put_attempt, write_line

AT = {"group": "main", "load_ohms": 4, "supply_volts": 14.4, "thd_n_percent": 1}
WATTS = (80.2, 81.5, 79.6, 80.9, 82.0, 80.4)


def measured(services: Services, serial: str, watts: float, lot: str = "2601", **more: Any) -> int:
    """Another unit of the first model, with a reading at 4 Ω; returns its id."""
    facts = {name: more.pop(name) for name in ("came",) if name in more}
    revision = more.pop("revision", "A")
    with services.database.writing() as session:
        unit = new_unit(1, serial)
        unit = replace(unit, lot=lot, revision=revision, facts=replace(unit.facts, **facts))
        unit_id = save.unit(session, unit)
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (watts, watts + 0.8), **more)
    return unit_id


def six_units(services: Services) -> None:
    """Six units of two lots, beside one that nobody measured."""
    write_line(services)
    for at, watts in enumerate(WATTS):
        measured(services, f"T2-1{at}", watts, f"26{at % 2}")


of_six = pytest.mark.begins_with.with_args(six_units)


@pytest.fixture
def six(services: Services) -> list[int]:
    """Their ids."""
    with services.database.reading() as session:
        return list(session.scalars(text("SELECT id FROM unit WHERE serial LIKE 'T2-1%' ORDER BY id")))


def asked(client: TestClient, status: int = 200, **more: Any) -> dict[str, Any]:
    at = AT | {
        name: more.pop(name) for name in list(more) if name not in ("share", "wanted_watts", "step_watts", "without")
    }
    answer = client.post("/api/models/1/population", json={"at": at} | more)
    assert answer.status_code == status, answer.text
    told: dict[str, Any] = answer.json()
    return told


def row_of(told: dict[str, Any], serial: str) -> dict[str, Any]:
    return next(row for row in told["rows"] if row["serial"] == serial)


@of_six
def test_the_weakest_channel_of_each_unit_is_its_figure(client: TestClient, six: list[int]) -> None:
    told = asked(client, wanted_watts=79)
    bound, rows = told["bound"], [row for row in told["rows"] if row["watts"] is not None]
    assert (bound["n"], bound["lots"], len(told["rows"])) == (6, 2, 7)
    # Each is brought to 14.4 V from the 14.38 V it was read at, and to the middle of its bracket.
    assert [row["watts"] for row in rows] == pytest.approx(WATTS, rel=0.01)
    assert all(row["watts"] > watts for row, watts in zip(rows, WATTS, strict=True))
    sample = [SampledUnit(row["serial"], row["watts"], row["lot"]) for row in rows]
    terms = Promise(wanted_watts=79.0, systematic_watts=told["systematic_watts"])
    alone = bound_of(sample, replace(terms, channels=told["channels"]))
    assert told["channels"] > 1 and bound["bound_watts"] == pytest.approx(alone.bound_watts)
    of_one = bound_of(sample, terms).bound_watts
    assert of_one is not None and bound["bound_watts"] < of_one
    assert bound["proposal_watts"] == alone.proposal_watts and bound["more_units"] == alone.more_units
    assert "Nobody has tested it at 4 Ω." in row_of(told, "T2-0001")["left_out"]
    assert told["simulated"]


@of_six
def test_what_all_readings_share_is_taken_off_once(client: TestClient, services: Services, six: list[int]) -> None:
    """The limits of recorder and loads by the budget that a run's page shows, without what is each reading's own.

    A stage that is limited by voltage gives into a stated load hardly less for what is doubtful in the measured one.
    """
    told = asked(client)
    attempt = row_of(told, "T2-10")["attempt_id"]
    lines = client.get(f"/api/attempts/{attempt}").json()["budget"]["components"]
    own = ("repeat", "level bracket", "resolution", "brought")
    of_the_load = ("load", "load meter", "cable to the load", "load's heat")
    shared = [
        line["watts"] * ((1 - LIMITED_BY_VOLTAGE) / 2 if line["name"] in of_the_load else 1)
        for line in lines
        if not line["name"].startswith(own)
    ]
    assert 3 <= len(shared) < len(lines)
    assert told["systematic_watts"] == pytest.approx(sum(one**2 for one in shared) ** 0.5, rel=0.03)
    bound = told["bound"]
    assert told["taken_off_watts"] == pytest.approx(1.645 * told["systematic_watts"])
    assert bound["proposal_watts"] <= bound["bound_watts"] - told["taken_off_watts"]


@pytest.mark.parametrize(
    ("came", "words"),
    [
        (Came.RETURNED, "It was returned."),
        (Came.REFURBISHED, "It was refurbished."),
        (Came.SAMPLE, "It is an engineering sample."),
    ],
)
@of_six
def test_what_does_not_speak_for_production_is_named(
    client: TestClient, services: Services, six: list[int], came: Came, words: str
) -> None:
    measured(services, "T2-90", 50.0, came=came)
    told = asked(client)
    assert told["bound"]["n"] == 6 and row_of(told, "T2-90")["left_out"] == words
    assert row_of(told, "T2-90")["watts"] == pytest.approx(50.0, rel=0.02)  # what it gave is shown all the same
    measured(services, "T2-91", 80.0, came=Came.FROM_PRODUCTION)
    assert asked(client)["bound"]["n"] == 7


@of_six
def test_only_revisions_that_are_covered_count(client: TestClient, services: Services, six: list[int]) -> None:
    measured(services, "T2-92", 70.0, revision="B")
    assert asked(client)["bound"]["n"] == 7
    told = asked(client, revisions=["A"])
    assert told["bound"]["n"] == 6 and row_of(told, "T2-92")["left_out"] == "Revision B is not covered."


@of_six
def test_a_unit_that_stopped_short_gives_at_least_that(client: TestClient, services: Services, six: list[int]) -> None:
    measured(services, "T2-93", 78.0, end=End.INPUT_EXHAUSTED)
    told = asked(client)
    assert row_of(told, "T2-93")["censored"] and told["bound"]["method"] == "censored"


@of_six
def test_a_unit_that_tripped_counts_with_what_it_gave(client: TestClient, services: Services, six: list[int]) -> None:
    measured(services, "T2-94", 66.0, end=End.PROTECTED)
    row = row_of(asked(client), "T2-94")
    assert not row["censored"] and not row["left_out"] and row["watts"] == pytest.approx(66.0, rel=0.02)


@of_six
def test_volts_below_say_at_least_and_volts_above_the_least_that_is_possible(
    client: TestClient, services: Services, six: list[int]
) -> None:
    measured(services, "T2-95", 79.0, volts=13.2)
    low = row_of(asked(client), "T2-95")
    assert low["censored"] and low["watts"] == pytest.approx(79.0, rel=0.02)
    measured(services, "T2-96", 90.0, volts=15.4)
    high = row_of(asked(client), "T2-96")
    # P as V^2.3 at the most (the largest exponent there is): 90 W · (14.4/15.4)^2.3
    assert high["censored"] and high["watts"] == pytest.approx(90.0 * (14.4 / 15.4) ** 2.3, rel=0.01)


@of_six
def test_a_withdrawn_reading_is_out_at_once(client: TestClient, services: Services, six: list[int]) -> None:
    attempt = row_of(asked(client), "T2-12")["attempt_id"]
    services.campaigns.withdraw(attempt, TAMSIN, "The lead was off")
    told = asked(client)
    assert told["bound"]["n"] == 5 and row_of(told, "T2-12")["watts"] is None


@of_six
def test_leaving_a_unit_out_is_tried_and_told(client: TestClient, six: list[int]) -> None:
    before = asked(client)["bound"]
    told = asked(client, without=[six[2]])  # the weakest of them
    assert told["bound"]["n"] == 5 and told["bound"]["mean"] > before["mean"]
    assert row_of(told, "T2-12")["left_out"] == "Left out to see what that changes."
    assert asked(client)["bound"] == before  # nothing was stored


@of_six
def test_a_probability_plot_has_its_units_in_order(client: TestClient, six: list[int]) -> None:
    """Six normal units: expected at ±1.267, ±0.642 and ±0.202 (order statistics' means, Harter 1961, from memory)."""
    rows = sorted((row for row in asked(client)["rows"] if row["score"] is not None), key=lambda row: row["watts"])
    assert [row["score"] for row in rows] == pytest.approx([-1.267, -0.642, -0.202, 0.202, 0.642, 1.267], abs=0.02)


def test_no_unit_bears_nothing(client: TestClient, unit_id: int) -> None:
    told = asked(client)
    assert told["bound"] is None and len(told["rows"]) == 1


@of_six
def test_the_step_is_the_series_unless_told(client: TestClient, services: Services, six: list[int]) -> None:
    with services.database.writing() as session:
        save.changed_series(session, {1: SeriesEntry("Test series", "Vehicles", 5.0)})
    told = asked(client)
    assert told["step_watts"] == 5.0 and told["bound"]["proposal_watts"] % 5 == 0
    assert asked(client, step_watts=0.5)["step_watts"] == 0.5


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"group": "bass"}, "group"),
        ({"load_ohms": 0}, "at.load_ohms"),
        ({"band_low_hz": 20}, "band_high_hz"),
        ({"share": 0.2}, "share"),
        ({"kind": "music"}, "at.kind"),
    ],
)
def test_conditions_that_cannot_be_are_refused_by_field(
    client: TestClient, unit_id: int, changes: dict[str, Any], field: str
) -> None:
    assert asked(client, 422, **changes)["field"] == field


def test_a_conducted_unit_reads_as_its_verdict_does(client: TestClient, services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    conducted(services, campaign.id)
    verdict = client.get("/api/models/1").json()["claims"][0]["verdict"]
    row = row_of(asked(client), "T2-0001")
    assert (row["watts"], row["attempt_id"]) == (verdict["watts"], verdict["attempt_id"])


def compared(client: TestClient, first: dict[str, Any], second: dict[str, Any], **more: Any) -> Any:
    return client.post("/api/comparisons", json={"at": AT, "first": first, "second": second} | more)


@of_six
def test_two_lots_are_held_against_each_other(client: TestClient, services: Services, six: list[int]) -> None:
    """Units 2, 4 and 6 are of lot 261, the others of 260; SciPy has the same interval of the same figures."""
    answer = compared(client, {"model_id": 1, "lots": ["260"]}, {"model_id": 1, "lots": ["261"]})
    assert answer.status_code == 200, answer.text
    told = answer.json()
    groups = [[one["watts"] for one in told[name]["units"] if one["watts"]] for name in ("first", "second")]
    assert [len(group) for group in groups] == [3, 3] and not told["by_pairs"]
    theirs = stats.ttest_ind(groups[1], groups[0], equal_var=False)
    interval = theirs.confidence_interval(0.95)
    assert (told["low"], told["high"], told["p"]) == pytest.approx((interval.low, interval.high, theirs.pvalue))
    assert told["first"]["name"].endswith("lot 260") and told["matters"] is False
    channels = next(one for one in answer.json()["aspects"] if one["aspect"] == "channels")
    # Each unit's second channel gives 0.8 W more than its first.
    first = [80.2, 79.6, 82.0]
    assert channels["first"]["units"] == 3 and channels["second"]["units"] == 3
    wanted = sum(10 * math.log10((watts + 0.8) / watts) for watts in first) / 3
    assert channels["first"]["mean"] == pytest.approx(wanted, rel=1e-6)
    all_of_it = compared(client, {"model_id": 1}, {"model_id": 1}).json()
    assert all_of_it["by_pairs"] and all_of_it["watts"] == 0
    untested = [one for one in all_of_it["first"]["units"] if one["watts"] is None]
    assert [one["serial"] for one in untested] == ["T2-0001"] and "Nobody has tested" in untested[0]["left_out"]


@pytest.mark.parametrize(
    ("second", "status", "field"),
    [
        ({"model_id": 99}, 404, None),
        ({"model_id": 1, "lots": ["none"]}, 422, "second"),
        ({"model_id": 0}, 422, "second.model_id"),
    ],
)
@of_six
def test_a_group_that_is_not_there(
    client: TestClient, six: list[int], second: dict[str, Any], status: int, field: str | None
) -> None:
    answer = compared(client, {"model_id": 1}, second)
    assert answer.status_code == status and answer.json().get("field") == field, answer.text
