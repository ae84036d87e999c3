"""``rulvek demo``: demo records, conducted on simulated benches."""

import math
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rulvek.cli.common import app, clear_errors, settings_from
from rulvek.core.errors import BadInput, Conflict

if TYPE_CHECKING:
    from rulvek.settings import Settings


@app.command()
@clear_errors
def demo(
    data: Annotated[Path | None, typer.Option(help="Folder of the records and captures.")] = None,
    rebuild: Annotated[bool, typer.Option("--rebuild", help="Delete this folder's demo and build anew.")] = False,
    yes: Annotated[bool, typer.Option("--yes", help="With --rebuild: do not ask.")] = False,
) -> None:
    """Make the demo records, if there are none, by conducting campaigns on the simulated bench."""
    from rulvek.composition import make_services, opened
    from rulvek.demo.beside import CUT_SHORT, UNFINISHED
    from rulvek.demo.build import build
    from rulvek.store.queries.line import is_empty

    settings = settings_from(data_folder=data)
    if rebuild and settings.database_file is not None and settings.database_file.exists():
        _make_room(settings, settings.database_file, yes)
    database = opened(settings)
    with database.reading() as session:
        empty = is_empty(session)
    mark = settings.data_folder / UNFINISHED
    if not empty and mark.exists():
        typer.echo(CUT_SHORT)
    if empty:
        started = time.monotonic()
        mark.touch()
        services = make_services(database, settings.captures, bench_speed=math.inf)
        build(services, tell=lambda serial, done, of: typer.echo(f"  {done} of {of}: conducted all runs of {serial}"))
        services.close()
        mark.unlink()
        typer.echo(f"The demo records are ready after {time.monotonic() - started:.0f} s.")
    database.close()


def _make_room(settings: "Settings", records: Path, yes: bool) -> None:
    """Take a demo away, once somebody said so and a backup was taken of it. What is not the demo's stays.

    Raises:
        Conflict: the records are a lab's own.
        BadInput: nobody said so.
    """
    from rulvek.composition import opened
    from rulvek.demo.beside import UNFINISHED
    from rulvek.store import people
    from rulvek.store.backup import back_up, files_named
    from rulvek.store.files import FileStore

    database, files = opened(settings), FileStore(settings.captures)
    try:
        with database.reading() as session:
            own = [one.name for one in people.everybody(session) if not one.demo]
            none = not people.any_person(session)
            named = files_named(session, files)
        if own or none:
            whose = f"{own[0]} works with it" if own else "it has no demo's people"
            what = f"The records in {settings.data_folder} are no demo: {whose}. Nothing was deleted."
            raise Conflict(what, todo="Choose another folder with --data.")
        if not yes and not typer.confirm(f"Delete the demo in {settings.data_folder} and build it anew?"):
            raise BadInput("Nothing was deleted.", field="rebuild")
        kept = settings.data_folder / f"before-rebuild-{datetime.now(UTC):%Y%m%d-%H%M%S}.zip"
        back_up(database, files, kept)
        typer.echo(f"What was there is in {kept}.")
    finally:
        database.close()
    for file in (*records.parent.glob(f"{records.name}*"), *named, settings.data_folder / UNFINISHED):
        file.unlink(missing_ok=True)
