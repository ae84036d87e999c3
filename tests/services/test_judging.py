"""From records to verdicts and reach bars, on attempts put on record as the bench room would."""

import csv
import io
import math
from dataclasses import fields, replace

import pytest
from sqlalchemy import text

from rulvek.composition import Services
from rulvek.core.judgement.evidence import unit_evidence
from rulvek.core.judgement.verdict import VerdictKind
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.instruments import Instruments
from rulvek.core.records.outside import OtherReading
from rulvek.core.records.standing import standing_attempt
from rulvek.core.runs.modes import End, Mode
from rulvek.reports.sheet_csv import sheet_csv
from rulvek.services.views.line import ReachView
from rulvek.store import load
from tests.conftest import CERTIFIED, TAMSIN, add_unit, put_attempt


def reach_at_four_ohms(services: Services) -> ReachView:
    return services.catalogue.model(1).reaches[0]


def test_weakest_channel_of_the_weakest_unit_makes_the_bar(services: Services, unit_id: int) -> None:
    other = add_unit(services, "T2-0002")
    put_attempt(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id, (82.0, 80.0))
    put_attempt(services, services.campaigns.create(other, TAMSIN, CERTIFIED).id, (79.0, 81.0))
    reach = reach_at_four_ohms(services)
    assert (reach.certified_watts, reach.unit_serial) == (79.0, "T2-0002")
    assert reach.notches[0].watts == 75.0 and reach.notches[0].verdict is VerdictKind.BACKED


def test_a_unit_run_at_another_voltage_does_not_pass_for_the_weakest(services: Services, unit_id: int) -> None:
    other = add_unit(services, "T2-0002")
    put_attempt(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id, (82.0, 80.0))
    put_attempt(
        services,
        services.campaigns.create(other, TAMSIN, replace(CERTIFIED, held_volts=12.5)).id,
        (60.0, 61.0),
        volts=12.47,
    )
    assert reach_at_four_ohms(services).certified_watts == 80.0
    claim = services.catalogue.model(1).claims[0]
    assert [v.kind for v in claim.unit_verdicts] == [VerdictKind.BACKED, VerdictKind.ESTIMATED]
    assert claim.verdict is not None and claim.verdict.kind is VerdictKind.BACKED


def test_the_last_attempt_with_a_reading_stands_for_its_run(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    good = put_attempt(services, campaign.id, (80.0, 80.0))
    put_attempt(services, campaign.id, (), end=End.OPERATOR)
    run = services.campaigns.get(campaign.id).runs[0]
    assert run.state == "done" and run.chosen is not None and run.chosen.id == good
    with services.database.reading() as session:
        kept = load.campaign(session, campaign.id)
        product = load.model(session, kept.unit.model_id).product
    assert standing_attempt(kept.runs[1]) is None
    assert [e.attempt_id for e in unit_evidence([kept], product).evidence] == [good]


def test_a_run_without_any_reading_shows_how_it_ended(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (), end=End.PROTECTED)
    run = services.campaigns.get(campaign.id).runs[0]
    assert run.chosen is not None and run.chosen.end == "protected" and run.chosen.weakest_watts is None
    assert services.catalogue.model(1).claims[0].verdict.kind is VerdictKind.NO_EVIDENCE  # type: ignore[union-attr]


def test_a_sheet_is_judged_by_its_own_campaign(services: Services, unit_id: int) -> None:
    first, second = (services.campaigns.create(unit_id, TAMSIN, CERTIFIED) for _ in range(2))
    put_attempt(services, first.id, (80.0, 80.0))
    put_attempt(services, second.id, (70.0, 70.0))
    kinds = [services.campaigns.get(c.id).claims[0].verdict.kind for c in (first, second)]  # type: ignore[union-attr]
    assert kinds == [VerdictKind.BACKED, VerdictKind.SHORT]
    assert reach_at_four_ohms(services).certified_watts == 70.0  # the unit's latest


def test_a_claim_at_an_untested_load_gets_its_own_bar(services: Services, unit_id: int) -> None:
    services.catalogue.add_claim(1, ClaimTerms("Web", "main", 90.0, 3.0), TAMSIN)
    places = [(r.load_ohms, r.bridged, r.certified_watts) for r in services.catalogue.model(1).reaches]
    assert places == [(4.0, False, None), (3.0, False, None), (2.0, False, None), (4.0, True, None)]


def test_attention_counts_what_needs_it(services: Services, unit_id: int) -> None:
    services.catalogue.add_claim(1, ClaimTerms("Carton", "main", 95.0, 4.0), TAMSIN)
    put_attempt(services, services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id, (80.0, 80.0))
    add_unit(services, "T2-0002")
    model = services.catalogue.line().series[0].models[0]
    assert model.attention == ["1 claim short", "2 claims conflict", "1 without a voltage", "1 unit untested"]
    assert (model.units, model.tested_units, model.channels) == (2, 1, 2)


def test_figures_of_an_attempt_are_worked_out_from_what_was_stored(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (82.0, 80.0))
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
        1.95996 * (bracket**2 + load**2 + volts**2 + supply**2 + allowed_at_80_watts() ** 2) ** 0.5, rel=5e-3
    )


