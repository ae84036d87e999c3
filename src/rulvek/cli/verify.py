"""``rulvek verify``: the records held against themselves."""

from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, settings_from

FAULTS_EXIT = 1


@app.command()
@clear_errors
def verify(
    data: Annotated[Path | None, typer.Argument(help="Folder of the records and captures.")] = None,
) -> None:
    """Check database, audit chain, files and sealed figures; one line a finding, exit code 1 where there is any."""
    from rulvek.core.errors import BadInput
    from rulvek.store.engine import Database
    from rulvek.store.files import FileStore
    from rulvek.store.verify import verify as verified

    settings = settings_from(data_folder=data)
    if settings.database.startswith("sqlite:///") and not Path(settings.database.removeprefix("sqlite:///")).is_file():
        raise BadInput(f"There are no records in {settings.data_folder}.", field="data")
    database = Database(settings.database)
    try:
        found = verified(database, FileStore(settings.captures))
    finally:
        database.close()
    for fault in found.faults:
        typer.echo(fault)
    sealed = f"{found.sealed} attempts are as they were sealed" if not found.faults else f"{found.sealed} are sealed"
    unsealed = f", {found.unsealed} from before there were seals" if found.unsealed else ""
    typer.echo(
        f"{found.entries} entries of the audit chain, {found.files} files; {sealed}{unsealed}.", err=bool(found.faults)
    )
    if found.faults:
        raise typer.Exit(FAULTS_EXIT)
