"""From rows to verdicts and reach bars, on rows written by hand as the bench room would."""

from dataclasses import replace
from datetime import UTC, datetime

import pytest

from rulvek.api.context import Services
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.judgement.verdict import VerdictKind
from rulvek.services.catalogue import NewClaim
from rulvek.services.judging import evidence_of
from rulvek.services.records import chosen_attempt
from rulvek.services.views.line import ReachView
from rulvek.store import queries, tables
from tests.conftest import CERTIFIED


def conduct_by_hand(
    services: Services,
    campaign_id: int,
    watts: tuple[float, ...],
    volts: float = 14.38,
    end: str = "limit",
    run: int = 0,
) -> int:
    """Write an attempt with its ending and readings; an empty tuple of watts writes no reading."""
    with services.database.writing() as session:
        row = queries.campaign(session, campaign_id).runs[run]
        attempt = queries.add(
            session,
            tables.Attempt(
                run_id=row.id,
                number=queries.next_attempt_number(session, row.id),
                reason="",
                started_by="Joren Haldvik",
                started_at=datetime.now(UTC),
            ),
        )
        ending = tables.AttemptEnding(
            attempt_id=attempt.id,
            end=end,
            fault="",
            ended_at=datetime.now(UTC),
            seconds=14.0,
            start_volts=14.4,
            level_dbv=-2.0,
            bracket_db=0.03 if end == "limit" else None,
            supply_volts=volts if watts else None,
            supply_lowest=volts - 0.02 if watts else None,
            supply_amps=sum(watts) / volts / 0.5 if watts else None,
            temperature_c=25.0,
            companion_watts=0.0,
            tripped_watts=None,
        )
        queries.add(session, ending)
        for channel, value in enumerate(watts, 1):
            reading = tables.Reading(
                attempt_id=attempt.id,
                channel=channel,
                watts=value,
                volts_rms=(value * 4) ** 0.5,
                thd_n=0.0098,
                thd=0.0097,
                load_nominal=4.0,
                load_measured=4.0,
                load_tolerance=0.01,
            )
            queries.add(session, reading)
        return attempt.id


def add_unit(services: Services, serial: str) -> int:
    with services.database.writing() as session:
        unit = tables.Unit(
            model_id=1, serial=serial, lot="2601", revision="A", origin="On loan", received_at=datetime.now(UTC)
        )
        return queries.add(session, unit).id


def reach_at_four_ohms(services: Services) -> ReachView:
    return services.catalogue.model(1).reaches[0]


def test_weakest_channel_of_the_weakest_unit_makes_the_bar(services: Services, unit_id: int) -> None:
    other = add_unit(services, "T2-0002")
    conduct_by_hand(services, services.campaigns.create(unit_id, "T", CERTIFIED).id, (82.0, 80.0))
    conduct_by_hand(services, services.campaigns.create(other, "T", CERTIFIED).id, (79.0, 81.0))
    reach = reach_at_four_ohms(services)
    assert (reach.certified_watts, reach.unit_serial) == (79.0, "T2-0002")
    assert reach.notches[0].watts == 75.0 and reach.notches[0].verdict is VerdictKind.BACKED


def test_a_unit_run_at_another_voltage_does_not_pass_for_the_weakest(services: Services, unit_id: int) -> None:
    other = add_unit(services, "T2-0002")
    conduct_by_hand(services, services.campaigns.create(unit_id, "T", CERTIFIED).id, (82.0, 80.0))
    conduct_by_hand(
        services,
        services.campaigns.create(other, "T", replace(CERTIFIED, held_volts=12.5)).id,
        (60.0, 61.0),
        volts=12.47,
    )
    assert reach_at_four_ohms(services).certified_watts == 80.0
    claim = services.catalogue.model(1).claims[0]
    assert [v.kind for v in claim.unit_verdicts] == [VerdictKind.BACKED, VerdictKind.ESTIMATED]
    assert claim.verdict is not None and claim.verdict.kind is VerdictKind.BACKED


def test_the_last_attempt_with_a_reading_stands_for_its_run(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, "T", CERTIFIED)
    good = conduct_by_hand(services, campaign.id, (80.0, 80.0))
    conduct_by_hand(services, campaign.id, (), end="operator")
    run = services.campaigns.get(campaign.id).runs[0]
    assert run.state == "done" and run.chosen is not None and run.chosen.id == good
    with services.database.reading() as session:
        row = queries.campaign(session, campaign.id)
        assert chosen_attempt(row.runs[1]) is None
        assert [e.run_id for e in evidence_of([row])] == [good]


