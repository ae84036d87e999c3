"""``rulvek import``: recorded captures taken in as evidence."""

import json
import sys
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rulvek.cli.common import BAD_INPUT_EXIT, app, clear_errors, settings_from
from rulvek.core.errors import BadInput
from rulvek.core.records.actor import Actor
from rulvek.core.rounding import with_u
from rulvek.core.runs.modes import Mode

if TYPE_CHECKING:
    from rulvek.services.outside import Job
    from rulvek.services.views.outside import RecordingView
    from rulvek.settings import Settings


@app.command("import")
@clear_errors
def import_recordings(
    files: Annotated[list[Path] | None, typer.Argument(help="WAV or CSV captures of one kind of run.")] = None,
    listed: Annotated[
        Path | None, typer.Option("--list", help="A CSV of files, a row each, with their own options.")
    ] = None,
    unit: Annotated[str, typer.Option(help="Serial number.")] = "",
    mode: Annotated[Mode, typer.Option(help="How the unit was driven.")] = Mode.CERTIFIED,
    group: Annotated[str, typer.Option(help="Channel group; the model's first when left out.")] = "",
    load: Annotated[float, typer.Option(help="Nominal load in Ω.", min=0.05)] = 4.0,
    load_measured: Annotated[float | None, typer.Option(help="Load as measured, warm, in Ω.", min=0.05)] = None,
    channel: Annotated[list[int] | None, typer.Option(help="Channel of each column in turn; repeat.", min=1)] = None,
    bridged: Annotated[bool, typer.Option(help="Pairs of channels are bridged.")] = False,
    volts_full_scale: Annotated[float, typer.Option(help="Volts that 1.0 of a WAV stands for.", min=1e-6)] = 1.0,
    held_volts: Annotated[float, typer.Option(help="What the supply was held at, in V.", min=1)] = 14.4,
    loaded_volts: Annotated[float | None, typer.Option(help="Supply at the reading in V.", min=1)] = None,
    instrument: Annotated[str, typer.Option(help="What recorded it.")] = "",
    by: Annotated[str, typer.Option(help="Who takes it in.")] = "",
    data: Annotated[Path | None, typer.Option(help="Folder of the records and captures.")] = None,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Read and report; keep nothing.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object a file.")] = False,
) -> None:
    """Take recorded captures in: find the tone, the bursts or the steps, read them, keep them as attempts."""
    from rulvek.services.outside import Job, read_list

    if not by.strip():
        raise BadInput("Say who takes it in: --by NAME.", field="by")
    shared = Job(
        file=Path(),
        unit=unit,
        mode=mode,
        group=group,
        load=load,
        channels=tuple(channel or ()),
        bridged=bridged,
        full_scale=volts_full_scale,
        load_measured=load_measured,
        held_volts=held_volts,
        loaded_volts=loaded_volts,
        instrument=instrument,
    )
    jobs = [replace(shared, file=file) for file in files or []]
    jobs += read_list(listed, shared) if listed else []
    if not jobs:
        raise BadInput("Name files, or a list of files with --list.", field="files")
    if _import_all(jobs, by.strip(), settings_from(data_folder=data), dry_run, as_json):
        raise typer.Exit(BAD_INPUT_EXIT)


def _import_all(jobs: "list[Job]", person: str, settings: "Settings", dry_run: bool, as_json: bool) -> int:
    """Import one after the other, telling what becomes of each; returns how many could not be."""
    import os

    from rulvek.composition import make_services, opened
    from rulvek.services.outside import import_one

    inbox = f"arriving-{os.getpid()}"
    database = opened(settings)
    services = make_services(database, settings.captures, settings.bench_speed, inbox)
    refused = 0
    try:
        for job in jobs:
            came = import_one(database, services.recordings, job, Actor(person), _show_progress, dry_run)
            refused += came.attempt is None
            found = came.attempt
            if as_json:
                answer = {
                    "file": str(came.file),
                    "attempt_id": came.attempt_id,
                    "problem": came.problem,
                    "end": found.end if found else None,
                    "weakest_watts": found.weakest_watts if found else None,
                    "expanded_watts": found.expanded_watts if found else None,
                    "findings": [finding.code for finding in found.findings] if found else [],
                }
                typer.echo(json.dumps(answer, allow_nan=False, ensure_ascii=False))
            elif found is None:
                typer.echo(f"{came.file.name}: {came.problem}", err=True)
            else:
                where = f"attempt {came.attempt_id}" if came.attempt_id else "not kept"
                codes = ", ".join(finding.code for finding in found.findings) or "nothing to object to"
                watts, expanded = found.weakest_watts, found.expanded_watts
                read = "no reading" if watts is None or not expanded else with_u(watts, expanded, "W")
                typer.echo(f"{came.file.name}: {read}, {codes}; {where}")
    finally:
        services.recordings.close()
        services.close()
    return refused


def _show_progress(shown: "RecordingView") -> None:
    if sys.stderr.isatty():
        typer.echo(f"\r{shown.name}: {shown.doing}, {100 * shown.done:.0f} %   ", nl=False, err=True)
