"""``rulvek backup``, ``rulvek restore``, ``rulvek upgrade-check``: the records in safety, and back."""

from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, with_records

DATA = Annotated[Path | None, typer.Option(help="Folder of the records and captures.")]


@app.command()
@clear_errors
def backup(
    target: Annotated[Path, typer.Argument(help="A new .zip file, or a folder to which only what is new is copied.")],
    data: DATA = None,
) -> None:
    """Take a backup while Rulvek is at work; nobody waits for it."""
    from rulvek.store.backup import back_up
    from rulvek.store.engine import Database
    from rulvek.store.files import FileStore

    settings = with_records(data)
    database = Database(settings.database)
    try:
        made = back_up(database, FileStore(settings.captures), target)
    finally:
        database.close()
    head = f"{made.manifest.chain_entries} entries of the audit chain, the last one {made.manifest.chain_head[:12]}"
    typer.echo(f"{target}: {made.copied} of {len(made.manifest.files) - 1} files copied, {head}.")


@app.command()
@clear_errors
def restore(
    source: Annotated[Path, typer.Argument(help="A backup.")],
    folder: Annotated[Path, typer.Argument(help="An empty folder, or one that is not there yet.")],
) -> None:
    """Put a backup into a folder of its own, once all of it was verified."""
    from rulvek.store.backup import restore as restored

    manifest = restored(source, folder)
    typer.echo(f"{folder}: the records of {manifest.made_at}. Serve them with --data {folder}.")


@app.command("upgrade-check")
@clear_errors
def upgrade_check(
    data: DATA = None,
    safety: Annotated[Path | None, typer.Option(help="Where the backup before it goes; beside the records.")] = None,
) -> None:
    """Tell what bringing the records up to date would do, and take a backup before it; nothing is changed."""
    from datetime import UTC, datetime

    from rulvek.store.backup import back_up
    from rulvek.store.engine import Database
    from rulvek.store.files import FileStore

    settings = with_records(data)
    database = Database(settings.database)
    try:
        steps = database.steps_to_come()
        if not steps:
            typer.echo("The records are up to date; there is nothing to do.")
            return
        named = f"before-{database.schema()[1]}-{datetime.now(UTC):%Y%m%d-%H%M%S}.zip"
        target = safety or settings.data_folder.resolve().parent / named
        back_up(database, FileStore(settings.captures), target)
    finally:
        database.close()
    typer.echo("The next start of this version brings the records up to date:")
    for step in steps:
        typer.echo(f"  {step}")
    typer.echo(f"A backup of them as they are is at {target}. The way back: rulvek restore {target} FOLDER")
