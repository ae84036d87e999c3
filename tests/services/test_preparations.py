"""What is seen to before power: measured on the bench, ticked, or left out for a reason, by who holds the bench."""

import re

import pytest

from rulvek.composition import Services
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.records.before_power import ITEM_NAMES, Item, open_items
from rulvek.core.records.campaigns import Campaign
from rulvek.store import audit, load
from rulvek.store.tables import AuditEntry
from tests.conftest import CERTIFIED, JOREN, TAMSIN, add_unit


@pytest.fixture
def campaign_id(services: Services, unit_id: int) -> int:
    return services.campaigns.create(unit_id, TAMSIN, CERTIFIED).id


def kept(services: Services, campaign_id: int) -> Campaign:
    with services.database.reading() as session:
        return load.campaign(session, campaign_id)


def still_open(services: Services, campaign_id: int, wiring: int = 1) -> list[Item]:
    campaign = kept(services, campaign_id)
    run = next(run for run in campaign.runs if run.wiring == wiring)
    return open_items(campaign.seen_to(run.wiring_key))


def test_each_item_is_open_until_it_is_seen_to(services: Services, campaign_id: int) -> None:
    assert still_open(services, campaign_id) == list(Item)
    services.preparations.see_to(campaign_id, 1, Item.CLAMP, TAMSIN)
    services.preparations.see_to(campaign_id, 1, Item.LOADS, TAMSIN)
    assert still_open(services, campaign_id) == [item for item in Item if item not in (Item.CLAMP, Item.LOADS)]
    found = {one.item: one for one in kept(services, campaign_id).preparations}
    assert 0 < abs(found[Item.CLAMP].data["zero_amps"]) < 5 and found[Item.CLAMP].by == TAMSIN.name
    assert [load["nominal"] for load in found[Item.LOADS].data["loads"].values()] == [4.0, 4.0]


def test_a_wiring_has_a_list_of_its_own(services: Services, campaign_id: int) -> None:
    services.preparations.see_to_all(campaign_id, 1, TAMSIN)
    assert still_open(services, campaign_id, 1) == []
    assert Item.LOADS in still_open(services, campaign_id, 2)
    with pytest.raises(NotFound, match="no wiring 99"):
        services.preparations.see_to(campaign_id, 99, Item.CLAMP, TAMSIN)


def test_controls_are_ticked_one_by_one(services: Services, campaign_id: int) -> None:
    with pytest.raises(BadInput, match="Gain to 1 V") as refused:
        services.preparations.see_to(campaign_id, 1, Item.CONTROLS, TAMSIN)
    assert refused.value.field == "ticked"
    services.preparations.see_to(campaign_id, 1, Item.CONTROLS, TAMSIN, ticked=("Gain to 1 V",))
    assert Item.CONTROLS not in still_open(services, campaign_id)


def test_gains_that_are_apart_are_not_done_and_say_which_way_to_turn(services: Services, unit_id: int) -> None:
    """Of units as they come out of the box some are matched and some are not; turned, all of them are."""
    apart = 0
    for number in range(2, 8):
        unit = add_unit(services, f"T2-000{number}")
        campaign_id = services.campaigns.create(unit, TAMSIN, CERTIFIED).id
        try:
            services.preparations.see_to(campaign_id, 1, Item.GAINS, TAMSIN)
        except Conflict as refused:
            apart += 1
            assert re.search(r"Gains are \d\.\d\d dB apart.*turn channel [12] (up|down) by", refused.what)
            assert refused.code == "gains-misfit" and Item.GAINS in still_open(services, campaign_id)
        services.preparations.see_to(campaign_id, 1, Item.GAINS, TAMSIN, turn=True)
        assert Item.GAINS not in still_open(services, campaign_id)
        done = [one for one in kept(services, campaign_id).preparations if one.item is Item.GAINS and one.done][-1]
        assert done.data["worst_db"] <= kept(services, campaign_id).method.gain_match_db
        services.preparations.see_to(campaign_id, 1, Item.GAINS, TAMSIN)  # and they stay as they were turned
    assert apart >= 1


def test_leaving_out_needs_a_reason_that_stands_with_every_attempt(services: Services, campaign_id: int) -> None:
    with pytest.raises(BadInput, match=ITEM_NAMES[Item.CLAMP]):
        services.preparations.skip(campaign_id, 1, Item.CLAMP, TAMSIN, "  ")
    services.preparations.skip(campaign_id, 1, Item.CLAMP, TAMSIN, "No clamp on this bench.")
    services.preparations.see_to_all(campaign_id, 1, TAMSIN)
    run = services.campaigns.get(campaign_id).runs[0]
    services.benches.room().start(run.id, TAMSIN)
    services.benches.wait()
    (attempt,) = services.campaigns.get(campaign_id).runs[0].attempts
    assert "No clamp on this bench." in str(attempt.circumstances)


def test_only_the_holder_prepares_and_nothing_is_kept_of_the_other(services: Services, campaign_id: int) -> None:
    services.preparations.see_to(campaign_id, 1, Item.CLAMP, TAMSIN)
    for act in (
        lambda: services.preparations.see_to(campaign_id, 1, Item.LOADS, JOREN),
        lambda: services.preparations.skip(campaign_id, 1, Item.LOADS, JOREN, "No meter."),
    ):
        with pytest.raises(Conflict, match="Tamsin Oduwell is working at the bench"):
            act()
    assert {one.by for one in kept(services, campaign_id).preparations} == {TAMSIN.name}
    assert services.benches.room().state().state == "idle"


def test_nothing_starts_before_everything_is_seen_to(services: Services, campaign_id: int) -> None:
    run = services.campaigns.get(campaign_id).runs[0]
    with pytest.raises(Conflict, match="still to be seen to") as refused:
        services.benches.room().start(run.id, TAMSIN)
    assert refused.value.code == "before-power-open"
    assert services.campaigns.get(campaign_id).runs[0].attempts == []


def test_what_was_done_is_in_the_chain(services: Services, campaign_id: int) -> None:
    services.preparations.see_to(campaign_id, 1, Item.CLAMP, TAMSIN)
    services.preparations.skip(campaign_id, 1, Item.LOADS, TAMSIN, "No meter.")
    with services.database.reading() as session:
        actions = [entry.action for entry in session.query(AuditEntry).order_by(AuditEntry.id)]
        assert audit.broken_at(session) is None
    assert actions[-2:] == ["saw to before power", "skipped before power"]
