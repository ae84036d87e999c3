"""The command line: ``rulvek serve | demo | analyse | import | tone | check | exponent``."""

import json
import math
import sys
import time
from collections.abc import Callable
from dataclasses import asdict, replace
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer

from rulvek.core.errors import BadInput, RulvekError
from rulvek.core.judgement.checks import Figures
from rulvek.core.judgement.checks import check as check_figures
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.measure.steps import End, Mode
from rulvek.settings import Settings

if TYPE_CHECKING:
    from rulvek.services.bulk import Job
    from rulvek.services.views.outside import RecordingView

app = typer.Typer(
    help="Plans, conducts, measures and judges amplifier power tests, and keeps the evidence.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)
Command = TypeVar("Command", bound=Callable[..., Any])
BAD_INPUT_EXIT = 2


def _clear_errors(command: Command) -> Command:
    """End with one clear sentence on standard error and exit code 2, never a traceback."""

    @wraps(command)
    def run(*args: Any, **kwargs: Any) -> Any:
        try:
            return command(*args, **kwargs)
        except RulvekError as error:
            typer.echo(f"{error.what} {error.todo}".strip(), err=True)
            raise typer.Exit(BAD_INPUT_EXIT) from None

    return run  # type: ignore[return-value]  # same signature, kept by wraps for Typer


@app.command()
@_clear_errors
def serve(
    host: Annotated[str | None, typer.Option(help="Address to listen on.")] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on.", min=1, max=65535)] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of the records and captures.")] = None,
) -> None:
    """Serve the application; settings come from RULVEK_… variables unless given here."""
    import uvicorn

    from rulvek.api.app import create_app

    settings = _settings(host=host, port=port, data_folder=data)
    application = create_app(settings)
    typer.echo(f"Rulvek is at http://{settings.host}:{settings.port} – open it in a browser; Ctrl+C ends it.")
    uvicorn.run(application, host=settings.host, port=settings.port, log_level="warning", timeout_graceful_shutdown=2)


@app.command()
@_clear_errors
def demo(
    data: Annotated[Path | None, typer.Option(help="Folder of the records and captures.")] = None,
    rebuild: Annotated[bool, typer.Option("--rebuild", help="Delete this folder's records and build anew.")] = False,
) -> None:
    """Make the demo records, if there are none, by conducting campaigns on the simulated bench."""
    from rulvek.api.context import make_services
    from rulvek.demo.build import build
    from rulvek.store import queries
    from rulvek.store.database import Database

    settings = _settings(data_folder=data)
    if rebuild:
        _delete_records(settings)
    settings.data_folder.mkdir(parents=True, exist_ok=True)
    database = Database(settings.database)
    database.migrate()
    with database.reading() as session:
        empty = queries.is_empty(session)
    if empty:
        started = time.monotonic()
        services = make_services(database, settings.captures, bench_speed=math.inf)
        build(services, tell=lambda serial: typer.echo(f"  conducted all runs of {serial}"))
        typer.echo(f"The demo records are ready after {time.monotonic() - started:.0f} s.")
    database.close()


