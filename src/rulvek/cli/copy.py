"""``rulvek copy``: all records from a file to a database server, and back."""

from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors

WHERE = "a folder of records, or the URL of a database (postgresql+psycopg://…)"


@app.command()
@clear_errors
def copy(
    source: Annotated[str, typer.Argument(help=f"Where the records are: {WHERE}.")],
    target: Annotated[str, typer.Argument(help=f"Where they go: {WHERE}. Empty, or not there yet.")],
) -> None:
    """Copy all records into another database and check the copy; captures and documents stay in their folder.

    End every server on the records before: what is written meanwhile is not copied.
    """
    from contextlib import closing

    from rulvek.store import audit
    from rulvek.store.copying import copy_records
    from rulvek.store.engine import Database

    with closing(Database(_url(source, must_be=True))) as here, closing(Database(_url(target))) as there:
        copied = copy_records(here, there, lambda table, rows: typer.echo(f"{table}: {rows}") if rows else None)
        with there.reading() as session:
            broken = audit.broken_at(session)
    if broken is not None:
        typer.echo(f"The audit chain of the copy is broken at entry {broken}: it was broken before.", err=True)
        raise typer.Exit(1)
    typer.echo(
        f"{sum(copied.values())} rows are copied; the audit chain is whole. “rulvek verify” holds the files, too."
    )


def _url(where: str, must_be: bool = False) -> str:
    from rulvek.core.errors import BadInput

    if "://" in where:
        return where
    path = Path(where) / "rulvek.db"
    if must_be and not path.is_file():
        raise BadInput(f"There are no records in {where}.", field="source")
    path.parent.mkdir(parents=True, exist_ok=True)
    return f"sqlite:///{path.resolve()}"
