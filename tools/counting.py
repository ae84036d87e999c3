"""Counts what the records are asked: statements, and the rows that came back."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from sqlalchemy import event

from rulvek.store.engine import Database


@dataclass
class Count:
    """SELECTs that were sent, and the rows that they answered with; and how often something was written."""

    statements: int = 0
    rows: int = 0
    written: int = 0


class _CountingCursor:
    """A cursor that counts what is fetched from it."""

    def __init__(self, cursor: Any, count: Count) -> None:
        self._cursor, self._count = cursor, count

    def __getattr__(self, name: str) -> Any:
        return getattr(self._cursor, name)

    def fetchall(self) -> Any:
        rows = self._cursor.fetchall()
        self._count.rows += len(rows)
        return rows

    def fetchmany(self, *size: int) -> Any:
        rows = self._cursor.fetchmany(*size)
        self._count.rows += len(rows)
        return rows

    def fetchone(self) -> Any:
        row = self._cursor.fetchone()
        self._count.rows += row is not None
        return row


@contextmanager
def counted(*databases: Database) -> Iterator[Count]:
    """Count what some databases' connections are asked while the block lasts."""
    count = Count()

    def sent(_c: Any, _cursor: Any, statement: str, _p: Any, _context: Any, _many: Any) -> None:
        begins = statement.lstrip().upper()
        count.statements += begins.startswith(("SELECT", "WITH"))
        count.written += begins.startswith(("INSERT", "UPDATE", "DELETE"))

    def answered(_c: Any, _cursor: Any, statement: str, _p: Any, context: Any, _many: Any) -> None:
        if statement.lstrip().upper().startswith(("SELECT", "WITH")):
            context.cursor = _CountingCursor(context.cursor, count)

    for database in databases:
        event.listen(database.engine, "before_cursor_execute", sent)
        event.listen(database.engine, "after_cursor_execute", answered)
    try:
        yield count
    finally:
        for database in databases:
            event.remove(database.engine, "before_cursor_execute", sent)
            event.remove(database.engine, "after_cursor_execute", answered)
