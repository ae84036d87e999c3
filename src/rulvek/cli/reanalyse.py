"""``rulvek reanalyse``: every stored waveform read again, held against what stands on record."""

import json
import signal
import sys
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING, Annotated

import typer

from rulvek.cli.common import app, clear_errors, text_of, with_records
from rulvek.core.errors import BadInput

if TYPE_CHECKING:
    from rulvek.core.judgement.reanalysis import Change
    from rulvek.core.method.profile import MethodProfile
    from rulvek.services.reanalysis import Reanalysis, Tell

ENDED_EXIT = 1
SHOWN = 20


@app.command()
@clear_errors
def reanalyse(
    data: Annotated[Path | None, typer.Argument(help="Folder of the records and captures.")] = None,
    method: Annotated[Path | None, typer.Option(help="Another method, as JSON of its fields; - reads it.")] = None,
    model: Annotated[str, typer.Option(help="Only of the model of this name.")] = "",
    processes: Annotated[int | None, typer.Option(help="How many read; one a core without it.", min=1)] = None,
    scheduler: Annotated[str | None, typer.Option(help="Address of a dask scheduler whose workers read.")] = None,
    captures: Annotated[str | None, typer.Option(help="Where the captures lie: any address of fsspec.")] = None,
    out: Annotated[Path | None, typer.Option(help="File for all of it, as JSON.")] = None,
    adopt: Annotated[bool, typer.Option("--adopt", help="Put it on record, beside what stands.")] = False,
    by: Annotated[str, typer.Option(help="With --adopt: who does.")] = "",
    reason: Annotated[str, typer.Option(help="With --adopt: why.")] = "",
) -> None:
    """Read every waveform again, by today's program or another method: what would change. Nothing on record does.

    Ctrl+C ends it; the same command goes on from there. Exit code 1 if it was ended. With --adopt, what comes to other
    figures goes on record as new attempts that say what they were read again from.
    """
    from rulvek.core.records.actor import Actor
    from rulvek.services import reanalysis
    from rulvek.store.engine import Database

    settings = with_records(data)
    for field, said in (("by", by), ("reason", reason)) if adopt else ():
        if not said.strip():
            raise BadInput(f"Say {'who adopts it' if field == 'by' else 'why it is adopted'}: --{field}.", field=field)
    asked = _method(method) if method else None
    stop = Event()
    before = signal.signal(signal.SIGINT, lambda *_: stop.set())
    database = Database(settings.database)
    archive = reanalysis.Archive(
        database, captures or str(settings.captures.resolve()), settings.data_folder / "reanalysis", model
    )
    try:
        database.refuse_other_version()
        with reanalysis.processes(processes, scheduler) as (executor, workers):
            found = archive.read_again(executor, workers, asked, _progress(sys.stderr.isatty()), stop)
        if out is not None:
            said = json.dumps(reanalysis.as_data(found), indent=1, ensure_ascii=False)
            out.write_text(said + "\n", encoding="utf-8")
        _print(found)
        if adopt and found.complete:
            made = archive.adopt(found, Actor(by.strip()), reason)
            typer.echo(f"Adopted: campaigns {', '.join(map(str, made))}.")
    finally:
        signal.signal(signal.SIGINT, before)
        database.close()
    if not found.complete:
        raise typer.Exit(ENDED_EXIT)


def _method(path: Path) -> "MethodProfile":
    """A method from a file.

    Raises:
        BadInput: it is none.
    """
    from rulvek.core.method.profile import MethodProfile

    try:
        said = json.loads(text_of(path))
    except ValueError as error:
        raise BadInput(f"{path} is no JSON: {error}.", field="method") from None
    if not isinstance(said, dict):
        raise BadInput(f"{path} is not the fields of a method.", field="method")
    try:
        found = MethodProfile.from_data({"name": path.stem} | said)
    except TypeError:
        raise BadInput(f"{path} has a field that is not of its kind.", field="method") from None
    if found.unread:
        raise BadInput(f"A method has no field “{next(iter(found.unread))}”.", field="method")
    return found


def _progress(is_terminal: bool) -> "Tell":
    last = [-1]

    def tell(done: int, of: int) -> None:
        percent = 100 * done // max(1, of)
        if percent != last[0] and (is_terminal or percent % 10 == 0):
            last[0] = percent
            start = "\r" if is_terminal else ""
            typer.echo(f"{start}  {done} of {of} waveforms", err=True, nl=not is_terminal or done == of)

    return tell


def _changed(one: "Change") -> str:
    if one.watts is None or one.percent is None:
        return f"{one.was_watts:.4g} W, now none: {one.problem}"
    thd_n = ""
    if one.thd_n is not None and one.was_thd_n is not None:
        thd_n = f"; THD+N {100 * one.was_thd_n:.4g} %, now {100 * one.thd_n:.4g} %"
    return f"{one.was_watts:.4g} W, now {one.watts:.4g} W ({one.percent:+.2g} %){thd_n}"


def _print(found: "Reanalysis") -> None:
    typer.echo(f"{found.read} of {found.waveforms} waveforms read, by {found.by}.")
    typer.echo(f"{len(found.changes)} attempts come to other figures.")
    for one in found.changes[:SHOWN]:
        typer.echo(f"  attempt {one.attempt_id}, {one.serial}: {_changed(one)}")
    if len(found.changes) > SHOWN:
        typer.echo(f"  and {len(found.changes) - SHOWN} more, in --out")
    typer.echo(f"{len(found.verdicts)} verdicts would be others.")
    for verdict in found.verdicts[:SHOWN]:
        typer.echo(f"  claim {verdict.claim_id}, {verdict.serial}: {verdict.was.value}, now {verdict.now.value}")
    typer.echo(f"{len(found.ratings)} ratings would be unsettled.")
    for rating in found.ratings[:SHOWN]:
        bears = "nothing" if rating.bound_watts is None else f"{rating.bound_watts:.4g} W"
        holds = "which still bears it" if rating.holds else "less than promised"
        typer.echo(f"  rating {rating.rating_id}, {rating.model}, {rating.promised_watts:g} W: {bears}, {holds}")
