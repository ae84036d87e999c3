"""Records as the first version of the program kept them: one campaign with one certified reading."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import text

from rulvek.store.engine import Database
from rulvek.store.schema import MIGRATIONS

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


def to_version(database: Database, version: str) -> None:
    """Bring records to some version."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = database.engine
    command.upgrade(config, version)


def of_the_first_version(path: Path) -> Database:
    """The first version's records."""
    database = Database(f"sqlite:///{path}")
    to_version(database, "0001")
    with database.engine.begin() as connection:
        for statement in FIRST:
            connection.execute(text(statement))
    return database
