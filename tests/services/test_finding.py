"""Anything on record is found by any part of its name."""

import pytest

from rulvek.composition import Services
from rulvek.core.records.claims import ClaimKind, ClaimTerms
from rulvek.core.records.instruments import InstrumentEntry, InstrumentRole
from rulvek.store.queries import line
from tests.conftest import CERTIFIED, TAMSIN, add_unit, put_attempt


@pytest.fixture
def archive(services: Services, unit_id: int) -> Services:
    add_unit(services, "CQ4-2607-0251")
    campaign = services.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    put_attempt(services, campaign.id, (80.0, 81.0))
    services.catalogue.add_claim(
        1, ClaimTerms("Owner's leaflet, 3rd print", "main", 88.0, 4.0, kind=ClaimKind.CONTINUOUS), TAMSIN
    )
    services.gear.enter(InstrumentEntry(InstrumentRole.OUTPUT, "Millivoltmeter", "M_100%"), TAMSIN)
    return services


@pytest.mark.parametrize(
    ("words", "kind", "name"),
    [
        ("2607", "unit", "CQ4-2607-0251"),  # any part of a serial
        ("0251", "unit", "CQ4-2607-0251"),
        ("-0", "unit", "CQ4-2607-0251"),  # shorter than the index finds by itself
        ("LEAFLET 3rd", "claim", "Owner's leaflet, 3rd print"),  # all words, in any case
        ("volt", "instrument", "Millivoltmeter M_100%"),
        ("M_100%", "instrument", "Millivoltmeter M_100%"),  # signs that mean something to SQL
        ("campaign 1", "campaign", "Campaign 1"),
        ("attempt 1", "attempt", "Attempt 1"),
        ("t2-0001", "campaign", "Campaign 1"),  # by its unit
    ],
)
def test_it_is_found(archive: Services, words: str, kind: str, name: str) -> None:
    assert (kind, name) in [(one.kind, one.name) for one in archive.catalogue.find(words)]


@pytest.mark.parametrize(
    "words", ["", "   ", "nothing of the sort", '"', "'", "M_1000", "a AND b OR NOT", "*", "999999", "zz\0", "\0"]
)
def test_nothing_is_found_and_nothing_fails(archive: Services, words: str) -> None:
    assert [one.name for one in archive.catalogue.find(words) if words.strip() not in one.name] == []


def test_a_claim_leads_to_its_model(archive: Services) -> None:
    (claim,) = [one for one in archive.catalogue.find("leaflet") if one.kind == "claim"]
    assert (claim.model_id, claim.of) == (1, "88 W, Test two")


def test_what_is_not_shown_yet_is_not_found(archive: Services) -> None:
    with archive.database.writing() as session:
        session.connection().exec_driver_sql("UPDATE campaign SET arriving = true")
    assert "campaign" not in {one.kind for one in archive.catalogue.find("T2-0001")}


@pytest.mark.files  # where there is an index of names to hold it against
@pytest.mark.parametrize("words", ["t2", "T2", "01", "ca", "1", "75", "wo", "zz", "t2 01", "%", "_"])
def test_short_words_find_what_stands_in_a_name(services: Services, unit_id: int, words: str) -> None:
    for unit in (unit_id, add_unit(services, "T2-0002")):
        services.campaigns.create(unit, TAMSIN, CERTIFIED)
    with services.database.reading() as session:
        names = session.connection().exec_driver_sql("SELECT kind, ref, name, of FROM found").all()
        expected = {
            (kind, ref)
            for kind, ref, name, of in names
            if all(part.lower() in name.lower() or part.lower() in of.lower() for part in words.split())
        }
        found = {(one.kind, one.id) for one in line.find(session, words, 100) if one.kind != "attempt"}
    assert found == expected