@app.command()
@_clear_errors
def analyse(
    file: Annotated[Path, typer.Argument(help="A WAV file; its full scale stands for --volts-full-scale.")],
    volts_full_scale: Annotated[float, typer.Option(help="Volts that 1.0 (full scale) stands for.")],
    load: Annotated[float, typer.Option(help="Load in Ω.")],
    tone: Annotated[float | None, typer.Option(help="Frequency of the tone in Hz; found when left out.")] = None,
    band_low: Annotated[float, typer.Option(help="Lower limit of the THD+N band in Hz.")] = 10.0,
    band_high: Annotated[float, typer.Option(help="Upper limit of the THD+N band in Hz.")] = 20_000.0,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Read power and distortion of each channel from a WAV capture of a steady tone."""
    from rulvek.services.wav_analysis import analyse_wav

    report = analyse_wav(file, volts_full_scale, load, tone, band_low, band_high)
    if as_json:
        typer.echo(json.dumps(report, allow_nan=False))
        return
    for number, channel in enumerate(report["channels"], 1):
        typer.echo(
            f"channel {number}: {channel['watts']:.4g} W into {load:g} Ω, {channel['rms_volts']:.5g} V rms, "
            f"{channel['fundamental_hz']:.3f} Hz, THD {channel['thd_percent']:.4g} % of the fundamental, "
            f"THD+N {channel['thd_n_percent']:.4g} % of the whole, DC {channel['dc_volts']:.4g} V"
        )


@app.command("import")
@_clear_errors
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
    from rulvek.services.bulk import Job, read_list

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
    if _import_all(jobs, by.strip(), _settings(data_folder=data), dry_run, as_json):
        raise typer.Exit(BAD_INPUT_EXIT)


def _import_all(jobs: "list[Job]", person: str, settings: Settings, dry_run: bool, as_json: bool) -> int:
    """Import one after the other, telling what becomes of each; returns how many could not be."""
    import os
    import shutil

    from rulvek.services.bulk import import_one
    from rulvek.services.campaigns import Campaigns
    from rulvek.services.recorded import Recordings
    from rulvek.store.database import Database

    settings.data_folder.mkdir(parents=True, exist_ok=True)
    database = Database(settings.database)
    database.migrate()
    arriving = settings.data_folder / f"arriving-{os.getpid()}"
    recordings = Recordings(database, Campaigns(database), arriving, settings.captures)
    refused = 0
    try:
        for job in jobs:
            came = import_one(database, recordings, job, person, _show_progress, dry_run)
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
                typer.echo(
                    f"{came.file.name}: {found.weakest_watts:.4g} ± {found.expanded_watts:.2g} W, {codes}; {where}"
                )
    finally:
        shutil.rmtree(arriving, ignore_errors=True)
        database.close()
    return refused


def _show_progress(shown: "RecordingView") -> None:
    if sys.stderr.isatty():
        typer.echo(f"\r{shown.name}: {shown.doing}, {100 * shown.done:.0f} %   ", nl=False, err=True)


@app.command()
@_clear_errors
def tone(
    file: Annotated[Path, typer.Argument(help="The WAV file to write.")],
    hz: Annotated[float, typer.Option(help="Frequency in Hz.")] = 1000.0,
    seconds: Annotated[float, typer.Option(help="Length (of each step), rounded to whole cycles.")] = 10.0,
    level: Annotated[list[float] | None, typer.Option(help="Peak level in dB re full scale; repeat for steps.")] = None,
    rate: Annotated[int, typer.Option(help="Sample rate in Hz.")] = 48_000,
    depth: Annotated[str, typer.Option(help="pcm24 or float32.")] = "pcm24",
    burst: Annotated[str, typer.Option(help="A burst profile by name, as “1 kHz”, “40 Hz” or “8 cycles”.")] = "",
) -> None:
    """Write a sine, a sine stepped through several levels, or bursts, as a WAV file to play from any source."""
    from rulvek.services.wav_analysis import ToneSpec, write_tone

    samples = write_tone(file, ToneSpec(hz, seconds, tuple(level or [0.0]), rate, depth, burst))
    typer.echo(f"{file}: {samples / rate:.3f} s of {hz:g} Hz at {rate} Hz, {depth}.")


@app.command()
@_clear_errors
def check(
    mode: Annotated[Mode | None, typer.Option(help="How the unit was driven.")] = None,
    load: Annotated[float | None, typer.Option(help="Nominal load in Ω.", min=0.05)] = None,
    load_measured: Annotated[float | None, typer.Option(help="Load as measured, warm, in Ω.", min=0.05)] = None,
    watts: Annotated[float | None, typer.Option(help="Power of the weakest channel in W.", min=0)] = None,
    channel: Annotated[list[float] | None, typer.Option(help="Power of each channel in W; repeat.")] = None,
    volts_rms: Annotated[float | None, typer.Option(help="Output in V rms.", min=0)] = None,
    volts_peak: Annotated[float | None, typer.Option(help="Output in V peak, from an oscilloscope.", min=0)] = None,
    start_volts: Annotated[float | None, typer.Option(help="Supply before the run in V.", min=0)] = None,
    supply_volts: Annotated[float | None, typer.Option(help="Supply at the reading in V.", min=0)] = None,
    amps: Annotated[float | None, typer.Option(help="Supply current at the reading in A.")] = None,
    clamp_zeroed: Annotated[bool | None, typer.Option(help="Whether the clamp was zeroed on the idle bench.")] = None,
    charger_amps: Annotated[float | None, typer.Option(help="What a charger added in A.", min=0)] = None,
    thd_n: Annotated[float | None, typer.Option(help="THD+N in %.", min=0)] = None,
    topology: Annotated[str | None, typer.Option("--class", help="AB or D.")] = None,
    sink: Annotated[float | None, typer.Option(help="Heat sink at the start in °C.")] = None,
    end: Annotated[End | None, typer.Option(help="How the run ended.")] = None,
    certified: Annotated[float | None, typer.Option(help="Certified W at the same load, to compare with.")] = None,
    uncertified: Annotated[float | None, typer.Option(help="Uncertified W at the same load.")] = None,
    floating: Annotated[bool, typer.Option("--bank", help="A bank floated; nothing held the supply.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Question typed figures: whatever can be checked by what is given is checked."""
    if topology is not None and topology.upper() not in ("AB", "D"):
        raise BadInput(f"--class takes AB or D, not “{topology}”.", field="class")
    beside = {Mode.CERTIFIED: certified, Mode.UNCERTIFIED: uncertified}
    figures = Figures(
        mode=mode,
        topology=topology.upper() if topology else None,
        end=end,
        thd_n_percent=thd_n,
        load_nominal=load,
        load_measured=load_measured,
        watts=watts if watts is not None else min(channel) if channel else None,
        channel_watts=tuple(channel or ()),
        output_watts=sum(channel) if channel else None,
        volts_rms=volts_rms,
        volts_peak=volts_peak,
        floating=floating,
        start_volts=start_volts,
        supply_volts=supply_volts,
        amps=amps,
        clamp_zeroed=clamp_zeroed,
        charger_amps=charger_amps,
        sink_start_c=sink,
        beside={known: value for known, value in beside.items() if value is not None},
    )
    _refuse_endless(figures)
    found = check_figures(figures, MethodProfile())
    if as_json:
        typer.echo(json.dumps({"checks": [asdict(finding) for finding in found]}, ensure_ascii=False))
        return
    for finding in found:
        typer.echo(f"{finding.severity.value:8s}{finding.code}: {finding.message} {finding.advice}")
    if not found:
        typer.echo("Nothing to object to in what was given.")


@app.command()
@_clear_errors
def exponent(
    runs: Annotated[list[str], typer.Argument(help="Loaded volts and watts of each run, as 12.5:301.")],
    at: Annotated[float | None, typer.Option(help="Estimate the power at this supply voltage.", min=0.1)] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Fit how a unit's power follows its supply voltage; an estimate, never evidence."""
    from rulvek.core.electrical.supply import fit_voltage

    fit = fit_voltage([_run_of(text) for text in runs])
    estimate = fit.estimate(at) if at is not None else None
    if as_json:
        answer = {
            "exponent": fit.exponent,
            "interval": [fit.low, fit.high],
            "estimate_watts": estimate[0] if estimate else None,
            "estimate_interval": list(estimate[1:]) if estimate else None,
        }
        typer.echo(json.dumps(answer, allow_nan=False))
        return
    if fit.exponent is None:
        typer.echo("Three voltages over at least 1 V tell the exponent; until then it lies between 0 and 2.3.")
    else:
        typer.echo(f"exponent {fit.exponent:.2f} (95 %: {fit.low:.2f} to {fit.high:.2f})")
    if estimate and at is not None:
        typer.echo(f"estimated at {at:g} V: {estimate[0]:.4g} W ({estimate[1]:.4g} to {estimate[2]:.4g} W)")


def _run_of(text: str) -> tuple[float, float]:
    """“12.5:301” as volts and watts."""
    volts, colon, watts = text.partition(":")
    try:
        run = float(volts), float(watts)
    except ValueError:
        run = (0.0, 0.0)
    if not (colon and all(math.isfinite(value) and value > 0 for value in run)):
        raise BadInput(f"“{text}” is no run: write volts and watts above 0, as 12.5:301.", field="runs")
    return run


def _refuse_endless(figures: Figures) -> None:
    for name, value in asdict(figures).items():
        values = value if isinstance(value, list | tuple) else [value]
        if any(isinstance(v, float) and not math.isfinite(v) for v in values):
            raise BadInput(f"--{name.replace('_', '-')} must be a finite number.", field=name)


def _settings(**given: Any) -> Settings:
    from pydantic import ValidationError

    try:
        return Settings(**{key: value for key, value in given.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        name = "RULVEK_" + "_".join(str(part) for part in first["loc"]).upper()
        raise BadInput(f"{name}: {first['msg']}.", field=name) from None


def _delete_records(settings: Settings) -> None:
    """Delete the demo's own files only, never a whole folder that someone may have pointed at by mistake."""
    for file in settings.data_folder.glob("rulvek.db*"):
        file.unlink()
    for file in (*settings.captures.glob("[0-9]*-reading.*"), *settings.captures.glob("originals/*")):
        file.unlink()


def main() -> None:
    """Run the command line."""
    sys.exit(app())


if __name__ == "__main__":
    main()
