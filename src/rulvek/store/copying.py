"""All records from one database into another: from a file to a server, and back."""

from collections.abc import Callable, Iterator, Sequence
from typing import Any

from sqlalchemy import Column, Connection, Integer, MetaData, Table, TypeDecorator, func, insert, inspect, select, text

from rulvek.core.errors import Conflict
from rulvek.store import tables
from rulvek.store.engine import Database

AT_ONCE = 2_000
"""Rows that are held in memory at a time."""
Progress = Callable[[str, int], None]
"""Is told of each table that is done, with its number of rows."""


def copy_records(source: Database, target: Database, progress: Progress = lambda *_: None) -> dict[str, int]:
    """Copy every row as it is, in one step: nothing of it stays if anything fails.

    Whoever works with the source is not kept waiting; what they write meanwhile is not copied.

    Returns:
        How many rows each table has.

    Raises:
        Conflict: the source is of another version, there is something in the target, or it did not arrive whole.
    """
    source.refuse_other_version()
    target.migrate()
    copied: dict[str, int] = {}
    with source.reading() as reading, target.writing() as writing:
        there, here = reading.connection(), writing.connection()
        _refuse_used(here)
        for table in _tables():
            copied[table.name] = sum(_put(here, table, rows) for rows in _rows(there, table))
            progress(table.name, copied[table.name])
        for table in _tables():
            if _count(here, table) != copied[table.name]:
                raise Conflict(f"The table {table.name} did not arrive whole.", todo="Nothing was copied.")
        if here.dialect.name == "postgresql":
            _count_on(here)
    return copied


def _tables() -> Sequence[Table]:
    """Every table, parents first, with the values of its rows as they are stored: no shape is read or written anew."""
    plain = MetaData()
    return [_plain(table, plain) for table in tables.Base.metadata.sorted_tables]


def _plain(table: Table, metadata: MetaData) -> Table:
    columns = [
        Column(one.name, one.type.impl_instance if isinstance(one.type, TypeDecorator) else one.type)
        for one in table.columns
    ]
    return Table(table.name, metadata, *columns)


def _rows(there: Connection, table: Table) -> Iterator[list[dict[str, Any]]]:
    order = [column for column in table.columns if column.name in _key_of(table)]
    found = there.execution_options(yield_per=AT_ONCE).execute(select(table).order_by(*order))
    for part in found.mappings().partitions(AT_ONCE):
        yield [dict(row) for row in part]


def _key_of(table: Table) -> set[str]:
    return {column.name for column in tables.Base.metadata.tables[table.name].primary_key.columns}


def _put(here: Connection, table: Table, rows: list[dict[str, Any]]) -> int:
    here.execute(insert(table), rows)
    return len(rows)


def _count(connection: Connection, table: Table) -> int:
    return connection.scalar(select(func.count()).select_from(table)) or 0


def _refuse_used(here: Connection) -> None:
    """See that nothing would be mixed; the bench that every new records have makes way for the one that comes."""
    for table in _tables():
        if table.name != tables.Bench.__tablename__ and _count(here, table):
            raise Conflict("There are records in the database already.", todo="Copy into an empty one.")
    here.execute(text(f"DELETE FROM {tables.Bench.__tablename__}"))


def _count_on(here: Connection) -> None:
    """Have the server number new rows after those that came with theirs."""
    for table in tables.Base.metadata.sorted_tables:
        keys = [one for one in table.primary_key.columns if isinstance(one.type, Integer) and not one.foreign_keys]
        if keys and inspect(here).has_table(table.name):
            name = keys[0].name
            sequence = f"pg_get_serial_sequence('{table.name}', '{name}')"
            here.execute(text(f"SELECT setval({sequence}, max({name})) FROM {table.name} HAVING max({name}) > 0"))
