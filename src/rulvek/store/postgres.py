"""What PostgreSQL asks for, so that several servers may share one set of records.

Writers take turns by one lock on the whole of the records, as they do with SQLite: the audit chain has one end, the
steps of a run come in the order of their numbers, and no transaction fails because of another one's.
"""

from collections.abc import Callable, Iterator, Mapping
from functools import partial
from typing import Any

from sqlalchemy import Connection, Engine, event, insert, inspect, text
from sqlalchemy.orm import Session

from rulvek.core.errors import Conflict, NoRoom, RulvekError, Unreadable
from rulvek.store.schema import newest
from rulvek.store.tables import Base, Bench

START = "postgresql"
WRITERS = 7_281_153
"""Key of the lock that writers take turns by; any number will do that nobody else uses."""
UNUSABLE: Mapping[str, Callable[[], RulvekError]] = {
    "lock timeout": lambda: Conflict(
        "The records cannot be brought up to date: another program is writing to them.",
        todo="End the other one, then start again.",
    ),
    "permission denied": lambda: Conflict(
        "The records cannot be written to.", todo="Give Rulvek's user of the database the right to make tables."
    ),
    "No space left": lambda: NoRoom("There is no room left on the disk of the records."),
    "does not exist": lambda: Conflict("The database is not there.", todo="Make it: “createdb rulvek”."),
    "authentication failed": lambda: Conflict(
        "The database server does not let Rulvek in.", todo="See to the user and password in RULVEK_DATABASE_URL."
    ),
    "connection": lambda: Conflict(
        "The database server cannot be reached.", todo="See that it runs, and to RULVEK_DATABASE_URL."
    ),
}
"""What PostgreSQL says of records that cannot be used, and what is told of it."""
FULL, LOCKED, READ_ONLY = "No space left", "lock timeout", "read-only transaction"
"""What it says of a single change that it refuses."""
FOUND = """
CREATE VIEW found AS
SELECT model.name, model.description AS of, 'model' AS kind, model.id AS ref FROM model
UNION ALL SELECT unit.serial, model.name, 'unit', unit.id FROM unit JOIN model ON model.id = unit.model_id
UNION ALL SELECT 'Campaign ' || campaign.id, unit.serial || ' ' || model.name, 'campaign', campaign.id
    FROM campaign JOIN unit ON unit.id = campaign.unit_id JOIN model ON model.id = unit.model_id
UNION ALL SELECT claim.document, claim.watts || ' W, ' || model.name, 'claim', claim.id
    FROM claim JOIN model ON model.id = claim.model_id
UNION ALL SELECT instrument.name || ' ' || instrument.serial, 'instrument', 'instrument', instrument.id FROM instrument
"""
"""Names are looked for in the rows themselves: an index of any part of a name would take an extension."""


def arguments(connections: int, patience: float, is_kept: bool) -> dict[str, Any]:
    """How an engine is made. A server that was started anew is found again."""
    options = f"-c lock_timeout={round(1000 * patience)} -c timezone=UTC"
    connecting = {"connect_timeout": 10, "options": options}
    return {"connect_args": connecting, "pool_pre_ping": True, "pool_size": connections, "max_overflow": connections}


def listen(engine: Engine, durable: bool, patience: float) -> None:
    """Begin transactions as they must be begun."""
    event.listen(engine, "begin", partial(_begin, durable))


def refuse_foreign(engine: Engine) -> None:
    """See that tables that are there are ours, before anything is changed.

    Raises:
        Unreadable: they are somebody else's.
    """
    with engine.connect() as connection:
        tables = inspect(connection).get_table_names()
    if tables and "alembic_version" not in tables:
        what = "The database holds somebody else's tables: it is none of Rulvek's."
        raise Unreadable(what, todo="Make a database of its own: “createdb rulvek”.")


def first_schema(engine: Engine) -> None:
    """Make all tables at once where there are none: what migrations went through before is SQLite's alone."""
    with engine.execution_options(writing=True).begin() as connection:  # of several servers that start, one makes them
        if inspect(connection).has_table("alembic_version"):
            return
        Base.metadata.create_all(connection)
        connection.exec_driver_sql(FOUND)
        connection.exec_driver_sql("CREATE TABLE alembic_version (version_num VARCHAR(32) PRIMARY KEY)")
        connection.execute(text("INSERT INTO alembic_version VALUES (:head)"), {"head": newest()})
        connection.execute(insert(Bench).values(name="Bench 1", kind="simulated"))


def faults(_session: Session) -> Iterator[str]:
    """Nothing: the server holds its pages and references itself."""
    return iter(())


def _begin(durable: bool, connection: Connection) -> None:
    if connection.get_execution_options().get("writing", False):
        # Each statement sees what was committed before it: what came while this one waited for its turn, too.
        if not durable:
            connection.exec_driver_sql("SET LOCAL synchronous_commit = off")
        connection.exec_driver_sql(f"SELECT pg_advisory_xact_lock({WRITERS})")
    else:
        connection.exec_driver_sql("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
