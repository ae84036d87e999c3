"""``rulvek demo``: demo records, conducted on simulated benches."""

import math
import time
from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, settings_from
from rulvek.settings import Settings


@app.command()
@clear_errors
def demo(
    data: Annotated[Path | None, typer.Option(help="Folder of the records and captures.")] = None,
    rebuild: Annotated[bool, typer.Option("--rebuild", help="Delete this folder's records and build anew.")] = False,
) -> None:
    """Make the demo records, if there are none, by conducting campaigns on the simulated bench."""
    from rulvek.composition import make_services, opened
    from rulvek.demo.build import build
    from rulvek.store.queries.line import is_empty

    settings = settings_from(data_folder=data)
    if rebuild:
        _delete_records(settings)
    database = opened(settings)
    with database.reading() as session:
        empty = is_empty(session)
    if empty:
        started = time.monotonic()
        services = make_services(database, settings.captures, bench_speed=math.inf)
        build(services, tell=lambda serial: typer.echo(f"  conducted all runs of {serial}"))
        services.close()
        typer.echo(f"The demo records are ready after {time.monotonic() - started:.0f} s.")
    database.close()


def _delete_records(settings: Settings) -> None:
    """Delete the demo's own files only, never a whole folder that someone may have pointed at by mistake."""
    for file in settings.data_folder.glob("rulvek.db*"):
        file.unlink()
    for pattern in ("[0-9a-f][0-9a-f]/*", "[0-9]*-reading.*", "originals/*"):
        for file in settings.captures.glob(pattern):
            file.unlink()