def allowed_at_80_watts() -> float:
    """What the method allows for besides: its repeatability, the recorder's response, the cable to a load of 4 Ω."""
    repeatability, response = 0.003 * 80, 2 * 0.0005 * 80 / 3**0.5
    cable, inductance = 0.002 / 4 * 80 / 3**0.5, (2 * 3.1416 * 1000 * 2e-6 / 4) ** 2 / 2 * 80 / 3**0.5
    return float((repeatability**2 + response**2 + cable**2 + inductance**2) ** 0.5)


def test_not_all_channels_loaded_is_no_evidence(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (82.0,))
    with services.database.writing() as session:  # a plan of before, which loaded one channel alone
        session.execute(text("UPDATE run SET channels = '[1]' WHERE position = 1"))
        session.execute(text("UPDATE unit SET version = version + 1"))
        session.execute(text("UPDATE model SET version = version + 1"))
    verdict = services.catalogue.model(1).claims[0].verdict
    assert verdict is not None and verdict.kind is VerdictKind.NO_EVIDENCE and "all channels" in verdict.reason


def test_a_stored_method_stays_with_its_campaign(services: Services, unit_id: int) -> None:
    strict = MethodProfile(name="Strict", thd_n_limit_percent=0.5)
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED, method=strict)
    assert (campaign.method_name, campaign.thd_n_limit_percent) == ("Strict", 0.5)