def test_a_run_without_any_reading_shows_how_it_ended(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, "T", CERTIFIED)
    conduct_by_hand(services, campaign.id, (), end="protected")
    run = services.campaigns.get(campaign.id).runs[0]
    assert run.chosen is not None and run.chosen.end == "protected" and run.chosen.weakest_watts is None
    assert services.catalogue.model(1).claims[0].verdict.kind is VerdictKind.NO_EVIDENCE  # type: ignore[union-attr]


def test_a_sheet_is_judged_by_its_own_campaign(services: Services, unit_id: int) -> None:
    first, second = (services.campaigns.create(unit_id, "T", CERTIFIED) for _ in range(2))
    conduct_by_hand(services, first.id, (80.0, 80.0))
    conduct_by_hand(services, second.id, (70.0, 70.0))
    kinds = [services.campaigns.get(c.id).claims[0].verdict.kind for c in (first, second)]  # type: ignore[union-attr]
    assert kinds == [VerdictKind.BACKED, VerdictKind.SHORT]
    assert reach_at_four_ohms(services).certified_watts == 70.0  # the unit's latest


def test_a_claim_at_an_untested_load_gets_its_own_bar(services: Services, unit_id: int) -> None:
    services.catalogue.add_claim(1, NewClaim(group="main", document="Web", watts=90.0, load_ohms=3.0), "T")
    places = [(r.load_ohms, r.bridged, r.certified_watts) for r in services.catalogue.model(1).reaches]
    assert places == [(4.0, False, None), (3.0, False, None), (2.0, False, None), (4.0, True, None)]


def test_attention_counts_what_needs_it(services: Services, unit_id: int) -> None:
    services.catalogue.add_claim(1, NewClaim(group="main", document="Carton", watts=95.0, load_ohms=4.0), "T")
    conduct_by_hand(services, services.campaigns.create(unit_id, "T", CERTIFIED).id, (80.0, 80.0))
    add_unit(services, "T2-0002")
    model = services.catalogue.line().series[0].models[0]
    assert model.attention == ["1 claim short", "2 claims conflict", "1 without a voltage", "1 unit untested"]
    assert (model.units, model.tested_units, model.channels) == (2, 1, 2)


def test_figures_of_an_attempt_are_worked_out_from_what_was_stored(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, "T", CERTIFIED)
    conduct_by_hand(services, campaign.id, (82.0, 80.0))
    attempt = services.campaigns.get(campaign.id).runs[0].chosen
    assert attempt is not None
    assert attempt.efficiency_percent == pytest.approx(50.0)
    assert attempt.sag_volts == pytest.approx(0.02)
    # U of 80 W by hand after the GUM: a bracket of 0.03 dB, a load known to 1 %, a recorder within 0.05 % of its
    # volts and within 0.05 % and 2 mV of the supply's, whose sensitivity is at most 2.3·P/V.
    bracket = 80 * (10**0.003 - 1) / 12**0.5
    load, volts = 0.8 / 3**0.5, 2 * 80 * 0.0005 / 3**0.5
    supply = 2.3 * 80 / 14.38 * (14.38 * 0.0005 + 0.002) / 3**0.5
    assert attempt.expanded_watts == pytest.approx(
        1.95996 * (bracket**2 + load**2 + volts**2 + supply**2) ** 0.5, rel=1e-5
    )


def test_not_all_channels_loaded_is_no_evidence(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, "T", CERTIFIED)
    conduct_by_hand(services, campaign.id, (82.0,))
    with services.database.writing() as session:
        queries.campaign(session, campaign.id).runs[0].channels = [1]
    verdict = services.catalogue.model(1).claims[0].verdict
    assert verdict is not None and verdict.kind is VerdictKind.NO_EVIDENCE and "all channels" in verdict.reason


def test_a_stored_method_stays_with_its_campaign(services: Services, unit_id: int) -> None:
    strict = MethodProfile(name="Strict", thd_n_limit_percent=0.5)
    campaign = services.campaigns.create(unit_id, "T", CERTIFIED, method=strict)
    assert (campaign.method_name, campaign.thd_n_limit_percent) == ("Strict", 0.5)
