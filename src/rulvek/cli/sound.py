"""``rulvek sound``: audio interfaces looked at with a cable from each output to its input, and their volts."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rulvek.cli.common import app, clear_errors, with_records
from rulvek.core.errors import BadInput

if TYPE_CHECKING:
    from rulvek.bench.sound.duplex import Duplex
    from rulvek.bench.sound.levels import Levels

FAILED_EXIT = 1
sound = typer.Typer(
    help="Audio interfaces as source and recorder: list, look at and calibrate them.", no_args_is_help=True
)
app.add_typer(sound, name="sound")
Interface = Annotated[str, typer.Argument(help="What `rulvek sound list` calls it.")]
Rate = Annotated[int, typer.Option(help="Samples a second.", min=8_000, max=768_000)]
Channels = Annotated[
    int, typer.Option(help="How many outputs are cabled to the inputs of their numbers.", min=1, max=64)
]


@sound.command("list")
@clear_errors
def list_() -> None:
    """Audio interfaces of this machine that have inputs and outputs."""
    from rulvek.bench.sound.devices import devices

    found = devices()
    for one in found:
        typer.echo(f"{one.name}: {one.inputs} in, {one.outputs} out, by {one.system}; its address is {one.address}")
    if not found:
        typer.echo("There is none with inputs and outputs.")


@sound.command()
@clear_errors
def loopback(
    name: Interface,
    rate: Rate = 48_000,
    channels: Channels = 2,
    seconds: Annotated[float, typer.Option(help="For how long slips are looked for.", min=1, max=600)] = 10.0,
) -> None:
    """Residual, cross-talk, latency, polarity and slips; exit code 1 if not.

    A cable goes from each output to the input of its number. Nothing else may be connected:
    each output sends a tone 3 dB below its full scale.
    """
    from rulvek.bench.sound.loopback import look_at

    failed = 0
    with _running(name, rate, channels) as interface:
        for looked in look_at(interface, seconds):
            failed += not looked.passed
            typer.echo(f"{'passed' if looked.passed else 'FAILED':8}{looked.at:26}{looked.found}")
    if failed:
        raise typer.Exit(FAILED_EXIT)


@sound.command()
@clear_errors
def levels(
    name: Interface,
    meter: Annotated[str, typer.Option(help="Beside which meter, true rms.")] = "",
    u_percent: Annotated[
        float, typer.Option(help="Its expanded uncertainty (k = 2) for these sines.", min=0, max=20)
    ] = 1,
    rate: Rate = 48_000,
    channels: Channels = 2,
    response: Annotated[str, typer.Option(help="Hz, by commas, where the response is wanted as well.")] = "",
    data: Annotated[Path | None, typer.Option(help="Folder of the records: puts it on the gear register, too.")] = None,
    by: Annotated[str, typer.Option(help="Who does it, for the register.")] = "",
) -> None:
    """Find what its full scale is in volts: reads a meter with you, and prints the [levels] of a bench's file.

    A cable from each output to the input of its number, the meter across it; outputs send 20 dB below full scale.
    """
    from rulvek import clock
    from rulvek.bench.sound.calibration import calibrated
    from rulvek.bench.sound.levels import as_toml

    if not meter.strip():
        raise BadInput("Say beside which meter: --meter.", field="meter")
    if data is not None and not by.strip():
        raise BadInput("Say who does it: --by.", field="by")
    wanted = [_hz(one, rate) for one in response.split(",") if one.strip()]
    with _running(name, rate, channels) as interface:
        found = calibrated(interface, _meter, wanted, clock.now().date(), meter.strip(), u_percent)
    typer.echo(as_toml(found))
    if data is not None:
        _enter(name, found, data, by.strip())


def _hz(said: str, rate: int) -> float:
    try:
        hz = float(said)
    except ValueError:
        hz = 0.0
    if not 5 <= hz < 0.45 * rate:
        raise BadInput(f"The response is wanted from 5 Hz to {0.45 * rate:g} Hz, got “{said}”.", field="response")
    return hz


def _meter(asked: str) -> float:
    while True:
        said = typer.prompt(f"{asked} (V rms)", err=True)
        try:
            return float(said.replace(",", "."))
        except ValueError:
            typer.echo(f"“{said}” is no number.", err=True)


@contextmanager
def _running(name: str, rate: int, channels: int) -> Iterator["Duplex"]:
    from rulvek.bench.sound.devices import SOUND
    from rulvek.bench.sound.duplex import Duplex

    interface = Duplex(name.removeprefix(SOUND), channels, channels)
    try:
        interface.open(rate)
        yield interface
    finally:
        interface.close()


def _enter(name: str, found: "Levels", data: Path, by: str) -> None:
    """On the register, as what reads the outputs; its limits are the meter's uncertainty."""
    import math

    from rulvek.composition import make_services
    from rulvek.core.records.actor import Actor
    from rulvek.core.records.instruments import InstrumentEntry, InstrumentRole
    from rulvek.store.engine import Database

    settings = with_records(data)
    entry = InstrumentEntry(
        InstrumentRole.OUTPUT,
        name,
        percent_of_reading=found.u_percent,
        calibrated_on=found.on,
        certificate=f"beside {found.meter}, {found.at_hz:g} Hz",
    )
    services = make_services(Database(settings.database), settings.captures, math.inf, inbox="sound")
    try:
        services.database.refuse_other_version()
        services.gear.enter(entry, Actor(by))
    finally:
        services.close()
    typer.echo(f"{name} is on the gear register.", err=True)
