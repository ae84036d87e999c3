"""``rulvek verify``: the records held against themselves."""

from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, with_records

FAULTS_EXIT = 1


@app.command()
@clear_errors
def verify(
    data: Annotated[Path | None, typer.Argument(help="Folder of the records and captures, or a backup.")] = None,
) -> None:
    """Check records or a backup: database, audit chain, files, seals; one line a finding, exit code 1 if any."""
    from rulvek.store.backup import is_backup
    from rulvek.store.engine import Database
    from rulvek.store.files import FileStore
    from rulvek.store.verify import verify as verified

    if data is not None and is_backup(data):
        _verify_backup(data)
        return
    settings = with_records(data)
    database = Database(settings.database)
    try:
        database.refuse_other_version()
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


def _verify_backup(source: Path) -> None:
    """Hold a backup against its manifest, then the records in it against themselves."""
    import tempfile

    from rulvek.store.backup import restore, verify_backup
    from rulvek.store.engine import Database
    from rulvek.store.files import FileStore
    from rulvek.store.verify import verify as verified

    manifest, faults = verify_backup(source)
    if not faults:
        with tempfile.TemporaryDirectory() as folder:
            records = Path(folder) / "records"
            restore(source, records)
            database = Database(f"sqlite:///{records / 'rulvek.db'}")
            try:
                if database.is_current():
                    faults = list(verified(database, FileStore(records / "captures")).faults)
            finally:
                database.close()
    for fault in faults:
        typer.echo(fault)
    head = f"{manifest.chain_entries} entries of the audit chain, the last one {manifest.chain_head[:12]}"
    typer.echo(f"A backup of {manifest.made_at}: {len(manifest.files)} files, {head}.", err=bool(faults))
    if faults:
        raise typer.Exit(FAULTS_EXIT)