def test_a_changed_default_does_not_rewrite_a_past_verdict(
    services: Services, unit_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The method that is stored with the campaign decides: its rule, its tolerances and its limit."""
    tolerant = MethodProfile(name="Tolerant", reference_volts_tolerance=0.3)
    strict = MethodProfile(name="Strict", guarded=False, reference_volts_tolerance=0.02)
    found = {}
    for method in (tolerant, strict):
        campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED, method=method)
        put_attempt(services, campaign.id, (75.1, 75.2), volts=14.6)
        found[method.name] = services.campaigns.get(campaign.id).claims[0].verdict
        sheet_of = services.campaigns.judged(campaign.id)
        assert sheet_of.campaign.method == method
    kinds = {name: verdict.kind for name, verdict in found.items() if verdict is not None}
    assert kinds == {"Tolerant": VerdictKind.TOO_CLOSE, "Strict": VerdictKind.ABOVE_RATED_ONLY}
    other = {"guarded": False, "reference_volts": 13.0, "thd_n_limit_percent": 0.1, "unknown_volts_percent": 40.0}
    changed = tuple(other.get(f.name, getattr(MethodProfile(), f.name)) for f in fields(MethodProfile))
    monkeypatch.setattr(MethodProfile.__init__, "__defaults__", changed)
    assert MethodProfile().thd_n_limit_percent == 0.1
    services.conclusions.changed(1, unit_id)
    again = [services.campaigns.get(number).claims[0].verdict for number in (1, 2)]
    assert [verdict.kind for verdict in again if verdict is not None] == list(kinds.values())


def test_second_readings_keep_their_channels_where_one_was_skipped(services: Services, unit_id: int) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    attempt_id = put_attempt(services, campaign.id, (82.0, 80.0))
    rows = [OtherReading(1), OtherReading(2, watts=79.9)]
    services.second.add(attempt_id, "Meter 9", 0.5, rows, TAMSIN)
    assert [(s.channel, s.watts, s.first_watts) for s in services.evidence.attempt(attempt_id).seconds] == [
        (2, 79.9, 80.0)
    ]


def test_an_instrument_that_nobody_registered_is_doubted_and_has_the_stated_uncertainty(
    services: Services, unit_id: int
) -> None:
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    known = put_attempt(services, campaign.id, (80.0, 80.0))
    unknown = put_attempt(services, campaign.id, (80.0, 80.0), instruments=Instruments())
    first, second = (services.evidence.attempt(one).attempt for one in (known, unknown))
    assert "instrument-unknown" not in [finding.code for finding in first.findings]
    assert "instrument-unknown" in [finding.code for finding in second.findings]
    # By hand after the GUM: the method's own 2 % of volts and 1 % of the supply's volts, rectangular.
    method = MethodProfile()
    bracket, load = 80 * (10**0.003 - 1) / 12**0.5, 0.8 / 3**0.5
    volts = 2 * 80 * method.unknown_volts_percent / 100 / 3**0.5
    supply = 2.3 * 80 * method.unknown_supply_percent / 100 / 3**0.5
    assert second.expanded_watts == pytest.approx(
        1.95996 * (bracket**2 + load**2 + volts**2 + supply**2 + allowed_at_80_watts() ** 2) ** 0.5, rel=5e-3
    )


@pytest.mark.parametrize("end", [End.OPERATOR, End.LINK_LOST, End.NOT_RECORDED, End.SUPPLY_LOW, End.TOO_HOT])
def test_what_the_day_cut_short_shows_on_its_run_only(services: Services, unit_id: int, end: End) -> None:
    """It is no reading of the unit: neither on the line nor in the next plan."""
    before = services.planner.plan(unit_id, CERTIFIED).runs[0]
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (2.53, 2.6), end=end)
    assert reach_at_four_ohms(services).certified_watts is None
    after = services.planner.plan(unit_id, CERTIFIED).runs[0]
    assert (after.watts, after.basis, after.amps) == (before.watts, before.basis, before.amps)
    chosen = services.campaigns.get(campaign.id).runs[0].chosen
    assert chosen is not None and chosen.weakest_watts == 2.53 and chosen.end == end


def test_predicted_current_is_never_below_what_claims_and_readings_ask(services: Services, unit_id: int) -> None:
    claimed = services.planner.plan(unit_id, CERTIFIED).runs[0].amps
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (40.0, 41.0), end=End.INPUT_EXHAUSTED)
    assert services.planner.plan(unit_id, CERTIFIED).runs[0].amps >= claimed
    put_attempt(services, campaign.id, (80.0, 80.0))  # 160 W at 14.38 V and 50 %: 22.25 A, as the clamp read it
    drawn = services.planner.plan(unit_id, CERTIFIED).runs[0].amps
    assert drawn >= 160 / 14.38 / 0.5


def test_a_bar_is_one_units(services: Services, unit_id: int) -> None:
    """The burst of one unit beside the certified of another would be a headroom of nothing that exists."""
    other = add_unit(services, "T2-0002")
    both = replace(CERTIFIED, modes=(Mode.CERTIFIED, Mode.BURST))
    for unit, certified, burst in ((unit_id, 82.0, 100.0), (other, 79.0, None)):
        campaign = services.campaigns.create(unit, TAMSIN, both)
        modes = [run.mode for run in campaign.runs]
        put_attempt(services, campaign.id, (certified, certified), run=modes.index(Mode.CERTIFIED))
        if burst is not None:
            put_attempt(services, campaign.id, (burst, burst), end=End.CLIP, run=modes.index(Mode.BURST))
    reach = reach_at_four_ohms(services)
    assert (reach.unit_serial, reach.certified_watts) == ("T2-0002", 79.0)
    assert reach.burst_watts is None and reach.headroom_db is None
    own = services.catalogue.unit(unit_id).unit.reaches[0]
    assert own.unit_serial == "T2-0001"
    assert own.headroom_db == pytest.approx(10 * math.log10(100 / 82))


def test_a_burst_has_no_efficiency(services: Services, unit_id: int) -> None:
    """The supply's current is averaged over pauses, the watts are of the bursts alone."""
    wishes = replace(CERTIFIED, modes=(Mode.BURST,))
    campaign = services.campaigns.create(unit_id, TAMSIN, wishes)
    attempt_id = put_attempt(services, campaign.id, (90.0, 91.0), end=End.CLIP)
    assert services.evidence.attempt(attempt_id).attempt.efficiency_percent is None
    rows = list(csv.DictReader(io.StringIO(sheet_csv(services.campaigns.judged(campaign.id)).lstrip("\ufeff"))))
    assert [row["Efficiency (%)"] for row in rows] == ["", ""] and [row["Power (W)"] for row in rows] == [
        "90.0",
        "91.0",
    ]


def test_a_campaign_is_planned_by_the_repeatability_on_record(services: Services, unit_id: int) -> None:
    first = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    for watts in (80.0, 82.0, 81.0):
        put_attempt(services, first.id, (watts,))
    put_attempt(services, first.id, (40.0,), end=End.OPERATOR)  # stopped short: no repeat of the others
    services.conclusions.changed(1, unit_id)
    services.conclusions.flush()
    second = services.campaigns.create(unit_id, TAMSIN, CERTIFIED, method=MethodProfile().with_dwell("long"))
    with services.database.reading() as session:
        before, after = (load.campaign(session, one.id).method for one in (first, second))
    assert (before.repeatability_percent, before.repeatability_freedom) == (0.3, 30.0)
    assert after.dwell_seconds == 30.0  # what was wished for stays
    squares = 2 / 81**2  # of 80, 82 and 81 W about their mean
    assert after.repeatability_freedom == 32
    assert after.repeatability_percent == pytest.approx(100 * math.sqrt((30 * 0.003**2 + squares) / 32), rel=1e-9)
