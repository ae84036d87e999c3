"""Records of an earlier version come through a migration with everything they held."""

import json
from pathlib import Path

import pytest
from sqlalchemy import text

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.judgement.evidence import unit_evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.before_power import Item, Skip
from rulvek.core.records.facts import ModelFacts, UnitFacts
from rulvek.core.records.kept import NAMED, Kind
from rulvek.core.records.standing import standing_attempt
from rulvek.core.runs.modes import Mode
from rulvek.store import kept, load
from rulvek.store.engine import Database
from tests.store.first_version import AT, FIRST, of_the_first_version, to_version

pytestmark = pytest.mark.files


def test_a_certified_campaign_of_the_first_version_is_still_evidence(tmp_path: Path) -> None:
    database = of_the_first_version(tmp_path / "old.db")
    database.migrate()
    with database.reading() as session:
        campaign = load.campaign(session, 1)
        product = load.model(session, 1).product
    run = campaign.runs[0]
    assert [(link.channels, link.nominal_ohms) for link in run.companions] == [((5,), 4.0)]
    assert campaign.policy is SupplyPolicy.HELD and campaign.wishes.modes == (Mode.CERTIFIED,)
    assert campaign.method == MethodProfile()  # k is no number of the method any more
    standing = standing_attempt(run)
    assert standing is not None and standing.cause is None and standing.skipped == ()
    assert standing.outside is None and standing.seconds == ()
    assert standing.ending is not None and standing.ending.start_watts is None
    (evidence,) = unit_evidence([campaign], product).evidence
    assert evidence.mode is Mode.CERTIFIED and evidence.weakest == 80.5 and evidence.all_driven
    database.close()


def test_skips_that_were_sentences_become_codes(tmp_path: Path) -> None:
    database = of_the_first_version(tmp_path / "old.db")
    to_version(database, "0006")
    sentences = ["clamp's zero skipped: At the lab (see note) (Joren)", "gains skipped: As it came: loud (Tamsin)"]
    with database.engine.begin() as connection:
        connection.execute(text("UPDATE attempt SET skipped = :s"), {"s": json.dumps(sentences)})
    database.migrate()
    with database.reading() as session:
        (run,) = load.campaign(session, 1).runs
    skipped = run.attempts[0].skipped
    assert skipped == (
        Skip(Item.CLAMP, "At the lab (see note)", "Joren"),
        Skip(Item.GAINS, "As it came: loud", "Tamsin"),
    )
    assert [skip.words for skip in skipped] == sentences and run.attempts[0].left_out(Item.CLAMP)
    database.close()


def test_lots_and_papers_that_were_only_named_are_records_after_the_migration(tmp_path: Path) -> None:
    database = Database(f"sqlite:///{tmp_path / 'old.db'}")
    to_version(database, "0019")
    later = [
        f"INSERT INTO unit (id, model_id, serial, lot, revision, origin, received_at, version) VALUES {rows}"
        for rows in (f"(2, 1, 'O5-2', '2601', 'A', '', '{AT}', 0)", f"(3, 1, 'O5-3', '2602', 'B', '', '{AT}', 0)")
    ]
    claim = (
        'INSERT INTO claim (id, model_id, document, "group", watts, load_ohms, bridged, kind, load_stated, linked,'
        " added_by, added_at) VALUES (1, 1, 'Owner''s manual', 'main', 75, 4, 0, 'continuous', 1, 0, 'T', '" + AT + "')"
    )
    with database.engine.begin() as connection:
        for statement in [*(one for one in FIRST[:4]), *later, claim]:
            connection.execute(text(_with_later_columns(statement)))
    database.migrate()
    with database.reading() as session:
        named = {kind: [one.entry for one in kept.all_of(session, kind, [1])] for kind in NAMED}
        unit, model = load.unit(session, 3), load.model(session, 1)
    assert [(lot.name, lot.revision) for lot in named[Kind.LOT]] == [("2601", "A"), ("2602", "B")]
    assert [one.name for one in named[Kind.REVISION]] == ["A", "B"]
    assert [(one.name, one.kind.value) for one in named[Kind.DOCUMENT]] == [("Owner's manual", "manual")]
    # What nobody said of them is empty, and reads as such.
    assert unit.facts == UnitFacts() and model.facts == ModelFacts() and model.claims[0].stands_at is None


def _with_later_columns(statement: str) -> str:
    """Rows of the first version as a later one has them."""
    return (
        statement.replace(
            "test_controls, design) VALUES (", "test_controls, design, fuse_amps, version, claims_version) VALUES ("
        )
        .replace("'[]', 'five-d')", "'[]', 'five-d', '[]', 0, 0)")
        .replace("origin, received_at) VALUES (1", "origin, received_at, version) VALUES (1")
        .replace(f"'On loan', '{AT}')", f"'On loan', '{AT}', 0)")
    )
