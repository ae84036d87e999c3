"""What SQLite asks for: one file in WAL mode, foreign keys on, writers that wait for each other before they read."""

import sqlite3
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, event, text
from sqlalchemy.orm import Session

from rulvek.core.errors import Conflict, NoRoom, RulvekError, Unreadable

START = "sqlite://"
_RESTORE = "Restore a backup into another folder: “rulvek restore BACKUP FOLDER”."
UNUSABLE: Mapping[str, Callable[[], RulvekError]] = {
    "locked": lambda: Conflict(
        "The records cannot be brought up to date: another program is writing to them.",
        todo="End the other one, then start again.",
    ),
    "readonly": lambda: Conflict(
        "The records cannot be written to.", todo="Give whoever runs Rulvek the right to, or choose another folder."
    ),
    "is full": lambda: NoRoom("There is no room left on the disk of the records."),
    "unable to open": lambda: Conflict(
        "The records cannot be opened.", todo="See that the folder is there and may be written to."
    ),
    "not a database": lambda: Unreadable("The file of the records is no database.", todo=_RESTORE),
    "malformed": lambda: Unreadable("The database is damaged.", todo=_RESTORE),
}
"""What SQLite says of records that cannot be used, and what is told of it."""
FULL, LOCKED, READ_ONLY = "is full", "locked", "readonly"
"""What it says of a single change that it refuses."""


def arguments(connections: int, patience: float, is_kept: bool) -> dict[str, Any]:
    """How an engine is made."""
    pool = {"pool_size": connections, "max_overflow": connections} if is_kept else {}
    return {"connect_args": {"timeout": patience}, **pool}


def listen(engine: Engine, durable: bool, patience: float) -> None:
    """Set every connection up, and begin transactions as they must be begun."""
    event.listen(engine, "connect", partial(_prepare, "FULL" if durable else "OFF", patience))
    event.listen(engine, "begin", _begin)


def refuse_foreign(engine: Engine) -> None:
    """See that tables that are there are ours, before anything is changed: also how it keeps its journal.

    Raises:
        Unreadable: they are somebody else's.
    """
    path = Path(engine.url.database or "")
    if not path.is_file() or not path.stat().st_size:
        return
    with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if tables and "alembic_version" not in tables:
        what = "The database holds somebody else's tables: it is none of Rulvek's."
        raise Unreadable(what, todo="Choose another folder.")


def first_schema(_engine: Engine) -> None:
    """Nothing: migrations begin with an empty file."""


def faults(session: Session) -> Iterator[str]:
    """What the database says of itself."""
    for (line,) in session.execute(text("PRAGMA integrity_check")):
        if line != "ok":
            yield f"The database is damaged: {line}."
    for table, row_id, parent, _ in session.execute(text("PRAGMA foreign_key_check")):
        yield f"Row {row_id} of {table} refers to a {parent} that is not there."


def _prepare(synchronous: str, patience: float, connection: Any, _record: Any) -> None:
    connection.isolation_level = None  # transactions are begun below, not by the driver
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute(f"PRAGMA synchronous={synchronous}")
    cursor.execute(f"PRAGMA busy_timeout={round(1000 * patience)}")
    cursor.close()


def _begin(connection: Connection) -> None:
    # A transaction that reads first and then writes would fail if another wrote in between.
    writing = connection.get_execution_options().get("writing", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")
