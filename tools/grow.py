"""Multiplies records, with correct keys, to see how pages do on a large archive: ``tools/grow.py FACTOR [FOLDER]``.

Every series becomes FACTOR of them, with all that hangs below it; with ``--below model``, ``unit`` or ``campaign`` the
archive grows inside of what is there: a series gets more models, a model more units, a unit more campaigns. Capture
files are shared by the copies. The audit chain does not know the copies; ``rulvek verify`` counts them as unsealed.
"""

import argparse
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from sqlalchemy import (
    Column,
    ColumnElement,
    Integer,
    String,
    Table,
    bindparam,
    cast,
    delete,
    func,
    insert,
    literal,
    or_,
    select,
)

from rulvek.settings import Settings
from rulvek.store import tables
from rulvek.store.engine import Database, Session

ROOTS = ("series", "model", "unit", "campaign")
DRAWN = ("unit_conclusion", "model_conclusion", "rating_sample")
"""What is drawn afresh from evidence whenever it is missing."""
BY_TABLE = tables.Base.metadata.tables


def grow(database: Database, factor: int, below: str = "series") -> int:
    """Make ``factor`` of each row of a table and of all that hangs below it; returns how many rows came to it."""
    hanging = _hanging_below(below)
    forget_conclusions(database)
    with database.writing() as session:
        largest = {table.name: _largest(session, table) for table in hanging}
        return sum(_copied(session, table, largest, copy) for copy in range(1, factor) for table in hanging)


def forget_conclusions(database: Database) -> None:
    """Have everything drawn afresh that is kept as it was concluded."""
    with database.writing() as session:
        for name in DRAWN:
            session.execute(delete(BY_TABLE[name]))


def _hanging_below(root: str) -> list[Table]:
    """A table and everything whose rows belong to its rows, parents first."""
    found: list[Table] = []
    for table in tables.Base.metadata.sorted_tables:
        parents = {key.column.table.name for key in table.foreign_keys}
        if table.name == root or (parents & {one.name for one in found} and table.name not in DRAWN):
            found.append(table)
    return found


def _largest(session: Session, table: Table) -> int:
    return session.scalar(select(func.max(_key(table)))) or 0


def _key(table: Table) -> "Column[int]":
    return next(iter(table.primary_key.columns))


def _copied(session: Session, table: Table, largest: dict[str, int], copy: int) -> int:
    """One copy of the rows that were there before; of those that may belong to either of two, what belongs here."""
    values = [_value(column, table, largest, copy) for column in table.columns]
    rows = select(*values).where(_key(table) <= bindparam("last", largest[table.name]))
    above = [key.parent for key in table.foreign_keys if key.column.table.name in largest]
    if above:
        rows = rows.where(or_(*(column.is_not(None) for column in above)))
    return session.execute(insert(table).from_select([column.name for column in table.columns], rows)).rowcount  # type: ignore[attr-defined,no-any-return]


def _value(column: "Column[Any]", table: Table, largest: dict[str, int], copy: int) -> ColumnElement[Any]:
    parents: Iterable[str] = [key.column.table.name for key in column.foreign_keys]
    moved = next((name for name in parents if name in largest), table.name if column.primary_key else "")
    if moved and not (column.primary_key and column.foreign_keys and moved == table.name):
        assert isinstance(column.type, Integer)
        return (column + literal(copy * largest[moved])).label(column.name)
    if column.unique:
        assert isinstance(column.type, String)
        return column.concat(" #").concat(cast(_key(table) + copy * largest[table.name], String)).label(column.name)
    return column


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("factor", type=int)
    asked.add_argument("folder", type=Path, nargs="?", default=None, help="of the records; as set, if not given")
    asked.add_argument("--below", choices=ROOTS, default="series")
    given = asked.parse_args()
    settings = Settings(data_folder=given.folder) if given.folder else Settings()
    database = Database(settings.database)
    added = grow(database, given.factor, given.below)
    database.close()
    print(f"{added} rows came to it.")


if __name__ == "__main__":
    main()
