"""Records of an earlier version come through a migration with everything they held."""

import json
from pathlib import Path

from alembic import command
from alembic.config import Config
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
from rulvek.store.engine import MIGRATIONS, Database

AT = "2026-11-01 10:00:00.000000"
FIRST = [
    "INSERT INTO series (id, name, purpose) VALUES (1, 'Old', 'Boats')",
    "INSERT INTO model (id, series_id, name, topology, description, regulated, supply_low_volts, supply_high_volts,"
    " sensitivity_volts, test_controls, design) VALUES (1, 1, 'Old five', 'D', '', 0, 10.5, 16, 1, '[]', 'five-d')",
    "INSERT INTO channel_group (id, model_id, name, channels, rated_loads, bridged_loads, bass)"
    " VALUES (1, 1, 'main', '[1, 2, 3, 4]', '[4.0]', '[]', 0), (2, 1, 'bass', '[5]', '[4.0]', '[]', 1)",
    "INSERT INTO unit (id, model_id, serial, lot, revision, origin, received_at)"
    f" VALUES (1, 1, 'O5-1', '2601', 'A', 'On loan', '{AT}')",
    "INSERT INTO campaign (id, unit_id, bench, supply_volts, method, created_by, created_at)"
    f" VALUES (1, 1, 'Bench 1', 14.4, '{{\"coverage_factor\": 2.0}}', 'Tamsin', '{AT}')",
    'INSERT INTO run (id, campaign_id, position, mode, "group", channels, load_ohms, bridged, tone_hz, supply_volts,'
    " companions, reason) VALUES (1, 1, 1, 'certified', 'main', '[1, 2, 3, 4]', 4, 0, 1000, 14.4, '[[5, 4.0]]', 'x')",
    f"INSERT INTO attempt (id, run_id, number, reason, started_by, started_at) VALUES (1, 1, 1, '', 'Joren', '{AT}')",
    'INSERT INTO attempt_ending (attempt_id, "end", fault, ended_at, seconds, supply_volts)'
    f" VALUES (1, 'limit', '', '{AT}', 14, 14.37)",
    "INSERT INTO reading (attempt_id, channel, watts, volts_rms, thd_n, load_nominal, load_measured, load_tolerance)"
    " VALUES (1, 1, 80.5, 17.9, 0.0098, 4, 3.98, 0.01)",
]


def test_a_certified_campaign_of_the_first_version_is_still_evidence(tmp_path: Path) -> None:
    database = Database(f"sqlite:///{tmp_path / 'old.db'}")
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = database.engine
    command.upgrade(config, "0001")
    with database.engine.begin() as connection:
        for statement in FIRST:
            connection.execute(text(statement))
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
    database = Database(f"sqlite:///{tmp_path / 'old.db'}")
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = database.engine
    command.upgrade(config, "0001")
    with database.engine.begin() as connection:
        for statement in FIRST:
            connection.execute(text(statement))
    command.upgrade(config, "0006")
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
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = database.engine
    command.upgrade(config, "0019")
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
